"""A pattern read off toward a place or a bearing that somebody named."""

from __future__ import annotations

import math
from functools import partial

from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.physics import lobe, pattern
from tallmast.physics.geodesy import distance_and_bearing
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..figure import Figure, Working
from .cut import CutReading
from .marks import steep, with_reflections

COMPASS_U_DEG = 3.0
"""Standard uncertainty of where an antenna looked, by a compass among steel and a declination."""


def toward(reading: CutReading, from_front_deg: float, by_bearing: bool = False) -> Figure | None:
    """Level in a direction against the peak (of an omni: its mean), dB; None where the cut does not tell it. `by_bearing`: the
    direction is a bearing, turned by where its front looked."""
    of = reading.of
    # What was flown is by bearings itself, so that where its front looked cancels in them.
    front = COMPASS_U_DEG if by_bearing else 0.0
    if of.way == "flight":
        front = 0.0 if by_bearing else of.front_u_deg
    lost = any(abs((one - from_front_deg + 180.0) % 360.0 - 180.0) <= pattern.NEAR_DEG for one in of.lost_deg)
    if not lost and not pattern.covered(reading.angle_deg, [from_front_deg]).all():
        return None
    curve = lobe.smooth(reading.angle_deg, reading.level_db, [from_front_deg])
    value = float(reading.level_db.min()) if lost else float(curve.level_db[0])
    by_aim = math.hypot(of.angle_u_deg, front) * steep(reading.angle_deg, reading.level_db, from_front_deg)
    u_there = math.hypot(
        reading.spread.u(1.0 if lost else float(curve.share[0])),
        of.slow_u_db,
        float(of.between_u_db(from_front_deg, reading.peak_deg)),
    )
    u_peak = reading.u_top_db
    u = math.hypot(u_there, by_aim, u_peak)
    said = partial(show.direction, plane=of.plane)
    parts = [("level there", u_there), ("level at the peak", u_peak), ("where it was aimed", by_aim)]
    working = Working(
        (f"at {said(from_front_deg)} from its front" + (": nothing heard" if lost else ""),),
        tuple((words, show.decibel(part, 2)) for words, part in parts if part > 0.02 * u),
        "local parabolas through the samples",
        "How much weaker it is there than at its peak.",
    )
    figure = Figure("level there", value, u, "dB", working, reading.spread.degrees)
    if lost:
        return replace(figure, bound="at most", high=value + coverage_factor(math.inf, 0.8) * u)
    return with_reflections(figure, of.reflected_db, -value)


class Toward(Frozen):
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
        level = toward(reading, off, by_bearing=True)
        if level is not None:
            out.append(Toward(name, bearing, off, level))
    return tuple(out)
