"""How a level falls with distance, each model with its range of use."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from .constants import wavelength
from .decibels import Floats


def free_space_loss_db(distance_m: ArrayLike, frequency_hz: float) -> Floats:
    """20 log₁₀(4πd/λ) between isotropic antennas. Rec. ITU-R P.525; d several wavelengths or more."""
    d = np.asarray(distance_m, dtype=float)
    return np.asarray(20.0 * np.log10(4.0 * np.pi * d / wavelength(frequency_hz)))


def plane_earth_loss_db(distance_m: ArrayLike, height_a_m: float, height_b_m: float, frequency_hz: float) -> Floats:
    """40 log₁₀ d − 20 log₁₀(h₁h₂), never less than free space.

    The far limit of two rays over flat ground (Parsons, The Mobile Radio Propagation Channel, 2nd ed., §2.3.2).
    It holds well beyond `breakpoint_m`; nearer in the true level swings about free space.
    Shape of `distance_m`, which is above zero; dB.
    """
    d = np.asarray(distance_m, dtype=float)
    far = 40.0 * np.log10(d) - 20.0 * math.log10(height_a_m * height_b_m)
    return np.asarray(np.maximum(far, free_space_loss_db(d, frequency_hz)))


def breakpoint_m(height_a_m: float, height_b_m: float, frequency_hz: float) -> float:
    """4πh₁h₂/λ, where free space and plane earth meet, m."""
    return 4.0 * math.pi * height_a_m * height_b_m / wavelength(frequency_hz)


def range_ratio(change_db: float, exponent: float) -> float:
    """How many times the range grows for `change_db` more signal when the level falls with d^n: 10^(Δ/10n)."""
    return float(10.0 ** (change_db / (10.0 * exponent)))


def radio_horizon_m(height_a_m: float, height_b_m: float, k: float = 4.0 / 3.0) -> float:
    """Where the smooth earth ends the path: √(2k·a·h₁) + √(2k·a·h₂), m, with a = 6371 km.

    k = 4/3 is the median atmosphere of temperate lands (Rec. ITU-R P.310); obstacles end it sooner, ducts later.
    """
    radius = k * 6_371_000.0
    return math.sqrt(2.0 * radius * height_a_m) + math.sqrt(2.0 * radius * height_b_m)


def two_rays_excess_db(
    distance_m: ArrayLike, height_a_m: float, height_b_m: float, frequency_hz: float, reflected: ArrayLike
) -> Floats:
    """What a ground that throws back `reflected` (0 … 1) of the field takes over free space as a median, dB; below zero: it adds. Shapes broadcast.

    −20 log₁₀|1 − ρ·e^(−jφ)| with φ = 4πh₁h₂/λd up to π; nearer the level swings, and its mean in decibels is free space's (Jensen's
    formula: the mean of ln|1 − ρe^(jφ)| over a turn is zero for ρ ≤ 1). With ρ = 1 far out it is plane earth; with less the level falls
    as in free space again, 20 log₁₀(1 − ρ) lower (Parsons, The Mobile Radio Propagation Channel, 2nd ed., §2.3).
    """
    d = np.asarray(distance_m, dtype=float)
    phase = 4.0 * math.pi * height_a_m * height_b_m / (wavelength(frequency_hz) * d)
    both = 20.0 * np.log10(
        np.maximum(np.abs(1.0 - np.asarray(reflected) * np.exp(-1j * np.minimum(phase, np.pi))), 1e-6)
    )
    swings = np.clip((phase - 1.0) / 2.0, 0.0, 1.0)
    return np.asarray(-both * (1.0 - swings))


def fade_margin_db(share: float) -> float:
    """What a level that is median leaves to be wanted for a share of time over a path that fades as Rayleigh has it, dB:
    −10 log₁₀(−ln q / ln 2), zero for half of the time (Parsons, The Mobile Radio Propagation Channel, 2nd ed., §5.4)."""
    return -10.0 * math.log10(-math.log(share) / math.log(2.0))
