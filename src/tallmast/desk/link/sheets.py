"""What the far end can't declare of its sheet; and what-if."""

from __future__ import annotations

from typing import Any

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import FarEnd
from tallmast.units.quantity import LEVEL, LOSS, POWER

from ..session import Session
from ..sheets.entry import Form
from ..sheets.keeping import field_for
from ..sheets.named import named_parts, station_fields
from ..sheets.record_sheet import RecordSheet


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
SHEETS = (FAR_END,)


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
