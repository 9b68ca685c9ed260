"""A smooth line through scattered points: local straight lines, as wide as the points ask (Cleveland 1979)."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

from tallmast.frozen import Frozen

from .decibels import Floats

FEWEST = 4


class Line(Frozen):
    """At each place asked [m]: value, standard uncertainty from the points' own scatter, slope; NaN where there are no points."""

    value: Floats
    u: Floats
    slope: Floats
    scatter: float
    degrees: float


def local_line(x: ArrayLike, y: ArrayLike, at: ArrayLike, reaches: tuple[float, ...]) -> Line:
    """Points [n] at places [m]; `reaches` in units of x, of which the one that foretells points left out best is taken.

    By generalised cross-validation (Craven and Wahba 1979); a wider one has to foretell clearly better. Nothing is told
    beyond the points: at a place with fewer than four of them within reach, or all to one side.
    """
    x, y, at = (np.asarray(v, dtype=float) for v in (x, y, at))
    best: tuple[float, float, float, float] | None = None
    for reach in reaches:
        weights, told = _weights(x, x, reach)
        own = np.diag(weights)
        free = 1.0 - own
        good = told & (free > 0.05)
        if good.sum() < max(FEWEST, 0.6 * len(x)):
            continue
        left = (y - weights @ y)[good]
        score = float(np.mean(left**2)) / float(np.mean(free[good])) ** 2
        if best is None or score < 0.97 * best[0]:
            degrees = max(float(free[good].sum()), 1.0)
            best = (score, reach, math.sqrt(float(left @ left) / degrees), degrees)
    if best is None:
        nothing = np.full(len(at), np.nan)
        return Line(nothing, nothing, nothing, math.nan, 0.0)
    _, reach, scatter, degrees = best
    weights, told = _weights(x, at, reach)
    slopes, _ = _weights(x, at, reach, slope=True)
    value, slope = weights @ y, slopes @ y
    u = scatter * np.sqrt(np.sum(weights**2, axis=1))
    hide = np.where(told, 1.0, np.nan)
    return Line(value * hide, u * hide, slope * hide, scatter, degrees)


def _weights(x: Floats, at: Floats, reach: float, slope: bool = False) -> tuple[Floats, NDArray[np.bool_]]:
    """(weight of each point [n] in the line, or its slope, at each place [m], whether the place is told)."""
    off = (x[None, :] - at[:, None]) / reach
    kernel = np.where(np.abs(off) < 1.0, (1.0 - np.minimum(np.abs(off), 1.0) ** 3) ** 3, 0.0)
    s0, s1, s2 = (np.sum(kernel * off**k, axis=1) for k in range(3))
    determinant = np.maximum(s0 * s2 - s1**2, 1e-12)
    if slope:
        weights = kernel * (s0[:, None] * off - s1[:, None]) / determinant[:, None] / reach
    else:
        weights = kernel * (s2[:, None] - s1[:, None] * off) / determinant[:, None]
    told = (np.sum(kernel > 0, axis=1) >= FEWEST) & (np.abs(s1) < 0.55 * np.maximum(s0, 1e-12))
    return weights, told
