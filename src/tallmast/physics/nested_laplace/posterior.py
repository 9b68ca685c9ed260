"""What the notes say of any linear form of the latents."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from ..decibels import Floats
from .hyper import POINTS, Near, Points, explore
from .linear import Linear
from .marginal import FINE, Marginal
from .newton import Conditional, Ints
from .notes import Notes

SCANNED = 10
"""Points of the hyperparameters, the heaviest, at which a marginal is scanned; lighter ones borrow the shape that these have. With 4 the
dozen days sampled beside it come out as well, and one-sided margins on foreign worlds hold 83 % for 90."""
OUTWARD = (0.8, 1.6, 2.4, 3.3, 4.4, 5.8, 7.5)
"""Where it is scanned, in standard deviations of the Gaussian approximation to either side of its mean."""
NODES = np.array([*(-z for z in reversed(OUTWARD)), 0.0, *OUTWARD])
MOST_PIECES = 16
"""A step from node to node is cut into so many at most, where it would lead through what is impossible."""
FOLLOWED = 8.0
"""Nodes whose density is smaller than the greatest by e to more than this are not tested by draws."""
SMOOTHED = 0.9
"""Width, in standard deviations, over which what the draws say is smoothed."""
LEAST_EXCESS = -20.0
"""A logarithm so far below the bell’s is as good as none."""
RIDGE = 1.0
"""Of the plane by which light points borrow, in units of one scanned point at a standard deviation of each hyperparameter’s prior."""
MANY, VERY_MANY = 80, 200
FEW, FEWER = POINTS // 2, POINTS // 4
"""Points that do from so many latents on: what so many notes leave open of the hyperparameters is little."""
LEAST_MORE = 1e-3
"""What latents without notes add to a standard deviation counts from this share of it on."""
SMALL, FEWEST = 30, 3
"""Latents up to which all the points are scanned, and how many are at least: of many latents each is nearer to a bell."""
MOST_SCANNED = 200
"""Latents up to which marginals are scanned: of more, what is asked is the mean of so much that it is a bell."""
INNER, BELL = 2.0, 0.1
"""A marginal is a bell where its logarithm is that of one to a tenth, out to two standard deviations."""
NEGLIGIBLE = 9.0
"""A density smaller than the greatest by e to this is not followed farther."""


class Posterior(Frozen):
    """A model that has heard its notes."""

    model: Conditional
    points: Points
    near: Near
    """Where the next posterior, one note on, may start."""
    notes: Notes
    latents: int
    """How many there were when it was solved; of any that came since nothing was noted: they have their prior."""

    @property
    def log_evidence(self) -> float:
        return self.points.log_evidence

    def marginals(self, forms: Sequence[Linear], scanned: bool = True) -> list[Marginal]:
        """The distributions of linear forms, each on its own. Scanned: not taken from the Gaussian approximation at the mode, which
        hides signs that are surely known wherever notes bind on one side only; where all notes are Gaussian nothing needs to be."""
        rows = np.array([f.row(self.notes.count) for f in forms]).reshape(len(forms), self.notes.count)
        more_mean, more_sd = self._unheard(rows[:, self.latents :])
        rows = rows[:, : self.latents]
        x, weight = self.points.modes.x, self.points.weight
        carried = self.points.modes.matrix.solve(np.repeat(rows.T[None], len(x), axis=0))
        mean = x @ rows.T
        sd = np.sqrt(np.maximum(np.einsum("ql,plq->pq", rows, carried), 1e-300))
        fine = np.linspace(-OUTWARD[-1], OUTWARD[-1], FINE)
        told = [i for i, row in enumerate(rows) if row.any()]
        excess: dict[int, Floats] = {}
        if scanned and told and not self.model.gaussian and self.latents <= MOST_SCANNED:
            found = self._scan(rows[told], sd[:, told])
            excess = {told[i]: of for i, of in found.items()}
        out = []
        for i, form in enumerate(forms):
            log = np.repeat(-0.5 * fine[None] ** 2, len(x), axis=0)
            if i in excess:
                log = log + spline(NODES, excess[i], fine)
            # The area under a point's scan is its evidence, better than Laplace's: it weighs anew.
            shapes = np.exp(log - log.max())
            areas = np.trapezoid(shapes, fine, axis=1)
            share = weight * areas / (weight * areas).sum()
            told_of = _mixture(fine, shapes / areas[:, None], mean[:, i] + more_mean[:, i], sd[:, i], share)
            more = float(np.sqrt(share @ more_sd[:, i] ** 2))
            out.append((told_of.blurred(more) if more > LEAST_MORE * told_of.sd else told_of).moved(form.constant))
        return out

    def _unheard(self, rows: Floats) -> tuple[Floats, Floats]:
        """Mean and standard deviation of forms by the latents that no note was about. [forms, those latents] → [points, forms]"""
        scales = self.notes.prior_scales(self.points.modes.phi)
        mean, sd = self.notes.prior(range(self.latents, self.notes.count), scales)
        return mean @ rows.T, np.sqrt((sd**2) @ (rows.T**2))

    def marginal(self, form: Linear, scanned: bool = True) -> Marginal:
        return self.marginals([form], scanned)[0]

    def _scan(self, rows: Floats, sd: Floats) -> dict[int, Floats]:
        """By form, how much the log density at the nodes exceeds that of the Gaussian approximation: [points, nodes]. Scanned at the
        heaviest point; where it is no bell there, at some more, and at all others as it changes with the hyperparameters among those."""
        points, weight = self.points.modes, self.points.weight
        many = int(np.clip(SCANNED * SMALL / self.latents, FEWEST, SCANNED))
        heavy = np.argsort(-weight, kind="stable")[:many]
        forms = np.arange(len(rows))
        first, path = self._excess(rows, sd, forms, np.repeat(heavy[0], len(rows)))
        beyond = np.zeros_like(first)
        inner = np.abs(NODES) < INNER
        for i in forms:
            beyond[i] = self._beyond_laplace(rows[i], path[i], points.phi[heavy[0]], first[i] - 0.5 * NODES**2)
        lopsided = forms[
            np.abs(first + beyond - (first + beyond).mean(axis=1, keepdims=True))[:, inner].max(axis=1) > BELL
        ]
        rest = np.tile(heavy[1:], len(lopsided))
        more, _ = self._excess(rows, sd, np.repeat(lopsided, many - 1), rest)
        phi = (points.phi - points.phi[heavy].mean(axis=0)) / self.model.hyper_sd
        out = {int(i): np.repeat((first + beyond)[i][None], len(weight), axis=0) for i in forms}
        for k, i in enumerate(lopsided.tolist()):
            mine = np.concatenate([first[i][None], more[k * (many - 1) : (k + 1) * (many - 1)]]) + beyond[i]
            mine = np.maximum(mine, LEAST_EXCESS)
            # Never more, nor less, than one of those scanned: a plane goes anywhere.
            out[i] = np.clip(_plane(phi[heavy], mine, weight[heavy], phi), mine.min(axis=0), mine.max(axis=0))
            out[i][heavy] = mine
        return out

    def _excess(self, rows: Floats, sd: Floats, which: Ints, at: Ints) -> tuple[Floats, Floats]:
        """Of some forms at some points: scans, less the Gaussian approximation; and the conditional modes. [scans, nodes], [scans, nodes,
        latents]"""
        points, size = self.points.modes, max(1, self.model.batch() // 2)
        logs, paths = np.empty((len(which), len(NODES))), np.empty((len(which), len(NODES), self.latents))
        for i in range(0, len(which), size):
            f, p = which[i : i + size], at[i : i + size]
            logs[i : i + size], paths[i : i + size] = self._outward(
                rows[f], points.x[p], sd[p, f], points.phi[p], points.log_evidence[p]
            )
        return logs + 0.5 * np.log(2.0 * np.pi) + 0.5 * NODES**2, paths

    def _beyond_laplace(self, row: Floats, x: Floats, phi: Floats, logs: Floats) -> Floats:
        """What Laplace's approximation of all other directions leaves out of the log density at the nodes: by importance sampling about
        each conditional mode, always with the same draws, smoothed over the nodes. Shapes [nodes, latents], [nodes]."""
        alive = logs > logs.max() - FOLLOWED
        x = x[alive]
        scales = self.model.scales(np.repeat(phi[None], len(x), axis=0))
        matrix = self.model.matrix(x, scales)
        found, worth = self.model.beyond(x, matrix, scales, np.repeat(row[None], len(x), axis=0))
        found = found - np.interp(
            0.0, NODES[alive], found
        )  # how much lies beyond in all is counted in the point's weight
        near = np.exp(-0.5 * ((NODES[:, None] - NODES[alive][None]) / SMOOTHED) ** 2) * worth[None]
        return np.asarray((near @ found) / np.maximum(near.sum(axis=1), 1e-300))

    def _outward(self, rows: Floats, x: Floats, sd: Floats, phi: Floats, evidence: Floats) -> tuple[Floats, Floats]:
        """The log density at the nodes, less that of the Gaussian approximation's peak, and the conditional modes there, walked outward
        from the middle to both sides at once. Shapes [scans, nodes], [scans, nodes, latents]."""
        count = len(rows)
        middle = self.model.held(phi, x, rows)
        peak = evidence - 0.5 * np.log(2.0 * np.pi) - np.log(sd)
        out = np.full((2, len(OUTWARD), count), -np.inf)
        at, tangent = np.tile(middle.x, (2, 1)), np.tile(middle.tangent, (2, 1))
        phis, along = np.tile(phi, (2, 1)), np.tile(rows, (2, 1))
        way = np.repeat([1.0, -1.0], count) * np.tile(sd, 2)
        lost = np.zeros(2 * count, dtype=bool)
        paths = np.empty((2, len(OUTWARD), count, x.shape[1]))
        best, reached = middle.log, 0.0
        for k, far in enumerate(OUTWARD):
            at, tangent, log = self._step(at, tangent, phis, along, way * (far - reached), lost)
            reached = far
            out[:, k], paths[:, k:] = log.reshape(2, count), at.reshape(2, 1, count, -1)
            best = np.maximum(best, out[:, k].max(axis=0))
            if k + 1 < len(OUTWARD) and (out[:, k] < best - NEGLIGIBLE).all():
                break
        for k in range(1, len(OUTWARD)):  # what was not followed falls on as it fell
            out[:, k] = np.where(np.isneginf(out[:, k]), out[:, k - 1] - NEGLIGIBLE, out[:, k])
        logs = np.concatenate([out[1][::-1], middle.log[None], out[0]]).T - peak[:, None]
        return logs, np.swapaxes(np.concatenate([paths[1][::-1], middle.x[None], paths[0]]), 0, 1)

    def _step(
        self, at: Floats, tangent: Floats, phi: Floats, rows: Floats, by: Floats, lost: NDArray[np.bool_]
    ) -> tuple[Floats, Floats, Floats]:
        """Forms moved by so much, along the path of their conditional modes; where that would lead out of what is possible, in
        smaller steps. What can't be reached is `lost`, its density nought."""
        pieces = 1
        while pieces <= MOST_PIECES:
            x, way, possible = at, tangent, True
            for _ in range(pieces):
                tried = x + (by / pieces)[:, None] * way
                good = self.model.feasible(tried, phi) | lost
                if not good.all() and pieces < MOST_PIECES:
                    possible = False
                    break
                lost |= ~good
                held = self.model.held(phi, np.where(lost[:, None], at, tried), rows)
                x, way = held.x, held.tangent
            if possible:
                return x, way, np.where(lost, -np.inf, held.log)
            pieces *= 4
        raise AssertionError("the last round takes every step")


def _mixture(fine: Floats, shapes: Floats, mean: Floats, sd: Floats, weight: Floats) -> Marginal:
    """Of scaled and moved shapes. Shapes [fine], [points, fine], [points] …"""
    kept = weight > 1e-5
    low, high = (mean[kept] + fine[0] * sd[kept]).min(), (mean[kept] + fine[-1] * sd[kept]).max()
    at = np.linspace(low, high, 2 * FINE)
    total = np.zeros_like(at)
    for shape, m, s, w in zip(shapes[kept], mean[kept], sd[kept], weight[kept], strict=True):
        total += w / s * np.interp((at - m) / s, fine, shape, left=0.0, right=0.0)
    return Marginal.of(at, total)


def _plane(at: Floats, values: Floats, weight: Floats, wanted: Floats) -> Floats:
    """Of values at points the plane that fits them, with a ridge, elsewhere. Shapes [points, dimensions], [points, values], [points],
    [wanted, dimensions]; [wanted, values]."""
    columns, there = (np.concatenate([np.ones((len(z), 1)), z], axis=1) for z in (at, wanted))
    weight = weight / weight.mean()
    ridge = np.diag([1e-9, *([RIDGE] * at.shape[1])])
    return np.asarray(
        there @ np.linalg.solve(columns.T @ (weight[:, None] * columns) + ridge, columns.T @ (weight[:, None] * values))
    )


def spline(nodes: Floats, values: Floats, at: Floats) -> Floats:
    """A cubic spline through values over nodes, its second derivative the same beyond the last node but one (de Boor, A Practical Guide
    to Splines, ch. IV). Shapes [nodes], [curves, nodes], [at]; [curves, at]."""
    n = len(nodes)
    h = np.diff(nodes)
    matrix, right = np.zeros((n, n)), np.zeros((n, len(values)))
    slopes = np.diff(values, axis=1) / h
    for i in range(1, n - 1):
        matrix[i, i - 1 : i + 2] = h[i - 1], 2.0 * (h[i - 1] + h[i]), h[i]
        right[i] = 6.0 * (slopes[:, i] - slopes[:, i - 1])
    matrix[0, :2], matrix[-1, -2:] = (1.0, -1.0), (-1.0, 1.0)
    bend = np.linalg.solve(matrix, right).T
    k = np.clip(np.searchsorted(nodes, at, side="right") - 1, 0, n - 2)
    left, gap = at - nodes[k], h[k]
    rest = gap - left
    return np.asarray(
        (bend[:, k] * rest**3 + bend[:, k + 1] * left**3) / (6.0 * gap)
        + (values[:, k] / gap - bend[:, k] * gap / 6.0) * rest
        + (values[:, k + 1] / gap - bend[:, k + 1] * gap / 6.0) * left
    )


def solve(notes: Notes, near: Near | None = None, points: int | None = None) -> Posterior:
    """The posterior of a model with all its notes; `near`: of one that was."""
    model = notes.conditional()
    if near is not None and len(near.phi) != len(model.hyper_mean):
        near = None
    many = points or (POINTS if notes.count < MANY else FEW if notes.count < VERY_MANY else FEWER)
    found, near = explore(model, near, many)
    return Posterior(model, found, near, notes, notes.count)
