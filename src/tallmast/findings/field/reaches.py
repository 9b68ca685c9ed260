"""How far each antenna was heard, and how many times as far as another."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from itertools import permutations

from tallmast.physics import reach
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..figure import Figure, Working
from .finding import Reach
from .samples import Tried

Ratios = dict[tuple[Tried, Tried], Figure]
EXPONENTS = ((2.0, "in free space"), (4.0, "near the ground"))
TRIES = 2
"""Approaches of each before one is called farther without saying that more are needed."""


def _failed(one: Reach) -> reach.Failed:
    lost_m = None if one.lost_m is None else max(one.lost_m, one.furthest.value)
    return reach.Failed(one.furthest.value, lost_m)


def _main(reaches: Sequence[Reach]) -> list[Reach]:
    """Those of the manner (on foot, by boat) that most runs were made in: others went over other ground."""
    there = [one for one in reaches if one.furthest.value > 0]
    commonest = Counter(one.row.run.manner for one in there if one.row.compared).most_common(1)
    return [one for one in there if commonest and one.row.run.manner == commonest[0][0]]


def ratios_of(reaches: Sequence[Reach], tried: dict[str, Tried], names: dict[Tried, str]) -> Ratios:
    """(A, B) → how many times as far A was heard, the farther one first; `tried` by run id. None where none was lost."""
    runs: dict[Tried, list[reach.Failed]] = {}
    for one in _main(reaches):
        if one.row.compared:
            runs.setdefault(tried[one.row.run.id], []).append(_failed(one))
    out: Ratios = {}
    for (a, of_a), (b, of_b) in permutations(runs.items(), 2):
        found = reach.ratio(of_a, of_b)
        # A bound from the nearer side tells nothing: the other may have gone on as far.
        if found is not None and found.log10 >= 0 and found.bound != "at most" and (b, a) not in out:
            out[a, b] = _figure(found, (names[a], names[b]), (of_a, of_b))
    return out


def changes_of(reaches: Sequence[Reach], tried: dict[str, Tried]) -> list[tuple[Reach, Figure]]:
    """Runs that changed one thing but the antenna (went behind a barn, took less power): how many times as far each was
    heard as the same antenna without that change."""
    mine, out = _main(reaches), []
    for one in mine:
        if one.row.verdict != "one thing" or one.row.compared:
            continue
        same = [_failed(r) for r in mine if r.row.compared and tried[r.row.run.id] == tried[one.row.run.id]]
        found = reach.ratio([_failed(one)], same)
        if found is not None:
            what = one.row.factors[one.row.changed[0]] or f"without {one.row.changed[0]}"
            out.append((one, _figure(found, (what, one.row.antenna), ([_failed(one)], same))))
    return out


def _figure(found: reach.Ratio, names: tuple[str, str], runs: tuple[list[reach.Failed], list[reach.Failed]]) -> Figure:
    half = coverage_factor(found.degrees) * found.u
    edges = (found.log10 - half, found.log10 + half)
    worth = show.join([f"{_worth(edges, n, found.bound)} {words} (n = {n:g})" for n, words in EXPONENTS])
    lines = [f"{name}: " + ", ".join(_run_words(run) for run in mine) for name, mine in zip(names, runs, strict=True)]
    return Figure(
        f"{names[0]} against {names[1]}, how far",
        10**found.log10,
        10**found.log10 * math.log(10) * found.u,
        "times as far",
        Working(
            (
                *lines,
                "ratio of the middles between last good and first lost",
                f"log₁₀ = {found.log10:.2f}, u = {found.u:.2f}",
            ),
            (("where a run fails scatters, log₁₀ d", f"{found.u:.2f}"),),
            "log of the distance at which it failed; Student’s t, its scatter from repeats and a guess of 3.5 dB at n = 3.5",
            f"It stands for {worth}. More approaches with each make it narrower.",
        ),
        found.degrees,
        low=10 ** edges[0],
        high=10 ** edges[1],
        bound="at least" if found.bound == "at least" else "at most" if found.bound else "",
        digits=1,
    )


def _worth(edges: tuple[float, float], n: float, bound: str) -> str:
    low, high = (show.fixed(reach.decibels(edge, n), 1) for edge in edges)
    if bound:
        return f"at least {low} dB" if bound == "at least" else f"at most {high} dB"
    return f"{low} to {high} dB"


def _run_words(run: reach.Failed) -> str:
    if run.lost_m is None:
        return f"good to {show.distance(run.good_m)}, not lost"
    return f"good to {show.distance(run.good_m)}, lost by {show.distance(run.lost_m)}"


def ratio_words(figure: Figure, names: tuple[str, str], tries: int) -> str:
    """The sentence of a ratio; `tries`: approaches of the one that made fewer."""
    low, high = figure.interval
    more = "" if tries >= TRIES else "; a second approach with each would show how far repeats differ"
    if figure.bound:
        told = f"at least {show.fixed(low, 1)} times as far"
    else:
        told = f"{show.fixed(figure.value, 1)} ({show.fixed(low, 1)} to {show.fixed(high, 1)}) times as far"
    if low <= 1.0:
        return f"How far they were heard does not tell {names[0]} from {names[1]}: {names[0]} was heard {told}{more}."
    return f"{show.upper_first(names[0])} was heard {told} as {names[1]}{more}."


def spoken_of(ratios: Ratios) -> tuple[Tried, Tried] | None:
    """The pair to speak of: the one that nothing was heard farther than, against the best of the others."""
    beaten = {b for _, b in ratios}
    firsts = [pair for pair in ratios if pair[0] not in beaten] or list(ratios)
    return min(firsts, key=lambda pair: ratios[pair].value, default=None)
