"""A pattern read off toward a place or a bearing that somebody named."""

from __future__ import annotations

from dataclasses import dataclass

from tallmast.notebook.evidence import Evidence
from tallmast.physics.geodesy import distance_and_bearing
from tallmast.units import show

from ..figure import Figure
from .cut import CutReading, toward


@dataclass(frozen=True, eq=False, repr=False)
class Toward:
    """How far under its peak it is in a direction that matters."""

    name: str
    """Of the place; empty: a bearing alone."""
    bearing_deg: float
    from_front_deg: float
    level: Figure

    @property
    def words(self) -> str:
        where = f"{self.name} at {show.bearing(self.bearing_deg)}" if self.name else show.bearing(self.bearing_deg)
        level = self.level
        if level.value > -1.0 and level.interval[1] > -0.5:
            return f"full strength toward {where}"
        low, high = level.interval
        if level.bound:
            return f"at least {show.fixed(-high, 1)} dB down toward {where}"
        return f"{show.plus_minus(-level.value, (high - low) / 2.0, 'dB')} down toward {where}"


def front_bearing(evidence: Evidence, reading: CutReading) -> float | None:
    """Where its front looked, degrees from north: 0 of a flight whose antenna's bearing nobody noted, whose angles are bearings."""
    if reading.of.front_bearing_deg is not None:
        return reading.of.front_bearing_deg
    home = evidence.home_end
    branches = [b for b in home.branches if b.antenna_id == reading.antenna.id] if home is not None else []
    return next((b.azimuth_deg for b in branches if b.azimuth_deg is not None), None)


def directions_asked(evidence: Evidence) -> list[tuple[str, float]]:
    """(name, bearing) of every place with coordinates seen from home, nearest first, and of the direction wanted."""
    home, question = evidence.home, evidence.question
    out = []
    if home is not None and home.position is not None:
        for place in evidence.places:
            if place.position is not None and place.id != home.id:
                distance, bearing = distance_and_bearing(*home.position, *place.position)
                if distance > 1.0:
                    out.append((float(distance), place.name, float(bearing)))
    named = [(name, bearing) for _, name, bearing in sorted(out)]
    if question is not None and question.wanted_bearing_deg is not None:
        named.append(("", question.wanted_bearing_deg % 360.0))
    return named


def read_off(evidence: Evidence, reading: CutReading | None) -> tuple[Toward, ...]:
    """Of a cut round the horizon, toward each direction asked; none where nobody noted where its front looked."""
    if reading is None or reading.plane != "azimuth":
        return ()
    front = front_bearing(evidence, reading)
    if front is None:
        return ()
    out = []
    for name, bearing in directions_asked(evidence):
        off = (bearing - front) % 360.0
        level = toward(reading, off)
        if level is not None:
            out.append(Toward(name, bearing, off, level))
    return tuple(out)
