"""Which pads of the drawer to take: for an attenuation, for a distance, for an input that is to be protected."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QTimer

from tallmast.findings.figure import Figure, Working
from tallmast.findings.levels import drawer as solver
from tallmast.findings.levels.pieces import Drawer, feed
from tallmast.notebook.records import Radio
from tallmast.physics.decibels import dbm_from_watt
from tallmast.physics.field_strength import field_v_per_m, received_dbm
from tallmast.units import read, show

from ..entry import Field, FieldError, Form
from ..records import text_of
from ..session import Session

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
            _show(session, _stacks_figure(made, v["wanted"], power, duty))
            return True
        if v["job"] == "fail":
            if v["distance"] is None or v["distance"] <= 0:
                raise FieldError("distance", "At what distance is it to fail? Such as 400 m.")
            if chain is None or far is None:
                raise FieldError("job", "Note power and pads (P) and the far end (E) first.")
            _show(session, _fail_figure(session, made, v["distance"], v["power"]))
            return True
        if v["source"] is None:
            raise FieldError("source", "What arrives? Such as 10 W EIRP, or 3 V/m.")
        if v["limit"] is None:
            raise FieldError("limit", "What does the input bear? Such as −25 dBm.")
        if v["source"][0] == "eirp" and not v["from"]:
            raise FieldError("from", "From how far? Such as 20 m.")
        field = v["source"][1] if v["source"][0] == "field" else field_v_per_m(v["source"][1], v["from"])
        level = received_dbm(field, v["frequency"] or frequency, v["gain"] if v["gain"] is not None else 2.15)
        needed = solver.pad_for_input(level, PROTECT_U_DB, v["limit"])
        power_w = 10 ** ((level - 30) / 10)
        _show(session, _stacks_figure(made, needed.value, power_w, 1.0, at_least=True, front=needed))
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


PROTECT_U_DB = 1.5
"""Doubt of a level reckoned from EIRP and distance, or from a meter's field."""


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


def _stacks_figure(
    made: Drawer, wanted_db: float, power_w: float, duty: float, at_least: bool = False, front: Figure | None = None
) -> Figure:
    stacks, why = solver.nearest(made, wanted_db, power_w, duty, at_least)
    if not stacks:
        lines = (f"wanted {show.decibel(wanted_db)} at {show.power(power_w)}", f"not possible: {why}")
        return Figure(
            "pads",
            wanted_db,
            0.0,
            "dB",
            Working(lines, (), "", "Put more pads into the drawer with D, or use less power."),
        )
    best = solver.stack_figure(stacks[0], power_w)
    others = tuple(f"or {s.words}: {show.decibel(s.loss_db, 2)}" for s in stacks[1:])
    lead = front.working.lines if front else ()
    return Figure(
        best.name,
        best.value,
        best.u,
        best.unit,
        Working((*lead, *best.working.lines, *others), best.working.parts, best.working.source, best.working.meaning),
    )


def _fail_figure(session: Session, made: Drawer, fail_m: float, power_w: float | None) -> Figure:
    evidence, climb = session.evidence, session.climb
    chain, far, question = evidence.chain, evidence.far_end, evidence.question
    assert chain is not None and far is not None and question is not None and climb is not None
    ends = climb.levels.ends
    assert ends is not None
    power = power_w or chain.full_power_w or chain.power_w
    home, away = feed(made, chain.placed), feed(made, far.placed)
    lost = ends.polarization.value if ends.polarization else 0.0
    budget = (
        dbm_from_watt(power)
        - chain.cable_loss_db
        - home.line_db
        + ends.gain.value
        - lost
        + far.gain_dbi
        - far.cable_loss_db
        - away.line_db
    )
    measured = ends.path is not None and "the runs" in ends.path.basis
    group = climb.field.main
    exponents = [(2.0, 0.0, "free space"), (3.77, 0.0, "37.7 log d rule"), (4.0, 0.0, "plane earth")]
    if group and group.fit:
        exponents.insert(0, (group.fit.exponent.value, group.fit.exponent.u, "measured in the field"))
    path = ends.path
    rows = solver.pad_for_distance(
        fail_m,
        budget - path.loss_db if path and measured else None,
        path.distance_m if path and measured else 0.0,
        path.u_db if path and measured else 3.0,
        budget,
        far.sensitivity_dbm,
        far.sensitivity_u_db,
        question.centre_hz,
        exponents,
    )
    best = rows[0]
    lines = tuple(f"{r.named[:22]:<22} n {r.exponent:.2f}: {r.pad.text}" for r in rows)
    stacks, why = solver.nearest(made, max(best.pad.value, 0.0), power, chain.duty)
    take = f"take {stacks[0].words}: {show.decibel(stacks[0].loss_db, 1)}" if stacks else f"from the drawer: {why}"
    return Figure(
        best.pad.name,
        best.pad.value,
        best.pad.u,
        "dB",
        Working(
            (*best.pad.working.lines, *lines, take),
            best.pad.working.parts,
            best.pad.working.source,
            best.pad.working.meaning,
        ),
    )
