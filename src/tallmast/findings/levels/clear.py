"""How far people must stay away, by each published limit."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, get_args

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Emitter, FarEnd, HomeEnd, Neighbour, Station
from tallmast.notebook.records.stations import NearPeople
from tallmast.physics import exposure
from tallmast.physics.decibels import dbm_from_watt, power_ratio, watt_from_dbm
from tallmast.physics.field_strength import density_w_per_m2, field_v_per_m
from tallmast.physics.geodesy import distance_and_bearing
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show
from tallmast.units.scales import FIELDS, inward, scale

from ..aims import Aims, focus
from ..far import far_end_of
from ..figure import Check, Figure, Mark, Working
from .compare import Compared
from .pieces import Drawer, feed_loss

if TYPE_CHECKING:
    from ..gain import GainEvidence

GROUND = 2.56
"""Density with the ground's reflection against free space: field × 1.6 (FCC OET Bulletin 65, eq. 7)."""
GUIDANCE = "Guidance for the far field. Your licence and local rules decide."
NEAR_M = 50.0
"""Somebody who works at home walks as far as that."""
HAND_HEIGHT_M = 2.5
"""Below this a grown person reaches an antenna."""
HOT_SHARE = 0.25
"""Of its rating: from here on a pad gets too hot to hold."""


class Clear(Frozen):
    """Clear distance by one limit, with and without the ground."""

    limit: exposure.Limit
    with_ground: Figure
    free_space: Figure

    @property
    def words(self) -> str:
        return exposure.SOURCES[self.limit].split(",")[0]


def _distance(eirp_w: float, duty: float, frequency_hz: float, limit: exposure.Limit, ground: float) -> Figure:
    density = exposure.power_density_limit(frequency_hz, limit)
    distance = exposure.clear_distance_m(eirp_w, duty, frequency_hz, limit, ground)
    factor = "·2.56" if ground != 1.0 else ""
    working = Working(
        (
            f"d = √(EIRP·duty{factor} / 4πS)",
            f"EIRP {show.power(eirp_w)} (upper end of its interval)",
            f"duty {show.percent(duty)}, averaged over {exposure.AVERAGED_OVER[limit]}",
            f"S = {density:.3g} W/m² at {show.frequency(frequency_hz)}",
            f"d = {show.distance(distance)}, never under λ/2π",
            f"field there {show.field_strength(field_v_per_m(eirp_w, distance))} while on the air",
        ),
        (),
        exposure.SOURCES[limit] + ("; ground reflection by FCC OET-65 eq. 7" if ground != 1.0 else ""),
        f"{GUIDANCE} Never transmit without an antenna or a load; keep live antennas out of reach.",
    )
    return _clear_figure("clear distance", distance, working)


HELD = re.compile(r"hand-?held|in (?:the|my|one|his|her) hand|walkie|body of a radio", re.IGNORECASE)
WORN = re.compile(r"\bworn\b|\bbelt\b|on (?:the|my) (?:body|chest|wrist|shoulder)", re.IGNORECASE)
"""As people note that an antenna is held, or worn, in its handling, its fixture, its name or its place."""


class Sender(Frozen):
    """A transmitter that people may be near, at its full power."""

    name: str
    eirp: Figure
    near_people: NearPeople
    clears: tuple[Clear, ...]
    """By every limit that covers the frequency; none of one that is held or worn."""
    clear: Figure | None
    """By the limit chosen."""

    @property
    def words(self) -> str:
        """What to mind of it; of one that is held or worn no far-field distance is told."""
        if self.near_people:
            return (
                f"{show.upper_first(self.name)} is {self.near_people}: no far-field distance applies; its maker’s exposure "
                "statement and local rules decide."
            )
        if self.clear is None:
            return f"Keep clear of {self.name}."
        return f"Stand {self.clear.short} clear of {self.name} at full power."


class Radiated(Frozen):
    """All that sends near people, and how far they must stay away."""

    home: Sender | None
    others: tuple[Sender, ...]
    """The far end, and whatever else sends on the band or near it."""
    within_reach: bool
    """Whether home's stands no higher than a hand: nobody may have noted that it is held."""
    side_by_side: Figure | None
    """How far from home's and the far end's where they stand beside each other, as a craft does before it starts."""

    @property
    def senders(self) -> tuple[Sender, ...]:
        return (self.home, *self.others) if self.home is not None else self.others

    @property
    def words(self) -> tuple[str, ...]:
        """What to mind of every sender."""
        apart = [sender for sender in self.senders if not sender.near_people]
        told = [sender.words for sender in self.senders if sender.near_people]
        known = [f"{sender.clear.short} of {sender.name}" for sender in apart if sender.clear is not None]
        if self.side_by_side is not None:
            known.append(f"{self.side_by_side.short} of both ends side by side")
        if known:
            told.insert(0, f"Stand clear at full power: {', '.join(known)}.")
        told += [sender.words for sender in apart if sender.clear is None]
        if self.within_reach and self.home is not None and self.home.clear is not None:
            told.append("In the hand or on the body no such distance applies: its maker’s exposure statement decides.")
        return tuple(told)


class _ExposureLimit(Frozen):
    """By which limit, and whether the ground adds to it; duty of the sender at hand."""

    limit: exposure.Limit
    ground: bool


def radiated(evidence: Evidence, aims: Aims, gains: Mapping[str, GainEvidence]) -> Radiated | None:
    """Of the antenna in focus, whatever lies on the path, and of all else that sends; None without a question, or where nothing does."""
    question, near, far = evidence.question, evidence.home_end, far_end_of(evidence, gains)
    if question is None:
        return None
    by = _ExposureLimit(near.limit, near.ground_reflection) if near is not None else _ExposureLimit("icnirp-2020", True)
    drawer = Drawer(evidence, question.centre_hz)
    antenna = focus(evidence, aims)
    home = None
    if near is not None and near.most_w:
        gain = gains[antenna.id].working_value() if antenna else Figure("gain, assumed", 2.15, 3.0, "dBi")
        name = antenna.name if antenna else "a dipole"
        eirp = _full_eirp(near, drawer, near.most_w, name, gain)
        home = _sender(name, eirp, near.duty, question.centre_hz, by, _at_home(evidence, near, antenna))
    others = [*_far(far, drawer, question.centre_hz, by), *_around(evidence, question.centre_hz, by)]
    if home is None and not others:
        return None
    side = _side_by_side(home, others[0]) if home is not None and far is not None and far.power_w else None
    stands = evidence.home
    within_reach = stands is None or stands.height_m < HAND_HEIGHT_M
    return Radiated(home, tuple(others), within_reach, side)


def _sender(
    name: str, eirp: Figure, duty: float, frequency_hz: float, by: _ExposureLimit, near_people: NearPeople
) -> Sender:
    """The gain may be higher than thought: the upper end of the EIRP's uncertainty is taken, since this keeps people clear."""
    if near_people:
        return Sender(name, eirp, near_people, (), None)
    eirp_w = watt_from_dbm(eirp.value + 1.645 * eirp.u)
    clears = []
    for limit in get_args(exposure.Limit):
        try:
            pair = [_distance(eirp_w, duty, frequency_hz, limit, ground) for ground in (GROUND, 1.0)]
        except ValueError:
            continue
        clears.append(Clear(limit, *pair))
    chosen = next((c for c in clears if c.limit == by.limit), None)
    clear = None if chosen is None else chosen.with_ground if by.ground else chosen.free_space
    return Sender(name, eirp, near_people, tuple(clears), clear)


def _far(far: FarEnd | None, drawer: Drawer, frequency_hz: float, by: _ExposureLimit) -> Iterator[Sender]:
    if far is not None and far.power_w:
        gain = Figure("gain", far.gain_dbi, far.gain_u_db, "dBi")
        eirp = _full_eirp(far, drawer, far.power_w, far.name, gain)
        yield _sender(far.name, eirp, far.duty, frequency_hz, by, _noted_near(far, (far.name,)))


def _around(evidence: Evidence, frequency_hz: float, by: _ExposureLimit) -> Iterator[Sender]:
    """Whoever else sends, on the band or off it, where home's people are near it."""
    for one in evidence.all(Neighbour):
        if _away_m(evidence, one) > NEAR_M:
            continue
        eirp_dbm = dbm_from_watt(one.power_w) + one.gain_dbi
        working = Working((f"{show.power(one.power_w)} {show.plus(one.gain_dbi, 1)} dBi",), (), "as noted")
        eirp = Figure("EIRP", eirp_dbm, 0.0, "dBm", working)
        yield _sender(one.name, eirp, 1.0, frequency_hz, by, _noted_near(None, (one.name,)))
    for emitter in evidence.all(Emitter):
        if emitter.eirp_w and emitter.distance_m is not None and emitter.distance_m <= NEAR_M:
            working = Working((f"EIRP {show.power(emitter.eirp_w)}",), (), "as noted")
            eirp = Figure("EIRP", dbm_from_watt(emitter.eirp_w), 0.0, "dBm", working)
            yield _sender(emitter.name, eirp, 1.0, emitter.frequency_hz, by, "")


def _away_m(evidence: Evidence, neighbour: Neighbour) -> float:
    """How far from home's people a neighbour stands; nothing where nobody noted it: it may stand beside them."""
    place, home = evidence.place(neighbour.place_id), evidence.home
    if place is None:
        return neighbour.distance_m or 0.0
    if home is not None and home.position is not None and place.position is not None:
        return float(distance_and_bearing(*home.position, *place.position)[0])
    return 0.0 if home is not None and place.id == home.id else place.distance_m or math.inf


def _at_home(evidence: Evidence, near: HomeEnd, antenna: Antenna | None) -> NearPeople:
    """Whether it is held or worn, by what is noted of the end, the antenna, its fixtures and its place; what stands higher than a hand
    reaches is neither, whatever it was once swept on."""
    home = evidence.home
    if home is not None and home.height_m >= HAND_HEIGHT_M:
        return near.near_people
    words = [near.name, *((home.name, home.note) if home is not None else ())]
    if antenna is not None:
        words += [antenna.name, antenna.handling, *(sweep.fixture for sweep in evidence.sweeps(antenna.id))]
    return _noted_near(near, words)


def _noted_near(station: Station | None, words: Sequence[str]) -> NearPeople:
    if station is not None and station.near_people:
        return station.near_people
    if any(HELD.search(one) for one in words):
        return "held"
    return "worn" if any(WORN.search(one) for one in words) else ""


def _side_by_side(one: Sender, other: Sender) -> Figure | None:
    """Densities add: d² is the sum of both squares (ICNIRP 2020, simultaneous exposure to several sources)."""
    if one.clear is None or other.clear is None:
        return None
    apart = metres(one.clear), metres(other.clear)
    distance = math.hypot(*apart)
    lines = (
        f"{one.name} {show.distance(apart[0])}, {other.name} {show.distance(apart[1])}",
        f"d = √(d₁² + d₂²) = {show.distance(distance)}",
    )
    working = Working(lines, (), "shares of the limit add; ICNIRP Guidelines 2020", one.clear.working.meaning)
    return _clear_figure("clear distance, side by side", distance, working)


def _clear_figure(name: str, distance_m: float, working: Working) -> Figure:
    if distance_m < 1.0:
        return Figure(name, distance_m * 100.0, 0.0, "cm", working, digits=0)
    return Figure(name, distance_m, 0.0, "m", working, digits=1)


def _full_eirp(end: Station, drawer: Drawer, power_w: float, name: str, gain: Figure) -> Figure:
    """What is radiated without pads."""
    line = feed_loss(drawer, end.placed)
    line_db = end.cable_loss_db + line.line_db
    full_dbm = dbm_from_watt(power_w) - line_db + gain.value
    parts = (
        (f"gain of {name}", gain.u),
        ("transmitter", end.power_u_db),
        ("cable", end.cable_u_db),
        ("line", line.line_u_db),
    )
    return Figure(
        "EIRP at full power",
        full_dbm,
        math.hypot(*(u for _, u in parts)),
        "dBm",
        Working(
            (
                f"{show.power(power_w)} − {line_db:g} dB cable {show.plus(gain.value, 1)} dBi",
                f"= {show.power(watt_from_dbm(full_dbm))}",
            ),
            tuple((words, f"{u:.2f} dB") for words, u in parts if u > 0.005),
            "sum in decibels",
            "Without pads, as the link will be used.",
        ),
    )


def metres(figure: Figure) -> float:
    return figure.value / 100.0 if figure.unit == "cm" else figure.value


METER_U_DB = 2.0
"""Standard uncertainty of a field that was read on a broadband meter, dB: as their makers state it, nearly."""


def measured_field_checks(evidence: Evidence, compared: Sequence[Compared]) -> list[Check]:
    """Every field that was measured, or noted as it is here, against the limit chosen."""
    question, near = evidence.question, evidence.home_end
    limit: exposure.Limit = near.limit if near is not None else "icnirp-2020"
    found: list[tuple[str, float, float]] = []
    for one in compared:
        unit = one.comparison.unit
        if question is None or scale(FIELDS, unit) is None:
            continue
        most = max((v for spell in one.comparison.spells for v in spell.values), default=0.0)
        field = inward(FIELDS, most, unit)
        if field:
            found.append((one.comparison.what, field, question.centre_hz))
    found += [(e.name, e.field_v_per_m, e.frequency_hz) for e in evidence.all(Emitter) if e.field_v_per_m]
    out = []
    for what, field, frequency_hz in found:
        try:
            most_w_m2 = exposure.power_density_limit(frequency_hz, limit)
        except ValueError:
            continue
        share = density_w_per_m2(field) / most_w_m2
        out.append(_held_against(what, field, share, limit))
    return out


def _held_against(what: str, field: float, share: float, limit: exposure.Limit) -> Check:
    source = exposure.SOURCES[limit]
    low, high = (share * float(power_ratio(s * coverage_factor(math.inf) * METER_U_DB)) for s in (-1.0, 1.0))
    mark: Mark = "holds" if high <= 1.0 else "fails" if share > 1.0 else "open"
    figure = Figure(
        "share of the exposure limit",
        100.0 * share,
        50.0 * (high - low) / coverage_factor(math.inf),
        "%",
        Working(
            (
                f"greatest field read {show.field_strength(field)}, {show.density(field)}",
                f"limit {show.density(field / math.sqrt(share))}",
            ),
            (("the meter", show.decibel(METER_U_DB)),),
            source,
            "Of that one place and moment, in the far field. Local rules and licensed people decide.",
        ),
        low=100.0 * low,
        high=100.0 * high,
    )
    words = f"{what}: {show.field_strength(field)} is {show.percent(share)} of the {source.split(',')[0]} limit"
    return Check(mark, words, figure, "Keep out of it until it is less." if share > 1.0 else "For the general public.")
