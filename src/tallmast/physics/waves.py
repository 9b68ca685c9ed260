"""What one antenna hands to another in any attitude: fields as vectors, by direction, polarization and pattern.

An antenna's field in a direction k (away from it) is √g · (a·ê₁ + j·b·ê₂), transverse to k: ê₁ the part across k of the axis
that it is polarized along, ê₂ = k × ê₁, and b/a its axial ratio with the sign of its sense. What passes between two is
|E₁(k)·E₂(−k)|² without conjugation, by reciprocity (Balanis, Antenna Theory, §2.12; Stutzman, Polarization, §4). Frames are
(north, east, up), as those of `attitude`.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike, NDArray

from tallmast.frozen import Frozen

from .decibels import Floats

Fields = NDArray[np.complex64]
Pattern = Callable[[Floats, Floats], Floats]
"""Power gain (a number) by azimuth and elevation in its own frame, degrees; shapes broadcast."""
LEAST = 1e-6
"""Of a gain or a length: below it nothing is told from rounding."""


class Wave(Frozen):
    """An antenna as a source of waves, in its own frame (front, right, up)."""

    gain: Pattern
    axis: tuple[float, float, float]
    """What its field lies along: (0, 0, 1) upright, (0, 1, 0) across."""
    minor: float = 0.0
    """Of the ellipse's axes, minor over major: 0 linear, 1 a right-hand circle, −1 a left-hand one."""


def minor_of(axial_ratio_db: float, right: bool | None) -> float:
    """The ratio that `Wave.minor` asks for; None: linear, its axial ratio none the less."""
    size = float(10.0 ** (-axial_ratio_db / 20.0))
    return -size if right is False else size


def dipole_gain(cos_to_axis: ArrayLike) -> Floats:
    """Power gain of a half-wave dipole at an angle to its axis: 1.643·[cos(π/2·cos θ)/sin θ]² (Balanis §4.6)."""
    c = np.clip(np.asarray(cos_to_axis, dtype=float), -1.0, 1.0)
    sine2 = np.maximum(1.0 - c**2, 1e-9)
    return np.asarray(1.643 * np.cos(0.5 * math.pi * c) ** 2 / sine2)


def beam_gain(gain_dbi: float, back_db: float = 15.0) -> Pattern:
    """A beam about the front, g·cosᵐ of the angle off it with m = g/2 − 1, which has that directivity (Stutzman and Thiele
    §2.8: 2(m+1)); `back_db` under it all round elsewhere."""
    g = 10.0 ** (gain_dbi / 10.0)
    m = max(g / 2.0 - 1.0, 0.0)
    least = g * 10.0 ** (-back_db / 10.0)

    def gain(azimuth_deg: Floats, elevation_deg: Floats) -> Floats:
        c = np.cos(np.radians(azimuth_deg)) * np.cos(np.radians(elevation_deg))
        return np.asarray(np.maximum(g * np.maximum(c, 0.0) ** m, least))

    return gain


def doughnut_gain(gain_dbi: float) -> Pattern:
    """All round about the upright axis, g·cosᵐ of the elevation: the more gain, the flatter, and the darker overhead."""
    g = max(10.0 ** (gain_dbi / 10.0), 1.0001)
    # ∫ cosᵐ⁺¹ over elevation is 2/g: m by halving.
    low, high = 0.0, 2000.0
    fine = np.radians(np.linspace(0.0, 90.0, 721))
    for _ in range(50):
        m = 0.5 * (low + high)
        whole = float(np.trapezoid(np.cos(fine) ** (m + 1.0), fine))
        low, high = (m, high) if 1.0 / whole < g else (low, m)
    m = 0.5 * (low + high)

    def gain(azimuth_deg: Floats, elevation_deg: Floats) -> Floats:
        level = np.maximum(g * np.cos(np.radians(elevation_deg)) ** m, g * 1e-3)
        return np.broadcast_to(level, np.broadcast_shapes(np.shape(azimuth_deg), np.shape(elevation_deg)))

    return gain


def across(toward: Floats) -> tuple[Floats, Floats]:
    """(horizontal, upward) unit vectors across directions [..., 3] in (north, east, up); overhead any two that are across."""
    k = np.asarray(toward, dtype=float)
    flat = np.stack((-k[..., 1], k[..., 0], np.zeros(k.shape[:-1])), axis=-1)
    length = np.linalg.norm(flat, axis=-1, keepdims=True)
    level = np.where(length > 1e-9, flat / np.maximum(length, 1e-12), np.array([0.0, 1.0, 0.0]))
    return level, np.cross(level, k)


def fields(wave: Wave, frame: Floats, toward: Floats) -> Fields:
    """Field [..., 2] of an antenna along the (horizontal, upward) of `across(toward)`, √(power gain).

    `frame` [..., 3, 3]: its front, right and up as rows in (north, east, up), as `attitude.axes` gives them; `toward` [..., 3]
    unit vectors away from it; both broadcast against each other.
    """
    level, upward = across(toward)
    own = np.einsum("...ij,...j->...i", frame, toward)
    azimuth = np.degrees(np.arctan2(own[..., 1], own[..., 0]))
    elevation = np.degrees(np.arcsin(np.clip(own[..., 2], -1.0, 1.0)))
    gain = np.sqrt(np.maximum(wave.gain(azimuth, elevation), LEAST))
    axis = np.einsum("j,...ji->...i", np.asarray(wave.axis, dtype=float), frame)
    h, v = np.einsum("...i,...i->...", axis, level), np.einsum("...i,...i->...", axis, upward)
    return _ellipse(h, v, wave.minor, gain)


def _ellipse(h: Floats, v: Floats, minor: float, gain: Floats) -> Fields:
    """From the parts of the axis across the direction: along them, and a quarter turn beside them."""
    length = np.maximum(np.hypot(h, v), LEAST)
    h, v = h / length, v / length
    scale = gain / math.sqrt(1.0 + minor * minor)
    # With h along (up × k) and v along k's upward, ê₂ = k × ê₁ is (v, −h) in (horizontal, upward): right-hand has it later.
    return np.stack((scale * (h - 1j * minor * v), scale * (v + 1j * minor * h)), axis=-1).astype(np.complex64)


def passed(one: Fields, other: Fields) -> NDArray[np.float32]:
    """Power that passes between two that look at each other, as a number: 1 for two isotropic ones that agree.

    Both [..., 2] along the same (horizontal, upward): those of `across(k)` for the one; for the other `facing` turns them.
    """
    together = one[..., 0] * other[..., 0] + one[..., 1] * other[..., 1]
    return np.asarray(np.abs(together) ** 2, dtype=np.float32)


def facing(other: Fields) -> Fields:
    """A field along the (horizontal, upward) of −k, told along those of k: the horizontal is turned about."""
    return np.stack((-other[..., 0], other[..., 1]), axis=-1)
