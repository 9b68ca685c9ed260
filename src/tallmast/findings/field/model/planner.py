"""What would settle a comparison: how far its interval would fall after steps that could still be taken, asked of the model itself."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.physics.design import Change
from tallmast.physics.nested_laplace import Linear, Notes

from .day import Day
from .kinds import Telling
from .level import LevelModel
from .noted import Note, RunOfDay, Spot

ROUNDS, PLACES = (1, 2, 3, 5, 8), (1, 2, 4, 8)
RUN_MINUTES, PLACE_MINUTES = 5.0, 2.0
"""What a run takes before it is under way, and each place of it."""


class Step(Frozen):
    """More rounds over the places visited, or places beside them, each with one run of either."""

    rounds: int
    places: int
    minutes: float


def settling(day: Day, changes: Sequence[Change], value: float, half: float, alike: float, here: bool) -> Step | None:
    """The quickest step after which the interval would be clear of nought, or within what is called alike; None where none of those
    tried would do. `half`: of the interval now, dB."""
    before = _sd(day.model.runs, day.model.said, day, changes, here)
    if before is None:
        return None
    found = []
    for step in _steps(day, changes):
        if step.places and here:
            continue  # other places tell nothing more of this one
        runs, said = _after(day, changes, step)
        sd = _sd(runs, said, day, changes, here)
        after = half * sd / before if sd is not None else math.inf
        if abs(value) > after or abs(value) + after <= alike:
            found.append(step)
    return min(found, key=lambda step: step.minutes, default=None)


def _steps(day: Day, changes: Sequence[Change]) -> Iterable[Step]:
    there = len({note.spot.key for run in _templates(day, changes) for note in day.model.said if note.run == run})
    for rounds in ROUNDS:
        yield Step(rounds, 0, 2.0 * rounds * (RUN_MINUTES + PLACE_MINUTES * there))
    for places in PLACES:
        yield Step(0, places, 2.0 * (RUN_MINUTES + PLACE_MINUTES * places))


def _templates(day: Day, changes: Sequence[Change]) -> list[int]:
    """The last run of either level."""
    out = []
    for level in (changes[0].to, changes[0].since):
        mine = [i for i in day.model.order if day.model.runs[i].levels.get(changes[0].factor, "") == level]
        out += mine[-1:]
    return out


def _after(day: Day, changes: Sequence[Change], step: Step) -> tuple[list[RunOfDay], list[Note]]:
    """The day as it would be, if what comes reads as what was last read."""
    runs, said = list(day.model.runs), list(day.model.said)
    templates = _templates(day, changes)
    for k in range(max(step.rounds, 1)):
        for i in templates if k % 2 else templates[::-1]:
            number = len(runs)
            runs.append(replace(day.model.runs[i], number=number + 1))
            mine = [note for note in day.model.said if note.run == i]
            if step.rounds:
                said += [replace(note, run=number) for note in mine]
            else:
                said += [note for place in range(step.places) for note in _moved(mine, number, place)]
    return runs, said


def _moved(mine: Sequence[Note], run: int, place: int) -> Iterable[Note]:
    """What was noted at one of the places, at another like it."""
    keys = list(dict.fromkeys(note.spot.key for note in mine))
    like = keys[place % len(keys)]
    for note in mine:
        if note.spot.key == like:
            yield replace(note, run=run, spot=Spot(f"{like} and {place}", note.spot.distance_m, note.spot.bearing_deg))


def _sd(
    runs: Sequence[RunOfDay], said: Sequence[Note], day: Day, changes: Sequence[Change], here: bool
) -> float | None:
    """Standard deviation of what some changes do."""
    ((_, sd),) = at_once(day, runs, said, [(changes, here)])
    return sd if sd > 0.0 else None


def at_once(
    day: Day, runs: Sequence[RunOfDay], said: Sequence[Note], asked: Sequence[tuple[Sequence[Change], bool]]
) -> list[tuple[float, float]]:
    """What changes do by other notes than the day's, mean and standard deviation of each, at the hyperparameters that the day holds for
    likeliest: what may be asked often. `asked`: changes, and whether at the places visited."""
    notes = Notes()
    model = LevelModel(notes, runs, said)
    Telling(notes, model, said).tell()
    forms: list[Linear] = [model.here(changes) if here else model.change(changes) for changes, here in asked]
    conditional = notes.conditional()
    heaviest = int(np.argmax(day.posterior.points.weight))
    known = day.posterior.points.modes.phi[heaviest]
    phi = conditional.hyper_mean.copy()
    for key, column in notes.hypers.items():
        at = day.model.notes.hypers.get(key)
        if at is not None and at < len(known):
            phi[column] = known[at]
    start = conditional.start(phi[None])
    mode = day.posterior.points.modes.x[heaviest]
    for key, latent in notes.latents.items():
        at = day.model.notes.latents.get(key)
        if at is not None and at < len(mode):
            start[0, latent] = mode[at]
    found = conditional.modes(phi[None], start)
    rows = np.array([form.row(notes.count) for form in forms])
    carried = found.matrix.solve(rows.T[None])[0]
    variances = np.einsum("ql,lq->q", rows, carried)
    means = rows @ found.x[0]
    return [(float(m), math.sqrt(max(float(v), 0.0))) for m, v in zip(means, variances, strict=True)]
