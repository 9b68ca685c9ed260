"""What is known of one number: its distribution, on a grid."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen

from ..decibels import Floats

FINE = 321
MOST = 4000


class Marginal(Frozen):
    """A distribution by its density at the points of an even grid, linear between them."""

    at: Floats
    density: Floats

    @staticmethod
    def of(at: Floats, density: Floats) -> Marginal:
        """With the density brought to an area of 1."""
        return Marginal(at, density / np.trapezoid(density, at))

    @property
    def _below(self) -> Floats:
        steps = 0.5 * (self.density[1:] + self.density[:-1]) * np.diff(self.at)
        summed = np.concatenate([[0.0], np.cumsum(steps)])
        return np.asarray(summed / summed[-1])

    def chance_below(self, value: ArrayLike) -> Floats:
        """Of values in any shape."""
        return np.asarray(np.interp(np.asarray(value, dtype=float), self.at, self._below))

    def chance_above(self, value: ArrayLike) -> Floats:
        return np.asarray(1.0 - self.chance_below(value))

    def quantile(self, share: ArrayLike) -> Floats:
        """The value that a share of it lies below; of shares in any shape."""
        below = self._below
        rising = np.concatenate([[True], np.diff(below) > 0.0])
        return np.asarray(np.interp(np.asarray(share, dtype=float), below[rising], self.at[rising]))

    @property
    def mean(self) -> float:
        return float(np.trapezoid(self.at * self.density, self.at))

    @property
    def sd(self) -> float:
        return float(np.sqrt(max(np.trapezoid((self.at - self.mean) ** 2 * self.density, self.at), 0.0)))

    def moved(self, by: float) -> Marginal:
        return Marginal(self.at + by, self.density)

    def blurred(self, sd: float) -> Marginal:
        """Of the number and an independent normal one of mean nought together."""
        step = max(min(float(self.at[1] - self.at[0]), sd / 4.0), sd / FINE)
        at = np.arange(self.at[0], self.at[-1] + step, step)
        if len(at) > MOST:
            at = np.linspace(self.at[0], self.at[-1], MOST)
            step = float(at[1] - at[0])
        reach = int(np.ceil(5.0 * sd / step))
        bell = np.exp(-0.5 * (np.arange(-reach, reach + 1) * step / sd) ** 2)
        out = np.convolve(np.interp(at, self.at, self.density, left=0.0, right=0.0), bell)
        wide = at[0] + step * np.arange(-reach, len(at) + reach)
        even = np.linspace(wide[0], wide[-1], 2 * FINE)
        return Marginal.of(even, np.interp(even, wide, out))


def mixed(parts: Sequence[Marginal], weights: Sequence[float]) -> Marginal:
    """A number that is distributed as one of them, each with its chance."""
    low, high = min(p.at[0] for p in parts), max(p.at[-1] for p in parts)
    finest = min(p.at[1] - p.at[0] for p, w in zip(parts, weights, strict=True) if w > 0.0)
    at = np.linspace(low, high, int(min(max(FINE, (high - low) / finest), 8 * FINE)))
    total = sum(
        (w * np.interp(at, p.at, p.density, left=0.0, right=0.0) for p, w in zip(parts, weights, strict=True)),
        np.zeros_like(at),
    )
    return Marginal.of(at, total)
