"""The day as one posterior, and what it is asked."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change
from tallmast.physics.nested_laplace import Linear, Marginal, Notes, Posterior, solve
from tallmast.physics.statistics import normal_cdf, normal_quantile

from .kinds import Telling
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

    def farther(self, changes: Sequence[Change], manner: str) -> Marginal | None:
        """ln of how many times as far something is heard on the way of a manner of runs by what some changes do: by where it broke with
        either, whatever lies between; where it was never lost, by how far it was heard, which is the least. None where it did not break
        with either.

        The middle between good and lost of a run scatters by its luck over what an e-fold of distance costs, 10·n/ln 10, and by the
        half of what lies between them."""
        first, middles, gaps = changes[0], {}, 0.0
        for level in (first.to, first.since):
            ends = [
                (good, lost)
                for (run, _), (good, lost) in self.model.broke.items()
                if self.model.runs[run].manner == manner and self.model.runs[run].levels.get(first.factor, "") == level
            ]
            edges = [(good or lost, lost or good) for good, lost in ends]
            known = [(math.log(low), math.log(high)) for low, high in edges if low and high]
            if not known:
                return None
            middles[level] = (sum(low + high for low, high in known) / (2.0 * len(known)), len(known))
            gaps += sum((high - low) ** 2 for low, high in known) / 12.0 / len(known) ** 2
        points, notes = self.posterior.points, self.model.notes
        spread = np.exp(points.modes.phi[:, notes.hypers["run"]])
        cost = np.maximum(points.modes.x[:, notes.latents["exponent", manner]], LEAST_EXPONENT) * 10.0 / math.log(10.0)
        share = sum(1.0 / count for _, count in middles.values())
        sd = np.sqrt(gaps + share * (spread / cost) ** 2)
        ahead = middles[first.to][0] - middles[first.since][0]
        at = ahead + np.linspace(-6.0, 6.0, FINE) * float(sd.max())
        density = points.weight @ (np.exp(-0.5 * ((at - ahead) / sd[:, None]) ** 2) / sd[:, None])
        return Marginal.of(at, density)

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
LEAST_EXPONENT = 1.0
"""No way costs less over distance."""


def day_of(
    runs: Sequence[RunOfDay], said: Sequence[Note], start: Floats | None = None, points: int | None = None
) -> Day | None:
    """The posterior of a day; None where nothing was noted. `start`: the mode of the day before the last note; `points` of the
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
    return Day(model, telling, solve(notes, start, points))
