"""The polarization ellipse from what is read: a linear probe turned, two phases, or two circular probes.

Angles of a probe are degrees clockwise as seen from the antenna under test, 0 upright. Senses are as IEEE Std 145-2013 has
them: right-hand turns clockwise as seen from behind the wave.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen

from .decibels import Floats
from .statistics import coverage_factor, normal_draws

ROUNDS = 12
DRAWN = 400
MOST_DB = 60.0
"""An axial ratio is given up to this; a wave that is linearer than any probe tells."""


class Ellipse(Frozen):
    """What turning a linear probe tells; `low` to `high` hold the axial ratio nine times in ten."""

    axial_ratio_db: float
    low_db: float
    high_db: float
    """Infinite where the floor or the scatter hides how deep the minimum is."""
    u_axial_ratio_db: float
    tilt_deg: float
    """Of the major axis, 0 ≤ tilt < 180."""
    u_tilt_deg: float
    scatter_db: float
    degrees: float
    fitted: tuple[float, float, float, float] = (1.0, 0.0, 0.0, 0.0)
    """a, b·cos 2τ, b·sin 2τ and the floor's power, against the strongest reading."""
    top_db: float = 0.0

    def levels(self, angle_deg: ArrayLike) -> Floats:
        """What a probe reads at angles [m], dB, the floor in it."""
        a, c, s, floor = self.fitted
        psi = 2.0 * np.radians(np.asarray(angle_deg, dtype=float))
        return np.asarray(
            self.top_db + 10.0 * np.log10(np.maximum(a + c * np.cos(psi) + s * np.sin(psi) + floor, 1e-7))
        )


def rotated(
    angle_deg: ArrayLike,
    level_db: ArrayLike,
    floor_db: float = -math.inf,
    stated_u_db: float = 0.0,
    angle_u_deg: float = 0.0,
) -> Ellipse | None:
    """Axial ratio and tilt from levels [n] at probe angles [n]: P = a + b·cos 2(ψ − τ), and the floor's power beside it.

    Least squares in decibels (Gauss-Newton from the linear fit in power), AR = (a+b)/(a−b) as a power ratio (Balanis, Antenna
    Theory, §2.12 and §17.8). A probe that is turned beside its axis wobbles: what goes round once in a turn, decibels in cos ψ and sin ψ, is no
    ellipse, and is taken off where readings half a turn apart show it. ± from the scatter about the curve, `stated_u_db` counted as four readings more.
    None with fewer than four readings or three different angles, or where they lie too close to tell three numbers.
    """
    angle = np.asarray(angle_deg, dtype=float)
    psi, level = 2.0 * np.radians(angle), np.asarray(level_db, dtype=float)
    if len(level) < 4 or len(np.unique(np.round(angle % 180.0, 3))) < 3:
        return None
    matrix = np.stack((np.ones_like(psi), np.cos(psi), np.sin(psi)), axis=1)
    if np.linalg.cond(matrix) > 50.0:
        return None
    top = float(level.max())
    floor = 10.0 ** ((floor_db - top) / 10.0) if math.isfinite(floor_db) else 0.0
    plain = _fitted(matrix, level - top, psi, floor, stated_u_db, angle_u_deg, np.zeros((len(level), 0)))
    found = plain
    once = np.stack((np.cos(0.5 * psi), np.sin(0.5 * psi)), axis=1)
    if len(level) >= FEWEST_WOBBLING and np.linalg.cond(np.hstack((matrix, once))) < 50.0:
        wobbling = _fitted(matrix, level - top, psi, floor, stated_u_db, angle_u_deg, once)
        spare = len(level) - 5
        if (plain.seen2 - wobbling.seen2) / 2.0 > WOBBLES * wobbling.seen2 / spare:
            found = wobbling
    degrees = len(level) - 3 - found.more
    whole = degrees + (4.0 if stated_u_db else 0.0)
    # What is stated of a reading holds the wobble; once that is seen and taken off, what is left is as it was seen.
    stated = min(stated_u_db, 2.0 * math.sqrt(found.seen2 / max(degrees, 1))) if found.more else stated_u_db
    scatter = math.sqrt((found.seen2 + 4.0 * stated**2) / max(whole, 1.0))
    spread = (np.linalg.pinv(found.slope.T @ found.slope) * max(scatter, 1e-6) ** 2)[:3, :3]
    told = _told(found.fit, np.asarray(spread, dtype=float), scatter, whole)
    fit = found.fit
    return replace(told, fitted=(float(fit[0]), float(fit[1]), float(fit[2]), floor), top_db=top)


FEWEST_WOBBLING = 8
"""Readings from which on a wobble can be told from scatter."""
WOBBLES = 4.0
"""Ratio of variances from which on it is told: once in forty by chance, of ten readings."""


class _Fitted(Frozen):
    fit: Floats
    slope: Floats
    """Of each reading by each number, weighted, [n, 3 + more]."""
    seen2: float
    """Sum of the weighted squares that are left, dB²."""
    more: int


def _fitted(
    matrix: Floats, level: Floats, psi: Floats, floor: float, stated_u_db: float, angle_u_deg: float, once: Floats
) -> _Fitted:
    """The three numbers of the ellipse and, beside them, decibels that go with the columns `once` [n, more]."""
    power = 10.0 ** (level / 10.0)
    # In decibels a reading scatters by a share of itself: weak ones count as much as strong ones.
    fit, *_ = np.linalg.lstsq(matrix / power[:, None], (power - floor) / power, rcond=None)
    more, weight = np.zeros(once.shape[1]), np.ones(len(level))
    for _ in range(ROUNDS):
        made = np.maximum(matrix @ fit + floor, 1e-7)
        left = level - 10.0 * np.log10(made) - once @ more
        slope = np.hstack((10.0 / math.log(10.0) * matrix / made[:, None], once))
        if angle_u_deg:
            steep = _steep(np.asarray(fit, dtype=float), psi, made)
            own = max(float(np.sqrt(np.mean((weight * left) ** 2))), stated_u_db, 0.2)
            weight = 1.0 / np.sqrt(1.0 + (steep * angle_u_deg / own) ** 2)
        step, *_ = np.linalg.lstsq(slope * weight[:, None], left * weight, rcond=None)
        fit = _physical(fit + np.clip(step[:3], -0.5 * fit[0], 0.5 * fit[0]))
        more = more + step[3:]
    made = np.maximum(matrix @ fit + floor, 1e-7)
    left = (level - 10.0 * np.log10(made) - once @ more) * weight
    slope = np.hstack((10.0 / math.log(10.0) * matrix / made[:, None], once)) * weight[:, None]
    return _Fitted(np.asarray(fit, dtype=float), slope, float(left @ left), once.shape[1])


def _steep(fit: Floats, psi: Floats, made: Floats) -> Floats:
    """How much the curve changes with a degree of the probe, dB, at each reading."""
    by_psi = -fit[1] * np.sin(psi) + fit[2] * np.cos(psi)
    return np.asarray(np.abs(10.0 / math.log(10.0) * by_psi / made * 2.0 * math.pi / 180.0))


def _physical(fit: Floats) -> Floats:
    """No more swing than there is power: a − b is never below zero."""
    a = max(float(fit[0]), 1e-6)
    b = float(np.hypot(fit[1], fit[2]))
    least = 1.0 - 2.0 * 10.0 ** (-MOST_DB / 10.0)
    pull = min(1.0, least * a / b) if b > 0 else 1.0
    return np.array([a, fit[1] * pull, fit[2] * pull])


def _ratio_db(a: Floats, b: Floats) -> Floats:
    """(a+b)/(a−b) in dB, at most `MOST_DB`."""
    low = np.maximum((a - b) / np.maximum(a + b, 1e-12), 10.0 ** (-MOST_DB / 10.0))
    return np.asarray(-10.0 * np.log10(low))


def _told(fit: Floats, spread: Floats, scatter_db: float, degrees: float) -> Ellipse:
    """What the three numbers and their covariance say of the ellipse."""
    a, c, s = (float(v) for v in fit)
    b = math.hypot(c, s)
    along = np.array([0.0, c, s]) / max(b, 1e-12)
    across = np.array([0.0, -s, c]) / max(b, 1e-12)
    u_along = math.sqrt(float(along @ spread @ along))
    u_across = math.sqrt(float(across @ spread @ across))
    # A length is lengthened by what scatters across it: taken off, as far as there is length.
    true_b = math.sqrt(max(b * b - u_across**2, 0.0))
    grow = coverage_factor(degrees) / coverage_factor(math.inf)
    root = np.linalg.cholesky(spread + 1e-18 * np.eye(3))
    draws = np.stack([np.asarray(normal_draws(row)[:DRAWN], dtype=float) for row in range(3)])
    moved = grow * (root @ draws)
    drawn_a = np.maximum(a + moved[0], 1e-9)
    direction = along * true_b
    drawn_b = np.hypot(direction[1] + moved[1], direction[2] + moved[2])
    if true_b < 2.0 * u_across:  # near a circle the length of what is drawn is lengthened once more
        drawn_b = np.sqrt(np.maximum(drawn_b**2 - (grow * u_across) ** 2, 0.0))
    drawn = _ratio_db(drawn_a, np.minimum(drawn_b, drawn_a))
    value = float(_ratio_db(np.array(a), np.array(min(true_b, a))))
    low, high = (float(v) for v in np.quantile(drawn, (0.05, 0.95)))
    hidden = high >= MOST_DB - 1.0 or a - true_b < 1.645 * grow * math.sqrt(float(spread[0, 0]) + u_along**2)
    u_tilt = min(math.degrees(0.5 * math.atan2(u_across, max(true_b, 1e-12))), 52.0)
    return Ellipse(
        min(value, MOST_DB),
        low,
        math.inf if hidden else high,
        (min(high, MOST_DB) - low) / (2.0 * 1.645),
        math.degrees(0.5 * math.atan2(s, c)) % 180.0,
        u_tilt,
        scatter_db,
        degrees,
    )


def of_phases(upright_db: float, across_db: float, phase_deg: float) -> tuple[float, float, bool]:
    """(axial ratio dB, tilt, whether right-hand) of a wave whose parts at 0° and 90° have these levels, the second `phase_deg`
    ahead of the first.

    sin 2χ = sin 2γ · sin δ, tan 2τ = tan 2γ · cos δ with tan γ the ratio of the amplitudes (Born and Wolf, Principles of Optics,
    §1.4.2; Stutzman §2.6). The part at 90°, to the right of upright, comes later in a right-hand wave: δ below zero.
    """
    gamma = math.atan2(10.0 ** (across_db / 20.0), 10.0 ** (upright_db / 20.0))
    delta = math.radians(phase_deg)
    chi = 0.5 * math.asin(max(-1.0, min(1.0, math.sin(2.0 * gamma) * math.sin(delta))))
    tau = 0.5 * math.atan2(math.sin(2.0 * gamma) * math.cos(delta), math.cos(2.0 * gamma))
    ratio = MOST_DB if abs(chi) < 1e-3 else min(-20.0 * math.log10(abs(math.tan(chi))), MOST_DB)
    return ratio, math.degrees(tau) % 180.0, math.sin(delta) < 0


def of_senses(apart_db: float) -> float:
    """Axial ratio, dB, of a wave whose right- and left-hand parts are so many dB apart: |ρ+1|/|ρ−1| with ρ the ratio of their
    amplitudes (Stutzman §2.5; IEEE Std 149-2021 §11). 0 dB apart is linear."""
    rho = 10.0 ** (abs(apart_db) / 20.0)
    return MOST_DB if rho - 1.0 < 1e-3 else min(20.0 * math.log10((rho + 1.0) / (rho - 1.0)), MOST_DB)
