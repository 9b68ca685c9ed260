"""Levels of runs by cells: how far repeats of a run differ, and what the session drifted."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Design, order_of
from tallmast.physics.statistics import coverage_factor

from .runs import FactorKind
from .samples import Cells

ASSUMED_RUN_SPREAD_DB = 1.0
"""Standard deviation taken from run to run while no setting was run twice: connectors, battery, hands, weather."""
DRIFT_DB = 0.5
"""Standard deviation of what a session drifts from its first run to its last, taken where the order can't tell it."""
DRIFT_SURE = 0.98
LEAST_DEGREES = 2
"""Degrees of freedom from which on a drift is told from the runs themselves."""
LEAST_OWN = 0.5
"""Share of what was seen between repeats that stays the runs' own, however much the readings of a run stray."""


class RunSpread(Frozen):
    """How far repeats of one setting differ, dB, and the degrees of freedom; infinite when assumed."""

    s_db: float
    degrees: float
    assumed: bool


def _common(cells: Cells, rows: list[int]) -> Floats:
    """Levels of some runs in the cells that all of them heard."""
    block = cells.level_dbm[rows]
    return np.asarray(block[:, np.isfinite(block).all(axis=0)])


def run_spread(cells: Cells, design: Design, spent: int = 0) -> RunSpread:
    """Pooled standard deviation of run means about the mean of all runs of one setting, over the cells that they have in
    common; where nothing was run twice, about the effects of the factors, over the cells common to all (a Latin square, a
    grid of antennas and heights repeat each level without repeating a setting). `spent`: degrees of freedom that a drift taken out has cost."""
    total, degrees, rest = 0.0, 0, 0.0
    for setting in dict.fromkeys(design.levels):
        rows = [i for i, other in enumerate(design.levels) if other == setting]
        block = _common(cells, rows)
        if len(rows) < 2 or block.shape[1] == 0:
            continue
        seen, own = squares_of_runs(block)
        total += seen
        degrees += len(rows) - 1
        rest += own
    left = len(design.levels) - design.rank
    if degrees == 0 and left > 0:
        block = _common(cells, list(range(len(design.levels))))
        if block.shape[1]:
            total, degrees = float(np.sum(design.residuals(block.mean(axis=1)) ** 2)), left
    if degrees == 0:
        return RunSpread(ASSUMED_RUN_SPREAD_DB, math.inf, True)
    # What each reading strays by shows in the means of runs, and again in the scatter between places: counted once.
    own = max(total - rest, LEAST_OWN * total)
    left_over = max(degrees - spent, 1)
    return RunSpread(math.sqrt(own / left_over), float(left_over), False)


def squares_of_runs(block: Floats) -> tuple[float, float]:
    """(sum of squares of the means of repeated runs, what it has in it by the readings' own straying) of [run, cell]."""
    places = block.shape[1]
    means = block.mean(axis=1)
    seen = float(np.sum((means - means.mean()) ** 2))
    if places < 2:
        return seen, 0.0
    left = block - block.mean(axis=0) - means[:, None] + block.mean()
    return seen, float(np.sum(left**2) / ((places - 1) * places))


class Drift(Frozen):
    """What a session drifted from its first run to its last, dB; `told` where the order lets it be told from the rest."""

    value_db: float
    u_db: float
    degrees: float
    told: bool


def drift_of(cells: Cells, design: Design) -> Drift:
    """The slope of the run means over the order, in the cells common to all; where it can't be told, or does not stand out,
    what is assumed of any session."""
    assumed = Drift(0.0, DRIFT_DB, math.inf, False)
    block = _common(cells, list(range(len(design.levels))))
    if block.shape[1] == 0:
        return assumed
    found = Design(design.factors, design.levels, order_of(len(design.levels)).tolist()).slope(block.mean(axis=1))
    if found is None or found[2] < LEAST_DEGREES:
        return assumed
    slope, u, degrees = found
    if abs(slope) < max(coverage_factor(degrees, DRIFT_SURE) * u, 2.0 * DRIFT_DB):
        return assumed
    return Drift(slope, u, float(degrees), True)


class Levels:
    """Runs of one manner by cells, and their settings, with the drift of the session taken out where it can be told."""

    def __init__(self, cells: Cells, settings: Sequence[Mapping[str, str]], kinds: Mapping[str, FactorKind]) -> None:
        """`settings` [run], the level of each factor."""
        names = [n for n in settings[0] if len({s[n] for s in settings}) > 1 and kinds.get(n) in ("compared", "block")]
        self.design = Design(names, [[s[n] for n in names] for s in settings])
        self.order = order_of(len(settings))
        self.drift = drift_of(cells, self.design)
        shift = self.drift.value_db * self.order if self.drift.told else np.zeros(len(settings))
        self.cells = replace(cells, level_dbm=cells.level_dbm - shift[:, None])
        self.spread = run_spread(self.cells, self.design, int(self.drift.told))
