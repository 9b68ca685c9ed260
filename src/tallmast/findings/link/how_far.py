"""How far at another power, pad, gain or height: every combination that is asked for, ended by the horizon; and what doubling it takes."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna
from tallmast.physics.decibels import dbm_from_watt
from tallmast.units import show

from ..aims import Options
from ..figure import Figure, Working
from .budget import Ask
from .falls import reach_of
from .margin import Margin

SLOPES = (2.0, 3.77, 4.0)
"""Exponents that practitioners go by: free space, what was once fitted over land and sea, plane earth."""
MOST_ROWS = 24


class Option(Frozen, eq=True):
    """One combination: what is sent through what, with so much more gain, from so high."""

    power_w: float
    pad_db: float
    more_db: float
    height_m: float
    band_hz: float | None = None
    """None: that of the question."""

    @property
    def words(self) -> str:
        parts = [show.power(self.power_w)]
        parts += [f"{self.pad_db:g} dB of pads"] if self.pad_db else []
        parts += [f"{show.plus(self.more_db, 1)} dB gain"] if self.more_db else []
        parts += [show.frequency(self.band_hz, 0)] if self.band_hz is not None else []
        return ", ".join(parts)

    def weaker_db(self, here_hz: float) -> float:
        """What another band takes more of an open path, antennas of equal gain (Rec. ITU-R P.525: 20 log f)."""
        return 20.0 * math.log10(self.band_hz / here_hz) if self.band_hz is not None else 0.0


class FarRow(Frozen):
    """How far with one combination."""

    option: Option
    margin: Figure
    """At the place to be reached."""
    reach: Figure | None
    by_slope_m: dict[float, float]
    """By exponent how far it would be, were the path to go on so; no farther than the horizon."""
    horizon_m: float
    left_there_db: float
    """What is left at the horizon: with less of it than zero the range ends sooner."""
    left_there_half_db: float
    """Half of its 90 % interval."""
    reached: tuple[str, ...]
    missed: tuple[str, ...]

    @property
    def horizon_ends_it(self) -> bool:
        return self.reach is not None and self.reach.value * 1e3 >= self.horizon_m * 0.999

    @property
    def range_text(self) -> str:
        """`6.3 (5.1 to 7.6) km`, or that the horizon ends it and with how much left."""
        if self.reach is None:
            return "can’t be told"
        return f"{self.reach.text}{self.horizon_words}"

    @property
    def horizon_words(self) -> str:
        """`, the horizon, 12 ± 9 dB left`, where that ends it."""
        if not self.horizon_ends_it:
            return ""
        return f", the horizon, {show.plus_minus(self.left_there_db, self.left_there_half_db, 'dB')} left"

    def slope_text(self, n: float) -> str:
        """How far with one exponent, or that the horizon ends it."""
        far_m = self.by_slope_m[n]
        return "the horizon" if far_m >= self.horizon_m * 0.999 else show.distance(far_m)


class HowFar(Frozen):
    """All combinations of one antenna."""

    antenna: Antenna
    rows: tuple[FarRow, ...]
    doubling: Figure | None
    """More signal that twice the first one's range takes; None where the horizon ends it before."""
    heights_differ: bool
    wanted_m: float
    places: tuple[tuple[str, float], ...]
    """(name, distance m) of every place of a known distance."""

    @property
    def rings(self) -> tuple[tuple[str, float], ...]:
        """(words, m) of each range to be laid round home; all that one horizon ends are one ring."""
        rings: list[tuple[str, float]] = []
        ended: dict[float, list[str]] = {}
        for row in self.rows:
            if row.horizon_ends_it:
                ended.setdefault(row.horizon_m, []).append(row.option.words)
            elif row.reach is not None:
                rings.append((row.option.words, row.reach.value * 1e3))
        for far_m, words in ended.items():
            which = words[0] if len(words) == 1 else f"{words[0]} to {words[-1]}"
            rings.append((f"radio horizon: {which}", far_m))
        return tuple(rings)


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
        asked.powers_w or (power_w,),
        asked.pads_db or (0.0,),
        asked.more_db or (0.0,),
        asked.heights_m or (height_m,),
        (None, *asked.bands_hz),
    )
    yield from (Option(*one) for one in itertools.islice(every, MOST_ROWS))


def how_far(ask: Ask, margin: Margin, options: Sequence[Option]) -> HowFar | None:
    """None where the places don't tell how the level falls."""
    falls = margin.falls
    if falls.trouble:
        return None
    rows = tuple(_row(ask, margin, option) for option in options)
    places = tuple((name, way.whole_m) for name, way in ask.way.others)
    differ = len({o.height_m for o in options}) > 1
    return HowFar(margin.antenna, rows, _doubling(margin, options[0], rows[0]), differ, ask.distance_m, places)


def _row(ask: Ask, margin: Margin, option: Option) -> FarRow:
    falls = margin.falls
    step = dbm_from_watt(option.power_w) - dbm_from_watt(ask.power_w) - (option.pad_db - ask.pad_db) + option.more_db
    step -= option.weaker_db(ask.frequency_hz)
    raised = falls.raised(option.height_m)
    left, half = falls.left(margin.figure)
    left = left + step + raised
    at_place = margin.figure.value + step + float(np.interp(ask.distance_m, falls.d, raised))
    lines = (
        f"as it stands {show.plus(margin.figure.value, 1)} dB",
        f"{option.words}: {show.plus(at_place - margin.figure.value, 1)} dB",
    )
    known = margin.there.working
    meaning = "The same path, another step of the staircase. What may be sent is for your licence to say."
    if option.band_hz is not None:
        meaning += (
            " Of another band this is the open path alone: over ground a lower one loses less, a higher one more."
        )
    working = Working(lines, known.parts, known.source, meaning)
    figure = Figure(f"margin with {option.words}", at_place, margin.there.u, "dB", working, margin.there.degrees)
    horizon = falls.horizon_m(option.height_m)
    found = reach_of(falls, margin.figure, step, option.height_m, f"range with {option.words}")
    there, at_horizon = (float(np.interp(d, falls.d, left)) for d in (falls.last_m, horizon))
    half_there = float(np.interp(horizon, falls.d, half))
    slopes = {n: min(falls.last_m * 10.0 ** (min(max(there, -150.0), 150.0) / (10.0 * n)), horizon) for n in SLOPES}
    left_there = falls.left_at(left, [way for _, way in ask.way.others])
    is_reached = [there > ask.noisier_db(way.place) for there, (_, way) in zip(left_there, ask.way.others, strict=True)]
    reached, missed = (
        [name for (name, _), it_is in zip(ask.way.others, is_reached, strict=True) if it_is is wanted]
        for wanted in (True, False)
    )
    reach = found.figure if found is not None else None
    return FarRow(option, figure, reach, slopes, horizon, at_horizon, half_there, tuple(reached), tuple(missed))


def _doubling(margin: Margin, option: Option, row: FarRow) -> Figure | None:
    """More signal for twice the range."""
    falls = margin.falls
    if row.reach is None:
        return None
    now, twice = row.reach.value * 1e3, row.reach.value * 2e3
    if twice > falls.horizon_m(option.height_m) or now <= falls.d[0]:
        return None
    left = falls.left(margin.figure)[0] + falls.raised(option.height_m)
    at, then = (float(np.interp(d, falls.d, left)) for d in (now, twice))
    u_at, u_then = (float(np.interp(d, falls.d, falls.over_distance[1])) for d in (now, twice))
    u = math.sqrt(max(u_then**2 - u_at**2, 0.0))
    lines = (f"from {show.distance(now)} to {show.distance(twice)} the level falls by {show.decibel(at - then)}",)
    working = Working(
        lines,
        (("how the path goes on", show.decibel(u, 1)),),
        "the path beyond the range",
        "In free space 6.0 dB, over plane earth 12.0 dB.",
    )
    return Figure("more for twice the range", at - then, u, "dB", working)


def doubling_words(found: HowFar) -> str:
    """`Twice the range takes 12.1 dB more: 16 times the power.`"""
    if found.doubling is None:
        return "The horizon ends it before the range doubles: raise an antenna to see farther."
    more = found.doubling.value
    times = 10.0 ** (more / 10.0)
    as_power = f"{times:.0f} times the power" if times < 1000 else "more than any power"
    return (
        f"Twice the range takes {found.doubling.text} more here: {as_power}. "
        f"3 dB, half the power, is {2.0 ** (-3.0 / max(more, 1e-9)):.2f} of the range."
    )


def equal_bands_words(here_hz: float, others_hz: Sequence[float], power_w: float) -> list[str]:
    """What power does the same in other bands, over an open path and antennas of equal gain."""
    return [
        f"{show.power(power_w)} at {show.frequency(here_hz, 0)} does what "
        f"{show.power(power_w * (other / here_hz) ** 2)} does at {show.frequency(other, 0)}, with antennas of equal gain."
        for other in others_hz
    ]
