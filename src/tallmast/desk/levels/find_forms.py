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

from ..session import Session
from ..sheets.entry import Form
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import text_of

JOBS = (
    ("near", "to come nearest to an attenuation"),
    ("fail", "to make the link fail at a distance"),
    ("protect", "to keep an input under a limit"),
)


def find_pads_form(session: Session) -> Form:
    """Which pads to take. The answer goes to the working; the notebook stays as it is."""
    question, chain, far = session.evidence.question, session.evidence.chain, session.evidence.far_end
    frequency = question.centre_hz if question else 869e6
    radio = session.evidence.get(Radio, chain.radio_id) if chain else None
    fields = [
        Field("job", "What for", choices=JOBS, chosen="near"),
        Field("wanted", "Attenuation wanted", read.loss, lambda v: f"{v:g} dB", hint="26 dB", only=("job", ("near",))),
        Field(
            "distance",
            "It is to fail at",
            lambda t: read.length(t, "m"),
            show.distance,
            hint="400 m",
            only=("job", ("fail",)),
        ),
        Field(
            "source",
            "What arrives: EIRP, or the field in V/m",
            source,
            lambda v: f"{show.power(v[1])} EIRP" if v[0] == "eirp" else show.field_strength(v[1]),
            hint="10 W EIRP · 3 V/m · 120 dBµV/m",
            only=("job", ("protect",)),
        ),
        Field(
            "from",
            "From how far, if an EIRP was given",
            lambda t: read.length(t, "m"),
            show.distance,
            hint="20 m",
            only=("job", ("protect",)),
        ),
        Field(
            "gain",
            "Gain of the antenna that takes it up",
            read.gain_dbi,
            lambda v: f"{v:.2f} dBi",
            "2.15 dBi",
            "2.15 dBi",
            only=("job", ("protect",)),
        ),
        Field(
            "frequency",
            "At",
            read.frequency,
            show.frequency,
            show.frequency(frequency),
            "869 MHz",
            only=("job", ("protect",)),
        ),
        Field(
            "limit",
            "The input bears",
            read.level,
            show.level,
            text_of(radio.overload_dbm if radio else None, show.level),
            "-25 dBm",
            only=("job", ("protect",)),
        ),
        Field(
            "power",
            "Power into the first pad",
            read.power,
            show.power,
            text_of((chain.full_power_w or chain.power_w) if chain else None, show.power),
            "25 mW",
            only=("job", ("near", "fail")),
        ),
    ]

    def kept(v: dict[str, Any]) -> bool:
        made = Drawer(session.evidence, v["frequency"] or frequency)
        duty = chain.duty if chain else 1.0
        if v["job"] == "near":
            if v["wanted"] is None:
                raise FieldError("wanted", "How much is wanted? Such as 26 dB.")
            power = v["power"] or 0.001
            _show(session, solver.stacks_figure(made, v["wanted"], power, duty))
            return True
        if v["job"] == "fail":
            if v["distance"] is None or v["distance"] <= 0:
                raise FieldError("distance", "At what distance is it to fail? Such as 400 m.")
            if chain is None or far is None:
                raise FieldError("job", "Note power and pads (P) and the far end (E) first.")
            climb = session.climb
            if climb is None or climb.levels.ends is None:
                raise FieldError("job", "The findings are being worked out: try again in a moment.")
            group = climb.field.main
            _show(
                session, solver.fail_figure(climb.levels.ends, group.fit if group else None, v["distance"], v["power"])
            )
            return True
        if v["source"] is None:
            raise FieldError("source", "What arrives? Such as 10 W EIRP, or 3 V/m.")
        if v["limit"] is None:
            raise FieldError("limit", "What does the input bear? Such as −25 dBm.")
        if v["source"][0] == "eirp" and not v["from"]:
            raise FieldError("from", "From how far? Such as 20 m.")
        field = v["source"][1] if v["source"][0] == "field" else field_v_per_m(v["source"][1], v["from"])
        gain = v["gain"] if v["gain"] is not None else 2.15
        _show(session, solver.protect_figure(made, field, v["frequency"] or frequency, gain, v["limit"]))
        return True

    return Form(
        "Find pads",
        fields,
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
