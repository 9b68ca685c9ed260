"""What a part of the notes says of a change alone: each kind of reading, each manner of runs."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ...figure import Figure, Working
from .contrasts import Comparing, Contrast
from .kinds import STEPPED
from .noted import HEARD, Note
from .planner import at_once
from .seen import LEVELS

Parts = Sequence[tuple[tuple[str, Figure], ...]]


def by_kind(comparing: Comparing, contrasts: Sequence[Contrast]) -> Parts:
    """What each kind of notes says of each contrast alone; none where there is but one."""
    groups: dict[str, set[str]] = {}
    for note in comparing.day.model.said:
        name = "levels" if note.kind in LEVELS else "grades" if note.kind in STEPPED else note.kind
        groups.setdefault(name, set()).add(note.kind)
    if HEARD in groups and len(groups) > 1:
        heard = groups.pop(HEARD)
        groups["grades" if "grades" in groups else next(iter(groups))] |= heard
    parts = {name: [n for n in comparing.day.model.said if n.kind in kinds] for name, kinds in groups.items()}
    return _by_parts(comparing, contrasts, parts)


def by_manner(comparing: Comparing, contrasts: Sequence[Contrast]) -> Parts:
    """What each manner of runs says of each alone: by boat, in flight; none where there is but one."""
    runs = comparing.day.model.runs
    parts: dict[str, list[Note]] = {}
    for note in comparing.day.model.said:
        parts.setdefault(runs[note.run].manner, []).append(note)
    return _by_parts(comparing, contrasts, parts)


def _by_parts(comparing: Comparing, contrasts: Sequence[Contrast], parts: Mapping[str, Sequence[Note]]) -> Parts:
    out: list[list[tuple[str, Figure]]] = [[] for _ in contrasts]
    if len(parts) < 2:
        return [()] * len(contrasts)
    runs, normal = comparing.day.model.runs, coverage_factor(math.inf)
    whole = at_once(comparing.day, runs, comparing.day.model.said, [(c.changes, bool(c.alone)) for c in contrasts])
    for name, said in parts.items():
        there = {note.run for note in said}
        told = [
            i
            for i, c in enumerate(contrasts)
            if {c.change.to, c.change.since} <= {runs[run].levels.get(c.change.factor, "") for run in there}
        ]
        if not told:
            continue
        wanted = [(contrasts[i].changes, bool(contrasts[i].alone)) for i in told]
        for i, (mean, at) in zip(told, at_once(comparing.day, runs, said, wanted), strict=True):
            # What the hyperparameters leave open is open for a part as it is for all of it.
            sd = at * max(contrasts[i].figure.u / max(whole[i][1], 1e-9), 1.0)
            half = normal * sd
            working = Working(
                (f"{show.count(len(said), 'note')} of {name}", f"difference {show.decibel(mean)}"),
                (("these notes alone", show.decibel(sd, 2)),),
                "the day’s one model, at its likeliest spreads",
            )
            out[i].append((name, Figure(name, mean, sd, "dB", working, low=mean - half, high=mean + half)))
    return [tuple(mine) if len(mine) > 1 else () for mine in out]
