"""Heard or not, and how well: walks away until it is lost, and calls from spots. Levels fall over two rays with shadowing
alike in space, which neither finding knows."""

from __future__ import annotations

import numpy as np

from tallmast.notebook.records import Claim

from ...findings.build import Book, told
from ..tally import Answer, quantity
from .field import Ground, alike

STEP = 1.15
CUTS = np.array([-112.0, -108.0, -104.0, -100.0, -96.0])
"""Levels, dBm, from which on a voice is graded 1, 2, 3, 4, 5."""


def lost_at(ground: Ground, gain_db: float, ripple: np.ndarray, distance: np.ndarray) -> float:
    """Where the level falls below what is usable for good within the next tenth of the way."""
    level = 10.0 + gain_db - ground.loss(distance) + ripple
    weak = np.convolve((level < -100.0).astype(float), np.ones(9) / 9, mode="same") > 0.5
    return float(distance[int(np.argmax(weak))]) if weak.any() else float(distance[-1])


def medians(ground: Ground, gain_db: float, distance: np.ndarray) -> float:
    """The same without any shadow."""
    return lost_at(ground, gain_db, np.zeros(len(distance)), distance)


@quantity(
    "field",
    "ratio of two reaches, two walks each",
    low=0.86,
    high=0.97,
    why="few walks lean on a guess of their scatter",
)
def two_walks(rng) -> list[Answer]:
    ground, gains = Ground(rng), {"A": rng.uniform(4, 8), "B": rng.uniform(-2, 2)}
    distance = np.geomspace(150.0, 20_000.0, 900)
    book = Book()
    book.home()
    antennas = {k: book.antenna(k) for k in gains}
    true = {k: medians(ground, gains[k], distance) for k in gains}
    places: dict[int, str] = {}
    for number, letter in enumerate("ABBA", 1):
        run = book.run(antennas[letter], number, manner="walk")
        fails = lost_at(ground, gains[letter], alike(rng, distance, 4.0, 120.0), distance)
        at = int(np.floor(np.log(fails) / np.log(STEP)))
        for k, heard in ((at, True), (at + 1, False)):
            if k not in places:
                places[k] = book.place(f"p{k}", STEP**k).id
            book.reading(run, places[k], heard=heard)
    field = book.climb().field
    pairs = {both: c.farther for both, c in told(field.contrasts, field.names).items()}
    if ("A", "B") in pairs:
        return [(pairs["A", "B"], true["A"] / true["B"])]
    return [(pairs.get(("B", "A")), true["B"] / true["A"])]


@quantity(
    "verdict",
    "range at 14 dB more than it was heard with, two walks",
    low=0.87,
    high=0.96,
    why="n is taken to be anything from 2 to 4",
)
def claimed_range(rng) -> list[Answer]:
    """Walked away at 1 mW until it was lost; the claim is of 25 mW over the same ground, without any shadow."""
    ground, gain = Ground(rng), float(rng.uniform(-4.0, 4.0))
    distance = np.geomspace(100.0, 40_000.0, 1200)
    book = Book()
    book.home()
    antenna = book.antenna("A")
    more_db = 10.0 * np.log10(25.0)
    book.add(Claim(antenna_id=antenna.id, quantity="range", value=1000.0, at_power_w=0.025))
    places: dict[int, str] = {}
    for number in (1, 2):
        run = book.run(antenna, number, manner="walk", power_w=0.001)
        fails = lost_at(ground, gain - 4.0, alike(rng, distance, 4.0, 120.0), distance)
        at = int(np.floor(np.log(fails) / np.log(STEP)))
        for k, heard in ((at, True), (at + 1, False)):
            if k not in places:
                places[k] = book.place(f"p{k}", STEP**k).id
            book.reading(run, places[k], heard=heard)
    (fate,) = book.climb().verdict.claims
    return [(fate.figure, medians(ground, gain - 4.0 + more_db, distance) / 1e3)]


@quantity(
    "field",
    "better heard by grades, eight spots",
    low=0.86,
    high=0.98,
    why="a share of eight has few values, and no run is off here",
)
def calls(rng) -> list[Answer]:
    ground, ahead = Ground(rng), rng.uniform(1, 6)

    def graded(levels: np.ndarray) -> np.ndarray:
        return np.searchsorted(CUTS, levels)

    def levels_at(distance: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        shared = 8.0 - ground.loss(distance) + rng.normal(0, 5.0, len(distance))
        own = rng.normal(0, 2.0, (2, len(distance)))
        return shared + ahead + own[0], shared + own[1]

    spots = np.exp(rng.uniform(np.log(800), np.log(5000), 8))
    book = Book()
    book.home()
    antennas = [book.antenna(k) for k in "AB"]
    for i, metres in enumerate(spots):
        book.place(f"s{i}", float(metres))
    for number, (antenna, level) in enumerate(zip(antennas, levels_at(spots), strict=True), 1):
        run = book.run(antenna, number)
        for i, grade in enumerate(graded(level)):
            book.reading(run, f"s{i}", heard=bool(grade), readability=int(grade) or None)
    return [(book.climb().field.difference("a", "b"), ahead)]


def _off_runs(rng, order: str, spots: int) -> tuple[Book, float]:
    """Calls in which every run is off by a draw of its own (hands, battery, who listens), which is the same at all its spots.
    Returns the book and what A has over B."""
    ground, ahead, off_db = Ground(rng), rng.uniform(0, 6), rng.uniform(0.5, 1.5)

    def graded(distance: np.ndarray, shared: np.ndarray, own: np.ndarray, gain: float, off: np.ndarray) -> np.ndarray:
        level = 8.0 + gain - ground.loss(distance) + shared + own + off + rng.normal(0, 1.0, len(distance))
        return np.searchsorted(CUTS, level)

    gains = {"A": ahead, "B": 0.0}
    distance = np.exp(rng.uniform(np.log(800), np.log(5000), spots))
    shared, own = rng.normal(0, 5.0, spots), {k: rng.normal(0, 2.0, spots) for k in "AB"}
    book = Book()
    book.home()
    antennas = {k: book.antenna(k) for k in "AB"}
    for i, metres in enumerate(distance):
        book.place(f"s{i}", float(metres))
    for number, letter in enumerate(order, 1):
        run = book.run(antennas[letter], number)
        for i, grade in enumerate(
            graded(distance, shared, own[letter], gains[letter], np.full(spots, rng.normal(0, off_db)))
        ):
            book.reading(run, f"s{i}", heard=bool(grade), readability=int(grade) or None)
    return book, ahead


def _ahead(book: Book, ahead: float) -> list[Answer]:
    return [(book.climb().field.difference("a", "b"), ahead)]


@quantity(
    "field", "better heard by grades, runs off, one of each", low=0.86, high=0.96, why="a share of eight has few values"
)
def off_one(rng) -> list[Answer]:
    return _ahead(*_off_runs(rng, "AB", 8))


@quantity(
    "field", "better heard by grades, runs off, A B B A", low=0.86, high=0.98, why="a share of eight has few values"
)
def off_two(rng) -> list[Answer]:
    return _ahead(*_off_runs(rng, "ABBA", 8))


@quantity(
    "field",
    "better heard by grades, runs off, 20 spots",
    low=0.86,
    high=0.96,
    why="two runs of each tell badly how far a run is off",
)
def off_many(rng) -> list[Answer]:
    return _ahead(*_off_runs(rng, "ABBA", 20))
