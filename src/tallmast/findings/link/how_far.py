"""How far at another power, pad, gain or height: every combination that is asked for, ended by the horizon; and what doubling it takes."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from tallmast.notebook.records import Antenna
from tallmast.physics import diffraction, propagation
from tallmast.physics.decibels import Floats, dbm_from_watt
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..aims import Options
from ..figure import Figure, Working
from ..rails import exponent_trouble
from .margin import RECKONED, Ask, Margin, runs_out

SLOPES = (2.0, 3.77, 4.0)
"""Exponents that practitioners go by: free space, what was once fitted over land and sea, plane earth."""
POINTS = 64
NEAREST_M = 10.0
MOST_ROWS = 24


@dataclass(frozen=True)
class Option:
    """One combination: what is sent through what, with so much more gain, from so high."""

    power_w: float
    pad_db: float
    more_db: float
    height_m: float

    @property
    def words(self) -> str:
        parts = [show.power(self.power_w)]
        parts += [f"{self.pad_db:g} dB of pads"] if self.pad_db else []
        parts += [f"{show.plus(self.more_db, 1)} dB gain"] if self.more_db else []
        return ", ".join(parts)


@dataclass(frozen=True, eq=False, repr=False)
class FarRow:
    """How far with one combination."""

    option: Option
    margin: Figure
    """At the place to be reached."""
    reach: Figure | None
    by_slope_m: dict[float, float]
    """By exponent how far it would be, were the path to go on so."""
    reached: tuple[str, ...]
    missed: tuple[str, ...]


@dataclass(frozen=True, eq=False, repr=False)
class HowFar:
    """All combinations of one antenna."""

    antenna: Antenna
    rows: tuple[FarRow, ...]
    doubling_db: float | None
    """More signal that twice the first one's range takes; None where the horizon ends it before."""
    heights_differ: bool
    wanted_m: float
    places: tuple[tuple[str, float], ...]
    """(name, distance m) of every place of a known distance."""


def options_of(
    asked: Options, power_w: float, tested_w: float | None, tested_pad_db: float, height_m: float
) -> Iterator[Option]:
    """Every combination of what was asked; of what nobody asked the full power, and the test's through its pads."""
    if asked == Options():
        yield Option(power_w, 0.0, 0.0, height_m)
        if tested_w is not None and (tested_w != power_w or tested_pad_db):
            yield Option(tested_w, tested_pad_db, 0.0, height_m)
        return
    every = itertools.product(
        asked.powers_w or (power_w,), asked.pads_db or (0.0,), asked.more_db or (0.0,), asked.heights_m or (height_m,)
    )
    yield from (Option(*one) for one in itertools.islice(every, MOST_ROWS))


class _Falls:
    """The margin of one antenna over distance, at full power and as its antennas stand."""

    def __init__(self, ask: Ask, margin: Margin, horizon_m: float) -> None:
        self.ask, self.margin = ask, margin
        self.measured = margin.basis not in RECKONED
        self.d = np.geomspace(NEAREST_M, max(horizon_m, 2.0 * NEAREST_M), POINTS)
        shape, self.u = self._shape(self.d)
        here, here_u = (float(v[0]) for v in self._shape(np.array([ask.distance_m])))
        self.left = margin.figure.value + shape - here
        rest = max(margin.figure.u**2 - here_u**2, 0.0)
        self.half = coverage_factor(margin.figure.degrees) * np.sqrt(rest + self.u**2)

    def _shape(self, d: Floats) -> tuple[Floats, Floats]:
        """(level over distance but for a height, its own u)."""
        ask, fit = self.ask, self.ask.group.fit if self.ask.group is not None else None
        if not self.measured or fit is None:
            return self._reckoned(d), np.zeros(len(d))
        inside = fit.exponent.value * (-10.0 * np.log10(d / 1000.0) - fit.x_mean)
        if ask.beyond is None:
            return inside, np.zeros(len(d))
        out = d > ask.beyond.farthest_m
        value, u = inside.copy(), np.zeros(len(d))
        if out.any():
            value[out], u[out] = ask.beyond.over_mean(d[out])
        return value, u

    def _reckoned(self, d: Floats) -> Floats:
        """Free space, the smooth earth, and what is known to stand on the way as far as the place."""
        ask = self.ask
        level = -propagation.free_space_loss_db(d, ask.frequency_hz) - self.earth(d, ask.heights_m[0])
        if ask.profile is not None and ask.profile.known:
            level = level - np.interp(d, *ask.profile.beside_over_distance)
        return np.asarray(level)

    def earth(self, d: Floats, height_m: float) -> Floats:
        """What the smooth earth takes from a height at home."""
        far, hz = self.ask.heights_m[1], self.ask.frequency_hz
        return np.array([diffraction.smooth_earth_db(float(one), height_m, far, hz) for one in d])

    @cached_property
    def _earth_now(self) -> Floats:
        return self.earth(self.d, self.ask.heights_m[0])

    def raised(self, height_m: float) -> Floats:
        """What another height at home adds over distance."""
        if abs(height_m - self.ask.heights_m[0]) < 0.05:
            return np.zeros(len(self.d))
        return self._earth_now - self.earth(self.d, height_m)

    @property
    def last(self) -> tuple[float, float]:
        """(distance, margin) from which practitioners' exponents go on: the farthest place, else the break of two rays."""
        ask = self.ask
        fit = ask.group.fit if ask.group is not None else None
        if self.measured and fit is not None:
            at = fit.reach_m[1]
        else:
            at = max(
                propagation.breakpoint_m(max(ask.heights_m[0], 0.5), max(ask.heights_m[1], 0.5), ask.frequency_hz),
                NEAREST_M,
            )
            at = min(at, ask.distance_m)
        return at, float(np.interp(at, self.d, self.left))


def how_far(ask: Ask, margin: Margin, options: Sequence[Option], places: Sequence[tuple[str, float]]) -> HowFar | None:
    """None where the places don't tell how the level falls."""
    fit = ask.group.fit if ask.group is not None else None
    if margin.basis not in RECKONED and fit is not None and ask.beyond is None and exponent_trouble(fit.exponent):
        return None
    heights = [o.height_m for o in options]
    horizon = propagation.radio_horizon_m(max(heights), ask.heights_m[1])
    falls = _Falls(ask, margin, horizon)
    rows = tuple(_row(falls, option, places) for option in options)
    return HowFar(
        margin.antenna,
        rows,
        _doubling(falls, options[0], rows[0]),
        len(set(heights)) > 1,
        ask.distance_m,
        tuple(places),
    )


def _row(falls: _Falls, option: Option, places: Sequence[tuple[str, float]]) -> FarRow:
    ask, margin = falls.ask, falls.margin
    step = dbm_from_watt(option.power_w) - dbm_from_watt(ask.power_w) - (option.pad_db - ask.pad_db) + option.more_db
    left = falls.left + step + falls.raised(option.height_m)
    horizon = propagation.radio_horizon_m(option.height_m, ask.heights_m[1])
    value, low, high = (min(runs_out(falls.d, one), horizon) for one in (left, left - falls.half, left + falls.half))
    at_place = margin.figure.value + step + float(np.interp(ask.distance_m, falls.d, falls.raised(option.height_m)))
    figure = Figure(
        f"margin with {option.words}",
        at_place,
        margin.figure.u,
        "dB",
        Working(
            (
                f"as it stands {show.plus(margin.figure.value, 1)} dB",
                f"{option.words}: {show.plus(at_place - margin.figure.value, 1)} dB",
            ),
            margin.figure.working.parts,
            margin.figure.working.source,
            "The same path, another step of the staircase. What may be sent is for your licence to say.",
        ),
        margin.figure.degrees,
    )
    ends = value >= horizon * 0.999
    meaning = (
        "The radio horizon at these heights ends it."
        if ends
        else "Where the margin runs out, as the path goes on by all that is known of it."
    )
    lines = (f"{option.words}, {show.distance(option.height_m)} up", f"radio horizon {show.distance(horizon)}")
    working = Working(lines, margin.figure.working.parts, margin.figure.working.source, meaning)
    km = [d / 1e3 for d in (value, low, high)]
    reach = Figure(
        f"range with {option.words}",
        km[0],
        0.5 * (km[2] - km[1]) / 1.645,
        "km",
        working,
        low=km[1],
        high=km[2],
        digits=1 if km[0] >= 1 else 2,
    )
    at, there = falls.last
    slopes = {n: min(at * 10.0 ** (min(max(there + step, -150.0), 150.0) / (10.0 * n)), horizon) for n in SLOPES}
    reached = tuple(name for name, d in places if float(np.interp(d, falls.d, left)) > 0.0 and d <= horizon)
    return FarRow(option, figure, reach, slopes, reached, tuple(name for name, _ in places if name not in reached))


def _doubling(falls: _Falls, option: Option, row: FarRow) -> float | None:
    """More signal for twice the range."""
    if row.reach is None:
        return None
    now, twice = row.reach.value * 1e3, row.reach.value * 2e3
    if twice > falls.d[-1] or now <= falls.d[0]:
        return None
    left = falls.left + falls.raised(option.height_m)
    return float(np.interp(now, falls.d, left) - np.interp(twice, falls.d, left))


def doubling_words(found: HowFar) -> str:
    """`Twice the range takes 12.1 dB more: 16 times the power.`"""
    if found.doubling_db is None:
        return "The horizon ends it before the range doubles: raise an antenna to see farther."
    times = 10.0 ** (found.doubling_db / 10.0)
    as_power = f"{times:.0f} times the power" if times < 1000 else "more than any power"
    return (
        f"Twice the range takes {show.decibel(found.doubling_db)} more here: {as_power}. "
        f"3 dB, half the power, is {10 ** (-3.0 / max(found.doubling_db / math.log10(2.0), 1e-9)):.2f} of the range."
    )


def equal_bands_words(here_hz: float, others_hz: Sequence[float], power_w: float) -> list[str]:
    """What power does the same in other bands, over an open path and antennas of equal gain."""
    return [
        f"{show.power(power_w)} at {show.frequency(here_hz, 0)} does what "
        f"{show.power(power_w * (other / here_hz) ** 2)} does at {show.frequency(other, 0)}, with antennas of equal gain."
        for other in others_hz
    ]
