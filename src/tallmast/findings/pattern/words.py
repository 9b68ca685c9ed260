"""The Pattern's words: what was read of one antenna, in a sentence and a line of detail."""

from __future__ import annotations

import numpy as np

from tallmast.physics.pattern import WIDEST_GAP_DEG
from tallmast.units import show

from ..figure import Figure
from .antenna import AntennaPattern
from .cut import CutReading
from .directivity import INTEGRATED, efficiency
from .flown import Flown
from .marks import Null
from .samples import OwnTurn


def _where(cut: CutReading) -> str:
    """`in azimuth`, `in azimuth, 14° up`."""
    height = cut.of.at_elevation_deg
    up = (
        ""
        if height is None or abs(height) < 2.0
        else f", {show.elevation(height)} up"
        if height > 0
        else f", {show.elevation(height)}"
    )
    return f"in {cut.plane}{up}"


def sentence_of(name: str, cut: CutReading) -> str:
    if cut.coarse:
        return _coarse(name, cut)
    if cut.beamwidth is None and cut.gap_deg > WIDEST_GAP_DEG:
        return f"{name} was cut {_where(cut)} over too little to tell its beam."
    if cut.beamwidth is None:
        even = f", even to {cut.ripple.text}" if cut.ripple else ""
        return f"{name} looks all round {_where(cut)}{even}."
    back = f", {cut.front_to_back.text} front to back" if cut.front_to_back else ""
    return f"{name} has a beam of {cut.beamwidth.text} {_where(cut)}{back}."


SIDES = ((0.0, "in front"), (90.0, "to its right"), (180.0, "behind"), (270.0, "to its left"))


def _side(deg: float, plane: str) -> str:
    """Words for a direction read in few steps."""
    for at, words in SIDES:
        if plane == "azimuth" and abs((deg - at + 180.0) % 360.0 - 180.0) <= 20.0:
            return words
    return f"at {show.direction(deg, plane)}"


def _coarse(name: str, cut: CutReading) -> str:
    n = show.count(len(cut.angle_deg) + len(cut.of.lost_deg), "direction")
    lost = f"; nothing heard {show.join([_side(d, cut.plane) for d in cut.of.lost_deg])}" if cut.of.lost_deg else ""
    if float(cut.level_db.max() - cut.level_db.min()) < 2.0 * cut.spread.random_db and not lost:
        return f"{name}, read in {n}, is alike all round within what so few readings tell."
    back = f", {cut.front_to_back.text} weaker on the opposite side" if cut.front_to_back else ""
    return f"{name}, read in {n}, is strongest {_side(cut.peak_deg, cut.plane)}{back}{lost}."


def own_scale(own: OwnTurn, name: str) -> tuple[str, str]:
    n = show.count(len(own.angle_deg) + len(own.lost_deg), "direction")
    best, worst = (f"{own.value[k]:g} {own.unit}" for k in (own.best, own.worst))
    where, there = (_side(float(own.angle_deg[k]), own.turn.plane) for k in (own.best, own.worst))
    lost = f" Nothing heard {show.join([_side(d, own.turn.plane) for d in own.lost_deg])}." if own.lost_deg else ""
    sentence = f"{name}, read in {n}, shows {best} {where} and {worst} {there}."
    way = _in_the_way(own.blocked, own.angle_deg.tolist(), own.turn.plane)
    return sentence, f"On its own scale: which direction is better, not by how many decibels.{lost}{way}"


def _in_the_way(blocked: tuple[str, ...], angle_deg: list[float], plane: str) -> str:
    there = [f"{words} {_side(a, plane)}" for words, a in zip(blocked, angle_deg, strict=True) if words]
    return f" In the way: {show.join(there)}." if there else ""


def directions_alone(name: str, flown: Flown) -> tuple[str, str]:
    """(sentence, detail) where directions were flown and no turn at one height, nor a climb at one bearing."""
    grid = flown.grid
    if not np.isfinite(grid.level_db).any():
        return f"{name} was flown round over too little to tell where it is strongest.", ""
    at, up = np.unravel_index(int(np.nanargmax(grid.level_db)), grid.level_db.shape)
    where = f"{show.bearing(grid.azimuth_deg[at])}{' from its front' if flown.pointing_noted else ''}"
    height = show.elevation(grid.elevation_deg[up])
    u = float(grid.u_db[at, up])
    told = show.percent(float(np.isfinite(grid.level_db).mean()))
    sentence = f"{name} is strongest toward {where}, {height} up, of the directions that were flown."
    return (
        sentence,
        f"Levels there are known to ± {show.decibel(1.645 * u)}; {told} of what lies between lowest and highest is told.",
    )


def detail_of(focus: AntennaPattern, cut: CutReading) -> str:
    parts = []
    if focus.by_levels is not None and cut.of.way == "flight":
        parts.append(f"By the levels flown it has {focus.by_levels.text}.")
    parts += [f"In {one.cut.plane} it {one.words}." for one in focus.designs]
    towards = [t.words for t in focus.toward if cut.plane == "azimuth"]
    if towards:
        parts.append(show.upper_first(f"{show.join(towards[:3])}."))
    if cut.sector is not None and cut.sector_deg is not None:
        where = show.direction(cut.sector_deg, cut.plane)
        strongest = ""
        if cut.sector_best is not None and cut.sector_best.value - cut.sector.value > 1.0:
            strongest = f", strongest {cut.sector_best.text} at {show.direction(cut.sector_best_deg or 0.0, cut.plane)}"
        parts.append(f"Weakest in the sector that matters: {cut.sector.text} at {where}{strongest}.")
    elif not cut.coarse:
        parts.append("The cut has no sample in the sector that matters.")
    gain = focus.ranges[-1].gain if focus.ranges else focus.substitution
    if gain is not None and focus.directivity is not None and focus.directivity.name == INTEGRATED:
        parts.append(f"Directivity {focus.directivity.text}: {_lost(efficiency(gain, focus.directivity))}.")
    if focus.cross_polar is not None:
        parts.append(f"The wrong way round it is {focus.cross_polar.text} weaker at its peak.")
    if cut.sidelobe:
        parts.append(f"Largest sidelobe {cut.sidelobe.text} at {show.direction(cut.sidelobe_deg or 0, cut.plane)}.")
    parts.append(_in_the_way(cut.of.blocked, cut.of.angle_deg.tolist(), cut.plane).strip() if cut.of.blocked else "")
    if cut.nulls:
        told = [_null(null, cut.plane) for null in cut.nulls[:2]]
        parts.append(f"Null{'s' if len(told) > 1 else ''} {show.join(told)}.")
    return " ".join(filter(None, parts))


def _lost(efficiency_db: Figure) -> str:
    """What stays in an antenna; nothing of it is ever negative."""
    lost, half = -efficiency_db.value, efficiency_db.half
    if lost - half <= 0.0:
        return f"at most {show.decibel(max(lost + half, 0.1))} is lost in it"
    return f"{show.plus_minus(lost, half, 'dB')} is lost in it"


def _null(null: Null, plane: str) -> str:
    wide = f" and {null.width_deg:.0f}° wide" if null.width_deg is not None else ""
    return f"{null.depth.text} deep{wide} at {show.direction(null.at_deg, plane)}"
