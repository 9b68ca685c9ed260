"""What rain, fog, air and woods take out of a wave, each with its source and range of use. All losses in dB."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from .decibels import Floats

RAIN_FROM_HZ, RAIN_TO_HZ = 1e9, 1000e9
FOG_TO_HZ = 200e9
AIR_FROM_HZ, AIR_TO_HZ = 1e9, 54e9
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
    """Loss by oxygen and water vapour at sea level; shape of `distance_m`. The simple form of Rec. ITU-R P.676 (Annex 2 of P.676-10: (22)
    for oxygen below 54 GHz, (23) for vapour), at 1013 hPa; below 1 GHz less than 0.006 dB/km, and none is taken."""
    d, f = np.asarray(distance_m, dtype=float), frequency_hz / 1e9
    if frequency_hz < AIR_FROM_HZ:
        return np.zeros(d.shape)
    f = min(f, AIR_TO_HZ / 1e9)
    rt = 288.0 / (celsius + 273.15)
    x1, x2, x3 = (
        rt**power * math.exp(-warm * (1.0 - rt))
        for power, warm in ((-1.8132, 1.6515), (-4.6368, 5.7836), (-6.5851, 8.5854))
    )
    oxygen = (
        (7.2 * rt**2.8 / (f**2 + 0.34 * rt**1.6) + 0.62 * x3 / ((54.0 - f) ** (1.16 * x1) + 0.83 * x2)) * f**2 * 1e-3
    )
    return np.asarray((oxygen + _vapour_db_km(f, rt, water_g_m3)) * d / 1000.0)


def _vapour_db_km(f: float, rt: float, water: float) -> float:
    """P.676-10 (23)."""
    n1 = 0.955 * rt**0.68 + 0.006 * water
    n2 = 0.735 * rt**0.5 + 0.0353 * rt**4 * water

    def g(line: float) -> float:
        return 1.0 + ((f - line) / (f + line)) ** 2

    lines = (
        3.98 * n1 * math.exp(2.23 * (1 - rt)) / ((f - 22.235) ** 2 + 9.42 * n1**2) * g(22.0)
        + 11.96 * n1 * math.exp(0.7 * (1 - rt)) / ((f - 183.31) ** 2 + 11.14 * n1**2)
        + 0.081 * n1 * math.exp(6.44 * (1 - rt)) / ((f - 321.226) ** 2 + 6.29 * n1**2)
        + 3.66 * n1 * math.exp(1.6 * (1 - rt)) / ((f - 325.153) ** 2 + 9.22 * n1**2)
        + 25.37 * n1 * math.exp(1.09 * (1 - rt)) / (f - 380.0) ** 2
        + 17.4 * n1 * math.exp(1.46 * (1 - rt)) / (f - 448.0) ** 2
        + 844.6 * n1 * math.exp(0.17 * (1 - rt)) / (f - 557.0) ** 2 * g(557.0)
        + 290.0 * n1 * math.exp(0.41 * (1 - rt)) / (f - 752.0) ** 2 * g(752.0)
        + 8.3328e4 * n2 * math.exp(0.99 * (1 - rt)) / (f - 1780.0) ** 2 * g(1780.0)
    )
    return float(lines * f**2 * rt**2.5 * water * 1e-4)


WOODS_DB_M = ((105.9, 0.04), (466.475, 0.12), (949.0, 0.17), (1852.2, 0.30), (2117.5, 0.34))
"""(MHz, dB/m) measured in a mixed forest of 16 m: Rec. ITU-R P.833-9, table 1."""
WOODS_MOST_A, WOODS_MOST_ALPHA = 1.37, 0.42
"""A_m = A₁·f^α with f in MHz, of the same forest: P.833-9 §2.1."""
WOODS_U_SHARE = 0.35
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
