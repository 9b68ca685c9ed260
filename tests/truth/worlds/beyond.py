"""What rests on several runs at once: the exponent where far ends are lost, and the chance of being the best."""

from __future__ import annotations

import math

import numpy as np

from tallmast.findings.figure import Figure, Working
from tallmast.notebook.records import FarEnd

from ...findings.build import HOME, Book
from ..tally import Answer, quantity
from .field import Ground, alike


def _walks(rng, gains: dict[str, float], order: str, loss: np.ndarray, distance: np.ndarray, threshold: float) -> Book:
    """Runs over one way: shadows alike over 40 m, each antenna meeting the ground its own way, every run off by a draw."""
    book = Book()
    book.add(HOME)
    antennas = {k: book.antenna(k) for k in gains}
    shadow, own = alike(rng, distance, 3.0, 40.0), {k: alike(rng, distance, 1.5, 30.0) for k in gains}
    for number, letter in enumerate(order, 1):
        level = 10.0 + gains[letter] - loss + shadow + own[letter] + rng.normal(0, 0.6)
        level = level + rng.normal(0, 2.0, len(distance))
        run = book.run(antennas[letter], number, manner="walk", power_w=0.01)
        book.log(run, distance, np.where(level > threshold, level, np.nan))
    book.home()
    return book


@quantity("field", "exponent, the far ends lost")
def exponent(rng) -> list[Answer]:
    """A third of the way or more is below what the receiver takes: what got through there is the lucky part."""
    n, distance = rng.uniform(2.2, 4.0), np.geomspace(150.0, 3000.0, 260)
    loss = 40.0 + 10.0 * n * np.log10(distance / 10.0)
    threshold = 10.0 - float(np.interp(rng.uniform(900.0, 1800.0), distance, loss))
    book = _walks(rng, {"A": 2.0, "B": 0.0}, "ABBA", loss, distance, threshold)
    fit = book.climb().field.main.fit
    return [(fit.exponent if fit is not None else None, n)]


WORLDS = 10
"""A chance is right as often as it says over several worlds."""


@quantity("verdict", "chance of being the best of three", low=0.85, high=0.97, why="ten worlds make lumps")
def best_of_three(rng) -> list[Answer]:
    stated, came = [], 0
    for _ in range(WORLDS):
        ground, distance = Ground(rng), np.arange(150.0, 1500.0, 30.0)
        gains = {k: float(rng.uniform(2.0, 7.0)) for k in "ABC"}
        book = _walks(rng, gains, "ABCCBA", ground.loss(distance), distance, -125.0)
        stack = book.place("Stack", 1400.0)
        book.add(book.records["question"].revised(wanted_place_id=stack.id))
        book.levels(power_w=0.01, full_power_w=0.01)
        book.add(FarEnd(sensitivity_dbm=-110.0, sensitivity_u_db=1.0, gain_dbi=0.0))
        ranked = book.climb().verdict.ranked
        chances = {r.antenna.id: r.chance_of_best for r in ranked}
        first = max(chances, key=lambda one: chances[one])
        stated.append(chances[first])
        came += book.records[first].name == max(gains, key=lambda k: gains[k])
    u = math.sqrt(sum(p * (1.0 - p) for p in stated) + 0.05) / WORLDS
    return [(Figure("chance", sum(stated) / WORLDS, u, "", Working((), (), "", "")), came / WORLDS)]
