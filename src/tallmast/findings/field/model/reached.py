"""How many times as far one thing reaches as another, by where runs broke that are the same in all else.

Ratios need no path: whatever lies on the way lies there for both. Only what repeats stray by is asked of the day, and of the repeats.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change
from tallmast.physics.nested_laplace import Marginal

from ..settings import MANNER
from . import priors
from .day import FINE, Day

LUCK_OUT, LUCK_STEPS = 4.0, 65
"""Over how many standard deviations of its logarithm a run's luck is followed, and in how many values."""
LEAST_EXPONENT = 1.0
"""No way costs less over distance."""
Edges = tuple[float | None, float | None]
"""Where a run was last heard and first lost, m; None where it is not known."""


class Matched(Frozen):
    """Runs that broke and are the same in all but what changed."""

    manner: str
    pairs: tuple[tuple[tuple[int, ...], tuple[int, ...]], ...]
    """The runs with the one, and with the other; a pair for each way in which all else stood."""

    @property
    def runs(self) -> list[int]:
        return sorted(run for both in self.pairs for side in both for run in side)


def matched(day: Day, changes: Sequence[Change]) -> Matched | None:
    """Of the manner of runs in which most can be matched; None where nothing can."""
    runs, changed = day.model.runs, {c.factor for c in changes}
    there: dict[tuple[object, ...], tuple[list[int], list[int]]] = {}
    for run, _ in day.model.broke:
        levels = runs[run].levels
        for side in (0, 1):
            if all(levels.get(c.factor, "") == (c.since if side else c.to) for c in changes):
                rest = tuple(sorted((f, level) for f, level in levels.items() if f not in changed))
                there.setdefault((rest, _known_step(day, run)), ([], []))[side].append(run)
    pairs = [(tuple(to), tuple(since)) for to, since in there.values() if to and since]
    manners = [runs[to[0]].levels.get(MANNER, "") for to, _ in pairs]
    if not pairs:
        return None
    most = max(dict.fromkeys(manners), key=manners.count)
    return Matched(most, tuple(pair for pair, manner in zip(pairs, manners, strict=True) if manner == most))


def _known_step(day: Day, run: int) -> float:
    return round(day.model.runs[run].power_db + day.model.runs[run].pad_db, 1)


def edges_of(day: Day, run: int) -> Edges:
    """Of a run that broke, whichever end heard it first."""
    return next(edges for (one, _), edges in day.model.broke.items() if one == run)


def farther(day: Day, of: Matched) -> Marginal:
    """ln of how many times as far. Where a run was never lost, by how far it was heard, which is the least.

    The middle between good and lost of a run strays by its luck σ and by the half of what lies between them: of k and m runs by
    σ²(1/k + 1/m) and that. Pairs weigh by their inverse variances."""
    luck, weight = _luck(day, of.manner)
    middle, certain = np.zeros(len(luck)), np.zeros(len(luck))
    for to, since in of.pairs:
        ahead, behind = (np.array([_logs(edges_of(day, run)) for run in side]) for side in (to, since))
        gaps = sum(float((np.diff(side, axis=1) ** 2).sum()) / 12.0 / len(side) ** 2 for side in (ahead, behind))
        inverse = 1.0 / (gaps + luck**2 * (1.0 / len(to) + 1.0 / len(since)))
        middle += inverse * (ahead.mean() - behind.mean())
        certain += inverse
    middle, sd = middle / certain, certain**-0.5
    far = 6.0 * float(sd[weight > weight.max() / 1e3].max())
    at = np.linspace(middle.min() - far, middle.max() + far, FINE)
    density = weight @ (np.exp(-0.5 * ((at - middle[:, None]) / sd[:, None]) ** 2) / sd[:, None])
    return Marginal.of(at, density)


def _logs(edges: Edges) -> tuple[float, float]:
    """ln of both; the one for the other where it is not known."""
    good, lost = edges
    low, high = good or lost, lost or good
    assert low is not None and high is not None
    return math.log(low), math.log(high)


def _luck(day: Day, manner: str) -> tuple[Floats, Floats]:
    """How far repeats stray in ln d, and what each such value weighs: by what is usual, in decibels over what an e-fold of distance costs,
    10·n/ln 10, and then by where the same broke again: Σ(x − x̄)² of k repeats about their mean is σ²·χ² of k − 1."""
    points, model = day.posterior.points, day.model
    exponent = np.maximum(points.modes.x[:, model.notes.latents["exponent", manner]], LEAST_EXPONENT)
    cost_db = float(points.weight @ exponent) * 10.0 / math.log(10.0)
    z = np.linspace(-LUCK_OUT, LUCK_OUT, LUCK_STEPS)
    luck, weight = priors.BREAKS.median / cost_db * np.exp(priors.BREAKS.log_sd * z), -0.5 * z**2
    alike: dict[tuple[object, ...], list[tuple[float, float]]] = {}
    for (run, _), edges in model.broke.items():
        if model.runs[run].manner == manner:
            key = (*sorted(model.runs[run].levels.items()), _known_step(day, run))
            alike.setdefault(key, []).append(_logs(edges))
    for again in alike.values():
        middles, gaps = np.mean(again, axis=1), np.diff(again, axis=1)
        square = luck**2 + float(np.mean(gaps**2)) / 12.0
        weight = weight - 0.5 * (len(again) - 1) * np.log(square)
        weight -= 0.5 * float(((middles - middles.mean()) ** 2).sum()) / square
    weight = np.exp(weight - weight.max())
    return luck, weight / weight.sum()
