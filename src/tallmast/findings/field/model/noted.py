"""Every note of a day in one list, whatever it was written in."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import ListeningEnd, Reading
from tallmast.physics.statistics import median
from tallmast.units.shown import minutes_of
from tallmast.units.spoken import strength_db

from ..fixes import PlaceFix
from ..recorded import DROPOUTS, HOW_IT_DIES, Noted
from ..runs import FactorKind, RunRow, Tried
from ..samples import HOME_END, STRETCHES, CellSums, RunSamples
from ..settings import MANNER, setting_of, steps_db
from ..tracks import LEGS

if TYPE_CHECKING:
    from ...levels.display import DisplayFinding

Bound = Literal["", "at least", "at most"]
HEARD = "heard"
S9_UNITS = 9.0
S_UNIT_AS_TYPED_DB = 6.0


class Spot(Frozen, eq=True):
    """Where something was noted: a place, a stretch of recordings, a cell of a log."""

    key: str
    distance_m: float = math.nan
    bearing_deg: float = math.nan


class Note(Frozen, eq=True):
    """One thing noted."""

    run: int
    """Its number in the day's list of runs."""
    spot: Spot
    kind: str
    """A row of `KINDS`."""
    value: float
    end: ListeningEnd = "away"
    u: float = 0.0
    """Standard uncertainty of the value by what it was read on, in its unit."""
    read_on: str = ""
    """Whose display it was, where that matters."""
    zero_db: float | None = None
    """Standard uncertainty of the zero of that display, shared by all of its levels; None: it has none of its own."""
    attempt: int = 0
    minutes: float = 1.0
    """In which events were counted."""
    bound: Bound = ""
    leg: str = ""
    """On the way out or back, where the run turned."""


class RunOfDay(Frozen, eq=True):
    """A run as it was set up."""

    number: int
    levels: Mapping[str, str]
    """By factor; the antenna in its state, the manner and whatever differed among them."""
    kinds: Mapping[str, FactorKind]
    power_db: float = 0.0
    """What home sent above the baseline."""
    pad_db: float = 0.0
    """What less pads let through than the baseline's, both ways."""
    pads_db: float = 0.0
    """What pads were noted in it, in all."""
    lost_at_end: bool = False
    """Whether it ended because nothing was heard any more."""

    @property
    def manner(self) -> str:
        return self.levels.get(MANNER, "")


def runs_of_day(rows: Sequence[RunRow], tried: Mapping[str, Tried]) -> list[RunOfDay]:
    """In their order, each with known steps against the baseline of its manner."""
    base = {row.run.number: row for row in rows}
    out = []
    for row in rows:
        power, pads = steps_db([row], base[row.baseline])
        levels = setting_of(row, base[row.baseline], tried[row.run.id])
        lost = row.run.ended == "the signal was lost"
        out.append(
            RunOfDay(
                row.run.number,
                levels,
                {**row.kinds, MANNER: "block"},
                power_db=float(power[0]),
                pad_db=float(pads[0]),
                pads_db=row.run.pad_db,
                lost_at_end=lost,
            )
        )
    return out


def notes_of_day(
    evidence: Evidence,
    rows: Sequence[RunRow],
    fixes: Mapping[str, PlaceFix],
    samples: Mapping[str, RunSamples],
    displays: Mapping[str, DisplayFinding],
    in_time: Noted,
) -> list[Note]:
    """All of it but what came over the sky. `in_time`: what recordings and logs say on scales of their own, by stretch."""
    out: list[Note] = []
    for i, row in enumerate(rows):
        manner = row.run.manner
        attempts: dict[tuple[str, str, str], int] = {}
        for reading in evidence.readings(row.run.id):
            fix = fixes.get(reading.place_id)
            if fix is not None and fix.by_sky:
                continue
            spot = Spot(f"{manner} {reading.place_id}")
            if fix is not None:
                bearing = fix.bearing_deg if fix.bearing_deg is not None else math.nan
                far = fix.distance.value
                spot = Spot(spot.key, far if math.isfinite(far) else math.nan, bearing)
            for note in _typed(reading, i, spot, displays):
                # The first level and the first grade of a place are of one moment, whether typed together or one after the other.
                key = reading.place_id, reading.end, note.kind
                attempts[key] = attempts.get(key, -1) + 1
                out.append(replace(note, attempt=attempts[key]))
        if row.run.id in samples:
            out += _logged(samples[row.run.id], i, manner)
        out += _in_time(in_time, row.run.id, i, dying=False)
    return out


def dying_of_day(rows: Sequence[RunRow], in_time: Noted) -> dict[str, list[Note]]:
    """What recordings say of how a link is lost, by stretch, scale by scale: other things than its level."""
    out: dict[str, list[Note]] = {}
    for i, row in enumerate(rows):
        for note in _in_time(in_time, row.run.id, i, dying=True):
            out.setdefault(note.kind, []).append(note)
    return out


def _typed(reading: Reading, run: int, spot: Spot, displays: Mapping[str, DisplayFinding]) -> Iterable[Note]:
    """A reading may say several things: `59` is a readability and a strength."""

    def note(kind: str, value: float, **more: object) -> Note:
        return Note(run, spot, kind, value, reading.end, **more)  # type: ignore[arg-type]

    if not reading.heard:
        yield note(HEARD, 0.0)
        return
    said_more = False
    over_s9 = strength_db(reading.as_typed) if reading.shown is None else None
    if reading.shown is not None and reading.receiver in displays:
        curve = displays[reading.receiver].curve
        told = curve.read(reading.shown)
        zero = curve.zero_u_db if curve.unit == "dBm" else math.inf
        bound: Bound = {"told": "", "saturated": "at least"}.get(told.state, "at most")  # type: ignore[assignment]
        level = told.level.value if not bound else told.level.interval[bound == "at most"]
        yield note("level", level, u=told.own_u_db, read_on=reading.receiver, zero_db=zero, bound=bound)
        said_more = True
    elif over_s9 is not None:
        yield note("S units", S9_UNITS + over_s9 / S_UNIT_AS_TYPED_DB)
        said_more = True
    elif reading.level_dbm is not None:
        yield note("level", reading.level_dbm)
        said_more = True
    elif reading.shown is not None and reading.scale:
        minutes = minutes_of(reading.as_typed) if reading.scale == DROPOUTS else 1.0
        yield note(reading.scale if reading.scale != "level" else "counts", reading.shown, minutes=minutes)
        said_more = True
    if reading.readability is not None:
        yield note("readability", float(reading.readability))
        said_more = True
    if not said_more:
        yield note(HEARD, 1.0)


def _logged(samples: RunSamples, run: int, manner: str) -> Iterable[Note]:
    """Cells of logs and stretches of recordings in dBm: the mean of what was heard, or that it was not, where too little was. Where a run
    turned, its way out and its way back are noted apart, and what else it recorded beside them."""
    turned = samples.leg.max(initial=0.0) == max(LEGS)
    legs = {0: "", **LEGS}
    parts = [(samples.on_leg(leg), name) for leg, name in legs.items()] if turned else [(samples, "")]
    for part, leg in parts:
        if len(part.level_dbm):
            yield from _cells(part, part.sums, run, manner, leg)


def _cells(samples: RunSamples, sums: CellSums, run: int, manner: str, leg: str) -> Iterable[Note]:
    # What was typed at a place is noted reading by reading; cells of a track count up from nought, stretches down beyond the places.
    place = -1 - sums.numbers
    at_home = place >= HOME_END
    stretches = place - np.where(at_home, HOME_END, 0)
    along = np.flatnonzero((sums.numbers >= 0) | (stretches >= STRETCHES))
    zero = samples.shared_u_db if samples.shared_u_db else None
    for c in along.tolist():
        number, count, heard = int(sums.numbers[c]), float(sums.count[c]), float(sums.heard[c])
        stretch = number < 0
        end: ListeningEnd = "home" if stretch and at_home[c] else "away"
        far = math.nan if stretch else 10.0 ** (float(sums.log_distance[c]) / count)
        bearing = math.nan if stretch else (number % SECTORS + 0.5) * 360.0 / SECTORS
        spot = Spot(f"stretch {stretches[c] - STRETCHES}" if stretch else f"{manner} cell {number}", far, bearing)
        if heard < HALF * count:
            yield Note(run, spot, HEARD, 0.0, end, leg=leg)
            continue
        u = math.sqrt(float(sums.u2_db2[c])) / heard
        if heard < count:  # the mean of what got through stands too high: what was lost is weaker than all the rest
            here = samples.cell == number
            level = median(np.where(samples.heard[here], samples.level_dbm[here], -1e3))
        else:
            level = float(sums.level_dbm[c]) / heard
        read_on = "log" if zero is not None else ""
        yield Note(run, spot, "cell", level, end, u=u, zero_db=zero, read_on=read_on, leg=leg)


SECTORS = 24
"""Of the cells of logs, about home, as `gather` numbers them."""
HALF = 0.6
"""Share of a cell's samples that must be heard for their mean to be its level: what got through flatters it."""


def _in_time(in_time: Noted, run_id: str, run: int, dying: bool) -> Iterable[Note]:
    for scale, runs in in_time.items():
        if dying != (scale in HOW_IT_DIES):
            continue
        for (stretch, at, far), values in runs.get(run_id, {}).items():
            end: ListeningEnd = "home" if at.startswith("home") else "away"
            for attempt, value in enumerate(values):
                kind = "counts" if scale == "level" else scale
                yield Note(run, Spot(f"{stretch} {at}", far), kind, value, end, read_on="recording", attempt=attempt)
