"""Where a model is put together: its hyperparameters, its latents, and what was noted of them."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable, Iterable
from typing import Any, TypeVar

import numpy as np

from tallmast.frozen import Frozen

from ..decibels import Floats
from .arrow import ArrowShape
from .likelihoods import Gaussian, Interval, Likelihood, Poisson
from .linear import Linear, latent
from .newton import Conditional

NONE = -1
"""In place of a hyperparameter: none, its exponential is 1."""


class _Gauss(Frozen):
    source: Hashable
    form: Linear
    value: float
    variance: float
    share: float
    spread: int
    unit: int


class _Between(Frozen):
    source: Hashable
    high: Linear | None
    low: Linear | None
    variance: float
    share: float
    spread: int
    high_by: float
    low_by: float
    unit: int


class _Count(Frozen):
    source: Hashable
    form: Linear
    count: float
    exposure: float
    steepness: int


Noted = TypeVar("Noted", _Gauss, _Between, _Count)


class Notes:
    """A model as it grows. Whatever is asked for twice by one key is the same thing.

    Hyperparameters are scales: their logarithm is normal about that of their median. Latents are normal and independent; mean
    and standard deviation may each be multiplied by a scale. What correlates is written as a linear form of latents that do not.
    """

    def __init__(self) -> None:
        self.hypers: dict[Hashable, int] = {}
        self.latents: dict[Hashable, int] = {}
        self.source: Hashable = None
        """Where what is noted from here on comes from."""
        self._hyper: list[tuple[float, float]] = []
        self._latent: list[tuple[float, float, int, int, int]] = []
        self._blocks: dict[Hashable, int] = {}
        self._gauss: list[_Gauss] = []
        self._between: list[_Between] = []
        self._counts: list[_Count] = []

    def scale(self, key: Hashable, median: float, log_sd: float) -> int:
        """The number of a hyperparameter: a scale with this median, its logarithm with this standard deviation."""
        if key not in self.hypers:
            self.hypers[key] = len(self._hyper)
            self._hyper.append((math.log(median), log_sd))
        return self.hypers[key]

    def latent(
        self,
        key: Hashable,
        mean: float = 0.0,
        sd: float = 1.0,
        *,
        mean_by: int = NONE,
        sd_by: int = NONE,
        block: Hashable | None = None,
    ) -> Linear:
        """A latent as a linear form. `mean_by`, `sd_by`: scales that its mean and its standard deviation are multiplied by; `block`:
        of which it is one, where no note knows latents of two blocks."""
        if key not in self.latents:
            self.latents[key] = len(self._latent)
            of = NONE if block is None else self._blocks.setdefault(block, len(self._blocks))
            self._latent.append((mean, sd, mean_by, sd_by, of))
        return latent(self.latents[key])

    def reads(
        self, form: Linear, value: float, variance: float, *, share: float = 1.0, spread: int = NONE, unit: int = NONE
    ) -> None:
        """unit·value ~ N(form, variance·unit² + share·spread²). With neither scale: variance + share, so give `share` 0 for none."""
        self._gauss.append(_Gauss(self.source, form, value, variance, share, spread, unit))

    def lies_between(
        self,
        low: Linear | None,
        high: Linear | None,
        variance: float = 0.0,
        *,
        share: float = 1.0,
        spread: int = NONE,
        low_by: float = 0.0,
        high_by: float = 0.0,
        unit: int = NONE,
    ) -> None:
        """That a standard normal deviate times √(variance + share·spread²) lies between two forms, each moved by so many units; None:
        no edge there."""
        self._between.append(_Between(self.source, high, low, variance, share, spread, high_by, low_by, unit))

    def counts(self, form: Linear, count: int, exposure: float, steepness: int) -> None:
        """count ~ Poisson(exposure·exp(−steepness·form))."""
        self._counts.append(_Count(self.source, form, float(count), exposure, steepness))

    @property
    def count(self) -> int:
        """How many latents there are."""
        return len(self._latent)

    def prior_scales(self, phi: Floats) -> Floats:
        """The scales at values of the hyperparameters [models, those known then], the last 1; of any that came since, what makes a
        variance by its mean."""
        late = [math.exp(mean + sd**2) for mean, sd in self._hyper[phi.shape[1] :]]
        return np.concatenate([np.exp(phi), np.tile([*late, 1.0], (len(phi), 1))], axis=1)

    def prior(self, latents: Iterable[int], scales: Floats) -> tuple[Floats, Floats]:
        """Mean and standard deviation of some latents before anything was noted. [models, latents]"""
        of = [self._latent[i] for i in latents]
        if not of:
            return np.zeros((len(scales), 0)), np.zeros((len(scales), 0))
        mean, sd, mean_by, sd_by, _ = (np.array(column) for column in zip(*of, strict=True))
        return mean * scales[:, mean_by], sd * scales[:, sd_by]  # NONE is the last

    def row(self, form: Linear) -> Floats:
        return form.row(self.count)

    def conditional(self, heard: Callable[[Any], bool] | None = None) -> Conditional:
        """The model, ready to be asked for its modes; with only the notes whose source is `heard`."""

        def columns(of: Iterable[int]) -> np.ndarray[tuple[int], np.dtype[np.intp]]:
            return np.array([len(self._hyper) if i == NONE else i for i in of], dtype=np.intp)

        def floats(of: Iterable[float]) -> Floats:
            return np.array(list(of), dtype=float)

        def those(of: Iterable[Noted]) -> list[Noted]:
            return [n for n in of if heard is None or heard(n.source)]

        parts: list[tuple[Likelihood, list[Linear]]] = []
        if g := those(self._gauss):
            gauss = Gaussian(
                floats(n.value for n in g),
                floats(n.variance for n in g),
                floats(n.share for n in g),
                columns(n.spread for n in g),
                columns(n.unit for n in g),
            )
            parts.append((gauss, [n.form for n in g]))
        if i := those(self._between):
            between = Interval(
                np.array([n.high is not None for n in i]),
                np.array([n.low is not None for n in i]),
                floats(n.variance for n in i),
                floats(n.share for n in i),
                columns(n.spread for n in i),
                floats(n.high_by for n in i),
                floats(n.low_by for n in i),
                columns(n.unit for n in i),
            )
            parts.append((between, [n.high or Linear() for n in i] + [n.low or Linear() for n in i]))
        if c := those(self._counts):
            counts = Poisson(
                floats(n.count for n in c),
                floats(n.exposure for n in c),
                columns(n.steepness for n in c),
                floats(math.lgamma(n.count + 1.0) for n in c),
            )
            parts.append((counts, [n.form for n in c]))
        mean, sd, mean_by, sd_by, block = zip(*self._latent, strict=True)
        return Conditional(
            floats(mean),
            floats(sd),
            columns(mean_by),
            columns(sd_by),
            ArrowShape(np.array(block, dtype=np.intp)),
            floats(m for m, _ in self._hyper),
            floats(s for _, s in self._hyper),
            parts,
        )
