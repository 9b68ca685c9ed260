"""Heights of the ground anywhere about home, from the rasters in the notebook."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Terrain
from tallmast.physics.decibels import Floats


class Heights(Frozen):
    """One raster of heights, m over latitude and longitude [row, column]."""

    record: Terrain
    height_m: NDArray[np.float64]

    def at(self, latitude_deg: ArrayLike, longitude_deg: ArrayLike) -> Floats:
        """Between the four cells about each point; NaN outside, and where one of them has no data. Shape of both, broadcast."""
        record, rows, columns = self.record, *self.height_m.shape
        y = (np.asarray(latitude_deg, dtype=float) - record.south_deg) / record.step_latitude_deg
        x = (np.asarray(longitude_deg, dtype=float) - record.west_deg) / record.step_longitude_deg
        # Values stand in the middle of cells: half a cell beyond the outermost is still of it.
        inside = (y > -0.5) & (y < rows - 0.5) & (x > -0.5) & (x < columns - 0.5)
        y, x = np.clip(np.nan_to_num(y), 0.0, rows - 1.0), np.clip(np.nan_to_num(x), 0.0, columns - 1.0)
        row, column = np.minimum(y.astype(int), rows - 2), np.minimum(x.astype(int), columns - 2)
        up, aside = y - row, x - column
        h = self.height_m
        low = h[row, column] * (1 - aside) + h[row, column + 1] * aside
        high = h[row + 1, column] * (1 - aside) + h[row + 1, column + 1] * aside
        return np.asarray(np.where(inside, low * (1 - up) + high * up, np.nan))


def heights_of(evidence: Evidence) -> tuple[Heights, ...]:
    """Every raster there is, the newest first; one whose cells make no rows is left out."""
    out = []
    for record in reversed(evidence.all(Terrain)):
        values = np.asarray(evidence.series(record.series_id)["height_m"])
        rows = len(values) // record.columns
        if rows >= 2 and rows * record.columns == len(values):
            out.append(Heights(record, values.reshape(rows, record.columns)))
    return tuple(out)


def height_at(heights: Sequence[Heights], latitude_deg: ArrayLike, longitude_deg: ArrayLike) -> Floats:
    """By the newest raster that has data there; NaN where none has."""
    out = np.full(np.broadcast_shapes(np.shape(latitude_deg), np.shape(longitude_deg)), np.nan)
    for one in heights:
        out = np.where(np.isnan(out), one.at(latitude_deg, longitude_deg), out)
    return out
