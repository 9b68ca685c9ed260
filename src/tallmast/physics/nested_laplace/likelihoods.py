"""How likely notes are, and the slopes of that, given the linear forms that they are about.

All arrays are [models, notes]: many values of the hyperparameters at once. Each class gives the logarithm of the likelihood by
model, its gradient by each linear form, and minus its second derivatives; all are log-concave, so those are never negative.
A hyperparameter comes as the column that holds its exponential; the last column of `scales` is 1, for none.
"""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from ..decibels import Floats
from ..normal_tails import log_between, log_cdf

LOG_2PI = math.log(2.0 * math.pi)
OPEN = 1e5
"""An edge that is open, in standard deviations."""
FARTHEST = 9e4
"""An edge may lie so far out and no farther: what would is infeasible, and the step to it is halved."""

Columns = NDArray[np.intp]


class Slopes(Frozen):
    """Of one kind of notes: the gradient by their linear forms and minus the second derivatives, [models, forms]; `cross`: of the
    pairs of forms, where a note is about two."""

    gradient: Floats
    curvature: Floats
    cross: Floats | None = None


class Gaussian(Frozen):
    """f·y ~ N(η, v·f² + c·σ²), with f and σ exponentials of hyperparameters: a value read on a scale whose unit is f of the latents'.
    The Jacobian f is counted, so that evidences of different units can be held against each other."""

    value: Floats
    variance: Floats
    """Of the reading itself, in its own unit. Shape [notes]."""
    share: Floats
    """c"""
    spread: Columns
    unit: Columns

    def log(self, eta: Floats, scales: Floats) -> Floats:
        _, rest, variance, factor = self._apart(eta, scales)
        return np.asarray((-0.5 * (rest * rest / variance + np.log(variance) + LOG_2PI) + np.log(factor)).sum(axis=1))

    def slopes(self, eta: Floats, scales: Floats) -> Slopes:
        _, rest, variance, _ = self._apart(eta, scales)
        return Slopes(rest / variance, 1.0 / variance)

    def _apart(self, eta: Floats, scales: Floats) -> tuple[Floats, Floats, Floats, Floats]:
        factor = scales[:, self.unit]
        variance = self.variance * factor**2 + self.share * scales[:, self.spread] ** 2
        return eta, factor * self.value - eta, variance, factor


class Interval(Frozen):
    """P = Φ((η_high + a·f)/s) − Φ((η_low + b·f)/s), s² = v + c·σ²: a normal deviate that lies between two edges, one of which may be
    open. Heard or not, a grade between its thresholds, a reading beyond a ceiling or a floor, good to here and lost by there: all
    are this. The forms are all upper edges, then all lower ones."""

    has_high: NDArray[np.bool_]
    has_low: NDArray[np.bool_]
    variance: Floats
    share: Floats
    spread: Columns
    high_by: Floats
    """a"""
    low_by: Floats
    """b"""
    unit: Columns

    @cached_property
    def _one_sided(self) -> Floats:
        """1 where only the upper edge is there, −1 where only the lower one, 0 where both are."""
        return np.asarray(self.has_high.astype(float) - self.has_low.astype(float))

    def log(self, eta: Floats, scales: Floats) -> Floats:
        low, high, _ = self._edges(eta, scales)
        bad = self._infeasible(low, high)
        low, high = np.where(bad[:, None], -1.0, low), np.where(bad[:, None], 1.0, high)
        return np.where(bad, -np.inf, self._logs(low, high).sum(axis=1))

    def _logs(self, low: Floats, high: Floats) -> Floats:
        """ln of each probability; of one edge alone it is that of one tail."""
        side = self._one_sided
        both = side == 0.0
        out = np.empty_like(low)
        if not both.all():
            one = ~both
            out[:, one] = log_cdf(np.where(side[one] > 0.0, high[:, one], -low[:, one]))
        if both.any():
            out[:, both] = log_between(low[:, both], high[:, both])
        return out

    def slopes(self, eta: Floats, scales: Floats) -> Slopes:
        low, high, s = self._edges(eta, scales)
        logs = self._logs(low, high)
        with np.errstate(under="ignore"):
            by_high = np.where(self.has_high, np.exp(-0.5 * high * high - 0.5 * LOG_2PI - logs), 0.0)
            by_low = np.where(self.has_low, np.exp(-0.5 * low * low - 0.5 * LOG_2PI - logs), 0.0)
        twice_high = by_high * (np.where(self.has_high, high, 0.0) + by_high)
        twice_low = by_low * (by_low - np.where(self.has_low, low, 0.0))
        return Slopes(
            np.concatenate([by_high / s, -by_low / s], axis=1),
            np.concatenate([twice_high / s**2, twice_low / s**2], axis=1),
            -by_high * by_low / s**2,
        )

    def _edges(self, eta: Floats, scales: Floats) -> tuple[Floats, Floats, Floats]:
        s = np.sqrt(self.variance + self.share * scales[:, self.spread] ** 2)
        factor, half = scales[:, self.unit], eta.shape[1] // 2
        high = np.where(self.has_high, (eta[:, :half] + self.high_by * factor) / s, OPEN)
        low = np.where(self.has_low, (eta[:, half:] + self.low_by * factor) / s, -OPEN)
        return low, high, s

    def _infeasible(self, low: Floats, high: Floats) -> NDArray[np.bool_]:
        far = (np.abs(high) > FARTHEST) & self.has_high | (np.abs(low) > FARTHEST) & self.has_low
        return np.asarray(((high <= low) | far).any(axis=1))


class Poisson(Frozen):
    """k ~ Poisson(T·exp(−b·η)), b the exponential of a hyperparameter: events that grow rarer as η rises."""

    count: Floats
    exposure: Floats
    """T"""
    steepness: Columns
    log_factorials: Floats

    def log(self, eta: Floats, scales: Floats) -> Floats:
        exponent = np.log(self.exposure) - scales[:, self.steepness] * eta
        bad = (exponent > 50.0).any(axis=1)
        exponent = np.minimum(exponent, 50.0)
        out = (self.count * exponent - np.exp(exponent) - self.log_factorials).sum(axis=1)
        return np.where(bad, -np.inf, out)

    def slopes(self, eta: Floats, scales: Floats) -> Slopes:
        b = scales[:, self.steepness]
        expected = np.exp(np.minimum(np.log(self.exposure) - b * eta, 50.0))
        return Slopes(-b * (self.count - expected), b * b * expected)


Likelihood = Gaussian | Interval | Poisson
