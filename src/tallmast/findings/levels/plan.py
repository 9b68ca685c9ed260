"""The link as planned steps, in both directions, from what is on the shelf, in the drawer and noted of the far end."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, FarEnd, HomeEnd, Piece, Place, Radio
from tallmast.physics.decibels import dbm_from_watt
from tallmast.physics.noise import floor_dbm
from tallmast.physics.propagation import free_space_loss_db
from tallmast.units import show

from ..far import far_end_of
from ..field import FieldFinding
from ..figure import Figure
from ..noise_there import Takes, takes
from ..pattern import Mounted
from ..pointed import LEAST_DB, pointed
from ..polarization import loss_between
from ..rails import OPEN_PATH_U_DB, carried, exponent_trouble, model_u_db
from ..way import Way
from .pieces import Drawer, feed_loss, loss_of
from .staircase import Limit, Part, Plan, Planned

if TYPE_CHECKING:
    from ..gain import GainEvidence

LEAST_TOLD_DB = 0.5
PAD_MOST_DB = 60.0


class Path(Frozen, eq=True):
    """Loss between two isotropic antennas over the ground there is."""

    loss_db: float
    u_db: float
    distance_m: float
    basis: str
    measured: bool = False


class PlanInputs(Frozen, eq=True):
    """What both directions need."""

    near: HomeEnd
    far: FarEnd | None
    power_w: float
    """Of home in the test."""
    full_w: float
    """Of home in the end."""
    antenna_name: str
    gain: Figure
    polarization: Figure | None
    path: Path | None
    drawer: Drawer
    frequency_hz: float
    home_radio: Radio | None
    far_radio: Radio | None
    takes_home: Takes | None
    """The weakest that each receiver takes where it stands, noise there in it; None where that is not noted."""
    takes_away: Takes | None
    looks: tuple[tuple[str, float, float], ...] = ()
    """(name, what it gives toward the other end against its peak, u) dB of each antenna whose mount is noted, where the path does not hold
    it already."""


def ends(
    evidence: Evidence,
    antenna: Antenna | None,
    gains: Mapping[str, GainEvidence],
    field: FieldFinding,
    way: Way | None,
    mounted: Mapping[str, Mounted],
) -> PlanInputs | None:
    """Everything for a plan; None without a question and home’s power."""
    made = without_path(evidence, antenna, gains, way.profile.place if way is not None else None)
    if made is None or made.far is None or way is None:
        return made
    path, walked = _path(made, evidence, antenna, gains, field, way)
    looks = _looks(way, field.wanted_bearing_deg(), mounted, antenna, made.far, walked)
    return replace(made, path=path, looks=looks)


def without_path(
    evidence: Evidence, antenna: Antenna | None, gains: Mapping[str, GainEvidence], away: Place | None
) -> PlanInputs | None:
    """What is known of either end by itself, the far one at a place; None without a question and home’s power."""
    question, near, far = evidence.question, evidence.home_end, far_end_of(evidence, gains)
    if question is None or near is None or near.power_w is None:
        return None
    gain = gains[antenna.id].working_value() if antenna else Figure("gain, assumed", 2.15, 3.0, "dBi")
    drawer = Drawer(evidence, question.centre_hz)
    polarization = None
    if antenna is not None and far is not None:
        polarization = loss_between(antenna.polarization, antenna.axial_ratio_db, far.polarization, far.axial_ratio_db)
    return PlanInputs(
        near,
        far,
        near.power_w,
        near.full_power_w or near.power_w,
        antenna.name if antenna else "a dipole",
        gain,
        polarization,
        None,
        drawer,
        question.centre_hz,
        evidence.get(Radio, near.radio_id),
        evidence.get(Radio, far.radio_id) if far else None,
        takes(evidence, near, evidence.home, question.centre_hz),
        takes(evidence, far, away, question.centre_hz) if far else None,
    )


def _looks(
    way: Way,
    toward_deg: float | None,
    mounted: Mapping[str, Mounted],
    antenna: Antenna | None,
    far: FarEnd,
    walked: Antenna | None,
) -> tuple[tuple[str, float, float], ...]:
    """Both ends' of a path that was not measured; by another antenna's runs, against that one."""
    if antenna is None:
        return ()

    def at_home(one: Antenna) -> tuple[float, float]:
        return pointed(way, toward_deg, mounted.get(one.id), "home")

    level, u = at_home(antenna)
    if walked is None:
        told = [(antenna.name, level, u), (far.name, *pointed(way, toward_deg, mounted.get(far.antenna_id), "away"))]
    elif walked.id != antenna.id:
        theirs, theirs_u = at_home(walked)
        told = [(antenna.name, level - theirs, math.hypot(u, theirs_u))]
    else:
        told = []
    return tuple(one for one in told if abs(one[1]) >= LEAST_DB)


def _path(
    e: PlanInputs,
    evidence: Evidence,
    antenna: Antenna | None,
    gains: Mapping[str, GainEvidence],
    field: FieldFinding,
    way: Way,
) -> tuple[Path, Antenna | None]:
    """The way to the wanted place: as the runs tell it, and of which antenna; else free space and what the way takes. The path is the same
    for every antenna, so where the one in focus made no run, that of the antenna with most of them serves."""
    distance = way.distance_m
    assert e.far is not None
    group = field.main
    fit = group.fit if group else None
    walked = antenna
    if fit is not None and group is not None and fit.runs and (antenna is None or not group.walked(antenna.id)):
        walked = evidence.antenna(max(fit.runs, key=lambda key: fit.runs[key])[0])
    tried = group.walked(walked.id) if group is not None and walked is not None else None
    if group is None or fit is None or walked is None or tried is None:
        taken = way.profile.loss_db
        loss = float(free_space_loss_db(distance, e.frequency_hz)) + taken
        over = f" and {show.decibel(taken)} on the way" if taken >= LEAST_TOLD_DB else ""
        words = f"free space{over} at {show.distance(distance)}, not measured"
        return Path(loss, math.hypot(OPEN_PATH_U_DB, way.profile.u_db), distance, words), None
    # As the Link carries it: the two rungs speak of one path.
    if way.beyond is not None and distance > way.beyond.farthest_m:
        over_mean, u = way.beyond.at_place
        level, u = fit.at_mean_dbm(tried) + over_mean, math.hypot(u, fit.run_u_db(tried), group.shared_u_db)
        how = "all models of the path by their merit"
    else:
        level, u, _ = carried(fit, tried, distance)
        u = math.hypot(u, model_u_db(fit.exponent.value, distance, fit.reach_m[1]), group.shared_u_db)
        trouble = exponent_trouble(fit.exponent)
        how = "half way between free space and plane earth" if trouble else f"d^{fit.exponent.value:.2f}"
    gain = gains[walked.id].working_value()
    crossed = loss_between(walked.polarization, walked.axial_ratio_db, e.far.polarization, e.far.axial_ratio_db)
    line = e.near.cable_loss_db + feed_loss(e.drawer, e.near.placed).line_db
    far_line, _ = loss_of(e.drawer, e.far)
    sent = dbm_from_watt(group.power_w or e.power_w) - group.pad_db - line + gain.value
    loss = sent - crossed.value + e.far.gain_dbi - far_line - level
    # Its own gain cancels where the same antenna stands at the end of the sum; another's does not.
    own = antenna is not None and walked.id == antenna.id
    words = f"the runs with {group.names[tried]}, carried to {show.distance(distance)} with {how}"
    return Path(loss, u if own else math.hypot(u, gain.u, crossed.u), distance, words, True), walked


def _piece_step(drawer: Drawer, piece: Piece, setting: float, part: Part, frequency_hz: float) -> Planned:
    taken = drawer.taken(piece, setting)
    limits = []
    if piece.type == "preamp":
        if piece.overload_dbm is not None:
            limits.append(Limit(f"{piece.name}’s overload", piece.overload_dbm, "under", "before"))
        if piece.damage_dbm is not None:
            limits.append(Limit(f"what {piece.name} survives", piece.damage_dbm, "under", "before", True))
    least = most = None
    grain = 0.5
    if piece.type == "step attenuator":
        base = taken.loss_db - setting
        least, most, grain = -(base + (piece.largest_db or PAD_MOST_DB)), -base, piece.step_db
    return Planned(
        piece.id,
        piece.name,
        -taken.loss_db,
        taken.u_db,
        taken.rectangle_db,
        part,
        piece.rating_w,
        tuple(limits),
        least,
        most,
        grain,
    )


def _home(e: PlanInputs, receiving: bool) -> list[Planned]:
    """From the home radio to its antenna's connector; in the order of the signal."""
    near = e.near
    steps = [
        _piece_step(e.drawer, piece, setting, "far" if receiving else "near", e.frequency_hz)
        for piece, setting in e.drawer.placed(near.placed)
        if receiving or piece.type != "preamp"
    ]
    steps += [
        Planned(
            f"pad {i}",
            pad.name,
            -pad.attenuation_db,
            0.0,
            pad.tolerance_db,
            "far" if receiving else "near",
            pad.rating_w if math.isfinite(pad.rating_w) else None,
            (),
            -PAD_MOST_DB,
            0.0,
        )
        for i, pad in enumerate(near.pads)
    ]
    if near.cable_loss_db:
        part: Part = "far" if receiving else "near"
        steps.append(
            Planned("cable", "Cable", -near.cable_loss_db, near.cable_u_db, 0.0, part, None, (), -30.0, 0.0, 0.1)
        )
    return steps[::-1] if receiving else steps


def _far(e: PlanInputs, far: FarEnd, receiving: bool) -> list[Planned]:
    part: Part = "far" if receiving else "near"
    steps = [
        _piece_step(e.drawer, piece, setting, part, e.frequency_hz)
        for piece, setting in e.drawer.placed(far.placed)
        if receiving or piece.type != "preamp"
    ]
    steps += [
        Planned(
            f"far pad {i}", f"{far.name}’s {pad.name}", -pad.attenuation_db, 0.0, pad.tolerance_db, part, pad.rating_w
        )
        for i, pad in enumerate(far.pads)
    ]
    if far.cable_loss_db:
        cable = f"{far.name}’s cable"
        steps.append(Planned("far cable", cable, -far.cable_loss_db, far.cable_u_db, 0.0, part))
    return steps[::-1] if receiving else steps


def _receiver(name: str, there: Takes | None, wanted_db: float, radio: Radio | None) -> list[Limit]:
    """Lines at a receiver's input."""
    limits = []
    if there is not None:
        limits.append(Limit(f"{name}’s sensitivity", there.level_dbm, "over", u_db=there.u_db))
        if wanted_db:
            limits.append(Limit(f"wanted at {name}", there.level_dbm + wanted_db, "over", u_db=there.u_db))
    if radio is not None:
        if radio.overload_dbm is not None:
            limits.append(Limit(f"{name}’s overload", radio.overload_dbm, "under"))
        if radio.damage_dbm is not None:
            limits.append(Limit(f"what {name} survives", radio.damage_dbm, "under", "after", True))
        if radio.noise_figure_db is not None and radio.bandwidth_hz is not None:
            limits.append(Limit(f"{name}’s noise", floor_dbm(radio.noise_figure_db, radio.bandwidth_hz), "over"))
    return limits


def _across(e: PlanInputs, far: FarEnd, path: Path) -> list[Planned]:
    steps = [
        Planned(
            "path", show.distance(path.distance_m), -path.loss_db, path.u_db, part="path", least_db=-250.0, most_db=0.0
        )
    ]
    if e.polarization is not None and (e.polarization.value > 0.05 or e.polarization.u > 0.05):
        steps.append(Planned("polarization", "Polarization", -e.polarization.value, e.polarization.u, part="path"))
    steps += [
        Planned(f"looks {i}", f"Where {name} looks", db, u, part="path") for i, (name, db, u) in enumerate(e.looks)
    ]
    return steps


def _antenna(key: str, name: str, gain_db: float, u_db: float, part: Part, limits: Sequence[Limit] = ()) -> Planned:
    return Planned(key, name, gain_db, u_db, 0.0, part, None, tuple(limits), -20.0, 40.0)


def out(e: PlanInputs, changed: Mapping[str, float]) -> Plan:
    """From home's transmitter to the far receiver; into the air only, where nothing is known of the far end."""
    near, far = e.near, e.far
    legal = (
        [Limit("your limit of EIRP", dbm_from_watt(near.legal_eirp_w), "under", "after", True)]
        if near.legal_eirp_w
        else []
    )
    steps = [
        Planned(
            "power",
            e.home_radio.name if e.home_radio else "Transmitter",
            dbm_from_watt(e.power_w),
            near.power_u_db,
            0.0,
            "near",
            None,
            (),
            -40.0,
            60.0,
            1.0,
        ),
        *_home(e, receiving=False),
        _antenna("antenna", e.antenna_name, e.gain.value, e.gain.u, "near", legal),
    ]
    if far is not None and e.path is not None:
        limits = _receiver(far.name, e.takes_away, far.wanted_db, e.far_radio)
        steps += _across(e, far, e.path)
        steps.append(_antenna("far antenna", f"{far.name}’s antenna", far.gain_dbi, far.gain_u_db, "far"))
        steps += _far(e, far, receiving=True)
        steps[-1] = replace(steps[-1], limits=(*steps[-1].limits, *limits))
    return Plan("out", tuple(steps), near.duty, e.path.basis if e.path else "", changed)


def back(e: PlanInputs, changed: Mapping[str, float]) -> Plan | None:
    """From the far transmitter to home's receiver; None where its power or the path is not known."""
    far = e.far
    if far is None or e.path is None or far.power_w is None:
        return None
    limits = _receiver(e.near.name, e.takes_home, e.near.wanted_db, e.home_radio)
    steps = [
        Planned(
            "far power", far.name, dbm_from_watt(far.power_w), far.power_u_db, 0.0, "near", None, (), -40.0, 60.0, 1.0
        ),
        *_far(e, far, receiving=False),
        _antenna("far antenna", f"{far.name}’s antenna", far.gain_dbi, far.gain_u_db, "near"),
        *_across(e, far, e.path),
        _antenna("antenna", e.antenna_name, e.gain.value, e.gain.u, "far"),
        *_home(e, receiving=True),
    ]
    steps[-1] = replace(steps[-1], limits=(*steps[-1].limits, *limits))
    return Plan("back", tuple(steps), far.duty, e.path.basis, changed)
