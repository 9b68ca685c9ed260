"""How much gain a beam or a size allows at most, dBi."""

from __future__ import annotations

import math

from .constants import wavelength

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


PLATE_DB = 3.01
"""What a conducting plate without end adds: all the power goes into one half of space (Balanis §4.7)."""


def broadside_line_gain_limit_dbi(length_m: float, frequency_hz: float) -> float:
    """A line of length L that radiates sideways, a collinear or dipole, dBi: 2(L + λ/2)/λ.

    Balanis §6.4 has D₀ = 2L/λ for a broadside line of L ≫ λ. A short one has the beam of its elements besides, which half
    a wavelength more allows for: half-wave dipole 3.0 (has 2.15), 1.25 λ 5.4 (has 5.2).
    """
    return 10.0 * math.log10(2.0 * (length_m / wavelength(frequency_hz) + 0.5))


def whip_gain_limit_dbi(length_m: float, frequency_hz: float) -> float:
    """A whip on a plate or roof, dBi: the line of its length and its image, all of it in the upper half (Balanis §4.7)."""
    return broadside_line_gain_limit_dbi(2.0 * length_m, frequency_hz) + PLATE_DB


def sphere_gain_limit_dbi(radius_m: float, frequency_hz: float) -> float:
    """The most of an antenna inside a sphere that is not superdirective, dBi: N² + 2N with N = ka + 1.

    Harrington, Effect of antenna size on gain, bandwidth and efficiency, J. Res. NBS 64D (1960), with N = ka; one order
    more is allowed, since small beams of close elements (two-element quads) do use it.
    """
    n = 2.0 * math.pi * radius_m / wavelength(frequency_hz) + 1.0
    return 10.0 * math.log10(n * n + 2.0 * n)


def best_yagi_dbi(boom_m: float, frequency_hz: float) -> float:
    """About the best that is published of Yagis of a boom's length, dBi: 11.4 + 7.8·log₁₀(L/λ), at least 7.4.

    Through the six Yagis of Viezbicke, Yagi antenna design, NBS Technical Note 688 (1976), to within a decibel (0.4 λ
    9.25, 4.2 λ 16.35 dBi), and optimised ones of up to 15 λ; two close elements have 7.4 (Brown 1937).
    """
    return max(7.4, 11.4 + 7.8 * math.log10(boom_m / wavelength(frequency_hz)))


def best_helix_dbi(circumference_m: float, turns: float, turn_spacing_m: float, frequency_hz: float) -> float:
    """What axial-mode helices of 5 to 35 turns were measured to have at best, dBi.

    8.3·(C/λ)^(√(N+2)−1)·(N·S/λ)^0.8·(tan 12.5°/tan α)^(√N/2): King and Wong, Characteristics of 1 to 8 wavelength uniform
    helical antennas, IEEE Trans. AP 28 (1980). Above C/λ of about 1.15 the gain falls again.
    """
    lam = wavelength(frequency_hz)
    c, s = min(circumference_m / lam, 1.15), turn_spacing_m / lam
    pitch = turn_spacing_m / circumference_m
    ratio = 8.3 * c ** (math.sqrt(turns + 2.0) - 1.0) * (turns * s) ** 0.8
    return 10.0 * math.log10(ratio * (math.tan(math.radians(12.5)) / pitch) ** (math.sqrt(turns) / 2.0))


def best_face_dbi(width_m: float, height_m: float, frequency_hz: float) -> float:
    """About the best that is published of panels of a face, dBi: 64 % of 4πA/λ² with an eighth of a wavelength all round.

    At least 8: one patch or dipole before a plate, however small, has 7 or 8 (Balanis §14.2). Arrays of patches and sector
    panels in handbooks stay within a decibel of it (Johnson, Antenna Engineering Handbook, ch. 7 and 20).
    """
    lam = wavelength(frequency_hz)
    area = (width_m + lam / 4.0) * (height_m + lam / 4.0)
    return max(8.0, 10.0 * math.log10(0.64 * 4.0 * math.pi * area / lam**2))


def helix_gain_limit_dbi(circumference_m: float, turns: float, turn_spacing_m: float, frequency_hz: float) -> float:
    """Axial-mode helix: 15·(C/λ)²·n·S/λ, dBi in its own circular sense.

    Kraus, Antennas, chapter 7, gives this for 0.8 < C/λ < 1.2, pitch 12°…14°, n > 3; measured helices fall 1 to 3 dB
    below it (King & Wong 1980), so it serves as a limit, not as an estimate.
    """
    lam = wavelength(frequency_hz)
    return 10.0 * math.log10(15.0 * (circumference_m / lam) ** 2 * turns * turn_spacing_m / lam)
