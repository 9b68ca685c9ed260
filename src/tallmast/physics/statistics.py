"""The few distributions that findings need, in closed form or a short series.

SciPy has them all, but the first screen needs them too and must not wait for SciPy to load; the tests hold
each of these against SciPy. Formulas: Abramowitz & Stegun, Handbook of Mathematical Functions, §26.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .decibels import Floats


def normal_cdf(z: ArrayLike) -> Floats:
    """Φ(z). Shape as given: element by element."""
    flat = np.asarray(z, dtype=float)
    return np.asarray([0.5 * math.erfc(-v / math.sqrt(2.0)) for v in flat.ravel()]).reshape(flat.shape)


def _beta_fraction(a: float, b: float, x: float) -> float:
    """The continued fraction of the incomplete beta function (A&S 26.5.8), by Lentz's method."""
    tiny = 1e-300
    c, d = 1.0, 1.0 / max(1.0 - (a + b) * x / (a + 1.0), tiny)
    total = d
    for m in range(1, 300):
        even = m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m))
        odd = -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1))
        for term in (even, odd):
            d = 1.0 / (1.0 + term * d or tiny)
            c = 1.0 + term / c or tiny
            total *= d * c
        if abs(d * c - 1.0) < 1e-15:
            break
    return total


def _incomplete_beta(a: float, b: float, x: float) -> float:
    if x <= 0.0 or x >= 1.0:
        return min(max(x, 0.0), 1.0)
    front = math.exp(math.lgamma(a + b) - math.lgamma(a) - math.lgamma(b) + a * math.log(x) + b * math.log1p(-x))
    if x < (a + 1.0) / (a + b + 2.0):
        return front * _beta_fraction(a, b, x) / a
    return 1.0 - front * _beta_fraction(b, a, 1.0 - x) / b


def student_cdf(t: float, degrees: float) -> float:
    """Student's t distribution, any number of degrees of freedom above zero (A&S 26.7.1)."""
    tail = 0.5 * _incomplete_beta(degrees / 2.0, 0.5, degrees / (degrees + t * t))
    return 1.0 - tail if t > 0 else tail


@lru_cache(maxsize=512)
def coverage_factor(degrees: float, confidence: float = 0.90) -> float:
    """How many standard uncertainties the two-sided interval of `confidence` reaches to each side.

    Student's t; infinite degrees give the normal distribution. JCGM 100 (GUM) Annex G.
    """
    wanted = 0.5 + confidence / 2.0
    if math.isinf(degrees) or degrees > 1e6:
        degrees = 1e6
    half = (degrees + 1.0) / 2.0
    density = math.exp(math.lgamma(half) - math.lgamma(degrees / 2.0)) / math.sqrt(degrees * math.pi)
    low, high = 0.0, 1.0
    while student_cdf(high, degrees) < wanted:
        low, high = high, 2.0 * high
    at = low
    for _ in range(200):
        # Newton's steps climb from below, as the distribution is concave there; halving where its tail is too flat for them.
        short = wanted - student_cdf(at, degrees)
        low, high = (at, high) if short > 0 else (low, at)
        slope = density * (1.0 + at * at / degrees) ** -half
        step = short / slope if slope > 1e-300 else math.inf
        before, at = at, at + step if low <= at + step <= high else 0.5 * (low + high)
        if abs(at - before) < 1e-12 * at:
            break
    return at


def degrees_of(factor: float, confidence: float = 0.90) -> float:
    """The degrees of freedom whose coverage factor this is: infinite at the normal distribution's and below, 1 at least."""
    if factor <= coverage_factor(math.inf, confidence):
        return math.inf
    low, high = 0.0, math.log(1e6)
    for _ in range(30):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if coverage_factor(math.exp(middle), confidence) > factor else (low, middle)
    return math.exp(low)


_SHARES = np.linspace(0.0, 1.0, 11)
_MIXED = {
    0.90: (1.6449, 1.6450, 1.6450, 1.6435, 1.6393, 1.6305, 1.6154, 1.5917, 1.5560, 1.5004, 1.3968),
    0.80: (1.2816, 1.2827, 1.2860, 1.2913, 1.2981, 1.3055, 1.3121, 1.3167, 1.3180, 1.3156, 1.3450),
}
"""Quantiles of √(1−s)·z + √(2s)·cos φ, z normal and φ anywhere, for s = 0, 0.1 … 1; the tests integrate them anew."""


def bounded_factor(share: ArrayLike, confidence: float = 0.90) -> Floats:
    """How many standard uncertainties hold `confidence` (0.90 or 0.80) of the sum of a normal quantity and the part
    along one direction of a vector of known length and unknown phase; `share` of the variance is that vector's.

    The vector's part is bounded (arcsine distribution, JCGM 101 §6.4.6): of it alone 1.40 standard uncertainties hold
    90 %, where a normal quantity takes 1.64. One-sided 90 % is `confidence` 0.80.
    """
    return np.asarray(np.interp(np.asarray(share, dtype=float), _SHARES, _MIXED[confidence]))


def chi2_tail(chi2: float, degrees: int) -> float:
    """Chance of a χ² at least this large with whole `degrees` ≥ 1 (A&S 26.4.4, 26.4.5)."""
    half = chi2 / 2.0
    if degrees % 2 == 0:
        term = total = math.exp(-half)
        for k in range(1, degrees // 2):
            term *= half / k
            total += term
        return total
    total = math.erfc(math.sqrt(half))
    term = math.exp(-half) * math.sqrt(half) / math.gamma(1.5)
    for k in range((degrees - 1) // 2):
        total += term
        term *= half / (k + 1.5)
    return total


def percentile(values: ArrayLike, percent: float) -> float:
    """The value under which so many per cent of some finite values lie, by straight lines between them; NaN for none.

    As `numpy.percentile`, which loads masked arrays at its first call (a fiftieth of a start).
    Any shape; what is not finite must have been left out.
    """
    ordered = np.sort(np.asarray(values, dtype=float).ravel())
    if len(ordered) == 0:
        return float("nan")
    return float(np.interp(percent / 100.0 * (len(ordered) - 1), np.arange(len(ordered)), ordered))


def distinct(values: NDArray[np.int64]) -> NDArray[np.int64]:
    """What there is of whole numbers [n], ascending. As np.unique, which loads NumPy's masked arrays: 20 ms of a start."""
    ordered = np.sort(values)
    return ordered[np.append(True, np.diff(ordered) > 0)] if len(ordered) else ordered


def mean(values: Sequence[float]) -> float:
    """Of a few numbers, one at least: an array of them would cost ten times as much."""
    return math.fsum(values) / len(values)


def median(values: ArrayLike) -> float:
    """The middle of some finite values; NaN for none. Any shape."""
    return percentile(values, 50.0)


_NEAR = (
    (
        -39.69683028665376,
        220.9460984245205,
        -275.9285104469687,
        138.3577518672690,
        -30.66479806614716,
        2.506628277459239,
    ),
    (-54.47609879822406, 161.5858368580409, -155.6989798598866, 66.80131188771972, -13.28068155288572, 1.0),
)
_TAIL = (
    (
        -7.784894002430293e-03,
        -0.3223964580411365,
        -2.400758277161838,
        -2.549732539343734,
        4.374664141464968,
        2.938163982698783,
    ),
    (7.784695709041462e-03, 0.3224671290700398, 2.445134137142996, 3.754408661907416, 1.0),
)
_TAIL_FROM = 0.02425


def normal_quantile(p: ArrayLike) -> Floats:
    """Φ⁻¹(p) for 0 < p < 1, to nine digits: Acklam's rational approximation, in the middle and in the tails.

    Shape as given: element by element.
    """
    p = np.asarray(p, dtype=float)
    side = np.minimum(p, 1.0 - p)
    q = p - 0.5
    r = q * q
    middle = q * np.polyval(_NEAR[0], r) / np.polyval(_NEAR[1], r)
    t = np.sqrt(-2.0 * np.log(np.maximum(side, 1e-300)))
    tail = np.polyval(_TAIL[0], t) / np.polyval(_TAIL[1], t)
    return np.asarray(np.where(side < _TAIL_FROM, np.where(q < 0, tail, -tail), middle))


DRAWS = 10_000
_SPREAD, _MIX_1, _MIX_2 = (np.uint64(v) for v in (0x9E3779B97F4A7C15, 0xBF58476D1CE4E5B9, 0x94D049BB133111EB))


def _order(row: int) -> NDArray[np.intp]:
    """A shuffle of `DRAWS` places, always the same for a row: the order of hashed numbers (SplitMix64: Steele, Lea and
    Flood 2014). Not by numpy.random: a start would wait for that to load."""
    z = (np.arange(DRAWS, dtype=np.uint64) + np.uint64(row * DRAWS + 1)) * _SPREAD
    z = (z ^ (z >> np.uint64(30))) * _MIX_1
    z = (z ^ (z >> np.uint64(27))) * _MIX_2
    return np.argsort(z ^ (z >> np.uint64(31)))


@lru_cache(maxsize=256)
def normal_draws(row: int) -> NDArray[np.float32]:
    """`DRAWS` standard normal draws: the middles of as many equally likely slices, in an order of the row's own (Latin
    hypercube: McKay, Beckman and Conover 1979).

    Always the same for a row, so that an interval does not flicker while a hand moves a value. Cached; not to be
    written to.
    [DRAWS], float32.
    """
    out = normal_quantile((np.arange(DRAWS) + 0.5) / DRAWS).astype(np.float32)[_order(2 * row)]
    out.flags.writeable = False
    return out


@lru_cache(maxsize=256)
def rectangle_draws(row: int) -> NDArray[np.float32]:
    """The same for a rectangle from −1 to 1. [DRAWS], float32, within ±1."""
    out = ((np.arange(DRAWS) + 0.5) * (2.0 / DRAWS) - 1.0).astype(np.float32)[_order(2 * row + 1)]
    out.flags.writeable = False
    return out
