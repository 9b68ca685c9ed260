"""The day as one posterior, and what it is asked."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change
from tallmast.physics.nested_laplace import Linear, Marginal, Near, Notes, Posterior, solve
from tallmast.physics.statistics import normal_cdf, normal_quantile

from .kinds import Source, Telling
from .level import LevelModel
from .noted import Note, RunOfDay, Spot
from .priors import MEETS


class Day(Frozen):
    """All notes of a day, weighed at once."""

    model: LevelModel
    telling: Telling
    posterior: Posterior

    def change(self, changes: Sequence[Change], scanned: bool = True) -> Marginal:
        """What some changes do to the level over places like these, dB."""
        return self.posterior.marginal(self.model.change(changes), scanned)

    def here(self, changes: Sequence[Change], scanned: bool = True) -> Marginal:
        """The same at the places visited."""
        return self.posterior.marginal(self.model.here(changes), scanned)

    def within(self, changes: Sequence[Change], where: Mapping[str, str]) -> Marginal:
        """What some changes do where other factors stand at given levels: on one mode, in one pose."""
        return self.posterior.marginal(self.model.change(changes, where))

    def on_leg(self, changes: Sequence[Change], leg: str) -> Marginal:
        """The same on the way out, or back."""
        return self.posterior.marginal(self.model.on_leg(changes, leg))

    def elsewhere(self, told: Marginal) -> Marginal:
        """What a change comes to at one place where nobody was yet: each antenna meets that in its own way too."""
        meets = self.model.notes.hypers.get("meets")
        if meets is None:
            return told
        points = self.posterior.points
        if meets < points.modes.phi.shape[1]:
            square = float(points.weight @ np.exp(2.0 * points.modes.phi[:, meets]))
        else:
            square = float(np.exp(2.0 * np.log(MEETS.median) + 2.0 * MEETS.log_sd**2))
        return told.blurred(float(np.sqrt(2.0 * square)))

    def of_part(self, forms: Sequence[Linear], heard: Callable[[Source], bool]) -> list[tuple[float, float]]:
        """Mean and standard deviation of forms by those notes alone whose source is `heard`, over the likeliest of what the day knows of
        its hyperparameters."""
        points, weight = self.posterior.points.modes, self.posterior.points.weight
        likeliest = np.argsort(-weight, kind="stable")[:LIKELIEST]
        share = weight[likeliest] / weight[likeliest].sum()
        conditional = self.model.notes.conditional(heard)
        late = np.tile(conditional.hyper_mean[points.phi.shape[1] :], (len(likeliest), 1))
        phi = np.concatenate([points.phi[likeliest], late], axis=1)
        start = np.concatenate([points.x[likeliest], conditional.start(phi)[:, points.x.shape[1] :]], axis=1)
        modes = conditional.modes(phi, start)
        rows = np.array([form.row(self.model.notes.count) for form in forms])
        solved = modes.matrix.solve(np.repeat(rows.T[None], len(phi), axis=0))
        variances = np.einsum("ql,plq->pq", rows, solved)
        means = modes.x @ rows.T + [form.constant for form in forms]
        middle = share @ means
        spread = np.sqrt(np.maximum(share @ (variances + (means - middle) ** 2), 0.0))
        return list(zip(middle.tolist(), spread.tolist(), strict=True))

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
        return _of_falling(far, above)


def _of_falling(at: Floats, above: Floats) -> Marginal | None:
    """A number by the chance that it is above some values; None where nothing of it lies between them. Between two of them that chance
    runs as a normal one does."""
    falling = np.maximum.accumulate(above[::-1])[::-1]
    fine = np.linspace(at[0], at[-1], FINE)
    deviate = normal_quantile(np.clip(falling, 1e-6, 1.0 - 1e-6))
    density = np.maximum(-np.diff(normal_cdf(np.interp(fine, at, deviate))), 0.0)
    if density.sum() < 0.1:
        return None
    middle = 0.5 * (fine[1:] + fine[:-1])
    return Marginal.of(middle, density)


AROUND = (-2.5, 4.5)
"""Of the farthest place, in ln d: a twelfth to ninety times as far."""
STEPS_OUT = 36
FINE = 400
LIKELIEST = 16
"""Points of the hyperparameters at which a part of the notes is heard alone."""


def day_of(
    runs: Sequence[RunOfDay], said: Sequence[Note], near: Near | None = None, points: int | None = None
) -> Day | None:
    """The posterior of a day; None where nothing was noted. `near`: of a day that is much like it; `points` of the
    hyperparameters, else as many as it takes."""
    if not said:
        return None
    notes = Notes()
    model = LevelModel(notes, runs, said)
    telling = Telling(notes, model, said)
    telling.tell()
    for factor in model.factors:  # so that whatever is asked is known, noted or not
        for run in runs:
            model.effect(factor, run.levels.get(factor, ""))
    return Day(model, telling, solve(notes, near, points))
