"""What rain, fog, air and woods take out of a wave, each with its source and range of use. All losses in dB."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from .air_lines import OXYGEN, WATER
from .decibels import Floats

RAIN_FROM_HZ, RAIN_TO_HZ = 1e9, 1000e9
FOG_TO_HZ = 200e9
AIR_FROM_HZ, AIR_TO_HZ = 1e9, 1000e9
WOODS_FROM_HZ, WOODS_TO_HZ = 100e6, 3e9

_K_H = (
    (-5.33980, -0.10008, 1.13098),
    (-0.35351, 1.26970, 0.45400),
    (-0.23789, 0.86036, 0.15354),
    (-0.94158, 0.64552, 0.16817),
)
_K_V = (
    (-3.80595, 0.56934, 0.81061),
    (-3.44965, -0.22911, 0.51059),
    (-0.39902, 0.73042, 0.11899),
    (0.50167, 1.07319, 0.27195),
)
_A_H = (
    (-0.14318, 1.82442, -0.55187),
    (0.29591, 0.77564, 0.19822),
    (0.32177, 0.63773, 0.13164),
    (-5.37610, -0.96230, 1.47828),
    (16.1721, -3.29980, 3.43990),
)
_A_V = (
    (-0.07771, 2.33840, -0.76284),
    (0.56727, 0.95545, 0.54039),
    (-0.20238, 1.14520, 0.26809),
    (-48.2991, 0.791669, 0.116226),
    (48.5833, 0.791459, 0.116479),
)


def _sum(rows: tuple[tuple[float, float, float], ...], x: float) -> float:
    return sum(a * math.exp(-(((x - b) / c) ** 2)) for a, b, c in rows)


def rain_coefficients(frequency_hz: float, vertical: bool) -> tuple[float, float]:
    """(k, α) of γ = k·R^α, γ in dB/km and R in mm/h. Rec. ITU-R P.838-3 (1 to 3), 1 to 1000 GHz."""
    x = math.log10(frequency_hz / 1e9)
    if vertical:
        return 10.0 ** (_sum(_K_V, x) - 0.16398 * x + 0.63297), _sum(_A_V, x) - 0.053739 * x + 0.83433
    return 10.0 ** (_sum(_K_H, x) - 0.18961 * x + 0.71147), _sum(_A_H, x) + 0.67849 * x - 1.95537


def rain_db(distance_m: ArrayLike, frequency_hz: float, rate_mm_h: float, vertical: bool = True) -> Floats:
    """Loss over a distance that is all in rain of one rate; shape of `distance_m`. P.838-3. Below 1 GHz none: no rain is seen there."""
    d = np.asarray(distance_m, dtype=float)
    if rate_mm_h <= 0 or frequency_hz < RAIN_FROM_HZ:
        return np.zeros(d.shape)
    k, alpha = rain_coefficients(frequency_hz, vertical)
    return np.asarray(k * rate_mm_h**alpha * d / 1000.0)


def fog_water_g_m3(visibility_m: float) -> float:
    """Liquid water of fog: 0.05 g/m³ where one sees 300 m, 0.5 where 50 m (Rec. ITU-R P.840-8 §1), between by a power law."""
    slope = math.log(0.05 / 0.5) / math.log(300.0 / 50.0)
    return float(0.05 * (visibility_m / 300.0) ** slope)


def fog_db(distance_m: ArrayLike, frequency_hz: float, water_g_m3: float, celsius: float = 10.0) -> Floats:
    """Loss over a distance that is all in fog or cloud; shape of `distance_m`. Rec. ITU-R P.840-8 §2 (2 to 11): Rayleigh's small droplets,
    a double-Debye water, up to 200 GHz."""
    d, f = np.asarray(distance_m, dtype=float), frequency_hz / 1e9
    theta = 300.0 / (celsius + 273.15)
    e0 = 77.66 + 103.3 * (theta - 1.0)
    e1, e2 = 0.0671 * e0, 3.52
    fp = 20.20 - 146.0 * (theta - 1.0) + 316.0 * (theta - 1.0) ** 2
    fs = 39.8 * fp
    lossy = f * (e0 - e1) / (fp * (1.0 + (f / fp) ** 2)) + f * (e1 - e2) / (fs * (1.0 + (f / fs) ** 2))
    real = (e0 - e1) / (1.0 + (f / fp) ** 2) + (e1 - e2) / (1.0 + (f / fs) ** 2) + e2
    eta = (2.0 + real) / lossy
    return np.asarray(0.819 * f / (lossy * (1.0 + eta**2)) * water_g_m3 * d / 1000.0)


def air_db(distance_m: ArrayLike, frequency_hz: float, celsius: float = 15.0, water_g_m3: float = 7.5) -> Floats:
    """Loss by oxygen and water vapour at sea level, 1013.25 hPa; shape of `distance_m`. Rec. ITU-R P.676-11, Annex 1, line by line, 1 to
    1000 GHz; below 1 GHz less than 0.006 dB/km, and none is taken."""
    d = np.asarray(distance_m, dtype=float)
    if frequency_hz < AIR_FROM_HZ:
        return np.zeros(d.shape)
    dry, wet = air_db_km(min(frequency_hz, AIR_TO_HZ), celsius, water_g_m3)
    return np.asarray((dry + wet) * d / 1000.0)


def air_db_km(
    frequency_hz: float, celsius: float = 15.0, water_g_m3: float = 7.5, dry_hpa: float = 1013.25
) -> tuple[float, float]:
    """(dry air, water vapour) dB/km. Rec. ITU-R P.676-11, Annex 1 (1 to 9); 1 to 1000 GHz."""
    f, kelvin = frequency_hz / 1e9, celsius + 273.15
    theta = 300.0 / kelvin
    wet_hpa = water_g_m3 * kelvin / 216.7

    line, a1, a2, a3, a4, a5, a6 = np.array(OXYGEN).T
    strength = a1 * 1e-7 * dry_hpa * theta**3 * np.exp(a2 * (1.0 - theta))
    width = a3 * 1e-4 * (dry_hpa * theta ** (0.8 - a4) + 1.1 * wet_hpa * theta)
    split = np.hypot(width, 1.5e-3)  # Zeeman
    pulled = (a5 + a6 * theta) * 1e-4 * (dry_hpa + wet_hpa) * theta**0.8
    broad = 5.6e-4 * (dry_hpa + wet_hpa) * theta**0.8
    debye = 6.14e-5 / (broad * (1.0 + (f / broad) ** 2)) + 1.4e-12 * dry_hpa * theta**1.5 / (1.0 + 1.9e-5 * f**1.5)
    dry = float(np.sum(strength * _line_shape(f, line, split, pulled))) + f * dry_hpa * theta**2 * debye

    line, b1, b2, b3, b4, b5, b6 = np.array(WATER).T
    strength = b1 * 1e-1 * wet_hpa * theta**3.5 * np.exp(b2 * (1.0 - theta))
    width = b3 * 1e-4 * (dry_hpa * theta**b4 + b5 * wet_hpa * theta**b6)
    moving = 0.535 * width + np.sqrt(0.217 * width**2 + 2.1316e-12 * line**2 / theta)  # Doppler
    wet = float(np.sum(strength * _line_shape(f, line, moving, np.zeros(len(line)))))
    return 0.1820 * f * dry, 0.1820 * f * wet


def _line_shape(f: float, line: Floats, width: Floats, pulled: Floats) -> Floats:
    """P.676-11 (5)."""
    below, above = line - f, line + f
    near = (width - pulled * below) / (below**2 + width**2)
    far = (width - pulled * above) / (above**2 + width**2)
    return np.asarray(f / line * (near + far))


WOODS_DB_M = ((105.9, 0.04), (466.475, 0.12), (949.0, 0.17), (1852.2, 0.30), (2117.5, 0.34))
"""(MHz, dB/m) measured in a mixed forest of 16 m: Rec. ITU-R P.833-9, table 1."""
WOODS_MOST_A, WOODS_MOST_ALPHA = 1.37, 0.42
"""A_m = A₁·f^α with f in MHz, of the same forest: P.833-9 §2.1."""
WOODS_U_SHARE = 0.3
"""Standard uncertainty of a loss through trees, as a share of it: species, leaves and rain."""


def woods_db(depth_m: ArrayLike, frequency_hz: float) -> Floats:
    """Loss through so many metres of trees: A_m(1 − e^(−dγ/A_m)); shape of `depth_m`. Rec. ITU-R P.833-9 §2.1 (1), 100 MHz to 3 GHz; what goes
    round and over the trees holds it to A_m."""
    mhz = frequency_hz / 1e6
    known = np.array(WOODS_DB_M)
    slope = np.interp(math.log(mhz), np.log(known[:, 0]), np.log(known[:, 1]))
    if mhz > known[-1, 0]:  # beyond the table as it rises at its end
        slope += (math.log(mhz) - math.log(known[-1, 0])) * 0.9
    most = WOODS_MOST_A * mhz**WOODS_MOST_ALPHA
    return np.asarray(most * (1.0 - np.exp(-np.asarray(depth_m, dtype=float) * math.exp(slope) / most)))
