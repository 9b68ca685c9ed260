"""Polarization: how much two antennas lose because their waves turn differently."""

from __future__ import annotations

import math

CROSSED_LINEAR_FLOOR_DB = 20.0
"""What crossed linear antennas lose in practice; the textbook's infinity is never seen outdoors."""

LINEAR_AXIAL_RATIO_DB = 40.0
"""Axial ratio taken for an antenna called linear."""

CIRCULAR_AXIAL_RATIO_DB = 0.0


def polarization_efficiency(
    axial_ratio_a_db: float, right_a: bool, axial_ratio_b_db: float, right_b: bool, tilt_difference_deg: float
) -> float:
    """Fraction of the power that passes between two antennas of given axial ratios, senses and tilts.

    η = ½ + [4·r₁r₂ + (1−r₁²)(1−r₂²)·cos 2Δτ] / [2(1+r₁²)(1+r₂²)] with r the axial ratio as a number ≥ 1,
    positive for right and negative for left sense, and Δτ the angle between the tilts of the two ellipses.
    Each antenna's sense is as it transmits: two right-hand helices facing each other lose nothing.
    Source: Stutzman, Polarization in Electromagnetic Systems, §4.2; the same as Milligan, Modern Antenna
    Design, §1-11.
    """
    r1 = math.copysign(10.0 ** (axial_ratio_a_db / 20.0), 1.0 if right_a else -1.0)
    r2 = math.copysign(10.0 ** (axial_ratio_b_db / 20.0), 1.0 if right_b else -1.0)
    turn = math.cos(2.0 * math.radians(tilt_difference_deg))
    mixed = 4.0 * r1 * r2 + (1.0 - r1**2) * (1.0 - r2**2) * turn
    return 0.5 + mixed / (2.0 * (1.0 + r1**2) * (1.0 + r2**2))


def polarization_loss_db(
    axial_ratio_a_db: float, right_a: bool, axial_ratio_b_db: float, right_b: bool, tilt_difference_deg: float
) -> float:
    """−10 log₁₀ of `polarization_efficiency`, at most 60 dB."""
    eta = polarization_efficiency(axial_ratio_a_db, right_a, axial_ratio_b_db, right_b, tilt_difference_deg)
    return -10.0 * math.log10(max(eta, 1e-6))
