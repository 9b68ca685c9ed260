"""The day as one posterior, and what it is asked."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change
from tallmast.physics.nested_laplace import Linear, Marginal, Notes, Posterior, solve

from ...levels.display import DisplayFinding
from ..finding import FieldFinding
from ..fixes import origin_of
from ..recorded import merged, noted_of
from ..runs import tried
from ..tracks import noted_on_the_way
from .kinds import Telling
from .level import LevelModel
from .noted import Note, RunOfDay, Spot, notes_of_day, runs_of_day


class Day(Frozen):
    """All notes of a day, weighed at once."""

    model: LevelModel
    telling: Telling
    posterior: Posterior

    def change(self, changes: Sequence[Change]) -> Marginal:
        """What some changes do to the level over places like these, dB."""
        return self.posterior.marginal(self.model.change(changes))

    def here(self, changes: Sequence[Change]) -> Marginal:
        """The same at the places visited."""
        return self.posterior.marginal(self.model.here(changes))

    def within(self, changes: Sequence[Change], where: Mapping[str, str]) -> Marginal:
        """What some changes do where other factors stand at given levels: on one mode, in one pose."""
        return self.posterior.marginal(self.model.change(changes, where))

    def margin(self, run: int, end: str, spot: Spot, more_db: float = 0.0) -> Marginal:
        """How far the level at a spot is above what is heard, as runs set like one of them have it, with so much more power, dB."""
        return self.posterior.marginal(self._margin(run, end, spot) + more_db)

    def _margin(self, run: int, end: str, spot: Spot) -> Linear:
        return self.model.usual(run, end, spot) - self.telling.hearing(run, end)

    def reach(self, run: int, end: str, more_db: float = 0.0) -> Marginal | None:
        """ln of the distance in m beyond which it is no longer heard, with so much more power; None where no distance is known. By
        the chance that the margin is positive, which falls with the distance."""
        known = [n.spot.distance_m for n in self.model.said if n.spot.distance_m > 0.0]
        if not known:
            return None
        far = np.log(max(known)) + np.linspace(*AROUND, STEPS_OUT)
        forms = [self._margin(run, end, Spot(f"at {d:.6g}", float(np.exp(d)))) + more_db for d in far]
        above = np.array([float(m.chance_above(0.0)) for m in self.posterior.marginals(forms)])
        falling = np.maximum.accumulate(above[::-1])[::-1]
        middle = 0.5 * (far[1:] + far[:-1])
        density = np.maximum(-np.diff(falling), 0.0)
        if not density.any():
            return None
        fine = np.linspace(far[0], far[-1], 8 * STEPS_OUT)
        return Marginal.of(fine, np.interp(fine, middle, density))


AROUND = (-2.5, 4.5)
"""Of the farthest place, in ln d: a twelfth to ninety times as far."""
STEPS_OUT = 36


def day_of(runs: Sequence[RunOfDay], said: Sequence[Note], start: Floats | None = None) -> Day | None:
    """The posterior of a day; None where nothing was noted. `start`: the mode of the day before the last note."""
    if not said:
        return None
    notes = Notes()
    model = LevelModel(notes, runs, said)
    telling = Telling(notes, model, said)
    telling.tell()
    for factor in model.factors:  # so that whatever is asked is known, noted or not
        for run in runs:
            model.effect(factor, run.levels.get(factor, ""))
    return Day(model, telling, solve(notes, start))


def day_of_field(
    evidence: Evidence, field: FieldFinding, displays: Mapping[str, DisplayFinding], start: Floats | None = None
) -> Day | None:
    """The day of a notebook, by what the Field has gathered of it."""
    fixes = {fix.place.id: fix for fix in field.places}
    tried_of = {row.run.id: tried(evidence, row.run) for row in field.rows}
    samples = {of.run.id: of for of in field.samples}
    in_time = merged(noted_of(field.traces), noted_on_the_way(evidence, origin_of(evidence, field.home), displays))
    said = notes_of_day(evidence, field.rows, fixes, samples, displays, in_time)
    return day_of(runs_of_day(field.rows, tried_of), said, start)
