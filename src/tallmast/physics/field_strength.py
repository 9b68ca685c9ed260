"""Field strength, power density and what a receiver makes of them.

Far field and plane waves throughout: several wavelengths and 2D²/λ from the antenna. Fields are rms values.
Source: Rec. ITU-R P.525 §2 and its conversion formulae; Kraus, Antennas, §2-15 for the aperture.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from .constants import SYSTEM_IMPEDANCE, wavelength
from .decibels import Floats, dbm_from_watt, power_ratio, watt_from_dbm

FREE_SPACE_OHM = 119.9169832 * math.pi
"""Impedance of free space, Ω: µ₀c."""


def field_v_per_m(eirp_w: float, distance_m: float) -> float:
    """E = √(30·EIRP)/d, V/m. Rec. ITU-R P.525 §2 (30 stands for η₀/4π, which is 29.979)."""
    return math.sqrt(FREE_SPACE_OHM * eirp_w / (4.0 * math.pi)) / distance_m


def eirp_w(field: float, distance_m: float) -> float:
    """EIRP, W, of what makes a field (V/m) at a distance in free space: (E·d)²·4π/η₀."""
    return (field * distance_m) ** 2 * 4.0 * math.pi / FREE_SPACE_OHM


def density_w_per_m2(field: float) -> float:
    """S = E²/η₀, W/m², of a plane wave of E V/m."""
    return field**2 / FREE_SPACE_OHM


def field_of_density(density: float) -> float:
    """E = √(S·η₀), V/m."""
    return math.sqrt(density * FREE_SPACE_OHM)


def field_dbuv_per_m(field: float) -> float:
    """20 log₁₀ E + 120, dB over 1 µV/m, of E V/m."""
    return 20.0 * math.log10(field) + 120.0


def field_from_dbuv_per_m(level: float) -> float:
    """V/m of a field in dB over 1 µV/m."""
    return float(10.0 ** ((level - 120.0) / 20.0))


def antenna_factor_db(frequency_hz: float, gain_dbi: float, impedance_ohm: float = SYSTEM_IMPEDANCE) -> float:
    """AF = 20 log₁₀(E/V), dB/m: what the voltage at the connector is below the field.

    E/V = (2/λ)·√(π·η₀/(R·G)); in 50 Ω that is 9.73/(λ√G). Matched, aligned, in the far field.
    """
    gain = float(power_ratio(gain_dbi))
    ratio = 2.0 / wavelength(frequency_hz) * math.sqrt(math.pi * FREE_SPACE_OHM / (impedance_ohm * gain))
    return 20.0 * math.log10(ratio)


def gain_dbi_of_factor(frequency_hz: float, factor_db: float, impedance_ohm: float = SYSTEM_IMPEDANCE) -> float:
    """Gain, dBi, of an antenna with an antenna factor in dB/m."""
    return antenna_factor_db(frequency_hz, 0.0, impedance_ohm) - factor_db


def received_dbm(field: float, frequency_hz: float, gain_dbi: float) -> float:
    """Power, dBm, that a matched antenna takes out of a field of E V/m: S·G·λ²/4π."""
    power = density_w_per_m2(field) * float(power_ratio(gain_dbi)) * wavelength(frequency_hz) ** 2 / (4.0 * math.pi)
    return dbm_from_watt(power)


def field_of_received(level_dbm: float, frequency_hz: float, gain_dbi: float) -> float:
    """The field, V/m, in which a matched antenna takes up a level in dBm."""
    area = float(power_ratio(gain_dbi)) * wavelength(frequency_hz) ** 2 / (4.0 * math.pi)
    return field_of_density(watt_from_dbm(level_dbm) / area)


def total_dbm(levels_dbm: Sequence[float]) -> float:
    """Power of several transmitters together, dBm: their watts add, as they are not alike in phase."""
    return dbm_from_watt(float(np.sum(power_ratio(np.asarray(levels_dbm, dtype=float) - 30.0))))


def gain_from_table(
    frequency_hz: ArrayLike, table_hz: ArrayLike, table_dbi: ArrayLike, table_u_db: ArrayLike
) -> tuple[Floats, Floats]:
    """(gain dBi, u dB) between the points of a calibrated gain table: straight in log f, flat beyond its ends.

    Between points half of what the table changes from one to the next is added to the uncertainty as a rectangle, since
    nothing was measured there; beyond an end 1 dB an octave is added. `table_hz` ascending.
    Tables [point], ascending in Hz; results have the shape of `frequency_hz`.
    """
    f, grid = np.log2(np.asarray(frequency_hz, dtype=float)), np.log2(np.asarray(table_hz, dtype=float))
    gain, u = np.asarray(table_dbi, dtype=float), np.asarray(table_u_db, dtype=float)
    value, own = np.interp(f, grid, gain), np.interp(f, grid, u)
    if len(grid) > 1:
        at = np.clip(np.searchsorted(grid, f) - 1, 0, len(grid) - 2)
        share = np.clip((f - grid[at]) / (grid[at + 1] - grid[at]), 0.0, 1.0)
        between = np.abs(gain[at + 1] - gain[at]) / 2.0 * 4.0 * share * (1.0 - share) / math.sqrt(3.0)
    else:
        between = np.zeros_like(f)
    outside = np.maximum(grid[0] - f, 0.0) + np.maximum(f - grid[-1], 0.0)
    return np.asarray(value), np.asarray(np.sqrt(own**2 + between**2 + outside**2))
