"""Ground and sea: two rays with a rough surface, shadowing alike in space, antennas that meet each place in their own way.

Runs have offsets of their own, every sample fades, and weak ones are lost. None of it is a straight line in log distance.
"""

from __future__ import annotations

import numpy as np

from tallmast.notebook.records import DisplayRun, FarEnd
from tallmast.units.spoken import strength_db

from ...findings.build import HOME, Book
from ..tally import Answer, quantity

LAMBDA = 299_792_458.0 / 869e6


class Ground:
    """Loss against distance, dB, for isotropic antennas."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.h1, self.h2 = rng.uniform(4, 12), rng.uniform(1.5, 4)
        self.rough, self.excess = rng.uniform(0.3, 0.9), rng.uniform(0, 6)

    def loss(self, d: np.ndarray) -> np.ndarray:
        d = np.asarray(d, dtype=float)
        direct, bounced = np.hypot(d, self.h1 - self.h2), np.hypot(d, self.h1 + self.h2)
        k = 2 * np.pi / LAMBDA
        field = np.exp(-1j * k * direct) / direct - self.rough * np.exp(-1j * k * bounced) / bounced
        return -20 * np.log10(np.abs(field) * LAMBDA / (4 * np.pi)) + self.excess

    def median(self, d: float) -> float:
        """Over a tenth of the distance either way, as a place's median is meant."""
        return float(np.median(self.loss(np.linspace(0.9 * d, 1.1 * d, 200))))


def alike(rng, distance: np.ndarray, sd: float, length: float) -> np.ndarray:
    """A Gaussian process over the way (Gudmundson 1991)."""
    out = np.empty(len(distance))
    out[0] = rng.normal(0, sd)
    for i in range(1, len(distance)):
        rho = np.exp(-abs(distance[i] - distance[i - 1]) / length)
        out[i] = rho * out[i - 1] + rng.normal(0, sd * np.sqrt(1 - rho**2))
    return out


def campaign(rng, order: str, far_m: float = 2000.0, own_sd: float = 1.5, threshold: float = -118.0):
    """Runs of two antennas over one way. Returns the book, the ground, and gains by letter."""
    ground = Ground(rng)
    gains = {"A": rng.uniform(4, 10), "B": rng.uniform(2, 8)}
    distance = np.arange(150.0, far_m, 12.0)
    shadow = alike(rng, distance, 3.0, 40.0)
    own = {k: alike(rng, distance, own_sd, 30.0) for k in gains}
    book = Book()
    antennas = {k: book.antenna(k) for k in gains}
    for number, letter in enumerate(order, 1):
        run = book.run(antennas[letter], number, manner="walk", power_w=0.01)
        level = 10 + gains[letter] - ground.loss(distance) + shadow + own[letter] + rng.normal(0, 0.6)
        level = level + rng.normal(0, 2.0, len(distance))
        book.log(run, distance, np.where(level > threshold, level, np.nan))
    return book, ground, gains, antennas


def _difference(rng, order: str, own_sd: float = 1.5) -> list[Answer]:
    book, _, gains, antennas = campaign(rng, order, own_sd=own_sd)
    book.home()
    field = book.climb(antennas["A"]).field
    return [(field.difference("a", "b"), gains["A"] - gains["B"])]


@quantity("field", "difference of two antennas, A B B A")
def abba(rng) -> list[Answer]:
    return _difference(rng, "ABBA")


@quantity("field", "difference, A B A B A B")
def ababab(rng) -> list[Answer]:
    return _difference(rng, "ABABAB")


@quantity("field", "difference, places met alike by both")
def abba_alike(rng) -> list[Answer]:
    return _difference(rng, "ABBA", own_sd=0.3)


def typed_runs(rng, show=None, zero_u_db: float = 0.5, spoken=None, more_db: float = 0.0, s9_dbm: float | None = None):
    """Readings typed at eight places, A B B A: levels in whole decibels, reports as they are `spoken`, or what a display `show`s,
    stepped beforehand with a zero that is off by what is stated of it. A has `more_db` of gain; with `s9_dbm` reports
    are levels, as on bands that say what S9 is. Returns the book, the ground, and gains and antennas by letter."""
    ground = Ground(rng)
    gains = {"A": more_db + rng.uniform(4, 10), "B": rng.uniform(2, 8)}
    distance = np.geomspace(200, 1800, 8)
    book = Book()
    book.add(HOME)
    places = [book.place(f"p{i}", float(d)) for i, d in enumerate(distance)]
    if show is not None:
        off = rng.normal(0, zero_u_db)
        attenuation = np.repeat(np.arange(0.0, 90.0, 2.0), 3)
        book.series["steps"] = {
            "attenuation_db": attenuation,
            "shown": np.array([show(-40.0 + off - a) for a in attenuation]),
            "order": np.arange(len(attenuation), dtype=float),
        }
        book.add(DisplayRun(receiver="set", scale="bars", series_id="steps", zero_dbm=-40.0, zero_u_db=zero_u_db))
    shadow = rng.normal(0, 3, 8)
    own = {k: rng.normal(0, 1.5, 8) for k in gains}
    antennas = {k: book.antenna(k) for k in gains}
    for number, letter in enumerate("ABBA", 1):
        run = book.run(antennas[letter], number, power_w=0.01)
        level = (
            10
            + gains[letter]
            - ground.loss(distance)
            + shadow
            + own[letter]
            + rng.normal(0, 0.6)
            + rng.normal(0, 1.0, 8)
        )
        for place, value in zip(places, level, strict=True):
            if spoken is not None:
                told = spoken(float(value))
                over_s9 = strength_db(told) if s9_dbm is not None else None
                level_dbm = None if over_s9 is None or s9_dbm is None else s9_dbm + over_s9
                book.reading(run, place.id, as_typed=told, heard=told != "nothing", level_dbm=level_dbm)
            elif show is None:
                book.reading(run, place.id, level_dbm=round(float(value)))
            else:
                book.reading(run, place.id, receiver="set", shown=show(float(value)))
    book.home()
    return book, ground, gains, antennas


def _by_typed(rng, show=None, spoken=None, more_db: float = 0.0) -> list[Answer]:
    book, _, gains, antennas = typed_runs(rng, show, spoken=spoken, more_db=more_db)
    return [(book.climb(antennas["A"]).field.difference("a", "b"), gains["A"] - gains["B"])]


@quantity("field", "difference, readings typed at eight places")
def typed(rng) -> list[Answer]:
    return _by_typed(rng)


@quantity("field", "difference, read off a stepped display", high=0.96, why="few runs tell their spread badly")
def displayed(rng) -> list[Answer]:
    return _by_typed(rng, twenty_bars(rng))


@quantity("field", "difference, spoken in S units over an unknown S9")
def in_s_units(rng) -> list[Answer]:
    return _by_typed(rng, spoken=s_meter(rng))


@quantity("field", "a large difference, spoken in S units below S9")
def large_in_s_units(rng) -> list[Answer]:
    return _by_typed(rng, spoken=s_meter(rng, 30.0), more_db=15.0)


@quantity(
    "link",
    "margin at one place among them, spoken in S units",
    high=0.97,
    why="the weaker antenna’s levels, which are doubted more, stand for both",
)
def margin_in_s_units(rng) -> list[Answer]:
    """What a meter shows at S9 is off by 3 dB or so, and its units are what they are; the band says −93 dBm and 6 dB."""
    s9 = -93.0 + rng.normal(0.0, 3.0)
    made = typed_runs(rng, spoken=s_meter(rng, s9_dbm=s9), s9_dbm=-93.0)
    made[0].home()
    return asked(rng, *made, 900.0, very=True)


@quantity("field", "the far end over home, each by a meter of its own")
def two_meters(rng) -> list[Answer]:
    """Six places; what is over the powers is nothing, but each end reads S units on a meter that nobody stepped."""
    meters = [s_meter(rng, s9_dbm=-93.0 + rng.normal(0.0, 3.0)) for _ in range(2)]
    book, ground = Book(), Ground(rng)
    book.add(HOME)
    run = book.run(book.antenna("A"), 1, power_w=1.0)
    more = rng.uniform(-10.0, 10.0)
    for i, d in enumerate(np.geomspace(2000, 9000, 6)):
        place = book.place(f"p{i}", float(d))
        arrives = 10.0 + rng.uniform(0, 4) - float(ground.loss(np.array([d]))[0]) + rng.normal(0, 4)
        for end, meter, db in (("away", meters[0], more), ("home", meters[1], 0.0)):
            told = meter(arrives + db + rng.normal(0, 1.5))
            over = strength_db(told)
            book.reading(
                run,
                place.id,
                end=end,
                as_typed=told,
                heard=over is not None,
                level_dbm=None if over is None else over - 93.0,
            )
    book.home()
    ends = book.climb().field.ends
    return [(ends.difference if ends is not None else None, more)]


def s_meter(rng, deaf_db: float = 0.0, s9_dbm: float | None = None):
    """A set whose S9 nobody knows, nor how large its units are, read by eye in whole S units and, above S9, in tens of decibels."""
    unit_db = rng.uniform(3.5, 7.0)
    s9 = s9_dbm if s9_dbm is not None else deaf_db + rng.uniform(-93.0, -73.0)

    def spoken(level: float) -> str:
        above = level - s9 + rng.normal(0, 0.5)
        if above >= 5.0:
            return f"59+{10 * round(above / 10.0)}"
        strength = round(9.0 + above / unit_db)
        return f"5{min(strength, 9)}" if strength >= 1 else "nothing"

    return spoken


def twenty_bars(rng):
    """A display of twenty bars over 90 dB, bent and a little restless."""
    bend = rng.uniform(0.8, 1.2)

    def show(level: float) -> float:
        return float(np.round(20 * np.clip((level + 130) / 90, 0, 1) ** bend + rng.normal(0, 0.2)))

    return show


def asked(rng, book, ground, gains, antennas, wanted_m: float, very: bool = False) -> list[Answer]:
    """The margin of A at a place, against what arrives there as the median of its neighbourhood, or `very` there."""
    book.add(HOME.revised(height_m=ground.h1))
    stack = book.place("Stack", wanted_m, height_m=ground.h2)
    question = book.records["question"]
    book.add(question.revised(wanted_place_id=stack.id))
    book.levels(power_w=0.01, full_power_w=0.01)
    book.add(FarEnd(sensitivity_dbm=-110.0, sensitivity_u_db=1.0, gain_dbi=0.0))
    found = book.climb(antennas["A"]).link.margins[0]
    true = 10 + gains["A"] - ground.median(wanted_m) - (-110.0 + rng.normal(0, 1.0))
    if very:
        at_place = true - float(ground.loss(np.array([wanted_m]))[0]) + ground.median(wanted_m)
        return [(found.there, at_place + rng.normal(0, 3.0) + rng.normal(0, 1.5))]
    return [(found.figure, true)]


def margin(rng, wanted_m: float, very: bool = False) -> list[Answer]:
    made = campaign(rng, "ABBA")
    made[0].home()
    return asked(rng, *made, wanted_m, very)
