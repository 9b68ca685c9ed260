"""Sheets of the guided runs: where instruments are, how a display is stepped, and what was kept of either."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, get_args

from tallmast.notebook.records import DisplayScale, Radio
from tallmast.procedures.level_range import Addresses
from tallmast.procedures.practising import PRACTICE
from tallmast.procedures.stepped_display import DisplayPlan
from tallmast.units import read
from tallmast.units.quantity import FREQUENCY, LEVEL, LOSS, U_DB

from ..session import Session
from ..sheets.entry import Form
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import field_for

ZERO_WORDS = "Level at the receiver with 0 dB, if known"


def instruments_form(now: Addresses, use: Callable[[Addresses], None]) -> Form:
    """Where source, step attenuator and power meter are."""

    def one(key: str, name: str, value: str) -> Field:
        return Field(key, name, initial="" if value == PRACTICE else value, hint="empty: the practice bench’s")

    def kept(v: dict[str, Any]) -> bool:
        if bool(v["source"]) != bool(v["meter"]):
            missing = "meter" if v["source"] else "source"
            raise FieldError(missing, "Source and meter go together: both yours, or both of the practice bench.")
        for key, words in (("attenuator", "a step attenuator"), ("turntable", "a turntable")):
            if v[key] and not v["source"]:
                raise FieldError("source", f"With {words} of yours, source and meter are yours too.")
        use(Addresses(*(v[key] or PRACTICE for key in ("source", "attenuator", "meter", "turntable"))))
        return True

    return Form(
        "Instruments for levels",
        [
            one("source", "Level source", now.source),
            one("meter", "Power meter", now.meter),
            one("attenuator", "Step attenuator", now.attenuator),
            one("turntable", "Turntable", now.turntable),
        ],
        kept,
        "In VISA’s way of writing, such as TCPIP0::192.0.2.7::5025::SOCKET. All by SCPI.",
        keep_words="Use",
    )


def frequency_form(now_hz: float, use: Callable[[float], None]) -> Form:
    """At which frequency the piece is measured next."""
    fields = [field_for("frequency", "Measure at", FREQUENCY, now_hz, "2.4 GHz", True)]

    def kept(v: dict[str, Any]) -> bool:
        use(v["frequency"])
        return True

    return Form(
        "Another frequency",
        fields,
        kept,
        "Readings not kept yet are left; checks at several frequencies make its correction table.",
        keep_words="Use",
    )


def display_plan_form(session: Session, begin: Callable[[DisplayPlan], None]) -> Form:
    """Which display, and over which attenuations it is stepped."""
    known = [r.name for r in session.evidence.all(Radio)]
    fields = [
        Field("receiver", "Whose display", read.plain, initial="", hint=known[0] if known else "handset", needed=True),
        Field("scale", "It shows", choices=[(s, s) for s in get_args(DisplayScale)], chosen="bars"),
        Field(
            "by",
            "Stepped",
            choices=[("practice", "on the practice bench, by itself"), ("hand", "by hand: set, look, write")],
            chosen="practice",
        ),
        field_for("from", "From", LOSS, 0.0, "0 dB"),
        field_for("to", "To", LOSS, 60.0, "60 dB"),
        field_for("step", "In steps of", LOSS, 2.0, "2 dB"),
        Field(
            "ways", "And back again", choices=[(True, "yes: a display that lags shows it"), (False, "no")], chosen=True
        ),
        field_for("zero", ZERO_WORDS, LEVEL, hint="-45 dBm; else only differences count", only=("by", ("hand",))),
        field_for("zero_u", "Uncertainty of that", U_DB, 0.5, "0.5 dB", only=("by", ("hand",))),
        field_for("step_u", "Uncertainty of a setting", U_DB, 0.15, "0.15 dB"),
    ]

    def kept(v: dict[str, Any]) -> bool:
        low, high, step = v["from"] or 0.0, v["to"] or 0.0, v["step"] or 0.0
        if step <= 0:
            raise FieldError("step", "A step is above zero, such as 2 dB.")
        if high < low + 2 * step:
            raise FieldError("to", "At least three steps are needed: go further, or in smaller ones.")
        if (high - low) / step > 2000:
            raise FieldError("step", "That is more than two thousand steps: take larger ones.")
        if v["by"] == "practice" and (high > 63 or step != int(step) or low != int(low)):
            raise FieldError("to", "The practice attenuator makes whole decibels from 0 to 63.")
        begin(
            DisplayPlan(
                v["receiver"],
                v["scale"],
                low,
                high,
                step,
                v["ways"],
                v["zero"],
                0.5 if v["zero_u"] is None else v["zero_u"],
                0.15 if v["step_u"] is None else v["step_u"],
                v["by"],
            )
        )
        return True

    return Form(
        "Step a display",
        fields,
        kept,
        "A fixed, quiet link through a known attenuator; nobody in between, nothing moved. Begin loud: the top is where it saturates.",
        keep_words="Begin",
    )
