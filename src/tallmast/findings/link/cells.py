"""A square of ground about a place in cells, what was found for each, and the rays that reach them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.geodesy import around
from tallmast.physics.radials import Rays

from ..way.heights import Heights, height_at

SECTORS = 8
RAYS_A_CELL = 4
"""So many rays for each cell along a side: one for each cell of the rim."""
LEAST_POINTS = 8
"""Of a line: shorter ones are a cell or two."""
Cells = NDArray[np.float32]
Lines = list[tuple[Floats, Floats]]
"""(east, north) m of each."""


def contours(values: Rays, reach_m: float, level: float) -> Lines:
    """Lines at a level over a square about home, rows from the north [n, n]; none through what is not known."""
    from contourpy import contour_generator

    middle = (np.arange(len(values)) + 0.5) * 2.0 * reach_m / len(values) - reach_m
    found = contour_generator(middle, -middle, np.ma.masked_invalid(values)).lines(level)
    made = [np.asarray(line, dtype=float) for line in found]
    return [(line[:, 0], line[:, 1]) for line in made if len(line) >= LEAST_POINTS]


class Coverage(Frozen):
    """The margin in every cell [north to south, west to east], dB; NaN where no height is known."""

    reach_m: float
    """From home to each side."""
    margin_db: Cells
    half_db: Cells
    """Half of its 90 % interval."""
    ground: Lines
    """A few lines of equal height of the ground."""
    done: float
    """Share of the cells that are as fine as they become."""
    against: str = ""
    """Where it is no margin: `over the other craft, at home`, less what is needed of it."""

    @property
    def cell_m(self) -> float:
        return 2.0 * self.reach_m / len(self.margin_db)

    def at(self, east_m: float, north_m: float) -> tuple[float, float] | None:
        """(margin, half of its interval) at a point; None outside, and where it is not known."""
        column, row = (math.floor((v + self.reach_m) / self.cell_m) for v in (east_m, -north_m))
        n = len(self.margin_db)
        if not (0 <= row < n and 0 <= column < n) or not math.isfinite(self.margin_db[row, column]):
            return None
        return float(self.margin_db[row, column]), float(self.half_db[row, column])

    @cached_property
    def shares(self) -> tuple[float, float]:
        """(share of the ground that is reached, share that may be), of what is known of it."""
        known = np.isfinite(self.margin_db)
        low, high = self.margin_db - self.half_db, self.margin_db + self.half_db
        all_of_it = max(int(known.sum()), 1)
        reached = int(((low > 0.0) & known).sum())
        return reached / all_of_it, (int(((high > 0.0) & known).sum()) - reached) / all_of_it

    @cached_property
    def lines(self) -> dict[float, Lines]:
        """Where nothing is left: at the median (0), and at either end of its interval (−1: still surely taken, 1: perhaps)."""
        return {
            bound: contours(self.margin_db + np.float32(bound) * self.half_db, self.reach_m, 0.0)
            for bound in (-1.0, 0.0, 1.0)
        }


class Sector(Frozen):
    """Rays, and the cells that they reach [n]."""

    bearing_deg: Floats
    points: int
    """That the rays need."""
    cells: NDArray[np.intp]
    point: NDArray[np.intp]
    ray: NDArray[np.intp]


class Grid(Frozen):
    """Cells about home and the rays that reach them."""

    reach_m: float
    cells: int
    parts: int = SECTORS
    """In so many sectors."""

    @property
    def step_m(self) -> float:
        return 2.0 * self.reach_m / self.cells

    @property
    def rays(self) -> int:
        return RAYS_A_CELL * self.cells

    @cached_property
    def _of_cells(self) -> tuple[NDArray[np.intp], NDArray[np.uint16], NDArray[np.uint16]]:
        """(cells in the order of their rays, the ray of each then, its point on the ray then)."""
        middle = ((np.arange(self.cells) + 0.5) * self.step_m - self.reach_m).astype(np.float32)
        east, north = middle[None, :], -middle[:, None]
        point = np.rint(np.hypot(east, north) / self.step_m).astype(np.uint16).ravel()
        turns = np.arctan2(east, north) / np.float32(2.0 * math.pi) + np.float32(0.5 / self.parts)
        ray = (np.rint(turns * self.rays).astype(np.int32) % self.rays).astype(np.uint16).ravel()
        order = np.argsort(ray, kind="stable")
        return order, ray[order], point[order]

    def sectors(self) -> Iterator[Sector]:
        order, ray, point = self._of_cells
        wide = self.rays // self.parts
        for first in range(0, self.rays, wide):
            low, high = np.searchsorted(ray, (first, first + wide))
            mine = slice(int(low), int(high))
            bearings = (np.arange(first, first + wide) / self.rays - 0.5 / self.parts) * 360.0
            points = int(point[mine].max()) + 1
            yield Sector(
                bearings % 360.0, points, order[mine], point[mine].astype(np.intp), ray[mine].astype(np.intp) - first
            )


def filled(ground: Rays, unknown: NDArray[np.bool_]) -> Rays:
    """Each point without a height as high as the last one before it that has one, the first ones at the sea."""
    if not unknown.any():
        return ground
    last = np.where(unknown, 0, np.arange(len(ground))[:, None])
    np.maximum.accumulate(last, axis=0, out=last)
    return np.nan_to_num(np.take_along_axis(ground, last, axis=0))


def ground_along(
    heights: Sequence[Heights],
    position: tuple[float, float],
    bearing_deg: Floats,
    step_m: float,
    points: int,
    level_m: float = 0.0,
) -> Rays:
    """Heights of the ground along rays from a place [points, rays]; `level_m` where there is no raster, NaN where it has none."""
    if not heights:
        return np.full((points, len(bearing_deg)), level_m, dtype=np.float32)
    d, angle = (np.arange(points) * step_m)[:, None], np.radians(bearing_deg)
    latitude, longitude = around(*position, d * np.sin(angle), d * np.cos(angle))
    return height_at(heights, latitude, longitude).astype(np.float32)
