"""Which pads of the drawer to take: for an attenuation, for a distance, for an input that is to be protected."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QTimer

from tallmast.findings.figure import Figure
from tallmast.findings.levels import drawer as solver
from tallmast.findings.levels.pieces import Drawer
from tallmast.notebook.records import Radio
from tallmast.physics.field_strength import field_v_per_m
from tallmast.units import read, show
from tallmast.units.quantity import DISTANCE, FREQUENCY, GAIN, LEVEL, LOSS, POWER, Quantity

from ..session import Session
from ..sheets.entry import Form
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import field_for

JOBS = (
    ("near", "to come nearest to an attenuation"),
    ("fail", "to make the link fail at a distance"),
    ("protect", "to keep an input under a limit"),
)


def _fields(session: Session, frequency_hz: float) -> list[Field]:
    near = session.evidence.home_end
    radio = session.evidence.get(Radio, near.radio_id) if near else None
    power_w = near.most_w if near else None

    def one(key: str, name: str, of: Quantity, hint: str, *jobs: str, value: Any = None) -> Field:
        return field_for(key, name, of, value, hint, only=("job", jobs))

    return [
        Field("job", "What for", choices=JOBS, chosen="near"),
        one("wanted", "Attenuation wanted", LOSS, "26 dB", "near"),
        one("distance", "It is to fail at", DISTANCE, "400 m", "fail"),
        one("source", "What arrives: EIRP, or the field in V/m", SOURCE, "10 W EIRP · 3 V/m · 120 dBµV/m", "protect"),
        one("from", "From how far, if an EIRP was given", DISTANCE, "20 m", "protect"),
        one("gain", "Gain of the antenna that takes it up", GAIN, "2.15 dBi", "protect", value=2.15),
        one("frequency", "At", FREQUENCY, "869 MHz", "protect", value=frequency_hz),
        one("limit", "The input bears", LEVEL, "-25 dBm", "protect", value=radio.overload_dbm if radio else None),
        one("power", "Power into the first pad", POWER, "25 mW", "near", "fail", value=power_w),
    ]


def _near(session: Session, v: dict[str, Any], drawer: Drawer, frequency_hz: float) -> Figure:
    if v["wanted"] is None:
        raise FieldError("wanted", "How much is wanted? Such as 26 dB.")
    near = session.evidence.home_end
    return solver.stacks_figure(drawer, v["wanted"], v["power"] or 0.001, near.duty if near else 1.0)


def _fail(session: Session, v: dict[str, Any], drawer: Drawer, frequency_hz: float) -> Figure:
    if v["distance"] is None or v["distance"] <= 0:
        raise FieldError("distance", "At what distance is it to fail? Such as 400 m.")
    if session.evidence.home_end is None or session.evidence.far_end is None:
        raise FieldError("job", "Note power and pads (P) and the far end (E) first.")
    climb = session.climb
    if climb is None or climb.levels.ends is None:
        raise FieldError("job", "The findings are being worked out: try again in a moment.")
    group = climb.field.main
    return solver.fail_figure(climb.levels.ends, group.fit if group else None, v["distance"], v["power"])


def _protect(session: Session, v: dict[str, Any], drawer: Drawer, frequency_hz: float) -> Figure:
    if v["source"] is None:
        raise FieldError("source", "What arrives? Such as 10 W EIRP, or 3 V/m.")
    if v["limit"] is None:
        raise FieldError("limit", "What does the input bear? Such as −25 dBm.")
    what, value = v["source"]
    if what == "eirp" and not v["from"]:
        raise FieldError("from", "From how far? Such as 20 m.")
    field = value if what == "field" else field_v_per_m(value, v["from"])
    gain_dbi = v["gain"] if v["gain"] is not None else 2.15
    return solver.protect_figure(drawer, field, frequency_hz, gain_dbi, v["limit"])


FOUND = {"near": _near, "fail": _fail, "protect": _protect}


def find_pads_form(session: Session) -> Form:
    """Which pads to take. The answer goes to the working; the notebook stays as it is."""
    question = session.question
    usual_hz = question.centre_hz if question else 869e6

    def kept(v: dict[str, Any]) -> bool:
        frequency_hz = v["frequency"] or usual_hz
        drawer = Drawer(session.evidence, frequency_hz)
        _show(session, FOUND[v["job"]](session, v, drawer, frequency_hz))
        return True

    return Form(
        "Find pads",
        _fields(session, usual_hz),
        kept,
        "From the drawer: every pad inside its rating, connectors that mate. The answer stands in the working.",
        keep_words="Find",
    )


def _show(session: Session, figure: Figure) -> None:
    """The answer into the working, once the sheet has made room for it."""
    QTimer.singleShot(0, session, lambda: session.pick(figure))


def source(text: str) -> tuple[str, float]:
    """('eirp', W) or ('field', V/m)."""
    try:
        return "field", read.field_strength(text)
    except read.UnitError:
        pass
    try:
        return "eirp", read.radiated(text)
    except read.UnitError:
        raise read.UnitError("an EIRP such as 10 W, or a field such as 3 V/m", text) from None


def _words(known: tuple[str, float]) -> str:
    return f"{show.power(known[1])} EIRP" if known[0] == "eirp" else show.field_strength(known[1])


SOURCE = Quantity(source, _words, _words)
