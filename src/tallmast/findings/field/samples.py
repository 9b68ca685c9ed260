"""Levels with their distance and place, from readings typed at places and from logs alike."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Log, Reading, Run
from tallmast.physics.decibels import S9_U_DB, S_UNIT_U, Floats
from tallmast.physics.statistics import distinct, median, percentile
from tallmast.units.spoken import strength_db

from .fixes import PlaceFix
from .runs import Tried, tried
from .trace import LEVEL, Trace, levels_of
from .tracks import has_levels, logged

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding

NEAREST_M = 5.0
STRETCHES = 500_000
"""Added to the number of a stretch of recordings, where it stands among the cells of places."""
HOME_END = 1_000_000
"""Added to the number of a place's cell for what the home end heard."""


class CellSums(Frozen):
    """One run by its cells: how many samples, how many of them heard, and sums over those."""

    numbers: NDArray[np.int64]
    """Cell numbers, ascending."""
    count: NDArray[np.int64]
    heard: Floats
    level_dbm: Floats
    u2_db2: Floats
    log_distance: Floats
    """Over all samples, log₁₀ of metres."""


class RunSamples(Frozen):
    """Levels of one run; NaN means listened and not heard."""

    run: Run
    tried: Tried
    distance_m: Floats
    bearing_deg: Floats
    level_dbm: Floats
    u_db: Floats
    """Standard uncertainty of each level by what it was read on; 0 where that is not known."""
    cell: NDArray[np.int64]
    leg: Floats
    """1 on the way out, 2 on the way back; 0 where it was no such way."""
    shared_u_db: float = 0.0
    """Standard uncertainty that all its levels share: the zero of the display that they were read on; infinite where nobody
    knows it, so that they tell differences alone."""
    unit_u: float = 0.0
    """Relative standard uncertainty of its decibels, alike in all its levels: of S units on a meter that nobody stepped."""

    @cached_property
    def heard(self) -> NDArray[np.bool_]:
        return np.isfinite(self.level_dbm)

    @cached_property
    def at_distance(self) -> RunSamples:
        """Those of a known distance, as the far end heard them; as home did, where the far end noted nothing."""
        known, home = np.isfinite(self.distance_m), self.cell <= -HOME_END
        return self._only(known & ~home if (known & ~home).any() else known)

    @cached_property
    def on_map(self) -> RunSamples:
        """Those of a known distance and bearing."""
        return self._only(np.isfinite(self.distance_m + self.bearing_deg))

    @cached_property
    def on_ground(self) -> RunSamples:
        """Those of a known distance and bearing as the far end heard them."""
        return self._only(np.isfinite(self.distance_m + self.bearing_deg) & (self.cell > -HOME_END))

    def on_leg(self, leg: int) -> RunSamples:
        return self._only(self.leg == leg)

    def _only(self, known: NDArray[np.bool_]) -> RunSamples:
        if known.all():
            return self
        columns = ("distance_m", "bearing_deg", "level_dbm", "u_db", "cell", "leg")
        return replace(self, **{name: getattr(self, name)[known] for name in columns})

    @cached_property
    def sums(self) -> CellSums:
        """What its cells are worked out from, whichever runs it is held against."""
        # Cell numbers of tracks are small and dense: counting finds the distinct ones faster than sorting a long log would.
        # Those of places and stretches lie far apart, and are few.
        typed = self.cell < 0
        if typed.any():
            named, place = np.unique(self.cell[typed], return_inverse=True)
            first = int(self.cell[~typed].min()) if not typed.all() else 0
            where = self.cell - first + len(named)
            where[typed] = place.ravel()
        else:
            named, first = np.array([], dtype=np.int64), int(self.cell.min())
            where = self.cell - first
        count = np.bincount(where)
        there = np.flatnonzero(count)
        heard, levels, u = where, self.level_dbm, self.u_db
        if not self.heard.all():
            heard, levels, u = where[self.heard], levels[self.heard], u[self.heard]

        def summed(values: Floats | None, at: NDArray[np.int64] = heard) -> Floats:
            return np.bincount(at, weights=values, minlength=len(count))[there].astype(float)

        u2 = summed(u**2) if u.any() else np.zeros(len(there))
        far = summed(np.log10(self.distance_m), where)
        numbers = np.where(there < len(named), 0, there + first - len(named))
        numbers[there < len(named)] = named[there[there < len(named)]]
        return CellSums(numbers, count[there], summed(None), summed(levels), u2, far)


class Cells(Frozen):
    """Runs by places: the level of each run in each cell where it was heard well enough, else NaN."""

    numbers: NDArray[np.int64]
    """Cell numbers, ascending."""
    distance_m: Floats
    level_dbm: Floats
    """[run, cell]"""
    runs: tuple[Run, ...]
    tried: tuple[Tried, ...]
    """What each run tried."""
    floor_dbm: Floats
    """Weakest level that each run could still hear, −∞ where it never lost anything."""
    u_db: Floats
    """[run, cell], of a level by what it was read on."""
    visited: NDArray[np.bool_]
    """[run, cell], whether the run came there at all, heard or not."""
    unit_u: float = 0.0
    """Relative standard uncertainty of its decibels, alike in all its levels."""

    def only(self, there: NDArray[np.bool_], rows: Sequence[int] | None = None) -> Cells:
        """Some of the cells [cell], and of the runs, where `rows` says which."""
        kept = list(range(len(self.runs))) if rows is None else list(rows)
        both = np.ix_(np.asarray(kept), there)
        return Cells(
            self.numbers[there],
            self.distance_m[there],
            self.level_dbm[both],
            tuple(self.runs[i] for i in kept),
            tuple(self.tried[i] for i in kept),
            self.floor_dbm[kept],
            self.u_db[both],
            self.visited[both],
            self.unit_u,
        )


def level_of(
    reading: Reading, displays: Mapping[str, DisplayFinding], relative: bool = False
) -> tuple[float, float, float] | None:
    """(level dBm, its own and its shared standard uncertainty dB) of a reading: as typed, or by the stepped run of the
    display that showed it; `relative`: in decibels above an unknown zero will do, as S units have them. None where there is none to tell, as when
    the display was saturated."""
    if reading.level_dbm is not None:
        over_s9 = strength_db(reading.as_typed)
        return reading.level_dbm, 0.0, 0.0 if over_s9 is None else math.hypot(S9_U_DB, S_UNIT_U * min(over_s9, 0.0))
    if relative and reading.shown is None and (over_s9 := strength_db(reading.as_typed)) is not None:
        return over_s9, 0.0, 0.0  # on a band on which nobody knows what level S9 is
    if reading.shown is None or reading.receiver not in displays:
        return None
    curve = displays[reading.receiver].curve
    told = curve.read(reading.shown)
    if told.state != "told" or (told.level.unit != "dBm" and not relative):
        return None
    return told.level.value, told.own_u_db, curve.zero_u_db


class _Read(Frozen):
    """What one run has: columns of distance, bearing, level, place, uncertainty and leg, all [sample]."""

    columns: list[Floats]
    shared_u_db: float
    unit_u: float


def _typed(
    evidence: Evidence, run: Run, fixes: Mapping[str, PlaceFix], displays: Mapping[str, DisplayFinding], relative: bool
) -> _Read | None:
    """The readings of a run at places, and what their zero and the size of their units leave open; a place of unknown distance has
    none."""
    places = {place.id: i for i, place in enumerate(evidence.places)}
    readings = [r for r in evidence.readings(run.id) if r.place_id in places and not _by_sky(fixes, r)]
    levels = {r.id: level_of(r, displays, relative) for r in readings}
    rows = []
    for r in readings:
        told = levels[r.id]
        if told is None and r.heard:
            continue
        fix = fixes.get(r.place_id)
        distance = fix.distance.value if fix is not None else np.nan
        bearing = fix.bearing_deg if fix is not None and fix.bearing_deg is not None else np.nan
        level, own = told[:2] if told is not None else (np.nan, 0.0)
        # What home heard of the far end is a response of its own, by the same antennas: it is compared, never mixed.
        cell = places[r.place_id] + (HOME_END if r.end == "home" else 0)
        rows.append([distance, bearing, level, cell, own, 0.0])
    if not rows:
        return None
    # S units leave the more open the further below S9: in the middle of them as much as their mean.
    doubts = [told[2] for told in levels.values() if told is not None and told[2]]
    shared = math.inf if relative else float(np.mean(doubts)) if doubts else 0.0
    below_s9 = [by_s_units(r) for r in readings if r.heard]
    return _Read(list(np.array(rows, dtype=float).T), shared, S_UNIT_U * sum(below_s9) / max(len(below_s9), 1))


def by_s_units(reading: Reading) -> bool:
    """Whether a reading is in S units, and no display that was stepped tells what they are; what stands over S9 is in decibels."""
    over_s9 = strength_db(reading.as_typed) if reading.shown is None else None
    return over_s9 is not None and over_s9 <= 0.0


def _by_sky(fixes: Mapping[str, PlaceFix], reading: Reading) -> bool:
    fix = fixes.get(reading.place_id)
    return fix is not None and fix.by_sky


def _recorded(traces: Sequence[Trace], run: Run) -> list[list[Floats]]:
    """Levels of recordings: no distance, but stretches to be compared in."""
    out = []
    for level, stretch, at_home in levels_of(traces, run.id):
        n = len(level)
        cell = float(STRETCHES + stretch + (HOME_END if at_home else 0))
        out.append([np.full(n, np.nan), np.full(n, np.nan), level, np.full(n, cell), np.zeros(n), np.zeros(n)])
    return out


def is_relative(evidence: Evidence, displays: Mapping[str, DisplayFinding]) -> bool:
    """Whether levels are told in decibels above an unknown zero: there is no level in dBm among them."""
    if any(has_levels(evidence.series(log.series_id)) for run in evidence.runs for log in evidence.logs(run.id)):
        return False
    tracked = (displays[log.receiver].curve for log in evidence.all(Log) if log.receiver in displays)
    if any(curve.unit == "dBm" for curve in tracked):
        return False
    read = (level_of(r, displays) for run in evidence.runs for r in evidence.readings(run.id) if r.end == "away")
    return all(told is None for told in read)


def gather(
    evidence: Evidence,
    origin: tuple[float, float] | None,
    fixes: Mapping[str, PlaceFix],
    displays: Mapping[str, DisplayFinding] | None = None,
    traces: Sequence[Trace] = (),
) -> dict[str, RunSamples]:
    """Samples by run id. Cells are polar about home: so many metres by 15°, typed places cells of their own.

    A cell should be longer than the ground over which shadowing stays alike, or its neighbours repeat it; a
    fortieth of the longest run of its manner, 25 m at least, has served (the fit allows for what likeness is left).
    """
    there: dict[str, _Read] = {}
    relative = is_relative(evidence, displays or {}) and not any(t.read_on == LEVEL for t in traces)
    for run in evidence.runs:
        there_logged, shared = logged(evidence, run, origin, displays or {}, relative)
        blocks = [*there_logged, *_recorded(traces, run)]
        typed = _typed(evidence, run, fixes, displays or {}, relative)
        if typed is not None:
            blocks.append(typed.columns)
            shared = max(shared, typed.shared_u_db)
        if blocks:
            columns = blocks[0] if len(blocks) == 1 else [np.concatenate(c) for c in zip(*blocks, strict=True)]
            there[run.id] = _Read(columns, shared, typed.unit_u if typed is not None else 0.0)
    longest_m: dict[str, float] = {}
    for run in evidence.runs:
        if run.id in there:
            distance = there[run.id].columns[0]
            far = float(distance[np.isfinite(distance)].max(initial=0.0))
            longest_m[run.manner] = max(longest_m.get(run.manner, 0.0), far)
    out = {}
    for run in evidence.runs:
        if run.id not in there:
            continue
        distance, bearing, level, place, u, leg = there[run.id].columns
        cell_m = max(25.0, longest_m[run.manner] / 40.0)
        at_place = place >= 0
        if at_place.any():
            polar = np.where(at_place, 0.0, distance), np.where(at_place, 0.0, bearing)
        else:
            polar = distance, bearing
        # Both are positive: cutting off the fraction is the floor, and much quicker than a floor division.
        cell = (polar[0] / cell_m).astype(np.int64) * 24 + (polar[1] / 15.0).astype(np.int64)
        cell = np.where(at_place, -1 - place.astype(np.int64), cell)
        near = distance < NEAREST_M
        keep = ~near if near.any() else slice(None)  # a long log need not be copied six times
        out[run.id] = RunSamples(
            run,
            tried(evidence, run),
            distance[keep],
            bearing[keep],
            level[keep],
            u[keep],
            cell[keep],
            leg[keep],
            there[run.id].shared_u_db,
            there[run.id].unit_u,
        )
    return out


def by_cell(samples: list[RunSamples], heard_share: float = 0.6) -> Cells:
    """Level of each run in each cell, with nothing where what got through would flatter the run.

    The mean of a cell that was heard throughout; the median, what was lost counted as weaker than all the rest,
    where a part was lost, since the mean of what got through stands too high. A run heard in less than
    `heard_share` of a cell's samples has no level there; and from the nearest such cell beyond which a third or
    more of its cells are like it, it has none at all: at the edge of hearing only the lucky places are left.
    """
    numbers = distinct(np.concatenate([s.sums.numbers for s in samples]))
    shape = (len(samples), len(numbers))
    level, u_db = np.full(shape, np.nan), np.zeros(shape)
    lost, visited = np.zeros(shape, dtype=bool), np.zeros(shape, dtype=bool)
    weight, far = np.zeros(len(numbers)), np.zeros(len(numbers))
    for i, s in enumerate(samples):
        sums = s.sums
        at = np.searchsorted(numbers, sums.numbers)
        good = (sums.heard > 0) & (sums.heard >= heard_share * sums.count)
        level[i, at[good]] = sums.level_dbm[good] / sums.heard[good]
        u_db[i, at[good]] = np.sqrt(sums.u2_db2[good]) / sums.heard[good]
        for j in np.flatnonzero(good & (sums.heard < sums.count)):
            here = s.cell == sums.numbers[j]
            level[i, at[j]] = median(np.where(s.heard[here], s.level_dbm[here], -1e3))
        lost[i, at], visited[i, at] = ~good, True
        far[at] += sums.log_distance
        weight[at] += sums.count
    distance = np.asarray(10.0 ** (far / weight))
    for i in range(len(samples)):
        for edge in np.sort(distance[lost[i]]):
            beyond = visited[i] & (distance >= edge)
            if lost[i][beyond].mean() >= 1 / 3:
                level[i, beyond] = np.nan
                break
    floor = np.array([_floor_dbm(s) for s in samples])
    run, what = tuple(s.run for s in samples), tuple(s.tried for s in samples)
    return Cells(numbers, distance, level, run, what, floor, u_db, visited, float(np.mean([s.unit_u for s in samples])))


def _floor_dbm(samples: RunSamples) -> float:
    """The weakest of what was heard, a stray one in a hundred left out, once something was lost; else −∞."""
    if samples.heard.all() or not samples.heard.any():
        return -np.inf
    return percentile(samples.level_dbm[samples.heard], 1.0)


CEILING_SHARE = 0.05
"""From which share of its readings on a run's strongest level is taken for the end of what it was read on."""


def at_ceiling(samples: list[RunSamples], evidence: Evidence, displays: Mapping[str, DisplayFinding]) -> dict[str, int]:
    """Readings of each run, by its id, that lie where what they were read on shows no more; runs with none left out.

    A stepped display says where it ends. A level's end is seen: several readings of one and the same strongest level, in
    runs of more than one antenna.
    """
    out: dict[str, int] = {}
    tops: dict[float, set[str]] = {}
    counts: dict[str, tuple[float, int]] = {}
    for run in evidence.runs:
        for reading in evidence.readings(run.id):
            if reading.shown is not None and reading.receiver in displays and reading.level_dbm is None:
                saturated = displays[reading.receiver].curve.read(reading.shown).state == "saturated"
                out[run.id] = out.get(run.id, 0) + saturated
    for s in samples:
        heard = s.level_dbm[s.heard & (s.u_db == 0)]
        if len(heard):
            top = float(heard.max())
            n = int(np.count_nonzero(heard == top))
            if n >= 3 and n >= CEILING_SHARE * len(heard):
                counts[s.run.id] = (top, n)
                tops.setdefault(top, set()).add(s.run.antenna_id)
    for run_id, (top, n) in counts.items():
        if len(tops[top]) > 1:
            out[run_id] = out.get(run_id, 0) + n
    return {run_id: n for run_id, n in out.items() if n}
