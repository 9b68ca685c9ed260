"""A length of cable, measured from one end: its loss over frequency, its length, and where it steps."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen

from .constants import SPEED_OF_LIGHT
from .decibels import Floats, amplitude_db
from .reflection import Complexes

BLOCKS = 12


class LossFit(Frozen):
    """One-way loss a·√f + b·f, dB with f in MHz, and the standard uncertainty of the fitted curve."""

    a: float
    b: float
    covariance: Floats
    scatter_db: float
    """Standard deviation of a reading about the curve: the ripple of what is not matched."""
    degrees: float
    """Degrees of freedom of the covariance."""

    def loss_db(self, frequency_hz: ArrayLike) -> Floats:
        """One-way loss at these frequencies, dB; shape as given."""
        return loss_curve_db(frequency_hz, self.a, self.b)

    def u_db(self, frequency_hz: ArrayLike) -> Floats:
        """Its standard uncertainty, dB; shape as given."""
        terms = np.stack(_terms(frequency_hz), axis=-1)
        return np.asarray(np.sqrt(np.einsum("...i,ij,...j->...", terms, self.covariance, terms)))


def loss_curve_db(frequency_hz: ArrayLike, root_db: float, linear_db: float) -> Floats:
    """One-way loss a·√f + b·f, dB with f in MHz: conductor and dielectric (Pozar §2.7).

    Shape as given: element by element. Frequencies above zero.
    """
    root, linear = _terms(frequency_hz)
    return np.asarray(root_db * root + linear_db * linear)


def _terms(frequency_hz: ArrayLike) -> tuple[Floats, Floats]:
    f = np.asarray(frequency_hz, dtype=float) / 1e6
    return np.sqrt(f), f


def fit_loss(frequency_hz: ArrayLike, gamma: ArrayLike) -> LossFit:
    """Loss of a cable from a sweep of it shorted or open at the far end: half its return loss, fitted with a·√f + b·f.

    `frequency_hz` [n] ascending, `gamma` [n]. a is conductor loss (skin effect) and b dielectric loss; neither is let
    below zero (Pozar §2.7). The ripple of imperfect connectors averages out over many turns of phase, so sweep widely:
    its share of the uncertainty is read from `BLOCKS` stretches of the sweep, within each of which it has turned and
    gone, not from its size point by point. Raises ValueError for fewer than eight points or |Γ| that is not below 1
    anywhere.
    """
    f, magnitude = np.asarray(frequency_hz, dtype=float), np.abs(np.asarray(gamma, dtype=complex))
    if len(f) < 8:
        raise ValueError("eight frequencies or more are needed to fit a loss")
    loss = -amplitude_db(np.maximum(magnitude, 1e-6)) / 2.0
    if float(np.median(loss)) <= 0.0:
        raise ValueError("nothing is lost on the way: is the far end open or shorted, and the analyzer calibrated")
    matrix = np.stack(_terms(f), axis=-1)
    solution = np.linalg.lstsq(matrix, loss, rcond=None)[0]
    use = [0, 1]
    if solution[0] < 0 or solution[1] < 0:
        use = [1] if solution[0] < 0 else [0]
        solution = np.zeros(2)
        solution[use] = np.linalg.lstsq(matrix[:, use], loss, rcond=None)[0]
    residual = loss - matrix @ solution
    scatter = float(np.sqrt(residual @ residual / max(len(f) - len(use), 1)))
    blocks = min(BLOCKS, len(f) // 2)
    edges = np.linspace(0, len(f), blocks + 1).astype(int)
    means = np.array([residual[a:b].mean() for a, b in itertools.pairwise(edges)])
    rows = np.array([matrix[a:b][:, use].mean(axis=0) for a, b in itertools.pairwise(edges)])
    degrees = max(blocks - len(use), 1)
    covariance = np.zeros((2, 2))
    covariance[np.ix_(use, use)] = np.linalg.inv(rows.T @ rows) * float(means @ means) / degrees
    return LossFit(float(solution[0]), float(solution[1]), covariance, scatter, float(degrees))


class TimeResponse(Frozen):
    """What comes back over the way it went: distance of each step from the plane, m, and its size."""

    distance_m: Floats
    magnitude: Floats
    """|Γ| of a step there, as seen from the plane: what lies before it has taken its share."""
    resolution_m: float
    """Two steps nearer to each other than this are seen as one."""


def time_response(
    frequency_hz: ArrayLike, gamma: ArrayLike, velocity_factor: float, pad_to: int = 16_384
) -> TimeResponse:
    """Distances from the plane of whatever reflects, by the inverse Fourier transform of an evenly spaced sweep.

    Kaiser-windowed (β = 7: sidelobes 52 dB down), so that a large step does not hide a small one; band-pass, so the
    sign of a step is lost. Distance one way: c·v·t/2. The sweep sees to c·v/(2·Δf) and tells steps apart that are
    about 1.8·c·v/(2·span) from each other. Hiebel §5.4. Raises ValueError for an uneven or too short sweep.
    Both arrays [point], evenly spaced and ascending, Hz and complex; the response is [pad_to].
    """
    f, g = np.asarray(frequency_hz, dtype=float), np.asarray(gamma, dtype=complex)
    if len(f) < 16:
        raise ValueError("sixteen frequencies or more are needed to see along a cable")
    steps = np.diff(f)
    if float(np.abs(steps / steps.mean() - 1.0).max()) > 0.02:
        raise ValueError("the frequencies are not evenly spaced, so times can't be told")
    window = np.kaiser(len(f), 7.0)
    points = max(pad_to, 4 * len(f))
    response = np.abs(np.fft.ifft(g * window, points)) * points / window.sum()
    speed = SPEED_OF_LIGHT * velocity_factor
    distance = np.arange(points) / (points * steps.mean()) * speed / 2.0
    half = points // 2
    return TimeResponse(distance[:half], response[:half], 1.8 * speed / (2.0 * float(f[-1] - f[0])))


class Step(Frozen, eq=True):
    """Something that reflects: where, how much, and the standard uncertainty of where."""

    distance_m: float
    magnitude: float
    u_m: float


def steps(response: TimeResponse, threshold: float = 0.01, most: int = 6) -> tuple[Step, ...]:
    """The peaks of a time response above a threshold of |Γ|, nearest first, each by a parabola through its top.

    Lesser peaks within a resolution of a greater one, and what stands under its windowed skirt, are not told.
    """
    y = response.magnitude
    tops = np.flatnonzero((y[1:-1] >= y[:-2]) & (y[1:-1] > y[2:]) & (y[1:-1] > threshold)) + 1
    found: list[Step] = []
    spacing = float(response.distance_m[1])
    for top in sorted(tops.tolist(), key=lambda i: -y[i]):
        a, b, c = y[top - 1], y[top], y[top + 1]
        shift = 0.5 * (a - c) / (a - 2 * b + c)
        at = (top + shift) * spacing
        hidden = any(
            abs(at - known.distance_m) < response.resolution_m
            or (abs(at - known.distance_m) < 4 * response.resolution_m and b < 0.02 * known.magnitude)
            for known in found
        )
        if not hidden:
            found.append(Step(float(at), float(b), 0.1 * response.resolution_m))
        if len(found) == most:
            break
    return tuple(sorted(found, key=lambda step: step.distance_m))


SHORTEST_SHARE = 0.05
"""Lengths within this share of what a sweep can tell are taken for a short cable read a little below zero."""


def longest_m(frequency_hz: ArrayLike, velocity_factor: float) -> float:
    """The longest cable whose length a sweep can tell, m: one whole turn of phase between two frequencies, c·v/(2·Δf),
    less `SHORTEST_SHARE` of it. A longer one looks like a shorter one (aliasing)."""
    f = np.asarray(frequency_hz, dtype=float)
    return (1.0 - SHORTEST_SHARE) * SPEED_OF_LIGHT * velocity_factor / (2.0 * float(np.diff(f).max()))


def electrical_length_m(frequency_hz: ArrayLike, gamma: ArrayLike, velocity_factor: float) -> float:
    """Length of a cable that is shorted or open at the end, m: the delay t at which Σ Γ·e^(j2πft) is largest, c·v·t/2.

    `frequency_hz` [n] ascending, `gamma` [n]. All of the sweep counts together, so noise and a weaker step on the way
    do no harm (Rife and Boorstyn 1974: the likeliest frequency of one tone). Right for cables up to `longest_m`.
    """
    return SPEED_OF_LIGHT * velocity_factor * _delay_s(frequency_hz, gamma)[0] / 2.0


def phase_at_zero(frequency_hz: ArrayLike, gamma: ArrayLike) -> float:
    """Phase of Γ carried down to 0 Hz, radians in −π … π: 0 for an open end, ±π for a short.

    What a length that is wrong by one turn between two frequencies is found out by: it lands elsewhere, unless the
    lowest frequency is a whole number of steps.
    """
    return _delay_s(frequency_hz, gamma)[1]


def _delay_s(frequency_hz: ArrayLike, gamma: ArrayLike) -> tuple[float, float]:
    """(delay there and back, s; phase at 0 Hz) of the strongest reflection. Delays from a little below nothing on, for
    one turn between two frequencies."""
    f, g = np.asarray(frequency_hz, dtype=float), np.asarray(gamma, dtype=complex)

    def strength(t: Floats) -> Complexes:
        return np.asarray(np.exp(2j * np.pi * np.outer(t, f)) @ g)

    # Coarsely on an even grid of the same steps, where a transform does it at once; then closer and closer.
    step = float(np.diff(f).max())
    even = np.arange(f[0], f[-1] + step / 2, step)
    points = 8 * len(even)
    coarse = np.abs(np.fft.ifft(np.interp(even, f, g.real) + 1j * np.interp(even, f, g.imag), points))
    best = int(np.argmax(coarse))
    if best > (1.0 - SHORTEST_SHARE) * points:
        best -= points
    t, half = best / (points * step), 1.0 / (points * step)
    for _ in range(5):
        near = t + np.linspace(-half, half, 41)
        t, half = float(near[int(np.argmax(np.abs(strength(near))))]), half / 15.0
    return t, float(np.angle(strength(np.array([t]))[0]))


def bad_joint_gamma(frequency_hz: ArrayLike, resistance_ohm: float, reference_ohm: float = 50.0) -> Complexes:
    """Γ of a series resistance in a matched line: R/(R + 2Z₀). The simplest bad joint.

    Shape as given: element by element.
    """
    f = np.asarray(frequency_hz, dtype=float)
    return np.full(f.shape, resistance_ohm / (resistance_ohm + 2.0 * reference_ohm) + 0j)
