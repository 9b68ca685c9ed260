"""What arrives beyond the places measured: models of the path, each held against them by how well it foretells those left out.

Each model has the shape in which the level falls; its height comes from the places. Again and again the farther places are left
out, and the nearer ones have to foretell them, as the whole has to foretell what lies beyond. The answer is the mean of all models
by that merit, and its ± holds how far they lie apart (stacking: Yao, Vehtari, Simpson and Gelman, Bayesian Analysis 13, 2018). What is
known to stand on the way is taken out of all of them first.
"""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen
from tallmast.physics import diffraction
from tallmast.physics.decibels import Floats
from tallmast.physics.propagation import free_space_loss_db, plane_earth_loss_db, two_rays_excess_db
from tallmast.physics.two_rays import reflection

from ..field.path import PathFit
from .profile import Profile

SPLITS = (0.4, 0.55, 0.7, 0.85)
"""Shares of the way, in log distance, that have to foretell what is farther."""
BLOCKS = 3
"""Stretches into which what was left out is parted; a place alone strays too much."""
WORTH = 5.0
"""So many independent trials all the splits count as."""
LEAST_OFF_DB = 1.0
"""No model of a path is better than this."""
REFLECTED = (0.4, 0.7, 0.9)
PRIOR_SLOPE, PRIOR_SLOPE_U = 2.8, 0.9
"""Exponent of a path before anything was measured; of one that breaks, before and behind."""
PRIOR_BROKEN = (2.4, 3.8)
NEWS = 0.4
"""Share of the places that say something of their own: neighbours are alike."""
MOST_NEWS = 30.0
PLACE_U_DB = 3.0
LEAST_PLACES = 5


class Model(Frozen):
    """One way in which a level may fall."""

    key: str
    off_db: float
    """Root of the mean square by which it foretold what was left out."""
    weight: float


NAMES: dict[str, str] = {
    "free": "free space",
    "377": "37.7 log d, as practitioners have it",
    "40": "40 log d",
    "plane": "plane earth at these heights",
    "earth": "over the smooth earth",
    **{f"two {share:g}": f"two rays, {share:g} reflected" for share in REFLECTED},
    "own": "two rays over the ground as noted",
    "line": "the exponent as fitted",
    "broken": "a slope that breaks",
}
"""By key, as a person calls it."""


FREE = ("line", "broken")
"""Models whose shape the places tell."""


class _Shapes:
    """Levels of every model whose shape is fixed, over distances, up to a height that places tell."""

    def __init__(self, heights_m: tuple[float, float], profile: Profile) -> None:
        self.heights, self.hz, self.profile = heights_m, profile.frequency_hz, profile
        self.k = profile.conditions.k_factor

    def _own(self, distance_m: Floats) -> Floats:
        """What the ground throws back by what it is made of, its roughness and the wave's polarization."""
        noted = self.profile.conditions
        grazing = np.degrees(np.arctan2(sum(self.heights), distance_m))
        return np.abs(reflection(grazing, self.hz, noted.over, self.profile.vertical, noted.rough_m))

    def at(self, distance_m: Floats) -> dict[str, Floats]:
        (one, other), hz = self.heights, self.hz
        free = -free_space_loss_db(distance_m, hz)
        log = 10.0 * np.log10(distance_m)
        over = diffraction.smooth_earth_db(distance_m, one, other, hz, self.k)
        told = {}
        if self.profile.conditions.over:
            told["own"] = free - two_rays_excess_db(distance_m, one, other, hz, self._own(distance_m))
        return told | {
            "free": free,
            "377": -3.77 * log,
            "40": -4.0 * log,
            "plane": -plane_earth_loss_db(distance_m, one, other, hz),
            "earth": free - over,
            **{f"two {share:g}": free - two_rays_excess_db(distance_m, one, other, hz, share) for share in REFLECTED},
        }


def _line(x: Floats, y: Floats) -> tuple[float, float]:
    """(height at x = 0, exponent) of a line, the exponent drawn to what paths do where the places hardly tell it."""
    middle = float(x.mean())
    told = float(np.sum((x - middle) ** 2)) * NEWS / PLACE_U_DB**2
    before = 1.0 / PRIOR_SLOPE_U**2
    n = (float(np.sum((x - middle) * (y - y.mean()))) * NEWS / PLACE_U_DB**2 + PRIOR_SLOPE * before) / (told + before)
    return float(y.mean()) - n * middle, n


class _Broken(Frozen, eq=True):
    """A slope that breaks once: height, both exponents, and where."""

    height: float
    near: float
    far: float
    at_m: float

    def __call__(self, distance_m: Floats) -> Floats:
        return np.asarray(
            self.height
            - 10.0 * self.near * np.log10(np.minimum(distance_m, self.at_m))
            - 10.0 * self.far * np.log10(np.maximum(distance_m, self.at_m) / self.at_m)
        )


def _broken(d: Floats, y: Floats) -> _Broken:
    prior = np.diag([0.0, 1.0 / PRIOR_SLOPE_U**2, 1.0 / PRIOR_SLOPE_U**2])
    before = np.array([0.0, *PRIOR_BROKEN])
    best: tuple[float, _Broken] | None = None
    for at in np.geomspace(d[0] * 1.5, max(d[-1] / 1.3, d[0] * 1.6), 10):
        x = np.stack(
            (np.ones(len(d)), -10.0 * np.log10(np.minimum(d, at)), -10.0 * np.log10(np.maximum(d, at) / at)), axis=1
        )
        told = NEWS / PLACE_U_DB**2
        c = np.linalg.solve(x.T @ x * told + prior, x.T @ y * told + prior @ before)
        cost = float(np.sum((y - x @ c) ** 2)) * told + float((c - before) @ prior @ (c - before))
        if best is None or cost < best[0]:
            best = (cost, _Broken(float(c[0]), float(c[1]), float(c[2]), float(at)))
    assert best is not None
    return best[1]


class _Fitted(Frozen):
    """All models as some places tell them."""

    heights: dict[str, float]
    """Of each whose shape is fixed, over its shape."""
    line: tuple[float, float]
    broken: _Broken

    def at(self, distance_m: Floats, shapes: dict[str, Floats]) -> dict[str, Floats]:
        """What each says at distances, `shapes` at the same."""
        out = {key: shape + self.heights[key] for key, shape in shapes.items()}
        out["line"] = self.line[0] - 10.0 * self.line[1] * np.log10(distance_m)
        out["broken"] = self.broken(distance_m)
        return out


def _fitted(d: Floats, y: Floats, shapes: dict[str, Floats]) -> _Fitted:
    heights = {key: float(np.mean(y - shape)) for key, shape in shapes.items()}
    return _Fitted(heights, _line(-10.0 * np.log10(d), y), _broken(d, y))


def _blocks_off(off: Floats) -> list[float]:
    """Means over stretches of what was left out."""
    return [float(block.mean()) for block in np.array_split(off, min(BLOCKS, len(off)))]


class Beyond(Frozen):
    """The path beyond its places, by all models."""

    fit: PathFit
    profile: Profile
    """Toward the place that is asked for."""
    along: bool
    """Whether the places lie on the way there, so that what stands on it stood before them too."""

    @property
    def farthest_m(self) -> float:
        return self.fit.reach_m[1]

    @cached_property
    def at_place(self) -> tuple[float, float]:
        """(level over the mean of the places, its u) at the place that is asked for."""
        mean, u = self.over_mean(self.profile.whole_m)
        return float(mean[0]), float(u[0])

    @cached_property
    def _shapes(self) -> _Shapes:
        p = self.profile
        return _Shapes(p.effective_heights_m, p)

    def _taken(self, distance_m: Floats) -> tuple[Floats, Floats]:
        d, taken, u = self.profile.added_over_distance
        return np.interp(distance_m, d, taken), np.interp(distance_m, d, u)

    @cached_property
    def _places(self) -> tuple[Floats, Floats]:
        """(distance, level over the mean) of the places, what is known to stand before each put back."""
        d, y = self.fit.place_m, self.fit.place_db
        return d, y + self._taken(d)[0] if self.along else y

    @cached_property
    def models(self) -> tuple[Model, ...]:
        """Every model with its merit, the best first; all alike where there are too few places to be left out."""
        d, y = self._places
        shapes, log = self._at_places, np.log10(d)
        off: dict[str, list[float]] = {}
        counts: list[float] = []
        for late, share in enumerate(SPLITS, 1):
            near = log <= log[0] + share * (log[-1] - log[0])
            if near.sum() < LEAST_PLACES - 1 or (~near).sum() < 2:
                continue
            known = _fitted(d[near], y[near], {key: shape[near] for key, shape in shapes.items()})
            for key, told in known.at(d, shapes).items():
                off.setdefault(key, []).extend(_blocks_off((y - told)[~near]))
            # The more of the way was known, the more it is like what is asked.
            counts += [float(late)] * (len(off["line"]) - len(counts))
        keys = [key for key in NAMES if key in self._at_places or key in FREE]
        off2 = np.array([np.average(np.square(off[key]), weights=counts) if key in off else 9.0 for key in keys])
        off2 += LEAST_OFF_DB**2
        # And how it goes through all that is there: a slope that broke late no nearer place could foretell.
        through = self._whole.at(d, shapes)
        strays2 = np.array([np.mean(np.square(y - through[key])) for key in keys])
        worth = min(NEWS * len(d), MOST_NEWS)
        weight = off2 ** (-0.5 * WORTH) * (strays2 + 0.25) ** (-0.5 * worth)
        weight /= weight.max()
        weight /= weight.sum()
        made = [Model(key, math.sqrt(o), float(w)) for key, o, w in zip(keys, off2, weight, strict=True)]
        return tuple(sorted(made, key=lambda m: -m.weight))

    @cached_property
    def _whole(self) -> _Fitted:
        """As all places tell them."""
        d, y = self._places
        return _fitted(d, y, self._at_places)

    @cached_property
    def _at_places(self) -> dict[str, Floats]:
        return self._shapes.at(self._places[0])

    def _said(self, distance_m: Floats) -> dict[str, Floats]:
        """What each model says at distances, all places known."""
        return self._whole.at(distance_m, self._shapes.at(distance_m))

    def by_model(self, distance_m: float) -> dict[str, float]:
        """Level over the mean of the places at a distance by each model, what stands on the way taken off."""
        at = np.array([distance_m])
        taken = float(self._taken(at)[0][0])
        return {key: float(values[0]) - taken for key, values in self._said(at).items()}

    def over_mean(self, distance_m: ArrayLike) -> tuple[Floats, Floats]:
        """(level over the mean of the places dB, standard uncertainty) at distances beyond them [n]."""
        at = np.atleast_1d(np.asarray(distance_m, dtype=float))
        said = self._said(at)
        d = self.fit.place_m
        tried = 0.25 * math.log10(d[-1] / d[0])
        beyond = np.log10(np.maximum(at / d[-1], 1.0)) / max(tried, 1e-3)
        mean, square = np.zeros(len(at)), np.zeros(len(at))
        for model in self.models:
            mean += model.weight * said[model.key]
        for model in self.models:
            # As far beyond as was tried it is off as it was then; farther the more.
            own2 = model.off_db**2 * (0.6 + 0.75 * beyond**2)
            square += model.weight * ((said[model.key] - mean) ** 2 + own2)
        taken, u = self._taken(at)
        return np.asarray(mean - taken), np.asarray(np.sqrt(square + u**2))


def beyond_of(fit: PathFit | None, profile: Profile, along: bool) -> Beyond | None:
    """None where there are too few places, or too near together, to foretell anything from."""
    if fit is None or len(fit.place_m) < LEAST_PLACES or fit.reach_m[1] < 1.5 * fit.reach_m[0]:
        return None
    return Beyond(fit, profile, along)
