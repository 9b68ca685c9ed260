"""What the far end can't declare of its sheet; and what-if."""

from __future__ import annotations

from typing import Any

from tallmast.findings.aims import Options
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Conditions, FarEnd, Neighbour, Obstacle, Terrain, Trial
from tallmast.units import show
from tallmast.units.quantity import DECIBEL, FREQUENCY, LENGTH, LEVEL, LOSS, POWER, several

from ..session import Session
from ..sheets.entry import Form
from ..sheets.fields import FieldError
from ..sheets.keeping import field_for
from ..sheets.named import named_parts, station_fields
from ..sheets.record_sheet import RecordSheet, Values


def _words(far: FarEnd, old: FarEnd | None, evidence: Evidence) -> str:
    return f"the far end: {far.name}" if old else f"far end: {far.name}, down to {LEVEL.echo(far.sensitivity_dbm)}"


FAR_END = RecordSheet(
    FarEnd,
    "The far end",
    words=_words,
    opened=lambda far, evidence: "The far end",
    note="The stated level is the weakest at which it still works.",
    own=station_fields,
    work_out=named_parts,
    removed_as=None,
)


def _obstacle_stands(values: Values, old: Obstacle | None, session: Session) -> None:
    far = values["to_m"]
    if far is not None and far <= values["from_m"]:
        raise FieldError("to_m", "It reaches to a point beyond the one where it begins.")
    if values["what"] == "woods" and far is None and values["loss_db"] is None:
        raise FieldError("to_m", "Of woods note where they end: it is their depth that counts.")
    if values["what"] == "wall" and values["loss_db"] is None:
        raise FieldError("loss_db", "Of a wall note what it takes: open and closed, read in turn (Levels, Y).")
    if values["what"] != "wall" and not values["height_m"] and values["loss_db"] is None:
        raise FieldError("height_m", "Note how high it stands, or what it takes.")


def _obstacle_words(made: Obstacle, old: Obstacle | None, evidence: Evidence) -> str:
    where = show.distance(made.from_m) + (f" to {show.distance(made.to_m)}" if made.to_m is not None else "")
    size = f", {show.distance(made.height_m)} high" if made.height_m else ""
    return f"{made.title} at {where}{size}"


OBSTACLE = RecordSheet(
    Obstacle,
    "On the way",
    words=_obstacle_words,
    opened=lambda made, evidence: show.upper_first(made.title),
    note="What stands between both ends, as far as no raster shows it.",
    check=_obstacle_stands,
    removed_as=lambda made: made.title,
    again=True,
)
CONDITIONS = RecordSheet(
    Conditions,
    "Air and ground",
    words=lambda made, old, evidence: "air and ground",
    opened=lambda made, evidence: "Air and ground",
    note="k of 4/3 is the usual air; less bends the ray up, more down. Rain and fog are taken to lie over all of the way.",
    removed_as=lambda made: "air and ground",
)
TERRAIN = RecordSheet(
    Terrain,
    "Heights",
    words=lambda made, old, evidence: made.title,
    opened=lambda made, evidence: show.upper_first(made.title),
    note="Drop a GeoTIFF, HGT or ASCII grid on the window to bring heights in.",
    removed_as=lambda made: made.title,
)


def _neighbour_stands(values: Values, old: Neighbour | None, session: Session) -> None:
    if not values["place_id"] and values["distance_m"] is None:
        raise FieldError("distance_m", "Note where it stands: a place, or how far it is from home.")
    if values["selectivity_db"] and not values["spacing_hz"]:
        raise FieldError(
            "selectivity_db", "On the same channel no filter takes anything out: note the spacing, or leave this at 0."
        )


NEIGHBOUR = RecordSheet(
    Neighbour,
    "Another on the band",
    words=lambda made, old, evidence: f"{made.name}, {show.power(made.power_w)} on the band",
    opened=lambda made, evidence: show.upper_first(made.name),
    note="Who sends at the same time: it is held against the wanted signal at both ends.",
    check=_neighbour_stands,
    removed_as=lambda made: made.name,
    again=True,
)


def _trial_words(made: Trial, old: Trial | None, evidence: Evidence) -> str:
    neighbour = evidence.get(Neighbour, made.neighbour_id)
    each = show.join([show.distance(v) for v in made.broke_m])
    return f"{neighbour.name if neighbour else 'the other'} broke the wanted one at {each}"


TRIAL = RecordSheet(
    Trial,
    "Gone out until it broke",
    words=_trial_words,
    opened=lambda made, evidence: "Gone out until it broke",
    note="Go out with everything else unchanged, again with another antenna, polarization or channel: what parts the two is told from where "
    "it broke. Both of you agree first; nobody flies over people, and the licence says what may be sent.",
    removed_as=lambda made: "a trial against another sender",
    again=True,
)
SHEETS = (FAR_END, OBSTACLE, CONDITIONS, TERRAIN, NEIGHBOUR, TRIAL)


def what_if_form(session: Session) -> Form:
    """Another power, pad, gain or height: how far then? Nothing is written in the notebook."""
    tried = session.aims.options
    near = session.evidence.home_end
    full = near.most_w if near else None
    offered = tried.powers_w or ((full, 4.0 * full) if full else ())
    fields = [
        field_for("powers", "Powers", several(POWER), offered, "25 mW, 100 mW"),
        field_for("pads", "Pads in all", several(LOSS), tried.pads_db, "0 dB, 6 dB, 16 dB"),
        field_for("gains", "Gain more or less, at either end", several(DECIBEL), tried.more_db, "0 dB, 3 dB, -2 dB"),
        field_for("bands", "In other bands too", several(FREQUENCY), tried.bands_hz, "433 MHz, 2.4 GHz"),
        field_for("heights", "Height of the antenna at home", several(LENGTH, 0.1), tried.heights_m, "6 m, 12 m"),
    ]

    def kept(v: dict[str, Any]) -> bool:
        session.aim(
            options=Options(
                *(tuple(dict.fromkeys(v[key] or ())) for key in ("powers", "pads", "gains", "heights", "bands"))
            )
        )
        return True

    return Form(
        "What if",
        fields,
        kept,
        "Every combination is told, with its range. The notebook stays as it is; what may be sent is for your licence to say. "
        "Leave all empty to go back to how it stands.",
        keep_words="Show",
    )
