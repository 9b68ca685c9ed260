"""What a part of the notes says of a change alone: each kind of reading, each manner of runs."""

from __future__ import annotations

import math
from collections.abc import Callable, Container, Mapping, Sequence

from tallmast.physics.nested_laplace import Linear
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ...figure import Figure, Working
from .contrasts import Comparing, Contrast
from .kinds import STEPPED, Source
from .noted import HEARD
from .seen import LEVELS

Part = Callable[[Source], bool]
Parts = Sequence[tuple[tuple[str, Figure], ...]]


def by_kind(comparing: Comparing, contrasts: Sequence[Contrast]) -> Parts:
    """What each kind of notes says of each contrast alone; none where one kind says it all."""
    groups: dict[str, set[str]] = {}
    for note in comparing.day.model.said:
        name = "levels" if note.kind in LEVELS else "grades" if note.kind in STEPPED else note.kind
        groups.setdefault(name, set()).add(note.kind)
    if HEARD in groups and len(groups) > 1:
        heard = groups.pop(HEARD)
        groups["grades" if "grades" in groups else next(iter(groups))] |= heard
    model = comparing.day.model
    forms = [model.here(c.changes) if c.there else model.change(c.changes) for c in contrasts]
    parts = _by_parts(comparing, contrasts, {name: (_of_kinds(kinds), forms) for name, kinds in groups.items()})
    return [mine if len(mine) > 1 else () for mine in parts]


def _of_kinds(kinds: Container[str]) -> Part:
    return lambda source: source.kind in kinds


def by_manner(comparing: Comparing, contrasts: Sequence[Contrast]) -> Parts:
    """What each manner of runs says of each alone, one where the others have not both: by boat, in flight; none in a day of one manner."""
    runs = comparing.day.model.runs
    manners = dict.fromkeys(runs[note.run].manner for note in comparing.day.model.said)
    parts = {}
    for name in manners:
        mine = {i for i, run in enumerate(runs) if run.manner == name}
        parts[name] = _of_runs(mine), [comparing.day.model.change(c.changes, manner=name) for c in contrasts]
    return _by_parts(comparing, contrasts, parts)


def _of_runs(runs: Container[int]) -> Part:
    return lambda source: source.run in runs


def _by_parts(
    comparing: Comparing, contrasts: Sequence[Contrast], parts: Mapping[str, tuple[Part, Sequence[Linear]]]
) -> Parts:
    out: list[list[tuple[str, Figure]]] = [[] for _ in contrasts]
    if len(parts) < 2 or not contrasts:
        return [()] * len(contrasts)
    day, normal = comparing.day, coverage_factor(math.inf)
    for name, (part, forms) in parts.items():
        said = [note for note in day.model.said if part(Source(note.kind, note.run))]
        there = {note.run for note in said}
        told = [
            i
            for i, c in enumerate(contrasts)
            if {c.change.to, c.change.since} <= {day.model.runs[run].levels.get(c.change.factor, "") for run in there}
        ]
        if not told:
            continue
        for i, (mean, sd) in zip(told, day.of_part([forms[i] for i in told], part), strict=True):
            half = normal * sd
            working = Working(
                (f"{show.count(len(said), 'note')} of {name}", f"difference {show.decibel(mean)}"),
                (("these notes alone", show.decibel(sd, 2)),),
                "the day’s one model, as it knows its spreads by all notes",
            )
            out[i].append((name, Figure(name, mean, sd, "dB", working, low=mean - half, high=mean + half)))
    return [tuple(mine) for mine in out]
