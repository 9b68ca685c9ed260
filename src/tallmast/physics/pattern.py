"""Reading a pattern cut: beamwidth, back, sidelobes, nulls, the worst in a sector.

A cut is a pair of arrays over one turn: angle in degrees ascending in 0 ≤ a < 360, level in dB. Definitions
as in IEEE Std 145-2013.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike, NDArray

from tallmast.frozen import Frozen

from .decibels import Floats


class Lobe(Frozen):
    """A local extreme of a cut: where, and how far below the peak (dB, positive)."""

    angle_deg: float
    below_peak_db: float


def tidy_turn(angle_deg: ArrayLike, level_db: ArrayLike) -> tuple[Floats, Floats]:
    """Angles wrapped into 0…360 and sorted, repeats averaged (360 falls on 0).

    Both [sample], in any order, degrees; the results are [distinct angle].
    """
    angle = np.round(np.asarray(angle_deg, dtype=float) % 360.0, 6) % 360.0
    order = np.argsort(angle, kind="stable")
    angle, level = angle[order], np.asarray(level_db, dtype=float)[order]
    first = np.append(True, np.diff(angle) > 0) if len(angle) else np.zeros(0, dtype=bool)
    where = np.cumsum(first) - 1
    return angle[first], np.bincount(where, weights=level) / np.bincount(where)


def level_at(angle_deg: ArrayLike, level_db: ArrayLike, at_deg: ArrayLike) -> Floats:
    """Level at any angle, by straight lines in dB round the turn.

    A cut [sample]; the result has the shape of `at_deg`.
    """
    angle, level = np.asarray(angle_deg, dtype=float), np.asarray(level_db, dtype=float)
    return np.asarray(np.interp(np.asarray(at_deg, dtype=float), angle, level, period=360.0))


def largest_gap_deg(angle_deg: ArrayLike) -> float:
    """The widest stretch without a sample, degrees. Of a cut [sample], ascending; at least one sample."""
    angle = np.asarray(angle_deg, dtype=float)
    if len(angle) < 2:
        return 360.0
    return float(np.max(np.diff(np.append(angle, angle[0] + 360.0))))


WIDEST_GAP_DEG, NEAR_DEG = 30.0, 10.0
"""Across a wider gap no level is read; so near a sample one still is."""


def covered(angle_deg: ArrayLike, at_deg: ArrayLike) -> NDArray[np.bool_]:
    """Whether a cut with samples at `angle_deg` [n] can tell a level at each of `at_deg` [m]: within 10° of a sample, or
    between two that are no more than 30° apart."""
    angle, at = np.sort(np.asarray(angle_deg, dtype=float) % 360.0), np.asarray(at_deg, dtype=float) % 360.0
    if len(angle) == 0:
        return np.zeros(at.shape, dtype=bool)
    after = np.searchsorted(angle, at) % len(angle)
    ahead, behind = (angle[after] - at) % 360.0, (at - angle[after - 1]) % 360.0
    return (np.minimum(ahead, behind) <= NEAR_DEG) | (ahead + behind <= WIDEST_GAP_DEG)


def nearest(angle_deg: ArrayLike, at_deg: ArrayLike) -> tuple[NDArray[np.int64], Floats, NDArray[np.bool_]]:
    """(number of the sample nearest to each of `at_deg` [m], how far off it lies, whether the direction lies between two samples no more
    than 30° apart), of a cut with samples at `angle_deg` [n]."""
    angle, at = np.asarray(angle_deg, dtype=float) % 360.0, np.asarray(at_deg, dtype=float) % 360.0
    order = np.argsort(angle, kind="stable")
    after = np.searchsorted(angle[order], at) % len(angle)
    ahead, behind = (angle[order[after]] - at) % 360.0, (at - angle[order[after - 1]]) % 360.0
    return (
        np.where(ahead <= behind, order[after], order[after - 1]),
        np.minimum(ahead, behind),
        ahead + behind <= WIDEST_GAP_DEG,
    )


def beamwidth_deg(angle_deg: ArrayLike, level_db: ArrayLike, drop_db: float = 3.0) -> tuple[float, float, float] | None:
    """Half-power beamwidth: (width, left edge, right edge), degrees, about the peak; None when the level never
    falls by `drop_db` on both sides, as in the cut of an omni.
    Both arrays [sample], ascending over one turn.
    """
    fine = np.arange(0.0, 360.0, 0.1)
    level = level_at(angle_deg, level_db, fine)
    peak = int(np.argmax(level))
    under = level < level[peak] - drop_db
    if not under.any():
        return None
    right = int(np.argmax(np.roll(under, -peak)))
    left = int(np.argmax(np.roll(under[::-1], peak + 1)))
    return 0.1 * (left + right), float((fine[peak] - 0.1 * left) % 360), float((fine[peak] + 0.1 * right) % 360)


def _smooth_extremes(angle_deg: ArrayLike, level_db: ArrayLike, least_swing_db: float) -> list[tuple[int, bool]]:
    """Turning points (index, is_peak) round the turn that stand out by at least `least_swing_db`."""
    level = np.asarray(level_db, dtype=float)
    start = int(np.argmax(level))
    order = np.append(np.arange(start, start + len(level)) % len(level), start)
    found: list[tuple[int, bool]] = [(start, True)]
    high = low = start
    falling = True
    for i in order[1:]:
        if falling:
            if level[i] < level[low]:
                low = int(i)
            elif level[i] > level[low] + least_swing_db:
                found.append((low, False))
                falling, high = False, int(i)
        elif level[i] > level[high]:
            high = int(i)
        elif level[i] < level[high] - least_swing_db:
            found.append((high, True))
            falling, low = True, int(i)
    return found


def sidelobes(angle_deg: ArrayLike, level_db: ArrayLike, least_swing_db: float = 1.5) -> list[Lobe]:
    """Every lobe but the main one, strongest first. A wiggle under `least_swing_db` is taken for noise.

    Both arrays [sample], ascending over one turn.
    """
    angle, level = np.asarray(angle_deg, dtype=float), np.asarray(level_db, dtype=float)
    top = float(np.max(level))
    rest = [i for i, is_peak in _smooth_extremes(angle, level, least_swing_db)[1:] if is_peak and level[i] < top]
    return sorted((Lobe(float(angle[i]), top - float(level[i])) for i in rest), key=lambda lobe: lobe.below_peak_db)


def nulls(angle_deg: ArrayLike, level_db: ArrayLike, depth_db: float = 10.0, least_swing_db: float = 1.5) -> list[Lobe]:
    """Dips at least `depth_db` below the peak, deepest first. Both arrays [sample], ascending over one turn."""
    angle, level = np.asarray(angle_deg, dtype=float), np.asarray(level_db, dtype=float)
    top = float(np.max(level))
    dips = [i for i, is_peak in _smooth_extremes(angle, level, least_swing_db) if not is_peak]
    found = [Lobe(float(angle[i]), top - float(level[i])) for i in dips if top - level[i] >= depth_db]
    return sorted(found, key=lambda lobe: -lobe.below_peak_db)


def null_width_deg(angle_deg: ArrayLike, level_db: ArrayLike, at_deg: float, over_db: float = 3.0) -> float | None:
    """How wide a dip is `over_db` over its bottom, degrees; None where it does not rise so far within 60° to both sides, or lies in a gap.

    Both arrays [sample], ascending over one turn.
    """
    fine = np.arange(0.0, 60.0, 0.25)
    bottom = float(level_at(angle_deg, level_db, np.array([at_deg]))[0])
    sides = []
    for way in (-1.0, 1.0):
        at = at_deg + way * fine
        over = (level_at(angle_deg, level_db, at) >= bottom + over_db) & covered(angle_deg, at)
        if not over.any():
            return None
        sides.append(float(fine[int(np.argmax(over))]))
    return sum(sides)


LEAST_DB = -40.0
"""No cut is read deeper than this where it stands for all directions."""


def from_two_cuts(
    azimuth_cut: tuple[Floats, Floats] | None, elevation_cut: tuple[Floats, Floats] | None
) -> Callable[[ArrayLike, ArrayLike], Floats]:
    """Level in any direction from cuts in two planes, each (angle, level) over one turn, ascending: that of the azimuth cut, and from the
    horizon up and down what the elevation cut loses, ahead by its front half and behind by its back half (the summing of
    cuts that link planning uses; exact where the pattern is a product, a few decibels off in the corners of a beam that is not). Without an
    elevation cut a dipole's; without an azimuth cut all round.
    """

    def read(cut: tuple[Floats, Floats] | None, angle: ArrayLike) -> Floats:
        angle = np.asarray(angle, dtype=float)
        if cut is None:
            return np.zeros(angle.shape)
        return np.maximum(level_at(*cut, angle % 360.0), LEAST_DB)

    def level(azimuth_deg: ArrayLike, elevation_deg: ArrayLike) -> Floats:
        azimuth, elevation = np.broadcast_arrays(
            np.asarray(azimuth_deg, dtype=float), np.asarray(elevation_deg, dtype=float)
        )
        if elevation_cut is None:
            drop = 20.0 * np.log10(np.maximum(np.cos(np.radians(elevation)), 0.03))
        else:
            ahead = read(elevation_cut, elevation) - float(read(elevation_cut, 0.0))
            behind = read(elevation_cut, 180.0 - elevation) - float(read(elevation_cut, 180.0))
            share = 0.5 * (1.0 + np.cos(np.radians(azimuth)))
            drop = share * ahead + (1.0 - share) * behind
        return np.asarray(read(azimuth_cut, azimuth) + drop)

    return level


def about_front(
    azimuth_cut: tuple[Floats, Floats], elevation_cut: tuple[Floats, Floats]
) -> Callable[[ArrayLike, ArrayLike], Floats]:
    """Level in any direction from the same two cuts the other way: as far off the front as the direction lies, and over from
    the one cut to the other as it lies about the front, in power by cos² and sin² (exact for a short dipole either way
    round; sidelobes of an array become rings, which no array has)."""

    def level(azimuth_deg: ArrayLike, elevation_deg: ArrayLike) -> Floats:
        a, e = np.radians(azimuth_deg), np.radians(elevation_deg)
        ahead, beside, over = np.cos(e) * np.cos(a), np.cos(e) * np.sin(a), np.sin(e)
        off = np.degrees(np.arccos(np.clip(ahead, -1.0, 1.0)))
        share = beside**2 / np.maximum(beside**2 + over**2, 1e-12)
        one = level_at(*azimuth_cut, np.where(beside >= 0.0, off, -off) % 360.0)
        other = level_at(*elevation_cut, np.where(over >= 0.0, off, -off) % 360.0)
        return np.asarray(10.0 * np.log10(share * 10.0 ** (one / 10.0) + (1.0 - share) * 10.0 ** (other / 10.0)))

    return level


def directivity_db(
    level: Callable[[ArrayLike, ArrayLike], Floats], peak_db: float | None = None, step_deg: float = 4.0
) -> float:
    """Greatest power over its mean on the whole sphere, dBi: 4π·U_max/∮U dΩ (Balanis, Antenna Theory, §2.6), on a grid of rings.
    `peak_db`: the level at its peak where that is known better than as the greatest on the grid."""
    elevation = np.arange(-90.0 + step_deg / 2.0, 90.0, step_deg)
    azimuth = np.arange(0.0, 360.0, step_deg)
    a, e = np.meshgrid(azimuth, elevation)
    power = 10.0 ** (level(a, e) / 10.0)
    weight = np.cos(np.radians(e))
    peak = float(power.max()) if peak_db is None else 10.0 ** (peak_db / 10.0)
    return 10.0 * float(np.log10(peak * weight.sum() / (power * weight).sum()))
