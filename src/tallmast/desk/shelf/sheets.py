"""What the question, antennas and claims can't declare of their sheets; and an antenna's new state."""

from __future__ import annotations

import re
from typing import Any

from tallmast.findings.field.runs import ANTENNA as COMPARED
from tallmast.findings.field.runs import OWN
from tallmast.findings.shelf import claim_words
from tallmast.notebook.entry import Entry
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Claim, Piece, Question, State
from tallmast.units import read, show

from ..session import Session
from ..sheets.entry import Form
from ..sheets.fields import Field, FieldError
from ..sheets.record_sheet import RecordSheet, Values, named_once


def _limit_above_1(values: Values, old: Question | None, session: Session) -> None:
    if values["swr_limit"] <= 1:
        raise FieldError("swr_limit", "A limit of 1 can't be met or missed: give one above 1, such as 1.5.")


def _question_fits(values: Values, old: Question | None, session: Session) -> None:
    _limit_above_1(values, old, session)
    climb = session.climb
    known = [row.factors for row in climb.field.rows[:1]] if climb is not None else []
    for name in values["treated"] if known else ():
        names = [factor.removeprefix(OWN) for factor in known[0] if factor != COMPARED]
        if name.lower() not in (factor.lower() for factor in names):
            raise FieldError("treated", f"No run has anything called “{name}”. There is {show.join(names)}.")


QUESTION = RecordSheet(
    Question,
    "The question",
    words=lambda q, old, evidence: f"the question: {q.text}" if old else f"asked: {q.text}",
    opened=lambda q, evidence: "The question",
    note="What this notebook is to settle. Places can be added later (rung 5).",
    check=_question_fits,
    kept=lambda question, session: session.focus(question.antenna_id) if question.antenna_id else None,
    removed_as=None,
)


def _pieces(session: Session) -> dict[str, Piece]:
    return {piece.id: piece for piece in session.evidence.all(Piece)}


def _through_field(session: Session, old: Antenna | None) -> list[tuple[str, Field]]:
    pieces = _pieces(session)
    known = ", ".join(pieces[i].name for i in old.through if i in pieces) if old else ""
    hint = "elbow, blue cable" if pieces else "adapters and cables are written with D"
    return [("through", Field("through", "Through, from the antenna on", initial=known, hint=hint, seldom=True))]


def _through(text: str, pieces: dict[str, Piece]) -> list[str]:
    """Ids of the pieces that a person names, separated by commas."""
    known = {piece.name.lower(): piece.id for piece in pieces.values()}
    out = []
    for name in (part.strip() for part in text.split(",")):
        if name and name.lower() not in known:
            there = show.join([piece.name for piece in pieces.values()]) or "nothing yet: write it with D"
            raise FieldError("through", f"There is no {name} in the drawer. There is {there}.")
        if name:
            out.append(known[name.lower()])
    return out


def _antenna_rest(values: Values, old: Antenna | None, session: Session) -> Values:
    used = {a.slot for a in session.evidence.antennas}
    free = next(i for i in range(len(used) + 1) if i not in used)
    return {"through": _through(values["through"] or "", _pieces(session)), "slot": old.slot if old else free}


ANTENNA = RecordSheet(
    Antenna,
    "An antenna",
    words=lambda a, old, evidence: f"{a.name}, what is known of it" if old else f"{a.name} put on the shelf",
    note="Only the name is needed. Sizes let the tool say what gain is possible at most.",
    check=named_once(Antenna, " on the shelf"),
    own=_through_field,
    work_out=_antenna_rest,
    kept=lambda antenna, session: session.focus(antenna.id),
    again=True,
)


def state_form(session: Session, antenna: Antenna) -> Form:
    """A new state of an antenna: what was done to it. Measurements from now on belong to it."""
    fields = [
        Field("name", "What was done", read.plain, hint="trimmed 0.7 mm", needed=True),
        Field(
            "cut",
            "Cut off each part, if it was trimmed",
            lambda t: read.length(t, "mm"),
            show.small_length,
            hint="0.7 mm",
        ),
        Field("note", "Note", hint="both halves, with the fine file"),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if v["cut"] is not None and v["cut"] < 0:
            raise FieldError("cut", "A cut takes something off: above zero, or left empty.")
        state = State(name=v["name"], note=v["note"] or "", cut_m=v["cut"] or 0.0)
        changed = antenna.revised(states=[*antenna.states, state])
        return session.write(Entry(f"{antenna.name}: {state.name}", [changed]))

    return Form(
        f"{antenna.name}: a new state",
        fields,
        kept,
        f"Now: {antenna.state.name}. Readings taken from here on belong to the new state.",
    )


FRONT = re.compile(
    r"^\s*(?:>=|<=|=<|=>|≥|≤|<|>|=|~|≈|about|around|typ(?:ically|\.)?|max(?:imum|\.)?|min(?:imum|\.)?|up to|at (?:least|most)|"
    r"(?:better|less|more) than|under|over|above|below)\s*",
    re.IGNORECASE,
)
"""What makers write before a number, so that it is a claim of no less, or no more, than that."""


def _claim_value(quantity: str, text: str) -> tuple[float, float | None, Any]:
    """(value, second value, reference) of a claim as typed, by its quantity."""
    text = FRONT.sub("", text)
    if quantity == "gain":
        gain = read.gain(text)
        return gain.value, None, gain.reference
    if quantity == "beamwidth":
        parts = [p for p in text.lower().replace("×", "x").replace("by", "x").split("x") if p.strip()]
        if len(parts) not in (1, 2):
            raise read.UnitError("one or two beamwidths, such as 60° or 60° x 40°", text)
        widths = [read.beamwidth(p) for p in parts]
        return widths[0], widths[1] if len(widths) == 2 else None, ""
    if quantity == "bandwidth":
        width, _, at = text.lower().partition(" at ")
        return read.frequency(width), read.swr(at.replace("swr", "")) if at.strip() else None, ""
    readers = {
        "swr": read.swr,
        "resonance": read.frequency,
        "axial ratio": read.axial_ratio,
        "range": lambda t: read.length(t, "km"),
        "power": read.power,
    }
    return readers[quantity](text), None, ""


def _claim_text(old: Claim | None) -> str:
    """A claim's value as it would be typed."""
    if old is None:
        return ""
    words = claim_words(old)
    if old.quantity not in ("bandwidth", "resonance"):
        words = words.split(" at ")[0]
    for front in ("SWR ≤ ", "beam ", "axial ratio ", "resonance at "):
        words = words.removeprefix(front)
    return words.replace(" of bandwidth", "")


def _claim_field(session: Session, old: Claim | None) -> list[tuple[str, Field]]:
    hint = "8 dBi · 1.5 · 110° x 110° · 15 km"
    return [("value", Field("value", "How much", read.plain, initial=_claim_text(old), hint=hint, needed=True))]


def _claim_rest(values: Values, old: Claim | None, session: Session) -> Values:
    if old is not None and (values["quantity"], values["value"]) == (old.quantity, _claim_text(old)):
        return {"value": old.value, "second_value": old.second_value, "reference": old.reference}
    try:
        value, second, reference = _claim_value(values["quantity"], values["value"])
    except read.UnitError as error:
        raise FieldError("value", str(error)) from error
    return {"value": value, "second_value": second, "reference": reference}


def _owner(session: Session) -> Values:
    return {"antenna_id": session.focus_antenna.id if session.focus_antenna else None}


def _claimed(claim: Claim, old: Claim | None, evidence: Evidence) -> str:
    return f"{evidence.title(claim.antenna_id)} is claimed to have {claim_words(claim)}"


CLAIM = RecordSheet(
    Claim,
    "A claim",
    words=_claimed,
    opened=lambda claim, evidence: "A claim",
    carried=_owner,
    own=_claim_field,
    work_out=_claim_rest,
    removed_as=lambda claim: f"claim {claim_words(claim)}",
    again=True,
)

SHEETS = (QUESTION, ANTENNA, CLAIM)
