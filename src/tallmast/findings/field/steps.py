"""Known steps of power and pads: what each should have done, and what it did."""

from __future__ import annotations

import math

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change, Design
from tallmast.units import show

from ..figure import Check, Figure, Working
from .samples import HOME_END, Cells
from .spread import Levels, run_spread

STEP_U_DB = 0.3
"""Standard uncertainty of a known step of power or pads."""
STEP = "step"


class Step(Frozen):
    """What two settings of power and pads did against each other, dB, and what they should have done."""

    figure: Figure
    expected_db: float

    @property
    def holds(self) -> bool:
        low, high = self.figure.interval
        slack = 1.645 * STEP_U_DB
        return low - slack <= self.expected_db <= high + slack


def steps_of(cells: Cells, levels: Levels, steps_db: Floats) -> tuple[Step, ...]:
    """Every step that the runs tell from everything else; `cells` with the steps still in them."""
    known = [f"{step:.1f}" for step in steps_db]
    there = list(dict.fromkeys(known))
    # What home hears the far end sends: home's power does nothing to it.
    away = np.flatnonzero(cells.numbers > -HOME_END)
    level = cells.level_dbm[:, away]
    level = level[:, np.isfinite(level).all(axis=0)]
    if len(there) < 2 or not level.shape[1]:
        return ()
    names = [*levels.design.factors, STEP]
    design = Design(names, [[*row, step] for row, step in zip(levels.design.levels, known, strict=True)])
    spread = run_spread(cells.only(np.isin(np.arange(len(cells.numbers)), away)), design)
    out = []
    for step in there[1:]:
        weights = design.weights([Change(STEP, step, there[0])])
        if weights is None:
            continue
        each = weights @ level
        u_place = float(each.std(ddof=1)) / math.sqrt(len(each)) if len(each) > 1 else 0.0
        u = math.hypot(spread.s_db * float(np.sqrt(np.sum(weights**2))), u_place)
        working = Working(
            (f"{show.count(len(each), 'place')} heard by all of the runs", f"difference {show.decibel(each.mean())}"),
            (
                ("run to run", show.decibel(spread.s_db * float(np.sqrt(np.sum(weights**2))), 2)),
                ("from place to place", show.decibel(u_place, 2)),
            ),
            "least squares on the design of the runs",
            "It should be what power and pads were noted as.",
        )
        figure = Figure("after over before", float(each.mean()), u, "dB", working, spread.degrees)
        out.append(Step(figure, float(step) - float(there[0])))
    return tuple(out)


def check(step: Step) -> Check:
    """Whether power and pads did what they should."""
    should = f"{show.plus(step.expected_db, 0)} dB"
    if step.holds:
        return Check("holds", f"power and pads: {should} did {step.figure.text}", step.figure)
    why = "Power or a pad was not what was noted, the receiver was at an end of its scale, or something else changed with it."
    return Check("disagrees", f"power and pads should do {should}, and did {step.figure.text}", step.figure, why)
