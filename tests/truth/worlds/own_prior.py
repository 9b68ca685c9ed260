"""Simulation-based calibration (Talts and others 2018): days drawn from the prior of the model itself. Whatever fails here fails by
how it is solved, and not by what is believed of the world."""

from __future__ import annotations

import numpy as np

from tallmast.findings.figure import Figure
from tallmast.physics.nested_laplace import Marginal, solve

from ...physics.nested_laplace.days import Field, _grades, _heard, _levels, _rates
from ..tally import Answer, quantity

PLACES = 4
KINDS = ("levels", "lost below a floor", "grades", "heard", "rates")


def drawn(rng) -> tuple[Marginal, float]:
    """The marginal of A over B, and what was so. In the order of `days.Field`: hyperparameters, latents, notes."""
    kind = KINDS[rng.integers(len(KINDS))]

    def scale(median: float, log_sd: float) -> float:
        return float(np.exp(rng.normal(np.log(median), log_sd)))

    field, order = Field("ABBA"), "ABBA"
    run, meets, places = scale(0.7, 0.7), scale(2.0, 0.7), scale(8.0, 0.5)
    thing = {k: rng.normal(0.0, 5.0) for k in "AB"}
    common = rng.normal(0.0, 30.0)
    at = rng.normal(0.0, places, PLACES)
    met = {k: rng.normal(0.0, meets, PLACES) for k in "AB"}
    level = np.array([[common + thing[a] + at[k] + met[a][k] for k in range(PLACES)] for a in order])
    level += rng.normal(0.0, run, 4)[:, None]
    cells = [(i, k) for i in range(4) for k in range(PLACES)]
    if kind in ("levels", "lost below a floor"):
        spread = scale(1.5, 0.7)
        read = {c: level[c] + rng.normal(0.0, np.hypot(spread, np.sqrt(1.0 / 12.0))) for c in cells}
        floor = float(np.median(level)) + rng.normal(0.0, 5.0) if kind != "levels" else None
        _levels(field, read if floor is None else {c: max(v, floor) for c, v in read.items()}, floor)
    elif kind == "grades":
        gap, spread, middle = scale(5.0, 0.42), scale(2.0, 0.5), rng.normal(0.0, 30.0)
        gaps = gap * rng.normal(1.0, 0.35, 3)
        while (gaps <= 0.0).any():
            gaps = gap * rng.normal(1.0, 0.35, 3)
        edges = middle + np.concatenate([[0.0], np.cumsum(gaps)]) - (gaps[0] + gaps[1] / 2)
        _grades(field, {c: int(np.searchsorted(edges, level[c] + rng.normal(0.0, spread))) for c in cells}, 4)
    elif kind == "heard":
        spread, threshold = scale(1.0, 0.8), rng.normal(0.0, 30.0)
        form = field.notes.latent("threshold", 0.0, 30.0)
        for i, k in cells:
            _heard(field, i, k, bool(level[i, k] + rng.normal(0.0, np.hypot(spread, 0.5)) > threshold), form)
    else:
        # Anywhere within 30 dB is alike; on the scale at all is where something is read.
        spread, unit, zero = scale(2.0, 0.6), scale(4.2, 0.42), float(np.median(level)) + rng.normal(0.0, 4.0)
        shares = {}
        for c in cells:
            logit = (level[c] - zero + rng.normal(0.0, spread)) / unit
            shares[c] = 1.0 / (1.0 + np.exp(-np.clip(logit, -9.0, 30.0)))
        off = {c: (0.03 * s + 0.004) / (s * (1.0 - s)) for c, s in shares.items() if s < 0.95}
        read = {
            c: (1.0 / (1.0 + np.exp(-(np.log(s / (1 - s)) + rng.normal(0.0, off[c])))) if c in off else 1.0)
            for c, s in shares.items()
        }
        _rates(field, {c: min(v, 1.0) * 30.0 for c, v in read.items()}, 30.0)
    return solve(field.notes).marginal(field.asked()["A over B"]), thing["A"] - thing["B"]


def stated(marginal: Marginal, share: float) -> Figure:
    low, middle, high = marginal.quantile([0.5 - share / 2, 0.5, 0.5 + share / 2])
    return Figure("A over B", float(middle), float(marginal.sd), "dB", low=float(low), high=float(high))


@quantity("own prior", "days drawn from the model’s own prior, 90 %")
def ninety(rng) -> list[Answer]:
    marginal, true = drawn(rng)
    return [(stated(marginal, 0.9), true)]


@quantity("own prior", "the same, 50 %", low=0.46, high=0.54, why="of intervals of 50 %")
def fifty(rng) -> list[Answer]:
    marginal, true = drawn(rng)
    return [(stated(marginal, 0.5), true)]
