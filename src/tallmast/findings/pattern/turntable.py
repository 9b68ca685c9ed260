"""A turn by a turntable: the drift, the slack of its gears and the level of a reference antenna, told and taken out."""

from __future__ import annotations

import math

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.pattern import level_at
from tallmast.units import show

LEAST_BOTH = 6
"""Angles read both ways, for drift and slack to be told."""
ONWARD, BACK, REFERENCE = 1.0, -1.0, 0.0
"""Ways of a reading: of the reference antenna, at its front, where that was put in its place."""
ONE_READING_DB = 0.3
"""Standard uncertainty of a reference's level that was read but once: how it was put there, and what drifts till then."""


class Settled(Frozen):
    """Angles and levels [n] of the antenna as they are without drift and slack."""

    angle_deg: Floats
    level_db: Floats
    drift_db_per_hour: float | None
    """None: nothing was read twice, so it can't be told."""
    backlash_deg: float | None
    """How far it stands behind on the way back."""
    scatter_db: float
    """Standard deviation of one reading."""
    reference_db: float | None = None
    """Level of the reference antenna as it was when the turn began; None where none was read."""
    reference_u_db: float = 0.0

    @property
    def words(self) -> str:
        if self.drift_db_per_hour is None:
            return "drift and slack not told: turn back again, or read a reference before and after"
        drift = f"drift {show.plus(self.drift_db_per_hour, 1)} dB an hour"
        if self.backlash_deg is None:
            return f"{drift} by the reference taken out, slack not told"
        slack = f"{show.fixed(abs(self.backlash_deg), 1)}° of slack taken out"
        return f"{drift} and {slack}, a reading scatters by {show.decibel(self.scatter_db, 2)}"


def _both_ways(angle_deg: Floats, minute: Floats, way: Floats) -> list[tuple[int, int]]:
    """(onward, back) of each angle that was read both ways."""
    pairs = []
    back = way == BACK
    for i in np.flatnonzero(way == ONWARD):
        near = np.flatnonzero(back & (np.abs((angle_deg - angle_deg[i] + 180.0) % 360.0 - 180.0) < 0.05))
        if len(near):
            j = int(near[int(np.argmax(np.abs(minute[near] - minute[i])))])
            pairs.append((int(i), j))
    return pairs if len(pairs) >= LEAST_BOTH else []


def _slopes(angle_deg: Floats, level_db: Floats, way: Floats) -> Floats:
    """dB per degree of the pattern onward, at each angle [n]."""
    onward = way == ONWARD
    ordered = np.argsort(angle_deg[onward] % 360.0)
    at, there = (angle_deg[onward] % 360.0)[ordered], level_db[onward][ordered]
    distinct = np.append(True, np.diff(at) > 1e-6)
    at, there = at[distinct], there[distinct]
    step = float(np.median(np.diff(at))) if len(at) > 1 else 5.0
    over, under = (np.asarray(level_at(at, there, angle_deg + by)) for by in (step, -step))
    return np.asarray((over - under) / (2.0 * step))


def settled(angle_deg: Floats, level_db: Floats, minute: Floats, way: Floats) -> Settled:
    """Readings [n] with their minute and their way (1 onward, −1 back, 0 of the reference antenna in its place).

    Of each angle read both ways the difference is drift times the time between, and slack times the slope of the pattern there;
    a reference read again is off by the drift alone: least squares over all of them. Half of the slack is given to each way,
    and the drift is taken out from the first reading on.
    """
    reference = way == REFERENCE
    turn = ~reference
    minute = minute - minute.min()
    pairs, slope = _both_ways(angle_deg, minute, way), np.zeros(len(way))
    if pairs:
        slope[turn] = _slopes(angle_deg[turn], level_db[turn], way[turn])
    # Unknown: drift a minute, slack, level of the reference. A difference of two readings weighs √½ of one.
    rows = [[minute[j] - minute[i], slope[i], 0.0, level_db[j] - level_db[i]] for i, j in pairs]
    system = np.array(rows, dtype=float).reshape(-1, 4) / math.sqrt(2.0)
    again = np.column_stack((minute, np.zeros(len(way)), np.ones(len(way)), level_db))[reference]
    system = np.concatenate((system, again))
    known = [bool(pairs) or int(reference.sum()) > 1, bool(pairs), bool(reference.any())]
    a_minute, slack, level = 0.0, 0.0, None
    u_reference, scatter = 0.0, 0.0
    if any(known):
        matrix, right = system[:, :3][:, known], system[:, 3]
        found, *_ = np.linalg.lstsq(matrix, right, rcond=None)
        told = dict(zip(np.flatnonzero(known).tolist(), found.tolist(), strict=True))
        a_minute, slack, level = told.get(0, 0.0), told.get(1, 0.0), told.get(2)
        degrees = len(right) - len(found)
        left = right - matrix @ found
        scatter = math.sqrt(float(left @ left) / degrees) if degrees > 0 else 0.0
    n = int(reference.sum())
    if n:
        few = max(scatter, 0.05) / math.sqrt(n)
        u_reference = few if known[0] and n > 1 else math.hypot(few, ONE_READING_DB)
    behind = np.where(way == BACK, 0.5, -0.5) * slack
    return Settled(
        np.asarray(angle_deg + behind)[turn],
        np.asarray(level_db - a_minute * minute)[turn],
        60.0 * a_minute if known[0] else None,
        slack if pairs else None,
        scatter,
        level,
        u_reference,
    )
