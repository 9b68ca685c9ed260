"""Antennas compared by place: the same spots, the difference of the run means, and how far repeats differ."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tallmast.physics import repeats
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor, least_by_chance
from tallmast.units import show

from ..figure import Figure, Working
from .samples import Cells, Tried

ASSUMED_RUN_SPREAD_DB = 1.0
"""Standard deviation taken from run to run while no antenna was run twice: seating, battery, hands, weather."""
LIKENESS_PLACES = 12
"""Fewer places can’t show whether neighbours are alike."""


@dataclass(frozen=True, eq=False, repr=False)
class RunSpread:
    """How far repeats of one antenna differ, dB, and the degrees of freedom; infinite when assumed."""

    s_db: float
    degrees: float
    assumed: bool


def _common(cells: Cells, rows: list[int]) -> Floats:
    """Levels of some runs in the cells that all of them heard."""
    block = cells.level_dbm[rows]
    return np.asarray(block[:, np.isfinite(block).all(axis=0)])


def run_spread(cells: Cells) -> RunSpread:
    """Pooled standard deviation of run means about the mean of all runs with that antenna in that state, over the cells that
    they have in common."""
    total, degrees = 0.0, 0
    for tried in dict.fromkeys(cells.tried):
        rows = [i for i, other in enumerate(cells.tried) if other == tried]
        block = _common(cells, rows)
        if len(rows) < 2 or block.shape[1] == 0:
            continue
        means = block.mean(axis=1)
        total += float(np.sum((means - means.mean()) ** 2))
        degrees += len(rows) - 1
    if degrees == 0:
        return RunSpread(ASSUMED_RUN_SPREAD_DB, math.inf, True)
    return RunSpread(math.sqrt(total / degrees), float(degrees), False)


def _read_variance(cells: Cells, rows: list[int], known: NDArray[np.bool_]) -> float:
    """Variance of the sum over places of one antenna's mean readings, by what they were read on: runs that showed the same
    at a place tell no more than one of them."""
    variance = np.mean(cells.u_db[rows][:, known] ** 2, axis=0)
    same = np.ptp(cells.level_dbm[rows][:, known], axis=0) == 0
    return float(np.sum(np.where(same, variance, variance / len(rows))))


def pair_words(figure: Figure, names: tuple[str, str]) -> str:
    """The sentence of a difference, the better one named first."""
    low, high = figure.interval
    if low <= 0 <= high:
        return f"{show.upper_first(names[0])} and {names[1]} can't be told apart over this path: {figure.text}."
    return f"{show.upper_first(names[0])} beats {names[1]} by {figure.text} over the same path."


def difference(cells: Cells, a: Tried, b: Tried, names: tuple[str, str], spread: RunSpread) -> Figure | None:
    """Level of A over B, dB, by places that all their runs heard; None where there are none."""
    rows_a = [i for i, tried in enumerate(cells.tried) if tried == a]
    rows_b = [i for i, tried in enumerate(cells.tried) if tried == b]
    if not rows_a or not rows_b:
        return None
    block = _common(cells, rows_a + rows_b)
    places = block.shape[1]
    if places == 0:
        return None
    # In order of distance, so that likeness of neighbouring places can be told.
    order = np.argsort(cells.distance_m[np.isfinite(cells.level_dbm[rows_a + rows_b]).all(axis=0)])
    block = block[:, order]
    each = block[: len(rows_a)].mean(axis=0) - block[len(rows_a) :].mean(axis=0)
    mean = float(each.mean())
    u_run = spread.s_db * math.sqrt(1 / len(rows_a) + 1 / len(rows_b))
    # Each antenna meets each place in its own way (its pattern on what is reflected there): other places would have
    # given another mean. Repeats go over the same places and don't show it.
    rho = repeats.likeness([each]) if places >= LIKENESS_PLACES else 0.0
    u_place = float(each.std(ddof=1)) * math.sqrt(repeats.inflation(places, rho) / places) if places > 1 else 3.0
    place_degrees = repeats.degrees([places], rho) if places > 1 else 1.0
    # What a stepped display leaves open of each level scatters from place to place, so the scatter seen has it, unless it
    # is smaller than chance would leave of what the display must have.
    known = np.asarray(np.isfinite(cells.level_dbm[rows_a + rows_b]).all(axis=0))
    u_read = math.sqrt(_read_variance(cells, rows_a, known) + _read_variance(cells, rows_b, known)) / places
    by_reading = u_place < u_read * least_by_chance(place_degrees)
    u_place = u_read if by_reading else u_place
    u = math.hypot(u_run, u_place)
    below = u_place**4 / place_degrees + (0.0 if math.isinf(spread.degrees) else u_run**4 / spread.degrees)
    degrees = u**4 / below if below > 0 else math.inf
    how = (
        f"run to run, {ASSUMED_RUN_SPREAD_DB:g} dB assumed"
        if spread.assumed
        else f"run to run, s = {spread.s_db:.2f} dB"
    )
    what = "what it was read on" if by_reading else "each place in its own way"
    parts = [(how, show.decibel(u_run, 2)), (what, show.decibel(u_place, 2))]
    k = coverage_factor(degrees)
    lines = (
        f"runs paired by place: {show.count(places, 'place')} heard by all",
        f"{names[0]}  {show.fixed(float(block[: len(rows_a)].mean()), 1)} dBm over {show.count(len(rows_a), 'run')}",
        f"{names[1]}  {show.fixed(float(block[len(rows_a) :].mean()), 1)} dBm over {show.count(len(rows_b), 'run')}",
        f"difference {show.decibel(mean)}",
        f"u = {u:.2f} dB × {k:.2f} (90 %, {'normal' if math.isinf(degrees) else f'{degrees:.0f} degrees of freedom'})",
    )
    if spread.assumed:
        meaning = "No antenna was run twice, so how far repeats differ is assumed. Run each again in swapped order."
    else:
        meaning = "Everything that shifts a whole run (seating, battery, hands, weather) is in the run-to-run spread."
    return Figure(
        f"{names[0]} over {names[1]}",
        mean,
        u,
        "dB",
        Working(
            lines,
            tuple(parts),
            "run means, paired by place; Student's t by Welch and Satterthwaite, JCGM 100 §G.4",
            meaning,
        ),
        degrees,
    )


def runs_for(spread: RunSpread, wanted_half_db: float, most: int = 30) -> int | None:
    """How many runs of each of two antennas bring the ± of their difference under `wanted_half_db`."""
    for n in range(2, most + 1):
        degrees = 2.0 * (n - 1) if not spread.assumed else math.inf
        if coverage_factor(degrees) * spread.s_db * math.sqrt(2 / n) <= wanted_half_db:
            return n
    return None
