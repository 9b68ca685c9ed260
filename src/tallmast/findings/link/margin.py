"""The margin at the wanted place, by the best basis there is: the runs, another antenna's runs, or free space."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, HomeEnd
from tallmast.physics import propagation
from tallmast.physics.decibels import dbm_from_watt
from tallmast.physics.statistics import normal_cdf
from tallmast.units import show

from ..field.group import Group
from ..field.path import PathFit
from ..field.runs import Tried
from ..figure import Figure, Working, named, parts_of
from ..levels.pieces import Drawer
from ..pointed import LEAST_DB
from ..polarization import loss_between
from ..rails import OPEN_PATH_U_DB, carried, model_u_db
from ..way.beyond import NAMES
from .budget import ASSUMED_SCATTER_DB, LEAST_TAKEN_DB, RECKONED, Ask, fixed_budget, pads_u_db, pointed_db
from .falls import Falls, Reach, reach_of
from .noted_there import bound_by, noted_there

if TYPE_CHECKING:
    from uncertainties import UFloat


class Margin(Frozen):
    """What is left over sensitivity at the wanted place at full power, for one antenna."""

    antenna: Antenna
    figure: Figure
    """Of the median: of many places as far off as that."""
    there: Figure
    """At that very place, which strays from the median as places do."""
    chance: float
    """That a moment at the place is above sensitivity, uncertainty and scatter together."""
    basis: str
    """'measured', 'by its gain on the measured path', 'over the ground' as its heights and obstacles are noted, 'over level ground', or 'free
    space only'."""
    falls: Falls
    ends: Reach | None
    """Where the median level meets the sensitivity; None where that can't be told."""
    back: Figure | None
    """The way back, from the far end's transmitter to home."""
    expected: Figure
    """At that very place, before what was heard or lost counts."""

    @property
    def reach(self) -> Figure | None:
        """How far, km."""
        return self.ends.figure if self.ends is not None else None

    def with_more(self, step_db: float) -> Reach | None:
        """How far with so much more signal."""
        return reach_of(self.falls, self.figure, step_db)


class _Level(Frozen):
    """The median level at the place, by one of the ways to know it."""

    basis: str
    level: UFloat
    lines: list[str]
    scatter_db: float
    degrees: float = math.inf
    scatter_degrees: float = math.inf
    source: str = "the field runs of the others, and its gain"


def margin_of(ask: Ask, antenna: Antenna) -> Margin:
    """Margin of an antenna at a distance, by the best basis there is."""
    at, there = _level(ask, antenna), ask.takes_away
    margin = at.level - named(there.level_dbm, there.u_db, "sensitivity")
    value, u = float(margin.nominal_value), float(margin.std_dev)
    degrees = at.degrees
    # The fit's few degrees of freedom hold only for its own share of the variance (Welch-Satterthwaite).
    if math.isfinite(degrees) and u > 0:
        fit_u = next((float(c) for v, c in margin.error_components().items() if v.tag == "path as fitted"), 0.0)
        degrees = degrees * (u / fit_u) ** 4 if fit_u > 0 else math.inf
    figure = Figure(
        f"margin of {antenna.name}",
        value,
        u,
        "dB",
        Working(
            (
                *at.lines,
                f"level  {show.decibel(float(at.level.nominal_value), unit='dBm')}",
                f"sensitivity  {show.decibel(there.level_dbm, unit='dBm')}",
                *([f"{show.decibel(there.by_noise_db)} of it by {there.words}"] if there.by_noise_db >= 0.05 else []),
                f"margin = {show.plus(value, 1)} dB",
            ),
            parts_of(margin, "dB"),
            at.source,
            "Median level over sensitivity, of many places as far off.",
        ),
        degrees,
    )
    falls = ask.reckoned if at.basis in RECKONED else ask.measured
    here = expected = _there(figure, at)
    chance = float(normal_cdf(value / here.u))
    noted = noted_there(ask, antenna, at.basis in RECKONED)
    if noted is not None:
        figure, here, chance = bound_by(noted, figure, here)
    return Margin(
        antenna, figure, here, chance, at.basis, falls, reach_of(falls, figure), way_back(ask, here), expected
    )


def _there(median: Figure, at: _Level) -> Figure:
    """The margin of the one place."""
    known, scatter = median.working, at.scatter_db
    lines = (*known.lines, f"one place strays from the median by {show.decibel(scatter)}")
    parts = (*known.parts, ("place to place", show.decibel(scatter, 2)))
    u = math.hypot(median.u, scatter)
    below = median.u**4 / median.degrees + scatter**4 / at.scatter_degrees  # Welch-Satterthwaite, JCGM 100 §G.4
    degrees = u**4 / below if below > 0 else math.inf
    meaning = "At this one place, fading left out: the median of many as far off is known better."
    return Figure(median.name, median.value, u, "dB", Working(lines, parts, known.source, meaning), degrees)


def _level(ask: Ask, antenna: Antenna) -> _Level:
    """By the antenna's own runs; by another's and the difference of their gains; else by free space."""
    group, fit = ask.group, ask.group.fit if ask.group else None
    if group is not None and fit is not None:
        tried = group.walked(antenna.id)
        if tried is not None:
            return _as_walked(ask, group, fit, tried)
        other = _walked(ask.evidence, group, fit)
        if other is not None:
            return _as_another(ask, group, fit, antenna, *other)
    total, lines = fixed_budget(ask, antenna, ask.power_w, ask.pad_db)
    return _as_reckoned(ask, total, lines)


def _as_reckoned(ask: Ask, total: UFloat, lines: list[str]) -> _Level:
    """By free space, and by what the way takes beside: as it is noted, else over level ground."""
    loss = float(propagation.free_space_loss_db(ask.distance_m, ask.frequency_hz))
    lines = [*lines, f"free space at {show.distance(ask.distance_m)}  {show.fixed(-loss, 1)} dB"]
    level = total - named(loss, OPEN_PATH_U_DB, "the path, not measured")
    basis, source = "free space only", "Rec. ITU-R P.525, free space"
    profile = ask.way.profile
    if profile.known or profile.loss_db >= LEAST_TAKEN_DB:
        basis = "over the ground" if profile.known else "over level ground"
        source = "Rec. ITU-R P.525; " + "; ".join(dict.fromkeys(loss.source for loss in profile.losses))
        level = level - named(profile.loss_db, profile.u_db, "what is on the way")
        lines += [f"{one.what}  {show.fixed(-one.loss_db, 1)} dB" for one in profile.losses if one.loss_db >= 0.05]
    return _Level(basis, level, lines, ASSUMED_SCATTER_DB, source=source)


class _Carried(Frozen):
    """What the runs say at the distance, with the power and pads asked for."""

    level: UFloat
    at_dbm: float
    """As the runs were made."""
    step_db: float
    """From their power and pads to those asked for."""
    degrees: float
    by: str


def _carried(ask: Ask, group: Group, fit: PathFit, tried: Tried) -> _Carried:
    drawer = Drawer(ask.evidence, ask.frequency_hz)
    step, changes = _changed(ask.near, drawer, group, ask.power_w, ask.pad_db)
    beyond = ask.way.beyond
    if beyond is not None and ask.distance_m > beyond.farthest_m:
        over, u = beyond.at_place
        value, run_u = fit.at_mean_dbm(tried) + over, fit.run_u_db(tried)
        level = named(value, run_u, "path as fitted") + named(0.0, u, "path’s model, beyond the places") + changes
        return _Carried(level + _zero(group), value, step, fit.spread.degrees, "foretold")
    value, u, degrees = carried(fit, tried, ask.distance_m)
    level = named(value, u, "path as fitted") + changes + _beyond(fit, ask.distance_m) + _zero(group)
    return _Carried(level, value, step, degrees, "fitted")


def _as_walked(ask: Ask, group: Group, fit: PathFit, tried: Tried) -> _Level:
    at = _carried(ask, group, fit, tried)
    lines = [
        f"{at.by} at {show.distance(ask.distance_m)}  {show.decibel(at.at_dbm, unit='dBm')}",
        f"less pad, more power  {show.plus(at.step_db, 1)} dB",
    ]
    source = "the field runs, fitted and continued"
    if at.by == "foretold" and ask.way.beyond is not None:
        models = ask.way.beyond.models
        lines.append(f"the mean of {len(models)} models, {NAMES[models[0].key]} {show.percent(models[0].weight)} of it")
        source = "the field runs, and models of the path by how well they foretell places left out"
    return _Level("measured", at.level, lines, fit.own_scatter_db[tried], at.degrees, fit.path_degrees, source)


def _as_another(ask: Ask, group: Group, fit: PathFit, antenna: Antenna, other: Antenna, tried: Tried) -> _Level:
    at = _carried(ask, group, fit, tried)
    mine, theirs = ask.gains[antenna.id].working_value(), ask.gains[other.id].working_value()
    far = ask.far
    p_mine, p_other = (
        loss_between(one.polarization, one.axial_ratio_db, far.polarization, far.axial_ratio_db)
        for one in (antenna, other)
    )
    (one_looks, one_u), (other_looks, other_u) = pointed_db(ask, antenna), pointed_db(ask, other)
    looks, looks_u = one_looks - other_looks, math.hypot(one_u, other_u)
    level = (
        at.level
        + named(mine.value, mine.u, f"gain of {antenna.name}")
        - named(theirs.value, theirs.u, f"gain of {other.name}")
        - named(p_mine.value - p_other.value, math.hypot(p_mine.u, p_other.u), "polarization")
        + named(looks, looks_u, "where they look")
    )
    lines = [
        f"{other.name} {at.by} at {show.distance(ask.distance_m)}  {show.decibel(at.at_dbm, unit='dBm')}",
        f"pad and power  {show.plus(at.step_db, 1)} dB",
        f"gain against it  {show.plus(mine.value - theirs.value, 1)} dB",
        f"polarization against it  {show.plus(p_other.value - p_mine.value, 1)} dB",
        *([f"pointing against it  {show.plus(looks, 1)} dB"] if abs(looks) >= LEAST_DB else []),
    ]
    scatter = fit.own_scatter_db[tried]
    return _Level("by its gain on the measured path", level, lines, scatter, at.degrees, fit.path_degrees)


def way_back(ask: Ask, out: Figure) -> Figure | None:
    """The margin from the far end's transmitter to home by that out; None where its power or home's receiver is not noted."""
    near, far = ask.near, ask.far
    home, away = ask.takes_home, ask.takes_away
    if not far.power_w or home is None:
        return None
    power_db = dbm_from_watt(far.power_w) - dbm_from_watt(ask.power_w)
    receiver_db = away.level_dbm - home.level_dbm
    return Figure(
        "margin, the way back",
        out.value + power_db + receiver_db + ask.pad_db,
        # The level out rests on what home sent, the level back on what the far end sends, and on home's receiver.
        math.hypot(out.u, far.power_u_db, near.power_u_db, home.u_db),
        "dB",
        Working(
            (
                f"margin out {show.plus(out.value, 1)} dB",
                f"other power {show.plus(power_db, 1)} dB",
                f"other receiver {show.plus(receiver_db, 1)} dB"
                + (f", {home.words}" if home.by_noise_db >= 0.05 else ""),
            ),
            (
                ("the margin out", show.decibel(out.u, 2)),
                (f"what {far.name} sends", show.decibel(far.power_u_db, 2)),
                ("what home sends", show.decibel(near.power_u_db, 2)),
                ("what home takes", show.decibel(home.u_db, 2)),
            ),
            "the path is the same both ways (reciprocity)",
            "A decibel is a decibel both ways, until noise makes the ends differ.",
        ),
        out.degrees,
    )


def _walked(evidence: Evidence, group: Group, fit: PathFit) -> tuple[Antenna, Tried] | None:
    """The antenna with most runs over a path, of those that are still in the notebook, in the state that stands for it."""
    there = [(a, t) for a in evidence.antennas if (t := group.walked(a.id)) is not None]
    return max(there, key=lambda both: fit.runs[both[1]], default=None)


def _zero(group: Group) -> UFloat:
    """What the zero of the display or meter leaves open of every level that was read on it."""
    return named(0.0, group.shared_u_db, "zero of what the levels were read on")


def _changed(near: HomeEnd, drawer: Drawer, group: Group, power_w: float, pad_db: float) -> tuple[float, UFloat]:
    """From the runs' power and pads to those asked for: (dB, the same with its named uncertainties)."""
    power = dbm_from_watt(power_w) - dbm_from_watt(group.power_w or near.power_w or power_w)
    pads = group.pad_db - pad_db
    # What another setting sends is as uncertain as the transmitter's power; the same setting cancels.
    power_u = near.power_u_db if abs(power) > 0.05 else 0.0
    pads_u = pads_u_db(near, drawer, pads) if abs(pads) > 0.05 else 0.0
    return power + pads, named(power, power_u, "power, then and now") + named(pads, pads_u, "pads")


def _beyond(fit: PathFit, distance_m: float) -> UFloat:
    """Nothing, with the uncertainty of the path's model beyond the places measured."""
    return named(0.0, model_u_db(fit.exponent.value, distance_m, fit.reach_m[1]), "path’s model, beyond the places")
