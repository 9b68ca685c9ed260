"""How much gain a beam or a size allows at most, dBi."""

from __future__ import annotations

import math

import numpy as np

from .constants import wavelength
from .decibels import Floats

KRAUS_SQUARE_DEGREES = 41_253.0
"""Square degrees in a sphere: 4π(180/π)²."""

TYPICAL_SQUARE_DEGREES = 32_400.0
"""Stutzman & Thiele's practical constant for real patterns with sidelobes (some authors take 26 000)."""


def beam_directivity_limit_dbi(beamwidth_a_deg: float, beamwidth_b_deg: float) -> float:
    """The most that a clean beam of two half-power widths can have, dBi: 10 log₁₀(41 253/(θφ)), and of wide ones what the fattest clean
    shape has.

    Kraus, Antennas, §2-9, for beams that are narrow: all power inside one clean beam; sidelobes only take away. Above some 100° that
    bounds nothing, for the sphere is round: a cosⁿ beam of 110° by 110° has 6.5 dBi (Balanis, Antenna Theory, §2.6, U = cosⁿθ,
    D₀ = 2(n + 1)) where 41 253/θφ says 5.3. For a doughnut give 360 for the width all round. Widths above 0, at most 360.
    """
    kraus = KRAUS_SQUARE_DEGREES / (beamwidth_a_deg * beamwidth_b_deg)
    shapes = clean_beams(beamwidth_a_deg, beamwidth_b_deg)
    return 10.0 * math.log10(max(kraus, *shapes))


def clean_beams(beamwidth_a_deg: float, beamwidth_b_deg: float) -> tuple[float, ...]:
    """Directivity, a ratio, of beams without sidelobes of two half-power widths, by the integral over the sphere (Balanis §2.6):
    Gaussian in azimuth and elevation; cosᵐ of half the azimuth by cosⁿ of the elevation; and, where both are under 180°, cosⁿ about its
    axis with an n for each plane. `beamwidth_a_deg` is round the horizon in the first two."""
    azimuth = np.radians(np.arange(-179.5, 180.0, 1.0))
    elevation = np.radians(np.arange(-89.75, 90.0, 0.5))

    def over(shape_a: Floats, shape_e: Floats) -> float:
        power = float(np.sum(shape_a) * math.radians(1.0)) * float(
            np.sum(shape_e * np.cos(elevation)) * math.radians(0.5)
        )
        return 4.0 * math.pi / power

    half_a, half_b = math.radians(beamwidth_a_deg / 2.0), math.radians(min(beamwidth_b_deg, 179.9) / 2.0)
    if beamwidth_a_deg >= 359.0:
        round_a = round_cos = np.ones_like(azimuth)
    else:
        round_a = np.exp(-math.log(2.0) * (azimuth / half_a) ** 2)
        round_cos = np.cos(azimuth / 2.0) ** (2.0 * _power(half_a / 2.0) / 2.0)
    out = [
        over(round_a, np.exp(-math.log(2.0) * (elevation / half_b) ** 2)),
        over(round_cos, np.cos(elevation) ** _power(half_b)),
    ]
    if max(beamwidth_a_deg, beamwidth_b_deg) < 179.0:
        n_a, n_b = _power(math.radians(beamwidth_a_deg / 2.0)), _power(half_b)
        theta, phi = np.meshgrid(np.radians(np.arange(0.25, 90.0, 0.5)), np.radians(np.arange(1.0, 360.0, 2.0)))
        shape = np.cos(theta) ** (n_a * np.cos(phi) ** 2 + n_b * np.sin(phi) ** 2)
        out.append(4.0 * math.pi / float(np.sum(shape * np.sin(theta)) * math.radians(0.5) * math.radians(2.0)))
    return tuple(out)


def _power(half_rad: float) -> float:
    """n of cosⁿ that is a half at an angle."""
    return math.log(0.5) / math.log(math.cos(half_rad))


def other_beamwidth_deg(beamwidth_deg: float, directivity_dbi: float) -> tuple[float, ...]:
    """The half-power widths that a clean beam of one width has in the other plane for a directivity, by each shape of `clean_beams` and by
    the practical 32 400/(θφ) (Stutzman and Thiele §5.3), narrowest first; those that reach it at no width from 0.5° to 180° are left out."""
    wanted = 10.0 ** (directivity_dbi / 10.0)
    out = [TYPICAL_SQUARE_DEGREES / (beamwidth_deg * wanted)]
    for k in range(2):
        low, high = 0.5, 179.0
        if not clean_beams(beamwidth_deg, high)[k] <= wanted <= clean_beams(beamwidth_deg, low)[k]:
            continue
        for _ in range(40):
            middle = math.sqrt(low * high)
            low, high = (middle, high) if clean_beams(beamwidth_deg, middle)[k] > wanted else (low, middle)
        out.append(low)
    return tuple(sorted(width for width in out if 0.5 <= width <= 180.0))


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
    a wavelength more allows for: half-wave dipole 3.0 (has 2.15), 1.25 λ 5.4 (has 5.2). However short, a dipole without losses has 1.5
    (Balanis §4.2).
    """
    return 10.0 * math.log10(max(2.0 * (length_m / wavelength(frequency_hz) + 0.5), SHORT_DIPOLE))


SHORT_DIPOLE = 1.5
"""Directivity of a dipole of no length: 1.76 dBi; on a plate without end twice that, 4.77 dBi (Balanis §4.2, §4.7)."""


def one_sided_line_gain_limit_dbi(length_m: float, frequency_hz: float) -> float:
    """The same where it sends to one side, before a mast, a plate or each other, dBi: all the power in one half of space."""
    return broadside_line_gain_limit_dbi(length_m, frequency_hz) + PLATE_DB


def whip_gain_limit_dbi(length_m: float, frequency_hz: float) -> float:
    """A whip on a plate or roof, dBi: the line of its length and its image, all of it in the upper half (Balanis §4.7); however short 4.77."""
    return broadside_line_gain_limit_dbi(2.0 * length_m, frequency_hz) + PLATE_DB


def sphere_gain_limit_dbi(radius_m: float, frequency_hz: float) -> float:
    """The most of an antenna inside a sphere that is not superdirective, dBi: N² + 2N with N = ka + 1.

    Harrington, Effect of antenna size on gain, bandwidth and efficiency, J. Res. NBS 64D (1960), with N = ka; one order
    more is allowed, since small beams of close elements (two-element quads) do use it.
    """
    n = 2.0 * math.pi * radius_m / wavelength(frequency_hz) + 1.0
    return 10.0 * math.log10(n * n + 2.0 * n)


CLOSE_BOOM, CLOSE_THREE_DBI, TWO_DBI = 0.2, 9.7, 7.4


def best_yagi_dbi(boom_m: float, frequency_hz: float, elements: int | None = None) -> float:
    """About the best that is published of Yagis of a boom's length, dBi: 11.4 + 7.8·log₁₀(L/λ), at least 7.4, and from 0.2 λ on, with three
    elements or nobody knows how many, at least 9.7.

    Through the six Yagis of Viezbicke, Yagi antenna design, NBS Technical Note 688 (1976), to within a decibel (0.4 λ
    9.25, 4.2 λ 16.35 dBi), and optimised ones of up to 15 λ; two close elements have 7.4 (Brown 1937). Three close ones do better than
    their boom says, as induced EMF has it (Carter 1932): 8.9 to 9.7 on 0.25 to 0.35 λ, near the limit N² + 2N of so few elements, and narrow.
    """
    waves = boom_m / wavelength(frequency_hz)
    close = CLOSE_THREE_DBI if waves >= CLOSE_BOOM and (elements is None or elements >= 3) else TWO_DBI
    return max(close, 11.4 + 7.8 * math.log10(waves))


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

    At least 8: one patch, however small, has 7 or 8; over air it is half a wavelength long and has 9 and a little more (Balanis §14.2; two
    slots so far apart on a plate without end). Arrays of patches and sector panels in handbooks stay within a decibel of it (Johnson, Antenna Engineering Handbook,
    ch. 7 and 20).
    """
    lam = wavelength(frequency_hz)
    area = (width_m + lam / 4.0) * (height_m + lam / 4.0)
    least = 9.0 if min(width_m, height_m) >= 0.42 * lam else 8.0
    return max(least, 10.0 * math.log10(0.64 * 4.0 * math.pi * area / lam**2))


def is_axial_helix(circumference_m: float, turns: float, frequency_hz: float) -> bool:
    """Whether a helix sends along its axis as Kraus's formula has it: C/λ from 0.75 to 1.25 and three turns or more (Kraus, ch. 7). Thinner
    ones send sideways, as a short dipole does; of half a turn to two, as a quadrifilar has, their size alone says what they can."""
    return 0.75 <= circumference_m / wavelength(frequency_hz) <= 1.25 and turns >= 3.0


def helix_gain_limit_dbi(circumference_m: float, turns: float, turn_spacing_m: float, frequency_hz: float) -> float:
    """Axial-mode helix: 15·(C/λ)²·n·S/λ, dBi in its own circular sense.

    Kraus, Antennas, chapter 7, gives this for 0.8 < C/λ < 1.2, pitch 12°…14°, n > 3; measured helices fall 1 to 3 dB
    below it (King & Wong 1980), so it serves as a limit, not as an estimate.
    """
    lam = wavelength(frequency_hz)
    return 10.0 * math.log10(15.0 * (circumference_m / lam) ** 2 * turns * turn_spacing_m / lam)
