"""What was read of a change, as it was read: at how many spots the one was better, and by how much."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.design import Change
from tallmast.units import show
from tallmast.units.shown import SCALES

from .day import Day
from .kinds import STEPPED
from .noted import HEARD, Note

LEVELS = ("level", "cell", "S units")
"""Kinds of notes that are decibels."""
SCALE_OF = {"counts": "level"}
"""Kinds of notes whose scale has another name in `units.shown`."""


class Seen(Frozen):
    """What was read on one scale, where both were: at how many spots the one was better, the other, neither; the mean of their
    differences, where a difference means something."""

    scale: str
    better: int
    worse: int
    alike: int
    mean: float | None

    @property
    def spots(self) -> int:
        return self.better + self.worse + self.alike

    @property
    def at(self) -> str:
        """`at 6 of 6 spots`."""
        return f"at {self.better} of {self.spots} spot{'' if self.spots == 1 else 's'}"

    @property
    def words(self) -> str:
        """`better at 6 of 6 spots, by 10 Mbit/s in the mean`."""
        told = f"better {self.at}"
        if self.worse:
            told += f", worse at {self.worse}"
        if self.alike:
            told += f", alike at {self.alike}"
        if self.mean is None:
            return told
        return f"{told}, by {show.fixed(abs(self.mean), 1)} {SCALES[self.scale].unit} in the mean"


def notes_of(day: Day, change: Change) -> list[tuple[Note, bool]]:
    """The notes of either level, and whether of the first."""
    out = []
    for note in day.model.said:
        level = day.model.runs[note.run].levels.get(change.factor, "")
        if level in (change.to, change.since):
            out.append((note, level == change.to))
    return out


def seen_of(day: Day, changes: Sequence[Change]) -> list[Seen]:
    """On each scale, runs that are the same in all else, spot by spot; the scale with most spots first."""
    changed, model = {c.factor for c in changes}, day.model
    steps_of = {note.run: note.kind for note in model.said if note.kind in STEPPED}
    there: dict[str, dict[tuple[object, ...], tuple[list[float], list[float]]]] = {}
    heard: set[tuple[str, tuple[object, ...]]] = set()
    for note, to in notes_of(day, changes[0]):
        run = model.runs[note.run]
        # What was not heard is the lowest grade of a run that graded.
        kind = steps_of.get(note.run, HEARD) if note.kind == HEARD else note.kind
        scale = SCALE_OF.get(kind, kind)
        if scale not in SCALES or kind in LEVELS or (note.run, note.end) in model.broke:
            continue
        if any(run.levels.get(c.factor, "") not in (c.to, c.since) for c in changes):
            continue
        rest = tuple(sorted((f, level) for f, level in run.levels.items() if f not in changed))
        key = (rest, run.pad_db + run.power_db, note.spot.key, note.end)
        there.setdefault(scale, {}).setdefault(key, ([], []))[not to].append(note.value)
        if note.kind != HEARD or note.value > 0.0:
            heard.add((scale, key))
    out = []
    for scale, spots in there.items():
        sign = 1.0 if SCALES[scale].more_is_better else -1.0
        # Where neither was heard nothing is known of either.
        both = [(a, b) for key, (a, b) in spots.items() if a and b and (scale, key) in heard]
        each = [sign * (float(np.mean(a)) - float(np.mean(b))) for a, b in both]
        if each:
            by = float(np.mean(each)) if SCALES[scale].countable and np.isfinite(each).all() else None
            out.append(Seen(scale, sum(e > 0 for e in each), sum(e < 0 for e in each), sum(e == 0 for e in each), by))
    return sorted(out, key=lambda seen: -seen.spots)
