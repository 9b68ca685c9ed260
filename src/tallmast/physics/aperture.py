"""How much gain a beam or a size allows at most, dBi."""

from __future__ import annotations

import math

from .constants import DIPOLE_GAIN_DBI, wavelength

KRAUS_SQUARE_DEGREES = 41_253.0
"""Square degrees in a sphere: 4π(180/π)²."""

TYPICAL_SQUARE_DEGREES = 32_400.0
"""Stutzman & Thiele's practical constant for real patterns with sidelobes (some authors take 26 000)."""


def beam_directivity_limit_dbi(beamwidth_a_deg: float, beamwidth_b_deg: float) -> float:
    """The most that a beam of two half-power widths can have: 10 log₁₀(41 253/(θφ)).

    Kraus, Antennas, §2-9. All power inside one clean beam; sidelobes only take away. For a doughnut give
    360 for the width all round: 41 253/(θ·360) is generous by some dB for fat doughnuts and fair for thin ones.
    """
    return 10.0 * math.log10(KRAUS_SQUARE_DEGREES / (beamwidth_a_deg * beamwidth_b_deg))


def beam_directivity_dbi(beamwidth_a_deg: float, beamwidth_b_deg: float) -> float:
    """What a real pattern of two half-power widths has: 10 log₁₀(32 400/(θφ)), to about ± 1 dB.

    Stutzman & Thiele, Antenna Theory and Design, 3rd ed., §5.3 gives constants from 26 000 to 41 253.
    """
    return 10.0 * math.log10(TYPICAL_SQUARE_DEGREES / (beamwidth_a_deg * beamwidth_b_deg))


def face_gain_limit_dbi(width_m: float, height_m: float, frequency_hz: float) -> float:
    """4πA/λ² with half a wavelength added all round, which is generous for small faces.

    Balanis, Antenna Theory, 3rd ed., §12.5 (aperture of uniform field); the margin covers fields that
    spread past the edge.
    """
    lam = wavelength(frequency_hz)
    area = (width_m + lam) * (height_m + lam)
    return 10.0 * math.log10(4.0 * math.pi * area / lam**2)


def broadside_line_gain_limit_dbi(length_m: float, frequency_hz: float) -> float:
    """A line of length L that radiates sideways, a collinear: 2L/λ, never less than a dipole.

    Balanis §6.4, broadside array of small spacing: D₀ = 2L/λ for L ≫ λ.
    """
    ratio = 2.0 * length_m / wavelength(frequency_hz)
    return max(DIPOLE_GAIN_DBI, 10.0 * math.log10(ratio))


def endfire_line_gain_limit_dbi(length_m: float, frequency_hz: float) -> float:
    """A line of length L that radiates along itself, a Yagi's boom: 1.805·4L/λ, never less than a dipole + 3 dB.

    Balanis §6.4, Hansen-Woodyard endfire array: D₀ = 1.805·4L/λ. Real Yagis stay below it.
    """
    ratio = 1.805 * 4.0 * length_m / wavelength(frequency_hz)
    return max(DIPOLE_GAIN_DBI + 3.0, 10.0 * math.log10(ratio))


def helix_gain_limit_dbi(circumference_m: float, turns: float, turn_spacing_m: float, frequency_hz: float) -> float:
    """Axial-mode helix: 15·(C/λ)²·n·S/λ, dBi in its own circular sense.

    Kraus, Antennas, chapter 7, gives this for 0.8 < C/λ < 1.2, pitch 12°…14°, n > 3; measured helices fall 1 to 3 dB
    below it (King & Wong 1980), so it serves as a limit, not as an estimate.
    """
    lam = wavelength(frequency_hz)
    return 10.0 * math.log10(15.0 * (circumference_m / lam) ** 2 * turns * turn_spacing_m / lam)
