"""Loss over what stands in the way, by Recommendation ITU-R P.526-15: one edge (§4.1), Bullington's construction (§4.5.1), the smooth earth
(§3), and both together over a profile (§4.5.2 and §4.5.3).

A profile is a pair of arrays [n], ascending from one end to the other: distance m, and the height of ground and of what stands on it
above the sea, m. The antennas stand at both ends, heights above the sea, m. `k` is the effective earth radius over the true one. All
losses in dB over free space. From 30 MHz up; below, the earth's own constants come in, which are not in here.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen

from .constants import wavelength
from .decibels import Floats

EARTH_M = 6_371_000.0
USUAL_K = 4.0 / 3.0
CLEAR_SHARE = 0.6
"""Of the first Fresnel zone: a path with so much clear is as good as free (P.526 §4; 0.552 is where the smooth earth begins)."""
SEEN_FROM = -0.78
"""Of ν: below it an edge costs nothing."""


ALIKE_M = 100.0
"""Over which errors of a raster of heights are alike, roughly; published figures for rasters made from orbit go from one cell to a few
hundred metres."""


def knife_edge_db(v: ArrayLike) -> Floats:
    """J(ν) = 6.9 + 20·log₁₀(√((ν − 0.1)² + 1) + ν − 0.1) for ν > −0.78, else 0: shape of ν. P.526 (31)."""
    v = np.asarray(v)
    loss = 6.9 + 20.0 * np.log10(np.sqrt((v - 0.1) ** 2 + 1.0) + v - 0.1)
    return np.asarray(np.where(v > SEEN_FROM, loss, 0.0))


def bulge_m(distance_m: ArrayLike, whole_m: float, k: float = USUAL_K) -> Floats:
    """How much the earth between two ends stands up at a distance from the first: d₁d₂/2ka, shape of `distance_m`."""
    d = np.asarray(distance_m, dtype=float)
    return np.asarray(d * (whole_m - d) / (2.0 * k * EARTH_M))


def off_the_end(distance_m: ArrayLike) -> Floats:
    """Share of an error of a height that is not shared by the ground under an antenna so far off: neighbours in a raster are wrong alike, as
    `ALIKE_M` has it."""
    return np.asarray(-np.expm1(-np.asarray(distance_m) / ALIKE_M))


def fresnel_m(distance_m: ArrayLike, whole_m: float, frequency_hz: float) -> Floats:
    """Radius of the first Fresnel zone √(λd₁d₂/d), shape of `distance_m`. P.526 (2)."""
    d = np.asarray(distance_m, dtype=float)
    return np.asarray(np.sqrt(wavelength(frequency_hz) * np.maximum(d * (whole_m - d), 0.0) / whole_m))


class Tightest(Frozen):
    """Where a path is tightest: by the clearance as a share of the first Fresnel zone."""

    at: int
    """Index into the profile."""
    distance_m: float
    clearance_m: float
    """Of the ray over what stands there; below zero: under it."""
    fresnel_m: float

    @property
    def share(self) -> float:
        return self.clearance_m / self.fresnel_m


def ray_m(distance_m: ArrayLike, whole_m: float, one_m: float, other_m: float, k: float = USUAL_K) -> Floats:
    """Height of the straight ray over the sea as the bulge lets it be [n]: what of it is lower than the ground is under ground."""
    d = np.asarray(distance_m, dtype=float)
    return np.asarray(one_m + (other_m - one_m) * d / whole_m - bulge_m(d, whole_m, k))


def _first_term_db(
    distance_m: Floats, one_m: Floats, other_m: Floats, frequency_hz: float, radius_m: ArrayLike
) -> Floats:
    """Loss over the smooth earth behind the horizon, β = 1: P.526-15 §3.1.1 (13 to 18), land at 20 MHz or sea at 300 MHz and up."""
    mhz, radius, d = frequency_hz / 1e6, np.asarray(radius_m, dtype=float) / 1000.0, distance_m / 1000.0
    x = 2.188 * mhz ** (1.0 / 3.0) * radius ** (-2.0 / 3.0) * d
    gain = np.zeros(np.shape(x))
    for height in (one_m, other_m):
        b = 9.575e-3 * mhz ** (2.0 / 3.0) * radius ** (-1.0 / 3.0) * height
        high = np.maximum(b - 1.1, 0.9)
        far = 17.6 * np.sqrt(high) - 5.0 * np.log10(high) - 8.0
        gain = gain + np.where(b > 2.0, far, 20.0 * np.log10(b + 0.1 * b**3))
    behind = 11.0 + 10.0 * np.log10(x) - 17.6 * x
    return np.asarray(-(np.where(x >= 1.6, behind, -20.0 * np.log10(x) - 5.6488 * x**1.425) + gain))


def smooth_earth_db(
    distance_m: ArrayLike, one_m: ArrayLike, other_m: ArrayLike, frequency_hz: float, k: float = USUAL_K
) -> Floats:
    """Loss by the bulge of a smooth earth, antennas at `one_m` and `other_m` over it; shapes broadcast. P.526-15 §3.2: none where 0.55 of
    the first Fresnel zone is clear, the diffracted field behind the horizon, and between both by the clearance."""
    d = np.asarray(distance_m, dtype=float)
    one, other = np.maximum(one_m, 0.1), np.maximum(other_m, 0.1)
    radius = k * EARTH_M
    roots = np.sqrt(one) + np.sqrt(other)
    behind = np.maximum(_first_term_db(d, one, other, frequency_hz, radius), 0.0)
    c = (one - other) / (one + other)
    m = d**2 / (4.0 * radius * (one + other))
    third = np.arccos(np.clip(3.0 * c / 2.0 * np.sqrt(3.0 * m / (m + 1.0) ** 3), -1.0, 1.0)) / 3.0
    b = 2.0 * np.sqrt((m + 1.0) / (3.0 * m)) * np.cos(math.pi / 3.0 + third)
    d1 = d / 2.0 * (1.0 + b)
    d2 = d - d1
    clear = ((one - d1**2 / (2.0 * radius)) * d2 + (other - d2**2 / (2.0 * radius)) * d1) / d
    needed = 0.552 * np.sqrt(np.maximum(d1 * d2, 1e-9) * wavelength(frequency_hz) / d)
    grazing = 0.5 * (d / roots) ** 2
    before = np.maximum((1.0 - clear / needed) * _first_term_db(d, one, other, frequency_hz, grazing), 0.0)
    seen = d < math.sqrt(2.0 * radius) * roots
    return np.asarray(np.where(seen, np.where(clear > needed, 0.0, before), behind))


def bullington_edge_db(
    whole_m: ArrayLike,
    one_m: ArrayLike,
    other_m: ArrayLike,
    slope_one: ArrayLike,
    slope_other: ArrayLike,
    seen_v: ArrayLike,
    frequency_hz: float,
    added: float = 1.0,
    nearest_m: float = 0.0,
) -> Floats:
    """Bullington's one edge in place of a whole profile; shapes broadcast. P.526-15 §4.5.1 (40 to 46).

    `slope_one` is the steepest rise from the one end to what lies between, `slope_other` that from the other; `seen_v` the largest ν
    of what lies between, which counts where each end sees the other. `added` is the share of what is added for real ground. Nothing
    stands nearer than `nearest_m` to either end, and so no edge does.
    """
    whole, one, other, rise, back = (np.asarray(v) for v in (whole_m, one_m, other_m, slope_one, slope_other))
    sees = rise < (other - one) / whole
    both = np.where(sees, 1.0, rise + back)
    edge = np.clip((other - one + back * whole) / np.where(both == 0.0, 1e-12, both), nearest_m, whole - nearest_m)
    over = one + rise * edge - (one * (whole - edge) + other * edge) / whole
    behind_v = over * np.sqrt(2.0 * whole / (wavelength(frequency_hz) * edge * (whole - edge)))
    loss = knife_edge_db(np.where(sees, seen_v, behind_v))
    return np.asarray(loss + added * (1.0 - np.exp(-loss / 6.0)) * (10.0 + 0.02 * whole / 1000.0))


class Section(Frozen):
    """The ground between two antennas: a profile, both heights above the sea, and how the air bends the ray."""

    distance_m: Floats
    height_m: Floats
    one_m: float
    other_m: float
    frequency_hz: float
    k: float = USUAL_K
    added: float = 1.0
    """Share of what the Recommendation adds to a bare edge for all that real ground does beside; 0 leaves the edge."""
    smoothed_m: Floats | None = None
    """Heights that the smooth surface is laid through, where things stand on them that do not raise it; None: `height_m`."""

    @property
    def whole_m(self) -> float:
        return float(self.distance_m[-1])

    def tightest(self) -> Tightest | None:
        """Of what lies between both ends; None where nothing does."""
        if len(self.distance_m) < 3:
            return None
        d = self.distance_m[1:-1]
        radius = fresnel_m(d, self.whole_m, self.frequency_hz)
        clear = ray_m(d, self.whole_m, self.one_m, self.other_m, self.k) - self.height_m[1:-1]
        i = int(np.argmin(clear / np.maximum(radius, 1e-9)))
        return Tightest(i + 1, float(d[i]), float(clear[i]), float(radius[i]))

    def bullington_db(self) -> float:
        """Bullington's one edge in place of the whole profile. P.526-15 §4.5.1 (40 to 46)."""
        if len(self.distance_m) < 3:
            return 0.0
        whole, d, one, other = self.whole_m, self.distance_m[1:-1], self.one_m, self.other_m
        raised = self.height_m[1:-1] + bulge_m(d, whole, self.k)
        rest = whole - d
        over = raised - (one * rest + other * d) / whole
        v = np.max(over * np.sqrt(2.0 * whole / (wavelength(self.frequency_hz) * d * rest)))
        slopes = np.max((raised - one) / d), np.max((raised - other) / rest)
        return float(
            bullington_edge_db(whole, one, other, *slopes, v, self.frequency_hz, self.added, float(min(d[0], rest[-1])))
        )

    def smooth_ends_m(self) -> tuple[float, float]:
        """(height of a smooth surface in place of the profile at the one end, at the other). P.526-15 §4.5.2 (47 to 54)."""
        d, whole = self.distance_m, self.whole_m
        h = self.height_m if self.smoothed_m is None else self.smoothed_m
        step = np.diff(d)
        v1 = float(np.sum(step * (h[1:] + h[:-1])))
        v2 = float(np.sum(step * (h[1:] * (2.0 * d[1:] + d[:-1]) + h[:-1] * (d[1:] + 2.0 * d[:-1]))))
        at_one, at_other = (2.0 * v1 * whole - v2) / whole**2, (v2 - v1 * whole) / whole**2
        inner = d[1:-1]
        over = h[1:-1] - (self.one_m * (whole - inner) + self.other_m * inner) / whole
        most = float(over.max(initial=-math.inf))
        if most > 0.0:
            seen_one, seen_other = float(np.max(over / inner)), float(np.max(over / (whole - inner)))
            share = seen_one / (seen_one + seen_other)
            at_one, at_other = at_one - most * share, at_other - most * (1.0 - share)
        return min(at_one, float(h[0])), min(at_other, float(h[-1]))

    def _smoothed(self) -> Section:
        """The same antennas over the smooth surface, from which heights count."""
        at_one, at_other = self.smooth_ends_m()
        up_one, up_other = max(self.one_m - at_one, 0.1), max(self.other_m - at_other, 0.1)
        level = np.zeros(len(self.distance_m))
        return replace(self, height_m=level, smoothed_m=None, one_m=up_one, other_m=up_other)

    def over_profile_db(self) -> float:
        """Bullington over the profile, and what the smooth earth takes beyond Bullington over it smoothed. P.526-15 §4.5.3
        (delta-Bullington)."""
        smooth = self._smoothed()
        earth = float(smooth_earth_db(self.whole_m, smooth.one_m, smooth.other_m, self.frequency_hz, self.k))
        return self.bullington_db() + max(earth - smooth.bullington_db(), 0.0)

    def beside_smooth_db(self) -> float:
        """What the profile takes beside the smooth earth: Bullington over it less Bullington over it smoothed, never below zero. Added
        to `smooth_earth_db` it is P.526-15 §4.5.3."""
        return max(self.bullington_db() - self._smoothed().bullington_db(), 0.0)
