"""What a change means on the scale that was read: bars, grades, Mbit/s, dropouts a minute, at the places visited.

A decibel is worth what the day has learnt of that scale; so the size on the scale is known where its decibels are not, and the other way
round where a known step calibrates it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np

from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change
from tallmast.physics.nested_laplace import Linear
from tallmast.physics.statistics import normal_quantile
from tallmast.units import show
from tallmast.units.shown import SCALES

from ...figure import Figure, Working
from .day import Day
from .kinds import RATES, STEPPED, Key
from .seen import SCALE_OF, notes_of

SHARE, QUANTILES = 0.9, 99
SPREAD = 38
"""Prime to `QUANTILES`: in steps of so many, quantiles of one thing go with those of another as if at random."""
FARTHEST = 6.0
"""Logits, or ln, past which a scale is at its end anyway."""
NEAR_END = 0.05
"""A share so near to its end is taken for that."""


def size_of(day: Day, changes: Sequence[Change], scale: str) -> Figure | None:
    """The better level over the other on a scale, positive where it is better; None where nothing was read on it, or a difference on
    it means nothing."""
    said = [note for note, _ in notes_of(day, changes[0]) if SCALE_OF.get(note.kind, note.kind) == scale]
    if not said or not (scale in STEPPED or (scale in SCALES and SCALES[scale].countable)):
        return None
    keys = [day.telling.scale(note) for note in said]
    key = max(dict.fromkeys(keys), key=keys.count)
    values = np.array(
        [note.value for note, of in zip(said, keys, strict=True) if of == key and math.isfinite(note.value)]
    )
    worth = _worth(day, key, values) if len(values) else None
    if worth is None:
        return None
    hyper, across = worth
    column = day.model.notes.hypers.get((hyper, key))
    points = day.posterior.points
    if column is None or column >= points.modes.phi.shape[1]:
        return None
    decibels, weight = _draws(day, day.model.here(changes))
    unit = np.repeat(np.exp(points.modes.phi[:, column]), QUANTILES)
    sizes = across(decibels, unit)
    if key[0] in ("delay", "dropouts"):  # which go with their mean, and that is known by so few readings
        deviates = np.tile(
            normal_quantile((np.arange(QUANTILES) * SPREAD % QUANTILES + 0.5) / QUANTILES), len(unit) // QUANTILES
        )
        sizes = sizes * np.exp(deviates * values.std() / (math.sqrt(len(values)) * max(values.mean(), 1e-9)))
    order = np.argsort(sizes)
    low, middle, high = np.interp(
        [0.5 - SHARE / 2.0, 0.5, 0.5 + SHARE / 2.0], np.cumsum(weight[order]) - 0.5 * weight[order], sizes[order]
    ).tolist()
    sd = math.sqrt(float(weight @ (sizes - weight @ sizes) ** 2))
    unit_words = ("bars" if scale == "bars" else "grades") if scale in STEPPED else SCALES[scale].unit
    decibels_middle = float(weight @ decibels)
    working = Working(
        (
            f"{show.count(len(values), 'reading')} on it, {show.fixed(values.mean(), 1)} {unit_words} in the mean",
            f"at the places visited the one over the other {show.plus(decibels_middle, 1)} dB",
            f"that is {show.plus(middle, 1)} {unit_words} about that mean",
        ),
        (),
        "the day’s one model: what a decibel is worth on this scale, as it was learnt with the difference",
        "Better is more than 0, whichever way the scale runs. The ± holds both: the difference, and the scale.",
    )
    return Figure(f"on the scale of {scale}", middle, sd, unit_words, working, low=low, high=high)


def _draws(day: Day, form: Linear) -> tuple[Floats, Floats]:
    """Values of a form in decibels, spread evenly over its distribution at each point of the hyperparameters, and what each weighs."""
    points, model = day.posterior.points, day.model
    row = form.row(model.notes.count)[: day.posterior.latents]
    carried = points.modes.matrix.solve(np.repeat(row[None, :, None], len(points.weight), axis=0))[:, :, 0]
    mean, sd = points.modes.x @ row + form.constant, np.sqrt(np.maximum(carried @ row, 1e-12))
    deviates = normal_quantile((np.arange(QUANTILES) + 0.5) / QUANTILES)
    return (mean[:, None] + sd[:, None] * deviates).ravel(), np.repeat(points.weight, QUANTILES) / QUANTILES


def _worth(day: Day, key: Key, values: Floats) -> tuple[str, Callable[[Floats, Floats], Floats]] | None:
    """The hyperparameter that says what a decibel is worth on a scale, and the size of so many decibels by it, about the middle of what
    was read."""
    kind = key[0]
    if kind in STEPPED:
        return "gap", lambda decibels, gap: decibels / gap
    if kind in RATES:
        most = max(day.telling.ceilings[key], 1e-9)
        share = float(np.clip(values.mean() / most, NEAR_END, 1.0 - NEAR_END))
        middle = math.log(share / (1.0 - share))
        return "dB a logit", lambda decibels, unit: most * _between(_logistic, middle, decibels / unit)
    # Of two that are e to the power z apart, and whose mean is m, the difference is 2 m tanh(z / 2).
    if kind == "delay":
        return "dB a delay", lambda decibels, unit: 2.0 * values.mean() * np.tanh(0.5 * decibels / unit)
    if kind == "dropouts":
        return "steep", lambda decibels, steep: 2.0 * values.mean() * np.tanh(0.5 * decibels * steep)
    return "dB a count", lambda decibels, unit: decibels / unit


def _between(curve: Callable[[Floats], Floats], middle: float, apart: Floats) -> Floats:
    """How far apart a curve is at two points as far to either side of the middle."""
    half = 0.5 * np.clip(apart, -FARTHEST, FARTHEST)
    return np.asarray(curve(middle + half) - curve(middle - half))


def _logistic(z: Floats) -> Floats:
    return np.asarray(1.0 / (1.0 + np.exp(-z)))
