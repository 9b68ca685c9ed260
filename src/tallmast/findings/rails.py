"""Guard rails: what keeps a number that can't be true from being shown as a finding.

An exponent that no path has, or that its places don't tell, gives no ratio of ranges; a range ends at the radio horizon;
beyond the ground that was measured a level carries the uncertainty of the path's model as well.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from .figure import Figure

if TYPE_CHECKING:
    from .field.path import PathFit
    from .field.runs import Tried

LEAST_EXPONENT, MOST_EXPONENT = 1.5, 6.0
FREE_SPACE, PLANE_EARTH = 2.0, 4.0
MOST_MARGIN_DB = 60.0
"""More than this to spare asks for a second look at what was noted."""
OPEN_PATH_U_DB = 6.0
"""Doubt of what is reckoned of a path that nobody measured; one place on it strays from that once more (`./run truth`: where nothing was
run)."""


def exponent_trouble(exponent: Figure) -> str:
    """Why no ranges can be told with an exponent, as the tail of a sentence; empty where they can."""
    if not LEAST_EXPONENT <= exponent.value <= MOST_EXPONENT:
        return (
            f"the level falls with d to the power {exponent.value:.1f} over these places, which no path does for long"
        )
    if exponent.half > exponent.value / 2:
        return f"these places don’t tell how the level falls with distance (n {exponent.text})"
    return ""


def model_u_db(exponent: float, distance_m: float, farthest_m: float) -> float:
    """Standard uncertainty, dB, that a level has from its path's model beyond the farthest place measured.

    Free space and plane earth bracket what the path may turn into; the wider of the two ways from the exponent, as the
    half-width of a rectangle.
    """
    beyond = 10.0 * math.log10(max(distance_m / farthest_m, 1.0))
    return beyond * max(abs(exponent - FREE_SPACE), abs(PLANE_EARTH - exponent)) / math.sqrt(3.0)


def carried(fit: PathFit, tried: Tried, distance_m: float) -> tuple[float, float, float]:
    """The fitted level at a distance; beyond the places with their exponent, or where that is none, half way between free
    space and plane earth."""
    farthest = fit.reach_m[1]
    if distance_m <= farthest or not exponent_trouble(fit.exponent):
        return fit.level(tried, distance_m)
    value, u, degrees = fit.level(tried, farthest)
    beyond = 10.0 * math.log10(distance_m / farthest)
    return value - 3.0 * beyond, math.hypot(u, beyond / math.sqrt(3.0)), degrees
