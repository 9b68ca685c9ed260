"""A linear form of the latents: what a note is about."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np

from tallmast.frozen import Frozen, field

from ..decibels import Floats


class Linear(Frozen):
    """Σ coefficient·latent + constant; the latents by their numbers."""

    terms: Mapping[int, float] = field(default_factory=dict)
    constant: float = 0.0

    def __add__(self, other: Linear | float) -> Linear:
        if not isinstance(other, Linear):
            return Linear(self.terms, self.constant + other)
        both = dict(self.terms)
        for latent, coefficient in other.terms.items():
            both[latent] = both.get(latent, 0.0) + coefficient
        return Linear(both, self.constant + other.constant)

    def __neg__(self) -> Linear:
        return self.times(-1.0)

    def __sub__(self, other: Linear | float) -> Linear:
        return self + (-other)

    def times(self, factor: float) -> Linear:
        return Linear({latent: factor * c for latent, c in self.terms.items()}, factor * self.constant)

    def row(self, count: int) -> Floats:
        """The coefficients alone. Shape [count]."""
        out = np.zeros(count)
        for latent, coefficient in self.terms.items():
            out[latent] += coefficient
        return out


def latent(number: int, coefficient: float = 1.0) -> Linear:
    """One latent alone."""
    return Linear({number: coefficient})


def total(parts: Iterable[Linear]) -> Linear:
    """Their sum."""
    terms: dict[int, float] = {}
    constant = 0.0
    for part in parts:
        constant += part.constant
        for latent, coefficient in part.terms.items():
            terms[latent] = terms.get(latent, 0.0) + coefficient
    return Linear(terms, constant)
