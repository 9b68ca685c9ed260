"""A resonance by model: f₀, R and Q from a whole sweep, not from its lowest point."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen

from .decibels import Floats
from .reflection import Complexes, gamma_from_impedance, gamma_from_swr


class Resonance(Frozen):
    """Z = R·(1 + jQ(f/f₀ − f₀/f)) seen through a residual delay; each with its standard uncertainty."""

    f0_hz: float
    resistance_ohm: float
    q: float
    delay_s: float
    u_f0_hz: float
    u_resistance_ohm: float
    u_q: float
    scatter: float
    """Root mean square of what the model leaves over, in |Γ|."""

    def gamma(self, frequency_hz: ArrayLike) -> Complexes:
        """Γ of the fitted model at these frequencies, Hz; shape as given."""
        f = np.asarray(frequency_hz, dtype=float)
        return series_gamma(f, self.f0_hz, self.resistance_ohm, self.q, self.delay_s)

    def window_hz(self, limit: float) -> tuple[float, float] | None:
        """(low, high) between which SWR is at or under `limit`; None where it never is.

        With r = R/Z₀: |Γ| is that of the limit where (r·x)² = ((1+r)²·k² − (1−r)²)/(1 − k²), x = Q(f/f₀ − f₀/f).
        """
        r, k = self.resistance_ohm / 50.0, float(gamma_from_swr(limit))
        inside = ((1 + r) ** 2 * k**2 - (1 - r) ** 2) / (1 - k**2)
        if inside <= 0:
            return None
        half = np.sqrt(inside) / (2 * r * self.q)
        return self.f0_hz * float(np.sqrt(1 + half**2) - half), self.f0_hz * float(np.sqrt(1 + half**2) + half)


def series_gamma(
    frequency_hz: Floats, f0_hz: float, resistance_ohm: float, q: float, delay_s: float = 0.0
) -> Complexes:
    """Γ of a series resonance behind a line of one-way delay, which may be negative: a plane taken too far.

    Shape of `frequency_hz`, above zero.
    """
    x = q * (frequency_hz / f0_hz - f0_hz / frequency_hz)
    turn = np.exp(-4j * np.pi * frequency_hz * delay_s)
    return np.asarray(gamma_from_impedance(resistance_ohm * (1 + 1j * x)) * turn)


class Minimum(Frozen):
    """Where a sum of squares is least, half of that sum, and the Jacobian there."""

    at: Floats
    cost: float
    jac: Floats


def least_squares(left: Callable[[Floats], Floats], start: Floats, most: int = 60) -> Minimum:
    """Levenberg and Marquardt's method with a Jacobian by differences, for a handful of parameters of order one.

    The first screen shows fitted resonances and must not wait for SciPy; `scipy.optimize.least_squares` finds the same
    (held by a test).
    `start` is [parameter]; `left` gives [residual], more than parameters.
    """
    p = np.asarray(start, dtype=float)
    r = left(p)
    cost, damping = 0.5 * float(r @ r), 1e-3
    for _ in range(most):
        jac = np.stack([(left(p + h) - r) / 1e-7 for h in 1e-7 * np.eye(len(p))], axis=1)
        normal, slope = jac.T @ jac, jac.T @ r
        while damping < 1e9:
            step = np.linalg.solve(normal + damping * np.diag(np.maximum(np.diag(normal), 1e-12)), -slope)
            tried = left(p + step)
            better = 0.5 * float(tried @ tried)
            if better < cost:
                break
            damping *= 10
        else:
            break
        gained = cost - better
        p, r, cost, damping = p + step, tried, better, max(damping / 10, 1e-9)
        if gained < 1e-12 * max(cost, 1e-18) or float(np.abs(step).max()) < 1e-9:
            break
    jac = np.stack([(left(p + h) - r) / 1e-7 for h in 1e-7 * np.eye(len(p))], axis=1)
    return Minimum(p, cost, jac)


def _starts(f: Floats, g: Complexes, centre: float, span: float) -> list[Floats]:
    """Parameters to start from: read off the impedance first, then guesses for sweeps that a delay has turned."""
    from .reflection import impedance, resonance_hz

    out = []
    f0 = resonance_hz(f, g)
    if f0 is not None:
        z = impedance(g)
        r = float(np.interp(f0, f, z.real))
        slope = float(np.polyfit(f - f0, z.imag, 1)[0])
        if r > 1 and slope > 0:
            out.append(np.array([(f0 - centre) / span, np.log(r), np.log(max(f0 * slope / (2 * r), 0.3)), 0.0]))
    q = max(0.7 * centre / span, 0.5)
    out += [np.array([0.0, np.log(r), np.log(k * q), 0.0]) for r in (30.0, 80.0) for k in (1, 4)]
    return out


def fit(frequency_hz: ArrayLike, gamma: ArrayLike, u_gamma: float = 0.0) -> Resonance | None:
    """Fit the model to a sweep by least squares on complex Γ, about the best match, out to SWR 6 or so.

    `u_gamma` is a standard uncertainty of Γ that all points share (residual directivity): it enters the
    uncertainties once, not divided by the number of points. None where the sweep holds no resonance: the best match
    at an end, or a fit that leaves over more than 0.1 in |Γ|.
    Both [point], frequency ascending, Hz.
    """
    f, g = np.asarray(frequency_hz, dtype=float), np.asarray(gamma, dtype=complex)
    best = int(np.argmin(np.abs(g)))
    if best in (0, len(f) - 1) or len(f) < 8:
        return None
    use = np.abs(g) < max(0.72, float(np.abs(g[best])) + 0.2)
    # One stretch around the best match: another resonance is another model.
    low, high = best, best
    while low > 0 and use[low - 1]:
        low -= 1
    while high < len(f) - 1 and use[high + 1]:
        high += 1
    f, g = f[low : high + 1], g[low : high + 1]
    if len(f) < 8:
        return None
    if len(f) > 400:
        step = len(f) // 200
        f, g = f[::step], g[::step]
    centre, span = float(f[int(np.argmin(np.abs(g)))]), float(f[-1] - f[0])

    def left(p: Floats) -> Floats:
        # A step of the search may go far astray; R and Q of more than e¹⁵ say no more than that.
        r, q = (float(v) for v in np.exp(np.clip(p[1:3], -15.0, 15.0)))
        model = series_gamma(f, centre + p[0] * span, r, q, p[3] * 1e-9)
        out = model - g
        return np.concatenate((out.real, out.imag))

    tries = []
    for start in _starts(f, g, centre, span):
        tries.append(least_squares(left, start))
        if tries[-1].cost < 2e-4 * len(f):
            break
    found = min(tries, key=lambda t: t.cost)
    scatter = float(np.sqrt(2 * found.cost / len(f)))
    if scatter > 0.1:
        return None
    normal = found.jac.T @ found.jac
    try:
        inverse = np.linalg.inv(normal)
    except np.linalg.LinAlgError:
        return None
    noise = inverse * (2 * found.cost / max(2 * len(f) - 4, 1))
    # A vector common to all points moves the estimate by J⁺ of it; its direction is unknown.
    pull = inverse @ found.jac.T
    n = len(f)
    common = [pull @ np.concatenate((np.full(n, np.cos(t)), np.full(n, np.sin(t)))) for t in (0.0, np.pi / 2)]
    shared = sum(np.outer(c, c) for c in common) * u_gamma**2 / 2
    u = np.sqrt(np.diag(noise + shared))
    r, q = float(np.exp(found.at[1])), float(np.exp(found.at[2]))
    return Resonance(
        centre + float(found.at[0]) * span,
        r,
        q,
        float(found.at[3]) * 1e-9,
        float(u[0]) * span,
        float(u[1]) * r,
        float(u[2]) * q,
        scatter,
    )


class Tuned(Frozen):
    """Where a sweep matches best, Hz: its resonance, wherever along a line the sweep is referred to."""

    f_hz: float
    u_noise_hz: float
    """Standard uncertainty by what the points scatter about the local fit."""
    per_gamma_hz: float
    """How far a vector of length 1 added to every Γ would move it at most: times a residual directivity, its amplitude."""
    gamma: float
    """|Γ| there."""


FEWEST_NEAR = 7


def tuned(frequency_hz: ArrayLike, gamma: ArrayLike) -> Tuned | None:
    """The best match of a sweep by a local fit to |Γ|² about it, with its standard uncertainty.

    `gamma` [n]: Γ, or its size where no phase is known, at `frequency_hz` [n], ascending. Of a series resonance this is
    where X = 0, and unlike that it stays where it is when the plane of reference is moved. There, with r = R/Z₀ and a slope
    s = |dΓ/df|, |Γ|² = Γ₀² + r·s²·(f − f₀)² (Γ runs along a circle), and a vector δ added to Γ moves f₀ by δ/(r·s) at
    most. Without phase r is taken as the smaller of the two that a size allows. None where the best match lies at an end of the sweep, or it has
    fewer than `FEWEST_NEAR` points.
    """
    f, size = np.asarray(frequency_hz, dtype=float), np.abs(np.asarray(gamma))
    if len(f) < FEWEST_NEAR:
        return None
    # The best match of a noisy sweep is looked for in a running mean, its ends left out.
    width = max(1, len(f) // 100)
    smooth = np.convolve(size**2, np.ones(width) / width, mode="valid")
    least = int(np.argmin(smooth))
    if least in (0, len(smooth) - 1):
        return None
    best = least + width // 2
    low, high = _stretch(size, best, float(np.sqrt(smooth[least])) + 0.15)
    reach = max(float(f[high] - f[low]) / 2.0, float(np.sort(np.abs(f - f[best]))[FEWEST_NEAR - 1]) * (1 + 1e-9))
    near = np.abs(f - f[best]) <= reach
    x, y = (f[near] - f[best]) / reach, size[near] ** 2
    order = 4 if len(x) >= 16 else 3 if len(x) >= 9 else 2
    matrix = np.vander(x, order + 1)
    curve, *_ = np.linalg.lstsq(matrix, y, rcond=None)
    slope, bend = np.polyder(curve), np.polyder(curve, 2)
    roots = np.roots(slope)
    real = roots.real[np.abs(roots.imag) < 1e-9]
    real = real[(np.polyval(bend, real) > 0) & (np.abs(real) <= 1.5)]
    if not len(real):
        return None
    root = float(real[int(np.argmin(np.polyval(curve, real)))])
    curvature = float(np.polyval(bend, root))
    left = y - matrix @ curve
    variance = float(left @ left) / max(len(x) - order - 1, 1)
    row = np.array([k * root ** (k - 1) if k else 0.0 for k in range(order, -1, -1)])
    u = float(np.sqrt(row @ np.linalg.pinv(matrix.T @ matrix) @ row * variance)) / curvature
    at = float(f[best]) + root * reach
    there = float(np.interp(at, f, size))
    r = (1.0 - there) / (1.0 + there)
    if np.iscomplexobj(gamma) and float(np.interp(at, f, np.asarray(gamma).real)) > 0:
        r = 1.0 / r
    return Tuned(at, u * reach, reach / float(np.sqrt(max(r, 0.05) * curvature / 2.0)), there)


def _stretch(magnitude: Floats, best: int, under: float) -> tuple[int, int]:
    """The points on either side of the best match until two in a row stand over a limit."""
    edges = []
    for side in (magnitude[best::-1], magnitude[best:]):
        over = side > under
        both = np.flatnonzero(over[1:] & over[:-1])
        edges.append(int(both[0]) if len(both) else len(side) - 1)
    return best - edges[0], best + edges[1]


def least_q(radius_m: float, frequency_hz: float) -> float:
    """The least Q that a lossless, linearly polarized antenna inside a sphere of a radius can have.

    1/(ka)³ + 1/(ka), k = 2π/λ: McLean, A re-examination of the fundamental limits on the radiation Q of
    electrically small antennas, IEEE Trans. AP 44 (1996), eq. 8, exact for the lowest mode and the usual statement of
    Chu's bound. Above ka = 1 or so higher modes join in and the bound says nothing: below 1 it is given as it comes.
    Losses lower Q below it, which is how a 'too broad' small antenna is found to be lossy.
    """
    ka = 2.0 * np.pi * frequency_hz / 299_792_458.0 * radius_m
    return float(1.0 / ka**3 + 1.0 / ka)
