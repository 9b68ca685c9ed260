"""Gain on a range: of two or three antennas without any reference, what mismatch hides, and what the ground adds.

Levels in dBm or dB, gains in dBi, losses positive. IEEE Std 149-2021 §12 (two- and three-antenna methods); Kummer and Gillespie,
Antenna Measurements, Proc. IEEE 66 (1978).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from .propagation import free_space_loss_db


def sum_of_gains_db(
    received_dbm: float, sent_dbm: float, distance_m: float, frequency_hz: float, lost_db: float = 0.0
) -> float:
    """G₁ + G₂, dBi, of two antennas that look at each other: received less sent, free space and other losses given back."""
    return received_dbm - sent_dbm + lost_db + float(free_space_loss_db(distance_m, frequency_hz))


def of_three(sum_ab_db: float, sum_ac_db: float, sum_bc_db: float) -> tuple[float, float, float]:
    """Gains of A, B and C, dBi, from the sums of each two: G_A = (S_AB + S_AC − S_BC)/2, and so round."""
    half = 0.5 * (sum_ab_db + sum_ac_db + sum_bc_db)
    return half - sum_bc_db, half - sum_ac_db, half - sum_ab_db


def mismatch_u_db(source_gamma: float, antenna_gamma: float) -> float:
    """Standard uncertainty of a level by two reflections of unknown phase, dB: 20·log₁₀|1 − Γ₁Γ₂| swings by 8.69·|Γ₁||Γ₂| either
    way, an arcsine distribution (JCGM 100 §4.3; Agilent AN 64-1)."""
    return 20.0 / math.log(10.0) * abs(source_gamma) * abs(antenna_gamma) / math.sqrt(2.0)


def reflected_share(levels_db: ArrayLike) -> float:
    """Reflected field over the direct one, from levels [n] read while an antenna is moved through at least one ripple: (k−1)/(k+1)
    with k the ratio of the greatest to the least field (IEEE Std 149-2021 §6). Raises `ValueError` with fewer than four."""
    levels = np.asarray(levels_db, dtype=float)
    if len(levels) < 4:
        raise ValueError("a ripple takes four readings")
    k = 10.0 ** (float(np.ptp(levels)) / 20.0)
    return float((k - 1.0) / (k + 1.0))


def reflection_u_db(share: float) -> float:
    """Standard uncertainty of one level by a reflection of unknown phase, dB: 8.69·ρ/√2."""
    return 20.0 / math.log(10.0) * share / math.sqrt(2.0)


def nearness_u_db(distance_m: float, far_field_m: float) -> float:
    """Standard uncertainty of a gain by a distance that is not infinite, dB: 0.06 dB at 2D²/λ, with the square of nearness (Kummer and
    Gillespie 1978, fig. 12, about)."""
    return float(0.06 * (far_field_m / distance_m) ** 2)
