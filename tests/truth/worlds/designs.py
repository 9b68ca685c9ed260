"""Differences in many designs: from one run of each to squares, grids and ladders, with drift, blocks, gaps and steps.

A place is met by each antenna in its own way, in each block anew; every run is off by a draw of its own; the session drifts
along a curve; levels are read in whole decibels. None of it is known to the finding.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from tallmast.findings.field.finding import FieldFinding
from tallmast.findings.field.model.contrasts import Contrast
from tallmast.findings.figure import Figure
from tallmast.notebook.records import Piece

from ...findings.build import Book
from ..tally import Answer, quantity
from .field import Ground

PLACES = 8


class Session:
    """A day: places with shadows, antennas that meet each in their own way, a drift along the order."""

    def __init__(
        self, rng: np.random.Generator, places: int = PLACES, drift_db: float = 0.5, own_db: float = 1.5
    ) -> None:
        self.rng, self.drift_db, self.own_db = rng, rng.normal(0, drift_db), own_db
        self.ground, self.distance = Ground(rng), np.geomspace(200, 1800, places)
        self.run_db = rng.uniform(0.4, 1.2)
        self.gains = {letter: float(rng.uniform(2, 8)) for letter in "ABC"}
        self._shadow: dict[str, np.ndarray] = {}
        self._own: dict[tuple[str, str], np.ndarray] = {}
        self.book = Book()
        self.book.home()
        self.antennas = {letter: self.book.antenna(letter) for letter in self.gains}
        self.places = [self.book.place(f"p{i}", float(d)) for i, d in enumerate(self.distance)]

    def _drawn(self, kept: dict[Any, np.ndarray], key: Any, sd: float) -> np.ndarray:
        return kept.setdefault(key, self.rng.normal(0, sd, len(self.distance)))

    def run(
        self,
        number: int,
        of: int,
        antenna: str,
        added_db: float = 0.0,
        seen: float = 1.0,
        threshold: float = -300.0,
        **more: Any,
    ) -> None:
        """One run of `of`; `added_db`: what its other factors add to the level; `seen`: share of the places it came to;
        below `threshold` it was not heard."""
        block = f"{more.get('mode', '')}{more.get('day', '')}"
        shadow = self._drawn(self._shadow, block, 3.0)
        own = self._drawn(self._own, (antenna, block), self.own_db)
        along = (number - 1) / max(of - 1, 1)
        level = 10.0 + self.gains[antenna] - self.ground.loss(self.distance) + shadow + own + added_db
        level = level + self.drift_db * np.sqrt(along) + self.rng.normal(0, self.run_db)
        level = level + self.rng.normal(0, 1.0, len(level))
        run = self.book.run(self.antennas[antenna], number, **more)
        for place, value in zip(self.places, level, strict=True):
            if self.rng.random() < seen:
                heard = bool(value > threshold)
                self.book.reading(run, place.id, heard=heard, level_dbm=float(round(value)) if heard else None)

    def field(self) -> FieldFinding:
        return self.book.climb(self.antennas["A"]).field

    def difference(self, a: str = "A", b: str = "B") -> Answer:
        return self.field().difference(a.lower(), b.lower()), self.gains[a] - self.gains[b]

    def told(self, factor: str, to: str, since: str) -> Contrast | None:
        """Alone, not with something that changed with it."""
        wanted = {(factor, to, since), (factor, since, to)}
        there = (c for c in self.field().contrasts if (c.change.factor, c.change.to, c.change.since) in wanted)
        return next((c for c in there if len(c.changes) == 1), None)


def _by_order(rng: np.random.Generator, order: str, **world: Any) -> list[Answer]:
    session = Session(rng, **world)
    for number, letter in enumerate(order, 1):
        session.run(number, len(order), letter)
    return [session.difference()]


@quantity("field", "difference, one run of each", high=0.97, why="the spread of repeats is assumed, and is often less")
def one_of_each(rng) -> list[Answer]:
    return _by_order(rng, "AB")


@quantity("field", "difference, A A B B while the session drifts", high=0.96, why="few runs tell their spread badly")
def never_swapped(rng) -> list[Answer]:
    return _by_order(rng, "AABB")


@quantity("field", "difference, A B A B while the session drifts", high=0.96, why="few runs tell their spread badly")
def alternated(rng) -> list[Answer]:
    return _by_order(rng, "ABAB")


@quantity("field", "difference, A B B A, drift of 2 dB", high=0.96, why="few runs tell their spread badly")
def drifting(rng) -> list[Answer]:
    return _by_order(rng, "ABBA", drift_db=2.0)


@quantity("field", "difference, three antennas, A B C C B A", high=0.95, why="few runs tell their spread badly")
def three(rng) -> list[Answer]:
    return _by_order(rng, "ABCCBA")


@quantity("field", "difference at three places only", high=0.97, why="three places and four runs: both told badly")
def few_places(rng) -> list[Answer]:
    return _by_order(rng, "ABBA", places=3)


@quantity("field", "difference, a Latin square of antennas, days and orders", high=0.95, why="few runs tell it badly")
def latin(rng) -> list[Answer]:
    session = Session(rng, own_db=1.0)
    days: Sequence[tuple[str, str]] = (("Friday", "ABC"), ("Saturday", "BCA"), ("Sunday", "CAB"))
    runs = [(day, letter) for day, order in days for letter in order]
    for number, (day, letter) in enumerate(runs, 1):
        session.run(number, len(runs), letter, day=day)
    return [session.difference()]


def _grid(rng: np.random.Generator) -> tuple[Session, float]:
    session, gain_db = Session(rng), float(rng.uniform(0, 4))
    runs = [("A", 3.0), ("B", 3.0), ("B", 6.0), ("A", 6.0), ("A", 6.0), ("B", 6.0), ("B", 3.0), ("A", 3.0)]
    for number, (letter, height) in enumerate(runs, 1):
        session.run(number, len(runs), letter, gain_db if height == 6.0 else 0.0, height_m=height)
    return session, gain_db


@quantity("field", "difference, antennas × heights", high=0.95, why="heights do the same at every place here")
def by_height(rng) -> list[Answer]:
    return [_grid(rng)[0].difference()]


@quantity(
    "field",
    "what a height does, antennas × heights",
    low=0.86,
    why="four degrees of freedom, and a drift now and then taken for told",
)
def height(rng) -> list[Answer]:
    session, gain_db = _grid(rng)
    told = session.told("height", "6 m", "3 m")
    return [(told.figure if told else None, gain_db)]


@quantity("field", "difference, antennas × powers", high=0.96, why="few runs tell their spread badly")
def by_power(rng) -> list[Answer]:
    session = Session(rng)
    step = -10.0 + rng.normal(0, 0.3)
    runs = [("A", 0.01), ("B", 0.01), ("B", 0.001), ("A", 0.001)]
    for number, (letter, power) in enumerate(runs, 1):
        session.run(number, len(runs), letter, step if power == 0.001 else 0.0, power_w=power)
    return [session.difference()]


@quantity("field", "each step of a ladder", high=0.99, why="no step was repeated: the spread is assumed")
def ladder(rng) -> list[Answer]:
    session, up, front = Session(rng), float(rng.uniform(0, 4)), float(rng.uniform(-3, 3))
    session.run(1, 4, "A", 0.0, height_m=3.0, battery="above")
    session.run(2, 4, "B", 0.0, height_m=3.0, battery="above")
    session.run(3, 4, "B", up, height_m=6.0, battery="above")
    session.run(4, 4, "B", up + front, height_m=6.0, battery="below")
    told = [session.told("height", "6 m", "3 m"), session.told("battery", "below", "above")]
    return [session.difference(), *((c.figure if c else None, true) for c, true in zip(told, (up, front), strict=True))]


@quantity("field", "difference in two modes, pooled", high=0.95, why="few runs tell their spread badly")
def two_modes(rng) -> list[Answer]:
    session = Session(rng)
    runs = [("A", "voice"), ("B", "voice"), ("B", "data"), ("A", "data"), ("A", "voice"), ("B", "voice")]
    for number, (letter, mode) in enumerate(runs, 1):
        session.run(number, len(runs), letter, -6.0 if mode == "data" else 0.0, mode=mode)
    return [session.difference()]


@quantity("field", "difference, a third of the places missed")
def gaps(rng) -> list[Answer]:
    session = Session(rng, places=12)
    for number, letter in enumerate("ABBAAB", 1):
        session.run(number, 6, letter, seen=0.7)
    return [session.difference()]


@quantity("field", "difference, the weaker one lost at the far places", high=0.97, why="few places are left to both")
def censored(rng) -> list[Answer]:
    session = Session(rng)
    session.gains["B"] = session.gains["A"] - rng.uniform(2, 6)
    # Lost from about the sixth place of eight on, for the weaker of the two.
    edge = 10.0 + session.gains["B"] - float(session.ground.loss(session.distance)[5])
    for number, letter in enumerate("ABBAAB", 1):
        session.run(number, 6, letter, threshold=edge)
    return [session.difference()]


@quantity("field", "difference, a pad forgotten once", high=1.0, why="named, never corrected: the spread has it")
def forgotten(rng) -> list[Answer]:
    session = Session(rng)
    wrong = int(rng.integers(1, 7))
    for number, letter in enumerate("ABBAAB", 1):
        session.run(number, 6, letter, 10.0 if number == wrong else 0.0, pad_db=10.0)
    return [session.difference()]


@quantity(
    "field", "the pad that was forgotten is the one named", low=0.85, high=1.0, why="a share of runs rightly named"
)
def named(rng) -> list[Answer]:
    """Held where the run is among those named; where none is named it can't be told."""
    session = Session(rng)
    session.book.add(Piece(name="pad", type="pad", loss_db=10.0))
    wrong = int(rng.integers(1, 7))
    for number, letter in enumerate("ABBAAB", 1):
        session.run(number, 6, letter, 10.0 if number == wrong else 0.0, pad_db=10.0)
    judged = session.book.climb().field.judged
    assert judged is not None
    named = {judged.day.model.runs[one.mistake.run].number for one in judged.suspected}
    told = wrong if wrong in named else min(named, default=0)
    return [(Figure("run", float(told), 0.1, "") if named else None, float(wrong))]
