"""Guard rails: what keeps a number that can't be true from being shown as a finding.

An exponent that no path has, or that its places don't tell, gives no ratio of ranges; a range ends at the radio horizon;
beyond the ground that was measured a level carries the uncertainty of the path's model as well.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from tallmast.physics.propagation import radio_horizon_m, range_ratio
from tallmast.units import show

from .figure import Figure, Working

if TYPE_CHECKING:
    from .field.path import PathFit
    from .field.runs import Tried

LEAST_EXPONENT, MOST_EXPONENT = 1.5, 6.0
FREE_SPACE, PLANE_EARTH = 2.0, 4.0
MOST_MARGIN_DB = 60.0
"""More than this to spare asks for a second look at what was noted."""


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


def reach(
    margin: Figure, exponent: Figure, distance_m: float, heights_m: tuple[float, float], farthest_m: float | None
) -> Figure | None:
    """Where a margin at a distance runs out, km: d·10^(m/10n), at most to the radio horizon; None where the exponent
    does not tell. `farthest_m`: of the places measured, None for a path that is all model."""
    if exponent_trouble(exponent):
        return None
    n, horizon = exponent.value, radio_horizon_m(*heights_m)
    # What lies beyond a thousand times the distance, or the earth's curve, no budget foretells.
    value = distance_m * range_ratio(min(max(margin.value, -150.0), 150.0), n)
    model = model_u_db(n, value, farthest_m) if farthest_m else 0.0
    half_db = math.hypot(margin.half, margin.value * exponent.half / n, 1.645 * model)
    u = min(math.log(10.0) / (10.0 * n) * half_db, 50.0)
    low, high = value * math.exp(-u), value * math.exp(u)
    ends = value > horizon
    lines = [
        "d = d₀·10^(margin/10n)",
        f"d₀ = {show.distance(distance_m)}, n = {n:.2f}",
        f"margin {margin.text}",
        f"d = {show.distance(value)}" if not ends else "d lies beyond the horizon",
        f"radio horizon {show.distance(horizon)}",
    ]
    working = Working(
        tuple(lines),
        (("beyond the places, the path’s model", show.decibel(model, 1)),) if model > 0.05 else (),
        "the path as fitted, continued; horizon with k = 4/3",
        "It ends at the radio horizon at these heights: raise an antenna to see farther."
        if ends
        else "Beyond the farthest place measured this is a forecast: a ridge may end it sooner.",
    )
    value, low, high = (min(d, horizon) / 1e3 for d in (value, low, high))
    return Figure("range", value, u * value, "km", working, low=low, high=high, digits=1 if value >= 1 else 2)
