"""Passes of a flight round an antenna: how they part, where they go round or up, and what they differ by."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from tallmast.physics.around import Cells, Shape
from tallmast.physics.decibels import Floats

LEAST_TURN_DEG = 90.0
"""Of azimuth: less is a way out, and no turn."""
RING_DEG = 5.0
"""Half the elevations that are one turn."""
MERIDIAN_DEG = 12.0
"""Half the azimuths that are one climb."""
STRETCH_DEG = 15.0
ASSUMED_PASS_U_DB = 0.9
"""Standard deviation of a stretch of one pass against another, where it was flown but once."""
CROSSED = 1.4
"""Passes that meet in a stretch of 15° both ways, from which on what they differ by is seen."""


def pass_u_db(cells: Cells, shape: Shape) -> float:
    """Standard deviation of a stretch of one pass about what all passes near by say; assumed, where one was flown alone."""
    off = cells.level_db - shape.middle(cells.azimuth_deg, cells.elevation_deg)
    told = np.isfinite(off)
    box = (cells.azimuth_deg / STRETCH_DEG).astype(np.int64)
    box += 24 * ((cells.elevation_deg + 90.0) / STRETCH_DEG).astype(np.int64)
    stretch = (box + 24 * 13 * cells.leg)[told]
    count = np.bincount(stretch)
    crossed = np.count_nonzero(count) / max(distinct(box[told]), 1)
    if crossed < CROSSED:
        return ASSUMED_PASS_U_DB
    mean = np.bincount(stretch, off[told])[count > 0] / count[count > 0]
    # Each pass is one of those that say what all say.
    return math.sqrt(float(np.mean(mean**2)) * crossed / (crossed - 1.0))


def by_angle(angle_deg: Floats, level_db: Floats, pitch_deg: float) -> tuple[Floats, Floats]:
    """Means of what lies within one step."""
    number = np.floor(angle_deg % 360.0 / pitch_deg).astype(int)
    count = np.bincount(number)
    there = np.flatnonzero(count)
    middle = (number + 0.5) * pitch_deg
    mean = np.bincount(number, angle_deg % 360.0 - middle)[there] / count[there] + (there + 0.5) * pitch_deg
    return np.asarray(mean % 360.0), np.asarray(np.bincount(number, level_db)[there] / count[there])


def between_passes(
    angle_deg: Floats, level_db: Floats, leg: NDArray[np.int64], pitch_deg: float, assumed_db: float
) -> float:
    """Standard uncertainty of a mean over passes that is left over stretches of 15°, beyond what cells scatter of their own;
    assumed of one pass. A one-way analysis of variance of what stands off the mean over passes at each angle."""
    fine = (angle_deg / pitch_deg).astype(np.int64)
    off = level_db - (np.bincount(fine, level_db) / np.maximum(np.bincount(fine), 1))[fine]
    legs = int(leg.max()) + 1
    there, group = np.unique((angle_deg / STRETCH_DEG).astype(np.int64) * legs + leg, return_inverse=True)
    count = np.bincount(group)
    mean = np.bincount(group, off) / count
    within = float(np.sum((off - mean[group]) ** 2)) / max(len(off) - len(count), 1)
    place = np.unique(there // legs, return_inverse=True)[1]
    degrees = len(mean) - int(place.max()) - 1
    # What is assumed counts as two stretches more, until enough were met twice.
    more = max(2.0 - degrees / 20.0, 0.0)
    between = (float(mean @ mean) + more * assumed_db**2) / (degrees + more)
    slow = max(between - within / float(np.mean(count)), 0.0)
    return math.sqrt(slow * (int(place.max()) + 1) / len(mean))


def wandered_rad2(stretch: NDArray[np.int64], leg: NDArray[np.int64], phase_rad: Floats) -> float:
    """Mean square by which a phase [n] differs from pass to pass of a stretch; of one pass alone: over all of its way."""
    legs = int(leg.max() - leg.min()) + 1  # both in one number: pairs of numbers are sorted thirty times as slowly
    there, group = np.unique(stretch * legs + (leg - leg.min()), return_inverse=True)
    mean = np.bincount(group, phase_rad) / np.bincount(group)
    place = np.unique(there // legs, return_inverse=True)[1]
    passes = np.bincount(place)
    off = mean - (np.bincount(place, mean) / passes)[place]
    met = passes > 1
    if met.sum() >= 0.5 * len(passes):
        return float(np.sum(off**2) / np.sum(passes[met] - 1))
    return float(np.var(phase_rad))


def distinct(numbers: NDArray[np.float64] | NDArray[np.int64]) -> int:
    """How many whole numbers, none below zero, values [n] fall into. Not by np.unique: it loads NumPy's masked arrays, which a start
    would wait for."""
    return int(np.count_nonzero(np.bincount(numbers.astype(np.int64)))) if len(numbers) else 0


def goes_round(azimuth_deg: Floats) -> bool:
    """Whether it goes far enough round to be a turn."""
    return 10.0 * distinct(azimuth_deg / 10.0) >= LEAST_TURN_DEG


def best_ring(cells: Cells) -> float | None:
    """The elevation at which most of the turn was flown."""
    best: tuple[int, float] | None = None
    for height in np.arange(-80.0, 81.0, 2.0):
        near = np.abs(cells.elevation_deg - height) <= RING_DEG
        covered = distinct(cells.azimuth_deg[near] / 10.0)
        if covered * 10.0 >= LEAST_TURN_DEG and (best is None or covered > best[0] + 1):
            best = (covered, float(height))
    return best[1] if best is not None else None


def best_meridian(cells: Cells) -> float | None:
    """The azimuth at which most elevations were flown."""
    best: tuple[int, float] | None = None
    for azimuth in np.arange(0.0, 360.0, 10.0):
        near = np.abs((cells.azimuth_deg - azimuth + 180.0) % 360.0 - 180.0) <= MERIDIAN_DEG
        covered = distinct(cells.elevation_deg[near] / 3.0 + 30.0)
        if covered >= 8 and (best is None or covered > best[0] + 1):
            best = (covered, float(azimuth))
    return best[1] if best is not None else None


def legs_of(azimuth_deg: Floats, elevation_deg: Floats) -> NDArray[np.int64]:
    """Passes of a track [n]: half a turn each, or from one turning back to the next."""
    if not len(azimuth_deg):
        return np.zeros(0, dtype=np.int64)
    steps = (np.diff(azimuth_deg) + 180.0) % 360.0 - 180.0
    steps *= np.cos(np.radians(elevation_deg[1:]))
    way = np.concatenate(([0.0], np.cumsum(np.abs(steps) + np.abs(np.diff(elevation_deg)))))
    return (way / 180.0).astype(np.int64)
