"""The normal distribution far out, on whole arrays: its logarithm where the distribution itself would be nought.

erfc by the rational Chebyshev approximations of W. J. Cody, Mathematics of Computation 23 (1969) 631. SciPy has these functions; the first screen needs them too and must not wait for SciPy to load; the tests hold
each against SciPy.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from .decibels import Floats

_NEAR = (
    (
        2.15311535474403846e-8, 5.64188496988670089e-1, 8.88314979438837594e0, 6.61191906371416295e01,
        2.98635138197400131e02, 8.81952221241769090e02, 1.71204761263407058e03, 2.05107837782607147e03,
        1.23033935479799725e03,
    ),
    (
        1.0, 1.57449261107098347e01, 1.17693950891312499e02, 5.37181101862009858e02, 1.62138957456669019e03,
        3.29079923573345963e03, 4.36261909014324716e03, 3.43936767414372164e03, 1.23033935480374942e03,
    ),
)  # fmt: skip
"""erfcx(t) = exp(t²) erfc(t) by t, to t = 4. Cody has another one below t = 0.47; there too this is good to 5·10⁻¹²."""
_FAR = (
    (
        1.63153871373020978e-2, 3.05326634961232344e-1, 3.60344899949804439e-1, 1.25781726111229246e-1,
        1.60837851487422766e-2, 6.58749161529837803e-4,
    ),
    (
        1.0, 2.56852019228982242e00, 1.87295284992346725e00, 5.27905102951428412e-1, 6.05183413124413191e-2,
        2.33520497626869185e-3,
    ),
)  # fmt: skip
"""What 1/√π exceeds t·erfcx(t) by, over t⁻², by t⁻², beyond."""


def _ratio(of: tuple[tuple[float, ...], tuple[float, ...]], t: Floats) -> Floats:
    (first, *above), (_, second, *below) = of
    top, bottom = first * t, t + second
    for a in above[:-1]:
        top += a
        top *= t
    for b in below:
        bottom *= t
        bottom += b
    top += above[-1]
    top /= bottom
    return top


def erfcx(t: ArrayLike) -> Floats:
    """exp(t²)·erfc(t) for t ≥ 0, element by element, to 5·10⁻¹² of itself."""
    t = np.asarray(t, dtype=float)
    out = _ratio(_NEAR, np.minimum(t, 4.0))
    far = t > 4.0
    if far.any():
        inverse = t[far] ** -2.0
        out[far] = (1.0 / math.sqrt(math.pi) - inverse * _ratio(_FAR, inverse)) / t[far]
    return out


def _log_cdf(z: Floats) -> Floats:
    """ln Φ(z), element by element, to 10⁻¹¹ however far out."""
    t = np.abs(z) * math.sqrt(0.5)
    scaled, square = 0.5 * erfcx(t), t * t
    with np.errstate(under="ignore"):
        return np.asarray(np.where(z < 0.0, np.log(scaled) - square, np.log1p(-scaled * np.exp(-square))))


_FROM, _TO, _A_UNIT = -40.0, 9.0, 64
"""The table of ln Φ: below it is worked out, above it is nought to 10⁻¹⁸."""


def _table() -> Floats:
    """Cubics from node to node through ln Φ and its slope, the ratio of Mills (Hermite; de Boor, A Practical Guide to Splines, ch.
    IV): good to 10⁻⁹. [4, nodes]"""
    z = np.linspace(_FROM, _TO, round((_TO - _FROM) * _A_UNIT) + 1)
    value = _log_cdf(z)
    slope = np.exp(-0.5 * z * z - 0.5 * math.log(2.0 * math.pi) - value) / _A_UNIT
    rise = np.diff(value)
    cubic = slope[:-1] + slope[1:] - 2.0 * rise
    return np.pad(np.stack([value[:-1], slope[:-1], rise - slope[:-1] - cubic, cubic]), ((0, 0), (0, 1)))


_CUBICS = _table()


def log_cdf(z: ArrayLike) -> Floats:
    """ln Φ(z), element by element, to 10⁻⁹ however far out; by a table, which takes a third of the time of the closed form."""
    z = np.asarray(z, dtype=float)
    at = np.clip(z, _FROM, _TO)
    at -= _FROM
    at *= _A_UNIT
    cell = at.astype(np.intp)
    at -= cell
    out = _CUBICS[3].take(cell)
    for coefficients in _CUBICS[2::-1]:
        out *= at
        out += coefficients.take(cell)
    if z.size and z.min() < _FROM:
        beyond = z < _FROM
        out[beyond] = _log_cdf(z[beyond])
    return np.asarray(out)


def log_between(low: ArrayLike, high: ArrayLike) -> Floats:
    """ln(Φ(high) − Φ(low)) for low < high, element by element, exact in either tail."""
    low, high = np.asarray(low, dtype=float), np.asarray(high, dtype=float)
    flipped = low > 0.0  # in the left tail the smaller of the two is not lost beside one
    a, b = np.where(flipped, -high, low), np.where(flipped, -low, high)
    inner, outer = log_cdf(np.stack([b, a]))
    with np.errstate(under="ignore"):
        return np.asarray(inner + np.log(-np.expm1(np.minimum(outer - inner, -1e-14))))
