"""What repeated readings say of a mean: the grain of a display, likeness in time, and few of them.

A display that shows whole decibels shows the same one however often it is read: repeats that do not scatter say nothing
about what lies between its steps. Readings that follow each other quickly are alike, so that many of them say little more
than one.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike

from .decibels import Floats

GRAINS = (1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01)


def grain_of(values: ArrayLike, grains: Sequence[float] = GRAINS) -> float:
    """The largest of some steps of which every value [n] is a multiple; 0 where none is: no grain to speak of."""
    v = np.asarray(values, dtype=float)
    for grain in grains:
        if len(v) and float(np.abs(v / grain - np.round(v / grain)).max()) < 1e-6 / grain:
            return grain
    return 0.0


def u_of_grain(grain: float, scatter: float) -> float:
    """Standard uncertainty that rounding to `grain` leaves in the mean of readings with a `scatter`, grain included.

    Of steady readings a rectangle, q/√12 (JCGM 100 §F.2.2.1); scatter shakes the steps out, and by q/2 nothing is left:
    the error of a mean falls with exp(−2π²(s/q)²) (Widrow and Kollár, Quantization Noise, §5).
    """
    if grain <= 0:
        return 0.0
    own = math.sqrt(max(scatter**2 - grain**2 / 12.0, 0.0))
    return grain / math.sqrt(12.0) * math.exp(-2.0 * math.pi**2 * (own / grain) ** 2)


def _mean_share(n: int, rho: float) -> float:
    """Variance of a mean of n readings of a first-order process as a share of one reading's."""
    k = np.arange(1, n)
    return float((1.0 + 2.0 * np.sum((1.0 - k / n) * rho**k)) / n)


@lru_cache(maxsize=256)
def _seen(n: int) -> tuple[Floats, Floats]:
    """(ρ, the lag-one correlation that n readings with their mean taken off are expected to show for it)."""
    rhos = np.linspace(0.0, 0.98, 50)
    # The covariance of first-order readings less their mean is ρ^|i−j| less its row means and column means, plus the mean
    # of all: summed along the diagonal and beside it.
    mean = np.array([_mean_share(n, rho) for rho in rhos.tolist()])
    first_row = (1.0 - rhos**n) / (n * (1.0 - rhos))
    beside = (n - 1) * rhos - 2 * n * mean + 2 * first_row + (n - 1) * mean
    return rhos, beside / (n - n * mean)


def likeness(groups: Sequence[ArrayLike]) -> float:
    """Lag-one correlation of readings, 0 … 0.98, from groups [n] in the order they were read, about each group's own mean.

    Readings about their own mean look less alike than they are (Kendall 1954; Marriott and Pope 1954): what was seen is
    turned back through the expectation for groups of that length, and drawn towards 0 as far as so few readings may show
    it by chance (standard error of what is seen 1/√n of them all; how
    hard it is drawn was settled on known truths, between readings of which none and half are alike, and is not derived).
    What it does to a mean, (1+ρ)/(1−ρ), grows faster
    than ρ: the value given is that whose effect is the mean effect of what ρ may be (variance (1−ρ²)/n). Groups under
    three readings say nothing; none: 0.
    """
    told = [g - g.mean() for g in (np.asarray(g, dtype=float) for g in groups) if len(g) >= 3]
    whole = sum(float(e @ e) for e in told)
    if whole <= 0:
        return 0.0
    seen = sum(float(e[1:] @ e[:-1]) for e in told) / whole
    count = sum(len(e) for e in told)
    rhos, shown = _seen(min(round(count / len(told)), 200))
    rho = float(np.interp(seen, shown, rhos))
    if rho <= 0:
        return 0.0
    # In short groups what is seen moves less than what is so: chance then tells more of it.
    steep = (rhos[1] - rhos[0]) / max(float(np.interp(rho, rhos[1:], np.diff(shown))), 1e-3)
    sure = rho**4 / (rho**4 + (steep / count) ** 2)
    rho *= sure
    effect = (1.0 + rho) / (1.0 - rho) * (1.0 + 2.0 * sure / ((1.0 - rho) * count))
    return float(min((effect - 1.0) / (effect + 1.0), 0.98))


def inflation(n: int, rho: float) -> float:
    """By how much likeness widens the variance of a mean against s²/n, s² being what the n readings show of themselves."""
    if n < 2:
        return 1.0
    share = min(_mean_share(n, rho), 0.98)
    return (n - 1) * share / (1.0 - share)


def degrees(groups: Sequence[int], rho: float) -> float:
    """Degrees of freedom of a scatter pooled from groups of so many readings, likeness counted off; at least 1."""
    return max(sum(n - 1 for n in groups) * (1.0 - rho) / (1.0 + rho), 1.0)
