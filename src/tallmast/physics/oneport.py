"""One-port calibration: what the instrument adds, found from known standards and taken out again.

A one-port instrument shows M = e00 + e10e01·Γ/(1 − e11·Γ) of a true Γ: e00 is directivity, e11 source match,
e10e01 reflection tracking. Rytting, Network analyzer error models and calibration methods (1998), §2; Hiebel,
Fundamentals of Vector Network Analysis, §3.2. The terms are held against scikit-rf's `OnePort` by the tests.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen

from .constants import SYSTEM_IMPEDANCE
from .decibels import Floats
from .reflection import Complexes, gamma_from_impedance


class ErrorTerms(Frozen):
    """Directivity, source match and reflection tracking at each frequency (complex, [frequency])."""

    directivity: Complexes
    source_match: Complexes
    tracking: Complexes

    def shown(self, gamma: ArrayLike) -> Complexes:
        """What the instrument shows of a true Γ. [point] on the grid of the terms."""
        g = np.asarray(gamma, dtype=complex)
        return np.asarray(self.directivity + self.tracking * g / (1.0 - self.source_match * g))

    def corrected(self, measured: ArrayLike) -> Complexes:
        """The true Γ from what was shown: (M − e00)/(e10e01 + e11·(M − e00)).

        [point] on the grid of the terms; where the denominator vanishes, not finite.
        """
        beyond = np.asarray(measured, dtype=complex) - self.directivity
        return np.asarray(beyond / (self.tracking + self.source_match * beyond))

    def at(self, known_hz: Floats, frequency_hz: Floats) -> ErrorTerms:
        """The terms on another grid of frequencies inside the first, by straight lines between its points.

        Both [point], ascending, Hz.
        """

        def onto(values: Complexes) -> Complexes:
            return np.asarray(
                np.interp(frequency_hz, known_hz, values.real) + 1j * np.interp(frequency_hz, known_hz, values.imag)
            )

        return ErrorTerms(onto(self.directivity), onto(self.source_match), onto(self.tracking))


def solve(ideal: Sequence[ArrayLike], measured: Sequence[ArrayLike]) -> ErrorTerms:
    """Error terms from three or more standards: what each really is, and what was shown ([standard][frequency]).

    Linear in a = e00, b = e11 and c = e10e01 − e00·e11: M = a + b·(Γ·M) + c·Γ. Three standards give them exactly,
    more by least squares. Raises ValueError for fewer than three, or for standards that are alike somewhere.
    """
    if len(ideal) != len(measured) or len(ideal) < 3:
        raise ValueError("three or more standards are needed, each with what was shown of it")
    shown = np.stack([np.asarray(m, dtype=complex) for m in measured], axis=-1)
    true = np.stack([np.broadcast_to(np.asarray(g, dtype=complex), shown.shape[:-1]) for g in ideal], axis=-1)
    matrix = np.stack([np.ones_like(true), true * shown, true], axis=-1)
    adjoint = np.conj(np.swapaxes(matrix, -1, -2))
    try:
        found = np.linalg.solve(adjoint @ matrix, adjoint @ shown[..., None])[..., 0]
    except np.linalg.LinAlgError as error:
        raise ValueError("two of the standards look alike, so the error terms can't be told apart") from error
    if not np.isfinite(found).all() or np.abs(found).max() > 1e6:
        raise ValueError("two of the standards look alike, so the error terms can't be told apart")
    directivity, source_match = found[..., 0], found[..., 1]
    return ErrorTerms(directivity, source_match, found[..., 2] + directivity * source_match)


def offset(gamma: ArrayLike, frequency_hz: ArrayLike, delay_s: float, loss_db_at_1ghz: float = 0.0) -> Complexes:
    """A standard seen through its own short line: one-way `delay_s`, and a one-way loss that grows with √f.

    Shapes broadcast.
    """
    f = np.asarray(frequency_hz, dtype=float)
    loss = loss_db_at_1ghz * np.sqrt(f / 1e9)
    return np.asarray(np.asarray(gamma, dtype=complex) * 10.0 ** (-loss / 10.0) * np.exp(-4j * np.pi * f * delay_s))


def open_gamma(frequency_hz: ArrayLike, capacitance_f: Sequence[float] = ()) -> Complexes:
    """Γ of an open with fringe capacitance C(f) = C0 + C1·f + C2·f² + C3·f³, farad and hertz.

    Hiebel §3.1.2; no coefficients: an ideal open, Γ = 1.
    Shape of `frequency_hz`, Hz.
    """
    f = np.asarray(frequency_hz, dtype=float)
    fringe = sum((c * f**k for k, c in enumerate(capacitance_f)), np.zeros_like(f))
    x = 2.0 * np.pi * f * fringe * SYSTEM_IMPEDANCE
    return np.asarray((1.0 - 1j * x) / (1.0 + 1j * x))


def load_gamma(frequency_hz: ArrayLike, resistance_ohm: float = SYSTEM_IMPEDANCE) -> Complexes:
    """Γ of a load by its resistance. Shape of `frequency_hz`; resistance above zero."""
    f = np.asarray(frequency_hz, dtype=float)
    return np.asarray(np.broadcast_to(gamma_from_impedance(resistance_ohm), f.shape))


def short_gamma(frequency_hz: ArrayLike) -> Complexes:
    """Γ of a short. Shape of `frequency_hz`."""
    return np.full(np.asarray(frequency_hz, dtype=float).shape, -1.0 + 0j)
