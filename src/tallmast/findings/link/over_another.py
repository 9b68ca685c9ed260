"""Two on one band over the ground: by how much more than is needed the wanted one stands over another, in every cell."""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.records import Place
from tallmast.physics import propagation
from tallmast.physics.diffraction import smooth_earth_db
from tallmast.physics.geodesy import local_metres
from tallmast.physics.radials import Fan, Rays, between_laid

from .cells import Cells, Coverage, Grid, filled, ground_along
from .coverage import HALF, Cover
from .shared_band import Shared

COARSER = 2
"""What the other sends is laid over cells so many times coarser: it has no beam that is known, and is smoother for it."""


class OverAnother(Frozen):
    """A neighbour as one end hears it, that end or the sender gone to any cell."""

    cover: Cover
    shared: Shared

    @property
    def words(self) -> str:
        where = "at home" if self.shared.end == "home" else "out there"
        return f"over {self.shared.neighbour.name}, heard {where}"

    def of(self, coverage: Coverage) -> Coverage:
        """The margin's map as one of this, in the same cells."""
        shared, margin = self.shared, self.cover.margin.figure
        shift = shared.over.value - shared.neighbour.needed_db - margin.value
        half = np.hypot(coverage.half_db, np.float32(HALF * shared.other.u))
        value = coverage.margin_db + np.float32(shift)
        if shared.end == "away":
            # Out there the other is as near as each cell is.
            value = value + self._weaker_db(coverage)
        return replace(
            coverage, margin_db=value.astype(np.float32), half_db=half.astype(np.float32), against=self.words
        )

    @cached_property
    def _place(self) -> Place | None:
        place = self.cover.ask.evidence.place(self.shared.neighbour.place_id)
        return place if place is not None and place.position is not None else None

    def _weaker_db(self, coverage: Coverage) -> Cells:
        """By how much more than at the place to be reached the other is weakened on its way to each cell; nothing of one whose place is not
        known."""
        n, reach = len(coverage.margin_db), coverage.reach_m
        place, home = self._place, self.cover.home
        if place is None or place.position is None or home.position is None:
            return np.zeros((n, n), dtype=np.float32)
        east, north = (float(v) for v in local_metres(*place.position, *home.position))
        wide = reach + max(abs(east), abs(north))
        cells = max(int(n / COARSER * wide / reach), 8)
        lost = self._lost(Grid(wide, cells, 1), place)
        middle = (np.arange(n) + 0.5) * 2.0 * reach / n - reach
        step = 2.0 * wide / cells
        column = np.clip(((middle - east + wide) / step).astype(int), 0, cells - 1)
        row = np.clip(((wide - (-middle - north)) / step).astype(int), 0, cells - 1)
        return np.asarray(lost[np.ix_(row, column)] - np.float32(self._now_db), dtype=np.float32)

    @property
    def _now_db(self) -> float:
        """What its way to the place to be reached takes, as it was reckoned there."""
        return float(self._smooth_db(np.array([self.shared.distance_m]))[0])

    def _smooth_db(self, distance_m: Rays) -> Rays:
        profile, place = self.cover.ask.way.profile, self._place
        height = place.height_m if place is not None else 2.0
        hz, k = profile.frequency_hz, profile.conditions.k_factor
        free = propagation.free_space_loss_db(distance_m, hz)
        return np.asarray(free + smooth_earth_db(distance_m, height, profile.away_height_m, hz, k))

    def _lost(self, grid: Grid, place: Place) -> Cells:
        """What every cell about it takes of what it sends, dB, rows from the north."""
        out = np.full((grid.cells, grid.cells), np.nan, dtype=np.float32)
        profile = self.cover.ask.way.profile
        assert place.position is not None
        for sector in grid.sectors():
            ground = ground_along(self.cover.heights, place.position, sector.bearing_deg, grid.step_m, sector.points)
            unknown = np.isnan(ground)
            d = np.maximum(np.arange(sector.points) * grid.step_m, 0.5 * grid.step_m)
            lost = self._smooth_db(d)[sector.point]
            if self.cover.heights:
                known = filled(ground, unknown)
                own = place.ground_m if place.ground_m is not None else float(known[0, 0])
                air = profile.frequency_hz, profile.conditions.k_factor
                fan = Fan(grid.step_m, known, own + place.height_m, profile.away_height_m, *air)
                at = sector.point, sector.ray
                lost = lost + fan.beside_smooth_db(at)
                smooth = self._smooth_db(fan.laid_m[:, 0]) - propagation.free_space_loss_db(
                    fan.laid_m[:, 0], profile.frequency_hz
                )
                lost = lost + between_laid(fan.earth_db - smooth[:, None], at)
            out.ravel()[sector.cells] = lost
        return out


def over_another(cover: Cover, shared: tuple[Shared, ...]) -> tuple[OverAnother, ...]:
    """Every neighbour at either end, where it can be laid over the ground."""
    return tuple(OverAnother(cover, one) for one in shared if math.isfinite(one.over.value))
