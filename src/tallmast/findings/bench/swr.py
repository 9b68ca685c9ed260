"""An SWR with its lopsided interval, and its judgement against a limit."""

from __future__ import annotations

from typing import Literal

import numpy as np

from tallmast.physics import reflection
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor

from ..figure import Figure, Mark, Working

NORMAL_90 = coverage_factor(float("inf"))


def swr_interval(magnitude: Floats, u: Floats) -> tuple[Floats, Floats]:
    """90 % interval of SWR from |Γ| and its standard uncertainty; the lower end stops at 1."""
    low = reflection.swr(np.maximum(magnitude - NORMAL_90 * u, 0.0))
    return low, reflection.swr(magnitude + NORMAL_90 * u)


def swr_figure(name: str, magnitude: float, u: float, working: Working) -> Figure:
    """An SWR with its lopsided interval; one-sided where the bench can't tell it from a perfect match."""
    low, high = swr_interval(np.array([magnitude]), np.array([u]))
    value = float(reflection.swr(magnitude))
    bound: Literal["", "at most"] = "at most" if magnitude < NORMAL_90 * u else ""
    return Figure(name, value, u, "", working, low=float(low[0]), high=float(high[0]), bound=bound)


def judge_limit(figure: Figure, limit: float) -> Mark:
    """At or under a limit: holds or fails only when the whole interval says so."""
    low, high = figure.interval
    return "holds" if high <= limit else "fails" if low > limit else "open"
