"""Turns on the spot and probes turned: a yard with a few reflectors, a body behind the antenna, a hand that aims roughly.

The level of a direction is the antenna's own plus what some reflectors send back through its pattern; whoever turns aims
some degrees off, and reads a display in steps. A probe turned before an antenna is read with noise over a floor.
"""

from __future__ import annotations

import numpy as np

from tallmast.notebook.records import Heard, RecordedColumn, Recording, Turn

from ...findings.build import Book
from ..tally import Answer, quantity
from .pattern import Array


def yard(rng, level, at: np.ndarray, aim: float) -> np.ndarray:
    """Levels read with the far end at angles `at` from the antenna's front."""
    aimed = at + rng.normal(0, aim, len(at))
    field = 10 ** (level(aimed) / 20)
    total = field.astype(complex)
    for _ in range(4):
        where, size, phase = rng.uniform(0, 360), 10 ** (-rng.uniform(14, 26) / 20), rng.uniform(0, 2 * np.pi)
        # Standing where it is, the reflector is seen from the turned antenna as far round as the far end is.
        total = total + size * 10 ** (level(aimed + where) / 20) * np.exp(1j * (phase + rng.normal(0, 0.8, len(at))))
    return np.round(20 * np.log10(np.abs(total)) + rng.normal(0, 0.5, len(at))) - 60.0


def turn_of(rng, n: int, by: str, aim: float):
    array = Array(rng, most=4)
    book = Book(sector_from_deg=-40, sector_to_deg=40)
    a = book.antenna("A")
    at = np.arange(n) * 360.0 / n
    levels = yard(rng, array, at, aim)
    heard = [Heard(at_deg=float(d), values=[float(v)]) for d, v in zip(at, levels, strict=True)]
    book.add(Turn(antenna_id=a.id, state_id=a.state.id, readings=heard, noted_as="far end", turned_by=by))
    return array, book.climb(a).pattern.of("a").cuts[0]


@quantity(
    "pattern",
    "turned by hand, four directions: front to back",
    high=1.0,
    why="mostly a bound: what is reflected fills the back and seldom empties it",
)
def four(rng) -> list[Answer]:
    array, cut = turn_of(rng, 4, "person", 6.0)
    true = float(array(np.array([cut.peak_deg]))[0] - array(np.array([cut.peak_deg + 180.0]))[0])
    return [(cut.front_to_back, true)]


@quantity("pattern", "turned by hand, 24 directions: beamwidth")
def many(rng) -> list[Answer]:
    array, cut = turn_of(rng, 24, "person", 3.0)
    return [(cut.beamwidth, array.width())]


def probe(rng, ratio_db: float, noise: float, floor_db: float, n: int, wobble_db: float = 0.0):
    tilt, minor = rng.uniform(0, 180), 10 ** (-ratio_db / 10)
    psi = np.arange(n) * 360.0 / n
    off = np.radians(psi + rng.normal(0, 2.0, n) - tilt)
    power = np.cos(off) ** 2 + minor * np.sin(off) ** 2 + 10 ** (floor_db / 10)
    level = 10 * np.log10(power) - 50.0 + rng.normal(0, noise, n)
    level += wobble_db * np.cos(np.radians(psi - rng.uniform(0, 360)))  # the probe turns beside its axis
    book = Book()
    a = book.antenna("A", polarization="right circular")
    heard = [Heard(at_deg=float(d), values=[float(v)]) for d, v in zip(psi, level, strict=True)]
    settings = {"plane": "polarization", "floor_dbm": -50.0 + floor_db}
    book.add(Turn(antenna_id=a.id, state_id=a.state.id, readings=heard, **settings))
    return book.climb(a).pattern.of("a").polarized, tilt


@quantity("pattern", "a probe turned: axial ratio of a round one")
def round_one(rng) -> list[Answer]:
    ratio = rng.uniform(0.5, 6.0)
    read, _ = probe(rng, ratio, 0.5, -25.0, 16)
    return [(read.axial_ratio, ratio)]


@quantity(
    "pattern",
    "a probe turned that wobbles: axial ratio",
    high=0.95,
    why="half a decibel is assumed of a reading outdoors",
)
def wobbling(rng) -> list[Answer]:
    ratio = rng.uniform(0.5, 6.0)
    read, _ = probe(rng, ratio, 0.3, -25.0, 16, wobble_db=rng.uniform(0.8, 1.5))
    return [(read.axial_ratio, ratio)]


@quantity(
    "pattern", "a probe at six angles 60° apart: axial ratio", high=0.95, why="six readings tell their scatter badly"
)
def six_angles(rng) -> list[Answer]:
    ratio = rng.uniform(0.5, 6.0)
    read, _ = probe(rng, ratio, 0.5, -25.0, 6)
    return [(read.axial_ratio if read is not None else None, ratio)]


@quantity("pattern", "a probe turned: axial ratio near the floor")
def near_floor(rng) -> list[Answer]:
    ratio = rng.uniform(8.0, 20.0)
    read, _ = probe(rng, ratio, 0.5, -20.0, 24)
    return [(read.axial_ratio, ratio)]


@quantity("pattern", "a probe turned: tilt of the ellipse")
def tilted(rng) -> list[Answer]:
    read, tilt = probe(rng, rng.uniform(3.0, 12.0), 0.5, -25.0, 16)
    if read.tilt is None:
        return [(None, 0.0)]
    return [(read.tilt, read.tilt.value + (tilt - read.tilt.value + 90.0) % 180.0 - 90.0)]


def round_wave(rng) -> tuple[complex, complex]:
    """(right, left) circular parts of a wave that turns one way mostly."""
    ratio = 10 ** (rng.uniform(0.5, 5.0) / 20)
    parts = (1.0, (ratio - 1) / (ratio + 1) * np.exp(2j * np.pi * rng.random()))
    return parts if rng.random() < 0.5 else parts[::-1]


@quantity("pattern", "two helices in turn: axial ratio")
def two_helices(rng) -> list[Answer]:
    """Each helix is itself no better than 0.5 … 2.5 dB, and is put up anew."""
    right, left = round_wave(rng)
    book = Book()
    a = book.antenna("A", polarization="right circular")
    heard = []
    for at, co, other in ((90.0, right, left), (270.0, left, right)):
        own = 10 ** (rng.uniform(0.5, 2.5) / 20)
        cross = (own - 1) / (own + 1) * np.exp(2j * np.pi * rng.random())
        level = 20 * np.log10(abs(co + cross * other)) - 50.0 + rng.normal(0, 0.5)
        heard.append(Heard(at_deg=at, values=[round(float(level), 1)]))
    book.add(Turn(antenna_id=a.id, state_id=a.state.id, readings=heard, plane="polarization", probe="circular"))
    read = book.climb(a).pattern.of("a").polarized
    strong, weak = sorted((abs(right), abs(left)), reverse=True)
    return [(read.axial_ratio if read is not None else None, float(20 * np.log10((strong + weak) / (strong - weak))))]


@quantity("pattern", "two levels and their phase: axial ratio")
def two_phases(rng) -> list[Answer]:
    right, left = round_wave(rng)
    upright, lying = (right + left) / np.sqrt(2), (right - left) / np.sqrt(2) * 1j
    phase = np.degrees(np.angle(lying / upright)) + rng.normal(0, 8.0)
    book = Book()
    a = book.antenna("A", polarization="right circular")
    heard = [
        Heard(at_deg=at, values=[round(float(20 * np.log10(abs(part)) - 50.0 + rng.normal(0, 0.4)), 1)])
        for at, part in ((0.0, upright), (90.0, lying))
    ]
    settings = {"plane": "polarization", "phase_deg": float((phase + 180) % 360 - 180)}
    book.add(Turn(antenna_id=a.id, state_id=a.state.id, readings=heard, **settings))
    strong, weak = sorted((abs(right), abs(left)), reverse=True)
    read = book.climb(a).pattern.of("a").polarized
    return [(read.axial_ratio if read is not None else None, float(20 * np.log10((strong + weak) / (strong - weak))))]


@quantity("pattern", "both branches logged: the worst tenth of the better")
def branches(rng) -> list[Answer]:
    """Rayleigh fading with a Gaussian spectrum on each branch, over a slow swing; the truth is the process's own tenth."""
    n, long = 1500, 200_000
    over = rng.uniform(3, 12)
    gap = rng.uniform(-3, 3)

    def fade(count):
        kernel = np.exp(-0.5 * (np.arange(-40, 41) / over) ** 2)
        kernel /= np.sqrt(np.sum(kernel**2))
        parts = [np.convolve(rng.normal(0, 1, count + 80), kernel, "valid") for _ in range(2)]
        return 10 * np.log10((parts[0] ** 2 + parts[1] ** 2) / 2)

    true = float(np.quantile(np.maximum(-70 + fade(long), -70 + gap + fade(long)), 0.1))
    left, right = -70 + fade(n), -70 + gap + fade(n)
    book = Book()
    a = book.antenna("A")
    run = book.run(a, 1)
    book.series["r"] = {"time_s": np.arange(n) / 10.0, "first": left, "second": right}
    columns = [
        RecordedColumn(key=k, name=at, read_on="level in dBm", heard_at=at)
        for k, at in (("first", "left"), ("second", "right"))
    ]
    book.add(Recording(run_id=run.id, series_id="r", columns=columns))
    (both,) = book.climb(a).pattern.branches
    return [(both.together, true)]
