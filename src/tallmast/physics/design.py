"""What a set of runs can tell apart: the design of factors and levels, by its rank.

A run is a row of levels, one for each factor; its response is a constant plus one effect for each level, plus its own rest.
Differences of levels that follow from the runs are estimable: they lie in the row space of the design matrix (Searle, Linear
Models, §5.4; Montgomery, Design and Analysis of Experiments, ch. 4 for Latin squares and blocks). Two things that always
changed together are aliased, and only their sum is.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from itertools import combinations, pairwise

import numpy as np

from tallmast.frozen import Frozen

from .decibels import Floats

SMALL = 1e-8
MOST_PAIRED, MOST_STEPS = 4, 8
"""Levels of a factor up to which every two are compared; and up to which each is with the one before it."""


class Change(Frozen, eq=True):
    """A factor that went from one level to another."""

    factor: str
    to: str
    since: str
    """The level that it is held against."""


def pairs_of(levels: Sequence[str], every: bool = False) -> list[tuple[str, str]]:
    """(since, to): which levels of a factor, in their order, are compared: every two of a few, each with the one before it of
    some (a ladder), none of many. `every` two, however many there are."""
    if every or len(levels) <= MOST_PAIRED:
        return list(combinations(levels, 2))
    return list(pairwise(levels)) if len(levels) <= MOST_STEPS else []


class Design:
    """Runs by the levels of their factors.

    `levels` [run][factor], in the order of `factors`; a factor with one level says nothing and costs nothing. `trend` [run]:
    a slope that is told with the effects, such as drift over the order.
    """

    def __init__(
        self, factors: Sequence[str], levels: Sequence[Sequence[str]], trend: Sequence[float] | None = None
    ) -> None:
        self.factors = tuple(factors)
        self.levels = tuple(tuple(row) for row in levels)
        self.trend = None if trend is None else np.asarray(trend, dtype=float)
        self._column: dict[tuple[str, str], int] = {}
        for i, factor in enumerate(self.factors):
            there = dict.fromkeys(row[i] for row in self.levels)
            if len(there) > 1:
                for level in there:
                    self._column[factor, level] = len(self._column)

    def levels_of(self, factor: str) -> list[str]:
        """The levels of a factor, in the order of the runs."""
        i = self.factors.index(factor)
        return list(dict.fromkeys(row[i] for row in self.levels))

    @cached_property
    def matrix(self) -> Floats:
        """A constant, an indicator of every level, and the trend. [run, columns]; not of full rank, nor need it be."""
        x = np.zeros((len(self.levels), 1 + len(self._column)))
        x[:, 0] = 1.0
        for r, row in enumerate(self.levels):
            for factor, level in zip(self.factors, row, strict=True):
                if (factor, level) in self._column:
                    x[r, 1 + self._column[factor, level]] = 1.0
        return x if self.trend is None else np.column_stack([x, self.trend])

    @cached_property
    def _inverse(self) -> Floats:
        return np.asarray(np.linalg.pinv(self.matrix))

    @cached_property
    def rank(self) -> int:
        """How many effects the runs tell, the constant among them."""
        return int(np.linalg.matrix_rank(self.matrix))

    def _vector(self, changes: Sequence[Change]) -> Floats:
        out = np.zeros(self.matrix.shape[1])
        for change in changes:
            for level, sign in ((change.to, 1.0), (change.since, -1.0)):
                if (change.factor, level) in self._column:
                    out[1 + self._column[change.factor, level]] += sign
        return out

    def weights(self, changes: Sequence[Change]) -> Floats | None:
        """What each run's response [run] is multiplied with to give the sum of some changes, by least squares; None where the
        runs don't tell it."""
        vector = self._vector(changes)
        if not vector.any():
            return None
        weights = self._inverse.T @ vector
        told = weights @ self.matrix
        if float(np.abs(told - vector).max()) > SMALL:
            return None
        return np.where(np.abs(weights) < SMALL, 0.0, weights)

    def _between(self, change: Change) -> list[tuple[Change, ...]]:
        """What else differed between each run at the one level and each at the other, the fewest first: every such pair of
        runs tells the sum of its differences."""
        i = self.factors.index(change.factor)
        to, since = ({row for row in self.levels if row[i] == level} for level in (change.to, change.since))
        out = {
            tuple(Change(f, a, b) for f, a, b in zip(self.factors, x, y, strict=True) if a != b and f != change.factor)
            for x in to
            for y in since
        }
        return sorted(out, key=lambda others: (len(others), [(c.factor, c.to, c.since) for c in others]))

    @cached_property
    def _untold(self) -> Floats:
        """Projects a sum of effects onto what the runs don't tell of it. [columns, columns]"""
        return np.asarray(np.eye(self.matrix.shape[1]) - self._inverse @ self.matrix)

    def told_with(self, change: Change) -> tuple[Change, ...] | None:
        """The fewest further changes that a change can only be told together with: none where it stands alone, None where no
        runs tell it at all."""
        between = self._between(change)
        if not between:
            return None
        left = self._vector([change]) @ self._untold
        if float(np.abs(left).max()) < SMALL:
            return ()
        # One or two may do where the rest is told by other runs; beyond that the nearest pair of runs says what it says.
        singles = list(dict.fromkeys(other for others in between for other in others))
        gone = np.array([self._vector([other]) @ self._untold for other in singles]).reshape(len(singles), -1)
        for k in range(len(singles)):
            if float(np.abs(left + gone[k]).max()) < SMALL:
                return (singles[k],)
        for k in range(len(singles)):
            both = np.flatnonzero(np.abs(left + gone[k] + gone[k + 1 :]).max(axis=1) < SMALL) + k + 1
            for other in both.tolist():
                if singles[other].factor != singles[k].factor:
                    return singles[k], singles[other]
        return between[0]

    def parted_by(self, change: Change, together: Sequence[Change]) -> tuple[str, ...] | None:
        """Levels of the one further run that would tell a change from what it was made with: the new level, with all else as
        the runs had it that it is held against. None where no one run would."""
        i = self.factors.index(change.factor)
        for row in self.levels:
            if row[i] != change.since:
                continue
            wanted = list(row)
            wanted[i] = change.to
            for other in together:
                wanted[self.factors.index(other.factor)] = other.since
            if Design(self.factors, [*self.levels, wanted]).weights([change]) is not None:
                return tuple(wanted)
        return None

    def of(self, rows: Sequence[int]) -> Design:
        """Of some of the runs."""
        trend = None if self.trend is None else [float(self.trend[r]) for r in rows]
        return Design(self.factors, [self.levels[r] for r in rows], trend)

    def residuals(self, response: Floats) -> Floats:
        """What the effects leave over of the runs' responses. [run] or [run, …]"""
        return np.asarray(response - self.matrix @ (self._inverse @ response))

    def slope(self, response: Floats) -> tuple[float, float, int] | None:
        """The trend of the runs' responses [run]: (slope, its standard uncertainty, degrees of freedom), by least squares.
        None where there is no trend, or nothing left over to tell it from."""
        degrees = len(self.levels) - self.rank
        if self.trend is None or degrees < 1:
            return None
        weights = self._inverse[-1]
        unit = np.zeros(self.matrix.shape[1])
        unit[-1] = 1.0
        if float(np.abs(weights @ self.matrix - unit).max()) > SMALL:
            return None
        left = self.residuals(response)
        scatter = float(np.sqrt(np.sum(left**2) / degrees))
        return float(weights @ response), scatter * float(np.sqrt(np.sum(weights**2))), degrees


def order_of(count: int) -> Floats:
    """Places in the order of a session, from −½ to ½, evenly. [count]"""
    return np.linspace(-0.5, 0.5, count) if count > 1 else np.zeros(count)
