"""A display’s curve: what each of its readings stands for, from what it showed under known attenuation."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Series
from tallmast.notebook.records import DisplayRun
from tallmast.physics import repeats
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import median
from tallmast.units import show
from tallmast.units.shown import SCALES

from ..figure import CONFIDENCE, Figure, Working

BIN_DB = 0.1
"""Attenuations closer than this are the same step."""


GRID_DB = 0.05


ONE_SIDED = 1.645
"""Standard deviations that a reading passes once in twenty times."""


HYSTERESIS_SURE = 2.0
"""Standard uncertainties that the two ways must be apart before hysteresis is named."""


State = Literal["told", "saturated", "below the threshold"]


FEW = 8.0
"""Degrees of freedom of a reading's scatter at one step, about."""


class DisplayLevel(Frozen):
    """What one reading of a display is worth."""

    state: State
    level: Figure
    own_u_db: float = 0.0
    """Standard uncertainty without that of the zero, which all readings of the display share."""

    @property
    def words(self) -> str:
        if self.state == "told":
            return self.level.text
        return f"{self.state}: {self.level.text}"


def monotone(values: Floats, weights: Floats) -> Floats:
    """The non-decreasing curve nearest to `values` by weighted squares: pool adjacent violators (Barlow et al. 1972)."""
    blocks: list[list[float]] = []  # value, weight, how many
    for value, weight in zip(values.tolist(), weights.tolist(), strict=True):
        blocks.append([value, weight, 1.0])
        while len(blocks) > 1 and blocks[-2][0] >= blocks[-1][0]:
            v, w, n = blocks.pop()
            before = blocks[-1]
            total = before[1] + w
            before[0], before[1], before[2] = (before[0] * before[1] + v * w) / total, total, before[2] + n
    return np.repeat([b[0] for b in blocks], [int(b[2]) for b in blocks])


class Steps(Frozen):
    """What was shown at each level: ascending levels, means, scatter of one reading, counts."""

    level_db: Floats
    mean: Floats
    scatter: Floats
    count: Floats


def _indexed(attenuation_db: Floats) -> NDArray[np.int32]:
    """The number of each reading's step, from the least attenuation on."""
    place = (attenuation_db - (float(attenuation_db.min()) - BIN_DB / 2)) * (1.0 / BIN_DB)
    return place.astype(np.int32)


def _gathered(
    index: NDArray[np.int32], shown: Floats, low_db: float, zero_db: float, rising: NDArray[np.bool_] | None = None
) -> tuple[Steps, Steps | None, Steps | None]:
    """(all, on the way down, on the way up) in one pass over however many readings there are: by counting, since a log
    of a hundred thousand should not wait for a sort. `rising`: attenuation fell before the reading."""
    key = index if rising is None else index * 2 + rising
    n = np.bincount(key)
    total: Floats = np.bincount(key, weights=shown).astype(float, copy=False)
    square: Floats = np.bincount(key, weights=shown * shown).astype(float, copy=False)
    if rising is None:
        return _steps(n, total, square, low_db, zero_db), None, None
    if len(n) % 2:
        n, total, square = np.append(n, 0), np.append(total, 0.0), np.append(square, 0.0)
    ways = [_steps(n[k::2], total[k::2], square[k::2], low_db, zero_db) for k in (0, 1)]
    whole = _steps(n[::2] + n[1::2], total[::2] + total[1::2], square[::2] + square[1::2], low_db, zero_db)
    return whole, ways[0], ways[1]


def _steps(n: NDArray[np.intp], total: Floats, square: Floats, low_db: float, zero_db: float) -> Steps:
    there = np.flatnonzero(n)
    count = n[there].astype(float)
    mean = total[there] / count
    # Taken about zero: the rounding that this leaves is far under any display's grain.
    variance = np.maximum(square[there] / count - mean**2, 0.0) * count / np.maximum(count - 1.0, 1.0)
    level = zero_db - (low_db + there * BIN_DB)
    order = slice(None, None, -1)
    return Steps(np.asarray(level[order]), mean[order], np.sqrt(variance)[order], count[order])


def _grain(shown: Floats) -> float:
    """The least step between values that a display shows; 0 where there is none to speak of."""
    # Not by np.unique: it loads NumPy's masked arrays, which a start would wait for.
    gaps = np.diff(np.sort(shown[:: max(1, len(shown) // 2000)]))
    gaps = gaps[gaps > 0]
    return float(gaps.min()) if 0 < len(gaps) < 200 else 0.0


class Curve(Frozen):
    """A display against level: the monotone fit `value` (turned so that it rises) at `steps.level_db`."""

    run: DisplayRun
    steps: Steps
    value: Floats
    noise: float
    """Standard deviation of one reading, its grain included, over all of the run."""
    local: Floats
    """The same at each step, by its own repeats and its neighbours'; a packet rate scatters most half way down."""
    u_value: Floats
    """Standard uncertainty of the curve at each step."""
    grain: float
    sign: float
    hysteresis_db: Figure | None

    @cached_property
    def grid(self) -> tuple[Floats, Floats, Floats]:
        """(level, value there, standard deviation of a reading against it: its own, and the curve's)."""
        level = np.arange(self.steps.level_db[0], self.steps.level_db[-1] + GRID_DB / 2, GRID_DB)
        apart = np.hypot(self.local, self.u_value)
        at = self.steps.level_db
        return level, np.interp(level, at, self.value), np.interp(level, at, apart)

    @property
    def top_db(self) -> float | None:
        """From which level on it shows its most, where the strongest steps look alike; None: it climbed to the end."""
        level, flat = self.steps.level_db, self.value >= self.value[-1] - self._alike
        start = float(level[np.argmax(flat)])
        return start if flat.sum() >= 2 and level[-1] - start >= 1.0 else None

    @property
    def bottom_db(self) -> float | None:
        """Up to which level it shows its least, where the weakest steps look alike; None: it fell to the end."""
        level, flat = self.steps.level_db, self.value <= self.value[0] + self._alike
        end = float(level[len(flat) - 1 - np.argmax(flat[::-1])])
        return end if flat.sum() >= 2 and end - level[0] >= 1.0 else None

    @property
    def _alike(self) -> float:
        """Steps that differ by no more than this look alike."""
        if self.grain:
            return self.grain * 0.25
        return max(
            0.02 * float(self.value[-1] - self.value[0]), self.noise / math.sqrt(max(median(self.steps.count), 1.0))
        )

    @property
    def unit(self) -> str:
        return "dBm" if self.run.zero_dbm is not None else "dB"

    def shown_at(self, level_db: float) -> float:
        """What it shows at a level, on its own scale."""
        return self.sign * float(np.interp(level_db, self.steps.level_db, self.value))

    @property
    def zero_u_db(self) -> float:
        """What its zero leaves open, alike in every level; without a zero it tells no levels but differences."""
        return self.run.zero_u_db if self.run.zero_dbm is not None else 0.0

    def read(self, shown: float) -> DisplayLevel:
        """The level that a reading stands for.

        Every level of the run is given the weight with which it would show this (normal, `noise`); the interval holds
        nine tenths of that weight. Where a reading is the display's most or least, only a bound is told.
        """
        level, value, apart = self.grid
        y = self.sign * shown
        zero_u = math.hypot(self.zero_u_db, self.run.step_u_db)
        name = f"{self.run.receiver} showing {shown:g}"
        top, bottom = self.top_db, self.bottom_db
        edge = max(self.noise, self._alike)
        if y >= value[-1] - (edge if top is None else self._alike * 2 + (0 if self.grain else self.noise)):
            # The weakest level that would show this once in twenty looks.
            at = (
                float(level[int(np.argmax(value + ONE_SIDED * apart >= y))]) if y <= value[-1] + apart[-1] else math.nan
            )
            at = min(at if math.isfinite(at) else float(level[-1]), top if top is not None else float(level[-1]))
            return DisplayLevel(
                "saturated",
                self._bound(name, at, zero_u, "at least", "More could be there: the display is at its end."),
            )
        if y <= value[0] + (edge if bottom is None else self._alike * 2 + (0 if self.grain else self.noise)):
            under = np.flatnonzero(value - ONE_SIDED * apart <= y)
            at = float(level[under[-1]]) if len(under) else float(level[0])
            at = max(at, bottom if bottom is not None else float(level[0]))
            return DisplayLevel(
                "below the threshold", self._bound(name, at, zero_u, "at most", "Less could be there, or nothing.")
            )
        inside = (level >= (bottom if bottom is not None else -np.inf)) & (
            level <= (top if top is not None else np.inf)
        )
        level, value, apart = level[inside], value[inside], np.maximum(apart[inside], 1e-9)
        off = 0.5 * ((y - value) / apart) ** 2
        # Between two steps of a display that jumps all are far off: the nearest count.
        if self.noise > self.grain:
            # Student's t where scatter rules, not the step: it is told by a few readings (a step's own, its neighbours',
            # the run's as two more).
            weight = (1.0 + 2.0 * off / FEW) ** (-(FEW + 1.0) / 2.0) / apart
        else:
            weight = np.exp(-(off - off.min())) / apart
        share = np.cumsum(weight) / weight.sum()
        middle = float((level * weight).sum() / weight.sum())
        u = math.sqrt(max(float((weight * (level - middle) ** 2).sum() / weight.sum()), 0.0) + GRID_DB**2 / 12)
        tail = (1.0 - CONFIDENCE) / 2.0
        low, high = (float(np.interp(p, share, level)) for p in (tail, 1.0 - tail))
        way = abs(self.hysteresis_db.value) / 2.0 if self.hysteresis_db else 0.0
        between = math.hypot(self._between_db(middle), GRID_DB / 2.0) / math.sqrt(3.0)
        extra = math.hypot(zero_u, way / math.sqrt(3.0), between)
        low, high = middle - math.hypot(middle - low, 1.645 * extra), middle + math.hypot(high - middle, 1.645 * extra)
        working = Working(
            (
                f"shown        {shown:g} {SCALES[self.run.scale].unit}",
                f"curve        {show.fixed(float(self.steps.level_db[0]), 0)} to {show.fixed(float(self.steps.level_db[-1]), 0)} {self.unit}, {len(self.steps.level_db)} steps",
                f"level        {show.fixed(middle, 1)} {self.unit}, {show.fixed(low, 1)} to {show.fixed(high, 1)}",
            ),
            tuple(
                (words, f"{part:.2f} dB")
                for words, part in (
                    ("what else shows the same", u),
                    ("zero and steps", zero_u),
                    ("up or down", way / math.sqrt(3.0)),
                    ("curve between steps", between),
                )
                if part > 0.005
            ),
            "monotone regression (pool adjacent violators); weight of every level that would show this",
            "As good as the display is: two levels inside the interval look alike on it.",
        )
        own = math.hypot(u, self.run.step_u_db, way / math.sqrt(3.0), between)
        figure = Figure(name, middle, math.hypot(u, extra), self.unit, working, low=low, high=high, digits=1)
        return DisplayLevel("told", figure, own)

    def _between_db(self, level_db: float) -> float:
        """How far a curve that bends may lie off the straight line between two steps, dB: an eighth of the second
        difference, by the slope."""
        level, value = self.steps.level_db, self.value
        i = int(np.clip(np.searchsorted(level, level_db) - 1, 0, len(level) - 2))
        rise, span = float(value[i + 1] - value[i]), float(level[i + 1] - level[i])
        if rise <= 0:
            return 0.0
        ends = [value[k - 1] - 2 * value[k] + value[k + 1] for k in (i, i + 1) if 0 < k < len(value) - 1]
        bend = max((abs(float(b)) for b in ends), default=0.0)
        return min(bend / 8.0 / rise, 0.5) * span

    def _bound(self, name: str, at: float, u: float, bound: Literal["at least", "at most"], why: str) -> Figure:
        edge = at - 1.645 * u if bound == "at least" else at + 1.645 * u
        working = Working(
            (f"the display looks alike {'from' if bound == 'at least' else 'up to'} {show.fixed(at, 1)} {self.unit}",),
            (("zero and steps", f"{u:.2f} dB"),),
            "monotone regression over the stepped run",
            why,
        )
        return Figure(name, at, u, self.unit, working, low=edge, high=edge, bound=bound, digits=1)


def fit(run: DisplayRun, series: Series) -> Curve | None:
    """The curve of a run; None with fewer than three steps or a display that never moved."""
    attenuation = np.asarray(series["attenuation_db"], dtype=float)
    shown = np.asarray(series["shown"], dtype=float)
    if not (np.isfinite(attenuation).all() and np.isfinite(shown).all()):
        good = np.isfinite(attenuation) & np.isfinite(shown)
        attenuation, shown = attenuation[good], shown[good]
    if len(attenuation) < 3:
        return None
    sign = 1.0 if SCALES[run.scale].more_is_better else -1.0
    turned = shown if sign > 0 else -shown
    index = _indexed(attenuation)
    rising = _rising(series, index)
    steps, falling, back = _gathered(index, turned, float(attenuation.min()), run.zero_dbm or 0.0, rising)
    if len(steps.level_db) < 3 or float(np.ptp(steps.mean)) <= 0:
        return None
    value = monotone(steps.mean, steps.count)
    grain = _grain(shown)
    ways = [(w, monotone(w.mean, w.count)) for w in (falling, back) if w is not None and len(w.level_db) >= 3]
    lag = _hysteresis(ways, run) if len(ways) == 2 else None
    scatter = _scatter(steps, value) if lag is None else math.sqrt(sum(_scatter(*way) ** 2 for way in ways) / 2.0)
    noise = math.hypot(scatter, grain / math.sqrt(12.0)) or float(np.ptp(value)) * 1e-3
    local, u_value = _local(steps, scatter, grain, lag is not None)
    floor = noise * 1e-3
    return Curve(run, steps, value, noise, np.maximum(local, floor), np.maximum(u_value, floor), grain, sign, lag)


def _local(steps: Steps, scatter: float, grain: float, lags: bool) -> tuple[Floats, Floats]:
    """(standard deviation of one reading, standard uncertainty of the curve) at each step.

    A step's own few repeats are pooled with those of its two neighbours, and with the whole run's scatter as if that were
    two repeats more. Where each step was read about once, or the display lags, the whole run's counts alone.
    """
    free = steps.count - 1.0
    one = np.full(len(free), scatter)
    if float(free.sum()) >= len(free) and not lags:
        kernel = np.array([1.0, 2.0, 1.0])
        around = np.convolve(free, kernel, mode="same")
        own = np.convolve(free * steps.scatter**2, kernel, mode="same")
        one = np.sqrt((own + 2.0 * scatter**2) / (around + 2.0))
    rectangle = grain / math.sqrt(12.0)
    # What the steps of the display hide at one level of the run, and again at the level that is read.
    hidden = np.array([repeats.u_of_grain(grain, float(s)) for s in np.hypot(one, rectangle)])
    around = np.convolve(steps.count, np.array([0.1, 1.0, 0.1]), mode="same")
    # A straight line between two steps halves the variance of what both hide.
    return np.hypot(one, rectangle), np.hypot(one / np.sqrt(around), hidden / math.sqrt(2.0))


def _scatter(steps: Steps, value: Floats) -> float:
    """Standard deviation of one reading about the curve."""
    degrees = float(np.sum(steps.count - 1.0))
    if degrees >= len(steps.count):
        return math.sqrt(float(np.sum(steps.scatter**2 * (steps.count - 1.0))) / degrees)
    # Hardly more than one reading a step: what the curve leaves over tells how steady it is.
    return math.sqrt(float(np.mean((steps.mean - value) ** 2)))


def _rising(series: Series, index: NDArray[np.int32]) -> NDArray[np.bool_] | None:
    """Which readings were come to by less attenuation; None where that is not known, or only one way was gone.

    `order` counts the readings. One at the same attenuation as the one before belongs to the way that came there.
    """
    order = series.get("order")
    if order is None or len(order) != len(index) or (np.diff(order) < 0).any():
        return None
    fell = np.empty(len(index), dtype=bool)
    fell[0] = False
    np.less(index[1:], index[:-1], out=fell[1:])
    same = np.flatnonzero(index[1:] == index[:-1]) + 1
    if len(same):
        moved = np.ones(len(index), dtype=bool)
        moved[same] = False
        fell = fell[np.maximum.accumulate(np.where(moved, np.arange(len(index)), 0))]
    count = int(fell.sum())
    return fell if 3 <= count <= len(fell) - 3 else None


def _hysteresis(ways: list[tuple[Steps, Floats]], run: DisplayRun) -> Figure | None:
    """How many decibels later the display changes on the way down than on the way up; None where both agree."""
    (falling, down), (rising, up) = ways
    low, high = max(down.min(), up.min()), min(down.max(), up.max())
    if not high > low:
        return None
    # At the same reading the two ways stand at different levels: the mean of that over the readings both passed.
    marks = np.linspace(low, high, 41)[1:-1]
    apart = _inverse(rising, up, marks) - _inverse(falling, down, marks)
    value = float(apart.mean())
    u = float(apart.std(ddof=1)) / math.sqrt(min(len(falling.level_db), len(rising.level_db)))
    if value <= max(HYSTERESIS_SURE * u, 0.3):
        return None
    return Figure(
        f"hysteresis of {run.receiver}",
        value,
        u,
        "dB",
        Working(
            (f"way down and way up stand {show.decibel(value)} apart at the same reading",),
            (("from reading to reading", f"{u:.2f} dB"),),
            "two monotone curves, one each way",
            "It lags: half of that is put into every reading’s interval.",
        ),
    )


def _inverse(steps: Steps, curve: Floats, marks: Floats) -> Floats:
    """The middle of the levels at which a curve passes each mark."""
    low = np.searchsorted(curve, marks - 1e-9, side="left").clip(1, len(curve) - 1)
    before, after = curve[low - 1], curve[low]
    share = np.where(after > before, (marks - before) / np.maximum(after - before, 1e-12), 0.5)
    return np.asarray(steps.level_db[low - 1] + share * (steps.level_db[low] - steps.level_db[low - 1]))
