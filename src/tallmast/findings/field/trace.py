"""One quantity of a recording in time, and its stretches from mark to mark."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.records import ListeningEnd, Recording, Run
from tallmast.physics.decibels import Floats
from tallmast.physics.traces import Dying, Usable, usable
from tallmast.units.shown import SCALES

LEVEL = "level in dBm"
"""Of a recording that is in dBm."""


class Stretch(Frozen):
    """From one mark to the next."""

    name: str
    from_s: float
    to_s: float
    mean: float
    """Of its first quantity, over what was read; NaN where nothing was."""
    usable: Usable | None
    """None where nobody said what is usable."""
    dying: Dying | None
    """How it is lost, by what is usable."""


class Trace(Frozen):
    """One quantity of a recording."""

    recording: Recording
    run: Run
    tried: tuple[str, str]
    """The antenna of its run in the state of that day."""
    read_on: str
    end: ListeningEnd
    branch: str
    """Of the receiver there; empty: as a whole."""
    time_s: Floats
    values: Floats
    limit: float | None
    stretches: tuple[Stretch, ...]

    @property
    def heard(self) -> tuple[str, ListeningEnd, str]:
        """What it can be held against: the same quantity at the same branch of the same end."""
        return self.read_on, self.end, self.branch

    @property
    def whole(self) -> Usable | None:
        if self.limit is None:
            return None
        return usable(self.time_s, good(self.read_on, self.values, self.limit))


def good(read_on: str, values: Floats, limit: float) -> NDArray[np.bool_]:
    """What is usable: at the limit or on its better side; what was not read is not. [n] of bool"""
    better = values >= limit if read_on == LEVEL or SCALES[read_on].more_is_better else values <= limit
    return np.asarray(np.isfinite(values) & better)


def stretch_names(traces: Sequence[Trace]) -> list[str]:
    """Names of stretches in the order of the first recording that has them."""
    return list(dict.fromkeys(s.name for trace in traces for s in trace.stretches))


def levels_of(traces: Sequence[Trace], run_id: str) -> list[tuple[Floats, int, bool]]:
    """(levels dBm, number of the stretch, whether home listened) of a run's recordings in dBm; a stretch at each branch of a
    receiver has a number of its own."""
    names = stretch_names([t for t in traces if t.read_on == LEVEL])
    branches = list(dict.fromkeys(t.branch for t in traces if t.read_on == LEVEL))
    out = []
    for trace in traces:
        if trace.run.id == run_id and trace.read_on == LEVEL:
            for stretch in trace.stretches:
                inside = (trace.time_s >= stretch.from_s) & (trace.time_s <= stretch.to_s)
                number = names.index(stretch.name) + len(names) * branches.index(trace.branch)
                out.append((trace.values[inside], number, trace.end == "home"))
    return out
