"""What a pattern cut can't declare of its sheet, and the sheet of one that comes in."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from tallmast.notebook.records import Antenna, Cut

from ..entry import Field, FieldError, Form, Later
from ..records import antenna_choices
from ..session import Session
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


def bring_cut_form(
    session: Session,
    name: str,
    scale: str,
    taken: dict[str, str],
    notes: tuple[str, ...],
    keep_it: Callable[[Antenna, str, dict[str, Any]], Later],
) -> Form:
    """Where a dropped cut belongs and how its columns were taken."""
    antennas = antenna_choices(session)
    focus = session.focus_antenna
    fields = [
        Field("antenna", "It is of", choices=antennas, chosen=focus.id if focus else None),
        Field(
            "scale",
            f"Column “{taken['level']}” holds",
            choices=[("dB", "decibels"), ("relative field", "relative field, E/Emax")],
            chosen=scale,
        ),
        *cut_fields(session),
    ]

    def kept(v: dict[str, Any]) -> Later:
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Put the antenna on the shelf first.")
        return keep_it(antenna, v["scale"], values_of(Cut, None, v, names=SETTINGS))

    note = f"Angle from column “{taken['angle']}”." + "".join(f" {n[:1].upper()}{n[1:]}." for n in notes)
    return Form(f"Bring in {name}", fields, kept, note, keep_words="Bring in")
