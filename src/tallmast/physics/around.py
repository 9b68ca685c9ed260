"""A pattern from readings scattered over directions: local straight lines on the sphere, as wide as the readings ask.

Readings of one pass that lie close together are alike, however many they are: they are first gathered into small cells,
pass by pass, and a cell counts once. At a direction a plane is laid through the cells about it (local linear regression:
Cleveland and Devlin 1988; tricube weights), and how far about it counts is what foretells whole passes left out best. Where
no cell is near, or all lie on one side, there is no level.
"""

from __future__ import annotations

import itertools
import math
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike, NDArray

from tallmast.frozen import Frozen

from .attitude import pointing
from .decibels import Floats
from .repeats import likeness

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

REACHES_DEG = (5.0, 7.0, 10.0, 14.0, 20.0, 28.0)
"""How far about a direction cells may count."""
CLEARLY = 0.98
"""A wider reach must foretell so much better, in mean square: else the narrower keeps what is there."""
WIDER = 1.35
"""How much wider a plane is laid to see how much the bend of the shape moves it."""
FEWEST = 4
"""Cells that a level rests on at least."""
ONE_SIDED = 0.45
"""Of the reach: so far the weighted middle of the cells may lie off; farther would be beyond the readings."""
LEAST_CROSSED = 0.6
"""Share of the cells that other passes have to say something of, for whole passes to be left out."""
CROSSED_DEG, MUCH_WORSE = 14.0, 1.3
MOST_TRIED = 300
"""Cells on which reaches are tried, and MOST_LEFT those of which what is left over is looked at."""
MOST_LEFT = 1200
APART_DEG = (3.0, 6.0, 12.0, 24.0)
"""Separations over which it is seen how steep the pattern is, the finest that cells lie apart."""
ELEVATIONS_DEG = np.linspace(-90.0, 90.0, 37)
ABOUT_DEG = 6.0
LEAST_PAIRS = 30
STEEPER = 1.9
"""How much steeper a pattern is over short ways than over those that were seen, where these are wider than the reach."""


class Cells(Frozen):
    """Readings gathered by direction and pass, all [n], in the order in which they were taken."""

    azimuth_deg: Floats
    elevation_deg: Floats
    level_db: Floats
    count: NDArray[np.int64]
    leg: NDArray[np.int64]

    def where(self, keep: NDArray[np.bool_]) -> Cells:
        return Cells(*(column[keep] for column in self.columns))

    @property
    def columns(self) -> tuple[NDArray, ...]:  # type: ignore[type-arg]
        return self.azimuth_deg, self.elevation_deg, self.level_db, self.count, self.leg


def gather(
    azimuth_deg: ArrayLike, elevation_deg: ArrayLike, level_db: ArrayLike, leg: ArrayLike, pitch_deg: float = 1.0
) -> Cells:
    """Readings [n] gathered into cells of `pitch_deg` both ways, leg by leg; levels are averaged in decibels. Without one: no cells.

    Toward the zenith cells become narrow; they are laid together where fewer than a degree of true direction is left.
    """
    azimuth, elevation = np.asarray(azimuth_deg, dtype=float) % 360.0, np.asarray(elevation_deg, dtype=float)
    level, leg = np.asarray(level_db, dtype=float), np.asarray(leg, dtype=np.int64)
    if not len(level):
        return Cells(azimuth, elevation, level, np.zeros(0, np.int64), leg)
    rows = math.ceil(180.0 / pitch_deg) + 1
    row = ((elevation + 90.0) / pitch_deg).astype(np.int64)
    # So many cells round the turn at each elevation as keep their true width.
    round_ = np.maximum(np.cos(np.radians((np.arange(rows) + 0.5) * pitch_deg - 90.0)), 1e-6) * 360.0 / pitch_deg
    columns = np.maximum(np.ceil(round_), 1.0).astype(np.int64)
    first = np.concatenate(([0], np.cumsum(columns)))
    column = np.minimum((azimuth * (columns[row] / 360.0)).astype(np.int64), columns[row] - 1)
    key = first[row] + column + (leg - leg.min()) * first[-1]
    if key.max() < 8 * len(key) + 4_000_000:
        sums = np.bincount(key)
        there = np.flatnonzero(sums)
    else:
        there, key = np.unique(key, return_inverse=True)
        sums, there = np.bincount(key), np.arange(len(there))

    def mean(values: Floats) -> Floats:
        return np.asarray(np.bincount(key, weights=values, minlength=len(sums))[there] / sums[there])

    # An azimuth near north is averaged about its cell's own middle.
    off = (azimuth - (column + 0.5) * (360.0 / columns[row]) + 180.0) % 360.0 - 180.0
    middle = mean((column + 0.5) * (360.0 / columns[row]))
    order = np.argsort(mean(np.arange(len(level), dtype=float)), kind="stable")
    made = Cells(
        (middle + mean(off)) % 360.0,
        mean(elevation),
        mean(level),
        sums[there],
        mean(leg.astype(float)).astype(np.int64),
    )
    return made.where(order)  # type: ignore[arg-type]


class _Laid(Frozen):
    """Planes through the cells about some directions [m]: weight of each cell in each, as pairs [k]."""

    at: NDArray[np.int64]
    cell: NDArray[np.int64]
    weight: Floats
    told: NDArray[np.bool_]
    """Whether a direction [m] has cells enough, and not all on one side."""
    off_deg: tuple[Floats, Floats]
    """Degrees (along the horizon, up) [m] by which the level is that of another direction: what no slope was told over."""

    def level(self, level_db: Floats) -> Floats:
        out = np.bincount(self.at, self.weight * level_db[self.cell], len(self.told))
        return np.where(self.told, out, np.nan)

    def share(self) -> Floats:
        """Standard uncertainty [m] as a share of a cell's scatter, were cells independent."""
        return np.asarray(np.sqrt(np.bincount(self.at, self.weight**2, len(self.told))))


class Shape(Frozen):
    """Cells and how they are joined: at any direction a level, with its standard uncertainty from their own scatter."""

    cells: Cells
    reach_deg: float
    scatter_db: float
    """Standard deviation of a cell about the shape."""
    alike: float
    """Lag-one correlation of what is left over, cell after cell of one pass."""
    steep_db_per_deg: tuple[Floats, Floats]
    """How steep it is (along the horizon, up) about each of `ELEVATIONS_DEG`, as a root of the mean square."""

    @cached_property
    def _tree(self) -> cKDTree:
        from scipy.spatial import cKDTree

        return cKDTree(pointing(self.cells.azimuth_deg, self.cells.elevation_deg))

    def level(self, azimuth_deg: ArrayLike, elevation_deg: ArrayLike) -> tuple[Floats, Floats]:
        """(level dB, standard uncertainty dB) at directions [m]; NaN where there is none to tell."""
        level, own, bent, aside = self.parts(azimuth_deg, elevation_deg)
        return level, np.hypot(own, np.hypot(bent, aside))

    def middle(self, azimuth_deg: ArrayLike, elevation_deg: ArrayLike) -> Floats:
        """Level alone, dB, at directions [m]; NaN where there is none to tell."""
        return _lay(self._tree, pointing(azimuth_deg, elevation_deg), self.reach_deg).level(self.cells.level_db)

    def steep(self, elevation_deg: ArrayLike) -> tuple[Floats, Floats]:
        """How steep it is (along the horizon, up) at elevations [m], dB per degree, as a root of the mean square."""
        at = np.asarray(elevation_deg, dtype=float)
        along, up = (np.interp(at, ELEVATIONS_DEG, way) for way in self.steep_db_per_deg)
        return np.asarray(along), np.asarray(up)

    def parts(self, azimuth_deg: ArrayLike, elevation_deg: ArrayLike) -> tuple[Floats, Floats, Floats, Floats]:
        """(level dB, its u by scatter, by how it bends over the reach, by a slope to beside the readings that none tells), all [m]; NaN
        where there is none to tell."""
        at = pointing(azimuth_deg, elevation_deg)
        laid, wider = (_lay(self._tree, at, reach) for reach in (self.reach_deg, WIDER * self.reach_deg))
        grown = math.sqrt((1.0 + self.alike) / (1.0 - self.alike))
        level = laid.level(self.cells.level_db)
        # A plane through a bent shape lies off by reach² · bend: by about as much as one of nearly double the square moves it.
        bent = np.nan_to_num(np.abs(wider.level(self.cells.level_db) - level))
        own = self.scatter_db * np.minimum(laid.share() * grown, 1.0)
        aside = [off * steep for off, steep in zip(laid.off_deg, self.steep(elevation_deg), strict=True)]
        own, bent, beside = (np.where(laid.told, part, np.nan) for part in (own, bent, np.hypot(*aside)))
        return level, own, bent, beside


def _lay(tree: cKDTree, at: Floats, reach_deg: float, apart: NDArray[np.bool_] | None = None) -> _Laid:
    """Planes at unit vectors [m, 3] through the tree's cells within reach; `apart` [m, n] leaves pairs out."""
    from scipy.spatial import cKDTree

    chord = 2.0 * math.sin(math.radians(reach_deg) / 2.0)
    pairs = cKDTree(at).sparse_distance_matrix(tree, chord, output_type="ndarray")
    i, j, distance = pairs["i"].astype(np.int64), pairs["j"].astype(np.int64), pairs["v"]
    if apart is not None:
        keep = ~apart[i, j]
        i, j, distance = i[keep], j[keep], distance[keep]
    m = len(at)
    share = np.minimum(distance / chord, 1.0)
    share = 1.0 - share * share * share
    kernel = share * share * share + 1e-9
    # Tangents at each direction: along the horizon and up; at the zenith any two will do.
    east = np.stack((-at[:, 1], at[:, 0], np.zeros(m)), axis=1)
    length = np.hypot(east[:, 0], east[:, 1])
    east = np.where(length[:, None] > 1e-9, east / np.maximum(length, 1e-9)[:, None], [0.0, 1.0, 0.0])
    up = np.cross(at, east)
    u, v = (_along(tree.data, way / chord, i, j) for way in (east, up))
    ku, kv = kernel * u, kernel * v
    s, su, sv, suu, suv, svv = (np.bincount(i, part, m) for part in (kernel, ku, kv, ku * u, ku * v, kv * v))
    count = np.bincount(i, minlength=m)
    safe = np.maximum(s, 1e-30)
    told = (count >= FEWEST) & (np.hypot(su, sv) / safe < ONE_SIDED)
    # A little ridge: of cells all along one line the slope across it is not told, and taken as flat.
    ridge = 0.01 * safe
    matrix = np.empty((m, 3, 3))
    matrix[:, 0] = np.stack((safe, su, sv), axis=1)
    matrix[:, 1] = np.stack((su, suu + ridge, suv), axis=1)
    matrix[:, 2] = np.stack((sv, suv, svv + ridge), axis=1)
    first = np.linalg.solve(matrix, np.broadcast_to(np.array([1.0, 0.0, 0.0])[:, None], (m, 3, 1)))[:, :, 0].T.copy()
    weight = kernel * (first[0][i] + first[1][i] * u + first[2][i] * v)
    along, over = (np.asarray(np.bincount(i, weight * part, m) * reach_deg, dtype=float) for part in (u, v))
    return _Laid(i, j, weight, told, (along, over))


def _along(vectors: Floats, ways: Floats, i: NDArray[np.int64], j: NDArray[np.int64]) -> Floats:
    """vectors[j] · ways[i] of pairs [k]; one axis at a time is many times faster than by rows."""
    return np.asarray(sum(vectors[:, axis].copy()[j] * ways[:, axis].copy()[i] for axis in range(3)))


def shape(cells: Cells) -> Shape:
    """The shape of cells [n]: its reach by leaving passes out, or stretches of one where there is but one. Raises
    `ValueError` with fewer than four cells."""
    from scipy.spatial import cKDTree

    n = len(cells.level_db)
    if n < FEWEST:
        raise ValueError("a shape needs four cells at least")
    at = pointing(cells.azimuth_deg, cells.elevation_deg)
    tree = cKDTree(at)
    some = np.unique(np.linspace(0, n - 1, min(n, MOST_TRIED)).astype(int))
    best = _foretells(cells, tree, at, some, cells.leg)
    if best is None:  # passes that no other one crosses: a few cells of each are foretold by those about them
        best = _foretells(cells, tree, at, some, np.arange(n) // 3)
    # A notch narrower than foretells best: there the bend moves it little against the scatter, which the ± can state.
    reach = REACHES_DEG[max(REACHES_DEG.index(best[1]) - 1, 0)] if best is not None else REACHES_DEG[-1]
    left, legs = _left_over(cells, tree, at, reach)
    scatter = math.sqrt(float(np.mean(left**2))) if len(left) else 0.0
    groups = [left[legs == leg] for leg in np.unique(legs)]
    return Shape(cells, reach, scatter, min(likeness(groups), 0.95), _steep(cells, tree, at, some, reach, scatter))


def _steep(
    cells: Cells, tree: cKDTree, at: Floats, some: NDArray[np.int64], reach_deg: float, scatter_db: float
) -> tuple[Floats, Floats]:
    """(dB per degree along the horizon, and up) about each of `ELEVATIONS_DEG`, root of the mean square: by cells that lie one
    beside, or one over, the other."""
    from scipy.spatial import cKDTree

    chord = 2.0 * math.sin(math.radians(APART_DEG[-1]) / 2.0)
    pairs = cKDTree(at[some]).sparse_distance_matrix(tree, chord, output_type="ndarray")
    i, j = some[pairs["i"].astype(np.int64)], pairs["j"].astype(np.int64)
    up = cells.elevation_deg[j] - cells.elevation_deg[i]
    along = (cells.azimuth_deg[j] - cells.azimuth_deg[i] + 180.0) % 360.0 - 180.0
    along = along * np.cos(np.radians(cells.elevation_deg[i]))
    by_db2 = (cells.level_db[j] - cells.level_db[i]) ** 2 - 2.0 * scatter_db**2
    row = np.rint(0.5 * (cells.elevation_deg[i] + cells.elevation_deg[j])).astype(np.int64) + 90
    about = np.exp(-0.5 * ((np.arange(181.0) - 90.0 - ELEVATIONS_DEG[:, None]) / ABOUT_DEG) ** 2)
    out = []
    for way, other in ((along, up), (up, along)):
        here = np.abs(way) > 2.0 * np.abs(other)
        steep2 = np.full(len(ELEVATIONS_DEG), np.nan)
        for low, high in itertools.pairwise(APART_DEG):  # about each elevation by the finest that are there
            near = here & (np.abs(way) > low) & (np.abs(way) <= high)
            many = about @ np.bincount(row[near], minlength=181)
            total = about @ np.bincount(row[near], by_db2[near] / way[near] ** 2, 181)
            mean = np.maximum(total, 0.0) / np.maximum(many, 1e-9)
            take = np.isnan(steep2) & (many >= LEAST_PAIRS)
            steep2[take] = mean[take] * (STEEPER**2 if low > reach_deg else 1.0)
        told = steep2[np.isfinite(steep2)]
        out.append(np.sqrt(np.where(np.isfinite(steep2), steep2, told.mean() if len(told) else 0.0)))
    return out[0], out[1]


def _foretells(
    cells: Cells, tree: cKDTree, at: Floats, some: NDArray[np.int64], blocks: NDArray[np.int64]
) -> tuple[float, float] | None:
    """(mean square off, reach) of what foretells `some` cells best, all cells of the same block [n] left out; None where
    the other blocks say nothing of most of them."""
    apart = blocks[some][:, None] == blocks[None, :]
    crossed = np.isfinite(_lay(tree, at[some], CROSSED_DEG, apart).level(cells.level_db))
    if crossed.mean() < LEAST_CROSSED:
        return None
    best: tuple[float, float] | None = None
    for reach in REACHES_DEG:
        foretold = _lay(tree, at[some], reach, apart).level(cells.level_db)
        told = np.isfinite(foretold)
        # Judged where most is told: else a narrow one would be judged by its easiest places.
        if told.sum() < 0.6 * crossed.sum():
            continue
        off2 = (cells.level_db[some][told] - foretold[told]) ** 2
        score = float(np.mean(np.minimum(off2, np.quantile(off2, 0.98))))
        if best is None or score < CLEARLY * best[0]:
            best = (score, reach)
        elif score > MUCH_WORSE * best[0]:
            break  # wider still is worse still
    return best


def _left_over(cells: Cells, tree: cKDTree, at: Floats, reach_deg: float) -> tuple[Floats, NDArray[np.int64]]:
    """(what each cell stands off the shape without it, its pass), of a stretch of each pass where there are very many."""
    n = len(cells.level_db)
    some = np.arange(n)
    if n > MOST_LEFT:
        some = some[(some // 50) % math.ceil(n / MOST_LEFT) == 0]
    laid = _lay(tree, at[some], reach_deg)
    own = np.bincount(laid.at, np.where(laid.cell == some[laid.at], laid.weight, 0.0), len(some))
    off = cells.level_db[some] - laid.level(cells.level_db)
    told = laid.told & (own < 0.9)
    return np.asarray(off[told] / np.sqrt(1.0 - np.maximum(own[told], 0.0))), cells.leg[some][told]
