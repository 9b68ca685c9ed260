"""Loss over the ground to every point of many rays from one antenna at once, by Rec. ITU-R P.526-15 as `diffraction` has it for one path.

A fan has the same steps along each ray. To each point Bullington's edge takes the steepest rise from either end. From the antenna that is
a running maximum. From the point back it would be a search of its own for each: the ground between is looked through in blocks that
grow with the distance from the nearer end, each as high as its highest point. A block is at most a `FINE`th as long as it is far off,
so that a ridge is never lost and stands within that share of where it is.
"""

from __future__ import annotations

import math
from functools import cache, cached_property

import numpy as np
from msgspec.structs import replace
from numpy.typing import ArrayLike, NDArray

from tallmast.frozen import Frozen

from .constants import wavelength
from .decibels import Floats
from .diffraction import EARTH_M, USUAL_K, bullington_edge_db, off_the_end, smooth_earth_db

Rays = NDArray[np.floating]
"""[points along each, rays]."""
FINE = 5
SMOOTH_EVERY = 8
"""Points of a ray at which the smooth surface is laid: between them it hardly changes."""
THIN, THINNED_POINTS = 4, 40
"""Of rays and points by which a doubt is told: every so many, as long as so many points are left."""
SHARES = np.linspace(0.0, 1.0, 34)[1:-1]
"""Of a smooth path, at which its bulge is looked at."""


class _Blocks(Frozen):
    """Blocks of points between both ends: which of which level of the pyramid, and where their middles lie, in steps [blocks]."""

    level: NDArray[np.intp]
    which: NDArray[np.intp]
    middle: Rays


@cache
def _between(end: int) -> _Blocks:
    """What lies between the antenna and a point so many steps off."""
    made, at = [], 1  # (level, which, middle)
    while at < end:
        level = 0
        while at % (2 << level) == 0 and (2 << level) * FINE <= min(at, end - at - (2 << level)):
            level += 1
        made.append((level, at >> level, at + 0.5 * ((1 << level) - 1)))
        at += 1 << level
    columns = np.array(made).reshape(-1, 3).T
    return _Blocks(columns[0].astype(np.intp), columns[1].astype(np.intp), columns[2].astype(np.float32))


class _Pyramid(Frozen):
    """All points, then the highest of each two, of each four and so on, one under the other."""

    height_m: Rays
    starts: NDArray[np.intp]
    """Row at which each level begins."""

    def rows(self, between: _Blocks) -> NDArray[np.intp]:
        return np.asarray(self.starts[between.level] + between.which)


def _pyramid(height_m: Rays) -> _Pyramid:
    levels, last = [height_m], height_m
    while len(last) > 1:
        if len(last) % 2:
            last = np.concatenate((last, last[-1:]))
        last = np.maximum(last[::2], last[1::2])
        levels.append(last)
    starts = np.cumsum([0, *(len(one) for one in levels[:-1])])
    return _Pyramid(np.concatenate(levels), starts)


At = tuple[NDArray[np.intp], NDArray[np.intp]]
"""(point, ray) of every place that is asked for [n]."""


def between_laid(laid: ArrayLike, at: At) -> Rays:
    """What is laid at every `SMOOTH_EVERY`th point [laid, rays], straight between, at places [n]."""
    rows, (point, ray) = np.asarray(laid), at
    low = np.minimum(point // SMOOTH_EVERY, len(rows) - 1)
    high = np.minimum(low + 1, len(rows) - 1)
    share = (point - low * SMOOTH_EVERY).astype(np.float32) * np.float32(1.0 / SMOOTH_EVERY)
    near = rows[low, ray]
    return np.asarray(near + share * (rows[high, ray] - near))


class Fan(Frozen):
    """The ground along rays that leave one antenna, and another antenna that may stand at any point of it."""

    step_m: float
    height_m: Rays
    """Of ground and what stands on it above the sea, the first row under the antenna."""
    one_m: float
    """Of the antenna, above the sea."""
    other_over_m: float
    """Of the other, over the ground it stands on."""
    frequency_hz: float
    k: float = USUAL_K
    added: float = 1.0
    """Share of what the Recommendation adds for real ground."""
    raised_m: float = 0.0
    """By which the ground between both antennas stands higher than it is given."""

    @cached_property
    def distance_m(self) -> Floats:
        """From the antenna, of each row [points]."""
        return np.asarray(np.arange(len(self.height_m)) * self.step_m, dtype=float)

    @cached_property
    def _drop_m(self) -> Rays:
        """How much the earth has fallen away there: with heights over a flat sheet rays stay straight."""
        return self.distance_m**2 / (2.0 * self.k * EARTH_M)

    @cached_property
    def _over_flat_m(self) -> Rays:
        """The ground over a flat sheet that touches the earth under the antenna."""
        return (self.height_m - self._drop_m[:, None]).astype(np.float32)

    @cached_property
    def _ahead(self) -> Rays:
        """Steepest rise from the antenna to what lies before each point [points, rays]."""
        d = np.maximum(self.distance_m, 0.5 * self.step_m).astype(np.float32)[:, None]
        own = (self.raised_m * off_the_end(d)).astype(np.float32)
        rise = ((self._over_flat_m + own - np.float32(self.one_m)) / d)[1:-1]
        out = np.full(self.height_m.shape, -np.inf, dtype=np.float32)
        np.maximum.accumulate(rise, axis=0, out=out[2:])
        return out

    @cached_property
    def _back(self) -> tuple[Rays, Rays]:
        """(steepest rise from each point back, largest ν·√(λ/2) of what lies between) [points, rays]."""
        pyramid, other_m = _pyramid(self._over_flat_m), self._over_flat_m + np.float32(self.other_over_m)
        rise = np.full(self.height_m.shape, -np.inf, dtype=np.float32)
        seen = rise.copy()
        step, one_m = np.float32(self.step_m), np.float32(self.one_m)
        room = np.empty(self.height_m.shape, dtype=np.float32)
        for end in range(2, len(self.height_m)):
            between = _between(end)
            rest = (end - between.middle) * step
            rises = np.take(pyramid.height_m, pyramid.rows(between), axis=0, out=room[: len(rest)], mode="clip")
            rises -= other_m[end]
            if self.raised_m:
                rises += (self.raised_m * off_the_end(rest) * off_the_end(between.middle * step))[:, None]
            rises *= (1.0 / rest)[:, None]
            rises.max(axis=0, out=rise[end])
            # Over the straight line, as a rise from the point: with the weight of ν it is what the point sees.
            rises += (other_m[end] - one_m) * np.float32(1.0 / (end * self.step_m))
            rises *= np.sqrt(rest * np.float32(end) / between.middle)[:, None]
            rises.max(axis=0, out=seen[end])
        return rise, seen

    def _edge_db(
        self, whole_m: Rays, one_m: ArrayLike, other_m: ArrayLike, ahead: ArrayLike, back: ArrayLike, seen: ArrayLike
    ) -> Rays:
        v = np.asarray(seen) * np.float32(math.sqrt(2.0 / wavelength(self.frequency_hz)))
        with np.errstate(invalid="ignore", divide="ignore"):
            loss = bullington_edge_db(
                whole_m, one_m, other_m, ahead, back, v, self.frequency_hz, self.added, self.step_m
            )
        return np.where(np.isfinite(loss), loss, 0.0)

    def bullington_db(self, at: At) -> Rays:
        """Over the ground to places [n]; nothing at the first two points. P.526-15 §4.5.1."""
        other = self._over_flat_m[at] + np.float32(self.other_over_m)
        d = np.maximum(at[0], 1).astype(np.float32) * np.float32(self.step_m)
        back, seen = self._back
        loss = self._edge_db(d, np.float32(self.one_m), other, self._ahead[at], back[at], seen[at])
        return np.where(at[0] < 2, np.float32(0.0), loss)

    def by_heights_db(self, at: At, u_m: float) -> Rays:
        """Standard uncertainty of that by ground higher or lower than it is thought between both antennas, at places [n]. By every few rays
        and points: it changes little from one to the next."""
        every = max(1, min(THIN, len(self.height_m) // THINNED_POINTS))
        thin = replace(self, step_m=self.step_m * every, height_m=self.height_m[::every, ::every])
        whole = np.indices(thin.height_m.shape)
        higher, lower = (replace(thin, raised_m=m).bullington_db((whole[0], whole[1])) for m in (u_m, -u_m))
        point, ray = (np.minimum(i // every, n - 1) for i, n in zip(at, thin.height_m.shape, strict=True))
        half: Rays = 0.5 * np.abs(higher - lower)
        return np.asarray(half[point, ray])

    def _smooth_ends(self, every: int) -> tuple[Rays, Rays]:
        """Heights of the smooth surface at the antenna and at each point of `every`. P.526-15 §4.5.2 (47 to 54)."""
        h, d, step = self.height_m, self.distance_m[:, None].astype(np.float32), np.float32(self.step_m)
        parts = h[1:] + h[:-1], h[1:] * (d[1:] + d[:-1] + d[1:]) + h[:-1] * (d[1:] + d[:-1] + d[:-1])
        v1, v2 = (self._summed(step * part, every) for part in parts)
        whole = np.maximum(self.distance_m[::every, None], self.step_m)
        at_one, at_other = (2.0 * v1 * whole - v2) / whole**2, (v2 - v1 * whole) / whole**2
        most, seen_one, seen_other = self._over_line(every)
        share = seen_one / np.maximum(seen_one + seen_other, 1e-12)
        stands = most > 0.0
        at_one = np.where(stands, at_one - most * share, at_one)
        at_other = np.where(stands, at_other - most * (1.0 - share), at_other)
        return np.minimum(at_one, h[0]), np.minimum(at_other, h[::every])

    def _summed(self, part: Rays, every: int) -> Rays:
        """The sum of what lies before each point of `every`."""
        starts = np.arange(0, len(self.height_m), every)
        out = np.zeros((len(starts), part.shape[1]))
        if len(starts) > 1:
            between = np.add.reduceat(part[: starts[-1]], starts[:-1], axis=0)
            np.cumsum(between, axis=0, dtype=float, out=out[1:])
        return out

    def _over_line(self, every: int) -> tuple[Rays, Rays, Rays]:
        """(most by which the ground stands over the line between both antennas, the same over the distance from either), bulge left out."""
        pyramid, step, one = _pyramid(self.height_m), np.float32(self.step_m), np.float32(self.one_m)
        ends = range(0, len(self.height_m), every)
        out = np.zeros((3, len(ends), self.height_m.shape[1]), dtype=np.float32)
        room = np.empty(self.height_m.shape, dtype=np.float32)
        for i, end in enumerate(ends):
            between = _between(end)
            if end < 2:
                continue
            near, rest = between.middle * step, (end - between.middle) * step
            rises = np.take(pyramid.height_m, pyramid.rows(between), axis=0, out=room[: len(rest)], mode="clip")
            # Over the line between both antennas, as a rise from the one: (h − one)/d − (other − one)/D.
            rises -= one
            rises *= (1.0 / near)[:, None]
            rises -= (self.height_m[end] + np.float32(self.other_over_m) - one) / (end * step)
            rises.max(axis=0, out=out[1, i])
            rises *= near[:, None]
            rises.max(axis=0, out=out[0, i])
            rises *= (1.0 / rest)[:, None]
            rises.max(axis=0, out=out[2, i])
        return out[0], out[1], out[2]

    @cached_property
    def _over_smooth_m(self) -> tuple[Rays, Rays]:
        """Of both antennas over the ground smoothed between them, laid at every few points."""
        at_one, at_other = self._smooth_ends(SMOOTH_EVERY)
        other_m = self.height_m[::SMOOTH_EVERY] + self.other_over_m
        one, other = (np.maximum(v, 0.1).astype(np.float32) for v in (self.one_m - at_one, other_m - at_other))
        return one, other

    @property
    def laid_m(self) -> Rays:
        """Distances of the points at which the smooth surface is laid, as a column; `between_laid` goes between them."""
        return np.maximum(self.distance_m[::SMOOTH_EVERY], self.step_m).astype(np.float32)[:, None]

    @cached_property
    def earth_db(self) -> Rays:
        """What the smooth earth takes to every few points, both antennas over the ground smoothed. P.526-15 §3.2."""
        one, other = self._over_smooth_m
        return smooth_earth_db(self.laid_m, one, other, self.frequency_hz, self.k).astype(np.float32)

    @property
    def behind_horizon(self) -> NDArray[np.bool_]:
        """Whether every few points lie behind the horizon of that smooth earth."""
        one, other = self._over_smooth_m
        return self.laid_m > math.sqrt(2.0 * self.k * EARTH_M) * (np.sqrt(one) + np.sqrt(other))

    @cached_property
    def _smooth_bullington_db(self) -> Rays:
        """Bullington over the ground smoothed, laid at every few points."""
        d, (one, other) = self.laid_m, self._over_smooth_m
        ahead, back, seen = (np.full(one.shape, -np.inf, dtype=np.float32) for _ in range(3))
        for share in SHARES.tolist():
            bulge = share * (1.0 - share) * d**2 / (2.0 * self.k * EARTH_M)
            ahead = np.maximum(ahead, (bulge - one) / (share * d))
            back = np.maximum(back, (bulge - other) / ((1.0 - share) * d))
            over = bulge - one * (1.0 - share) - other * share
            seen = np.maximum(seen, over / np.sqrt(share * (1.0 - share) * d))
        return self._edge_db(d, one, other, ahead, back, seen)

    def beside_smooth_db(self, at: At) -> Rays:
        """What the ground takes beside the smooth earth, to places [n]: as `diffraction.Section.beside_smooth_db` has it."""
        return np.maximum(self.bullington_db(at) - between_laid(self._smooth_bullington_db, at), 0.0)
