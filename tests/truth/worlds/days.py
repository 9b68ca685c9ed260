"""Days in the field whose worlds are not the model: fades of four shapes, antennas that meet places their own way, grades of uneven
width, curves of a display that are no logistic, ways with a ripple and shadows alike over their own length, runs that drift.

Each row asks the day's one posterior, through a notebook's records, for what a person asks.
"""

from __future__ import annotations

import numpy as np

from tallmast.findings.field.model.day import Day
from tallmast.findings.field.model.mistakes import Judged
from tallmast.findings.field.model.noted import Spot
from tallmast.findings.field.model.reached import farther, matched
from tallmast.findings.field.settings import level_of_tried
from tallmast.findings.figure import Figure
from tallmast.notebook.records import Antenna
from tallmast.physics.design import Change
from tallmast.physics.nested_laplace import Marginal

from ...findings.build import Book
from ..tally import Answer, quantity

ACROSS = 50.0
"""Degrees from place to place, so that places lie on no one way."""


def noise(rng: np.random.Generator, sd: float, size=None) -> np.ndarray:
    """Of one standard deviation and four shapes: with sharp peaks, even, with heavy tails, a Rician fade that is lopsided."""
    shape = rng.integers(4)
    if shape == 0:
        z = rng.laplace(0.0, np.sqrt(0.5), size)
    elif shape == 1:
        z = rng.uniform(-np.sqrt(3.0), np.sqrt(3.0), size)
    elif shape == 2:
        z = rng.standard_t(4, size) / np.sqrt(2.0)
    else:
        fade = 20.0 * np.log10(np.abs(1.0 + 0.35 * (rng.normal(size=size) + 1j * rng.normal(size=size))) + 0.02)
        z = (fade - 0.25) / 3.05
    return sd * z


def ahead(rng: np.random.Generator) -> float:
    """What A has over B: nearly alike in a quarter of the worlds."""
    return float(rng.uniform(-1.5, 1.5) if rng.random() < 0.25 else rng.uniform(-8.0, 8.0))


class Grid:
    """Two antennas over some places: levels before any display, and what is so. `drift_db`: from run to run."""

    def __init__(
        self, rng, places: int = 8, order: str = "ABBA", drift_db: float | None = None, spread: float = 9.0
    ) -> None:
        self.order = order
        self.delta = ahead(rng)
        meets = noise(rng, rng.uniform(2.0, 3.5), (2, places))
        runs = noise(rng, rng.uniform(0.3, 1.5), len(order))
        drift = (rng.uniform(-0.3, 0.3) if drift_db is None else drift_db) * (
            np.arange(len(order)) - (len(order) - 1) / 2
        )
        which = np.array(["AB".index(letter) for letter in order])
        at = -80.0 + noise(rng, spread, places)
        fade = noise(rng, rng.uniform(1.0, 3.0), (len(order), places))
        self.level = at + np.where(which == 0, self.delta, 0.0)[:, None] + meets[which] + (runs + drift)[:, None] + fade
        self.here = self.delta + float(meets[0].mean() - meets[1].mean())


def book_of(order: str, places: int, runs: list[dict] | None = None, names: str = "") -> tuple[Book, list, list[str]]:
    """A notebook with antennas by letter, a run for each of `order` and places that lie on no one way."""
    book = Book()
    book.home()
    antennas: dict[str, Antenna] = {letter: book.antenna(letter) for letter in dict.fromkeys(names or order)}
    spots = [book.place(f"s{k}", 900.0 + 160.0 * k, 20.0 + ACROSS * k).id for k in range(places)]
    made = [book.run(antennas[o], i + 1, **(runs[i] if runs else {})) for i, o in enumerate(order)]
    return book, made, spots


def weighed(book: Book) -> Day:
    return judged(book).day


def change(book: Book, to: str = "A", since: str = "B") -> list[Change]:
    by_name = {a.name: level_of_tried((a.id, a.state.id)) for a in book.evidence.antennas}
    return [Change("antenna", by_name[to], by_name[since])]


def stated(marginal: Marginal, share: float = 0.9) -> Figure:
    low, middle, high = marginal.quantile([0.5 - share / 2, 0.5, 0.5 + share / 2])
    return Figure("A over B", float(middle), float(marginal.sd), "dB", low=float(low), high=float(high))


def both(book: Book, grid: Grid) -> list[Answer]:
    day, asked = weighed(book), change(book)
    return [(stated(day.here(asked)), grid.here)]


def read_levels(grid: Grid) -> Book:
    book, runs, spots = book_of(grid.order, grid.level.shape[1])
    for i, run in enumerate(runs):
        for k, spot in enumerate(spots):
            book.reading(run, spot, level_dbm=float(round(grid.level[i, k])))
    return book


def grades(rng, level: np.ndarray, width: float, most: int = 5) -> np.ndarray:
    """By thresholds of uneven gaps about a width, by somebody who strays."""
    gaps = width * np.exp(rng.normal(0.0, 0.3, most - 1))
    at = np.concatenate([[0.0], np.cumsum(gaps)])
    at += np.median(level) - at.mean() + rng.normal(0.0, width / 2)
    return np.digitize(level + noise(rng, rng.uniform(0.5, 3.0), level.shape), at)


def rate_curve(rng, most: float):
    """A ramp, a capacity with a cap, or the steps of a table of modulations, over 13 to 45 dB."""
    full, shape, middle = (
        np.exp(rng.uniform(np.log(13.0), np.log(45.0))),
        rng.integers(3),
        -80.0 + rng.uniform(-3.0, 3.0),
    )
    table = np.array([0.01, 0.07, 0.13, 0.2, 0.27, 0.4, 0.53, 0.6, 0.67, 0.8, 0.9, 1.0])

    def rate(level: np.ndarray) -> np.ndarray:
        x = (level - middle) / full + 0.5
        if shape == 0:
            share = np.clip(x, 0.01, 1.0)
        elif shape == 1:
            share = np.clip(np.log2(1.0 + 10.0 ** ((x * 30.0 - 5.0) / 10.0)) / 8.3, 0.0, 1.0)
        else:
            share = table[np.clip((x * 12).astype(int), 0, 11)]
        return most * share

    return rate


def shown_rates(rng, level: np.ndarray, most: float = 50.0) -> np.ndarray:
    shown = rate_curve(rng, most)(level) * (1.0 + rng.normal(0.0, 0.04, level.shape))
    return np.round(shown, 1).clip(0.1, most)


@quantity("model", "A over B at the places visited, dBm, A B B A")
def levels(rng) -> list[Answer]:
    grid = Grid(rng)
    return both(read_levels(grid), grid)


@quantity("model", "the same by grades of 2 to 10 dB")
def by_grades(rng) -> list[Answer]:
    grid = Grid(rng)
    given = grades(rng, grid.level, float(np.exp(rng.uniform(np.log(2.0), np.log(10.0)))))
    book, runs, spots = book_of(grid.order, grid.level.shape[1])
    for i, run in enumerate(runs):
        for k, spot in enumerate(spots):
            grade = int(given[i, k])
            book.reading(run, spot, heard=grade > 0, readability=grade or None)
    return both(book, grid)


@quantity("model", "the same by bars of 3.5 to 7 dB")
def by_bars(rng) -> list[Answer]:
    grid = Grid(rng)
    given = grades(rng, grid.level, float(rng.uniform(3.5, 7.0)))
    book, runs, spots = book_of(grid.order, grid.level.shape[1])
    for i, run in enumerate(runs):
        for k, spot in enumerate(spots):
            book.reading(run, spot, shown=float(given[i, k]), scale="bars")
    return both(book, grid)


@quantity("model", "one spot by bit rate, three tries each")
def one_spot(rng) -> list[Answer]:
    delta, meets = ahead(rng) * 1.8, noise(rng, rng.uniform(2.0, 3.5), 2)
    which = np.array([0, 1, 1, 0, 0, 1])
    level = -80.0 + rng.normal(0.0, 4.0) + np.where(which == 0, delta + meets[0], meets[1])
    level = level + noise(rng, rng.uniform(0.3, 1.5), 6) + noise(rng, rng.uniform(0.5, 2.0), 6)
    book, runs, (spot,) = book_of("ABBAAB", 1)
    for run, rate in zip(runs, shown_rates(rng, level), strict=True):
        book.reading(run, spot, shown=float(rate), scale="bit rate")
    return [(stated(weighed(book).here(change(book))), delta + float(meets[0] - meets[1]))]


@quantity("model", "six spots by bit rate, half of them at the ceiling")
def at_the_ceiling(rng) -> list[Answer]:
    """What holds where it could be told: at the three spots below the ceiling."""
    grid = Grid(rng, places=6, spread=3.0)
    level = grid.level.copy()
    level[:, 3:] += 25.0
    shown = shown_rates(rng, level)
    book, runs, spots = book_of(grid.order, 6)
    for i, run in enumerate(runs):
        for k, spot in enumerate(spots):
            book.reading(run, spot, shown=float(shown[i, k]), scale="bit rate")
    return [(stated(weighed(book).change(change(book))), grid.delta)]


@quantity("model", "dropouts a minute, five stretches, A B B A")
def by_dropouts(rng) -> list[Answer]:
    grid = Grid(rng, places=5, spread=4.0)
    steep = float(np.exp(rng.uniform(np.log(0.12), np.log(0.33))))
    level = grid.level + noise(rng, 1.5, grid.level.shape)
    count = rng.poisson(np.exp(np.clip(1.5 - steep * (level + 80.0), -5.0, 5.0)))
    book, runs, spots = book_of(grid.order, 5)
    for i, run in enumerate(runs):
        for k, spot in enumerate(spots):
            book.reading(run, spot, shown=float(count[i, k]), scale="dropouts", as_typed=f"{count[i, k]} in 60 s")
    return both(book, grid)


@quantity("model", "A A B B that drifts by 0.8 dB a run")
def drifting(rng) -> list[Answer]:
    grid = Grid(rng, order="AABB", drift_db=0.8)
    return both(read_levels(grid), grid)


@quantity("model", "A B B A that drifts by 0.8 dB a run")
def drifting_swapped(rng) -> list[Answer]:
    grid = Grid(rng, drift_db=0.8)
    return both(read_levels(grid), grid)


@quantity("model", "both ends by grades, another power at either")
def both_ends(rng) -> list[Answer]:
    grid = Grid(rng, places=4, spread=1.0)
    far = np.array([5.0, 9.0, 14.0, 21.0])
    level = grid.level - 10.0 * rng.uniform(2.5, 4.0) * np.log10(far / 10.0)
    widths = np.exp(rng.uniform(np.log(2.0), np.log(10.0), 2))
    away = grades(rng, level + noise(rng, 1.5, level.shape), float(widths[0]))
    home = grades(rng, level + noise(rng, 1.5, level.shape) - 10.0, float(widths[1]))
    book = Book()
    book.home()
    antennas = {k: book.antenna(k) for k in "AB"}
    spots = [book.place(f"s{k}", 1e3 * d).id for k, d in enumerate(far)]
    for i, letter in enumerate(grid.order):
        run = book.run(antennas[letter], i + 1)
        for k, spot in enumerate(spots):
            for end, given in (("away", away), ("home", home)):
                grade = int(given[i, k])
                book.reading(run, spot, end=end, heard=grade > 0, readability=grade or None)
    return both(book, grid)


@quantity("model", "four kinds of reading at once, five places")
def four_kinds(rng) -> list[Answer]:
    grid = Grid(rng, places=5)
    level = grid.level
    given = grades(rng, level, float(np.exp(rng.uniform(np.log(2.0), np.log(10.0)))))
    shown = shown_rates(rng, level)
    count = rng.poisson(np.exp(np.clip(1.5 - 0.2 * (level + noise(rng, 1.5, level.shape) + 80.0), -5.0, 6.0)))
    read = np.round(level + noise(rng, 1.0, level.shape))
    book, runs, spots = book_of(grid.order, 5)
    for i, run in enumerate(runs):
        for k, spot in enumerate(spots):
            book.reading(run, spot, level_dbm=float(read[i, k]))
            grade = int(given[i, k])
            book.reading(run, spot, heard=grade > 0, readability=grade or None)
            book.reading(run, spot, shown=float(shown[i, k]), scale="bit rate")
            book.reading(run, spot, shown=float(count[i, k]), scale="dropouts", as_typed=f"{count[i, k]} in 60 s")
    return both(book, grid)


# --- ways and where things broke


class Way:
    """Mean level over transmitter's on a fine grid of distance: a slope, shadows alike over a length of their own, a ripple."""

    def __init__(self, rng) -> None:
        self.km = np.geomspace(0.2, 80.0, 1500)
        x = np.log(self.km)
        self.n, spread = rng.uniform(2.3, 4.0), rng.uniform(3.0, 8.0)
        alike = np.exp(-(x[1] - x[0]) / rng.uniform(0.08, 0.6))
        shadow = np.empty(len(x))
        shadow[0] = rng.normal()
        own = np.sqrt(1.0 - alike**2) * rng.normal(size=len(x))
        for i in range(1, len(x)):
            shadow[i] = alike * shadow[i - 1] + own[i]
        ripple = rng.uniform(0.0, 1.5) * np.sin(x * rng.uniform(5.0, 25.0))
        self.gain = -10.0 * self.n * np.log10(self.km) + spread * shadow + ripple

    def breaks(self, more_db: float) -> float:
        """km at which the level falls below nought for good: for the better part of the next sixth of the way."""
        bad = self.gain + more_db < 0.0
        wide = int(0.15 / np.log(self.km[1] / self.km[0]))
        after = np.convolve(bad, np.ones(wide), "full")[wide - 1 : wide - 1 + len(bad)]
        lost = np.flatnonzero(bad & (after >= 0.8 * wide))
        return float(self.km[lost[0]]) if len(lost) else float(self.km[-1])


def reaches(rng, least: bool) -> tuple[Book, dict[str, float], dict[str, float]] | None:
    """Four antennas, twice each, walked until each broke; what each has, and where it breaks with no luck, km. `least`: the field ends
    where half of them still worked."""
    way, gains = Way(rng), {k: ahead(rng) for k in "ABCD"}
    more = 10.0 * way.n * np.log10(rng.uniform(2.0, 6.0))
    scatter = 10.0 * way.n * np.log10(1.0 + np.exp(rng.uniform(np.log(0.01), np.log(0.1))))
    broke = [(a, way.breaks(more + gains[a] + noise(rng, scatter))) for a in "ABCDDCBA"]
    if not min(b for _, b in broke) > 0.3 or max(b for _, b in broke) > 40.0:
        return None
    end = sorted(b for _, b in broke)[4] if least else np.inf
    book = Book()
    book.home()
    antennas = {k: book.antenna(k) for k in "ABCD"}
    lost = dict.fromkeys("ABCD", 0)
    for i, (letter, at) in enumerate(broke):
        run = book.run(antennas[letter], i + 1, manner="walk")
        good, gone = min(at * 0.993, end), at * 1.007
        book.reading(run, book.place(f"g{i}", 1e3 * good).id)
        if gone < end:
            lost[letter] += 1
            book.reading(run, book.place(f"l{i}", 1e3 * gone).id, heard=False)
    if least and (lost["A"] == 2) == (lost["B"] == 2):
        return None
    return book, gains, {k: way.breaks(more + gain) for k, gain in gains.items()}


def _reached(rng, least: bool) -> list[Answer]:
    while (made := reaches(rng, least)) is None:
        pass
    book, gains, _ = made
    return [(stated(weighed(book).here(change(book))), gains["A"] - gains["B"])]


@quantity("model", "ln of how many times as far, two walks each")
def times_as_far(rng) -> list[Answer]:
    while (made := reaches(rng, least=False)) is None:
        pass
    book, _, breaks = made
    day = weighed(book)
    of = matched(day, change(book))
    told = farther(day, of) if of is not None else None
    return [(stated(told) if told is not None else None, float(np.log(breaks["A"] / breaks["B"])))]


@quantity("model", "A over B by four antennas' reaches, two walks each")
def by_reach(rng) -> list[Answer]:
    return _reached(rng, least=False)


@quantity("model", "the same where one of them was never lost")
def at_least(rng) -> list[Answer]:
    return _reached(rng, least=True)


def _end_of(rng, powers_dbm: list[float], wanted_dbm: float) -> tuple[list[float], float]:
    """Where it broke with each of two powers, and where it breaks with the one wanted, km."""
    while True:
        way = Way(rng)
        more = 10.0 * way.n * np.log10(rng.uniform(1.0, 5.0))
        broke = [way.breaks(more + p - 13.0 + noise(rng, 1.0)) for p in powers_dbm]
        true = way.breaks(more + wanted_dbm - 13.0)
        if min(broke) > 0.3 and true < 70.0:
            return broke, true


@quantity("model", "ln of the reach at 400 mW, by where 20 and 100 mW broke")
def at_more_power(rng) -> list[Answer]:
    powers = [13.0, 20.0] if rng.random() < 0.5 else [10.0, 20.0]
    broke, true = _end_of(rng, powers, 26.0)
    book = Book()
    book.home()
    antenna = book.antenna("A")
    for i, (power, at) in enumerate(zip(powers, broke, strict=True)):
        run = book.run(antenna, i + 1, manner="walk", power_w=10.0 ** (power / 10.0) / 1e3)
        book.reading(run, book.place(f"g{i}", 980.0 * at).id)
        book.reading(run, book.place(f"l{i}", 1020.0 * at).id, heard=False)
    told = weighed(book).reach(0, "away", 26.0 - powers[0])
    return [(stated(told) if told is not None else None, np.log(1e3 * true))]


@quantity("model", "margin at twice the farthest place, the far ones lost at the floor")
def beyond_the_floor(rng) -> list[Answer]:
    """Fifteen places on one way; a fourth of them is below what the receiver hears."""
    way, count = Way(rng), 15
    far = np.sort(np.exp(rng.uniform(np.log(0.5), np.log(8.0), count)))
    zero = rng.uniform(-75.0, -60.0)

    def level(km):
        return np.interp(km, way.km, way.gain) + zero

    read = np.round(level(far) + noise(rng, rng.uniform(1.0, 3.0), count))
    floor = np.sort(read)[count // 4] + 1.0
    book = Book()
    book.home()
    run = book.run(book.antenna("A"), 1, manner="walk")
    for k, km in enumerate(far):
        spot = book.place(f"s{k}", 1e3 * float(km)).id
        if read[k] < floor:
            book.reading(run, spot, heard=False)
        else:
            book.reading(run, spot, level_dbm=float(read[k]))
    told = weighed(book).margin(0, "away", Spot("there", 2e3 * float(far[-1])))
    return [(stated(told), float(level(2.0 * far[-1])) - floor)]


@quantity("model", "margin where it was lost, heard nearer")
def where_lost(rng) -> list[Answer]:
    """Without any budget: what was heard at 1 and 3 km and lost at 3.9 says of 3.9."""
    while True:
        way, more = Way(rng), rng.uniform(10.0, 45.0)
        at = [float(np.interp(km, way.km, way.gain)) + more for km in (1.0, 3.0, 3.9)]
        noted = [a + float(noise(rng, 1.5)) > 0.0 for a in at]
        if noted == [True, True, False]:
            break
    book = Book()
    book.home()
    run = book.run(book.antenna("A"), 1, manner="walk")
    for k, km in enumerate((1.0, 3.0, 3.9)):
        book.reading(run, book.place(f"s{k}", 1e3 * km).id, heard=noted[k])
    return [(stated(weighed(book).margin(0, "away", Spot("walk s2", 3900.0))), at[2])]


def _padded(rng, forgotten: bool) -> tuple[Grid, Book, int]:
    """A B B A through a pad of 10 dB, left out of one of the runs."""
    grid, bad = Grid(rng), int(rng.integers(4))
    book, runs, spots = book_of(grid.order, 8, [{"pad_db": 10.0}] * 4)
    for i, run in enumerate(runs):
        for k, spot in enumerate(spots):
            off = 0.0 if forgotten and i == bad else 10.0
            book.reading(run, spot, level_dbm=float(round(grid.level[i, k] - off)))
    return grid, book, bad


def judged(book: Book) -> Judged:
    found = book.climb().field.judged
    assert found is not None
    return found


@quantity("model", "A over B where a pad of 10 dB was left out of one run of A B B A")
def forgotten_pad(rng) -> list[Answer]:
    grid, book, _ = _padded(rng, True)
    return [(stated(judged(book).change(change(book), here=True)), grid.here)]
