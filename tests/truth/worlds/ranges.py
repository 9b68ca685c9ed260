"""A range over grass: a ground ray, mismatch of unknown phase, antennas aimed by eye, a source that drifts, a meter that is not quite
straight, a reference that is not quite what its sheet says, and a tape that is a little off."""

from __future__ import annotations

import numpy as np

from tallmast.notebook.records import RangeGain, ReadingsInTurn
from tallmast.physics.propagation import free_space_loss_db

from ...findings.build import Book
from ..tally import Answer, quantity

HZ = 869e6
WAVE = 0.345


class Yard:
    def __init__(self, rng, ground: tuple[float, float] = (0.15, 0.45)) -> None:
        self.rng = rng
        self.distance = rng.uniform(8, 30)
        self.height = rng.uniform(1.5, 3.0)
        self.ground = rng.uniform(*ground)
        self.drift = rng.normal(0, 0.2)  # dB over the session
        self.linear = rng.normal(0, 0.015)  # dB a dB
        self.source = rng.uniform(0.0, 0.12)  # |Γ| of source and meter
        self.sent = 10.0

    def ray(self, one: float, other: float, raised: float = 0.0) -> float:
        """Level change by the ground ray for antennas of these gains: the more gain, the less of the ground they see."""
        down = np.degrees(np.arctan2(2 * self.height + raised, self.distance))
        seen = sum(12 * (down / np.sqrt(32400 / 10 ** (max(g, 0.1) / 10))) ** 2 / 2 for g in (one, other))
        share = self.ground * 10 ** (-min(seen, 30) / 20)
        longer = 2 * self.height * (self.height + raised) / self.distance
        return 20 * np.log10(abs(1 - share * np.exp(-2j * np.pi * longer / WAVE)))

    def mismatch(self, gamma: complex) -> float:
        phase = np.exp(2j * np.pi * self.rng.random())
        return 10 * np.log10(1 - abs(gamma) ** 2) - 20 * np.log10(abs(1 - self.source * phase * gamma))

    def aim(self, gain: float) -> float:
        return -12 * (self.rng.normal(0, 3.5) / np.sqrt(32400 / 10 ** (max(gain, 0.1) / 10))) ** 2

    def read(self, one: float, other: float, at: float, more: float, n: int = 3, raised: float = 0.0) -> list[float]:
        """Levels of two that look at each other, at a moment 0 … 1 of the session."""
        level = self.sent + one + other - float(free_space_loss_db(self.distance, HZ)) + self.ray(one, other, raised)
        level += self.drift * at + more
        level += self.linear * (level + 40)
        return [round(level + self.rng.normal(0, 0.15), 1) for _ in range(n)]


def _gamma(rng) -> complex:
    return rng.uniform(0, 0.2) * np.exp(2j * np.pi * rng.random())


def _moved(yard: Yard, one: float, other: float, more: float) -> list[float]:
    return [yard.read(one, other, 0.5, more, 1, raised)[0] for raised in np.linspace(0, 0.8, 12)]


@quantity("pattern", "on a range: gain against a reference in turn")
def substitution(rng) -> list[Answer]:
    return _substitution(Yard(rng), rng, True)


@quantity("pattern", "on a range: gain against a reference, ground not moved over")
def substitution_unmoved(rng) -> list[Answer]:
    return _substitution(Yard(rng, GROUND), rng, False)


@quantity("pattern", "on a range: gain against a reference, bright ground moved over")
def substitution_bright(rng) -> list[Answer]:
    return _substitution(Yard(rng, GROUND), rng, True)


GROUND = (0.2, 0.7)
"""What a ground sends back of a ray that grazes it: long grass to wet clay and a car park."""


def _substitution(yard: Yard, rng, move: bool) -> list[Answer]:
    """On the same post, but no two antennas have their middle at the same height."""
    book = Book()
    other_height = rng.normal(0, 0.05)
    gain, known = rng.uniform(4, 12), 2.15
    true_reference = known + rng.normal(0, 0.3)
    a, r = book.antenna("A"), book.antenna("R", known_gain_dbi=known, known_gain_u_db=0.3)
    probe = rng.uniform(5, 9)
    of = {"A": (gain, yard.mismatch(_gamma(rng)) + yard.aim(gain)), "R": (true_reference, yard.mismatch(_gamma(rng)))}
    spells = []
    for k, label in enumerate("ARARA"):
        g, more = of[label]
        more += rng.normal(0, 0.1)
        raised = other_height if label == "A" else 0.0
        spells.append(ReadingsInTurn(label=label, values=yard.read(g, probe, k / 4, more, raised=raised)))
    moved = _moved(yard, gain, probe, of["A"][1]) if move else []
    book.add(
        RangeGain(
            antenna_id="a",
            second_id="r",
            state_id=a.state.id,
            readings=spells,
            moved=moved,
            distance_m=yard.distance,
            range_swr=1.15,
            frequency_hz=HZ,
        )
    )
    assert r.known_gain_dbi
    return [(book.climb(a).pattern.of("a").ranges[0].gain, gain)]


@quantity("pattern", "on a range: gain of three without a reference")
def three(rng) -> list[Answer]:
    return _three(Yard(rng), rng, True)


@quantity("pattern", "on a range: gain of three, ground not moved over")
def three_unmoved(rng) -> list[Answer]:
    return _three(Yard(rng, GROUND), rng, False)


@quantity("pattern", "on a range: gain of three, bright ground moved over")
def three_bright(rng) -> list[Answer]:
    return _three(Yard(rng, GROUND), rng, True)


def _three(yard: Yard, rng, move: bool) -> list[Answer]:
    book = Book()
    gains = {letter: rng.uniform(2, 11) for letter in "ABC"}
    for letter in "ABC":
        book.antenna(letter)
    own = {letter: yard.mismatch(_gamma(rng)) for letter in "ABC"}
    spells = []
    for k, (one, other) in enumerate((("A", "B"), ("A", "C"), ("B", "C"), ("A", "B"))):
        more = own[one] + own[other] + yard.aim(gains[one]) + yard.aim(gains[other]) + rng.normal(0, 0.14)
        spells.append(ReadingsInTurn(label=one + other, values=yard.read(gains[one], gains[other], k / 3, more)))
    record = RangeGain(
        way="three antennas",
        antenna_id="a",
        second_id="b",
        third_id="c",
        state_id=book.records["a"].state.id,
        readings=spells,
        sent_dbm=yard.sent + rng.normal(0, 0.3),
        distance_m=yard.distance + rng.normal(0, 0.05),
        moved=_moved(yard, gains["A"], gains["B"], 0.0) if move else [],
        range_swr=1.15,
        frequency_hz=HZ,
    )
    book.add(record)
    letter = "ABC"[int(rng.integers(3))]
    return [(book.climb().pattern.of(letter.lower()).ranges[0].gain, gains[letter])]


@quantity("pattern", "on a range: gain of two that are alike")
def two(rng) -> list[Answer]:
    """Two off the same bench are not quite alike: what is asked is the mean of both."""
    yard, book = Yard(rng), Book()
    gain = rng.uniform(2, 11)
    pair = gain + rng.normal(0, 0.15, 2)
    a = book.antenna("A")
    own = [yard.mismatch(_gamma(rng)) for _ in pair]
    spells = []
    for k in range(3):
        more = sum(own) + sum(yard.aim(g) for g in pair) + rng.normal(0, 0.14)
        spells.append(ReadingsInTurn(label="AA", values=yard.read(*pair, k / 2, more)))
    record = RangeGain(
        way="two antennas",
        antenna_id="a",
        state_id=a.state.id,
        readings=spells,
        sent_dbm=yard.sent + rng.normal(0, 0.3),
        distance_m=yard.distance + rng.normal(0, 0.05),
        moved=_moved(yard, *pair, 0.0),
        range_swr=1.15,
        frequency_hz=HZ,
    )
    book.add(record)
    return [(book.climb().pattern.of("a").ranges[0].gain, gain)]
