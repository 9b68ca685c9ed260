"""An SWR with its lopsided interval, and its judgement against a limit."""

from __future__ import annotations

from typing import Literal

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


def swr_figure(name: str, magnitude: float, u: float, bounded: float, working: Working) -> Figure:
    """An SWR with its lopsided interval; one-sided where the bench can't tell it from a perfect match."""
    low, high = (float(edge[0]) for edge in swr_interval(*(np.array([v]) for v in (magnitude, u, bounded))))
    value = float(reflection.swr(magnitude))
    bound: Literal["", "at most"] = "at most" if low == 1.0 else ""
    # dSWR/d|Γ| = 2/(1−|Γ|)².
    u_swr = u * 2.0 / (1.0 - min(magnitude, 0.95)) ** 2
    return Figure(name, value, u_swr, "", working, low=low, high=high, bound=bound)


def judge_limit(figure: Figure, limit: float) -> Mark:
    """At or under a limit: holds or fails only when the whole interval says so."""
    low, high = figure.interval
    return "holds" if high <= limit else "fails" if low > limit else "open"
