"""Where the ± of an answer comes from, and the assumption that moves it most."""

from __future__ import annotations

import math
from collections.abc import Hashable

import numpy as np

from tallmast.physics.nested_laplace import Linear
from tallmast.units import show

from .day import Day
from .kinds import LOGITS

WORDS = {
    "run": "run to run",
    "meets": "each antenna meets each place in its own way",
    "place": "path to each place",
    "shadow": "path to each place",
    "shadow at": "path to each place",
    "exponent": "path exponent",
    "drift": "drift by the order",
    "pad": "known steps of power and pads",
    "power": "known steps of power and pads",
    "leg": "out and back",
    "effect": "what was believed before",
    "together": "what differs by mode, pose or the other end",
    "gap": "how much a step of the scale is worth",
    "middle": "where the scale lies",
    "zero": "zero of the display",
    "S9": "where S9 lies",
    "moment": "fades of the moment",
    "count": "chance in what was counted",
    "threshold": "weakest level that is heard",
    "common": "what was believed before",
}
"""By the first word of a latent's key."""
READINGS, FULL_SCALE = "readings", "a rate’s full scale"
ASSUMED = {
    "gap": "a grade or a bar",
    "dB a logit": FULL_SCALE,
    "dB a delay": "a delay e times as long",
    "dB an S unit": "an S unit",
}
"""By the first word of a hyperparameter's key: what of a scale was assumed."""
LEAST_MOVED = 0.3
"""dB that an assumption has to move an answer by to be named, end to end."""


def _group(key: Hashable) -> str:
    first = key[0] if isinstance(key, tuple) else key
    return WORDS.get(str(first), "what was believed before")


def shares_of(day: Day, form: Linear) -> list[tuple[str, float]]:
    """Standard uncertainty by where it comes from, the largest first; squares add up to that of the Gaussian approximation at the
    likeliest hyperparameters.

    With H = P + AᵀWA, P the prior's precision, rᵀH⁻¹r = Σ pᵢ(H⁻¹r)ᵢ² + the notes' part: what each random effect adds to the variance of
    the estimate, exactly (Henderson's mixed-model equations; Robinson, Statistical Science 6 (1991) 15)."""
    posterior = day.posterior
    points = posterior.points.modes
    heaviest = int(np.argmax(posterior.points.weight))
    row = form.row(day.model.notes.count)[: posterior.latents]
    carried = points.matrix.solve(row[None, :, None], only=[heaviest])[0, :, 0]
    _, sd = posterior.model.prior(posterior.model.scales(points.phi[heaviest][None]))
    each = (carried / sd[0]) ** 2
    out: dict[str, float] = {}
    for key, latent in day.model.notes.latents.items():
        if latent < posterior.latents:
            out[_group(key)] = out.get(_group(key), 0.0) + float(each[latent])
    out[READINGS] = max(float(row @ carried) - math.fsum(out.values()), 0.0)
    return sorted(((words, math.sqrt(v)) for words, v in out.items()), key=lambda pair: -pair[1])


def assumption_lines(day: Day, form: Linear) -> list[str]:
    """The assumption about a scale that moves an answer most, and what the answer would be at either end of it."""
    points, hypers = day.posterior.points, day.model.notes.hypers
    known = points.modes.phi.shape[1]
    row = form.row(day.model.notes.count)[: day.posterior.latents]
    values = points.modes.x @ row
    best: tuple[float, str] = (LEAST_MOVED, "")
    for key, column in hypers.items():
        words = ASSUMED.get(str(key[0]) if isinstance(key, tuple) else str(key))
        if words is None or column >= known:
            continue
        phi = points.modes.phi[:, column]
        middle = float(points.weight @ phi)
        variance = float(points.weight @ (phi - middle) ** 2)
        if variance < 1e-6:
            continue
        # The answer goes with the size of a step: a straight line in its logarithm, near the middle.
        slope = float(points.weight @ ((phi - middle) * (values - points.weight @ values))) / variance
        ends = [middle - 1.645 * math.sqrt(variance), middle + 1.645 * math.sqrt(variance)]
        told = [float(points.weight @ values) + slope * (end - middle) for end in ends]
        if abs(told[1] - told[0]) > best[0]:
            step = [math.exp(end) * (LOGITS if words == FULL_SCALE else 1.0) for end in ends]
            best = (
                abs(told[1] - told[0]),
                f"{words} taken for {show.fixed(step[0], 1)} to {show.fixed(step[1], 1)} dB: "
                f"{show.decibel(told[0])} to {show.decibel(told[1])}",
            )
    return [best[1]] if best[1] else []
