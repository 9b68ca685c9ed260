"""The ground of the Harrow Skerries: low rocks in the sea, and Ness Head's ridge across part of the sound."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from tallmast.notebook.entry import Entry
from tallmast.notebook.records import Terrain
from tallmast.physics.decibels import Floats

from . import truth as so

REACH_M, CELLS = 6_600.0, 121
ROCKS = {"Quay": (3.0, 160.0), "Inner Holm": (4.0, 90.0), "Kelp Rock": (2.5, 70.0), "Outer Stack": (2.0, 80.0)}
"""How high each stands over the sea, and how far it reaches, m."""
RIDGE_M, RIDGE_FROM, RIDGE_TO = 44.0, (2_250.0, -650.0), (2_600.0, 420.0)
"""Ness Head: its height, and from where to where it runs, m east and north of the Quay."""
M_PER_DEGREE = 111_320.0


def height_m(east_m: Floats, north_m: Floats) -> Floats:
    """Over the sea at points [n] east and north of the Quay."""
    out = np.zeros(np.broadcast_shapes(np.shape(east_m), np.shape(north_m)))
    for name, (high, wide) in ROCKS.items():
        bearing, distance = so.PLACES.get(name, (0.0, 0.0))
        a = np.radians(bearing)
        off = np.hypot(east_m - distance * np.sin(a), north_m - distance * np.cos(a))
        out = np.maximum(out, high * np.exp(-((off / wide) ** 4)))
    (x0, y0), (x1, y1) = RIDGE_FROM, RIDGE_TO
    long = (x1 - x0) ** 2 + (y1 - y0) ** 2
    share = np.clip(((east_m - x0) * (x1 - x0) + (north_m - y0) * (y1 - y0)) / long, 0.0, 1.0)
    off = np.hypot(east_m - x0 - share * (x1 - x0), north_m - y0 - share * (y1 - y0))
    return np.asarray(np.maximum(out, RIDGE_M * np.exp(-((off / 190.0) ** 2)) - 0.5))


def ground() -> Iterator[Entry]:
    latitude, longitude = so.QUAY
    up = REACH_M / M_PER_DEGREE
    aside = up / np.cos(np.radians(latitude))
    middle: Floats = np.asarray((np.arange(CELLS) + 0.5) / CELLS * 2.0 - 1.0, dtype=float)
    east, north = np.meshgrid(middle * REACH_M, middle * REACH_M)
    columns = {"height_m": np.round(np.maximum(height_m(east, north), 0.0), 1).astype(float).ravel()}
    record = Terrain(
        id="terrain-skerries",
        series_id="demo-terrain",
        south_deg=latitude + float(middle[0]) * up,
        west_deg=longitude + float(middle[0] * aside),
        step_latitude_deg=2.0 * up / CELLS,
        step_longitude_deg=float(2.0 * aside / CELLS),
        columns=CELLS,
        u_m=1.0,
        source="skerries.tif",
    )
    yield Entry(f"Heights skerries.tif: {CELLS} × {CELLS} cells about home", [record], series={"demo-terrain": columns})
