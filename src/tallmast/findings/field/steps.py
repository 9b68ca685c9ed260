"""Known steps of power and pads: what each should have done, and what it did."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change
from tallmast.units import show

from ..figure import Check, Figure
from .contrasts import STEP_U_DB, Compared
from .samples import HOME_END, Cells

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


def steps_of(
    cells: Cells, compared: Compared, settings: Sequence[dict[str, str]], steps_db: Floats
) -> tuple[Step, ...]:
    """Every step that the runs tell from everything else; `cells` with the steps still in them."""
    known = [f"{step:.1f}" for step in steps_db]
    levels = list(dict.fromkeys(known))
    if len(levels) < 2:
        return ()
    # What home hears the far end sends: home's power does nothing to it.
    cells = cells.only(cells.numbers > -HOME_END)
    if not len(cells.numbers):
        return ()
    kinds = {**compared.kinds, STEP: "compared"}
    both = Compared(cells, [s | {STEP: k} for s, k in zip(settings, known, strict=True)], kinds, 0.0 * steps_db)
    out = []
    for level in levels[1:]:
        for found in both.both_ways(Change(STEP, level, levels[0]), lambda changes: ("after", "before"))[:1]:
            if len(found.changes) == 1:
                out.append(Step(found.figure, float(level) - float(levels[0])))
    return tuple(out)


def check(step: Step) -> Check:
    """Whether power and pads did what they should."""
    should = f"{show.plus(step.expected_db, 0)} dB"
    if step.holds:
        return Check("holds", f"power and pads: {should} did {step.figure.text}", step.figure)
    why = "Power or a pad was not what was noted, the receiver was at an end of its scale, or something else changed with it."
    return Check("disagrees", f"power and pads should do {should}, and did {step.figure.text}", step.figure, why)
