"""Positions that would lie near all the others, were they written the other way round: latitude and longitude swapped, or a side of the
world mistaken."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Log
from tallmast.physics.geodesy import SEMI_MAJOR_M, distance_and_bearing
from tallmast.units import show

from ..figure import Check
from .fixes import at_home

FAR_M = 100e3
"""Farther from everything else than this a position is asked about."""
NEARER = 0.1
"""And it would have to come so much nearer by being turned round."""

Position = tuple[float, float]


def misplaced_checks(evidence: Evidence) -> list[Check]:
    """One for every place and every log that would fit the other way round."""
    places = [(place, place.position) for place in evidence.places if place.position is not None]
    home = evidence.home
    why = "No path leads from a place to itself: correct its position, or note its distance."
    out = [
        Check("disagrees", f"{place.name} has home’s own position, so no distance", None, why)
        for place in at_home(evidence, home)
    ]
    known = [position for _, position in places]
    for i in _alone(known):
        place, position = places[i]
        if len(known) > 2 or home is None or place.id != home.id:  # of two that lie far apart home is right
            out += _asked(place.name, position, known[:i] + known[i + 1 :])
    if home is not None and home.position is not None:
        for run in evidence.runs:
            for log in evidence.logs(run.id):
                start = _begins(evidence, log)
                if start is not None:
                    out += _asked(f"the track of run {run.number}", start, [home.position])
    return out


def _alone(known: list[Position]) -> list[int]:
    """Which of the positions may lie farther than `FAR_M` from every other: those that are by themselves in a cube whose longest
    diagonal that is."""
    cubes = [tuple(cube) for cube in np.floor(_outward(known) * (SEMI_MAJOR_M * math.sqrt(3.0) / FAR_M)).tolist()]
    count = Counter(cubes)
    return [i for i, cube in enumerate(cubes) if count[cube] == 1]


def _outward(positions: list[Position]) -> NDArray[np.float64]:
    """Unit vectors [n, 3] from the middle of a sphere: what has the largest product with another is nearest to it."""
    latitude, longitude = np.radians(np.array(positions, dtype=float).reshape(-1, 2)).T
    return np.stack(
        [np.cos(latitude) * np.cos(longitude), np.cos(latitude) * np.sin(longitude), np.sin(latitude)], axis=1
    )


def _begins(evidence: Evidence, log: Log) -> Position | None:
    series = evidence.series(log.series_id)
    latitude, longitude = series.get("latitude_deg"), series.get("longitude_deg")
    if latitude is None or longitude is None or not len(latitude):
        return None
    return float(latitude[0]), float(longitude[0])


def _asked(name: str, position: Position, others: list[Position]) -> list[Check]:
    if not others:
        return []
    away = _nearest_m(position, others)
    if away <= FAR_M:
        return []
    turned = min(((_nearest_m(there, others), words) for there, words in _otherwise(position)), default=None)
    if turned is None or turned[0] > NEARER * away:
        return []
    near, words = turned
    text = f"{name} lies {show.distance(away)} off: {words}? Then it is {show.distance(near)}"
    why = f"As noted: {show.position(*position)}. Correct the position if it is so; until then all that hangs on it is wrong."
    return [Check("disagrees", show.upper_first(text), None, why)]


def _otherwise(position: Position) -> Iterator[tuple[Position, str]]:
    """(the same position, what would have been mistaken) as it may have been meant."""
    latitude, longitude = position
    if abs(longitude) <= 90.0:
        yield (longitude, latitude), "latitude and longitude swapped"
    yield (latitude, -longitude), "east and west mistaken"
    yield (-latitude, longitude), "north and south mistaken"


def _nearest_m(position: Position, others: list[Position]) -> float:
    nearest = int(np.argmax(_outward(others) @ _outward([position])[0]))
    return float(distance_and_bearing(*position, *others[nearest])[0])
