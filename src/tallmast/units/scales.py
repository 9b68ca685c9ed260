"""Every scale on which a level, a field, a gain or a noise is written, each with its way there and back.

One table for reading and for writing, so that the two can't disagree. Levels are dBm inside, fields V/m, gains dBi,
noise figures dB; voltages and dBµV need the resistance they stand across.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from tallmast.frozen import Frozen
from tallmast.physics.decibels import (
    dbm_from_dbuv,
    dbm_from_volt,
    dbm_from_watt,
    dbuv_from_dbm,
    volt_from_dbm,
    watt_from_dbm,
)
from tallmast.physics.field_strength import density_w_per_m2, field_dbuv_per_m, field_from_dbuv_per_m, field_of_density
from tallmast.physics.noise import figure_of_temperature, temperature_of_figure

RESISTANCES_OHM = (50.0, 75.0)


class Scale(Frozen, eq=True):
    """`inward` turns a number on this scale into the base, `outward` back; both take the resistance in Ω."""

    name: str
    inward: Callable[[float, float], float]
    outward: Callable[[float, float], float]
    logarithmic: bool = False
    """Else only numbers above zero mean anything on it."""
    also: tuple[str, ...] = ()
    """Other spellings."""
    watt: float | None = None
    """How many W one is, for the scales of power: so that 0.5 W is just that, and not what is left of it after going
    through decibels."""


def _watts(name: str, size: float, *also: str) -> Scale:
    return Scale(
        name, lambda v, _: dbm_from_watt(v * size), lambda dbm, _: watt_from_dbm(dbm) / size, also=also, watt=size
    )


def _volts(name: str, size: float, *also: str) -> Scale:
    return Scale(
        name, lambda v, ohm: dbm_from_volt(v * size, ohm), lambda dbm, ohm: volt_from_dbm(dbm, ohm) / size, also=also
    )


def _fields(name: str, size: float, *also: str) -> Scale:
    return Scale(name, lambda v, _: v * size, lambda field, _: field / size, also=also)


def _densities(name: str, size: float, *also: str) -> Scale:
    return Scale(
        name, lambda v, _: field_of_density(v * size), lambda field, _: density_w_per_m2(field) / size, also=also
    )


LEVELS: tuple[Scale, ...] = (
    Scale("dBm", lambda v, _: v, lambda dbm, _: dbm, True),
    Scale("dBW", lambda v, _: v + 30.0, lambda dbm, _: dbm - 30.0, True),
    _watts("kW", 1e3),
    _watts("W", 1.0),
    _watts("mW", 1e-3),
    _watts("µW", 1e-6, "uW"),
    _watts("nW", 1e-9),
    _watts("pW", 1e-12),
    _watts("fW", 1e-15),
    _volts("V", 1.0),
    _volts("mV", 1e-3),
    _volts("µV", 1e-6, "uV"),
    _volts("nV", 1e-9),
    Scale("dBµV", dbm_from_dbuv, dbuv_from_dbm, True, ("dBuV",)),
)
"""Levels; base dBm."""

FIELDS: tuple[Scale, ...] = (
    _fields("V/m", 1.0),
    _fields("mV/m", 1e-3),
    _fields("µV/m", 1e-6, "uV/m"),
    Scale("dBµV/m", lambda v, _: field_from_dbuv_per_m(v), lambda e, _: field_dbuv_per_m(e), True, ("dBuV/m",)),
    Scale("dBV/m", lambda v, _: field_from_dbuv_per_m(v + 120.0), lambda e, _: field_dbuv_per_m(e) - 120.0, True),
    _densities("W/m²", 1.0, "W/m2", "W/m^2"),
    _densities("mW/m²", 1e-3, "mW/m2", "mW/m^2"),
    _densities("µW/m²", 1e-6, "uW/m2", "uW/m^2", "µW/m2"),
    _densities("mW/cm²", 10.0, "mW/cm2", "mW/cm^2"),
    _densities("µW/cm²", 1e-2, "uW/cm2", "uW/cm^2", "µW/cm2"),
)
"""Field strengths and the densities of plane waves; base V/m."""

NOISES: tuple[Scale, ...] = (
    Scale("dB", lambda v, _: v, lambda db, _: db, True),
    Scale("K", lambda v, _: figure_of_temperature(v), lambda db, _: temperature_of_figure(db)),
)
"""Noise as a figure in dB or a temperature in kelvin over 290 K; base dB."""


def scale(table: tuple[Scale, ...], unit: str) -> Scale | None:
    """The scale of a unit as written; the case of a single letter and of the prefix counts only where it must.

    mW and MW differ in case alone: milliwatts are what this trade means.
    """
    unit = unit.replace("μ", "µ")
    spellings = {spelling: entry for entry in table for spelling in (entry.name, *entry.also)}
    if unit in spellings:
        return spellings[unit]
    folded = {spelling.lower(): entry for spelling, entry in spellings.items()}
    return folded.get(unit.lower())


def inward(table: tuple[Scale, ...], value: float, unit: str, resistance_ohm: float = 50.0) -> float | None:
    """The base value of a number and its unit; None where the unit is not in the table or the number means nothing."""
    found = scale(table, unit)
    if found is None or not math.isfinite(value) or (not found.logarithmic and value <= 0):
        return None
    try:
        base = found.inward(value, resistance_ohm)
    except (OverflowError, ValueError):
        return None
    return base if math.isfinite(base) else None


def outward(table: tuple[Scale, ...], base: float, unit: str, resistance_ohm: float = 50.0) -> float:
    """The number on a scale for a base value. Raises KeyError for a unit that is not in the table."""
    found = scale(table, unit)
    if found is None:
        raise KeyError(unit)
    return found.outward(base, resistance_ohm)
