"""A lobe read by a curve through all its samples, and a level by its neighbours, never by the luckiest sample.

The strongest of many noisy samples stands above the lobe it belongs to, and the outermost that reach half power lie too
far in: both are biased by the noise. Here the top and the half-power edges are those of a polynomial fitted over the
lobe (in decibels a beam is a parabola about its top, with a small fourth-order part), and any other level is that of a
local parabola (Savitzky and Golay 1964; Cleveland 1979). Angles in degrees, levels in dB.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from tallmast.frozen import Frozen

from .decibels import Floats
from .statistics import median

DEPTH_DB = 6.0
"""How far under its top the samples of a lobe count."""
GAP_STEPS = 3.0
"""A stretch this many times the usual step without a sample ends a lobe."""


class Lobe(Frozen):
    """A fitted lobe. Uncertainties are what the samples' own scatter leaves."""

    top_deg: float
    top_db: float
    u_top_db: float
    width_deg: float | None
    """Between the points `drop_db` under the top; None where the lobe does not fall so far on both sides."""
    u_width_deg: float
    edges_deg: tuple[float, float] | None
    slopes: tuple[float, float]
    """dB per degree at the edges, positive."""
    scatter_db: float
    """Standard deviation of a sample about the curve."""
    degrees: float
    """Degrees of freedom of the scatter."""


def _turned(angle_deg: Floats, about_deg: float | Floats) -> Floats:
    return (angle_deg - about_deg + 180.0) % 360.0 - 180.0


def _region(off: Floats, level: Floats, start: int, under_db: float, gap_deg: float) -> tuple[int, int]:
    """Indices (in order of `off`) of the stretch about `start` until two samples in a row lie below, or a gap."""
    ends = []
    for way in (-1, 1):
        i, misses, last = start, 0, start
        while 0 <= i + way < len(off) and abs(off[i + way] - off[i]) <= gap_deg:
            i += way
            misses = misses + 1 if level[i] < under_db else 0
            if misses == 2:
                break
            if not misses:
                last = i
        ends.append(last)
    return ends[0], ends[1]


def fit(
    angle_deg: ArrayLike,
    level_db: ArrayLike,
    near_deg: float | None = None,
    drop_db: float = 3.0,
    depth_db: float = DEPTH_DB,
) -> Lobe | None:
    """The lobe at `near_deg` (None: the strongest) of a cut [n] over one turn, angles ascending.

    None with fewer than five samples in it: too coarse for a curve.
    """
    angle, level = np.asarray(angle_deg, dtype=float), np.asarray(level_db, dtype=float)
    if len(angle) < 8:
        return None
    if near_deg is None:
        near_deg = float(angle[int(np.argmax(smooth(angle, level, angle).level_db))])
    return _fit(angle, level, near_deg, drop_db, depth_db) or _fit(angle, level, near_deg, drop_db, 1.5 * depth_db)


def _fit(angle: Floats, level: Floats, near_deg: float, drop_db: float, depth_db: float) -> Lobe | None:
    gap = GAP_STEPS * median(np.diff(angle))
    found: Lobe | None = None
    before = (-1, -1)
    for _ in range(3):
        off = _turned(angle, near_deg)
        order = np.argsort(off)
        x, y = off[order], level[order]
        start = int(np.argmin(np.abs(x)))
        if found is not None and found.edges_deg is not None:
            # By the curve, not by the samples: which of them look deep enough is a matter of their noise.
            reach = math.sqrt(depth_db / drop_db) * 1.05
            left, right = (float(_turned(np.array([e]), near_deg)[0]) * reach for e in found.edges_deg)
            inside = np.flatnonzero((x >= left) & (x <= right))
            low, high = (int(inside[0]), int(inside[-1])) if len(inside) else (start, start)
        else:
            top = found.top_db if found else float(y[max(start - 2, 0) : start + 3].mean())
            low, high = _region(x, y, start, top - depth_db, gap)
        if high - low < 4:  # a narrow beam in coarse steps: a little deeper down its flanks
            low, high = max(start - 2, 0), min(start + 2, len(x) - 1)
        samples = (int(order[low]), int(order[high]))
        if samples == before:
            break  # the same samples give the same curve
        before = samples
        fitted = _fit_stretch(x[low : high + 1], y[low : high + 1], drop_db) if high - low >= 4 else None
        if fitted is None:
            return None
        first, found = found is None, _shifted(fitted, near_deg)
        moved, near_deg = abs(fitted.top_deg), found.top_deg
        if not first and moved < 0.02:
            break
    return found


def _shifted(lobe: Lobe, by_deg: float) -> Lobe:
    edges = None if lobe.edges_deg is None else tuple((e + by_deg) % 360.0 % 360.0 for e in lobe.edges_deg)
    return Lobe(
        (lobe.top_deg + by_deg) % 360.0 % 360.0,  # a hair below zero makes 360 at the first
        lobe.top_db,
        lobe.u_top_db,
        lobe.width_deg,
        lobe.u_width_deg,
        edges,  # type: ignore[arg-type]
        lobe.slopes,
        lobe.scatter_db,
        lobe.degrees,
    )


FREE = 20
"""From how many samples on a lobe shows its own shape."""
OWN_SHAPE_F = 5.0
"""From which F ratio on it does so with fewer."""
FLANK = 0.035
"""Of the 3 dB at a lobe's edge what the fourth power of the angle has: 0 in a Gaussian beam, 0.06 in that of an evenly
fed line (20·log₁₀ of sin x/x)."""


def _value(curve: Floats, at: Any) -> Any:
    """A quartic, highest power first."""
    return (((curve[0] * at + curve[1]) * at + curve[2]) * at + curve[3]) * at + curve[4]


def _slope(curve: Floats, at: float) -> float:
    return float(((4.0 * curve[0] * at + 3.0 * curve[1]) * at + 2.0 * curve[2]) * at + curve[3])


def _fit_stretch(x: Floats, y: Floats, drop_db: float, half_deg: float | None = None) -> Lobe | None:
    """A quartic over one stretch, where there are `FREE` samples for it; else a parabola with the flanks of a usual beam,
    `half_deg` its half-width."""
    n, free = len(x), len(x) >= FREE
    own = np.vander((x - x.mean()) / max(float(np.abs(x).max()), 1e-9), 5)
    if not free and n >= 9:
        # Fewer show it too where they scatter little: a parabola must leave clearly more over (F test).
        parabola, quartic = (
            float(np.sum((y - m @ np.linalg.lstsq(m, y, rcond=None)[0]) ** 2)) for m in (own[:, 2:], own)
        )
        free = (parabola - quartic) * (n - 5) > 2.0 * OWN_SHAPE_F * quartic + 1e-12 or parabola < 1e-9
    scale = max(float(np.abs(x).max()), 1e-9)
    middle = float(x.mean())
    t = (x - middle) / scale
    shaped = np.array([[0.0, 0, 0], [0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]])
    if half_deg:
        shaped[0, 0] = FLANK / (1.0 - FLANK) * (scale / half_deg) ** 2
    to_powers = np.eye(5) if free else shaped
    matrix = np.vander(t, 5) @ to_powers
    found, *_ = np.linalg.lstsq(matrix, y, rcond=None)
    curve = to_powers @ found
    degrees = n - matrix.shape[1]
    left = y - matrix @ found
    scatter = math.sqrt(float(left @ left) / degrees) if degrees > 0 else 0.0
    shape = to_powers @ np.linalg.inv(matrix.T @ matrix + 1e-12 * np.eye(matrix.shape[1])) @ to_powers.T
    fine = np.linspace(float(t.min()), float(t.max()), 401)
    best = int(np.argmax(_value(curve, fine)))
    if best in (0, len(fine) - 1):
        return None
    top = float(fine[best])
    bend = 12.0 * curve[0] * top**2 + 6.0 * curve[1] * top + 2.0 * curve[2]
    if bend < 0:  # one step of Newton's from the grid
        top -= _slope(curve, top) / bend
    peak = _value(curve, top)

    def row(at: float) -> Floats:
        return np.array([at**4, at**3, at**2, at, 1.0])

    u_top = scatter * math.sqrt(float(row(top) @ shape @ row(top)))
    # The top of a curve through noise lies above the curve without it, by half the variance of its slope over its bend.
    slope_row = np.array([k * top ** (k - 1) if k else 0.0 for k in range(4, -1, -1)])
    if bend < 0:
        lift = 0.5 * scatter**2 * float(slope_row @ shape @ slope_row) / -bend
        peak -= min(lift, u_top)
    edges, slopes, pulls = [], [], []
    for way in (-1, 1):
        # A little beyond the samples the curve may still be followed to the edge.
        side = top + way * np.linspace(0.0, 1.15 * (float(t.max() - top) if way > 0 else float(top - t.min())), 401)
        under = np.flatnonzero(_value(curve, side) <= peak - drop_db)
        if not len(under):
            break
        edge = float(side[under[0]])
        slope = _slope(curve, edge)
        if slope == 0:
            break
        edge += (peak - drop_db - _value(curve, edge)) / slope
        edges.append(edge)
        slopes.append(abs(slope) / scale)
        pulls.append((row(top) - row(edge)) / slope)
    if len(edges) < 2:
        return Lobe(middle + top * scale, peak, u_top, None, 0.0, None, (0.0, 0.0), scatter, degrees)
    width = (edges[1] - edges[0]) * scale
    if not free and half_deg is None:  # once more, now that its width is known
        return _fit_stretch(x, y, drop_db, width / 2.0)
    pull = pulls[1] - pulls[0]
    u_width = scatter * math.sqrt(float(pull @ shape @ pull)) * scale
    left_edge, right_edge = (middle + e * scale for e in edges)
    return Lobe(
        middle + top * scale,
        peak,
        u_top,
        width,
        u_width,
        (left_edge, right_edge),
        (slopes[0], slopes[1]),
        scatter,
        degrees,
    )


class Smooth(Frozen):
    """Levels by local parabolas at the angles asked for."""

    level_db: Floats
    share: Floats
    """Standard uncertainty of each as a share of one sample's scatter."""
    scatter_db: float
    """Standard deviation of a sample about the curve."""


REACHES = (1.3, 2.6, 4.0, 6.0, 9.0, 14.0)
"""How many steps to each side a local parabola may reach: what serves best is chosen by the samples."""


def smooth(angle_deg: ArrayLike, level_db: ArrayLike, at_deg: ArrayLike) -> Smooth:
    """Levels at `at_deg` [m] of a cut [n] over one turn by local parabolas, as wide as the samples ask.

    The width is that which foretells left-out samples about there best (generalised cross-validation: Craven and Wahba
    1979); a cut that is finer structured than its noise is followed as it is.
    """
    angle, level = np.asarray(angle_deg, dtype=float), np.asarray(level_db, dtype=float)
    at = np.atleast_1d(np.asarray(at_deg, dtype=float))
    step = median(np.diff(angle)) if len(angle) > 1 else 360.0
    about = np.abs(angle[:, None] - at[None, :]) % 360.0
    about = np.minimum(about, 360.0 - about).min(axis=1) <= 4.0 * step
    best: tuple[float, float, float] | None = None
    even = _even(angle)
    for reach in REACHES:
        left, own = _left_over_even(level, reach, about) if even else _left_over(angle, level, reach * step, about)
        free = 1.0 - own
        if free < 0.05:
            continue
        score = left / free**2
        # A wider one must foretell clearly better: else the narrower keeps what is there.
        if best is None or score < 0.97 * best[0]:
            best = (score, reach, math.sqrt(left / free))
    if best is None:
        return Smooth(np.interp(at, angle, level, period=360.0), np.ones(len(at)), 0.0)
    # A notch narrower than foretells best: there the bias is small against the scatter, which an interval can state.
    reach = REACHES[max(REACHES.index(best[1]) - 1, 0)]
    if even:
        pitch = 360.0 / len(angle)
        steps = (at - angle[0]) / pitch
        whole = np.floor(steps + 1e-6)
        between = np.round(steps - whole, 6)
        fitted, share = np.empty(len(at)), np.empty(len(at))
        for part in set(between.tolist()):
            near, weights = _even_lever(len(angle), reach, part)
            mine = between == part
            fitted[mine] = level[(whole[mine].astype(np.intp)[:, None] + near) % len(angle)] @ weights
            share[mine] = math.sqrt(float(weights @ weights))
        return Smooth(fitted, share, best[2])
    weights = _levers(angle, at, reach * step)
    return Smooth(weights @ level, np.sqrt(np.sum(weights**2, axis=1)), best[2])


def _even(angle: Floats) -> bool:
    """Whether a cut is even all round: then the weights are the same everywhere."""
    turn = np.diff(np.append(angle, angle[0] + 360.0))
    return float(np.ptp(turn)) < 1e-3 * float(turn.mean())


def _left_over_even(level: Floats, reach: float, about: NDArray[np.bool_]) -> tuple[float, float]:
    """What `_left_over` tells, of a cut that is even all round; `reach` in steps."""
    near, weights = _even_lever(len(level), reach, 0.0)
    at = np.flatnonzero(about)
    fitted = level[(at[:, None] + near) % len(level)] @ weights
    return float(np.mean((level[at] - fitted) ** 2)), float(weights[near == 0].sum())


def _left_over(angle: Floats, level: Floats, reach_deg: float, about: NDArray[np.bool_]) -> tuple[float, float]:
    """(mean square of what local parabolas leave over, mean weight of a sample in its own parabola), of some samples."""
    tried = np.flatnonzero(about)[:: max(1, int(about.sum()) // 90)]
    weights = _levers(angle, angle[tried], reach_deg)
    left = level[tried] - weights @ level
    return float(np.mean(left**2)), float(np.mean(weights[np.arange(len(tried)), tried]))


@lru_cache(maxsize=256)
def _even_lever(n: int, reach: float, part: float) -> tuple[NDArray[np.intp], Floats]:
    """Of a cut with `n` even steps: which samples after one (in steps, round the turn) a local parabola that lies `part` of
    a step behind it rests on, and with which weights. They depend on nothing else."""
    pitch = 360.0 / n
    return _lever(np.asarray(np.arange(n) * pitch, dtype=float), part * pitch, reach * pitch)


def _lever(angle: Floats, at_deg: float, reach_deg: float) -> tuple[NDArray[np.intp], Floats]:
    """Which samples a local parabola at an angle rests on, and with which weights (tricube); fewer than four there: the
    two neighbours, by a straight line."""
    off = _turned(angle, at_deg)
    near = np.flatnonzero(np.abs(off) < reach_deg)
    if len(near) < 4:
        after = int(np.argmin(np.where(off >= 0, off, np.inf)))
        before = int(np.argmax(np.where(off < 0, off, -np.inf)))
        share = float(off[after] / (off[after] - off[before])) if off[after] > off[before] else 0.0
        return np.array([before, after]), np.array([share, 1.0 - share])
    t = off[near] / reach_deg
    weight = (1.0 - np.abs(t) ** 3) ** 3
    matrix = np.vander(t, 3)
    turned = matrix * weight[:, None]
    return near, np.asarray(turned @ np.linalg.solve(matrix.T @ turned + 1e-12 * np.eye(3), np.array([0.0, 0.0, 1.0])))


def _levers(angle: Floats, at_deg: Floats, reach_deg: float) -> Floats:
    """What `_lever` tells, of many angles [m] at once: weight of each sample [m, n]."""
    t = _turned(angle[None, :], at_deg[:, None]) / reach_deg
    near_share = 1.0 - np.minimum(np.abs(t), 1.0) ** 3
    kernel = near_share * near_share * near_share
    t2 = t * t
    kernel_t, kernel_t2 = kernel * t, kernel * t2
    s0, s1, s2 = kernel.sum(axis=1), kernel_t.sum(axis=1), kernel_t2.sum(axis=1)
    s3, s4 = np.einsum("ij,ij->i", kernel_t2, t), np.einsum("ij,ij->i", kernel_t2, t2)
    # First row of the inverse of the moments' matrix (constant, slope, bend), by cofactors.
    c0, c1, c2 = s2 * s4 - s3 * s3, s2 * s3 - s1 * s4, s1 * s3 - s2 * s2
    determinant = s0 * c0 + s1 * c1 + s2 * c2
    safe = np.where(np.abs(determinant) > 1e-12, determinant, 1.0)
    weights = (c0[:, None] * kernel + c1[:, None] * kernel_t + c2[:, None] * kernel_t2) / safe[:, None]
    for i in np.flatnonzero((np.count_nonzero(kernel, axis=1) < 4) | (np.abs(determinant) <= 1e-12)):
        near, few = _lever(angle, float(at_deg[i]), reach_deg)
        weights[i] = 0.0
        weights[i, near] = few
    return np.asarray(weights)
