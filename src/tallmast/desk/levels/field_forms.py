"""Field strength to and from power."""

from __future__ import annotations

import re
from typing import Any

from PySide6.QtCore import QTimer

from tallmast.findings.levels.exposed import field_figure, gain_at
from tallmast.units import read, show
from tallmast.units.quantity import DISTANCE, FREQUENCY, GAIN, Quantity

from ..session import Session
from ..sheets.entry import Form
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import antenna_choices, field_for


def field_form(session: Session) -> Form:
    """Field strength to and from power: what an antenna takes up, what makes a field. Nothing is kept."""
    question = session.question
    frequency = question.centre_hz if question else 869e6
    antennas = [("", "one of the gain below"), *antenna_choices(session)]
    fields = [
        field_for("source", SOURCE_WORDS, SOURCE, hint="25 mW EIRP · 62 dBµV/m · 1.5 mW/m² · -60 dBm", needed=True),
        field_for("distance", "Distance", DISTANCE, hint="100 m"),
        field_for("frequency", "Frequency", FREQUENCY, frequency, "869 MHz", True),
        Field("antenna", "The antenna that is in the field", choices=antennas, chosen=""),
        field_for("gain", "Its gain", GAIN, 2.15, "2.15 dBi", only=("antenna", ("",))),
    ]

    def kept(v: dict[str, Any]) -> bool:
        kind, value = v["source"]
        if kind == "eirp" and not v["distance"]:
            raise FieldError("distance", "From how far? Such as 100 m.")
        antenna = session.evidence.antenna(v["antenna"])
        gain, u, basis = 2.15 if v["gain"] is None else v["gain"], 0.0, "as given"
        if antenna is not None:
            gains = session.climb.gains if session.climb else {}
            if antenna.id in gains:
                gain, u, basis = gain_at(
                    session.evidence, antenna, v["frequency"], gains[antenna.id].working_value(), frequency
                )
        figure = field_figure(kind, value, v["distance"], v["frequency"], gain, u, basis)
        QTimer.singleShot(0, session, lambda: session.pick(figure))
        return True

    return Form(
        "Field and power",
        fields,
        kept,
        "In the far field and open space: several wavelengths away, and 2D²/λ. The answer stands in the working; the notebook stays as it is.",
        keep_words="Show",
    )


def field_source(text: str) -> tuple[str, float]:
    """('eirp', W), ('field', V/m) or ('level', dBm): a level is what has no “W”, “EIRP” or “ERP” to it."""
    try:
        return "field", read.field_strength(text)
    except read.UnitError:
        pass
    radiates = re.search(r"(?:w|e\.?i?\.?r\.?p\.?)\s*$", read.clean(text), re.IGNORECASE)
    try:
        return ("eirp", read.radiated(text)) if radiates else ("level", read.level(text))
    except read.UnitError:
        raise read.UnitError("25 mW EIRP, 62 dBµV/m, 1.5 mW/m² or −60 dBm", text) from None


def _source_words(known: tuple[str, float]) -> str:
    kind, value = known
    return {
        "eirp": lambda: f"{show.power(value)} EIRP",
        "field": lambda: f"{show.field_strength(value)}, {show.density(value)}",
        "level": lambda: show.level(value),
    }[kind]()


SOURCE = Quantity(field_source, _source_words, _source_words)
SOURCE_WORDS = "What is known: an EIRP, a field, or a level at the antenna’s connector"
