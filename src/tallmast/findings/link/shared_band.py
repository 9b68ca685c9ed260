"""Two on one band: how far the wanted signal stands over another sender's at either end, how near that one may come, and which antennas part
them best."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from tallmast.notebook.records import Antenna, Neighbour, Place
from tallmast.physics import diffraction, propagation
from tallmast.physics.decibels import Floats, dbm_from_watt
from tallmast.physics.geodesy import distance_and_bearing
from tallmast.physics.statistics import normal_cdf
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working
from ..levels.pieces import Drawer, feed_loss, loss_of
from ..polarization import loss_between
from .margin import ASSUMED_SCATTER_DB, Ask, Margin
from .worth import End

TURNED_DB = 18.0
"""A reflection turns the sense over: so far under the direct wave what is reflected is taken to be, and it passes whole."""
TURNED_U_DB = 3.0
Toward = Callable[[Antenna, float], tuple[float, float] | None]
"""(level against its peak, standard uncertainty) dB of an antenna so many degrees from its front; None where no cut tells it."""


@dataclass(frozen=True, eq=False, repr=False)
class Shared:
    """One neighbour as one end hears it."""

    neighbour: Neighbour
    end: End
    """That listens."""
    wanted: Figure
    """Level of the wanted sender there, dBm."""
    other: Figure
    """Level of the neighbour there, as the receiver's filter leaves it, dBm."""
    isolation: Figure
    """By polarization, what is reflected included, dB."""
    over: Figure
    """Wanted over the other, dB."""
    chance: float
    """That it is enough."""
    distance_m: float
    """From the neighbour to the end that listens."""
    nearest_m: float | None
    """How near it may come, as it sends now; None where even a metre would do."""
    by_antenna: tuple[tuple[Antenna, Figure], ...]
    """At home: the same with each antenna of the shelf there, the best first."""

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


def _path(ask: Ask, distance_m: float, heights_m: tuple[float, float]) -> float:
    """Free space and the smooth earth."""
    loss = float(propagation.free_space_loss_db(distance_m, ask.frequency_hz))
    return loss + diffraction.smooth_earth_db(distance_m, *heights_m, ask.frequency_hz)


def _where(
    neighbour: Neighbour, places: dict[str, Place], home: Place | None, wanted: Place | None, end: End, ask: Ask
) -> tuple[float, float, float | None] | None:
    """(distance to the end that listens, its height, bearing from home); None where nobody knows."""
    place = places.get(neighbour.place_id)
    height = place.height_m if place is not None else 2.0
    listens = home if end == "home" else wanted
    if place is not None and place.position and listens is not None and listens.position:
        metres, _ = distance_and_bearing(*listens.position, *place.position)
        bearing = (
            float(distance_and_bearing(*home.position, *place.position)[1])
            if home is not None and home.position
            else None
        )
        return max(float(metres), 1.0), height, bearing
    off = place.distance_m if place is not None else neighbour.distance_m
    if off is None:
        return None
    # Of one that is known by its distance from home alone the far end is taken to be as far off as it can be near.
    return (off if end == "home" else max(abs(ask.distance_m - off), 1.0)), height, None


def _heard(
    ask: Ask,
    neighbour: Neighbour,
    end: End,
    antenna: Antenna,
    at: tuple[float, float, float | None],
    toward: Toward,
    wanted_bearing: float | None,
) -> tuple[Figure, Figure]:
    """(level of the neighbour at the receiver, isolation)."""
    distance, height, bearing = at
    drawer = Drawer(ask.evidence, ask.frequency_hz)
    if end == "home":
        gain = ask.gains[antenna.id].working_value()
        line = ask.near.cable_loss_db + feed_loss(drawer, ask.near.placed).line_db + ask.pad_db
        parted = isolation_db(antenna, neighbour.polarization, neighbour.axial_ratio_db)
        own = gain.value, gain.u
        listens_m = ask.heights_m[0]
        off = (bearing - wanted_bearing) if bearing is not None and wanted_bearing is not None else None
        aside = toward(antenna, off) if off is not None else None
    else:
        line = loss_of(drawer, ask.far)[0]
        parted = isolation_db(neighbour, ask.far.polarization, ask.far.axial_ratio_db)
        own, listens_m, aside = (ask.far.gain_dbi, ask.far.gain_u_db), ask.heights_m[1], None
    path = _path(ask, distance, (height, listens_m))
    by_pattern, pattern_u = aside if aside is not None else (0.0, 0.0)
    value = (
        dbm_from_watt(neighbour.power_w)
        + neighbour.gain_dbi
        - path
        + own[0]
        + by_pattern
        - parted.value
        - neighbour.selectivity_db
        - line
    )
    parts = {
        "its path, not measured": ASSUMED_SCATTER_DB,
        "gain there": own[1],
        "gain of its antenna": 1.0,
        "isolation": parted.u,
        "pattern toward it": pattern_u,
        "selectivity": 2.0 if neighbour.selectivity_db else 0.0,
    }
    lines = (
        f"sends {show.decibel(dbm_from_watt(neighbour.power_w), unit='dBm')}, {show.plus(neighbour.gain_dbi, 1)} dBi",
        f"path of {show.distance(distance)}  {show.fixed(-path, 1)} dB",
        f"gain there {show.plus(own[0] + by_pattern, 1)} dBi",
        f"isolation {show.fixed(-parted.value, 1)} dB",
        *([f"receiver’s filter {show.fixed(-neighbour.selectivity_db, 1)} dB"] if neighbour.selectivity_db else []),
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


def _nearest(
    ask: Ask, other: Figure, over: Figure, needed_db: float, distance_m: float, heights_m: tuple[float, float]
) -> float | None:
    """Where the other's level has grown by what is to spare."""
    d: Floats = np.geomspace(1.0, 200_000.0, 240)
    loss = np.array([_path(ask, float(one), heights_m) for one in d])
    allowed = _path(ask, distance_m, heights_m) - (over.value - needed_db)
    near = np.flatnonzero(loss < allowed)
    return float(d[near[-1]]) if len(near) else None


def shared_band(
    ask: Ask,
    margin: Margin,
    neighbours: Sequence[Neighbour],
    places: dict[str, Place],
    home: Place | None,
    wanted: Place | None,
    bearing_deg: float | None,
    toward: Toward,
) -> tuple[Shared, ...]:
    """Every neighbour at both ends, where there is a signal to be heard and its place is known."""
    far = ask.far
    levels: dict[End, Figure | None] = {"away": _level(margin.figure, far.sensitivity_dbm, "at the far end")}
    back = margin.back
    levels["home"] = (
        _level(back, ask.near.sensitivity_dbm, "at home")
        if back is not None and ask.near.sensitivity_dbm is not None
        else None
    )
    out = []
    for neighbour in neighbours:
        for end, level in levels.items():
            at = _where(neighbour, places, home, wanted, end, ask)
            if level is None or at is None:
                continue
            out.append(_shared(ask, neighbour, end, level, margin.antenna, at, toward, bearing_deg))
    return tuple(out)


def _level(margin: Figure, sensitivity_dbm: float, where: str) -> Figure:
    return Figure(
        f"wanted level {where}", margin.value + sensitivity_dbm, margin.u, "dBm", margin.working, margin.degrees
    )


def _shared(
    ask: Ask,
    neighbour: Neighbour,
    end: End,
    level: Figure,
    antenna: Antenna,
    at: tuple[float, float, float | None],
    toward: Toward,
    bearing_deg: float | None,
) -> Shared:
    other, parted = _heard(ask, neighbour, end, antenna, at, toward, bearing_deg)
    over = _over(level, other, neighbour.name)
    listens_m = ask.heights_m[0 if end == "home" else 1]
    best = []
    if end == "home":
        mine = ask.gains[antenna.id].working_value().value
        for one in ask.evidence.antennas:
            if one.id == ask.far.antenna_id:
                continue
            heard, _ = _heard(ask, neighbour, end, one, at, toward, bearing_deg)
            step = ask.gains[one.id].working_value().value - mine
            lost = loss_between(
                one.polarization, one.axial_ratio_db, ask.far.polarization, ask.far.axial_ratio_db
            ).value
            lost -= loss_between(
                antenna.polarization, antenna.axial_ratio_db, ask.far.polarization, ask.far.axial_ratio_db
            ).value
            moved = Figure(level.name, level.value + step - lost, level.u, "dBm", level.working)
            best.append((one, _over(moved, heard, neighbour.name)))
    return Shared(
        neighbour,
        end,
        level,
        other,
        parted,
        over,
        float(normal_cdf((over.value - neighbour.needed_db) / max(over.u, 1e-9))),
        at[0],
        _nearest(ask, other, over, neighbour.needed_db, at[0], (at[1], listens_m)),
        tuple(sorted(best, key=lambda both: -both[1].value)),
    )


def shared_checks(found: Sequence[Shared], far_name: str) -> list[Check]:
    """Whether each neighbour leaves enough, by end."""
    out = []
    for one in found:
        name, needed = one.neighbour.name, one.neighbour.needed_db
        where = "home" if one.end == "home" else far_name
        text = f"{where}: {one.over.text} over {name}, {needed:g} wanted"
        mark = one.enough
        out.append(Check(mark, text, one.over, nearest_words(one)))
        if mark != "holds" and one.isolation.value < 6.0 and not one.neighbour.selectivity_db:
            out.append(
                Check(
                    "open",
                    f"nothing parts {name} from the wanted at {where}",
                    one.isolation,
                    "Another channel, the opposite sense at both ends, or crossed polarization would.",
                )
            )
    return out


def nearest_words(one: Shared) -> str:
    """`The second rover, 800 m off, may come to 310 m as it sends now.`"""
    name = show.upper_first(one.neighbour.name)
    if one.nearest_m is None:
        return f"{name} may come as near as it likes."
    if one.nearest_m > one.distance_m:
        return f"{name}, {show.distance(one.distance_m)} off, would have to be {show.distance(one.nearest_m)} off, send less, or be on another channel."
    return f"{name}, {show.distance(one.distance_m)} off, may come to {show.distance(one.nearest_m)} as it sends now."
