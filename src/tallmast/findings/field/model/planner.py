"""What would settle a comparison: how far its interval would fall after steps that could still be taken, asked of the model itself."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.physics.design import Change
from tallmast.physics.nested_laplace import Linear, Notes

from ...figure import Figure
from .day import Day, day_of
from .kinds import Telling
from .level import LevelModel
from .noted import Note, RunOfDay, Spot

ROUNDS, PLACES = (1, 2, 3, 5, 8), (1, 2, 4, 8)
SMALL, POINTS = 80, 16
"""Latents under which a day that might come is weighed as a day of its own, at so many points."""
RUN_MINUTES, PLACE_MINUTES = 5.0, 2.0
"""What a run takes before it is under way, and each place of it."""


class Step(Frozen):
    """More rounds over the places visited, or places beside them, each with one run of either."""

    rounds: int
    places: int
    minutes: float


def settling(day: Day, changes: Sequence[Change], told: Figure, alike: float, here: bool) -> Step | None:
    """The quickest step after which the interval would be clear of nought, or within what is called alike; None where none of those
    tried would do. `told`: what is known now, dB."""
    for step in sorted(_steps(day, changes), key=lambda step: step.minutes):
        if step.places and here:
            continue  # other places tell nothing more of this one
        low, high = _after_it(day, changes, told, step, here)
        if low > 0.0 or high < 0.0 or max(-low, high) <= alike:
            return step
    return None


def _after_it(day: Day, changes: Sequence[Change], told: Figure, step: Step, here: bool) -> tuple[float, float]:
    """The interval that a step would leave. A small day is weighed anew; of a large one, whose spreads are known, what is told moves and
    narrows as it does at the likeliest of them."""
    runs, said = _after(day, changes, step)
    low, high = told.interval
    if day.posterior.latents < SMALL:
        after = day_of(runs, said, day.posterior.near, POINTS)
        assert after is not None
        form = after.here(changes, False) if here else after.change(changes, False)
        low, high = form.quantile([0.05, 0.95]).tolist()
        return low, high
    ((mean, sd),) = at_once(day, day.model.runs, day.model.said, [(changes, here)])
    ((moved, left),) = at_once(day, runs, said, [(changes, here)])
    if sd <= 0.0:
        return low, high
    middle, half = told.value + moved - mean, 0.5 * (high - low) * left / sd
    return middle - half, middle + half


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
