"""What cuts and turns can't declare of their sheets, and the settings of a cut that comes in."""

from __future__ import annotations

from typing import Any

from tallmast.notebook.records import Craft, Cut, Design, RangeGain, Turn
from tallmast.units import show

from ..field.log_forms import receiver_field
from ..session import Session
from ..sheets.fields import Field, FieldError
from ..sheets.record_sheet import RecordSheet, Values, declared_fields, values_of

CUT = RecordSheet(
    Cut,
    "A cut",
    words=lambda cut, old, evidence: f"how the cut {cut.source} is read",
    opened=lambda cut, evidence: f"Cut {cut.source}",
    removed_as=lambda cut: f"cut {cut.source}",
)
DESIGN = RecordSheet(
    Design,
    "A design",
    words=lambda design, old, evidence: f"how {evidence.title(design.antenna_id)} is held against its design",
    opened=lambda design, evidence: f"Design {design.source}",
    removed_as=lambda design: f"design {design.source}",
)


def design_fields(session: Session) -> list[Field]:
    return dict(declared_fields(session, Design, None, {}))["tolerance_db"]


def design_settings(v: dict[str, Any]) -> Values:
    return values_of(Design, None, v, names=("tolerance_db",))


STRONGEST_DBM = 20.0
"""Nobody reads more off a receiver: above it a bare number is something else."""
SAME_TURN = (
    "plane",
    "read_on",
    "receiver",
    "noted_as",
    "far_bearing_deg",
    "turned_by",
    "place_id",
    "frequency_hz",
    "session",
)


def _turn_before(session: Session) -> Values:
    """Everything is carried over from the turn before but the antenna and what was read."""
    turns = session.evidence.all(Turn)
    focus = session.focus_antenna
    begun: Values = {"antenna_id": focus.id if focus else None}
    return begun | ({name: getattr(turns[-1], name) for name in SAME_TURN} if turns else {})


def _turn_read(values: Values, old: Turn | None, session: Session) -> None:
    strongest = max((v for heard in values["readings"] for v in heard.values), default=-100.0)
    if values["read_on"] == "level in dBm" and strongest > STRONGEST_DBM:
        raise FieldError("read_on", f"{strongest:g} is no level in dBm: say what its readings are.")
    if values["plane"] != "polarization" and len(values["readings"]) < FEWEST_DIRECTIONS:
        raise FieldError("readings", "A turn has four directions or more; half of them tell nothing of the others.")


FEWEST_DIRECTIONS = 4


def _turn_words(turn: Turn, old: Turn | None, evidence: Any) -> str:
    held = f", {turn.held}" if turn.held else ""
    return f"{evidence.title(turn.antenna_id)}{held}: turned in {show.count(len(turn.readings), 'direction')}"


TURN = RecordSheet(
    Turn,
    "Turned on the spot",
    words=_turn_words,
    opened=lambda turn, evidence: "A turn on the spot",
    note="Stand well off whatever reflects, hold still while you read, and go once round. Keep clear of the antenna while it sends.",
    carried=_turn_before,
    check=_turn_read,
    own=lambda session, old: [
        ("receiver", receiver_field(session, old.receiver if old else _turn_before(session).get("receiver", "")))
    ],
    removed_as=lambda turn: "a turn",
    again=True,
)


def _craft_flown(values: Values, old: Craft | None, session: Session) -> None:
    if values["flown"] == "log" and not values["run_id"]:
        raise FieldError("run_id", "Choose the run whose log has heading, pitch and roll.")


NEEDS: dict[str, set[str]] = {"substitution": {"A", "R"}, "two antennas": {"AA"}, "three antennas": {"AB", "AC", "BC"}}
"""By way, the connections that have to be read."""


def _gain_read(values: Values, old: RangeGain | None, session: Session) -> None:
    way, labels = (
        values["way"],
        {s.label.replace("B", "R") if values["way"] == "substitution" else s.label for s in values["readings"]},
    )
    missing = NEEDS[way] - labels
    if missing:
        raise FieldError(
            "readings", f"By {way} it takes {show.join(sorted(NEEDS[way]))}: {show.join(sorted(missing))} was not read."
        )
    if way == "substitution":
        reference = session.evidence.antenna(values["second_id"] or "")
        if reference is None or reference.known_gain_dbi is None:
            raise FieldError(
                "second_id",
                "Choose a reference: an antenna of the shelf with a known gain (A on the Shelf, “Known gain”).",
            )
        return
    for key in ("sent_dbm", "distance_m"):
        if values[key] is None:
            raise FieldError(key, "Without a reference it takes what was sent, and the distance.")
    if way == "three antennas" and len({values["antenna_id"], values["second_id"], values["third_id"]} - {""}) < 3:
        raise FieldError("second_id", "Three different antennas: A, B and C.")


def _gain_before(session: Session) -> Values:
    known = [a for a in session.evidence.antennas if a.known_gain_dbi is not None]
    focus = session.focus_antenna
    before = session.evidence.all(RangeGain)
    same = (
        {name: getattr(before[-1], name) for name in ("way", "distance_m", "sent_dbm", "range_swr")} if before else {}
    )
    return {"antenna_id": focus.id if focus else None, "second_id": known[0].id if known else "", **same}


RANGE_GAIN = RecordSheet(
    RangeGain,
    "Gain on a range",
    words=lambda made, old, evidence: f"{evidence.title(made.antenna_id)}: gain by {made.way}",
    opened=lambda made, evidence: f"Gain by {made.way}",
    note="Change nothing but the antenna, and return to the first: what drifts is then taken out. Keep clear while it sends.",
    carried=_gain_before,
    check=_gain_read,
    removed_as=lambda made: "a gain on the range",
    again=True,
)
CRAFT = RecordSheet(
    Craft,
    "What flies",
    words=lambda craft, old, evidence: f"what flies carries {evidence.title(craft.antenna_id)}, {craft.mounted}",
    opened=lambda craft, evidence: "What flies",
    note="Every pair on the shelf is held against all its attitudes. Fly within sight, away from people, as your rules ask.",
    check=_craft_flown,
    removed_as=lambda craft: "what flies",
)
SHEETS = (CUT, DESIGN, TURN, RANGE_GAIN, CRAFT)
SETTINGS = ("plane", "absolute", "session", "boresight_deg", "level_u_db")


def _carried(session: Session) -> Values:
    """What cuts of one session share."""
    cuts = session.evidence.all(Cut)
    return {name: getattr(cuts[-1], name) for name in ("absolute", "session", "level_u_db")} if cuts else {}


def cut_fields(session: Session) -> list[Field]:
    declared = dict(declared_fields(session, Cut, None, _carried(session)))
    return [field for name in SETTINGS for field in declared[name]]


def cut_settings(v: dict[str, Any]) -> Values:
    """The record's settings from the fields above."""
    return values_of(Cut, None, v, names=SETTINGS)
