"""The mode of the latents and the evidence of the notes, for given hyperparameters: many of them at once."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from ..decibels import Floats
from .arrow import Arrow, ArrowShape, distinct
from .likelihoods import LOG_2PI, Interval, Likelihood
from .linear import Linear

MOST_STEPS, MOST_HALVINGS = 60, 30
ENOUGH = 1e-3
"""A Newton step that would raise the logarithm of the density by less is taken without a new matrix: that one is good to a hundredth."""
TANGENT = 1e-4
DRAWS = 128
WIDENED = 1.05
"""Draws that test Laplace's approximation are spread a little wider than it, since what it leaves out lies outside."""
MEMORY = 4_000_000
"""Numbers that the matrices of one batch may have together: 32 MB."""


DENSE, OVERHEAD = 40, 1500
"""A sum as a matrix takes a fortieth of the time for each of its numbers, and none of the overhead, that counting takes for each of
those that are not nought."""
Ints = NDArray[np.intp]


class Modes(Frozen):
    """For each of many values of the hyperparameters."""

    phi: Floats
    """[models, hyperparameters]"""
    x: Floats
    """[models, latents]"""
    matrix: Arrow
    """Minus the second derivatives there."""
    log_evidence: Floats
    """[models], of the notes, by Laplace's approximation."""


class Held(Frozen):
    """Modes given the value of a linear form."""

    x: Floats
    """[models, latents]"""
    log: Floats
    """The logarithm of the density of that value together with the notes, by Laplace's approximation of all other directions.
    [models]"""
    tangent: Floats
    """What the latents move by where the form moves by one. [models, latents]"""


class _Sums:
    """Weighted sums: out[to] = Σ weight·in[of], for many models at once. Few are a matrix; many, of which most would be nought, are
    counted model by model, some twenty times quicker than `add.reduceat` along a long axis."""

    def __init__(self, of: Ints, to: Ints, weight: Floats, ins: int, outs: int) -> None:
        self.of, self.to, self.weight, self.outs = of, to, weight, outs
        self._matrix: Floats | None = None
        if ins * outs <= DENSE * (len(weight) + OVERHEAD):
            self._matrix = np.zeros((ins, outs))
            np.add.at(self._matrix, (of, to), weight)

    def __call__(self, values: Floats) -> Floats:
        """[models, ins] → [models, outs]"""
        if self._matrix is not None:
            return np.asarray(values @ self._matrix)
        weighed = values[:, self.of] * self.weight
        summed = [np.bincount(self.to, weights=w, minlength=self.outs) for w in weighed]
        return np.array(summed, dtype=float).reshape(len(values), self.outs)


class _Rows:
    """Linear forms in a row, and the sums over them."""

    def __init__(self, forms: list[Linear], count: int) -> None:
        form, latent, coefficient, _ = _flat(forms)
        self.constant = np.array([f.constant for f in forms], dtype=float)
        self._forth = _Sums(latent, form, coefficient, count, len(forms))
        self._back = _Sums(form, latent, coefficient, len(forms), count)

    def values(self, x: Floats) -> Floats:
        """[models, forms]"""
        return np.asarray(self._forth(x) + self.constant)

    def back(self, weights: Floats) -> Floats:
        """Σ weight·coefficient by latent. [models, latents]"""
        return self._back(weights)


class _Products:
    """Sums of weighted outer products of forms with themselves, and with each other, packed as `ArrowShape` has it: of what is
    everybody's as a product of matrices, since nearly every form knows it; of what is a block's, entry by entry."""

    def __init__(self, forms: list[Linear], pairs: list[tuple[int, int]], shape: ArrowShape) -> None:
        self.size, self._inner = shape.size, shape.c_from
        self._index = shape.shared
        form, latent, coefficient, first = _flat(forms)
        self._one, self._other = (np.array([p[k] for p in pairs], dtype=np.intp) for k in (0, 1))
        self._shared = np.zeros((len(forms), len(shape.shared)))
        everybody = shape.of_block[latent] < 0
        np.add.at(self._shared, (form[everybody], shape.place[latent[everybody]]), coefficient[everybody])
        every = np.arange(len(forms))
        left = np.concatenate([every, self._one, self._other])
        right = np.concatenate([every, self._other, self._one])
        column = np.concatenate([every, *(2 * [len(forms) + np.arange(len(pairs))])])
        terms = np.diff(first)
        # Each term of the one with each of the other, those first that are some block's.
        count = terms[left] * terms[right]
        of = np.repeat(np.arange(len(left)), count)
        at = np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count)
        a, b = first[left[of]] + at // terms[right[of]], first[right[of]] + at % terms[right[of]]
        kept = ~everybody[a]
        a, b, of = a[kept], b[kept], of[kept]
        position = shape.position(latent[a], latent[b])
        self._weight, self._of, self._count = coefficient[a] * coefficient[b], column[of], len(forms) + len(pairs)
        self._entry = latent[a] * shape.count + latent[b]
        # An entry between a block and what is everybody's stands once, and counts twice.
        self._twice = np.where(everybody[b], 2.0, 1.0)
        # Where anything stands at all: most of a large matrix is nought.
        self.there, to = distinct(position)
        self._sums = _Sums(self._of, to, self._weight, self._count, len(self.there))

    def quadratic(self, inverse: Floats) -> Floats:
        """Of each form with itself, and of each pair twice, Σ coefficient·coefficient·inverse: what a weight's derivative is worth in the
        trace. [latents, latents] → [forms + pairs]"""
        weighed = self._weight * self._twice * inverse.ravel()[self._entry]
        own = np.bincount(self._of, weights=weighed, minlength=self._count)
        carried = self._shared @ inverse[np.ix_(self._index, self._index)]
        each = (carried * self._shared).sum(axis=1)
        both = 2.0 * (carried[self._one] * self._shared[self._other]).sum(axis=1)
        return np.asarray(own + np.concatenate([each, both]), dtype=float)

    def packed(self, weights: Floats) -> Floats:
        """[models, size]"""
        out = np.zeros((len(weights), self.size))
        if len(self.there):
            out[:, self.there] = self._sums(weights)
        forms, shared = len(self._shared), self._shared
        one, other = shared[self._one], shared[self._other]
        for mine, w in zip(out, weights, strict=True):
            inner = (shared * w[:forms, None]).T @ shared
            if len(one):
                across = (one * w[forms:, None]).T @ other
                inner += across + across.T
            mine[: self._inner] = inner.ravel()
        return out


def _flat(forms: list[Linear]) -> tuple[Ints, Ints, Floats, Ints]:
    """All terms of some forms in a row: whose each is, of which latent, its coefficient; and where each form's begin, and the end."""
    sizes = [len(f.terms) for f in forms]
    latent = np.array([i for f in forms for i in f.terms], dtype=np.intp)
    coefficient = np.array([c for f in forms for c in f.terms.values()], dtype=float)
    first = np.concatenate([[0], np.cumsum(sizes, dtype=np.intp)]).astype(np.intp)
    return np.repeat(np.arange(len(forms)), sizes), latent, coefficient, first


@lru_cache(maxsize=8)
def _draws(count: int, latents: int) -> Floats:
    """Standard normal, always the same."""
    return np.random.default_rng(20261).standard_normal((count, latents))


class Conditional:
    """Latents under their prior and all that was noted of them, given the hyperparameters φ, which are logarithms of scales.

    `mean_by`, `sd_by`: which scale multiplies the prior's mean and standard deviation; the last is the constant 1.
    """

    def __init__(
        self,
        mean: Floats,
        sd: Floats,
        mean_by: NDArray[np.intp],
        sd_by: NDArray[np.intp],
        shape: ArrowShape,
        hyper_mean: Floats,
        hyper_sd: Floats,
        parts: list[tuple[Likelihood, list[Linear]]],
    ) -> None:
        self.mean, self.sd, self.mean_by, self.sd_by, self.shape = mean, sd, mean_by, sd_by, shape
        self.hyper_mean, self.hyper_sd = hyper_mean, hyper_sd
        self.count = len(mean)
        forms: list[Linear] = []
        pairs: list[tuple[int, int]] = []
        self.parts: list[tuple[Likelihood, slice]] = []
        for likelihood, about in parts:
            start = len(forms)
            forms += about
            self.parts.append((likelihood, slice(start, len(forms))))
            if isinstance(likelihood, Interval):
                half = len(about) // 2
                pairs += [(start + i, start + half + i) for i in range(half)]
        self._rows = _Rows(forms, self.count)
        self._products = _Products(forms, pairs, shape)

    @property
    def gaussian(self) -> bool:
        """Whether every note is normal about a linear form: then nothing is approximate for given hyperparameters."""
        return not any(not hasattr(likelihood, "value") for likelihood, _ in self.parts)

    def scales(self, phi: Floats) -> Floats:
        """[models, hyperparameters + 1], the last 1."""
        return np.concatenate([np.exp(phi), np.ones((len(phi), 1))], axis=1)

    def prior(self, scales: Floats) -> tuple[Floats, Floats]:
        """Mean and standard deviation of the latents, [models, latents]."""
        return self.mean * scales[:, self.mean_by], self.sd * scales[:, self.sd_by]

    def log_joint(self, x: Floats, scales: Floats) -> Floats:
        """ln p(notes, x | φ), [models]; −∞ where it is infeasible."""
        mean, sd = self.prior(scales)
        z = (x - mean) / sd
        out = -0.5 * (z * z).sum(axis=1) - np.log(sd).sum(axis=1) - 0.5 * self.count * LOG_2PI
        eta = self._rows.values(x)
        for likelihood, where in self.parts:
            out = out + likelihood.log(eta[:, where], scales)
        return np.asarray(out)

    def evidence_slope(self, modes: Modes) -> tuple[Floats, Floats]:
        """Of one mode: the gradient of the log evidence by φ [hyperparameters], and what the latents' mode moves by where each of φ does
        [hyperparameters, latents].

        By the envelope theorem ∂f/∂φ at fixed x, less half of tr(H⁻¹ dH/dφ); the mode moves by H⁻¹ ∂g/∂φ, and the weights in H along
        with it. Derivatives of densities and weights by φ are central differences of their closed forms.
        """
        x, count = modes.x, modes.phi.shape[1]
        inverse = modes.matrix.solve(np.eye(self.count)[None])[0]
        sides = np.concatenate([np.eye(count), -np.eye(count)]) * TANGENT
        scales = self.scales(modes.phi + sides)

        def across(values: Floats) -> Floats:
            return np.asarray((values[:count] - values[count:]) / (2.0 * TANGENT))

        fixed = np.repeat(x, 2 * count, axis=0)
        direct = across(self.log_joint(fixed, scales))
        moves = across(self.derivatives_by_form(fixed, scales)[0]) @ inverse
        moved = x + np.concatenate([moves, -moves]) * TANGENT
        weights = across(self.derivatives_by_form(moved, scales)[1])
        _, sd = self.prior(scales)
        trace = weights @ self._products.quadratic(inverse) + across(sd**-2.0) @ np.diagonal(inverse)
        return np.asarray(direct - 0.5 * trace), moves

    def derivatives_by_form(self, x: Floats, scales: Floats) -> tuple[Floats, Floats]:
        """The gradient of `log_joint` by x, and the weights of the forms and pairs in minus its second derivatives."""
        mean, sd = self.prior(scales)
        eta = self._rows.values(x)
        by_form, curvature, cross = np.zeros_like(eta), np.zeros_like(eta), []
        for likelihood, where in self.parts:
            slopes = likelihood.slopes(eta[:, where], scales)
            by_form[:, where], curvature[:, where] = slopes.gradient, slopes.curvature
            if slopes.cross is not None:
                cross.append(slopes.cross)
        return (mean - x) / sd**2 + self._rows.back(by_form), np.concatenate([curvature, *cross], axis=1)

    def derivatives(self, x: Floats, scales: Floats) -> tuple[Floats, Floats, Floats]:
        """The gradient of `log_joint` by x; minus its second derivatives, packed; and the prior's share of their diagonal."""
        gradient, weights = self.derivatives_by_form(x, scales)
        return gradient, self._products.packed(weights), self.prior(scales)[1] ** -2.0

    def matrix(self, x: Floats, scales: Floats) -> Arrow:
        """Minus the second derivatives, factored."""
        _, packed, diagonal = self.derivatives(x, scales)
        return Arrow(self.shape, packed, diagonal)

    def start(self, phi: Floats) -> Floats:
        """Where Newton may always start: the prior's mean."""
        return self.prior(self.scales(phi))[0]

    def batch(self) -> int:
        """How many models are worked out at once."""
        return max(1, MEMORY // max(self.shape.size, 1))

    def modes(self, phi: Floats, start: Floats, tolerance: float = ENOUGH) -> Modes:
        """The modes for many φ, from starting points of each. Shapes [models, hyperparameters], [models, latents]."""
        scales = self.scales(phi)
        x, value, matrix = self._climb(start, scales, None, tolerance)
        log = value + 0.5 * self.count * LOG_2PI - 0.5 * matrix.log_determinant
        return Modes(phi, x, matrix, log)

    def held(self, phi: Floats, start: Floats, direction: Floats, tolerance: float = ENOUGH) -> Held:
        """The modes given direction·x as it is at the start, which must be feasible."""
        scales = self.scales(phi)
        x, value, matrix = self._climb(start, scales, direction, tolerance)
        carried = matrix.solve(direction[:, :, None])[:, :, 0]
        along = (direction * carried).sum(axis=1)
        log = value + 0.5 * (self.count - 1) * LOG_2PI
        log = log - 0.5 * matrix.log_determinant - 0.5 * np.log(along)
        return Held(x, np.asarray(log), carried / along[:, None])

    def beyond(
        self, x: Floats, matrix: Arrow, scales: Floats, direction: Floats | None = None
    ) -> tuple[Floats, Floats]:
        """What Laplace's approximation leaves out of the log evidence at each mode, or at each mode given a linear form: by importance
        sampling, always with the same draws in pairs, and of how many draws of equal weight that is worth. [models]"""
        count, latents = x.shape
        half = _draws(DRAWS // 2, latents)
        normal = np.concatenate([half, -half])
        free = matrix.deviates(np.repeat(normal.T[None], count, axis=0))
        square = np.repeat((normal**2).sum(axis=1)[None], count, axis=0)
        dimensions = latents
        if direction is not None:
            carried = matrix.solve(direction[:, :, None])[:, :, 0]
            along = (direction * carried).sum(axis=1)
            off = np.einsum("nl,nld->nd", direction, free)
            free = free - carried[:, :, None] * (off / along[:, None])[:, None, :]
            square = square - off**2 / along[:, None]
            dimensions -= 1
        tried = x[:, None] + WIDENED * np.swapaxes(free, 1, 2)
        log = self.log_joint(tried.reshape(-1, latents), np.repeat(scales, DRAWS, axis=0)).reshape(count, DRAWS)
        log = log - self.log_joint(x, scales)[:, None] + 0.5 * square + dimensions * math.log(WIDENED)
        most = log.max(axis=1)
        weight = np.exp(log - most[:, None])
        return most + np.log(weight.mean(axis=1)), weight.sum(axis=1) ** 2 / (weight**2).sum(axis=1)

    def feasible(self, x: Floats, phi: Floats) -> NDArray[np.bool_]:
        """Whether the notes are possible at all there. [models]"""
        return np.asarray(np.isfinite(self.log_joint(x, self.scales(phi))))

    def _climb(
        self, start: Floats, scales: Floats, direction: Floats | None, tolerance: float
    ) -> tuple[Floats, Floats, Arrow]:
        """Newton's method with halving; along no direction's own change, where one is given."""
        x = start.copy()
        value = self.log_joint(x, scales)
        if direction is None and np.isneginf(value).any():
            lost = np.isneginf(value)
            x[lost] = self.prior(scales)[0][lost]
            value = self.log_joint(x, scales)
        for _ in range(MOST_STEPS):
            gradient, packed, diagonal = self.derivatives(x, scales)
            matrix = Arrow(self.shape, packed, diagonal)
            step = matrix.solve(gradient[:, :, None])[:, :, 0]
            if direction is not None:
                carried = matrix.solve(direction[:, :, None])[:, :, 0]
                along = (direction * carried).sum(axis=1)
                step = step - carried * ((direction * step).sum(axis=1) / along)[:, None]
            gain = (gradient * step).sum(axis=1)
            moving = gain > tolerance
            if not moving.any():
                tried = x + step
                reached = self.log_joint(tried, scales)
                better = reached >= value
                return np.where(better[:, None], tried, x), np.where(better, reached, value), matrix
            size = np.where(moving, 1.0, 0.0)
            for _ in range(MOST_HALVINGS):
                tried = x + size[:, None] * step
                reached = self.log_joint(tried, scales)
                short = moving & ~(reached >= value + 1e-4 * size * gain)
                if not short.any():
                    break
                size = np.where(short, 0.5 * size, size)
            else:
                size = np.where(short, 0.0, size)
                tried = x + size[:, None] * step
                reached = self.log_joint(tried, scales)
                if not size.any():
                    break
            x, value = tried, reached
        return x, value, matrix
