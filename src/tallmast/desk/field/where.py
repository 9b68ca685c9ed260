"""Where a place is, as people write it."""

from __future__ import annotations

import re
from collections.abc import Mapping

from tallmast.physics.geodesy import destination
from tallmast.units import read
from tallmast.units.position import bearing as read_bearing
from tallmast.units.position import position

FARTHEST_M = 2.01e7
"""That anybody says how far a place lies from another: half way round the earth."""


Where = tuple[float | None, float | None, float | None]
"""Latitude and longitude in degrees, or the distance from home in m where no direction is known."""


def place_at(text: str, places: Mapping[str, tuple[float, float]], home: str = "") -> Where:
    """Coordinates; or so far from a known place: `60 m east of the barn`, `1.5 miles NE`, `800 m at 215°`, from `home` where no
    place is named; or how far from home, in whatever direction: `1.5 miles`. Raises `UnitError`."""
    expected = "coordinates, a distance (1.5 miles), or a distance and a direction, such as 60 m east of the barn"
    try:
        return (*position(text), None)
    except read.UnitError:
        pass
    try:
        alone = read.length(text, "m") if re.search(r"[a-z]", text, re.IGNORECASE) else 0.0
    except read.UnitError:
        alone = 0.0
    if 0 < alone <= FARTHEST_M:
        return None, None, alone
    found = re.fullmatch(
        r"(.*?\d\s*[a-z]+)\s+(?:at\s+|to the\s+)?(.+?)(?:\s+(?:of|from)\s+(?:the\s+)?(.+))?",
        text.strip(),
        re.IGNORECASE,
    )
    if found is None:
        raise read.UnitError(expected, text)
    try:
        distance, bearing = read.length(found[1]), read_bearing(found[2])
    except read.UnitError as error:
        raise read.UnitError(expected, text) from error
    if not 0 < distance <= FARTHEST_M:
        raise read.UnitError(expected, text)
    name = (found[3] or home).strip().lower()
    if name not in places:
        if not found[3]:
            return None, None, distance  # the direction says nothing while nobody knows from where
        raise read.UnitError(f"{expected}; {found[3]} is not among the places with coordinates", text)
    return (*destination(*places[name], bearing, distance), None)
