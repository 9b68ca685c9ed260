"""What a pattern cut can't declare of its sheet, and the settings of one that comes in."""

from __future__ import annotations

from typing import Any

from tallmast.notebook.records import Cut

from ..session import Session
from ..sheets.fields import Field
from ..sheets.record_sheet import RecordSheet, Values, declared_fields, values_of

CUT = RecordSheet(
    Cut,
    "A cut",
    words=lambda cut, old, evidence: f"how the cut {cut.source} is read",
    opened=lambda cut, evidence: f"Cut {cut.source}",
    removed_as=lambda cut: f"cut {cut.source}",
)
SHEETS = (CUT,)
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
