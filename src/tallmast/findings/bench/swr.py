"""An SWR with its lopsided interval, and its judgement against a limit."""

from __future__ import annotations

import numpy as np

from tallmast.physics import reflection
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import bounded_factor, coverage_factor

from ..figure import Figure, Mark, Working

NORMAL_90 = coverage_factor(float("inf"))
NEAR_MATCH = 1.2
"""A reading under so many half-widths of |Γ| can't be told from a perfect match: residual directivity alone makes it."""


def swr_interval(magnitude: Floats, u: Floats, bounded: Floats) -> tuple[Floats, Floats]:
    """90 % interval of SWR from |Γ|, its standard uncertainty and the bounded share of that (residual directivity).

    Where |Γ| can't be told from a perfect match the interval is one-sided, from 1 on.
    """
    half = bounded_factor(bounded) * u
    near = magnitude < NEAR_MATCH * half
    up = np.where(near, bounded_factor(bounded, 0.80) * u, half)
    # Across Γ the vector counts too: |m + δ·e^jφ|² = (m + δ·cos φ)² + (δ·sin φ)².
    length2 = 2.0 * np.asarray(bounded) * np.asarray(u) ** 2
    high = np.sqrt((magnitude + up) ** 2 + np.maximum(length2 - up**2, 0.0))
    below = np.sqrt(np.maximum(magnitude - half, 0.0) ** 2 + np.maximum(length2 - half**2, 0.0))
    low = np.where(near, 0.0, np.minimum(below, magnitude))
    return reflection.swr(low), reflection.swr(np.minimum(high, 0.999999))


def swr_figures(name: str, magnitude: Floats, u: Floats, bounded: Floats, working: Working) -> list[Figure]:
    """SWRs [n] with their lopsided intervals; one-sided where the bench can't tell it from a perfect match."""
    low, high = swr_interval(magnitude, u, bounded)
    # dSWR/d|Γ| = 2/(1−|Γ|)².
    u_swr = u * 2.0 / (1.0 - np.minimum(magnitude, 0.95)) ** 2
    each = (v.tolist() for v in (reflection.swr(magnitude), u_swr, low, high))
    return [
        Figure(name, value, u_one, "", working, low=lowest, high=highest, bound="at most" if lowest == 1.0 else "")
        for value, u_one, lowest, highest in zip(*each, strict=True)
    ]


def swr_figure(name: str, magnitude: float, u: float, bounded: float, working: Working) -> Figure:
    """One such."""
    return swr_figures(name, np.array([magnitude]), np.array([u]), np.array([bounded]), working)[0]


def judge_limit(figure: Figure, limit: float) -> Mark:
    """At or under a limit: holds or fails only when the whole interval says so."""
    low, high = figure.interval
    return "holds" if high <= limit else "fails" if low > limit else "open"
