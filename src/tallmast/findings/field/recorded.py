"""Recordings in time: stretches between marks, how much of each was usable, and what dropped out."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Recording, Run
from tallmast.physics.decibels import Floats
from tallmast.physics.traces import dying, usable
from tallmast.units.shown import SCALES

from ..figure import Check
from .runs import Tried
from .trace import LEVEL, Stretch, Trace, good

USABLE, DROPOUTS, WARNING, FADE = "usable", "dropouts", "warning", "fade depth"
HOW_IT_DIES = (USABLE, DROPOUTS, WARNING, FADE)
"""Scales that say how a link is lost, and not how good it is in the mean."""
BEFORE, WHOLE = "start", "all of it"
NOTHING_IS_ZERO = ("bit rate", "packet rate", "bars", "picture grade")
"""Scales on which nothing received is a reading of 0."""
STRETCH = "stretch "
"""Before the name of a stretch, where it stands among places."""


def traces_of(evidence: Evidence, tried: Mapping[str, Tried]) -> tuple[Trace, ...]:
    """Every quantity of every recording; the limit is that of the first quantity, wherever that was heard."""
    out = []
    for recording in evidence.all(Recording):
        run = evidence.get(Run, recording.run_id)
        if run is None:
            continue
        series = evidence.series(recording.series_id)
        for column in recording.columns:
            if column.key not in series:
                continue
            limit = recording.usable if column.read_on == recording.columns[0].read_on else None
            time, values = series["time_s"], series[column.key]
            stretches = tuple(_stretches(recording, column.read_on, time, values, limit))
            at = column.heard_at
            end, branch = (at, "") if at in ("home", "away") else (recording.end, at)
            out.append(
                Trace(recording, run, tried[run.id], column.read_on, end, branch, time, values, limit, stretches)
            )
    return tuple(out)


def _stretches(
    recording: Recording, read_on: str, time: Floats, values: Floats, limit: float | None
) -> Iterable[Stretch]:
    marks = [m for m in recording.marks if m.at_s < float(time[-1])]
    edges = [m.at_s for m in marks]
    names = [m.name for m in marks]
    if not edges or edges[0] > float(time[0]):
        edges, names = [float(time[0]), *edges], [BEFORE if marks else WHOLE, *names]
    for name, start, end in zip(names, edges, [*edges[1:], np.inf], strict=True):
        inside = (time >= start) & (time < end)
        if inside.sum() < 2:
            continue
        here = values[inside]
        told = how = None
        if limit is not None:
            fine = good(read_on, here, limit)
            more = here if read_on == LEVEL or SCALES[read_on].more_is_better else -here
            told, how = usable(time[inside], fine), dying(time[inside], more, fine)
        mean = _mean(read_on, here)
        yield Stretch(name, start, min(end, float(time[-1])), mean, told, how)


def _mean(read_on: str, values: Floats) -> float:
    """Of a stretch. Nothing received is a bit rate, a share of packets, bars, a picture of nothing: to leave it out would
    flatter whoever lost most. What it would have been in dBm, in ms or in counts is not known; where all was lost, NaN."""
    known = np.isfinite(values)
    if read_on in NOTHING_IS_ZERO:
        return float(np.where(known, values, 0.0).mean())
    return float(values[known].mean()) if known.any() else float("nan")


Noted = dict[str, dict[str, dict[tuple[str, str, float], list[float]]]]
"""scale → run → (stretch, end, how far from home it is, m, or NaN) → values, as they are shown."""


def noted_of(traces: Sequence[Trace]) -> Noted:
    """What recordings add to the scales of their own: the mean of each stretch, the share usable, the dropouts a minute."""
    out: Noted = {}

    def put(scale: str, trace: Trace, stretch: Stretch, value: float) -> None:
        # A delay of which nothing came back is the worst there is.
        if np.isnan(value) and scale == "delay":
            value = np.inf
        if not np.isnan(value):
            # Two branches at one stretch are one spot, as two ends of one place are.
            cell = (STRETCH + stretch.name, f"{trace.end} {trace.branch}".strip(), math.nan)
            out.setdefault(scale, {}).setdefault(trace.run.id, {}).setdefault(cell, []).append(value)

    for trace in traces:
        for stretch in trace.stretches:
            if trace.read_on != LEVEL:
                put(trace.read_on, trace, stretch, stretch.mean)
            if stretch.usable is not None:
                put(USABLE, trace, stretch, 100.0 * stretch.usable.share)
                put(DROPOUTS, trace, stretch, stretch.usable.a_minute)
            if stretch.dying is not None and stretch.dying.warning_s is not None:
                put(WARNING, trace, stretch, stretch.dying.warning_s)
            if stretch.dying is not None and trace.read_on == LEVEL:
                put(FADE, trace, stretch, stretch.dying.fade)
    return out


def merged(first: Noted, second: Noted) -> Noted:
    """Both together; a run has cells of its own in each."""
    scales = dict.fromkeys((*first, *second))
    runs = {scale: dict.fromkeys((*first.get(scale, {}), *second.get(scale, {}))) for scale in scales}
    return {
        scale: {run: first.get(scale, {}).get(run, {}) | second.get(scale, {}).get(run, {}) for run in runs[scale]}
        for scale in scales
    }


def recorded_checks(traces: Sequence[Trace]) -> list[Check]:
    """Recordings of which nobody said what is usable; marks that differ from run to run."""
    out = []
    silent = [t for t in traces if t.limit is None and t.recording.columns[0].read_on == t.read_on]
    if silent and all(t.limit is None for t in traces):
        why = "Open a recording and say from which reading on it is usable: shares and dropouts follow from that."
        out.append(Check("open", "what is usable is not said", None, why))
    orders = {tuple(s.name for s in t.stretches) for t in traces}
    if len(orders) > 1:
        told = "; ".join(", ".join(order) for order in sorted(orders))
        why = f"Stretches are compared by the name of the mark that begins them: {told}."
        out.append(Check("open", "recordings have different marks", None, why))
    return out
