"""Turns of one antenna held differently: a side covered, a reflector clipped on, a head in the way; what that did, by direction."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna
from tallmast.physics.decibels import Floats
from tallmast.units import show
from tallmast.units.shown import SCALES

from ..figure import Figure, Working
from .samples import OwnTurn, Samples

SAME_DEG = 8.0
"""Directions that are the same one."""
FEWEST = 4
QUARTERS = ((0.0, "in front"), (90.0, "to its right"), (180.0, "behind"), (270.0, "to its left"))


class HeldOtherwise(Frozen):
    """One way of holding it against another."""

    antenna: Antenna
    held: str
    against: str
    """As it was otherwise; empty: as usual."""
    difference: Figure
    """In the mean over the directions that both were turned to."""
    quarters: tuple[tuple[str, float], ...]
    """(side, difference) of each quarter that was read both ways."""

    @property
    def words(self) -> str:
        value, half = self.difference.value, self.difference.half
        unit = f" {self.difference.unit}"
        sides = show.join([f"{show.plus(v, 1)}{unit} {side}" for side, v in self.quarters])
        name = f"{self.antenna.name} with {self.held}" + (f" against {self.against}" if self.against else "")
        if abs(value) < half:
            within = f"{show.fixed(abs(value) + half, 1)}{unit}"
            return f"{name} is alike in the mean, within {within}; by side {sides}"
        return f"{name}: {show.plus_minus(value, half, self.difference.unit, sign=True)} in the mean, by side {sides}"


def _matched(one: tuple[Floats, Floats], other: tuple[Floats, Floats]) -> tuple[Floats, Floats]:
    """(direction, difference) of what was read in the same directions."""
    at, gap = [], []
    for angle, value in zip(one[0].tolist(), one[1].tolist(), strict=True):
        off = np.abs((other[0] - angle + 180.0) % 360.0 - 180.0)
        if len(off) and off.min() <= SAME_DEG:
            at.append(angle)
            gap.append(value - float(other[1][int(np.argmin(off))]))
    return np.array(at), np.array(gap)


def _told(
    antenna: Antenna, held: str, against: str, at: Floats, gap: Floats, own_u: float, unit: str
) -> HeldOtherwise | None:
    if len(gap) < FEWEST:
        return None
    # Directions differ in what it does there: that is no uncertainty of each, but it is one of their mean.
    spread = float(gap.std(ddof=1)) / math.sqrt(len(gap))
    u = math.hypot(spread, own_u * math.sqrt(2.0 / len(gap)))
    lines = (f"mean of {show.count(len(gap), 'direction')} read both ways",)
    parts = (("directions among themselves", f"{spread:.2f} {unit}"),)
    working = Working(lines, parts, "paired by direction", "What holding it otherwise did, all else the same.")
    figure = Figure(
        f"{held} against {against or 'without'}", float(gap.mean()), max(u, 1e-6), unit, working, len(gap) - 1.0
    )
    quarters = []
    for centre, side in QUARTERS:
        mine = np.abs((at - centre + 180.0) % 360.0 - 180.0) <= 45.0
        if mine.any():
            quarters.append((side, float(gap[mine].mean())))
    return HeldOtherwise(antenna, held, against, figure, tuple(quarters))


def held_otherwise(antenna: Antenna, turns: Sequence[Samples], own: Sequence[OwnTurn]) -> tuple[HeldOtherwise, ...]:
    """Each way of holding it against the first, in decibels and on each scale of its own."""
    out = []
    in_db = [t for t in turns if t.way == "turn" and t.plane == "azimuth" and t.state_id == antenna.state.id]
    for one in in_db[1:]:
        first = in_db[0]
        if one.held != first.held:
            at, gap = _matched((one.angle_deg, one.level_db), (first.angle_deg, first.level_db))
            better, other, sign = (one.held, first.held, 1.0) if one.held else (first.held, "", -1.0)
            out.append(_told(antenna, better, other, at, sign * gap, one.level_u_db, "dB"))
    for scale in dict.fromkeys(t.turn.read_on for t in own):
        mine = [t for t in own if t.turn.read_on == scale and t.turn.state_id == antenna.state.id]
        for turn in mine[1:]:
            base = mine[0]
            if turn.turn.held != base.turn.held:
                at, gap = _matched((turn.angle_deg, turn.value), (base.angle_deg, base.value))
                held = turn.turn.held
                better, other, sign = (held, base.turn.held, 1.0) if held else (base.turn.held, "", -1.0)
                out.append(_told(antenna, better, other, at, sign * gap, 0.0, SCALES[scale].unit))
    return tuple(one for one in out if one is not None)
