"""How far each antenna was heard, and how many times as far as another."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal

from tallmast.notebook.evidence import Evidence
from tallmast.physics import reach
from tallmast.physics.design import Change
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..figure import Figure, Working
from .contrasts import REACH, Contrast
from .finding import Reach
from .fixes import PlaceFix
from .matching import Set, changes_of, matched
from .runs import RunRow, Tried
from .samples import RunSamples
from .settings import setting_of, sides

EXPONENTS = ((2.0, "in free space"), (4.0, "near the ground"))


def lost_words(heard_m: float, lost_m: float | None) -> str:
    """`lost by 4 km`, or that it was lost where it was heard last."""
    if lost_m is None or show.distance(lost_m) == show.distance(heard_m):
        return "lost there"
    return f"lost by {show.distance(lost_m)}"


def failed_of(one: Reach) -> reach.Failed:
    lost_m = None if one.lost_m is None else max(one.lost_m, one.furthest.value)
    return reach.Failed(one.furthest.value, lost_m)


def _noted(
    row: RunRow, evidence: Evidence, fixes: Mapping[str, PlaceFix]
) -> tuple[list[float], list[float], list[float]]:
    """Distances of places where most attempts were heard, where most were not, and where they were heard once in a while. Of
    the far end; of home, where that alone noted anything."""
    known = {
        place_id: readings
        for place_id, readings in evidence.readings_by_place(row.run.id).items()
        if place_id in fixes and not fixes[place_id].by_sky
    }
    end = "away" if any(r.end == "away" for readings in known.values() for r in readings) else "home"
    heard: list[float] = []
    missed: list[float] = []
    luck: list[float] = []
    for place_id, readings in known.items():
        here = [r.heard for r in readings if r.end == end]
        if not here:
            continue
        distance = fixes[place_id].distance.value
        (heard if 2 * sum(here) >= len(here) else missed).append(distance)
        if 0 < 2 * sum(here) < len(here):
            luck.append(distance)
    return heard, missed, luck


def reach_of(
    row: RunRow, evidence: Evidence, samples: RunSamples | None, fixes: Mapping[str, PlaceFix]
) -> Reach | None:
    """How far a run was heard; None where it was heard nowhere of known distance. A gap with recovery is no end."""
    far, missed, luck = _noted(row, evidence, fixes)
    silent = tuple(sorted(missed))
    samples = samples.at_distance if samples is not None and evidence.logs(row.run.id) else None
    if samples is not None and samples.heard.any():
        far.append(float(samples.distance_m[samples.heard].max()))
        missed += list(samples.distance_m[~samples.heard])
    if not far:
        return None
    furthest = max(far)
    lost = min((d for d in missed if d > furthest), default=None)
    if lost is None and row.run.ended == "the signal was lost":
        lost = furthest
    bound: Literal["", "at least"] = "" if lost is not None else "at least"
    meaning = (
        f"{show.upper_first(lost_words(furthest, lost))}."
        if lost is not None
        else f"{show.upper_first(row.run.ended)}: where it would have failed is not known. It is no range."
    )
    lines = [f"furthest place heard {show.distance(furthest)}"]
    gaps = tuple(d for d in silent if d < furthest)
    lines += [f"not heard at {show.distance(d)}, and again beyond: a gap" for d in gaps]
    lines += [f"heard once in a while at {show.distance(d)}: not counted" for d in luck]
    working = Working(tuple(lines), (), "fixes of the run", meaning)
    figure = Figure(f"run {row.run.number} heard to", furthest, 0.0, "m", working, bound=bound, digits=0)
    return Reach(row, figure, lost, gaps, tuple(luck))


class _Run(Set):
    failed: reach.Failed


def reach_contrasts(
    reaches: Sequence[Reach], rows: Sequence[RunRow], tried: Mapping[str, Tried], names: Mapping[Tried, str]
) -> list[Contrast]:
    """Of every factor that changed between runs: how many times as far it was heard, the farther level first. None where
    nothing was lost."""
    base = {row.run.number: row for row in rows}
    runs = [
        _Run(r.row.run.number, setting_of(r.row, base[r.row.baseline], tried[r.row.run.id]), failed_of(r))
        for r in reaches
        if r.furthest.value > 0
    ]
    found = (_contrast(runs, change, names) for change in changes_of(runs))
    return [contrast for contrast in found if contrast is not None]


def _contrast(runs: Sequence[_Run], change: Change, names: Mapping[Tried, str]) -> Contrast | None:
    changes, blocks = matched(runs, change)
    if not blocks:
        return None
    there = [(reach.ratio(_of(b.to), _of(b.since)), b.to, b.since) for b in blocks]
    told = [(ratio, a, b) for ratio, a, b in there if ratio is not None]
    if not told:
        return None
    # Blocks in which only a bound is known say less than one that tells a value.
    told = [one for one in told if not one[0].bound] or told[:1]
    ratio = reach.pooled([ratio for ratio, _, _ in told])
    of_a, of_b = [run for _, a, _ in told for run in a], [run for _, _, b in told for run in b]
    if ratio.log10 < 0:
        ratio, of_a, of_b = ratio.turned(), of_b, of_a
        changes = tuple(Change(c.factor, c.since, c.to) for c in changes)
    if ratio.bound == "at most":
        return None  # a bound from the nearer side tells nothing: the other may have gone on as far
    figure = _figure(ratio, sides(changes, names), (_of(of_a), _of(of_b)))
    if figure.bound and figure.interval[0] <= 1.0:
        return None  # nor does one that leaves open which went farther
    return Contrast(
        changes, figure, len(of_a) + len(of_b), min(len(of_a), len(of_b)), parted=len(changes) > 1, scale=REACH
    )


def _of(runs: Sequence[_Run]) -> list[reach.Failed]:
    return [run.failed for run in runs]


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
    return f"good to {show.distance(run.good_m)}, {lost_words(run.good_m, run.lost_m)}"
