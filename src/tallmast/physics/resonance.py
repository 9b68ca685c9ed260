"""A resonance by model: f₀, R and Q from a whole sweep, not from its lowest point."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Literal

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
    frequency_hz: Floats,
    f0_hz: float,
    resistance_ohm: float,
    q: float,
    delay_s: float = 0.0,
    growth: float = 0.0,
    bend: float = 0.0,
) -> Complexes:
    """Γ of a series resonance behind a line of one-way delay, which may be negative: a plane taken too far.

    R = `resistance_ohm` at resonance, and goes as f to the power `growth`; X = RQ(x + `bend`·x²), x = f/f₀ − f₀/f.

    Shape of `frequency_hz`, above zero.
    """
    off = frequency_hz / f0_hz - f0_hz / frequency_hz
    x = q * (off + bend * off**2 if bend else off)
    turn = np.exp(-4j * np.pi * frequency_hz * delay_s)
    grown = (frequency_hz / f0_hz) ** growth if growth else 1.0
    return np.asarray(gamma_from_impedance(resistance_ohm * (grown + 1j * x)) * turn)


class Minimum(Frozen):
    """Where a sum of squares is least, half of that sum, and the Jacobian there."""

    at: Floats
    cost: float
    jac: Floats


def least_squares(
    left: Callable[[Floats], Floats], start: Floats, most: int = 60, slopes: Callable[[Floats], Floats] | None = None
) -> Minimum:
    """Levenberg and Marquardt's method for a handful of parameters of order one; the Jacobian by `slopes` [residual, parameter], else by
    differences.

    The first screen shows fitted resonances and must not wait for SciPy; `scipy.optimize.least_squares` finds the same
    (held by a test).
    `start` is [parameter]; `left` gives [residual], more than parameters.
    """
    p = np.asarray(start, dtype=float)
    r = left(p)
    cost, damping = 0.5 * float(r @ r), 1e-3

    def jacobian(at: Floats, there: Floats) -> Floats:
        if slopes is not None:
            return slopes(at)
        return np.stack([(left(at + h) - there) / 1e-7 for h in 1e-7 * np.eye(len(at))], axis=1)

    for _ in range(most):
        jac = jacobian(p, r)
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
    return Minimum(p, cost, jacobian(p, r))


def _starts(f: Floats, g: Complexes, centre: float, span: float, most_delay_s: float) -> Iterator[Floats]:
    """Parameters to start from, the likeliest first: read off the impedance, then guesses, then for sweeps that a delay has turned."""
    from .reflection import impedance, resonance_hz

    f0 = resonance_hz(f, g)
    if f0 is not None:
        z = impedance(g)
        r = float(np.interp(f0, f, z.real))
        slope = float(np.polyfit(f - f0, z.imag, 1)[0])
        if r > 1 and slope > 0:
            yield np.array([(f0 - centre) / span, np.log(r), np.log(max(f0 * slope / (2 * r), 0.3)), 0.0])
    q = max(0.7 * centre / span, 0.5)
    for r in (30.0, 80.0):
        for k in (1, 4):
            yield np.array([0.0, np.log(r), np.log(k * q), 0.0])
    if most_delay_s:
        yield from _behind_a_line(f, g, centre, span)


MOST_DELAY_S = 30e-9
"""One way, of a line that nobody noted: some 6 m."""
FEW_POINTS = 50
"""Enough to see which delay is the right one."""


def _behind_a_line(f: Floats, g: Complexes, centre: float, span: float) -> list[Floats]:
    """Parameters to start from behind a line of any length: of every delay, turned back, R and a straight X; the best of them."""
    few = slice(None, None, max(len(f) // FEW_POINTS, 1))
    f, g = f[few], g[few]
    delays = np.arange(-1e-9, MOST_DELAY_S, 0.3 / (4.0 * np.pi * centre))
    back = g * np.exp(4j * np.pi * f * delays[:, None])
    weight = np.abs(1.0 - back) ** 2  # what Γ says of Z: dΓ/dz = (1 − Γ)²/2
    z = 50.0 * (1.0 + back) / np.where(np.abs(1.0 - back) < 1e-3, 1e-3, 1.0 - back)
    whole = weight.sum(axis=1)
    x = f - centre
    mean = (weight * x).sum(axis=1) / whole
    off = x - mean[:, None]
    slope = (weight * off * z.imag).sum(axis=1) / (weight * off**2).sum(axis=1)
    level = (weight * z.imag).sum(axis=1) / whole
    r = np.maximum((weight * z.real).sum(axis=1) / whole, 0.5)
    model = gamma_from_impedance(r[:, None] + 1j * (level[:, None] + slope[:, None] * off))
    misfit = np.where(slope > 0, (np.abs(model - back) ** 2).sum(axis=1), np.inf)
    k = int(np.argmin(misfit))
    if not np.isfinite(misfit[k]):
        return []
    f0 = centre + mean[k] - level[k] / slope[k]
    q = max(f0 * slope[k] / (2.0 * r[k]), 0.3)
    return [np.array([(f0 - centre) / span, np.log(r[k]), np.log(q), delays[k] * 1e9])]


class _Search(Frozen):
    """A series resonance searched for in one stretch of a sweep, [point]; its four numbers as they are of order one."""

    f: Floats
    g: Complexes
    centre: float
    span: float

    def left(self, p: Floats, growth: float = 0.0, bend: float = 0.0) -> Floats:
        """What the model leaves over, real parts before imaginary ones."""
        # A step of the search may go far astray; R and Q of more than e¹⁵ say no more than that.
        r, q = (float(v) for v in np.exp(np.clip(p[1:3], -15.0, 15.0)))
        f0 = self.centre + float(np.clip(p[0], -1.0, 1.0)) * self.span
        out = series_gamma(self.f, f0, r, q, p[3] * 1e-9, growth, bend) - self.g
        return np.concatenate((out.real, out.imag))

    def slopes(self, p: Floats) -> Floats:
        """How that changes with each number, [2·point, 4]: Γ = (Z − Z₀)/(Z + Z₀)·e^(−4πjfτ), dΓ/dZ = 2Z₀/(Z + Z₀)²."""
        r, q = (float(v) for v in np.exp(np.clip(p[1:3], -15.0, 15.0)))
        f, f0 = self.f, self.centre + float(np.clip(p[0], -1.0, 1.0)) * self.span
        turn = np.exp(-4j * np.pi * f * p[3] * 1e-9)
        x = 1j * q * (f / f0 - f0 / f)
        z = r * (1.0 + x)
        by_z = 100.0 / (z + 50.0) ** 2 * turn
        whole = (z - 50.0) / (z + 50.0) * turn
        columns = (
            by_z * (-1j * r * q * (f / f0**2 + 1.0 / f)) * self.span,
            by_z * z,
            by_z * r * x,
            whole * (-4j * np.pi * f * 1e-9),
        )
        out = np.stack(columns, axis=1)
        return np.concatenate((out.real, out.imag))

    def find(self, most_delay_s: float) -> Minimum:
        tries = []
        for start in _starts(self.f, self.g, self.centre, self.span, most_delay_s):
            tries.append(least_squares(self.left, start, slopes=self.slopes))
            if tries[-1].cost < 2e-4 * len(self.f):
                break
        return min(tries, key=lambda t: t.cost)

    def scatter(self, found: Minimum) -> float:
        return float(np.sqrt(2 * found.cost / len(self.f)))


MOST_LEFT_OVER = 0.1
"""Root mean square, in |Γ|, that a resonance leaves over at most."""


def _search(frequency_hz: ArrayLike, gamma: ArrayLike) -> _Search | None:
    """The stretch about the best match, out to SWR 6 or so; None where that lies at an end, or is of too few points."""
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
    if len(f) > 200:
        step = len(f) // 100
        f, g = f[::step], g[::step]
    return _Search(f, g, float(f[int(np.argmin(np.abs(g)))]), float(f[-1] - f[0]))


def _covariance(search: _Search, found: Minimum, u_gamma: float, turns_s: float) -> tuple[Floats, Floats] | None:
    """(covariance of the four numbers, their pull: J⁺); None where they can't be told apart."""
    try:
        inverse = np.linalg.inv(found.jac.T @ found.jac)
    except np.linalg.LinAlgError:
        return None
    noise = inverse * (2 * found.cost / max(2 * len(search.f) - 4, 1))
    # A vector common to all points moves the estimate by J⁺ of it; its direction is unknown.
    pull = inverse @ found.jac.T
    turn = 2.0 * np.pi * turns_s * (search.f - search.centre)
    common = [pull @ np.concatenate((np.cos(turn + t), np.sin(turn + t))) for t in (0.0, np.pi / 2)]
    shared = sum(np.outer(c, c) for c in common) * u_gamma**2 / 2
    return np.asarray(noise + shared), np.asarray(pull)


def fit(frequency_hz: ArrayLike, gamma: ArrayLike, u_gamma: float = 0.0) -> Resonance | None:
    """Fit the model to a sweep by least squares on complex Γ, about the best match, out to SWR 6 or so.

    `u_gamma` is a standard uncertainty of Γ that all points share (residual directivity): it enters the
    uncertainties once, not divided by the number of points. None where the sweep holds no resonance: the best match
    at an end, or a fit that leaves over more than 0.1 in |Γ|.
    Both [point], frequency ascending, Hz.
    """
    search = _search(frequency_hz, gamma)
    if search is None:
        return None
    found = search.find(MOST_DELAY_S)
    told = _covariance(search, found, u_gamma, 0.0)
    if told is None or search.scatter(found) > MOST_LEFT_OVER:
        return None
    u = np.sqrt(np.diag(told[0]))
    r, q = float(np.exp(found.at[1])), float(np.exp(found.at[2]))
    return Resonance(
        search.centre + float(found.at[0]) * search.span,
        r,
        q,
        float(found.at[3]) * 1e-9,
        float(u[0]) * search.span,
        float(u[1]) * r,
        float(u[2]) * q,
        search.scatter(found),
    )


class Tuned(Frozen):
    """Where a sweep resonates, Hz, and what moves it."""

    f_hz: float
    u_noise_hz: float
    """Standard uncertainty by what the points scatter."""
    most_hz: float
    """How far what the calibration left over, a vector of known length and unknown phase, moves it at most: its amplitude."""
    u_more_hz: float
    """Standard uncertainty by the plane of reference, and by how the resistance goes, where these come in."""
    gamma: float
    """|Γ| there."""
    by: Literal["reactance", "circle", "match"]
    """Where X is zero; by the circle that Γ runs along, where the plane of reference is not known; or but where it matches best."""

    @property
    def u_hz(self) -> float:
        """All of it: a vector of unknown phase has 1/√2 of its amplitude."""
        return float(np.sqrt(self.u_noise_hz**2 + self.most_hz**2 / 2.0 + self.u_more_hz**2))


FEWEST_NEAR = 7
GROWTH = (0.0, 2.5)
"""How an antenna's resistance goes with frequency, as a power of it: 2 for a short monopole, with its losses in it 1 or so."""
WAYS = ((GROWTH[1], 0.0), (1.25, 0.9), (1.25, -0.9))
"""(growth of R, bend of X) of real antennas, as far as they go, beside those of which neither goes."""
FEED_F, FEED_H = 0.07e-12, 0.18e-9
"""Standard uncertainty of what stands across, and in line with, the feed of an antenna: a few millimetres of connector."""
MOST_GROWTH = 4.0
LEAST_BESIDE = 1e-3
"""Share of the frequency: nobody asks about less."""
FARTHEST_RAD = 0.5
"""A plane of reference that is known no better says nothing of where X is zero."""
TURNS_S = 3e-9
"""Delay over which an analyzer's own residual turns, where nothing is known of it: some 30 cm of lead, there and back."""
WELL_FITTED = 0.03


def tuned(
    frequency_hz: ArrayLike, gamma: ArrayLike, residual: float = 0.0, turns_s: float = TURNS_S, u_plane_s: float = 0.0
) -> Tuned | None:
    """Where a sweep resonates: where its reactance passes zero nearest to its best match, with the standard uncertainty of that.

    `gamma` [n]: Γ at the antenna's connector, or its size where no phase is known, at `frequency_hz` [n], ascending.
    `residual`: length of the vector that the calibration left over, as it looks from there; `turns_s`: two-way delay over which
    it turns; `u_plane_s`: standard uncertainty of the two-way delay to the plane of reference.

    With s = |d Im Γ/df| a vector δ in Γ moves the zero by δ/s at most, however it turns; a plane in doubt by φ by |Γ|·φ/s. Where φ
    is large, or the zero is not where the best match allows it, the sweep is not referred to the antenna: then the circle of a
    series resonance behind a delay is fitted to it (Pozar §6.1), with R growing as f⁰ to f²·⁵. Without phase it is the best match, which R = R₀(f/f₀)ᵖ moves off the
    resonance by p·f₀·(1 − Z₀²/R₀²)/(8Q²): of unknown sign. None where the best match lies at an end of the sweep, or it has fewer than
    `FEWEST_NEAR` points.
    """
    f, g = np.asarray(frequency_hz, dtype=float), np.asarray(gamma)
    best = _best_match(f, np.abs(g))
    if best is None:
        return None
    if not np.iscomplexobj(g):
        return best.unphased(residual, turns_s)
    zero = _zero_of_reactance(f, g, best, residual)
    rad = 2.0 * np.pi * u_plane_s * best.f_hz
    if zero is not None and rad <= FARTHEST_RAD and zero.allowed_by(best, residual, turns_s):
        # Moved along a line by φ, Γ₀ turns by φ: its imaginary part by |Γ₀|·φ.
        return Tuned(
            zero.f_hz,
            zero.u_noise_hz,
            residual / zero.slope,
            abs(zero.gamma) * rad / zero.slope,
            abs(zero.gamma),
            "reactance",
        )
    # Of a line that was noted the delay is nearly known; of one that nobody noted it may be any.
    circle = _by_circle(f, g, residual, turns_s, 0.0 if rad > FARTHEST_RAD else MOST_DELAY_S)
    if circle is not None:
        return circle
    return best.unphased(residual, turns_s)


class _BestMatch(Frozen):
    """The best match by a local fit to |Γ|² about it."""

    f_hz: float
    u_noise_hz: float
    gamma: float
    curvature: float
    """c of |Γ|² = Γ₀² + c·(f − f₀)², 1/Hz²."""
    low: int
    high: int
    """Numbers of the points on either side between which it is near its best match."""

    @property
    def slope(self) -> float:
        """|dΓ/df|, 1/Hz: c = r·s² with R or Z₀²/R, whichever, over Z₀: the smaller."""
        return float(np.sqrt(self.curvature / self._r))

    @property
    def _r(self) -> float:
        return max((1.0 - self.gamma) / (1.0 + self.gamma), 0.05)

    def beside_hz(self, growth: float) -> float:
        """How far it lies beside the zero of the reactance, where R goes as f to the power `growth`."""
        r = self._r
        q = self.slope * self.f_hz * (1.0 + r) ** 2 / (4.0 * r)
        return growth * self.f_hz * (1.0 / r**2 - 1.0) / (8.0 * q**2)

    def moved_hz(self, residual: float, turns_s: float) -> float:
        """How far what was left over moves it at most."""
        return residual * (self.slope + self.gamma * 2.0 * np.pi * turns_s) / self.curvature

    def unphased(self, residual: float, turns_s: float) -> Tuned:
        """The resonance, where all that is known is the size of Γ."""
        growth = float(np.sqrt((GROWTH[1] ** 3 - GROWTH[0] ** 3) / (3.0 * (GROWTH[1] - GROWTH[0]))))
        most = self.moved_hz(residual, turns_s)
        return Tuned(self.f_hz, self.u_noise_hz, most, self.beside_hz(growth), self.gamma, "match")


class _Zero(Frozen):
    """Where Im Γ, and with it X, passes zero."""

    f_hz: float
    u_noise_hz: float
    slope: float
    """|d Im Γ/df|, by all points about it, 1/Hz."""
    gamma: float
    """Γ there, which is real."""

    def allowed_by(self, best: _BestMatch, residual: float, turns_s: float) -> bool:
        """Whether the best match lies as near as a resistance that goes with frequency, and what was left over, let it."""
        noise = 3.0 * (self.u_noise_hz + best.u_noise_hz) + LEAST_BESIDE * self.f_hz
        apart = best.beside_hz(MOST_GROWTH) + best.moved_hz(residual, turns_s) + residual / self.slope + noise
        return abs(self.f_hz - best.f_hz) <= apart


def _best_match(f: Floats, size: Floats) -> _BestMatch | None:
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
    return _BestMatch(at, u * reach, there, curvature / (2.0 * reach**2), low, high)


def _zero_of_reactance(f: Floats, g: Complexes, best: _BestMatch, residual: float) -> _Zero | None:
    """The zero of Im Γ nearest to the best match; None where there is none about it."""
    low, high = _stretch(np.abs(g), (best.low + best.high) // 2, best.gamma + 0.3)
    while high - low + 1 < min(FEWEST_NEAR, len(f)):
        low, high = max(low - 1, 0), min(high + 1, len(f) - 1)
    x0, reach = best.f_hz, max(float(f[high] - f[low]) / 2.0, 1.0)
    x, y = (f[low : high + 1] - x0) / reach, g.imag[low : high + 1]
    order = 5 if len(x) >= 25 else 3 if len(x) >= 9 else 2
    wide = np.polyfit(x, y, order)
    real = np.roots(wide)
    real = real.real[np.abs(real.imag) < 1e-9]
    real = real[(real >= x[0] - 0.05) & (real <= x[-1] + 0.05)]
    if not len(real):
        return None
    root = float(real[int(np.argmin(np.abs(real)))])
    slope = float(np.polyval(np.polyder(wide), root))
    if slope == 0.0:
        return None
    # What the points scatter, by their second differences; so many of them that it is small against what was left over.
    bends = np.diff(y, 2)
    noise = float(np.sqrt(np.mean(bends**2) / 6.0)) if len(bends) else 0.0
    enough = (4.0 * noise / residual) ** 2 if residual > 0 else float(len(x))
    count = int(np.clip(enough, FEWEST_NEAR, len(x)))
    for _ in range(6):
        near = np.argsort(np.abs(x - root))[:count]
        step = -float(np.mean(y[near]) / slope - np.mean(x[near] - root))
        root = float(np.clip(root + step, x[0], x[-1]))
        if abs(step) < 1e-6:
            break
    there = float(np.interp(x0 + root * reach, f, g.real))
    slope = abs(slope) / reach
    return _Zero(x0 + root * reach, noise / (slope * float(np.sqrt(count))), slope, there)


def _by_circle(f: Floats, g: Complexes, residual: float, turns_s: float, most_delay_s: float) -> Tuned | None:
    """A series resonance behind a delay, of any resistance and reactance that real antennas have; None where none fits well."""
    search = _search(f, g)
    if search is None:
        return None
    found = search.find(most_delay_s)
    told = _covariance(search, found, residual, turns_s)
    if told is None or search.scatter(found) > WELL_FITTED + residual or float(found.at[2]) < 0.0:
        return None  # nothing that fits, or of a Q under 1: no resonance
    covariance, pull = told
    # What another growth of R, or bend of X, would move it by: one step of the search from here.
    left = search.left(found.at)
    ways = [float((pull @ (left - search.left(found.at, *way)))[0]) * search.span for way in WAYS]
    growing, bent, bowed = ways
    at = search.centre + float(found.at[0]) * search.span + 0.25 * sum(ways)
    r, q = float(np.exp(found.at[1])), float(np.exp(found.at[2]))
    # X passes zero where the capacitance and inductance of its feed have it: across the circle's axis, which does not know them.
    feed = at / (2.0 * q) * 2.0 * np.pi * at * float(np.hypot(FEED_F * r, FEED_H / r))
    by_growth, by_bend = growing / np.sqrt(12.0), (bent - bowed) / 2.0
    more = float(np.sqrt(feed**2 + by_growth**2 + by_bend**2))
    size = float(np.interp(at, f, np.abs(g)))
    return Tuned(at, float(np.sqrt(covariance[0, 0])) * search.span, 0.0, more, size, "circle")


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
