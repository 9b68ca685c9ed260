"""The second ray by the ground: reflection by polarization, what the ground is made of and how rough it is, and what both rays make.

Angles from the ground, degrees. Ground as Rec. ITU-R P.527-6 has it about 1 GHz (relative permittivity, conductivity in S/m).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .constants import wavelength
from .decibels import Floats

GROUNDS: dict[str, tuple[float, float]] = {
    "dry ground": (4.0, 0.001),
    "ordinary ground": (15.0, 0.03),
    "wet ground": (30.0, 0.15),
    "fresh water": (80.0, 0.2),
    "sea": (72.0, 5.0),
    "metal": (1.0, 1e7),
}
FREE_SPACE_F_PER_M = 8.8541878128e-12
LEAST_FIELD = 0.03
"""Both rays together are given as no less than this of one alone: deeper holes are never found twice."""


def reflection(
    grazing_deg: ArrayLike, frequency_hz: float, ground: str, vertical: bool, rough_m: float = 0.0
) -> NDArray[np.complex128]:
    """Reflection coefficient [n] of a plane wave on ground: Fresnel's, with Rayleigh's factor for roughness exp(−2(2πσ·sin ψ/λ)²).

    Rec. ITU-R P.527-6 §3 and Rec. ITU-R P.530 for the roughness; Balanis, Antenna Theory, §4.8. Raises `KeyError` for a
    ground that is not in `GROUNDS`.
    """
    permittivity, conductivity = GROUNDS[ground]
    epsilon = permittivity - 1j * conductivity / (2.0 * np.pi * frequency_hz * FREE_SPACE_F_PER_M)
    psi = np.radians(np.asarray(grazing_deg, dtype=float))
    sine, root = np.sin(psi), np.sqrt(epsilon - np.cos(psi) ** 2)
    along = epsilon * sine if vertical else sine
    smooth = (along - root) / (along + root)
    rough = np.exp(-2.0 * (2.0 * np.pi * rough_m * sine / wavelength(frequency_hz)) ** 2)
    return np.asarray(smooth * rough)


def both_rays_db(
    ground_m: ArrayLike,
    height_a_m: float,
    height_b_m: ArrayLike,
    frequency_hz: float,
    ground: str,
    vertical: bool,
    rough_m: float = 0.0,
) -> Floats:
    """Level [n] of both rays over the direct one alone, dB, over flat ground: |1 + ρ·(r/r′)·e^(−jk(r′−r))| (Rec. ITU-R P.1411 §4; Balanis
    §4.8). Both antennas are taken to send as much down as straight on."""
    across, b = np.asarray(ground_m, dtype=float), np.asarray(height_b_m, dtype=float)
    direct, down = np.hypot(across, b - height_a_m), np.hypot(across, b + height_a_m)
    grazing = np.degrees(np.arctan2(b + height_a_m, np.maximum(across, 1e-9)))
    rho = reflection(grazing, frequency_hz, ground, vertical, rough_m)
    turn = np.exp(-2j * np.pi * (down - direct) / wavelength(frequency_hz))
    return np.asarray(20.0 * np.log10(np.maximum(np.abs(1.0 + rho * direct / down * turn), LEAST_FIELD)))


def phase_u_rad(ground_m: ArrayLike, height_a_m: float, height_u_m: float, frequency_hz: float) -> Floats:
    """Standard uncertainty [n] of the phase between both rays by a height that is not known better: k·2h_a·u/d. Beyond a radian nobody knows
    whether they add or cancel."""
    across = np.maximum(np.asarray(ground_m, dtype=float), 1.0)
    return np.asarray(2.0 * np.pi / wavelength(frequency_hz) * 2.0 * height_a_m * height_u_m / across)
