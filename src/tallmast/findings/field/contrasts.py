"""Effects of factors on the level: of any factor, by the design of the runs, place by place, within blocks and pooled."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.physics import repeats
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change, Design, order_of, pairs_of
from tallmast.physics.statistics import chi2_tail, coverage_factor, least_by_chance
from tallmast.units import show

from ..figure import Figure, Mark, Working
from .runs import ANTENNA, FactorKind
from .samples import Cells
from .spread import ASSUMED_RUN_SPREAD_DB, DRIFT_DB, drift_of, run_spread
from .tracks import LEGS

LIKENESS_PLACES = 12
"""Fewer places can’t show whether neighbours are alike."""
LONE_PLACE_DB = 3.0
"""Standard deviation of what one place says of another, where only one was measured: antennas meet places in their own ways."""
STEP_U_DB = 0.3
"""Standard uncertainty of a known step of power or pads, as far as a contrast rests on it."""
DISAGREE, LEGS_DISAGREE = 0.05, 0.01
"""Below this chance of so large a χ², blocks are said to disagree."""

DECIBELS, REACH = "dB", "reach"
"""Scales of contrasts beside those of `units.shown`."""
Levels = Mapping[str, str]
"""Level by factor."""


class Contrast(Frozen):
    """What one change of a factor does, and what it rests on: to the level, dB; or, on a scale of its own, the chance in per
    cent that it is better at the same spot; or how many times as far it was heard."""

    changes: tuple[Change, ...]
    """The change, and what it can only be told together with."""
    figure: Figure
    runs: int
    cells: int
    blocks: tuple[tuple[str, Figure], ...] = ()
    """The same within each block, where there are several."""
    agree: Mark = "open"
    """Of the blocks: holds, disagrees; open: there is but one."""
    parted: bool = False
    """Whether one further run would tell it from what it was changed together with."""
    scale: str = DECIBELS
    size: Figure | None = None
    """On a scale of its own: by how much, in its unit, where that means something."""
    alone: str = ""
    """The place, where all was measured at one."""
    u_place_db: float = 0.0
    """In decibels: the part of its uncertainty that more runs over the same places leave as it is."""

    @property
    def change(self) -> Change:
        return self.changes[0]

    @property
    def key(self) -> frozenset[Change]:
        """The same whichever of its changes comes first, and whichever way round."""
        return frozenset(Change(c.factor, *sorted((c.to, c.since))) for c in self.changes)

    @property
    def neutral(self) -> float:
        """The value that says alike."""
        return 0.0 if self.scale == DECIBELS else 1.0 if self.scale == REACH else 50.0

    @property
    def alike(self) -> bool:
        """Whether its interval leaves open which is better."""
        return self.leaves_open(self.figure)

    def leaves_open(self, figure: Figure) -> bool:
        low, high = figure.interval
        return low <= self.neutral <= high

    @property
    def by_leg(self) -> bool:
        """Whether its blocks are the legs of a way out and back."""
        return {block for block, _ in self.blocks} == set(LEGS.values())

    @property
    def told_by_block(self) -> bool:
        """Whether a block says what all of them together don't: that they differ, or which is better."""
        told = any(not self.leaves_open(figure) for _, figure in self.blocks)
        return bool(self.blocks) and (self.agree == "disagrees" or (self.alike and told))


class _Part(Frozen):
    """A contrast cell by cell, within one block."""

    block: str
    each: Floats
    """Value in each cell, in order of distance. [cell]"""
    weights: Floats
    """What each run of all counts with, in the mean over the cells. [run]"""
    u_read: float
    """Standard uncertainty of the sum over the cells by what was read off."""


class _Told(Frozen):
    """The mean of a contrast over the cells of one or more blocks, dB, and where its uncertainty comes from."""

    mean: float
    u: float
    degrees: float
    places: int
    runs: int
    """That count in it."""
    weights: Floats
    """What each run of all counts with. [run]"""
    shares: tuple[float, ...]
    """Standard uncertainty by run to run, by place, by drift, by known steps, by the size of an S unit."""
    by_reading: bool
    """Whether what was read off makes more of the places' share than their scatter."""

    @property
    def u_place(self) -> float:
        return self.shares[1]

    def turned(self) -> _Told:
        """The same the other way round."""
        return replace(self, mean=-self.mean, weights=-self.weights)


class Compared:
    """Runs of one manner by cells, and their settings: what of each factor can be told from them."""

    def __init__(
        self, cells: Cells, settings: Sequence[Levels], kinds: Mapping[str, FactorKind], steps_db: Floats
    ) -> None:
        """`settings` [run]; `steps_db` [run]: what known steps of power and pads were taken out of the levels of `cells`."""
        self.cells, self.kinds, self.steps_db = cells, kinds, steps_db
        self._known_patterns: dict[tuple[int, ...], tuple[NDArray[np.bool_], NDArray[np.int64]]] = {}
        names = [n for n in settings[0] if len({s[n] for s in settings}) > 1]
        self.factors = [n for n in names if kinds[n] == "compared"]
        self.blocking = [n for n in names if kinds[n] == "block"]
        self.settings = list(settings)
        self.blocks = [", ".join(s[n] for n in self.blocking if s[n]) for s in settings]
        self.order = order_of(len(settings))
        self.design = Design(
            [*self.factors, *self.blocking], [[s[n] for n in (*self.factors, *self.blocking)] for s in settings]
        )
        self._inside = Design(self.factors, [[s[n] for n in self.factors] for s in self.settings])
        """Without the blocks: within one of them they are all the same."""
        self.drift = drift_of(cells, self.design)
        if self.drift.told:
            shift = self.drift.value_db * self.order
            self.cells = replace(cells, level_dbm=cells.level_dbm - shift[:, None])
        self.spread = run_spread(self.cells, self.design, int(self.drift.told))

    def changes_of(self, factor: str) -> list[Change]:
        """Between the levels of a factor that are compared, in the order in which they were run: of antennas every two."""
        levels = self.design.levels_of(factor)
        return [Change(factor, to, since) for since, to in pairs_of(levels, factor == ANTENNA)]

    def _part(self, block: str, rows: list[int], design: Design, changes: Sequence[Change]) -> _Part | None:
        """A contrast in every cell that all the runs heard which it takes there."""
        cells = self.cells
        levels = cells.level_dbm[rows]
        patterns, which = self._patterns(tuple(rows))
        each = np.full(levels.shape[1], np.nan)
        weight = np.zeros((len(cells.runs), levels.shape[1]))
        for k in range(patterns.shape[1]):
            there = np.flatnonzero(patterns[:, k])
            weights = design.of(there.tolist()).weights(changes) if len(there) < len(rows) else design.weights(changes)
            if weights is None:
                continue
            used = np.flatnonzero(weights)
            mine = np.flatnonzero(which == k)
            block_levels = levels[np.ix_(there[used], mine)]
            heard = np.isfinite(block_levels).all(axis=0)
            mine = mine[heard]
            each[mine] = weights[used] @ block_levels[:, heard]
            weight[np.ix_(np.asarray(rows)[there[used]], mine)] = weights[used][:, None]
        known = np.flatnonzero(np.isfinite(each))
        if len(known) == 0:
            return None
        known = known[np.argsort(cells.distance_m[known])]
        taken = weight[:, known]
        return _Part(block, each[known], taken.mean(axis=1), math.sqrt(float(self._read_variance(taken, known).sum())))

    def _patterns(self, rows: tuple[int, ...]) -> tuple[NDArray[np.bool_], NDArray[np.int64]]:
        """Which of some runs came to a cell: every pattern there is [run, pattern], and that of each cell [cell]."""
        if rows not in self._known_patterns:
            visited = self.cells.visited[list(rows)]
            # A column as one number of so many bytes sorts far quicker than column by column.
            packed = np.ascontiguousarray(np.packbits(visited, axis=0).T)
            keys = packed.view([("", packed.dtype)] * packed.shape[1]).ravel()
            _, first, which = np.unique(keys, return_index=True, return_inverse=True)
            self._known_patterns[rows] = visited[:, first], which.ravel()
        return self._known_patterns[rows]

    def _read_variance(self, weight: Floats, known: NDArray[np.int64]) -> Floats:
        """Variance of a contrast in each cell by what its levels were read on: runs of one side that showed the same at a
        place tell no more than one of them. [cell]"""
        u2, level = self.cells.u_db[:, known] ** 2, self.cells.level_dbm[:, known]
        total = np.zeros(len(known))
        if not u2.any():
            return total
        for side in (weight > 0, weight < 0):
            share = np.where(side, weight, 0.0)
            low = np.where(side, level, np.inf).min(axis=0)
            high = np.where(side, level, -np.inf).max(axis=0)
            mean = np.where(side, u2, 0.0).sum(axis=0) / np.maximum(side.sum(axis=0), 1)
            total += np.where(low == high, share.sum(axis=0) ** 2 * mean, (share**2 * u2).sum(axis=0))
        return total

    def _parts(self, change: Change) -> tuple[list[_Part], tuple[Change, ...], bool]:
        """A change within the blocks that tell it; else across them, together with what it was changed with."""
        parts = []
        if change.factor in self.factors:
            for block in dict.fromkeys(self.blocks):
                rows = [i for i, b in enumerate(self.blocks) if b == block]
                part = self._part(block, rows, self._inside.of(rows), [change])
                if part is not None:
                    parts.append(part)
        if parts:
            return parts, (change,), False
        told = self.design.told_with(change)
        if told is None:
            return [], (), False
        changes = (change, *told)
        part = self._part("", list(range(len(self.settings))), self.design, changes)
        if part is None:
            return [], (), False
        return [part], changes, bool(told) and self.design.parted_by(change, told) is not None

    def both_ways(
        self, change: Change, names_of: Callable[[Sequence[Change]], tuple[str, str]]
    ) -> tuple[Contrast, ...]:
        """What a change does, dB, and what it does taken back; none where no runs tell it. `names_of` changes: what they went
        to, and from."""
        parts, changes, parted = self._parts(change)
        if not parts:
            return ()
        back = tuple(Change(c.factor, c.since, c.to) for c in changes)
        whole = self._told(parts)
        blocks = [(p.block, self._told([p])) for p in parts] if len(parts) > 1 else []
        return (
            self._contrast(whole, blocks, changes, parted, names_of(changes)),
            self._contrast(
                whole.turned(), [(name, told.turned()) for name, told in blocks], back, parted, names_of(back)
            ),
        )

    def _contrast(
        self,
        whole: _Told,
        blocks: Sequence[tuple[str, _Told]],
        changes: tuple[Change, ...],
        parted: bool,
        names: tuple[str, str],
    ) -> Contrast:
        told = tuple((block, self._figure(one, names)) for block, one in blocks)
        figure, agree = _agreement(self._figure(whole, names), told)
        return Contrast(changes, figure, whole.runs, whole.places, told, agree, parted, u_place_db=whole.u_place)

    def _told(self, parts: Sequence[_Part]) -> _Told:
        """The mean over the cells of some blocks, and what it leaves open."""
        every = np.concatenate([p.each for p in parts])
        places = len(every)
        mean = float(every.mean())
        weights = np.sum([p.weights * len(p.each) for p in parts], axis=0) / places
        runs = int(np.count_nonzero(np.sum([np.abs(p.weights) for p in parts], axis=0)))
        spread = self.spread
        u_run = spread.s_db * math.sqrt(float(np.sum(weights**2)))
        u_place, place_degrees, by_reading = _place_part(parts)
        u_drift = self.drift.u_db * abs(float(weights @ self.order))
        u_step = STEP_U_DB * abs(float(weights @ self.steps_db)) / 10.0
        u_unit = self.cells.unit_u * abs(mean + float(weights @ self.steps_db))  # of the difference as it was read
        u = math.hypot(u_run, u_place, u_drift, u_step, u_unit)
        below = u_place**4 / place_degrees + (0.0 if math.isinf(spread.degrees) else u_run**4 / spread.degrees)
        degrees = u**4 / below if below > 0 else math.inf
        shares = (u_run, u_place, u_drift, u_step, u_unit)
        return _Told(mean, u, degrees, places, runs, weights, shares, by_reading)

    def _figure(self, told: _Told, names: tuple[str, str]) -> Figure:
        spread, weights, degrees = self.spread, told.weights, told.degrees
        how = f"{ASSUMED_RUN_SPREAD_DB:g} dB assumed" if spread.assumed else f"s = {spread.s_db:.2f} dB"
        reasons = (
            f"run to run, {how}",
            "what it was read on" if told.by_reading else "each place in its own way",
            "drift, as told" if self.drift.told else f"drift by the order, {DRIFT_DB:g} dB a session assumed",
            "known steps of power and pads",
            "S units taken for 6 dB each",
        )
        k = coverage_factor(degrees)
        lines = (
            f"runs paired by place: {show.count(told.places, 'place')} heard by all that it takes",
            *self._side(names[0], weights, weights > 0),
            *self._side(names[1], weights, weights < 0),
            f"difference {show.decibel(told.mean)}",
            f"u = {told.u:.2f} dB × {k:.2f} (90 %, {'normal' if math.isinf(degrees) else f'{degrees:.0f} degrees of freedom'})",
        )
        if spread.assumed:
            meaning = "No setting was run twice, so how far repeats differ is assumed. Run each again in swapped order."
        else:
            meaning = (
                "Everything that shifts a whole run (connectors, battery, hands, weather) is in the run-to-run spread."
            )
        return Figure(
            f"{names[0]} over {names[1]}",
            told.mean,
            told.u,
            "dB",
            Working(
                lines,
                tuple((words, show.decibel(u, 2)) for words, u in zip(reasons, told.shares, strict=True) if u >= 0.005),
                "least squares on the design of the runs, paired by place; Student's t by Welch and Satterthwaite, "
                "JCGM 100 §G.4",
                meaning,
            ),
            degrees,
        )

    def _side(self, name: str, weights: Floats, taken: NDArray[np.bool_]) -> list[str]:
        numbers = [(self.cells.runs[i].number, abs(float(weights[i]))) for i in np.flatnonzero(taken)]
        if not numbers:
            return []
        even = max(share for _, share in numbers) - min(share for _, share in numbers) < 0.01
        runs = ", ".join(str(n) if even else f"{n} × {share:.2f}" for n, share in sorted(numbers))
        return [f"{name}  run{'s' if len(numbers) > 1 else ''} {runs}"]


def _place_part(parts: Sequence[_Part]) -> tuple[float, float, bool]:
    """(standard uncertainty of a mean over places, its degrees of freedom, whether what was read off makes more of it).

    Each antenna meets each place in its own way (its pattern on what is reflected there): other places would have given
    another mean. Repeats go over the same places and don't show it.
    """
    counts = [len(p.each) for p in parts]
    places = sum(counts)
    every = np.concatenate([p.each for p in parts])
    long = [p.each for p in parts if len(p.each) >= LIKENESS_PLACES]
    rho = repeats.likeness(long) if long else 0.0
    if places > 1:
        u_place = float(every.std(ddof=1)) * math.sqrt(repeats.inflation(places, rho) / places)
        degrees = repeats.degrees([places], rho)
    else:
        u_place, degrees = LONE_PLACE_DB, 1.0
    # What a stepped display leaves open of each level scatters from place to place, so the scatter seen has it, unless it
    # is smaller than chance would leave of what the display must have.
    u_read = math.hypot(*(p.u_read for p in parts)) / places
    by_reading = u_place < u_read * least_by_chance(degrees)
    return (u_read if by_reading else u_place), degrees, by_reading


def _agreement(figure: Figure, blocks: Sequence[tuple[str, Figure]]) -> tuple[Figure, Mark]:
    """Whether the blocks agree; where they don't, the ± is widened by Birge's ratio and says so."""
    if len(blocks) < 2:
        return figure, "open"
    shares = [1.0 / max(f.u, 1e-6) ** 2 for _, f in blocks]
    mean = math.fsum(w * f.value for w, (_, f) in zip(shares, blocks, strict=True)) / math.fsum(shares)
    chi2 = math.fsum(w * (f.value - mean) ** 2 for w, (_, f) in zip(shares, blocks, strict=True))
    degrees = len(blocks) - 1
    if chi2_tail(chi2, degrees) >= DISAGREE:
        return figure, "holds"
    ratio = math.sqrt(chi2 / degrees)
    return figure.widened(ratio, f"blocks disagree: ± widened × {ratio:.1f}"), "disagrees"


def with_legs(contrasts: Sequence[Contrast], on_legs: Mapping[str, Sequence[Contrast]]) -> list[Contrast]:
    """Contrasts with what each leg of the way says. Legs of the same runs share what those are off by, so they are held against
    each other by their places alone; where they disagree they stand as blocks do, and the ± over both stays what it is. Where a run was lost on one leg, the other
    may still tell what both together don't."""
    by_leg = {name: {c.changes: c for c in told} for name, told in on_legs.items()}
    out = []
    for contrast in contrasts:
        legs = [(name, told[contrast.changes]) for name, told in by_leg.items() if contrast.changes in told]
        if len(legs) < 2 or contrast.blocks or min(c.cells for _, c in legs) < LIKENESS_PLACES:
            out.append(contrast)
            continue
        (_, first), (_, second) = legs
        u2 = first.u_place_db**2 + second.u_place_db**2
        apart = (first.figure.value - second.figure.value) ** 2 / max(u2, 1e-6)
        words = "; ".join(f"{name} {c.figure.text}" for name, c in legs)
        told = replace(contrast, figure=contrast.figure.widened(1.0, f"by leg: {words}"))
        if chi2_tail(apart, 1) < LEGS_DISAGREE:
            told = replace(told, blocks=tuple((name, c.figure) for name, c in legs), agree="disagrees")
        out.append(told)
    known = {contrast.changes for contrast in out}
    for name, on_leg in by_leg.items():
        for changes, contrast in on_leg.items():
            if changes not in known:
                known.add(changes)
                out.append(replace(contrast, figure=contrast.figure.widened(1.0, f"on the way {name} alone")))
    return out
