"""How the margin falls over distance: by the runs and by all models beyond them, else by free space and what the way takes; and where it
runs out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property
from typing import Literal, cast

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics import diffraction, propagation
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..field.path import PathFit
from ..figure import Figure, Working
from ..rails import exponent_trouble, model_u_db
from ..way import Profile, Way
from ..way.profile import OverDistance

POINTS = 64
NEAREST_M = 10.0


class Falls(Frozen):
    """The level over distance but for a height, from the nearest to the horizon of the highest antenna that is tried."""

    way: Way
    fit: PathFit | None
    """Of the runs; None: reckoned."""
    highest_m: float

    @property
    def trouble(self) -> str:
        """Why it can't be told how far, as the tail of a sentence; empty where it can."""
        return exponent_trouble(self.fit.exponent) if self.fit is not None else ""

    def horizon_m(self, home_height_m: float | None = None) -> float:
        p = self.way.profile
        return (p if home_height_m is None else p.moved(home_height_m=home_height_m)).horizon_m

    @cached_property
    def d(self) -> Floats:
        far = max(self.horizon_m(self.highest_m), self.way.distance_m, 2.0 * NEAREST_M)
        return np.geomspace(NEAREST_M, far, POINTS)

    @cached_property
    def over_distance(self) -> tuple[Floats, Floats]:
        return self.shape(self.d)

    def shape(self, d: Floats) -> tuple[Floats, Floats]:
        """(level, its standard uncertainty against that at the place that is asked for, or at the farthest one measured before it) [n]."""
        fit = self.fit
        if fit is None:
            return self._reckoned(d), np.zeros(len(d))
        since = min(self.way.distance_m, fit.reach_m[1])
        value = fit.exponent.value * (-10.0 * np.log10(d / 1000.0) - fit.x_mean)
        u = fit.exponent.u * np.abs(10.0 * np.log10(d / since))
        beyond, out = self.way.beyond, d > fit.reach_m[1]
        if beyond is not None and out.any():
            value[out], u[out] = beyond.over_mean(d[out])
        elif out.any():
            model = [model_u_db(fit.exponent.value, float(one), fit.reach_m[1]) for one in d[out]]
            u[out] = np.hypot(u[out], model)
        return value, u

    def _reckoned(self, d: Floats) -> Floats:
        p = self.way.profile
        level = -propagation.free_space_loss_db(d, p.frequency_hz) - self.earth(d, p.home_height_m)
        return np.asarray(level - self.beside(d))

    def beside(self, d: Floats) -> Floats:
        """What stands on the way to the place takes as far as that: beside the smooth earth, or added to the path of the runs."""
        at, taken, _ = self.stands_over_distance(self.way.profile)
        return np.interp(d, at, taken)

    def stands_over_distance(self, way: Profile) -> OverDistance:
        return way.beside_over_distance if self.fit is None else way.added_over_distance

    def stands_db(self, way: Profile) -> float:
        """The same of a whole way."""
        return way.beside_db if self.fit is None else way.added_db

    def earth(self, d: Floats, home_height_m: float) -> Floats:
        """What the smooth earth takes, both antennas over the ground smoothed between."""
        p = self.way.profile.moved(home_height_m=home_height_m)
        return diffraction.smooth_earth_db(d, *p.effective_heights_m, p.frequency_hz, p.conditions.k_factor)

    def raised(self, home_height_m: float) -> Floats:
        """What another height at home adds over distance."""
        now = self.way.profile.home_height_m
        if abs(home_height_m - now) < 0.05:
            return np.zeros(len(self.d))
        return self.earth(self.d, now) - self.earth(self.d, home_height_m)

    def left(self, margin: Figure) -> tuple[Floats, Floats]:
        """(what is left over distance dB, half of its 90 % interval) of a margin at the place that is asked for."""
        value, u = self.over_distance
        here, here_u = (float(v[0]) for v in self.shape(np.array([self.way.distance_m])))
        rest = max(margin.u**2 - here_u**2, 0.0)
        return margin.value + value - here, coverage_factor(margin.degrees) * np.sqrt(rest + u**2)

    def left_at(self, left_db: Floats, ways: Sequence[Profile]) -> list[float]:
        """Of what is left over distance [n], that at other places: as far as those, with what stands on the way there instead."""
        if not ways:
            return []
        at = np.array([way.whole_m for way in ways])
        one, other = np.array([way.effective_heights_m for way in ways]).T
        earth = diffraction.smooth_earth_db(at, one, other, ways[0].frequency_hz, ways[0].conditions.k_factor)
        if self.fit is None:
            more = earth - self.earth(at, self.way.profile.home_height_m)
        else:  # the runs' own path holds it already, but for what lies behind the horizon
            more = np.where(at > [way.horizon_m for way in ways], earth, 0.0)
        stands = [self.stands_db(way) for way in ways]
        left = np.interp(at, self.d, left_db) + self.beside(at) - stands - more
        return cast(list[float], left.tolist())

    @property
    def last_m(self) -> float:
        """From where practitioners' exponents go on: the farthest place, else the break of two rays, at most the place that is asked for."""
        if self.fit is not None:
            return self.fit.reach_m[1]
        p = self.way.profile
        at = propagation.breakpoint_m(max(p.home_height_m, 0.5), max(p.away_height_m, 0.5), p.frequency_hz)
        return min(max(at, NEAREST_M), self.way.distance_m)


class Reach(Frozen):
    """How far: where nothing is left."""

    figure: Figure
    at_horizon: bool

    @property
    def text(self) -> str:
        """`6.3 (5.1 to 7.6) km`; where the horizon ends it, that it does."""
        return f"{self.figure.text}, the horizon" if self.at_horizon else self.figure.text


def reach_of(
    falls: Falls, margin: Figure, step_db: float = 0.0, home_height_m: float | None = None, name: str = "range"
) -> Reach | None:
    """With so much more signal, and from another height at home; None where the places don't tell."""
    if falls.trouble:
        return None
    left, half = falls.left(margin)
    left = left + step_db + (falls.raised(home_height_m) if home_height_m is not None else 0.0)
    horizon = falls.horizon_m(home_height_m)
    value, low, high = (min(runs_out(falls.d, one), horizon) for one in (left, left - half, left + half))
    ends = value >= horizon * 0.999
    k = falls.way.profile.conditions.k_factor
    lines = [
        f"margin {margin.text} at {show.distance(falls.way.distance_m)}"
        + (f", {show.plus(step_db, 1)} dB" if abs(step_db) >= 0.05 else ""),
        f"runs out at {show.distance(value)}" if not ends else "lies beyond the horizon",
        f"radio horizon {show.distance(horizon)}, k = {k:.3g}",
    ]
    if falls.fit is not None:
        lines.insert(
            1,
            f"places to {show.distance(falls.fit.reach_m[1])}; beyond them {'all models by their merit' if falls.way.beyond is not None else 'their exponent'}",
        )
    source = (
        "the runs, and models of the path beyond them" if falls.fit is not None else "Rec. ITU-R P.525 and P.526-15"
    )
    meaning = (
        "It ends at the radio horizon at these heights: raise an antenna to see farther."
        if ends
        else "Beyond the farthest place measured this is a forecast: what is not noted on the way may end it sooner."
    )
    u_there = float(np.interp(value, falls.d, falls.over_distance[1]))
    parts = (("the margin", show.decibel(margin.u, 1)), ("how the path goes on", show.decibel(u_there, 1)))
    working = Working(tuple(lines), parts, source, meaning)
    km = (value / 1e3, low / 1e3, high / 1e3)
    u = 0.5 * (km[2] - km[1]) / coverage_factor(math.inf)
    bound: Literal["", "at most"] = "at most" if high <= falls.d[0] else ""  # nowhere that is far enough to tell
    digits = 1 if km[0] >= 1 else 2
    return Reach(Figure(name, km[0], u, "km", working, low=km[1], high=km[2], bound=bound, digits=digits), ends)


def runs_out(distance_m: Floats, left_db: Floats) -> float:
    """The first distance at which nothing is left; the last one where there always is some, the first where there never is. Both [n]."""
    below = np.flatnonzero(left_db <= 0.0)
    if not len(below):
        return float(distance_m[-1])
    i = int(below[0])
    if i == 0:
        return float(distance_m[0])
    share = left_db[i - 1] / (left_db[i - 1] - left_db[i])
    return float(distance_m[i - 1] * (distance_m[i] / distance_m[i - 1]) ** share)
