"""Decibels and what they stand for.

Every function works element by element and returns the shape that it was given; scalars come back as 0-d.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def power_ratio(db: ArrayLike) -> Floats:
    """10^(dB/10). Shape as given: element by element."""
    return np.asarray(np.power(10.0, np.asarray(db, dtype=float) / 10.0))


def power_db(ratio: ArrayLike) -> Floats:
    """10 log₁₀(ratio); the ratio must be above zero. Shape as given: element by element."""
    return np.asarray(10.0 * np.log10(np.asarray(ratio, dtype=float)))


def amplitude_ratio(db: ArrayLike) -> Floats:
    """10^(dB/20). Shape as given: element by element."""
    return np.asarray(np.power(10.0, np.asarray(db, dtype=float) / 20.0))


def amplitude_db(ratio: ArrayLike) -> Floats:
    """20 log₁₀(ratio); the ratio must be above zero. Shape as given: element by element."""
    return np.asarray(20.0 * np.log10(np.asarray(ratio, dtype=float)))


def dbm_from_watt(power_w: float) -> float:
    """Level in dBm of a power in W above zero."""
    return float(power_db(power_w)) + 30.0


def watt_from_dbm(level_dbm: float) -> float:
    """Power in W of a level in dBm."""
    return float(power_ratio(level_dbm - 30.0))


def dbm_from_volt(volt: float, impedance_ohm: float = 50.0) -> float:
    """Level in dBm of an rms voltage above zero across a resistance: V²/R."""
    return dbm_from_watt(volt**2 / impedance_ohm)


def volt_from_dbm(level_dbm: float, impedance_ohm: float = 50.0) -> float:
    """Rms voltage of a level across a resistance: √(P·R)."""
    return float(np.sqrt(watt_from_dbm(level_dbm) * impedance_ohm))


def dbm_from_dbuv(level_dbuv: float, impedance_ohm: float = 50.0) -> float:
    """dBm of a level in dB over 1 µV: dBµV − 106.99 in 50 Ω, − 108.75 in 75 Ω."""
    return level_dbuv - 90.0 - float(power_db(impedance_ohm))


def dbuv_from_dbm(level_dbm: float, impedance_ohm: float = 50.0) -> float:
    """dB over 1 µV of a level in dBm."""
    return level_dbm + 90.0 + float(power_db(impedance_ohm))


S9_DBM = (-73.0, -93.0)
"""Level of S9 in 50 Ω: below 30 MHz, and from 144 MHz on."""
S9_U_DB = 3.0
"""Standard uncertainty of the level at which a meter that nobody stepped shows S9: a judgement, as the next is."""
S_UNIT_U = 0.19
"""Relative standard uncertainty of its units: 6 dB by the convention, anything from 3.5 to 7 dB in sets as they are made."""


def s9_dbm(frequency_hz: float) -> float | None:
    """Level of S9, dBm: −73 below 30 MHz, −93 from 144 MHz on; None between, where sets follow either and it must be asked.

    IARU Region 1 Technical Recommendation R.1.
    """
    if frequency_hz < 30e6:
        return S9_DBM[0]
    return S9_DBM[1] if frequency_hz >= 144e6 else None


def s_units_of(level_dbm: float, s9: float) -> tuple[float, float]:
    """(S units up to 9, dB over S9) of a level, with the level of S9, both dBm: the reverse of `s_unit_dbm`."""
    above = level_dbm - s9
    return (9.0, above) if above >= 0 else (9.0 + above / 6.0, 0.0)


def s_unit_dbm(s_units: float, over_db: float, s9: float) -> float:
    """Level at the receiver input of an S reading, dBm, with the level of S9: one S unit is 6 dB, what stands over S9 is in
    dB (IARU Region 1 R.1). Real meters stray from it by many dB until the display has been stepped."""
    return s9 + 6.0 * (s_units - 9.0) + over_db
