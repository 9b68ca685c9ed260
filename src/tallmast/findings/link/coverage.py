"""The margin over the ground about home: what the runs or the reckoning say, moved to every cell by the ground on the way there and by where
the antenna looks. It grows: first all of it coarsely, then sector by sector."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import cached_property

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.records import Place
from tallmast.physics.decibels import Floats
from tallmast.physics.geodesy import around, local_metres
from tallmast.physics.radials import SMOOTH_EVERY, Fan, Rays, between_laid
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..figure import Figure, Working
from ..way import ALONG_DEG, Profile
from ..way.heights import Heights, height_at
from .budget import RECKONED, Ask
from .cells import SECTORS, Coverage, Grid, Lines, Sector, contours, filled, ground_along
from .margin import Margin

CELLS = 1000
"""Each way."""
COARSE = 8
"""So many times coarser is what is shown first."""
WORKERS = 2
"""Sectors worked out at a time: NumPy lets go of the interpreter meanwhile."""
ABOUT = 1.15
"""Of the farthest place or the range: so far it is shown."""
LEAST_M, MOST_M = 500.0, 50_000.0
SOURCE = "the margin at the place to be reached; Rec. ITU-R P.526-15 §4.5 along each ray"
HALF = coverage_factor(math.inf)
BESIDE_U_SHARE = 0.3
"""Standard uncertainty of what the ground takes, a share of it: one edge stands for all that are there."""
OTHER_WAY_U_DB = 5.0
"""Of what the runs say of a way that they did not go, from ALONG_DEG off it on."""
TYPED_DEG = 3.0
"""Either side of its way that a typed obstacle is taken to stand: nobody noted how wide it is."""
GROUND_CELLS, GROUND_LINES = 200, 5
LEAST_GROUND_M = 2.0


class Cover(Frozen):
    """What is wanted to work out the margin over the ground: that at the place to be reached, and the ground."""

    ask: Ask
    margin: Margin
    home: Place
    heights: tuple[Heights, ...]

    def __post_init__(self) -> None:
        assert self.home.position is not None

    @cached_property
    def usual_reach_m(self) -> float:
        """As far as there are places, and as it reaches where heights are known so far and that is not many times as far."""
        far = max((way.whole_m for _, way in self.ask.way.others), default=self.ask.distance_m)
        reach = self.margin.reach
        if reach is not None:
            far = max(far, min(reach.value * 1e3, 2.0 * far, self._heights_to_m / ABOUT))
        return self.within(ABOUT * far)

    @property
    def _heights_to_m(self) -> float:
        """From home to the nearest edge of the newest raster; no limit where there is none."""
        if not self.heights or self.home.position is None:
            return math.inf
        record, (rows, columns) = self.heights[0].record, self.heights[0].height_m.shape
        south, west = record.south_deg, record.west_deg
        north, east = south + (rows - 1) * record.step_latitude_deg, west + (columns - 1) * record.step_longitude_deg
        latitude, longitude = self.home.position
        edges = np.array([south, north, latitude, latitude]), np.array([longitude, longitude, west, east])
        e, n = local_metres(*edges, latitude, longitude)
        return float(min(-n[0], n[1], -e[2], e[3]))

    def within(self, reach_m: float) -> float:
        """A reach that can be shown."""
        return min(max(reach_m, LEAST_M), MOST_M)

    def grow(self, reach_m: float | None = None, cells: int = CELLS) -> Iterator[Coverage]:
        """All of it coarsely, then again with each sector that has become fine. The arrays of one are its own."""
        from concurrent.futures import ThreadPoolExecutor

        reach = reach_m or self.usual_reach_m
        coarse = Grid(reach, max(cells // COARSE, 1), 1)
        ground = self._ground_lines(reach)
        first = self._empty(coarse, ground)
        for sector in coarse.sectors():
            self._fill(first, coarse, sector)
        times = -(-cells // coarse.cells)
        grown = self._empty(Grid(reach, cells), ground)
        for name in ("margin_db", "half_db"):
            finer = np.repeat(np.repeat(getattr(first, name), times, axis=0), times, axis=1)
            getattr(grown, name)[:] = finer[:cells, :cells]
        yield grown
        grid = Grid(reach, cells)
        with ThreadPoolExecutor(WORKERS) as pool:
            try:
                for i, _ in enumerate(pool.map(lambda sector: self._fill(grown, grid, sector), grid.sectors()), 1):
                    own = {name: getattr(grown, name).copy() for name in ("margin_db", "half_db")}
                    yield replace(grown, **own, done=i / SECTORS)
            finally:
                pool.shutdown(cancel_futures=True)  # whoever stops waits for the sector at hand, and for no other

    @cached_property
    def nothing(self) -> Coverage:
        """Before anything is worked out."""
        return self._empty(Grid(self.usual_reach_m, 1), [])

    def _empty(self, grid: Grid, ground: Lines) -> Coverage:
        nothing = np.full((grid.cells, grid.cells), np.nan, dtype=np.float32)
        return Coverage(grid.reach_m, nothing, nothing.copy(), ground, 0.0)

    def _fill(self, into: Coverage, grid: Grid, sector: Sector) -> None:
        ground = self.ground_m(sector.bearing_deg, grid.step_m, sector.points)
        unknown = np.isnan(ground)
        profile, at = self.ask.way.profile, (sector.point, sector.ray)
        air = profile.frequency_hz, profile.conditions.k_factor
        fan = Fan(grid.step_m, filled(ground, unknown), profile.one_m, profile.away_height_m, *air)
        d = np.maximum(np.arange(sector.points) * grid.step_m, 0.5 * grid.step_m)
        left, half = self._left(d)
        level, level_u = self._pointed(fan, sector.bearing_deg)
        laid = level - self._behind(fan) if self.heights else level
        margin = left[sector.point] + between_laid(laid, at)
        half2 = np.square(half)[sector.point] + np.square(np.float32(HALF) * between_laid(level_u, at))
        half2 += np.square(HALF * self._other_way_u(sector.bearing_deg)).astype(np.float32)[sector.ray]
        if self.heights:
            beside = fan.beside_smooth_db(at)
            margin -= beside
            half2 += np.square(np.float32(HALF * BESIDE_U_SHARE) * beside)
            half2 += np.square(np.float32(HALF) * fan.by_heights_db(at, profile.height_u_m))
        for bearing, far, taken in self._typed:
            on = np.abs((sector.bearing_deg - bearing + 180.0) % 360.0 - 180.0) <= TYPED_DEG
            more = np.interp(d, far, taken, left=0.0).astype(np.float32)[sector.point] * on[sector.ray]
            margin -= more
            half2 += np.square(np.float32(HALF * BESIDE_U_SHARE) * more)
        margin[unknown[at]] = np.nan
        into.margin_db.ravel()[sector.cells] = margin
        into.half_db.ravel()[sector.cells] = np.sqrt(half2)

    @cached_property
    def _typed(self) -> list[tuple[float, Floats, Floats]]:
        """(bearing, distance, what stands there as typed takes dB) of every way on which somebody noted something."""
        assert self.home.position is not None
        wanted, out = self.ask.way.profile, []
        if wanted.obstacles and self.ask.toward_deg is not None:
            out.append((self.ask.toward_deg, *self._typed_on(wanted)))
        for _, way in self.ask.way.others:
            if way.obstacles and way is not wanted and way.place is not None and way.place.position is not None:
                east, north = (float(v) for v in local_metres(*way.place.position, *self.home.position))
                out.append((math.degrees(math.atan2(east, north)), *self._typed_on(way)))
        return out

    def _typed_on(self, way: Profile) -> tuple[Floats, Floats]:
        """(distance, what typed obstacles take as far as that) beside what heights show."""
        falls, found = self.margin.falls, way.as_found
        d, taken, _ = falls.stands_over_distance(way)
        return d, taken - np.array([falls.stands_db(found.ended(float(at))) for at in d])

    @property
    def typed(self) -> str:
        """Where typed obstacles stand, in words; empty where there are none."""
        return "with obstacles as typed" if self._typed else ""

    def at(self, coverage: Coverage, east_m: float, north_m: float) -> Figure | None:
        """The margin at a point; None outside, and where no height is known."""
        told = coverage.at(east_m, north_m)
        if told is None:
            return None
        value, half = told
        if coverage.against:
            lines = (f"{coverage.against}, less what is needed of it", "by distance, ground and where both look")
            working = Working(lines, (), SOURCE, "Above 0 the wanted one stands far enough over the other.")
            return Figure(f"{coverage.against} there", value, half / HALF, "dB", working)
        return self._moved("there", math.hypot(east_m, north_m), value, half)

    def _moved(self, where: str, distance_m: float, value: float, half: float) -> Figure:
        known, wanted = self.margin.figure, self.ask.way.profile
        lines = (
            f"margin at {show.distance(wanted.whole_m)}, the place to be reached, {known.text}",
            f"moved to {show.distance(distance_m)} by distance, ground and where it looks",
        )
        working = Working(lines, known.working.parts, SOURCE, "Of the median: one place strays from it.")
        return Figure(f"margin {where}", value, half / HALF, "dB", working)

    def places_on(self, coverage: Coverage) -> tuple[tuple[str, float, float, Figure], ...]:
        """Every place with a position, with what the map says of it: a margin by the way to it."""
        if not coverage.against:
            return self.places
        told = ((name, east, north, self.at(coverage, east, north)) for name, east, north, _ in self.places)
        return tuple((name, east, north, figure) for name, east, north, figure in told if figure is not None)

    @cached_property
    def places(self) -> tuple[tuple[str, float, float, Figure], ...]:
        """(name, m east, m north, margin) of every place with a position, by the way to it with all that is noted there."""
        out = []
        falls = self.margin.falls
        left, half = falls.left(self.margin.figure)
        half = self._own_half(half)
        assert self.home.position is not None
        placed = [(name, way) for name, way in self.ask.way.others if way.place is not None and way.place.position]
        for (name, way), left_there in zip(placed, falls.left_at(left, [way for _, way in placed]), strict=True):
            assert way.place is not None and way.place.position is not None
            east, north = (float(v) for v in local_metres(*way.place.position, *self.home.position))
            bearing = math.degrees(math.atan2(east, north)) % 360.0
            up = math.degrees(math.atan2(way.other_m - way.one_m, way.whole_m))
            level, level_u = (float(v) for v in self._against_wanted(np.array(bearing), np.array(up)))
            doubts = HALF * np.array([level_u, float(self._other_way_u(np.array(bearing))), way.u_db])
            half_there = math.hypot(float(np.interp(way.whole_m, falls.d, half)), *doubts)
            value = left_there + level - self.ask.noisier_db(way.place)
            figure = self._moved(f"at {name}", way.whole_m, value, half_there)
            wanted = way.place is self.ask.way.profile.place
            out.append((name, east, north, self.margin.figure if wanted else figure))
        return tuple(out)

    def _ground_lines(self, reach_m: float) -> Lines:
        """A few lines of equal height of the ground; none without a raster."""
        if not self.heights or self.home.position is None:
            return []
        middle = (np.arange(GROUND_CELLS) + 0.5) * 2.0 * reach_m / GROUND_CELLS - reach_m
        height = height_at(self.heights, *around(*self.home.position, middle[None, :], -middle[:, None]))
        if not np.isfinite(height).any():
            return []
        low, high = float(np.nanmin(height)), float(np.nanmax(height))
        if high - low < LEAST_GROUND_M:
            return []
        levels = np.linspace(low, high, GROUND_LINES + 2)[1:-1].tolist()
        return [line for level in levels for line in contours(height, reach_m, level)]

    def ground_m(self, bearing_deg: Floats, step_m: float, points: int) -> Rays:
        """Heights of the ground along rays [points, rays]; level where there is no raster, NaN where it has none."""
        assert self.home.position is not None
        level = float(self.ask.way.profile.ground_m.min())
        return ground_along(self.heights, self.home.position, bearing_deg, step_m, points, level)

    def _left(self, d: Floats) -> tuple[Rays, Rays]:
        """(what is left over distance with nothing beside the smooth earth on the way, half of its interval) [n]; beyond the horizon of the
        smooth earth as it fell before it."""
        falls, profile = self.margin.falls, self.ask.way.profile
        left, half = falls.left(self.margin.figure)
        left = left + falls.beside(falls.d)
        x = np.log(falls.d)
        value = np.interp(np.log(d), x, left)
        slope = (left[-1] - left[-2]) / (x[-1] - x[-2])
        value = value + np.minimum(slope, 0.0) * np.maximum(np.log(d) - x[-1], 0.0)
        lost = sum(loss.loss_db for loss in profile.losses if loss.kind in ("rain", "fog", "air"))
        weather = lost / profile.whole_m * d
        return (value - weather).astype(np.float32), self._own_half(np.interp(np.log(d), x, half)).astype(np.float32)

    def _own_half(self, half_db: Floats) -> Floats:
        """Less what is doubtful of the way to the place, where the margin there is reckoned with it: elsewhere is another way."""
        if self.margin.basis not in RECKONED:
            return half_db
        return np.sqrt(np.maximum(np.square(half_db) - (HALF * self.ask.way.profile.u_db) ** 2, 0.0))

    def _other_way_u(self, bearing_deg: Floats) -> Floats:
        """What is not known of ways that the runs did not go, dB; nothing where all is reckoned."""
        group, toward = self.ask.group, self.ask.toward_deg
        if self.margin.basis in RECKONED or group is None or toward is None:
            return np.zeros(np.shape(bearing_deg))
        off = np.abs((bearing_deg - toward + 180.0) % 360.0 - 180.0)
        return OTHER_WAY_U_DB * np.minimum(off / ALONG_DEG, 1.0)

    def _behind(self, fan: Fan) -> Rays:
        """What the smooth earth takes more than it does on the way to the place, laid at every few points. The runs' own path holds it already,
        but for what is behind the horizon."""
        if self.margin.basis in RECKONED:
            there = self.margin.falls.earth(
                np.maximum(fan.distance_m[::SMOOTH_EVERY], fan.step_m), self.ask.way.profile.home_height_m
            )
            return np.asarray(fan.earth_db - there[:, None].astype(np.float32))
        return np.where(fan.behind_horizon, fan.earth_db, np.float32(0.0))

    def _against_wanted(self, bearing_deg: Floats, up_deg: Rays) -> tuple[Floats, Floats]:
        """(what the antenna gives in directions against what it gives toward the place to be reached, u) dB, shapes broadcast; nothing of
        one that nobody knows."""
        one, toward, profile = self.ask.mounted.get(self.margin.antenna.id), self.ask.toward_deg, self.ask.way.profile
        if one is None or (toward is None and one.looks_deg is None):
            nothing = np.zeros(np.broadcast_shapes(bearing_deg.shape, up_deg.shape))
            return nothing, nothing
        looks = toward or 0.0
        there = one.level_db(bearing_deg, up_deg, looks)
        up_wanted = math.degrees(math.atan2(profile.other_m - profile.one_m, profile.whole_m))
        wanted = float(one.level_db(looks, up_wanted, looks)) if toward is not None else 0.0
        return there - wanted, one.u_db(there)

    @property
    def looks(self) -> str:
        """Where the antenna is taken to look, in words; empty of one that looks all round, or of which nobody knows."""
        one, toward = self.ask.mounted.get(self.margin.antenna.id), self.ask.toward_deg
        if one is None or one.all_round or (toward is None and one.looks_deg is None):
            return ""
        if one.looks_deg is not None:
            return f"it looks to {show.bearing(one.looks_deg)}"
        place = self.ask.way.profile.place
        return f"it looks to {place.name if place is not None else show.bearing(toward or 0.0)}"

    def _pointed(self, fan: Fan, bearing_deg: Floats) -> tuple[Rays, Rays]:
        """(what the antenna gives there against what it gives toward the place, u) dB, laid at every few points."""
        d = fan.laid_m
        rise = fan.height_m[::SMOOTH_EVERY] + fan.other_over_m - fan.one_m
        level, u = self._against_wanted(bearing_deg[None, :], np.degrees(np.arctan2(rise, d)))
        return level.astype(np.float32), u.astype(np.float32)


def cover_of(ask: Ask, margin: Margin, home: Place | None) -> Cover | None:
    """None where home has no position, or the places don't tell how the level falls."""
    if home is None or home.position is None or margin.falls.trouble:
        return None
    return Cover(ask, margin, home, ask.way.heights)
