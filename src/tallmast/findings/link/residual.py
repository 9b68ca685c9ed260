"""The field against what the physics says of the path: level and slope are both judged, since lines that cross in the middle do not fit."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna
from tallmast.physics import propagation
from tallmast.physics.decibels import Floats
from tallmast.units import show

from ..field.group import Group
from ..field.path import PathFit
from ..figure import Check, Figure, Standing, Working
from .budget import Ask, fixed_budget
from .falls import NEAREST_M

Key = Literal["free", "ground", "plane"]
NAMES: dict[Key, str] = {
    "free": "free space",
    "ground": "what lies on the way",
    "plane": "plane earth at these heights",
}
SOURCES: dict[Key, str] = {
    "free": "Rec. ITU-R P.525",
    "ground": "Rec. ITU-R P.525 and P.526-15",
    "plane": "Rec. ITU-R P.1411 §4.2.1, plane earth",
}
TELLS_FIT_DB, TELLS_SLOPE = 8.0, 1.5
"""A comparison that is wider than this says nothing either way."""
ALIKE_DB, ALIKE_SLOPE = 0.3, 0.05
"""Nearer than this nothing is called different, however sure."""
LEAST_TAKEN_DB, LEAST_TAKEN_SLOPE = 0.5, 0.1
"""A path that takes less than this over the places is no other one than free space."""


class Against(Frozen):
    """The field of an antenna against one way in which a level may fall."""

    key: Key
    level: Figure
    """Field over model in the middle of the places, dB."""
    slope: Figure
    """Exponent of the field over that of the model."""
    exponent: float
    """Of the model, over these places."""
    model_db: Floats
    """Of the model, at each place, against what leaves both antennas."""
    own_u_db: float
    """Of the level, what is this antenna’s own: its gain and its runs; the rest it shares with all that were run."""

    @property
    def name(self) -> str:
        return NAMES[self.key]

    @property
    def at_level(self) -> bool:
        return abs(self.level.value) <= max(self.level.half, ALIKE_DB)

    @property
    def falls_alike(self) -> bool:
        return abs(self.slope.value) <= max(self.slope.half, ALIKE_SLOPE)

    @property
    def fits(self) -> bool:
        return self.at_level and self.falls_alike

    @property
    def tells(self) -> bool:
        """Whether it is told well enough for a fit to mean anything."""
        return self.level.half <= TELLS_FIT_DB and self.slope.half <= TELLS_SLOPE

    @property
    def off(self) -> float:
        """How far it is off, in halves of its intervals."""
        return math.hypot(self.level.value / max(self.level.half, 1e-6), self.slope.value / max(self.slope.half, 1e-6))


class Residual(Frozen):
    """The field of one antenna against every model, and the one that it fits best."""

    antenna: Antenna
    every: tuple[Against, ...]

    def of(self, key: Key) -> Against | None:
        return next((one for one in self.every if one.key == key), None)

    @property
    def free(self) -> Against:
        return self.every[0]

    @property
    def best(self) -> Against:
        """The simplest that fits, else the one that is least off."""
        return next((one for one in self.every if one.fits), min(self.every, key=lambda one: one.off))


def _slope_of(fit: PathFit, level_db: Floats) -> float:
    """The exponent that a line through some levels at the places would have."""
    x = -10.0 * np.log10(fit.place_m / 1000.0)
    return float(np.sum((x - fit.x_mean) * level_db) / fit.s_xx)


def _models(ask: Ask, fit: PathFit) -> dict[Key, Floats]:
    """Level against what both antennas leave at each place, by each model, dB; those that are no other path than free space left out."""
    d, profile = np.maximum(fit.place_m, NEAREST_M), ask.way.profile
    free = -propagation.free_space_loss_db(d, ask.frequency_hz)
    heights = max(profile.home_height_m, 0.5), max(profile.away_height_m, 0.5)
    ground, _ = ask.reckoned.shape(d)
    if not ask.way.along:
        ground = ground + ask.reckoned.beside(d)  # it stands on another way than that of the runs
    others: dict[Key, Floats] = {
        "ground": ground,
        "plane": -propagation.plane_earth_loss_db(d, *heights, ask.frequency_hz),
    }
    out: dict[Key, Floats] = {"free": free}
    for key, level in others.items():
        taken = free - level
        if float(np.mean(taken)) > LEAST_TAKEN_DB or abs(_slope_of(fit, taken)) > LEAST_TAKEN_SLOPE:
            out[key] = level
    return out


def residual_of(ask: Ask, antenna: Antenna, group: Group | None, power_w: float, pad_db: float) -> Residual | None:
    """None of an antenna that made no run over the path, or where nothing tells one."""
    tried = group.walked(antenna.id) if group is not None else None
    if group is None or group.fit is None or tried is None:
        return None
    fit = group.fit
    budget, _ = fixed_budget(ask, antenna, power_w, pad_db)
    base, base_u = float(budget.nominal_value), math.hypot(float(budget.std_dev), group.shared_u_db)
    own_u = math.hypot(ask.gains[antenna.id].working_value().u, fit.run_u_db(tried))
    middle = 1000.0 * 10 ** (-fit.x_mean / 10.0)
    measured, run_u, degrees = fit.level(tried, middle)
    every = []
    for key, level in _models(ask, fit).items():
        told = base + float(np.mean(level))
        beside_u = ask.way.profile.u_db if key == "ground" and ask.way.along else 0.0
        every.append(
            _against(key, fit, middle, (measured, run_u, degrees), (told, math.hypot(base_u, beside_u)), level, own_u)
        )
    return Residual(antenna, tuple(every))


def _against(
    key: Key,
    fit: PathFit,
    middle_m: float,
    measured: tuple[float, float, float],
    told: tuple[float, float],
    model_db: Floats,
    own_u: float,
) -> Against:
    (value, run_u, _), (level, level_u), own = measured, told, _slope_of(fit, model_db)
    name, source = NAMES[key], SOURCES[key]
    gap = Figure(
        f"field against {name}",
        value - level,
        math.hypot(run_u, level_u),
        "dB",
        Working(
            (
                f"at {show.distance(middle_m)}, the middle of the places",
                f"measured   {show.decibel(value, unit='dBm')}",
                f"{name} {show.decibel(level, unit='dBm')}",
                f"difference {show.plus(value - level, 1)} dB",
            ),
            (("budget", show.decibel(level_u, 2)), ("field", show.decibel(run_u, 2))),
            source,
            "What this path does not explain: cable, polarization, pointing, a wrong pad, or another path.",
        ),
    )
    n = fit.exponent
    slope = Figure(
        f"exponent against {name}",
        n.value - own,
        n.u,
        "",
        Working(
            (f"the field falls with n = {n.text}", f"{name} with n = {own:.2f} over the same places"),
            n.working.parts,
            source,
            "More than 0: it falls faster than this path says.",
        ),
        n.degrees,
        digits=2,
    )
    return Against(key, gap, slope, own, model_db, own_u)


def fit_words(one: Residual) -> str:
    """How the field and the physics go together, level and slope."""
    best, free = one.best, one.free
    level, slope = best.level, best.slope
    if best.fits:
        within = show.decibel(abs(level.value))
        words = f"Midway along the runs the field fits {best.name} within {within}, and falls as it does."
        if best.key != "free" and not free.at_level:
            words += f" Free space would be {show.plus_minus(abs(free.level.value), free.level.half, 'dB')} {'more' if free.level.value < 0 else 'less'}."
        return words
    n = show.plus_minus(slope.value + best.exponent, slope.half)
    faster = f"{'faster' if slope.value > 0 else 'slower'}: n {n} against {best.exponent:.1f}"
    if best.at_level:
        return f"Midway along the runs the field meets {best.name}, but it falls {faster}. Lines that cross do not fit."
    weaker = "weaker" if level.value < 0 else "stronger"
    words = f"The field is {show.plus_minus(abs(level.value), level.half, 'dB')} {weaker} than {best.name}"
    return f"{words}." if best.falls_alike else f"{words}, and it falls {faster}."


def fit_check(one: Residual) -> Check:
    """Level and slope in a few words."""
    best = one.best
    level, slope = best.level, best.slope
    if best.fits and not best.tells:
        wide = level if level.half > TELLS_FIT_DB else slope
        text = f"too wide to tell from {best.name}: {level.text}"
        return Check("open", text, wide, "More runs, or a budget better known, would narrow it.")
    if best.fits:
        return Check("holds", f"fits {best.name} within {show.decibel(abs(level.value))}", level)
    if best.at_level:
        word = "faster" if slope.value > 0 else "slower"
        n = show.plus_minus(slope.value + best.exponent, slope.half)
        return Check("disagrees", f"falls {word} than {best.name}: n {n} against {best.exponent:.1f}", slope)
    return Check("disagrees", f"{show.plus(level.value, 1)} dB against {best.name}", level)


def standing_of(one: Residual | None) -> Standing:
    if one is None:
        return Standing("some", "budget, no field yet")
    best = one.best
    if best.fits:
        return (
            Standing("done", f"fits {show.decibel(abs(best.level.value))}")
            if best.tells
            else Standing("some", "too wide to tell")
        )
    if best.at_level:
        return Standing("disagreement", f"falls {'faster' if best.slope.value > 0 else 'slower'}")
    return Standing("disagreement", f"off by {show.decibel(abs(best.level.value))}")
