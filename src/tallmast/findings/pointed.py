"""What an antenna gives toward the other end as it is noted to be mounted, against its peak."""

from __future__ import annotations

import math

from tallmast.notebook.records import ListeningEnd

from .pattern import Mounted
from .way import Way

LEAST_DB = 0.05
"""Less is not spoken of."""


def pointed(way: Way, toward_deg: float | None, one: Mounted | None, end: ListeningEnd) -> tuple[float, float]:
    """(level, standard uncertainty) dB of an antenna at an end; nothing of one of which nobody noted how it stands, or where the place lies
    is not known. `toward_deg`: the place to be reached from home."""
    if one is None or (one.looks_deg is None and one.tilt_deg is None):
        return 0.0, 0.0
    if toward_deg is None and one.looks_deg is not None:
        return 0.0, 0.0
    profile = way.profile
    up = math.degrees(math.atan2(profile.other_m - profile.one_m, profile.whole_m))
    turn, up = (0.0, up) if end == "home" else (180.0, -up)
    bearing = ((toward_deg or 0.0) + turn) % 360.0
    level = float(one.level_db(bearing, up, bearing))
    return level, float(one.u_db(level))
