"""Two on one band: how far the wanted signal stands over another sender's at either end, how near that one may come, and which antennas part
them best."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna, ListeningEnd, Neighbour
from tallmast.physics import diffraction, propagation
from tallmast.physics.decibels import Floats, dbm_from_watt
from tallmast.physics.geodesy import distance_and_bearing
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..field import FieldFinding
from ..figure import Check, Figure, Mark, Working
from ..levels.pieces import Drawer, feed_loss, loss_of
from ..polarization import loss_between
from .budget import ASSUMED_SCATTER_DB, RECKONED, Ask
from .margin import Margin, way_back
from .trials import Breaks, Compared, breaks_of, filter_of

TURNED_DB = 18.0
"""A reflection turns the sense over: so far under the direct wave what is reflected is taken to be, and it passes whole."""
TURNED_U_DB = 3.0
LEAST_PARTED_DB = 6.0
SELECTIVITY_U_DB, OTHER_GAIN_U_DB = 2.0, 1.0


class Stands(Frozen, eq=True):
    """Where a neighbour stands, as an end has it."""

    distance_m: float
    height_m: float
    bearing_deg: float | None
    """From home."""


class Shared(Frozen):
    """One neighbour as one end hears it."""

    neighbour: Neighbour
    end: ListeningEnd
    """That listens."""
    wanted: Figure
    """Level of the wanted sender there, dBm."""
    other: Figure
    """Level of the neighbour there, as the receiver's filter leaves it, dBm."""
    isolation: Figure
    """By polarization, what is reflected included, dB."""
    over: Figure
    """Wanted over the other, dB."""
    distance_m: float
    """From the neighbour to the end that listens."""
    nearest: Figure | None
    """How near it may come as it sends now, km; None where even a metre would do."""
    by_antenna: tuple[tuple[Antenna, Figure], ...]
    """At home: the same with each antenna of the shelf there, the best first."""
    breaks: Breaks | None
    """At home: how far the wanted one may go before this one breaks it."""

    @property
    def enough(self) -> Mark:
        low, high = self.over.interval
        needed = self.neighbour.needed_db
        return "holds" if low >= needed else "fails" if high < needed else "open"


def isolation_db(one: Antenna | Neighbour, kind: str, ratio: float | None) -> Figure:
    """What crossed or opposite waves take, one reflection allowed for: the direct wave by both ellipses, and what is reflected whole."""
    direct = loss_between(one.polarization, one.axial_ratio_db, kind, ratio)  # type: ignore[arg-type]
    value = -10.0 * math.log10(10.0 ** (-direct.value / 10.0) + 10.0 ** (-TURNED_DB / 10.0))
    share = 10.0 ** (-direct.value / 10.0) * 10.0 ** (value / 10.0)
    u = math.hypot(share * direct.u, (1.0 - share) * TURNED_U_DB)
    lines = (f"by both ellipses {direct.text}", f"what a reflection turns over, {TURNED_DB:g} dB down, passes whole")
    return Figure(
        "isolation",
        max(value, 0.0),
        u,
        "dB",
        Working(lines, (), direct.working.source, "Near walls and craft more is reflected, and less is parted."),
    )


def _path(ask: Ask, distance_m: ArrayLike, heights_m: tuple[float, float]) -> Floats:
    """Free space and the smooth earth, shape of the distances."""
    k = ask.way.profile.conditions.k_factor
    loss = propagation.free_space_loss_db(distance_m, ask.frequency_hz)
    return loss + diffraction.smooth_earth_db(distance_m, *heights_m, ask.frequency_hz, k)


def _stands(neighbour: Neighbour, ask: Ask, field: FieldFinding, end: ListeningEnd) -> Stands | None:
    """None where nobody knows."""
    place, home = ask.evidence.place(neighbour.place_id), field.home
    height = place.height_m if place is not None else 2.0
    listens = home if end == "home" else field.wanted
    if place is not None and place.position and listens is not None and listens.position:
        metres, _ = distance_and_bearing(*listens.position, *place.position)
        bearing = None
        if home is not None and home.position is not None:
            bearing = float(distance_and_bearing(*home.position, *place.position)[1])
        return Stands(max(float(metres), 1.0), height, bearing)
    off = place.distance_m if place is not None else neighbour.distance_m
    if off is None:
        return None
    # Of one that is known by its distance from home alone the far end is taken to be as near as it can be.
    return Stands(off if end == "home" else max(abs(ask.distance_m - off), 1.0), height, None)


def _heard(
    ask: Ask,
    neighbour: Neighbour,
    end: ListeningEnd,
    antenna: Antenna,
    at: Stands,
    aside: tuple[float, float] | None,
    by_filter: Figure | None,
) -> tuple[Figure, Figure]:
    """(level of the neighbour at the receiver, isolation); `aside`: what the antenna that listens loses toward it; `by_filter`: what the
    receiver was found to take out at that spacing, where it was tried."""
    taken_out = by_filter.value if by_filter is not None else neighbour.selectivity_db
    distance, height = at.distance_m, at.height_m
    drawer, profile = Drawer(ask.evidence, ask.frequency_hz), ask.way.profile
    if end == "home":
        gain = ask.gains[antenna.id].working_value()
        line = ask.near.cable_loss_db + feed_loss(drawer, ask.near.placed).line_db + ask.pad_db
        parted = isolation_db(antenna, neighbour.polarization, neighbour.axial_ratio_db)
        own, listens_m = (gain.value, gain.u), profile.home_height_m
    else:
        line = loss_of(drawer, ask.far)[0]
        parted = isolation_db(neighbour, ask.far.polarization, ask.far.axial_ratio_db)
        own, listens_m = (ask.far.gain_dbi, ask.far.gain_u_db), profile.away_height_m
    path = float(_path(ask, distance, (height, listens_m)))
    by_pattern, pattern_u = aside if aside is not None else (0.0, 0.0)
    value = (
        dbm_from_watt(neighbour.power_w)
        + neighbour.gain_dbi
        - path
        + own[0]
        + by_pattern
        - parted.value
        - taken_out
        - line
    )
    parts = {
        "its path, not measured": ASSUMED_SCATTER_DB,
        "gain there": own[1],
        "gain of its antenna": OTHER_GAIN_U_DB,
        "isolation": parted.u,
        "pattern toward it": pattern_u,
        "selectivity": by_filter.u if by_filter is not None else SELECTIVITY_U_DB if taken_out else 0.0,
    }
    lines = (
        f"sends {show.decibel(dbm_from_watt(neighbour.power_w), unit='dBm')}, {show.plus(neighbour.gain_dbi, 1)} dBi",
        f"path of {show.distance(distance)}  {show.fixed(-path, 1)} dB",
        f"gain there {show.plus(own[0] + by_pattern, 1)} dBi",
        f"isolation {show.fixed(-parted.value, 1)} dB",
        *(
            [
                f"filter, {show.frequency(neighbour.spacing_hz)} off  {show.fixed(-taken_out, 1)} dB{', as tried' if by_filter is not None else ''}"
            ]
            if neighbour.spacing_hz
            else []
        ),
    )
    u = math.hypot(*parts.values())
    told = tuple((name, show.decibel(part, 2)) for name, part in parts.items() if part > 0)
    return Figure(
        f"level of {neighbour.name}",
        value,
        u,
        "dBm",
        Working(lines, told, "Rec. ITU-R P.525 and P.526-15 §3.2", "As the receiver’s filter leaves it."),
    ), parted


def _aside(ask: Ask, antenna: Antenna, bearing_deg: float, wanted_deg: float) -> tuple[float, float] | None:
    """(what it gives toward the neighbour against its peak, u) dB; None of one that is not known."""
    one = ask.mounted.get(antenna.id)
    if one is None:
        return None
    level = float(one.level_db(bearing_deg, 0.0, wanted_deg))
    return level, float(one.u_db(level))


def _over(wanted: Figure, other: Figure, name: str) -> Figure:
    lines = (f"wanted {show.decibel(wanted.value, unit='dBm')}", f"{name} {show.decibel(other.value, unit='dBm')}")
    parts = (("level of the wanted", show.decibel(wanted.u, 2)), (f"level of {name}", show.decibel(other.u, 2)))
    return Figure(
        f"wanted over {name}",
        wanted.value - other.value,
        math.hypot(wanted.u, other.u),
        "dB",
        Working(
            lines,
            parts,
            "C/I as the difference of two levels",
            "What of it is needed goes by how the receiver sends: your system’s capture or protection ratio.",
        ),
    )


def _nearest(ask: Ask, over: Figure, needed_db: float, at: Stands, listens_m: float) -> Figure | None:
    """Where the other's level has grown by what is to spare."""
    d: Floats = np.geomspace(1.0, 200_000.0, 240)
    heights = at.height_m, listens_m
    loss = _path(ask, d, heights)
    now, ends = float(_path(ask, at.distance_m, heights)), []
    for spare in (over.value, *over.interval):
        near = np.flatnonzero(loss < now - (spare - needed_db))
        ends.append(float(d[near[-1]]) / 1e3 if len(near) else 0.0)
    value, high, low = ends
    if value <= 0.0:
        return None
    lines = (f"wanted over it {over.text} at {show.distance(at.distance_m)}, {needed_db:g} dB needed",)
    parts = (("wanted over the other", show.decibel(over.u, 1)),)
    working = Working(lines, parts, "Rec. ITU-R P.525 and P.526-15 §3.2", "As it sends now, over level ground.")
    u = 0.5 * (high - low) / coverage_factor(math.inf)
    return Figure("how near it may come", value, u, "km", working, low=low, high=high, digits=1 if value >= 1 else 2)


def shared_band(ask: Ask, margin: Margin, field: FieldFinding, pairs: Sequence[Compared]) -> tuple[Shared, ...]:
    """Every neighbour at both ends, where there is a signal to be heard and its place is known; `pairs` as they were tried."""
    # What nobody measured of the ground both paths share, and only one of the two doubts of a reckoned margin is its own.
    there = margin.figure if margin.basis in RECKONED else margin.there
    levels: list[tuple[ListeningEnd, Figure]] = [("away", _level(there, ask.takes_away.level_dbm, "at the far end"))]
    back = way_back(ask, there)
    if back is not None and ask.takes_home is not None:
        levels.append(("home", _level(back, ask.takes_home.level_dbm, "at home")))
    out = []
    for neighbour in ask.evidence.all(Neighbour):
        for end, level in levels:
            at = _stands(neighbour, ask, field, end)
            if at is not None:
                by_filter = filter_of(neighbour, pairs)
                out.append(_shared(ask, margin, neighbour, end, level, at, field.wanted_bearing_deg(), by_filter))
    return tuple(out)


def _level(margin: Figure, sensitivity_dbm: float, where: str) -> Figure:
    return Figure(
        f"wanted level {where}", margin.value + sensitivity_dbm, margin.u, "dBm", margin.working, margin.degrees
    )


def _shared(
    ask: Ask,
    margin: Margin,
    neighbour: Neighbour,
    end: ListeningEnd,
    level: Figure,
    at: Stands,
    wanted_deg: float | None,
    by_filter: Figure | None,
) -> Shared:
    antenna = margin.antenna

    def heard_by(one: Antenna) -> tuple[Figure, Figure]:
        aside = None
        if end == "home" and at.bearing_deg is not None and wanted_deg is not None:
            aside = _aside(ask, one, at.bearing_deg, wanted_deg)
        return _heard(ask, neighbour, end, one, at, aside, by_filter)

    other, parted = heard_by(antenna)
    over = _over(level, other, neighbour.name)
    profile = ask.way.profile
    listens_m = profile.home_height_m if end == "home" else profile.away_height_m
    others = [a for a in ask.evidence.antennas if a.id != ask.far.antenna_id] if end == "home" else []
    best = [(one, _over(_as_heard_with(ask, level, antenna, one), heard_by(one)[0], neighbour.name)) for one in others]
    return Shared(
        neighbour,
        end,
        level,
        other,
        parted,
        over,
        at.distance_m,
        _nearest(ask, over, neighbour.needed_db, at, listens_m),
        tuple(sorted(best, key=lambda both: -both[1].value)),
        breaks_of(ask, margin, over, neighbour.needed_db) if end == "home" else None,
    )


def _as_heard_with(ask: Ask, level: Figure, now: Antenna, other: Antenna) -> Figure:
    """The wanted level with another antenna in place of one."""
    gains = [ask.gains[a.id].working_value().value for a in (other, now)]
    far = ask.far.polarization, ask.far.axial_ratio_db
    lost = [loss_between(a.polarization, a.axial_ratio_db, *far).value for a in (other, now)]
    return Figure(level.name, level.value + gains[0] - gains[1] - lost[0] + lost[1], level.u, "dBm", level.working)


def shared_checks(found: Sequence[Shared], noted: Sequence[Neighbour], far_name: str) -> list[Check]:
    """Whether each neighbour leaves enough, by end; and of which nothing can be told."""
    out = []
    for one in found:
        name, needed = one.neighbour.name, one.neighbour.needed_db
        where = "home" if one.end == "home" else far_name
        text = (
            f"{where}: {show.plus_minus(one.over.value, one.over.half, 'dB', sign=True)} over {name}, {needed:g} wanted"
        )
        out.append(Check(one.enough, text, one.over, nearest_words(one)))
        if one.enough != "holds" and one.isolation.value < LEAST_PARTED_DB and not one.neighbour.selectivity_db:
            why = "Another channel, the opposite sense at both ends, or crossed polarization would."
            out.append(Check("open", f"nothing parts {name} from the wanted at {where}", one.isolation, why))
    for neighbour in noted:
        mine = {one.end for one in found if one.neighbour.id == neighbour.id}
        if not mine:
            why = "Note how far from home it stands, or a place with a position or a distance."
            out.append(Check("open", f"where {neighbour.name} stands is not known", None, why))
        elif "home" not in mine:
            why = "What home hears of the wanted one takes the far end’s power and the weakest signal that home takes."
            out.append(Check("open", f"{neighbour.name} is not held against what home hears", None, why))
    return out


def nearest_words(one: Shared) -> str:
    """`The second rover, 800 m off, may come to 310 m as it sends now.`"""
    name = show.upper_first(one.neighbour.name)
    if one.nearest is None:
        return f"{name} may come as near as it likes."
    near = show.distance(one.nearest.value * 1e3)
    if one.nearest.value * 1e3 > one.distance_m:
        return f"{name}, {show.distance(one.distance_m)} off, would have to be {near} off, send less, or be on another channel."
    words = f"{name}, {show.distance(one.distance_m)} off, may come to {near} as it sends now."
    if one.breaks is not None and one.breaks.at is not None:
        words += f" The wanted one may go out to {one.breaks.at.text} before it is broken at home."
    return words
