"""A turn by a turntable, onward and back: the drift and the slack of its gears taken out, and what is left over."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tallmast.physics.decibels import Floats
from tallmast.physics.pattern import level_at
from tallmast.units import show

LEAST_BOTH = 6
"""Angles read both ways, for drift and slack to be told."""


@dataclass(frozen=True, eq=False, repr=False)
class Settled:
    """Angles and levels [n] as they are without drift and slack."""

    angle_deg: Floats
    level_db: Floats
    drift_db_per_hour: float | None
    """None: it was not read twice, so it can't be told."""
    backlash_deg: float | None
    """How far it stands behind on the way back."""
    scatter_db: float
    """Standard deviation of one reading."""

    @property
    def words(self) -> str:
        if self.drift_db_per_hour is None or self.backlash_deg is None:
            return "drift and slack not told: turn back again"
        drift = f"drift {show.plus(self.drift_db_per_hour, 1)} dB an hour"
        return f"{drift} and {show.fixed(abs(self.backlash_deg), 1)}° of slack taken out, a reading scatters by {show.decibel(self.scatter_db, 2)}"


def settled(angle_deg: Floats, level_db: Floats, minute: Floats, way: Floats) -> Settled:
    """Readings [n] with their minute and their way (1 onward, −1 back).

    Of each angle read both ways the difference is drift times the time between, and slack times the slope of the pattern there:
    least squares over all of them. Half of the slack is given to each way, and the drift is taken out from the first reading on.
    """
    onward, back = way > 0, way < 0
    nothing = Settled(angle_deg, level_db, None, None, 0.0)
    if onward.sum() < LEAST_BOTH or back.sum() < LEAST_BOTH:
        return nothing
    pairs = []
    for i in np.flatnonzero(onward):
        near = np.flatnonzero(back & (np.abs((angle_deg - angle_deg[i] + 180.0) % 360.0 - 180.0) < 0.05))
        if len(near):
            j = int(near[int(np.argmax(np.abs(minute[near] - minute[i])))])
            pairs.append((int(i), j))
    if len(pairs) < LEAST_BOTH:
        return nothing
    ordered = np.argsort(angle_deg[onward] % 360.0)
    at, there = (angle_deg[onward] % 360.0)[ordered], level_db[onward][ordered]
    distinct = np.append(True, np.diff(at) > 1e-6)
    at, there = at[distinct], there[distinct]
    step = float(np.median(np.diff(at))) if len(at) > 1 else 5.0

    def slope(angle: float) -> float:
        either = level_at(at, there, np.array([angle - step, angle + step]))
        return float(either[1] - either[0]) / (2.0 * step)

    difference = np.array([level_db[j] - level_db[i] for i, j in pairs])
    matrix = np.array([[minute[j] - minute[i], slope(float(angle_deg[i]))] for i, j in pairs])
    (a_minute, slack), *_ = np.linalg.lstsq(matrix, difference, rcond=None)
    left = difference - matrix @ np.array([a_minute, slack])
    degrees = max(len(pairs) - 2, 1)
    scatter = math.sqrt(float(left @ left) / degrees / 2.0)
    return Settled(
        np.asarray(angle_deg + np.where(way < 0, 0.5, -0.5) * float(slack)),
        np.asarray(level_db - float(a_minute) * (minute - minute.min())),
        60.0 * float(a_minute),
        float(slack),
        scatter,
    )
