"""Where the places are, seen from home: by coordinates, by a distance that somebody knows, or by name alone."""

from __future__ import annotations

import math

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
    found = (_fix(evidence, home, place) for place in others if place.id not in here)
    height_m = home.height_m if home is not None else 2.0
    return {fix.place.id: replace(fix, by_sky=_over_sky(fix, height_m)) for fix in found if fix is not None}


def at_home(evidence: Evidence, home: Place | None) -> list[Place]:
    """Places whose coordinates are home's own: written down twice, or never moved from where the receiver stood."""
    if home is None or home.position is None:
        return []
    placed = [p for p in evidence.places if p.id != home.id and p.position is not None]
    return [
        p for p in placed if float(distance_and_bearing(*home.position, *(p.position or (0.0, 0.0)))[0]) < LEAST_AWAY_M
    ]


def _over_sky(fix: PlaceFix, home_m: float) -> bool:
    horizon = radio_horizon_m(max(home_m, LEAST_HEIGHT_M), max(fix.place.height_m, LEAST_HEIGHT_M))
    return fix.distance.value > max(SKY_HORIZONS * horizon, SKY_LEAST_M)


def _fix(evidence: Evidence, home: Place | None, place: Place) -> PlaceFix | None:
    here, there = home.position if home is not None else None, place.position
    if home is None or here is None or there is None:
        return _said(place)
    d, b = distance_and_bearing(*here, *there)
    typed = None
    for note in evidence.all(DistanceNote):
        if {note.from_place_id, note.to_place_id} == {home.id, place.id}:
            typed = note.distance_m
    lines = [
        f"{home.name}  {show.position(*here)}",
        f"{place.name}  {show.position(*there)}",
        f"straight line {show.distance(float(d))}",
    ]
    if typed is not None:
        lines.append(f"typed note    {show.distance(typed)}")
    u = FIX_U_M * math.sqrt(2.0)
    figure = Figure(
        f"distance to {place.name}",
        float(d),
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
    return PlaceFix(place, figure, float(b), typed)


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
