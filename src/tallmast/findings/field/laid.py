"""Recordings of one quantity laid over each other by their marks, or by their likeness: their difference along the way, how often each was
above a level."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor, median
from tallmast.physics.traces import durations, share_above, shift_by_likeness, warped
from tallmast.units.shown import SCALES

from .recorded import NOTHING_IS_ZERO, WHOLE
from .runs import Tried
from .trace import LEVEL, Trace, stretch_names

ALIKE, MOST_MOVED = 0.6, 0.25
"""The correlation from which on traces are moved by their likeness; and by which share of the longest at most."""
BINS = 160
"""Along the way, for the difference of two antennas."""


class Aligned(Frozen):
    """Traces of one quantity laid over each other by their marks: each stretch as long as it is in the middle of them."""

    read_on: str
    edges_s: tuple[float, ...]
    names: tuple[str, ...]
    traces: tuple[tuple[Trace, Floats], ...]
    """Each with its times as they are drawn."""
    limit: float | None
    moved_s: tuple[float, ...] = ()
    """By how much each was moved, where there are no marks: as somebody said, or by its likeness to the longest."""

    @property
    def less_is_better(self) -> bool:
        return self.read_on != LEVEL and not SCALES[self.read_on].more_is_better


def aligned(traces: Sequence[Trace]) -> Aligned | None:
    """The quantity, at the branch, that most was recorded of; None where nothing was."""
    if not traces:
        return None
    kinds = [t.heard for t in traces]
    heard = max(dict.fromkeys(kinds), key=kinds.count)
    mine = [t for t in traces if t.heard == heard]
    read_on = heard[0]
    names = stretch_names(mine)
    if names == [WHOLE]:
        return _by_likeness(mine, read_on)
    lengths = [median([s.to_s - s.from_s for t in mine for s in t.stretches if s.name == name]) for name in names]
    edges = np.concatenate([[0.0], np.cumsum(lengths)])
    out = []
    for trace in mine:
        there = [names.index(s.name) for s in trace.stretches]
        starts = np.array([s.from_s for s in trace.stretches] + [trace.stretches[-1].to_s]) if there else None
        if starts is None or any(b != a + 1 for a, b in itertools.pairwise(there)):
            continue  # its marks come in another order: it can't be laid over the others
        out.append((trace, warped(trace.time_s, starts, edges[[*there, there[-1] + 1]])))
    limit = next((t.limit for t in mine if t.limit is not None), None)
    return Aligned(read_on, tuple(float(e) for e in edges), tuple(names), tuple(out), limit) if out else None


def _by_likeness(traces: Sequence[Trace], read_on: str) -> Aligned:
    """Without marks: each moved as somebody said, else to where it is most like the longest, else from the same beginning."""
    longest = max(traces, key=lambda t: float(t.time_s[-1] - t.time_s[0]))
    moved = [_moved(trace, longest) for trace in traces]
    first = min(float(t.time_s[0]) + by for t, by in zip(traces, moved, strict=True))
    drawn = tuple((t, t.time_s + by - first) for t, by in zip(traces, moved, strict=True))
    end = max(float(time[-1]) for _, time in drawn)
    limit = next((t.limit for t in traces if t.limit is not None), None)
    return Aligned(read_on, (0.0, end), (WHOLE,), drawn, limit, tuple(moved))


def _moved(trace: Trace, longest: Trace) -> float:
    if trace.recording.moved_s is not None:
        return trace.recording.moved_s
    known, theirs = np.isfinite(trace.values), np.isfinite(longest.values)
    if trace is longest or min(known.sum(), theirs.sum()) < 8:
        return 0.0
    by, likeness = shift_by_likeness(
        longest.time_s[theirs],
        longest.values[theirs],
        trace.time_s[known],
        trace.values[known],
        MOST_MOVED * float(longest.time_s[-1] - longest.time_s[0]),
    )
    return by if likeness >= ALIKE else 0.0


class Along(Frozen):
    """One antenna less another along the way, in the mean of their runs, with a 90 % band where both were run again."""

    first: Tried
    second: Tried
    time_s: Floats
    difference: Floats
    """NaN where one of them read nothing. [n]"""
    half: Floats | None
    """Half-width of the band; None where repeats don't tell it. [n]"""


def difference_along(laid: Aligned, focus_id: str, hidden: Collection[str] = ()) -> Along | None:
    """Of two antennas, the one in focus less the other; None where there are not just two."""
    runs: dict[Tried, list[Floats]] = {}
    time = np.linspace(0.0, laid.edges_s[-1], BINS)
    for trace, at in laid.traces:
        if trace.run.antenna_id not in hidden:
            filled = _filled(trace.read_on, trace.values)
            runs.setdefault(trace.tried, []).append(_between(time, at, filled))
    if len(runs) != 2:
        return None
    first, second = sorted(runs, key=lambda one: one[0] != focus_id)
    each = [np.array(runs[one]) for one in (first, second)]
    difference = each[0].mean(axis=0) - each[1].mean(axis=0)
    half = None
    n, m = (len(one) for one in each)
    if min(n, m) > 1:
        # Student of two samples of the same spread, at each time by itself.
        spread = sum(one.var(axis=0) * len(one) for one in each) / (n + m - 2)
        half = coverage_factor(float(n + m - 2)) * np.sqrt(spread * (1.0 / n + 1.0 / m))
    return Along(first, second, time, difference, half)


def _filled(read_on: str, values: Floats) -> Floats:
    """With 0 for nothing received, on the scales on which that is so."""
    return np.nan_to_num(values, nan=0.0) if read_on in NOTHING_IS_ZERO else values


def _between(time: Floats, at: Floats, values: Floats) -> Floats:
    """The reading that stands at each time [n]: NaN stays what it is, and nothing is drawn across it."""
    stands = np.clip(np.searchsorted(at, time, side="right") - 1, 0, len(values) - 1)
    return np.asarray(values[stands])


class Often(Frozen):
    """Share of the time, %, that an antenna was at each of some levels or better."""

    tried: Tried
    levels: Floats
    share: Floats


def how_often(laid: Aligned, low: float, high: float, hidden: Collection[str] = ()) -> tuple[Often, ...]:
    """Of each antenna, all its runs together, from one level to another."""
    levels = np.linspace(low, high, 200)
    mine: dict[Tried, list[Trace]] = {}
    for trace, _ in laid.traces:
        if trace.run.antenna_id not in hidden:
            mine.setdefault(trace.tried, []).append(trace)
    out = []
    for tried, traces in mine.items():
        values = np.concatenate([_filled(t.read_on, t.values) for t in traces])
        stands = np.concatenate([durations(t.time_s) for t in traces])
        share = share_above(-values, stands, -levels) if laid.less_is_better else share_above(values, stands, levels)
        out.append(Often(tried, levels, 100.0 * share))
    return tuple(out)
