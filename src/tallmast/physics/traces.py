"""Readings in time: how long they are usable, how often they drop out, and how they die.

A reading stands until the next one; the last as long as the one before. A dropout is a stretch below what is usable
(level crossing and duration of fades: Rice 1948; Clarke, Bell System Technical Journal 47, 1968).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from .decibels import Floats


class Usable(Frozen, eq=True):
    """Of a stretch: how long it took, the share of it that was usable, and the dropouts in it, each in seconds."""

    seconds: float
    share: float
    dropouts_s: tuple[float, ...]

    @property
    def a_minute(self) -> float:
        """Dropouts a minute."""
        return 60.0 * len(self.dropouts_s) / self.seconds if self.seconds > 0 else 0.0

    @property
    def longest_s(self) -> float:
        return max(self.dropouts_s, default=0.0)

    @property
    def lost_s(self) -> float:
        return sum(self.dropouts_s)


def durations(time_s: Floats) -> Floats:
    """How long each reading stands, s. [n], n ≥ 2, from times in order [n]."""
    steps = np.diff(time_s)
    return np.append(steps, steps[-1] if len(steps) else 0.0)


def usable(time_s: Floats, good: NDArray[np.bool_]) -> Usable:
    """Of a stretch of readings [n] in order of time, each good or not."""
    stands = durations(time_s)
    whole = float(stands.sum())
    edges = np.flatnonzero(np.diff(np.concatenate([[False], ~good, [False]]).astype(np.int8)))
    spells = [float(stands[a:b].sum()) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    share = float(stands[good].sum() / whole) if whole > 0 else 0.0
    return Usable(whole, share, tuple(spells))


class Dying(Frozen, eq=True):
    """How a stretch goes from its usual reading to nothing usable and back; None where it never did."""

    warning_s: float | None
    """Median over the dropouts, from the last reading at its usual or better to the beginning of each: long is a slope, none a
    cliff."""
    recovery_s: float | None
    """Median over the dropouts, from the end of each to the first reading at its usual or better."""
    fade: float
    """From the median down to the worst tenth, in the unit of the readings; infinite where that tenth was nothing at all."""


def dying(time_s: Floats, values: Floats, good: NDArray[np.bool_]) -> Dying:
    """Of readings [n] in order of time, n ≥ 2, more being better (NaN: nothing received), each usable or not. Usual is their
    median. Level crossings and durations as Rice 1948 has them."""
    filled = np.where(np.isfinite(values), values, -np.inf)
    usual = float(np.sort(filled)[(len(filled) - 1) // 2])
    worst = float(np.sort(filled)[(len(filled) - 1) // 10])
    edges = np.flatnonzero(np.diff(np.concatenate([[False], ~good, [False]]).astype(np.int8)))
    high = np.flatnonzero(good & (filled >= usual))
    before, after = [], []
    for start, end in zip(edges[::2], edges[1::2], strict=True):
        at = np.searchsorted(high, start)
        if at > 0 and start > 0:
            before.append(float(time_s[start] - time_s[high[at - 1]]))
        back = np.searchsorted(high, end)
        if back < len(high) and end < len(time_s):
            after.append(float(time_s[high[back]] - time_s[end]))
    fade = usual - worst if np.isfinite(usual) else 0.0
    return Dying(_middle(before), _middle(after), fade)


def _middle(values: list[float]) -> float | None:
    return float(np.median(values)) if values else None


LIKENESS_POINTS = 300
"""On which two traces are held against each other."""
LEAST_OVERLAP = 0.5


def shift_by_likeness(
    time_s: Floats, values: Floats, other_time_s: Floats, other: Floats, most_s: float
) -> tuple[float, float]:
    """(seconds by which the other trace is to be moved to lie over the one, its correlation there): where the two are most
    alike, up to `most_s` either way, over half of the shorter one at least. Both in order of time, values [n] and [m] finite.
    Correlation of what stands at the same moments (cross-correlation: Bendat and Piersol, Random Data, §5.1)."""
    step = max(max(time_s[-1] - time_s[0], other_time_s[-1] - other_time_s[0]) / LIKENESS_POINTS, 1e-9)
    a = np.interp(np.arange(time_s[0], time_s[-1] + step / 2, step), time_s, values)
    b = np.interp(np.arange(other_time_s[0], other_time_s[-1] + step / 2, step), other_time_s, other)
    best, at = -1.0, 0
    begins = round(float(other_time_s[0] - time_s[0]) / step)
    most = int(most_s / step)
    for k in sorted(range(-most, most + 1), key=abs):
        first = k + begins
        mine, theirs = a[max(first, 0) : first + len(b)], b[max(-first, 0) : len(a) - first]
        n = min(len(mine), len(theirs))
        if n < max(LEAST_OVERLAP * min(len(a), len(b)), 8):
            continue
        x, y = mine[:n] - mine[:n].mean(), theirs[:n] - theirs[:n].mean()
        size = float(np.sqrt((x @ x) * (y @ y)))
        if size > 0 and (found := float(x @ y) / size) > best + 1e-9:
            best, at = found, k
    return at * step, best


def share_above(values: Floats, stands: Floats, levels: Floats) -> Floats:
    """Share of the time that values [n], which stand so long [n], are at each of some levels [m] or above; what was not read
    (NaN) is below all. [m]"""
    known = np.isfinite(values)
    order = np.argsort(values[known])
    ordered, weight = values[known][order], stands[known][order]
    below = np.concatenate([[0.0], np.cumsum(weight)])
    whole = float(stands.sum())
    left = below[-1] - below[np.searchsorted(ordered, levels, side="left")]
    return np.asarray(left / whole) if whole > 0 else np.zeros(len(levels))


def warped(time_s: Floats, marks_s: Floats, to_s: Floats) -> Floats:
    """Times [n] moved so that marks [k] lie at other moments [k], in straight pieces between them. Both ascending."""
    return np.asarray(np.interp(time_s, marks_s, to_s))
