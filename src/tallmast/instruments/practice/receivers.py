"""Practice receivers: what different displays make of a level. Each has quirks of its own that a careful run can find.

A level in dBm goes in; what the display shows comes out. Those that lag remember what they showed last.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.field_strength import field_of_received


def _between(level_dbm: float, low: float, high: float) -> float:
    """0 at the lower level, 1 at the upper, straight in decibels."""
    return min(max((level_dbm - low) / (high - low), 0.0), 1.0)


def _fade(level_dbm: float, middle: float, width: float) -> float:
    """A threshold: from 0 to 1 within a few `width`."""
    return 1.0 / (1.0 + math.exp(-(level_dbm - middle) / width))


class PracticeReceiver(Frozen, eq=True):
    """`ideal` is what it would show with no scatter; `scatter` in its own units; `grain` what it rounds to (0: not)."""

    name: str
    scale: str
    ideal: Callable[[float], float]
    scatter: float = 0.0
    grain: float = 0.0
    lag_db: float = 0.0
    """It shows the level of up to so many decibels ago."""
    low_dbm: float = -120.0
    high_dbm: float = -40.0

    def shown(self, level_dbm: float, random: np.random.Generator) -> float:
        """One look at it."""
        value = self.ideal(level_dbm) + (self.scatter * float(random.normal()) if self.scatter else 0.0)
        if self.grain:
            value = round(value / self.grain) * self.grain
        return round(max(value, 0.0), 6)

    def pass_over(self, levels_dbm: ArrayLike, random: np.random.Generator) -> Floats:
        """Looks at a row of levels, one after the other, lag and all."""
        out = []
        held: float | None = None
        for level in np.asarray(levels_dbm, dtype=float).tolist():
            # What it holds is dragged along once the level is further off than the lag.
            half = self.lag_db / 2
            held = level if held is None else min(max(held, level - half), level + half)
            out.append(self.shown(held, random))
        return np.array(out)


RECEIVERS: dict[str, PracticeReceiver] = {
    r.scale: r
    for r in (
        # Six decibels a unit is what R.1 asks; this one has four below S9 and a soft top.
        PracticeReceiver(
            "hill set",
            "S units",
            lambda v: 9.0 * _between(v, -129.0, -93.0) ** 0.8 + 3.0 * _between(v, -93.0, -60.0),
            0.15,
            0.5,
        ),
        PracticeReceiver("handset", "bars", lambda v: 5.0 * _between(v, -104.0, -66.0), 0.12, 1.0, 3.0),
        PracticeReceiver(
            "video link", "bit rate", lambda v: 50.0 * _between(v, -92.0, -70.0) ** 1.3 * _fade(v, -92.0, 0.8), 0.8, 0.1
        ),
        PracticeReceiver("logger", "packet rate", lambda v: 100.0 * _fade(v, -99.0, 1.6), 1.5, 1.0),
        PracticeReceiver("camera screen", "picture grade", lambda v: 1.0 + 4.0 * _between(v, -95.0, -75.0), 0.25, 1.0),
        PracticeReceiver("voice set", "readability", lambda v: 1.0 + 4.0 * _between(v, -118.0, -104.0), 0.3, 1.0),
        PracticeReceiver("rover link", "delay", lambda v: 28.0 + 400.0 * (1.0 - _fade(v, -90.0, 4.0)), 6.0, 1.0),
        # In V/m behind a short probe: an amplitude, with a floor of its own.
        PracticeReceiver(
            "exposure meter",
            "exposure meter",
            lambda v: math.hypot(field_of_received(v, 869e6, -10.0), 0.02),
            0.003,
            0.01,
            low_dbm=-50.0,
            high_dbm=10.0,
        ),
        PracticeReceiver("level meter", "level", lambda v: max(v, -110.0) + 200.0, 0.5, 0.5),
    )
}
"""By what their displays show."""
