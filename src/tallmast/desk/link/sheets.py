"""What the far end can't declare of its sheet; and what-if."""

from __future__ import annotations

from typing import Any

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Conditions, FarEnd, Obstacle, Terrain
from tallmast.units import show
from tallmast.units.quantity import LEVEL, LOSS, POWER

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
SHEETS = (FAR_END, OBSTACLE, CONDITIONS, TERRAIN)


def what_if_form(session: Session) -> Form:
    """Another power or another pad: how far then? Nothing is written in the notebook."""
    aims = session.aims
    near = session.evidence.home_end
    power = aims.what_if_power_w or (near.most_w if near else None)
    fields = [
        field_for("power", "Power", POWER, power, "100 mW"),
        field_for("pad", "Pads in all", LOSS, aims.what_if_pad_db, "0 dB"),
    ]

    def kept(v: dict[str, Any]) -> bool:
        session.aim(what_if_power_w=v["power"], what_if_pad_db=v["pad"] or 0.0)
        return True

    return Form(
        "What if",
        fields,
        kept,
        "The range of the antenna in focus at another power or through another pad. The notebook stays as it is.",
        keep_words="Show",
    )
