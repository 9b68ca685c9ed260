"""Loss over what stands in the way, by Recommendation ITU-R P.526-15: one edge (§4.1), Bullington's construction (§4.5.1), the smooth earth
(§3), and both together over a profile (§4.5.2 and §4.5.3).

A profile is a pair of arrays [n], ascending from one end to the other: distance m, and the height of ground and of what stands on it
above the sea, m. The antennas stand at both ends, heights above the sea, m. `k` is the effective earth radius over the true one. All
losses in dB over free space. From 30 MHz up; below, the earth's own constants come in, which are not in here.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike

from .constants import wavelength
from .decibels import Floats

EARTH_M = 6_371_000.0
USUAL_K = 4.0 / 3.0
CLEAR_SHARE = 0.6
"""Of the first Fresnel zone: a path with so much clear is as good as free (P.526 §4; 0.552 is where the smooth earth begins)."""
SEEN_FROM = -0.78
"""Of ν: below it an edge costs nothing."""


def knife_edge_db(v: ArrayLike) -> Floats:
    """J(ν) = 6.9 + 20·log₁₀(√((ν − 0.1)² + 1) + ν − 0.1) for ν > −0.78, else 0: shape of ν. P.526 (31)."""
    v = np.asarray(v, dtype=float)
    loss = 6.9 + 20.0 * np.log10(np.sqrt((v - 0.1) ** 2 + 1.0) + v - 0.1)
    return np.asarray(np.where(v > SEEN_FROM, loss, 0.0))


def bulge_m(distance_m: ArrayLike, whole_m: float, k: float = USUAL_K) -> Floats:
    """How much the earth between two ends stands up at a distance from the first: d₁d₂/2ka, shape of `distance_m`."""
    d = np.asarray(distance_m, dtype=float)
    return np.asarray(d * (whole_m - d) / (2.0 * k * EARTH_M))


def fresnel_m(distance_m: ArrayLike, whole_m: float, frequency_hz: float) -> Floats:
    """Radius of the first Fresnel zone √(λd₁d₂/d), shape of `distance_m`. P.526 (2)."""
    d = np.asarray(distance_m, dtype=float)
    return np.asarray(np.sqrt(wavelength(frequency_hz) * np.maximum(d * (whole_m - d), 0.0) / whole_m))


@dataclass(frozen=True, eq=False, repr=False)
class Tightest:
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

    @property
    def lacking_m(self) -> float:
        """By how much the ray would have to be higher there for 0.6 of the zone to be clear; zero where it is."""
        return max(CLEAR_SHARE * self.fresnel_m - self.clearance_m, 0.0)


def ray_m(distance_m: ArrayLike, whole_m: float, one_m: float, other_m: float, k: float = USUAL_K) -> Floats:
    """Height of the straight ray over the sea as the bulge lets it be [n]: what of it is lower than the ground is under ground."""
    d = np.asarray(distance_m, dtype=float)
    return np.asarray(one_m + (other_m - one_m) * d / whole_m - bulge_m(d, whole_m, k))


def _first_term_db(distance_m: float, one_m: float, other_m: float, frequency_hz: float, radius_m: float) -> float:
    """Loss over the smooth earth behind the horizon, β = 1: P.526-15 §3.1.1 (13 to 18), land at 20 MHz or sea at 300 MHz and up."""
    mhz, radius, d = frequency_hz / 1e6, radius_m / 1000.0, distance_m / 1000.0
    x = float(2.188 * mhz ** (1.0 / 3.0) * radius ** (-2.0 / 3.0) * d)
    gain = 0.0
    for height in (one_m, other_m):
        b = float(9.575e-3 * mhz ** (2.0 / 3.0) * radius ** (-1.0 / 3.0) * max(height, 0.1))
        if b > 2.0:
            gain += 17.6 * math.sqrt(b - 1.1) - 5.0 * math.log10(b - 1.1) - 8.0
        else:
            gain += 20.0 * math.log10(b + 0.1 * b**3)
    f: float = 11.0 + 10.0 * math.log10(x) - 17.6 * x if x >= 1.6 else -20.0 * math.log10(x) - 5.6488 * x**1.425
    return -(f + gain)


def smooth_earth_db(distance_m: float, one_m: float, other_m: float, frequency_hz: float, k: float = USUAL_K) -> float:
    """Loss by the bulge of a smooth earth, antennas at `one_m` and `other_m` over it. P.526-15 §3.2: none where 0.55 of the first Fresnel
    zone is clear, the diffracted field behind the horizon, and between both by the clearance."""
    one_m, other_m = max(one_m, 0.1), max(other_m, 0.1)
    radius = k * EARTH_M
    horizon = math.sqrt(2.0 * radius) * (math.sqrt(one_m) + math.sqrt(other_m))
    if distance_m >= horizon:
        return max(_first_term_db(distance_m, one_m, other_m, frequency_hz, radius), 0.0)
    c = (one_m - other_m) / (one_m + other_m)
    m = distance_m**2 / (4.0 * radius * (one_m + other_m))
    third = math.acos(3.0 * c / 2.0 * math.sqrt(3.0 * m / (m + 1.0) ** 3)) / 3.0
    b = 2.0 * math.sqrt((m + 1.0) / (3.0 * m)) * math.cos(math.pi / 3.0 + third)
    d1 = distance_m / 2.0 * (1.0 + b)
    d2 = distance_m - d1
    clear = ((one_m - d1**2 / (2.0 * radius)) * d2 + (other_m - d2**2 / (2.0 * radius)) * d1) / distance_m
    needed = 0.552 * math.sqrt(d1 * d2 * wavelength(frequency_hz) / distance_m)
    if clear > needed:
        return 0.0
    grazing = 0.5 * (distance_m / (math.sqrt(one_m) + math.sqrt(other_m))) ** 2
    loss = _first_term_db(distance_m, one_m, other_m, frequency_hz, grazing)
    return max((1.0 - clear / needed) * loss, 0.0)


@dataclass(frozen=True, eq=False, repr=False)
class Section:
    """The ground between two antennas: a profile, both heights above the sea, and how the air bends the ray."""

    distance_m: Floats
    height_m: Floats
    one_m: float
    other_m: float
    frequency_hz: float
    k: float = USUAL_K
    added: float = 1.0
    """Share of what the Recommendation adds to a bare edge for all that real ground does beside; 0 leaves the edge."""

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
        slope_one = float(np.max((raised - one) / d))
        wave = wavelength(self.frequency_hz)
        if slope_one < (other - one) / whole:  # the one end sees the other
            over = raised - (one * rest + other * d) / whole
            v = float(np.max(over * np.sqrt(2.0 * whole / (wave * d * rest))))
        else:
            slope_other = float(np.max((raised - other) / rest))
            edge = (other - one + slope_other * whole) / (slope_one + slope_other)
            edge = min(max(edge, 1e-6 * whole), whole * (1.0 - 1e-6))
            over_edge = one + slope_one * edge - (one * (whole - edge) + other * edge) / whole
            v = over_edge * math.sqrt(2.0 * whole / (wave * edge * (whole - edge)))
        loss = float(knife_edge_db(v))
        return loss + self.added * (1.0 - math.exp(-loss / 6.0)) * (10.0 + 0.02 * whole / 1000.0)

    def smooth_ends_m(self) -> tuple[float, float]:
        """(height of a smooth surface in place of the profile at the one end, at the other). P.526-15 §4.5.2 (47 to 54)."""
        d, h, whole = self.distance_m, self.height_m, self.whole_m
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
        return replace(self, height_m=np.zeros(len(self.distance_m)), one_m=up_one, other_m=up_other)

    def over_profile_db(self) -> float:
        """Bullington over the profile, and what the smooth earth takes beyond Bullington over it smoothed. P.526-15 §4.5.3
        (delta-Bullington)."""
        smooth = self._smoothed()
        earth = smooth_earth_db(self.whole_m, smooth.one_m, smooth.other_m, self.frequency_hz, self.k)
        return self.bullington_db() + max(earth - smooth.bullington_db(), 0.0)

    def beside_smooth_db(self) -> float:
        """What the profile takes beside the smooth earth: Bullington over it less Bullington over it smoothed, never below zero. Added
        to `smooth_earth_db` it is P.526-15 §4.5.3."""
        return max(self.bullington_db() - self._smoothed().bullington_db(), 0.0)
