"""An antenna as it stands on its mast: where it looks, and what it gives in any direction."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Branch, ListeningEnd
from tallmast.physics.attitude import seen
from tallmast.physics.decibels import Floats

from .antenna import AntennaPattern
from .named import front_bearing
from .whole import Known, known_wave

ROUND_DEG = np.arange(0.0, 360.0, 2.0)
UP_DEG = np.arange(-90.0, 91.0, 2.0)
LEAST_DB = -40.0
"""Deeper no direction of a pattern is believed outdoors."""
FULL_U_FROM_DB = 6.0
"""So far off its peak the doubt of a pattern is whole; on the peak there is none."""


def branch_of(evidence: Evidence, antenna_id: str, end: ListeningEnd = "home") -> Branch | None:
    """How an antenna of an end is held, as noted."""
    station = evidence.home_end if end == "home" else evidence.far_end
    branches = station.branches if station is not None else []
    return next((b for b in branches if b.antenna_id == antenna_id), None)


class Mounted(Frozen):
    """What one antenna gives toward bearings and elevations, against its peak."""

    known: Known
    looks_deg: float | None
    """None: nobody noted it; it is turned to what is to be reached."""
    tilt_deg: float | None
    """Up from the horizon; None: not noted, taken as level."""

    @cached_property
    def _peak(self) -> float:
        gain = self.known.wave.gain
        return max(
            float(np.max(gain(ROUND_DEG, np.zeros(len(ROUND_DEG))))), float(np.max(gain(np.zeros(len(UP_DEG)), UP_DEG)))
        )

    @cached_property
    def all_round(self) -> bool:
        """Whether it matters little where it looks: within 3 dB all round the horizon."""
        level = self.level_db(ROUND_DEG, 0.0, 0.0)
        return bool(level.min() > -3.0)

    def level_db(self, bearing_deg: ArrayLike, elevation_deg: ArrayLike, toward_deg: float) -> Floats:
        """Against its peak, dB, shapes broadcast; turned to `toward_deg` where nobody noted where it looks."""
        looks = toward_deg if self.looks_deg is None else self.looks_deg
        azimuth, elevation = seen(bearing_deg, elevation_deg, looks, self.tilt_deg or 0.0)
        gain = self.known.wave.gain(azimuth, elevation) / self._peak
        return np.maximum(10.0 * np.log10(np.maximum(gain, 1e-9)), LEAST_DB)

    def u_db(self, level_db: ArrayLike) -> Floats:
        """Standard uncertainty of a level against the peak, its shape."""
        return np.asarray(self.known.pattern_u_db * np.clip(-np.asarray(level_db) / FULL_U_FROM_DB, 0.0, 1.0))


def mounted(evidence: Evidence, one: AntennaPattern, end: ListeningEnd = "home") -> Mounted:
    """By how it is noted to be held; else as it was cut or flown."""
    branch, cut = branch_of(evidence, one.antenna.id, end), one.cut("azimuth")
    looks = branch.azimuth_deg if branch is not None else None
    if looks is None and cut is not None and not cut.coarse:
        looks = front_bearing(evidence, cut)
    return Mounted(known_wave(one, evidence), looks, branch.tilt_deg if branch is not None else None)
