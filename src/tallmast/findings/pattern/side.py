"""Two antennas flown round side by side: which is better below an elevation, and which above."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna
from tallmast.physics.decibels import Floats
from tallmast.physics.local_line import local_line
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..figure import Figure, Working
from .flown import Flown

CELL_DEG = (12.0, 3.0)
"""Azimuth and elevation of what is held against each other."""
REACHES_DEG = (9.0, 14.0, 21.0, 32.0)
ASSUMED_RUN_U_DB = 0.5
"""Standard deviation of a run as a whole, where nothing was flown twice."""
FEWEST_CELLS = 12


class SideBySide(Frozen):
    """How much stronger one is than the other, by elevation over the antenna's own equator; all [n]."""

    one: Antenna
    other: Antenna
    elevation_deg: Floats
    difference_db: Floats
    u_db: Floats
    """Of its own at each elevation, what all have in common left out."""
    common_u_db: float
    degrees: float
    crossing: Figure | None
    """The elevation at which they are alike, where one is better on either side of it."""
    below: Figure
    """In the mean below the crossing; without one, over all that was flown."""
    above: Figure | None

    def at(self, number: int) -> Figure:
        """The difference at one of its elevations."""
        u = math.hypot(float(self.u_db[number]), self.common_u_db)
        parts = (("scatter there", show.decibel(float(self.u_db[number]), 2)), _common(self.common_u_db))
        working = Working((f"at {show.elevation(float(self.elevation_deg[number]))}",), parts, SOURCE)
        return Figure("difference", float(self.difference_db[number]), u, "dB", working, self.degrees)

    @property
    def words(self) -> str:
        one, other = self.one.name, self.other.name
        if self.crossing is not None and self.above is not None:
            ahead = self.below.value > 0
            better, worse = (one, other) if ahead else (other, one)
            size = show.plus_minus(abs(self.below.value), self.below.half, "dB")
            back = show.plus_minus(abs(self.above.value), self.above.half, "dB")
            where = self.crossing.text
            return f"{better} is better than {worse} by {size} below {where} of elevation, and worse above it by {back}"
        low, high = float(self.elevation_deg.min()), float(self.elevation_deg.max())
        flown = f"from {show.elevation(low)} to {show.elevation(high)} of elevation"
        if show.elevation(low) == show.elevation(high):
            flown = f"at {show.elevation(low)} of elevation"
        if abs(self.below.value) < self.below.half:
            most = show.fixed(abs(self.below.value) + self.below.half, 1)
            return f"{one} and {other} are alike within {most} dB {flown}"
        better, worse = (one, other) if self.below.value > 0 else (other, one)
        size = show.plus_minus(abs(self.below.value), self.below.half, "dB")
        return f"{better} is better than {worse} by {size} in the mean over all directions flown, {flown}"


SOURCE = "differences in the same directions, local straight lines (Cleveland 1979)"


def _common(u: float) -> tuple[str, str]:
    return "run to run and path, common to all elevations", show.decibel(u, 2)


def _cells(flown: Flown, log_distance: float) -> dict[int, tuple[float, float]]:
    """(level, elevation) of each cell as it would be at one distance, with what was sent on the same footing."""
    azimuth = (flown.cells.azimuth_deg / CELL_DEG[0]).astype(int)
    number = azimuth + 1000 * ((flown.cells.elevation_deg + 90.0) / CELL_DEG[1]).astype(int)
    there, where = np.unique(number, return_inverse=True)
    count = np.bincount(where)
    level = np.bincount(where, flown.cells.level_db) / count + flown.mean_db - 10.0 * flown.exponent * log_distance
    height = np.bincount(where, flown.cells.elevation_deg) / count
    return dict(zip(there.tolist(), zip(level.tolist(), height.tolist(), strict=True), strict=True))


def _run_part(one: Flown, other: Flown) -> tuple[float, float]:
    """(standard uncertainty of the difference by runs that differ as a whole, its degrees of freedom)."""
    squares = sum(float(np.sum(np.square(f.runs_off_db))) for f in (one, other))
    degrees = sum(len(f.runs_off_db) - 1 for f in (one, other))
    # What is assumed counts as two runs more: nobody knows it to infinity.
    spread = math.sqrt((squares + 2.0 * ASSUMED_RUN_U_DB**2) / (degrees + 2.0))
    share = sum(1.0 / len(f.runs_off_db) for f in (one, other))
    return spread * math.sqrt(share), degrees + 2.0


def side_by_side(one: Flown, other: Flown) -> SideBySide | None:
    """None where they were flown in too few of the same directions."""
    # At one distance: what is not known of the path then counts only by how differently far both were flown.
    far = 0.5 * (one.log_distance + other.log_distance)
    by_path = math.hypot(*(10.0 * f.exponent_u * (f.log_distance - far) for f in (one, other)))
    mine, theirs = _cells(one, far), _cells(other, far)
    both = sorted(set(mine) & set(theirs))
    if len(both) < FEWEST_CELLS:
        return None
    height = np.array([0.5 * (mine[c][1] + theirs[c][1]) for c in both])
    gap = np.array([mine[c][0] - theirs[c][0] for c in both])
    at = np.arange(math.ceil(height.min() / 3.0), math.floor(height.max() / 3.0) + 1) * 3.0
    if len(at) < 2:
        at = np.array([float(height.mean())])
    line = local_line(height, gap, at, REACHES_DEG)
    told = np.isfinite(line.value)
    if not told.any():  # all at one elevation
        at, value = np.array([float(height.mean())]), np.array([float(gap.mean())])
        own = np.array([float(gap.std(ddof=1)) / math.sqrt(len(gap))])
        slope = np.zeros(1)
    else:
        at, value, own, slope = at[told], line.value[told], line.u[told], line.slope[told]
    # Neighbouring cells share reflections and fixes: each antenna meets each stretch its own way.
    own = own * 1.2
    by_run, degrees = _run_part(one, other)
    common = math.hypot(by_run, by_path)
    crossing = _crossing(at, value, own, slope, common, degrees)
    split = crossing.value if crossing is not None else math.inf
    low, high = height < split, height >= split
    below = _mean(gap[low], common, degrees, "difference below" if crossing else "difference")
    above = _mean(gap[high], common, degrees, "difference above") if crossing is not None else None
    return SideBySide(one.antenna, other.antenna, at, value, own, common, degrees, crossing, below, above)


def _mean(gap: Floats, common: float, degrees: float, name: str) -> Figure:
    # A third of the cells say something of their own.
    own = float(gap.std(ddof=1)) * math.sqrt(3.0 / len(gap)) if len(gap) > 1 else 1.0
    parts = (("scatter of the directions", show.decibel(own, 2)), _common(common))
    lines = (f"mean over {show.count(len(gap), 'direction')} that both were flown in",)
    return Figure(name, float(gap.mean()), math.hypot(own, common), "dB", Working(lines, parts, SOURCE), degrees)


def _crossing(at: Floats, value: Floats, own: Floats, slope: Floats, common: float, degrees: float) -> Figure | None:
    """Where the difference turns its sign, sure on both sides of it."""
    half = coverage_factor(degrees) * np.hypot(own, common)
    sure = np.sign(value) * (np.abs(value) > half)
    turns = np.flatnonzero(np.diff(np.sign(value)) != 0)
    for k in turns:
        before, after = sure[: k + 1], sure[k + 1 :]
        if not (before.any() and after.any()) or before[before != 0][-1] == after[after != 0][0]:
            continue
        share = abs(value[k]) / max(abs(value[k]) + abs(value[k + 1]), 1e-9)
        where = float(at[k] + share * (at[k + 1] - at[k]))
        steep = max(abs(float(slope[k])), abs(float(value[k + 1] - value[k]) / float(at[k + 1] - at[k])), 1e-3)
        by_common, by_own = common / steep, float(own[k]) / steep
        parts = (("run to run and path", f"{by_common:.2f}°"), ("scatter there", f"{by_own:.2f}°"))
        working = Working((f"the difference changes by {show.decibel(steep, 2)} a degree there",), parts, SOURCE)
        return Figure("elevation of the change", where, math.hypot(by_common, by_own), "°", working, degrees)
    return None


def all_side_by_side(flown: Sequence[Flown]) -> tuple[SideBySide, ...]:
    """Each two that were flown, in the state flown last."""
    last: dict[str, Flown] = {}
    for one in flown:
        last[one.antenna.id] = one
    mine = list(last.values())
    pairs = [(a, b) for i, a in enumerate(mine) for b in mine[i + 1 :]]
    return tuple(found for a, b in pairs if (found := side_by_side(a, b)) is not None)
