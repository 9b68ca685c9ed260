"""Two antennas over the same ground: the level of each, and where the one is better than the other."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats

from ..figure import Figure
from .group import Group
from .model.contrasts import Contrast
from .runs import ANTENNA, RunRow, Tried
from .samples import RunSamples
from .settings import steps_db, tried_of

HEARD_SHARE = 0.6
"""Of a cell's samples; where less came through, the mean of it would flatter."""
FEWEST = 6
"""Cells that both were heard in, under which there is no ground to speak of."""
MOST = 12_000
"""Samples of an antenna that are looked at, evenly along each of its runs: its cells are told by far fewer."""
ALIKE_DB = 1.0
"""Closer than this, a cell says nothing of which is better."""


class Heard(Frozen):
    """One antenna by cells of ground: east and north of home, m, and its level at the baseline's power and pads, dBm (NaN: less
    than most of it was heard). [cell]"""

    tried: Tried
    name: str
    east_m: Floats
    north_m: Floats
    level_dbm: Floats


class OverGround(Frozen):
    """The pair that the Field speaks of, and the first less the second where both were heard. [shared cell]"""

    both: tuple[Heard, Heard]
    figure: Figure
    """Over all of it."""
    east_m: Floats
    north_m: Floats
    difference_db: Floats

    def shown(self, hidden: Collection[str]) -> bool:
        """Whether neither of the two antennas is hidden."""
        return not any(heard.tried[0] in hidden for heard in self.both)

    @property
    def better(self) -> tuple[int, int, int]:
        """In how many cells the first is better, the second, neither."""
        first, second = (int((sign * self.difference_db > ALIKE_DB).sum()) for sign in (1.0, -1.0))
        return first, second, len(self.difference_db) - first - second


def over_ground(
    group: Group | None,
    told: Contrast | None,
    rows: Sequence[RunRow],
    samples: Sequence[RunSamples],
    names: Mapping[Tried, str],
) -> OverGround | None:
    """Of the pair that is spoken of; None where they were not both heard over a ground of known directions."""
    if group is None or told is None or told.change.factor != ANTENNA:
        return None
    pair = tried_of(told.change.to), tried_of(told.change.since)
    rows = [row for row in rows if row.run.manner == group.manner and row.same_in_db]
    base = next((row for row in rows if row.verdict == "baseline"), rows[0])
    steps = dict(zip((row.run.id for row in rows), np.sum(steps_db(rows, base), axis=0), strict=True))
    cells = []
    for tried in pair:
        runs = [(s.on_ground, float(steps[s.run.id])) for s in samples if s.tried == tried and s.run.id in steps]
        found = _cells([(s, step) for s, step in runs if len(s.level_dbm)])
        if found is None:
            return None
        cells.append(found)
    (numbers_a, *a), (numbers_b, *b) = cells
    _, at_a, at_b = np.intersect1d(numbers_a, numbers_b, return_indices=True)
    difference = a[2][at_a] - b[2][at_b]
    known = np.isfinite(difference)
    if known.sum() < FEWEST:
        return None
    both = (Heard(pair[0], names[pair[0]], *a), Heard(pair[1], names[pair[1]], *b))
    east, north = (0.5 * (a[k][at_a] + b[k][at_b])[known] for k in (0, 1))
    return OverGround(both, told.figure, east, north, difference[known])


def _cells(runs: Sequence[tuple[RunSamples, float]]) -> tuple[Floats, Floats, Floats, Floats] | None:
    """(numbers, east, north, level) of the cells that some runs came to."""
    if not runs:
        return None
    columns = []
    few = slice(None, None, -(-sum(len(s.cell) for s, _ in runs) // MOST))
    for s, step in runs:
        columns.append((s.cell[few], s.distance_m[few], np.radians(s.bearing_deg[few]), s.level_dbm[few] - step))
    cell, distance, bearing, level = (np.concatenate(column) for column in zip(*columns, strict=True))
    numbers, which = np.unique(cell, return_inverse=True)
    which = which.ravel()
    count = np.bincount(which)
    heard = np.isfinite(level)
    got = np.bincount(which[heard], minlength=len(numbers))
    sums = np.bincount(which[heard], weights=level[heard], minlength=len(numbers))
    mean = np.where(got >= HEARD_SHARE * count, sums / np.maximum(got, 1), np.nan)
    east, north = (np.bincount(which, weights=distance * turn(bearing)) / count for turn in (np.sin, np.cos))
    return numbers.astype(float), east, north, mean
