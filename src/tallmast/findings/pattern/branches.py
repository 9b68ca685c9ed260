"""Both branches of a receiver as its own log has them: what each carries, and what the two are worth together."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import RecordedColumn, Recording, Run
from tallmast.physics import diversity
from tallmast.physics.decibels import Floats
from tallmast.units import show
from tallmast.units.shown import SCALES

from ..field.runs import branches_of
from ..figure import Figure, Working

BRANCHES = ("left", "right", "A", "B")
DBM = "level in dBm"
FEWEST = 40
"""Moments in which both were read."""
NOTHING_DB = 10.0
"""So far under the weakest that was read what was lost is taken to lie: it only has to be weaker."""


class BothBranches(Frozen):
    """Two branches over one recording, or several of the same set-up one after the other."""

    run: Run
    recordings: tuple[Recording, ...]
    names: tuple[str, str]
    unit: str
    worst_tenth: tuple[Figure, Figure]
    """Of each alone."""
    together: Figure
    """Of the better of both, at every moment."""
    share_of_first: float
    switches: int
    minutes: float

    @property
    def adds(self) -> float:
        return self.together.value - max(f.value for f in self.worst_tenth)

    @property
    def words(self) -> str:
        first, second = self.names
        share = show.percent(self.share_of_first)
        unit = f" {self.unit}"
        better, alone = max(zip(self.names, self.worst_tenth, strict=True), key=lambda pair: pair[1].value)
        return (
            f"{first} carries {share} of the time and {second} the rest; at the worst tenth both together have "
            f"{self.together.text}, {better} alone {alone.text}: {show.plus(max(self.adds, 0.0), 1)}{unit}"
        )


def _names(evidence: Evidence, run: Run, heard_at: tuple[str, str]) -> tuple[str, str]:
    """What is connected there, where that was noted; else the branch by its name."""
    connected = {b.port.lower(): evidence.title(b.antenna_id) for b in branches_of(evidence, run) if b.port}
    first, second = (
        connected.get(at.lower(), f"branch {at}" if len(at) == 1 else f"the {at} branch") for at in heard_at
    )
    return (first, second) if first != second else (f"{first} {heard_at[0]}", f"{second} {heard_at[1]}")


def _more_is_better(read_on: str) -> bool:
    return read_on == DBM or SCALES[read_on].more_is_better


def _pair(recording: Recording) -> tuple[RecordedColumn, RecordedColumn] | None:
    """The first two columns that were read on the same at two branches."""
    mine = [c for c in recording.columns if c.heard_at in BRANCHES]
    for i, one in enumerate(mine):
        for other in mine[i + 1 :]:
            if other.heard_at != one.heard_at and other.read_on == one.read_on and _more_is_better(one.read_on):
                return one, other
    return None


def _tenth(name: str, parts: Sequence[Floats], unit: str) -> Figure:
    values = np.concatenate(parts)
    at, low, high, effective = diversity.quantile_of_series(values)
    lines = (
        f"{show.count(len(values), 'moment')}, worth {effective:.0f} that say something of their own",
        "a tenth of them lies lower",
    )
    working = Working(
        lines, (), "order statistics; likeness in time: Geyer 1992", "Nine tenths of the time it has at least this."
    )
    return Figure(name, at, max(high - low, 1e-6) / 3.29, unit, working, low=low, high=high)


def both_branches(evidence: Evidence) -> tuple[BothBranches, ...]:
    """Of every run whose receiver logged two branches."""
    out = []
    for run in evidence.runs:
        mine = [(r, pair) for r in evidence.all(Recording) if r.run_id == run.id and (pair := _pair(r)) is not None]
        if not mine:
            continue
        kind = [(p[0].heard_at, p[1].heard_at, p[0].read_on) for _, p in mine]
        mine = [m for m, k in zip(mine, kind, strict=True) if k == kind[0]]
        found = _of(evidence, run, mine)
        if found is not None:
            out.append(found)
    return tuple(out)


def _of(
    evidence: Evidence, run: Run, mine: Sequence[tuple[Recording, tuple[RecordedColumn, RecordedColumn]]]
) -> BothBranches | None:
    ones, others, minutes = [], [], 0.0
    for recording, (one, other) in mine:
        series = evidence.series(recording.series_id)
        a, b = np.asarray(series[one.key], dtype=float), np.asarray(series[other.key], dtype=float)
        known = np.isfinite(a) | np.isfinite(b)
        a, b = a[known], b[known]
        if len(a) == 0 or not (np.isfinite(a).any() and np.isfinite(b).any()):
            continue
        # Lost at one branch: weaker there than whatever was read.
        under = min(float(np.nanmin(a)), float(np.nanmin(b))) - (NOTHING_DB if one.read_on == DBM else 0.0)
        ones.append(np.where(np.isfinite(a), a, under))
        others.append(np.where(np.isfinite(b), b, under))
        minutes += float(series["time_s"][-1] - series["time_s"][0]) / 60.0
    if sum(len(a) for a in ones) < FEWEST:
        return None
    columns = mine[0][1]
    unit = "dBm" if columns[0].read_on == DBM else SCALES[columns[0].read_on].unit
    names = _names(evidence, run, (columns[0].heard_at, columns[1].heard_at))
    better = [np.maximum(a, b) for a, b in zip(ones, others, strict=True)]
    first, second = np.concatenate(ones), np.concatenate(others)
    share = float(np.count_nonzero(first > second) + 0.5 * np.count_nonzero(first == second)) / len(first)
    return BothBranches(
        run,
        tuple(r for r, _ in mine),
        names,
        unit,
        (_tenth(f"worst tenth, {names[0]}", ones, unit), _tenth(f"worst tenth, {names[1]}", others, unit)),
        _tenth("worst tenth, the better of both", better, unit),
        share,
        sum(diversity.switches(a, b) for a, b in zip(ones, others, strict=True)),
        max(minutes, math.ulp(1.0)),
    )
