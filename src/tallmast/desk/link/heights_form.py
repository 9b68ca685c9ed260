"""A raster of heights that was brought in: how far about home it is wanted, and in what it is."""

from __future__ import annotations

from typing import Any

import numpy as np

from tallmast.formats.apart import reader
from tallmast.formats.heights import HeightFile, HeightGrid
from tallmast.notebook.entry import Entry, new_series
from tallmast.notebook.records import SHOWS, Place, Terrain
from tallmast.physics.geodesy import distance_and_bearing
from tallmast.units import show
from tallmast.units.quantity import DISTANCE

from ..session import Session
from ..sheets.entry import Form, Later
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import field_for

LEAST_M, BEYOND = 3_000.0, 1.3
"""About home at least, and so much farther than the farthest place."""
UNITS = {"m": "metres", "ft": "feet"}


def _home(session: Session) -> Place | None:
    question = session.evidence.question
    return session.evidence.place(question.home_place_id) if question is not None else None


def _offered_m(session: Session, home: Place | None) -> float:
    """As far as there are places."""
    if home is None or home.position is None:
        return LEAST_M
    away = [float(distance_and_bearing(*home.position, *p.position)[0]) for p in session.evidence.places if p.position]
    return max(LEAST_M, BEYOND * max(away, default=0.0))


def terrain_entry(grid: HeightGrid, file: HeightFile, shows: Any) -> Entry:
    """The heights as they are kept: the part about home, whatever the size of the file."""
    key, series = new_series({"height_m": np.ascontiguousarray(grid.height_m).ravel()})
    record = Terrain(
        series_id=key,
        south_deg=grid.south_deg,
        west_deg=grid.west_deg,
        step_latitude_deg=grid.step_latitude_deg,
        step_longitude_deg=grid.step_longitude_deg,
        columns=grid.height_m.shape[1],
        shows=shows,
        source=file.path.name,
    )
    rows, columns = grid.height_m.shape
    notes = f" ({'; '.join(grid.notes)})" if grid.notes else ""
    return Entry(f"Heights {file.path.name}: {rows} × {columns} cells about home{notes}", [record], series=series)


def heights_form(session: Session, file: HeightFile) -> Form:
    """What is asked before the part about home is read."""
    home = _home(session)
    fields = [
        field_for("radius", "As far about home as", DISTANCE, _offered_m(session, home), "8 km"),
        Field("unit", "Its heights are in", choices=list(UNITS.items()), chosen="ft" if file.in_feet else "m"),
        Field("shows", "It shows", choices=list(SHOWS.items()), chosen="ground"),
    ]

    def kept(v: dict[str, Any]) -> Later:
        if home is None or home.position is None:
            raise FieldError("radius", "Note first where home is, by its coordinates (Field, L; then the question, Q).")
        latitude, longitude = home.position
        radius = v["radius"] or _offered_m(session, home)

        def entry(grid: HeightGrid) -> Later:
            return session.later(terrain_entry(grid, file, v["shows"]))

        def read() -> HeightGrid:
            return reader.call(file.path.name, HeightFile.around, file, latitude, longitude, radius, v["unit"] == "ft")

        return session.read_first(f"Reading {file.path.name}", read, entry)

    cell = show.distance(file.cell_m)
    told = f" Told of it: {'; '.join(file.notes)}." if file.notes else ""
    return Form(
        f"Heights: {file.path.name}",
        fields,
        kept,
        f"Cells of {cell}. The part about home is kept in the notebook; the file itself is not.{told}",
    )
