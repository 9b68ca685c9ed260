"""Readings over all directions about an antenna, ready to be laid flat: in decibels, or on a display's own scale."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna
from tallmast.physics.decibels import Floats

from ..figure import Figure

if TYPE_CHECKING:
    from .track import Track

SHADES = 6


class DirectionMap(Frozen):
    """Values over azimuth [m] and elevation [k]; NaN where there is nothing to tell."""

    antenna: Antenna
    azimuth_deg: Floats
    elevation_deg: Floats
    value: Floats
    step_deg: tuple[float, float]
    """Of a cell, in azimuth and in elevation."""
    edges: tuple[float, ...]
    """Between one shade and the next, the best first."""
    unit: str
    more_is_better: bool
    tracks: tuple[Track, ...]
    pointing_noted: bool
    headline: Figure | None = None

    @property
    def told_share(self) -> float:
        return float(np.isfinite(self.value).mean())

    @property
    def shade(self) -> np.ndarray:
        """Of each cell, 0 for the best; −1 where nothing is told."""
        side = 1.0 if self.more_is_better else -1.0
        number = np.searchsorted([-side * edge for edge in self.edges], -side * self.value)
        return np.where(np.isfinite(self.value), number, -1)

    @property
    def best(self) -> tuple[float, float] | None:
        """(azimuth, elevation) of the best cell; None where none is told."""
        if not np.isfinite(self.value).any():
            return None
        find = np.nanargmax if self.more_is_better else np.nanargmin
        i, k = np.unravel_index(int(find(self.value)), self.value.shape)
        return float(self.azimuth_deg[i]), float(self.elevation_deg[k])


def on_one_scale(maps: Sequence[DirectionMap]) -> tuple[DirectionMap, ...]:
    """The same with shades that mean the same in all of them."""
    values = np.concatenate([one.value[np.isfinite(one.value)] for one in maps]) if maps else np.zeros(0)
    if not len(values):
        return tuple(maps)
    low, high = float(values.min()), float(values.max())
    edges = [low + (high - low) * k / SHADES for k in range(1, SHADES)]
    return tuple(replace(one, edges=tuple(edges[::-1] if one.more_is_better else edges)) for one in maps)
