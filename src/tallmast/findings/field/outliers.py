"""A run that stands off from the others by what a pad takes: left out, left in, or a connector that was loose."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Piece, Run
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Design
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..figure import Check, Figure, Working
from .contrasts import Compared

ODDS = 20.0
"""Named from here on, never corrected."""
LEAST_DB = 3.0
"""A smaller pad can't be told from a run that happened so."""
USUAL_DB, USUAL_DEGREES = 1.0, 3.0
"""Spread of repeats that is taken for usual, and the degrees of freedom that this is worth beside what was seen."""
PAD_U_DB = 0.3
LOOSE_DB = (15.0, 20.0, 25.0)
"""What a lost connector takes, by the accounts of those who had one."""


class Outlier(Frozen):
    """One run, by how much it stands off, and what would explain it."""

    run: Run
    figure: Figure
    pad_db: float
    """Above zero: left out; below: left in."""
    loose: bool


def pads_known(evidence: Evidence) -> list[float]:
    """Every attenuation that somebody could have left out or in: pads of the drawer, of the chain, and of the runs."""
    drawer = [p.loss_db for p in evidence.all(Piece) if p.type == "pad"]
    ends = [end for end in (evidence.home_end, evidence.far_end) if end is not None]
    chain = [pad.attenuation_db for end in ends for pad in end.pads]
    runs = [run.pad_db for run in evidence.runs]
    apart = [abs(a - b) for a in set(runs) for b in set(runs)]
    return sorted({round(p, 1) for p in (*drawer, *chain, *runs, *apart) if p >= LEAST_DB})


def find(compared: Compared, pads: Sequence[float]) -> Outlier | None:
    """The run that most likely was another setting than was noted; None where none stands off so."""
    found: list[tuple[float, Outlier]] = []
    for i, off, spread, weight, degrees in (*_beside_its_like(compared), *_beside_the_others(compared)):
        if abs(off) < LEAST_DB:
            continue
        width = math.hypot(spread * math.sqrt(1.0 + weight), PAD_U_DB)
        odds, pad, loose = _best(off, width, degrees, pads)
        if odds >= ODDS:
            found.append((odds, _outlier(compared.cells.runs[i], off, width, degrees, pad, loose)))
    return max(found, key=lambda one: one[0])[1] if found else None


_Off = tuple[int, float, float, float, float]
"""A run, how far it stands off, the spread of runs, the weight of what it is held against, degrees of freedom."""


def _likes(design: Design) -> list[list[int]]:
    likes: dict[tuple[str, ...], list[int]] = {}
    for i, setting in enumerate(design.levels):
        likes.setdefault(setting, []).append(i)
    return list(likes.values())


def _beside_its_like(compared: Compared) -> Iterable[_Off]:
    """Runs that were made again, each against the others of its setting; the spread by all such runs but it."""
    there: list[tuple[list[int], Floats]] = []
    for rows in _likes(compared.design):
        block = compared.cells.level_dbm[rows]
        block = block[:, np.isfinite(block).all(axis=0)]
        if len(rows) > 1 and block.shape[1]:
            there.append((rows, block.mean(axis=1)))
    squares = math.fsum(float(np.sum((m - m.mean()) ** 2)) for _, m in there)
    degrees = sum(len(rows) - 1 for rows, _ in there)
    for rows, means in there:
        n = len(rows)
        for i, mean in zip(rows, means.tolist(), strict=True):
            away = mean - float(means.mean())
            left = max(squares - away**2 * n / (n - 1), 0.0)
            total = USUAL_DEGREES + degrees - 1
            spread = math.sqrt((USUAL_DEGREES * USUAL_DB**2 + left) / total)
            yield i, away * n / (n - 1), spread, 1.0 / (n - 1), total


def _beside_the_others(compared: Compared) -> Iterable[_Off]:
    """Runs of a setting that was run once, against what the others foretell by the effects of the factors."""
    cells, design = compared.cells, compared.design
    for rows in _likes(design):
        if len(rows) > 1:
            continue
        i, others = rows[0], [k for k in range(len(cells.runs)) if k != rows[0]]
        weights = _foretold(design, i, others)
        if weights is None:
            continue
        used = [others[k] for k in np.flatnonzero(weights)]
        both = np.isfinite(cells.level_dbm[[i, *used]]).all(axis=0)
        if both.any():
            means = cells.level_dbm[:, both].mean(axis=1)
            off = float(means[i] - weights[np.flatnonzero(weights)] @ means[used])
            yield i, off, *_spread(cells.level_dbm, design, others, float(np.sum(weights**2)))


def _foretold(design: Design, i: int, others: list[int]) -> Floats | None:
    """What the other runs count with in what they foretell of one; None where they don't."""
    x = design.matrix[others]
    weights = np.linalg.pinv(x).T @ design.matrix[i]
    told = np.allclose(weights @ x, design.matrix[i], atol=1e-8)
    return np.where(np.abs(weights) < 1e-8, 0.0, weights) if told else None


def _spread(level_dbm: Floats, design: Design, others: list[int], weight: float) -> tuple[float, float, float]:
    """(standard deviation of a run, weight, degrees of freedom) by the other runs and what is usual."""
    inner = design.of(others)
    block = level_dbm[others]
    block = block[:, np.isfinite(block).all(axis=0)]
    left = len(others) - inner.rank
    told = block.shape[1] > 0 and left > 0
    squares = float(np.sum(inner.residuals(block.mean(axis=1)) ** 2)) if told else 0.0
    degrees = USUAL_DEGREES + (float(left) if told else 0.0)
    return math.sqrt((USUAL_DEGREES * USUAL_DB**2 + squares) / degrees), weight, degrees


def _likelihood(off: float, width: float, degrees: float) -> float:
    """Student's density, but for what is common to all."""
    return float((1.0 + (off / width) ** 2 / degrees) ** (-(degrees + 1.0) / 2.0))


def _best(off: float, width: float, degrees: float, pads: Sequence[float]) -> tuple[float, float, bool]:
    """(odds of a shift by any of what is known against none, the likeliest shift, whether it is a loose connector)."""
    shifts = [(sign * pad, False) for pad in pads for sign in (1.0, -1.0)] + [(-db, True) for db in LOOSE_DB]
    told = [(_likelihood(off - shift, width, degrees), shift, kind) for shift, kind in shifts]
    mean = math.fsum(one[0] for one in told) / len(told)
    _, shift, kind = max(told)
    return mean / _likelihood(off, width, degrees), shift, kind


def _outlier(run: Run, off: float, width: float, degrees: float, pad: float, loose: bool) -> Outlier:
    working = Working(
        (
            f"run {run.number} against what the others foretell: {show.plus(off, 1)} dB",
            f"spread of a run {show.decibel(width, 2)}, {coverage_factor(degrees):.2f} for 90 %",
        ),
        (("run to run", show.decibel(width, 2)),),
        f"odds of a shift by a pad that there is against the spread of runs, Student’s t; named from {ODDS:g} to 1",
        "Named, not corrected: look at what lay in the chain.",
    )
    figure = Figure(f"run {run.number} stands off", off, width, "dB", working, degrees)
    return Outlier(run, figure, pad, loose)


def check(outlier: Outlier) -> Check:
    """The question that it asks."""
    number, db = outlier.run.number, f"{abs(outlier.pad_db):g} dB"
    if outlier.loose:
        words = f"was a connector loose in run {number}?"
    elif outlier.pad_db > 0:
        words = f"was the {db} pad left out in run {number}?"
    else:
        words = f"was a {db} pad left in by mistake in run {number}?"
    stands = "above" if outlier.figure.value > 0 else "below"
    size = show.plus_minus(abs(outlier.figure.value), outlier.figure.half, "dB")
    why = f"It stands {size} {stands} what the other runs foretell. Correct the run’s pads if so; nothing is corrected silently."
    return Check("fails", words, outlier.figure, why)
