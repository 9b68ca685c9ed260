"""Where the places are, seen from home: by coordinates, by a distance that somebody knows, or by name alone."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import DistanceNote, Place
from tallmast.physics.geodesy import distance_and_bearing
from tallmast.physics.propagation import radio_horizon_m
from tallmast.units import show

from ..figure import Figure, Working

FIX_U_M = 5.0
"""Standard uncertainty of a satellite fix on a phone in the open, horizontally."""
SKY_HORIZONS, SKY_LEAST_M = 4.0, 150e3
"""How many radio horizons away, and how far at least, a place must be to be out of reach of the ground’s wave: 2 horizons are
what diffraction and ordinary scatter still span on these bands (Rec. ITU-R P.526, P.617)."""
LEAST_HEIGHT_M = 10.0
"""Nobody is held to have stood in a hole: hills are not in the places."""
LEAST_AWAY_M = 0.5
"""Nearer than this two positions are one."""
SAID_U = 0.05
"""Relative standard uncertainty of a distance that somebody knows: off a map, an odometer, or paced."""


class PlaceFix(Frozen):
    place: Place
    distance: Figure
    bearing_deg: float | None
    """None where only the distance is known."""
    typed_m: float | None
    by_sky: bool = False
    """So far beyond the horizon that what was heard there came over the sky, or by lifted air: no part of this path."""


def origin_of(evidence: Evidence, home: Place | None) -> tuple[float, float] | None:
    """(latitude, longitude) that distances count from: home's, else where the first track begins. None: neither is known."""
    if home is not None and home.position is not None:
        return home.position
    for run in evidence.runs:
        for log in evidence.logs(run.id):
            series = evidence.series(log.series_id)
            if len(series["latitude_deg"]):
                return float(series["latitude_deg"][0]), float(series["longitude_deg"][0])
    return None


def fixes_of(evidence: Evidence, home: Place | None) -> dict[str, PlaceFix]:
    """Every place but home whose distance is known, by id; one at home's own position is none."""
    others = [place for place in evidence.places if home is None or place.id != home.id]
    here = {place.id for place in at_home(evidence, home)}
    away = [place for place in others if place.id not in here]
    lines = _lines_to(home, away)
    noted = {frozenset((n.from_place_id, n.to_place_id)): n.distance_m for n in evidence.all(DistanceNote)}
    found = (_fix(home, place, lines.get(place.id), noted) for place in away)
    height_m = home.height_m if home is not None else 2.0
    known = [fix for fix in found if fix is not None]
    return {fix.place.id: replace(fix, by_sky=True) if _over_sky(fix, height_m) else fix for fix in known}


def at_home(evidence: Evidence, home: Place | None) -> list[Place]:
    """Places whose coordinates are home's own: written down twice, or never moved from where the receiver stood."""
    if home is None or home.position is None:
        return []
    others = [place for place in evidence.places if place.id != home.id]
    lines = _lines_to(home, others)
    return [place for place in others if place.id in lines and lines[place.id][0] < LEAST_AWAY_M]


def _lines_to(home: Place | None, places: Sequence[Place]) -> dict[str, tuple[float, float]]:
    """(distance m, bearing degrees) from home to each place that has a position, by its id."""
    placed = [(place.id, place.position) for place in places if place.position is not None]
    if home is None or home.position is None or not placed:
        return {}
    there = np.array([position for _, position in placed]).T
    distance, bearing = distance_and_bearing(*home.position, *there)
    return dict(zip((i for i, _ in placed), zip(distance.tolist(), bearing.tolist(), strict=True), strict=True))


def _over_sky(fix: PlaceFix, home_m: float) -> bool:
    horizon = radio_horizon_m(max(home_m, LEAST_HEIGHT_M), max(fix.place.height_m, LEAST_HEIGHT_M))
    return fix.distance.value > max(SKY_HORIZONS * horizon, SKY_LEAST_M)


def _fix(
    home: Place | None, place: Place, line: tuple[float, float] | None, noted: Mapping[frozenset[str], float]
) -> PlaceFix | None:
    """`line`: distance and bearing from home, where both have a position; `noted`: typed distances by both ends."""
    if home is None or home.position is None or place.position is None or line is None:
        return _said(place)
    d, b = line
    typed = noted.get(frozenset((home.id, place.id)))
    lines = [
        f"{home.name}  {show.position(*home.position)}",
        f"{place.name}  {show.position(*place.position)}",
        f"straight line {show.distance(d)}",
    ]
    if typed is not None:
        lines.append(f"typed note    {show.distance(typed)}")
    u = FIX_U_M * math.sqrt(2.0)
    figure = Figure(
        f"distance to {place.name}",
        d,
        u,
        "m",
        Working(
            tuple(lines),
            ((f"two fixes, {FIX_U_M:g} m each", f"{u:.0f} m"),),
            "geodesic on WGS 84, Karney 2013",
            "The same both ways; the ground in between is not followed.",
        ),
        digits=0,
    )
    return PlaceFix(place, figure, b, typed)


def _said(place: Place) -> PlaceFix | None:
    """By the distance that was noted of it; None where there is none."""
    if place.distance_m is None:
        return None
    u = SAID_U * place.distance_m
    working = Working(
        (f"{place.name}, {show.distance(place.distance_m)} from home as noted",),
        ((f"a distance that was told, {SAID_U:.0%}", f"{u:.0f} m"),),
        "as noted",
        "Coordinates of both ends would check it.",
    )
    return PlaceFix(place, Figure(f"distance to {place.name}", place.distance_m, u, "m", working, digits=0), None, None)
