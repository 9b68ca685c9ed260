"""Gains of antennas computed from their currents, for the tests of what a claim may say: no program's, no maker's.

Lengths in wavelengths, gains as ratios; losses are left out.
"""

from __future__ import annotations

import numpy as np
from scipy.special import hankel2, jv, sici

ETA_OVER_4PI = 29.9792458
THETA = np.radians(np.arange(0.25, 180.0, 0.5))
PHI = np.radians(np.arange(0.5, 360.0, 1.0))


def by_integral(power) -> float:
    """Directivity of `power(theta, phi)` over the sphere (Balanis, Antenna Theory, §2.6)."""
    theta, phi = np.meshgrid(THETA, PHI, indexing="ij")
    u = power(theta, phi) * np.ones_like(theta)
    return float(4 * np.pi * u.max() / (np.sum(u * np.sin(theta)) * np.radians(0.5) * np.radians(1.0)))


def dipole(length: float, theta=THETA):
    """Power pattern of a thin dipole with a sinusoidal current (Balanis §4.5)."""
    half = np.pi * length
    return ((np.cos(half * np.cos(theta)) - np.cos(half)) / np.sin(theta)) ** 2


def dipole_gain(length: float) -> float:
    return by_integral(lambda theta, phi: dipole(length, theta))


def monopole_gain(length: float) -> float:
    """On a plate without end: all of the dipole of twice its length in one half of space (Balanis §4.7)."""
    return 2 * dipole_gain(2 * length)


def stacked(count: int, apart: float, round_=lambda phi: 1.0) -> float:
    """Half-wave dipoles in a line along their axes, in phase; `round_`: what a mast makes of it over azimuth."""
    place = np.arange(count) * apart

    def power(theta, phi):
        factor = np.abs(np.exp(2j * np.pi * place[:, None, None] * np.cos(theta)).sum(axis=0)) ** 2
        return dipole(0.5, theta) * factor * round_(phi)

    return by_integral(power)


def before_a_mast(off: float, radius: float):
    """Power over azimuth of a line source `off` from the axis of a round mast (Carter 1943; Harrington, Time-Harmonic Electromagnetic Fields,
    §5-9)."""

    def power(phi):
        k = 2 * np.pi
        field = 0
        for n in range(12):
            wave = jv(n, k * off) - hankel2(n, k * off) * jv(n, k * radius) / hankel2(n, k * radius)
            field = field + (2 if n else 1) * 1j**n * wave * np.cos(n * phi)
        return np.abs(field) ** 2

    return power


def _resistance(apart: float) -> complex:
    """Mutual impedance of two half-wave dipoles side by side (Carter 1932; Balanis §8.6.2)."""
    k = 2 * np.pi
    if apart == 0:
        return 73.13 + 42.54j
    slant = np.hypot(apart, 0.5)
    s, c = zip(*(sici(k * x) for x in (apart, slant + 0.5, slant - 0.5)), strict=True)
    return ETA_OVER_4PI * complex(2 * c[0] - c[1] - c[2], -(2 * s[0] - s[1] - s[2]))


def yagi_gain(*places: float) -> float:
    """The best that parasites at these places do for the driven one, the second, by any length of theirs: induced EMF, the
    reactances of the others searched."""
    places = np.array(places)
    z = np.array([[_resistance(abs(a - b)) for a in places] for b in places])
    others = [i for i in range(len(places)) if i != 1]
    ahead = np.exp(2j * np.pi * places)

    def gain(reactances) -> float:
        whole = z.copy()
        for i, x in zip(others, reactances, strict=True):
            whole[i, i] = z[i, i].real + 1j * x
        drive = np.zeros(len(places), complex)
        drive[1] = 1.0
        current = np.linalg.solve(whole, drive)
        return float(120 * abs(current @ ahead) ** 2 / np.real(current.conj() @ z.real @ current))

    grid = np.arange(-120.0, 121.0, 4.0)
    found = max(
        (gain(x), x) for x in (np.array(np.meshgrid(*[grid] * len(others))).reshape(len(others), -1).T).tolist()
    )
    return found[0]


def two_slots(width: float, apart: float) -> float:
    """A patch over air: its two edges as slots on a plate without end (Balanis §14.2.2)."""

    def power(theta, phi):
        x, y = np.sin(theta) * np.cos(phi), np.sin(theta) * np.sin(phi)
        front = theta < np.pi / 2
        along = np.sinc(width * y)
        # A magnetic current along y: its field falls with 1 − y².
        return np.where(front, (along * np.cos(np.pi * apart * x)) ** 2 * (1 - y**2), 0.0)

    return by_integral(power)


def corner(off: float) -> float:
    """A half-wave dipole `off` from the edge of a corner of 90° without end: three images (Kraus, Antennas, §11-5)."""

    def power(theta, phi):
        x, y = np.sin(theta) * np.cos(phi), np.sin(theta) * np.sin(phi)
        a = 2 * np.pi * off
        inside = np.abs((phi + np.pi) % (2 * np.pi) - np.pi) <= np.pi / 4
        return np.where(inside, (np.cos(a * x) - np.cos(a * y)) ** 2 * dipole(0.5, theta), 0.0)

    return by_integral(power)
