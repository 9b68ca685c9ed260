"""Polarization: how much two antennas lose because their waves turn differently."""

from __future__ import annotations

import math

CROSSED_LINEAR_FLOOR_DB = 20.0
"""What crossed linear antennas lose in practice; the textbook's infinity is never seen outdoors."""

LINEAR_AXIAL_RATIO_DB = 40.0
"""Axial ratio taken for an antenna called linear."""


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


APART_AT_MOST_DB = 30.0
"""More isolation than this is not seen outdoors: reflections turn a little of every wave over."""


def efficiency_over_tilt(
    axial_ratio_a_db: float, right_a: bool, axial_ratio_b_db: float, right_b: bool
) -> tuple[float, float]:
    """(mean, swing) of `polarization_efficiency` while one ellipse turns against the other: mean + swing·cos 2Δτ.

    The mean is that of the power over every tilt, ½ + 2·r₁r₂/[(1+r₁²)(1+r₂²)].
    """
    aligned = polarization_efficiency(axial_ratio_a_db, right_a, axial_ratio_b_db, right_b, 0.0)
    crossed = polarization_efficiency(axial_ratio_a_db, right_a, axial_ratio_b_db, right_b, 90.0)
    return 0.5 * (aligned + crossed), 0.5 * abs(aligned - crossed)


def loss_over_tilt_db(
    axial_ratio_a_db: float, right_a: bool, axial_ratio_b_db: float, right_b: bool
) -> tuple[float, float, float, float]:
    """(loss of the mean power, standard deviation, low, high), dB, where the tilts of two ellipses are not known.

    Every tilt is as likely: the efficiency follows an arcsine distribution, of which `low` to `high` holds 90 %. No loss
    is given as more than `APART_AT_MOST_DB`.
    """
    mean, swing = efficiency_over_tilt(axial_ratio_a_db, right_a, axial_ratio_b_db, right_b)
    floor = 10.0 ** (-APART_AT_MOST_DB / 10.0)

    def loss(efficiency: float) -> float:
        return -10.0 * math.log10(min(max(efficiency, floor), 1.0))

    edge = swing * math.sin(0.45 * math.pi)
    turns = [loss(mean + swing * math.cos(math.pi * (i + 0.5) / 64)) for i in range(64)]
    middle = math.fsum(turns) / 64
    spread = math.sqrt(math.fsum((t - middle) ** 2 for t in turns) / 64)
    return loss(mean), spread, loss(mean + edge), loss(mean - edge)
