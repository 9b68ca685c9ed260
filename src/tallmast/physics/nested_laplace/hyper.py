"""Over the hyperparameters: their mode, and a fixed set of points about it with weights."""

from __future__ import annotations

import numpy as np

from tallmast.frozen import Frozen

from ..decibels import Floats
from .arrow import Arrow
from .likelihoods import LOG_2PI
from .newton import Conditional, Modes

POINTS = 64
TAILS = 6.0
"""Degrees of freedom of the t distribution that the points are laid out by: wider than what they are to cover."""
WIDER = 1.1
FARTHEST = 5.0
"""Standard deviations of its prior that a hyperparameter may stray."""
MOST_ROUNDS = 25
ENOUGH = 0.02


class Point(Frozen):
    """One value of the hyperparameters: a batch of one."""

    modes: Modes
    log_posterior: float
    slope: Floats
    """Of that. [hyperparameters]"""
    moves: Floats
    """What the latents' mode moves by along each hyperparameter. [hyperparameters, latents]"""


class Near(Frozen):
    """Where a search for the mode of the hyperparameters may start."""

    phi: Floats
    """[hyperparameters]"""
    inverse: Floats
    """Of minus the second derivatives, as far as they were learnt. [hyperparameters, hyperparameters]"""


class Points(Frozen):
    """Values of the hyperparameters with what each weighs."""

    modes: Modes
    weight: Floats
    """[points], together 1."""
    log_evidence: float
    """Of the notes, with everything integrated out."""
    effective: float
    """How many points of equal weight these are worth: 1/Σw²."""


def explore(model: Conditional, near: Near | None = None, points: int = POINTS) -> tuple[Points, Near]:
    """The points, and the mode that they lie about; `near`: one that was near, as of the notes before the last one."""
    if not len(model.hyper_mean):
        only = model.modes(np.zeros((1, 0)), model.start(np.zeros((1, 0))))
        return Points(only, np.ones(1), float(only.log_evidence[0]), 1.0), Near(np.zeros(0), np.zeros((0, 0)))
    top, inverse = _mode(model, near or Near(model.hyper_mean, 0.5 * np.diag(model.hyper_sd**2)))
    centre = top.modes.phi[0]
    spread = _spread(model, top)
    normal = _normal_points(points, len(centre))
    # A normal deviate drawn out to the tails of a t distribution, by a change of variable whose density is known.
    drawn = WIDER * normal * np.sqrt(1.0 + normal**2 / (2.0 * TAILS))
    stretch = WIDER * (1.0 + normal**2 / TAILS) / np.sqrt(1.0 + normal**2 / (2.0 * TAILS))
    phi = _within(model, centre + spread * drawn)
    log_density = (-0.5 * normal**2 - np.log(stretch) - 0.5 * LOG_2PI - np.log(spread)).sum(axis=1)
    modes = evaluate(model, phi, top.modes.x + (phi - centre) @ top.moves)
    weight = modes.log_evidence + log_prior(model, phi) - log_density
    most = float(weight.max())
    weight = np.exp(weight - most)
    share = weight / weight.sum()
    return (
        Points(modes, share, most + float(np.log(weight.mean())), float(1.0 / (share**2).sum())),
        Near(centre, inverse),
    )


def log_prior(model: Conditional, phi: Floats) -> Floats:
    """ln p(φ). Shape [models]."""
    z = (phi - model.hyper_mean) / model.hyper_sd
    return np.asarray((-0.5 * z * z - np.log(model.hyper_sd) - 0.5 * LOG_2PI).sum(axis=1))


def evaluate(model: Conditional, phi: Floats, start: Floats) -> Modes:
    """Modes for any number of φ, in batches that memory bears."""
    size = model.batch()
    found = [model.modes(phi[i : i + size], start[i : i + size]) for i in range(0, len(phi), size)]
    if len(found) == 1:
        return found[0]
    return Modes(
        phi,
        np.concatenate([f.x for f in found]),
        Arrow.joined([f.matrix for f in found]),
        np.concatenate([f.log_evidence for f in found]),
    )


def _within(model: Conditional, phi: Floats) -> Floats:
    far = FARTHEST * model.hyper_sd
    return np.clip(phi, model.hyper_mean - far, model.hyper_mean + far)


def _point(model: Conditional, phi: Floats, start: Floats) -> Point:
    modes = model.modes(phi[None], start)
    slope, moves = model.evidence_slope(modes)
    slope = slope - (phi - model.hyper_mean) / model.hyper_sd**2
    return Point(modes, float(modes.log_evidence[0] + log_prior(model, phi[None])[0]), slope, moves)


def _mode(model: Conditional, near: Near) -> tuple[Point, Floats]:
    """Quasi-Newton (BFGS; Nocedal and Wright, Numerical Optimization, §6.1); also what it learnt of the second derivatives."""
    phi, inverse = _within(model, near.phi), near.inverse
    here = _point(model, phi, model.start(phi[None]))
    for _ in range(MOST_ROUNDS):
        step = inverse @ here.slope
        step *= min(1.0, 1.5 / (np.abs(step / model.hyper_sd).max() + 1e-9))
        gain = float(here.slope @ step)
        if gain < ENOUGH:
            break
        size = 1.0
        while size > 0.05:
            aim = _within(model, phi + size * step)
            there = _point(model, aim, here.modes.x + (aim - phi) @ here.moves)
            if there.log_posterior > here.log_posterior + 0.05 * size * gain:
                break
            size *= 0.4
        else:
            break
        moved, turned = there.modes.phi[0] - phi, here.slope - there.slope
        if moved @ turned > 1e-9:
            r, one = 1.0 / float(moved @ turned), np.eye(len(phi))
            left = one - r * np.outer(moved, turned)
            inverse = left @ inverse @ left.T + r * np.outer(moved, moved)
        phi, here = there.modes.phi[0], there
    return here, inverse


def _spread(model: Conditional, top: Point) -> Floats:
    """Of each hyperparameter about the mode, over half a standard deviation of its prior to either side: what is lopsided counts."""
    phi = top.modes.phi[0]
    count, reach = len(phi), 0.5 * model.hyper_sd
    sides = np.concatenate([np.diag(reach), -np.diag(reach)])
    found = evaluate(model, phi + sides, top.modes.x + sides @ top.moves)
    log = found.log_evidence + log_prior(model, phi + sides)
    bend = (2.0 * top.log_posterior - log[:count] - log[count:]) / reach**2
    return np.asarray(1.0 / np.sqrt(np.maximum(bend, (1.5 * model.hyper_sd) ** -2.0)))


def _normal_points(points: int, dimensions: int) -> Floats:
    """Normal deviates that fill the space evenly: a Kronecker sequence by the generalised golden ratio, mirrored, so that its mean is
    nought (Niederreiter, Random Number Generation and Quasi-Monte Carlo Methods, §3.1)."""
    ratio = 2.0
    for _ in range(40):
        ratio = (1.0 + ratio) ** (1.0 / (dimensions + 1))
    steps = ratio ** -np.arange(1.0, dimensions + 1.0)
    half = (0.5 + np.outer(np.arange(1, points // 2 + 1), steps)) % 1.0
    return np.asarray(normal_quantile(np.concatenate([half, 1.0 - half])))


def normal_quantile(p: Floats) -> Floats:
    """The z with Φ(z) = p, 0 < p < 1: by Abramowitz and Stegun 26.2.23, then two steps of Newton's method."""
    from ..normal_tails import log_cdf

    p = np.clip(p, 1e-12, 1.0 - 1e-12)
    tail = np.minimum(p, 1.0 - p)
    t = np.sqrt(-2.0 * np.log(tail))
    z = t - (2.515517 + 0.802853 * t + 0.010328 * t**2) / (1.0 + 1.432788 * t + 0.189269 * t**2 + 0.001308 * t**3)
    for _ in range(3):  # on ln Φ(−z) = ln tail
        log = log_cdf(-z)
        z = z + (log - np.log(tail)) * np.exp(log + 0.5 * z * z + 0.5 * LOG_2PI)
    return np.asarray(np.where(p < 0.5, -z, z))
