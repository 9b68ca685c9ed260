"""How far each antenna was heard."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from tallmast.notebook.evidence import Evidence
from tallmast.physics import reach
from tallmast.units import show

from ..figure import Figure, Working
from .finding import Reach
from .fixes import PlaceFix
from .runs import RunRow
from .samples import RunSamples


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
