"""Symmetric positive definite matrices in the shape of an arrow, many at once.

Some latents are everybody's; others belong to one block, and no note knows two blocks. Their matrix is

    ⎡ G  Cᵀ ⎤
    ⎣ C  D  ⎦   with D block diagonal,

so that the blocks go out by the Schur complement S = G − CᵀD⁻¹C, block by block (Golub and Van Loan, Matrix Computations,
§3.4): places by the hundred cost what their own few latents cost. Blocks are padded to the width of the widest.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..decibels import Floats

Ints = NDArray[np.intp]


def distinct(values: Ints) -> tuple[Ints, Ints]:
    """The values there are, in order, and which of them each is: as `np.unique` has it, which loads masked arrays for that."""
    order = np.argsort(values, kind="stable")
    new = np.concatenate([[True], np.diff(values[order]) != 0])[: len(values)]
    which = np.empty(len(values), dtype=np.intp)
    which[order] = np.cumsum(new) - 1
    return values[order][new], which


class ArrowShape:
    """Where each entry of such a matrix lies, in one row of numbers: G, then C, then D, each row by row."""

    def __init__(self, block: Ints) -> None:
        """`block`: of each latent its block's number, −1 where it is everybody's. Shape [latents]."""
        self.count = len(block)
        self.shared = np.flatnonzero(block < 0)
        self.own = np.flatnonzero(block >= 0)
        _, at = distinct(block[self.own])
        self.blocks = int(at.max(initial=-1)) + 1
        sizes = np.bincount(at, minlength=self.blocks) if self.blocks else np.zeros(0, dtype=np.intp)
        self.width = int(sizes.max(initial=0))
        order = np.argsort(at, kind="stable")
        slot = np.empty(len(at), dtype=np.intp)
        slot[order] = np.arange(len(at)) - np.repeat(np.cumsum(sizes) - sizes, sizes)
        self.line = at * self.width + slot
        """Of each latent of a block, its line in D. Shape [own]."""
        self.place = np.empty(self.count, dtype=np.intp)
        """Of each latent, its number among the shared, or its line in D."""
        self.place[self.shared], self.place[self.own] = np.arange(len(self.shared)), self.line
        self.of_block = np.asarray(block)
        free = np.ones(self.blocks * self.width, dtype=bool)
        free[self.line] = False
        self.padded = np.flatnonzero(free)
        g, b = len(self.shared), self.width
        self.c_from = g * g
        self.d_from = self.c_from + self.blocks * b * g
        self.size = self.d_from + self.blocks * b * b

    def position(self, i: Ints, j: Ints) -> Ints:
        """Where entries (i, j) lie; −1 for those that stand as (j, i) already. Raises ValueError where two blocks meet."""
        of_i, of_j = self.of_block[i], self.of_block[j]
        if np.any((of_i >= 0) & (of_j >= 0) & (of_i != of_j)):
            raise ValueError("one note knows the latents of two blocks")
        at_i, at_j, g, b = self.place[i], self.place[j], len(self.shared), self.width
        lower = np.where(of_j < 0, self.c_from + at_i * g + at_j, self.d_from + at_i * b + at_j % max(b, 1))
        return np.where(of_i < 0, np.where(of_j < 0, at_i * g + at_j, -1), lower)


class Arrow:
    """Such matrices, factored. `packed`: their entries by `ArrowShape.position`; `diagonal` is added. Shapes [matrices, size] and
    [matrices, latents]."""

    def __init__(self, shape: ArrowShape, packed: Floats, diagonal: Floats) -> None:
        self.shape = shape
        many, g, k, b = len(packed), len(shape.shared), shape.blocks, shape.width
        whole = packed[:, : shape.c_from].reshape(many, g, g).copy()
        whole[:, np.arange(g), np.arange(g)] += diagonal[:, shape.shared]
        self._blocks = np.zeros((many, 0, 0, 0))
        if k:
            coupling = packed[:, shape.c_from : shape.d_from].reshape(many, k, b, g)
            blocks = packed[:, shape.d_from :].reshape(many, k, b, b).copy()
            lines = np.zeros((many, k * b))
            lines[:, shape.line] = diagonal[:, shape.own]
            lines[:, shape.padded] = 1.0
            blocks[:, :, np.arange(b), np.arange(b)] += lines.reshape(many, k, b)
            self._blocks = blocks
            self._inverse = np.asarray(np.linalg.inv(blocks), dtype=float)
            self._carried = (self._inverse @ coupling).reshape(many, k * b, g)
            whole -= coupling.reshape(many, k * b, g).transpose(0, 2, 1) @ self._carried
        self._schur = whole

    @staticmethod
    def joined(parts: Sequence[Arrow]) -> Arrow:
        """Batches of one shape as one."""
        out = Arrow.__new__(Arrow)
        out.shape = parts[0].shape
        out._blocks = np.concatenate([p._blocks for p in parts])
        out._schur = np.concatenate([p._schur for p in parts])
        if out.shape.blocks:
            out._inverse = np.concatenate([p._inverse for p in parts])
            out._carried = np.concatenate([p._carried for p in parts])
        return out

    @cached_property
    def log_determinant(self) -> Floats:
        """Of each. Raises LinAlgError where one is not positive definite. [matrices]"""
        return np.asarray(_log_determinant(self._schur) + _log_determinant(self._blocks).sum(axis=1))

    @cached_property
    def _schur_inverse(self) -> Floats:
        return np.asarray(np.linalg.inv(self._schur), dtype=float)

    def solve(self, right: Floats, only: Sequence[int] | Ints | None = None) -> Floats:
        """The solutions for right-hand sides, `only` of some of the matrices. Shapes [matrices, latents, sides]."""
        take = slice(None) if only is None else np.asarray(only)
        shape = self.shape
        many, sides = len(right), right.shape[2]
        shared = right[:, shape.shared]
        out = np.empty_like(right)
        if not shape.blocks:
            out[:, shape.shared] = self._schur_inverse[take] @ shared
            return out
        k, b = shape.blocks, shape.width
        own = np.zeros((many, k * b, sides))
        own[:, shape.line] = right[:, shape.own]
        carried = self._carried[take]
        reduced = shared - carried.transpose(0, 2, 1) @ own
        solved = self._schur_inverse[take] @ reduced
        inner = (self._inverse[take] @ own.reshape(many, k, b, sides)).reshape(many, k * b, sides)
        out[:, shape.shared] = solved
        out[:, shape.own] = (inner - carried @ solved)[:, shape.line]
        return out

    def deviates(self, normal: Floats) -> Floats:
        """Normal deviates with the inverse of each matrix for their covariance, made of independent ones. Shapes [matrices, latents,
        draws]."""
        shape = self.shape
        out = np.empty_like(normal)
        shared = np.linalg.cholesky(_even(self._schur_inverse)) @ normal[:, shape.shared]
        out[:, shape.shared] = shared
        if shape.blocks:
            many, draws, k, b = len(normal), normal.shape[2], shape.blocks, shape.width
            own = np.zeros((many, k * b, draws))
            own[:, shape.line] = normal[:, shape.own]
            inner = np.linalg.cholesky(_even(self._inverse)) @ own.reshape(many, k, b, draws)
            out[:, shape.own] = (inner.reshape(many, k * b, draws) - self._carried @ shared)[:, shape.line]
        return out


def _even(matrices: Floats) -> Floats:
    """Symmetric to the last digit."""
    return np.asarray(0.5 * (matrices + np.swapaxes(matrices, -1, -2)))


def _log_determinant(matrices: Floats) -> Floats:
    """Of positive definite ones, of the last two axes."""
    if matrices.shape[-1] == 0:
        return np.zeros(matrices.shape[:-2])
    diagonal = np.diagonal(np.linalg.cholesky(matrices), axis1=-2, axis2=-1)
    return np.asarray(2.0 * np.log(diagonal).sum(axis=-1))
