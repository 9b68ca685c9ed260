"""Recordings: a link's bit rate while somebody walks. It fades with a likeness in time that nobody knows, breaks off now and then,
and every run is off by a draw of its own; the walks take the corners at other speeds."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from tallmast.notebook.records import Mark, RecordedColumn, Recording

from ...findings.build import Book, told
from ..tally import Answer, quantity

CORNERS = ("door", "iron", "palms", "back", "far")
LIMIT = 10.0


class Walks:
    """Two antennas walked round: what each gets in each stretch, in Mbit/s, before it fades."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.rng = rng
        self.base = rng.uniform(12, 20, len(CORNERS))
        self.ahead = rng.uniform(1, 5)
        self.own = rng.normal(0, 1.2, (2, len(CORNERS)))
        self.breaks = {"A": float(rng.uniform(0.5, 2.0)), "B": float(rng.uniform(3.0, 6.0))}
        """Dropouts a minute."""
        self.off = 0.7
        """Standard deviation of what a run is off by, all along."""
        self.memory = float(rng.uniform(0.3, 0.9))

    def mean(self, antenna: str, stretch: int) -> float:
        k = "AB".index(antenna)
        return float(self.base[stretch] + (self.ahead if antenna == "A" else 0.0) + self.own[k, stretch])

    def walk(self, antenna: str, seconds: float = 20.0) -> tuple[np.ndarray, np.ndarray, list[Mark]]:
        rng, off = self.rng, self.rng.normal(0, self.off)
        edges = np.concatenate([[0.0], np.cumsum(rng.normal(seconds, 2.0, len(CORNERS)))])
        time = np.arange(0.0, edges[-1], 0.5)
        at = np.clip(np.searchsorted(edges, time, side="right") - 1, 0, len(CORNERS) - 1)
        fading = np.zeros(len(time))
        for i in range(1, len(time)):
            fading[i] = self.memory * fading[i - 1] + rng.normal(0, 1.5 * np.sqrt(1 - self.memory**2))
        value = np.array([self.mean(antenna, int(k)) for k in at]) + off + fading
        for _ in range(rng.poisson(self.breaks[antenna] * edges[-1] / 60.0)):
            begins = rng.uniform(0, edges[-1])
            value[(time >= begins) & (time < begins + 1.0)] = 0.0
        return time, value, [Mark(at_s=float(e), name=n) for e, n in zip(edges, CORNERS, strict=False)]

    def book(self, order: str) -> Book:
        book = Book()
        antennas = {k: book.antenna(k) for k in "AB"}
        for number, letter in enumerate(order, 1):
            run = book.run(antennas[letter], number, manner="loop")
            time, value, marks = self.walk(letter)
            book.series[f"t{number}"] = {"time_s": time, "first": value}
            columns = [RecordedColumn(key="first", name="rate", read_on="bit rate")]
            book.add(Recording(run_id=run.id, series_id=f"t{number}", columns=columns, usable=LIMIT, marks=marks))
        return book


def _asked(rng, scale: str, true: float, walks: Walks) -> list[Answer]:
    field = walks.book("ABBA").climb().field
    pairs = told([c for c in (*field.contrasts, *field.dying) if c.scale == scale], field.names)
    if ("A", "B") in pairs:
        return [(pairs["A", "B"].size, true)]
    turned = pairs.get(("B", "A"))
    return [(turned.size if turned else None, -true)]


@quantity(
    "field", "bit rate of two recordings, by stretches", high=0.98, why="five stretches and four runs: few of both"
)
def rate(rng) -> list[Answer]:
    walks = Walks(rng)
    stretches = range(len(CORNERS))
    # What a dropout takes off the mean is each antenna's own.
    lost = {k: 1.0 - walks.breaks[k] / 60.0 for k in "AB"}
    means = {k: float(np.mean([walks.mean(k, s) for s in stretches])) * lost[k] for k in "AB"}
    return _asked(rng, "bit rate", means["A"] - means["B"], walks)


def _often(rng, walks: Walks, of: Callable[[np.ndarray, np.ndarray], float]) -> dict[str, float]:
    """What many more walks of the same two come to."""
    many = Walks.__new__(Walks)
    many.__dict__ = {**walks.__dict__, "rng": np.random.default_rng(int(rng.integers(2**32)))}
    return {k: float(np.mean([of(*many.walk(k)[:2]) for _ in range(12)])) for k in "AB"}


@quantity("field", "dropouts a minute of two recordings", high=0.98, why="counted, so that few have a lumpy scatter")
def dropouts(rng) -> list[Answer]:
    walks = Walks(rng)

    def a_minute(time: np.ndarray, value: np.ndarray) -> float:
        return 60.0 * np.count_nonzero(np.diff(np.concatenate([[0], value < LIMIT])) == 1) / time[-1]

    true = _often(rng, walks, a_minute)
    return _asked(rng, "dropouts", true["B"] - true["A"], walks)


@quantity("field", "share usable of two recordings", high=0.98, why="shares near all are bounded, and scatter lopsided")
def share(rng) -> list[Answer]:
    walks = Walks(rng)
    true = _often(rng, walks, lambda time, value: 100.0 * float(np.mean(value >= LIMIT)))
    return _asked(rng, "usable", true["A"] - true["B"], walks)


@quantity(
    "field",
    "bit rate of two recordings, runs far off",
    low=0.85,
    high=0.97,
    why="two runs of each tell their spread badly",
)
def rate_off(rng) -> list[Answer]:
    walks = Walks(rng)
    walks.off = 2.0
    walks.breaks = {"A": 0.0, "B": 0.0}
    means = {k: float(np.mean([walks.mean(k, s) for s in range(len(CORNERS))])) for k in "AB"}
    return _asked(rng, "bit rate", means["A"] - means["B"], walks)
