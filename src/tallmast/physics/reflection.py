"""What one port reflects: match, resonance, usable window, and what the cable hid.

Γ is the reflection coefficient, complex, referred to 50 Ω unless said otherwise. Source for the
relations: Pozar, Microwave Engineering, 4th ed., §2.3; Rytting, Network analyzer error models,
for the residual-directivity bound.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .constants import SPEED_OF_LIGHT, SYSTEM_IMPEDANCE
from .decibels import Floats, amplitude_ratio

Complexes = NDArray[np.complex128]

SWR_CEILING = 99.0
"""Beyond this an SWR is 'everything comes back'; keeps plots and means finite."""


def swr(gamma_magnitude: ArrayLike) -> Floats:
    """Standing wave ratio (1+|Γ|)/(1−|Γ|), at most `SWR_CEILING`; |Γ| at or above 1 gives the ceiling.

    Shape as given: element by element.
    """
    magnitude = np.clip(np.asarray(gamma_magnitude, dtype=float), 0.0, None)
    limit = gamma_from_swr(SWR_CEILING)
    magnitude = np.minimum(magnitude, limit)
    return np.asarray((1.0 + magnitude) / (1.0 - magnitude))


def gamma_from_swr(ratio: ArrayLike) -> Floats:
    """|Γ| = (s−1)/(s+1) of a standing wave ratio s ≥ 1. Shape as given: element by element."""
    s = np.asarray(ratio, dtype=float)
    return np.asarray((s - 1.0) / (s + 1.0))


def swr_from_powers(forward_w: float, reflected_w: float) -> float:
    """SWR from forward and reflected power: |Γ| = √(Pr/Pf). Forward above zero, reflected 0…forward."""
    return float(swr(np.sqrt(reflected_w / forward_w)))


def return_loss_db(gamma_magnitude: ArrayLike) -> Floats:
    """−20 log₁₀|Γ|, positive for a passive load; |Γ| below 10⁻⁶ is given as 120 dB.

    Shape as given: element by element.
    """
    return np.asarray(-20.0 * np.log10(np.maximum(np.asarray(gamma_magnitude, dtype=float), 1e-6)))


def mismatch_loss_db(gamma_magnitude: ArrayLike) -> Floats:
    """−10 log₁₀(1−|Γ|²): the power that does not go in, as a loss. |Γ| is capped just below 1.

    Shape as given: element by element.
    """
    magnitude = np.minimum(np.asarray(gamma_magnitude, dtype=float), float(gamma_from_swr(SWR_CEILING)))
    return np.asarray(-10.0 * np.log10(1.0 - magnitude**2))


def impedance(gamma: ArrayLike, reference_ohm: float = SYSTEM_IMPEDANCE) -> Complexes:
    """Z = Z₀(1+Γ)/(1−Γ), Ω. Γ exactly 1 (an open) gives a very large value, not an infinity.

    Shape as given: element by element.
    """
    g = np.asarray(gamma, dtype=complex)
    gap = 1.0 - g
    gap = np.where(np.abs(gap) < 1e-9, 1e-9, gap)
    return np.asarray(reference_ohm * (1.0 + g) / gap)


def gamma_from_impedance(impedance_ohm: ArrayLike, reference_ohm: float = SYSTEM_IMPEDANCE) -> Complexes:
    """Γ = (Z−Z₀)/(Z+Z₀). Shape as given: element by element."""
    z = np.asarray(impedance_ohm, dtype=complex)
    return np.asarray((z - reference_ohm) / (z + reference_ohm))


def lines_of_impedance(
    resistances_ohm: Sequence[float], reactances_ohm: Sequence[float], points: int = 181
) -> tuple[list[Complexes], list[Complexes]]:
    """Where the resistance, and where the reactance, is the same in the plane of Γ: one line of `points` for each, in ohms.

    Those of resistance run from capacitive to inductive, those of reactance from the rim (no resistance) to the open end.
    Each line is [points], complex.
    """
    turn = np.linspace(-np.pi / 2, np.pi / 2, points)[1:-1]
    any_reactance, any_resistance = (
        SYSTEM_IMPEDANCE * np.tan(turn),
        SYSTEM_IMPEDANCE * np.tan(np.linspace(0.0, np.pi / 2, points)[:-1]),
    )
    same_r = [gamma_from_impedance(r + 1j * any_reactance) for r in resistances_ohm]
    same_x = [gamma_from_impedance(any_resistance + 1j * x) for x in reactances_ohm]
    return same_r, same_x


def through_cable(
    gamma: ArrayLike, frequency_hz: ArrayLike, loss_db: ArrayLike, length_m: float, velocity_factor: float
) -> Complexes:
    """What is seen of Γ through a matched cable: Γ·10^(−2L/20)·e^(−j2βl).

    `loss_db` is the one-way loss L (scalar or one value a frequency), `length_m` the length l and
    β = 2πf/(v·c). The inverse is `without_cable`. Pozar §2.7.
    """
    f = np.asarray(frequency_hz, dtype=float)
    beta = 2.0 * np.pi * f / (velocity_factor * SPEED_OF_LIGHT)
    way = amplitude_ratio(-2.0 * np.asarray(loss_db, dtype=float)) * np.exp(-2j * beta * length_m)
    return np.asarray(np.asarray(gamma, dtype=complex) * way)


def without_cable(
    gamma: ArrayLike, frequency_hz: ArrayLike, loss_db: ArrayLike, length_m: float, velocity_factor: float
) -> Complexes:
    """Γ at the antenna from Γ at the analyzer: Γ·10^(2L/20)·e^(+j2βl). See `through_cable`. Shapes broadcast."""
    loss = -np.asarray(loss_db, dtype=float)
    return through_cable(gamma, frequency_hz, loss, -length_m, velocity_factor)


def gamma_uncertainty(
    gamma_magnitude: ArrayLike,
    directivity_db: float,
    noise: float,
    cable_loss_db: ArrayLike,
    cable_loss_u_db: float,
    drift: float = 0.0,
) -> tuple[Floats, Floats]:
    """(standard uncertainty of |Γ| at the antenna, share of its square that is bounded), each of the shape of |Γ|.

    The residual directivity adds a vector of length δ = 10^(−D/20) and unknown phase; its part along Γ has the standard
    deviation δ/√2 and never exceeds δ (arcsine distribution, JCGM 101 §6.4.6): the bounded share, for
    `statistics.bounded_factor`. With the noise it is seen through the cable, so both grow by 10^(2L/20); an uncertainty
    u(L) of the cable's loss adds |Γ|·(ln10/20)·2u(L). `drift`: by how much (a vector's size) directivity, tracking and source match
    have each moved since they were found; they add d/√2, |Γ|·d/√2 and |Γ|²·d/√2 (Rytting 1998), which together have no bound. Quadratic sum. Valid while δ is small against 1.
    """
    magnitude = np.asarray(gamma_magnitude, dtype=float)
    grown = amplitude_ratio(2.0 * np.asarray(cable_loss_db, dtype=float))
    directivity = float(amplitude_ratio(-directivity_db)) * grown / np.sqrt(2.0)
    cable = magnitude * (np.log(10.0) / 20.0) * 2.0 * cable_loss_u_db
    at_port = magnitude / grown
    moved = grown * drift / np.sqrt(2.0) * np.sqrt(1.0 + at_port**2 + at_port**4)
    whole = np.sqrt(directivity**2 + (noise * grown) ** 2 + cable**2 + moved**2)
    return np.asarray(whole), np.asarray((directivity / whole) ** 2)


def crossings(x: ArrayLike, y: ArrayLike, level: float) -> Floats:
    """Every x at which y crosses `level`, by straight lines between samples; x ascending.

    Both [sample]; the result is [crossing].
    """
    xs, ys = np.asarray(x, dtype=float), np.asarray(y, dtype=float) - level
    flips = np.nonzero((ys[:-1] < 0) != (ys[1:] < 0))[0]
    return np.asarray(xs[flips] - ys[flips] * (xs[flips + 1] - xs[flips]) / (ys[flips + 1] - ys[flips]))


def usable_windows(frequency_hz: ArrayLike, ratio: ArrayLike, limit: float) -> list[tuple[float, float]]:
    """The stretches of frequency (low, high), Hz, in which SWR is at or under `limit`, edges interpolated.

    A stretch that touches the end of the sweep ends there: it may go on outside.
    Both [point], frequency ascending.
    """
    f, s = np.asarray(frequency_hz, dtype=float), np.asarray(ratio, dtype=float)
    edges = list(crossings(f, s, limit))
    if s[0] < limit:
        edges.insert(0, float(f[0]))
    if s[-1] < limit:
        edges.append(float(f[-1]))
    return [(float(a), float(b)) for a, b in zip(edges[::2], edges[1::2], strict=False)]


def resonance_hz(frequency_hz: ArrayLike, gamma: ArrayLike) -> float | None:
    """Where X goes through zero nearest the best match, Hz; else the best match itself.

    None when the best match lies at an end of the sweep: the resonance is then outside it.
    Both [point], frequency ascending.
    """
    f, g = np.asarray(frequency_hz, dtype=float), np.asarray(gamma, dtype=complex)
    best = int(np.argmin(np.abs(g)))
    if best in (0, len(f) - 1):
        return None
    zeros = crossings(f, impedance(g).imag, 0.0)
    magnitude = np.abs(g)
    if len(zeros):
        nearest = float(zeros[int(np.argmin(np.abs(zeros - f[best])))])
        # A zero far up the curve belongs to another resonance, or to the cable.
        if float(np.interp(nearest, f, magnitude)) < float(magnitude[best]) + 0.1:
            return nearest
    return float(f[best])


def trim_length(cut_part_m: float, resonance_hz: float, wanted_hz: float) -> float:
    """How much to cut off a part of length L so that its resonance moves up: L·(f_wanted − f₀)/f_wanted, m.

    Length times frequency stays constant, so L′ = L·f₀/f_wanted; for small moves this is the workshop rule
    ΔL ≈ −L·Δf/f. Negative: it must grow longer by that much. Good to some 10 % while the move is under
    10 % (end effects and the other elements are left out): cut half, sweep again.
    """
    return cut_part_m * (wanted_hz - resonance_hz) / wanted_hz
