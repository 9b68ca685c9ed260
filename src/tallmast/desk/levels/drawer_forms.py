"""Sheets of the drawer: what lies in it, and which of it to take."""

from __future__ import annotations

import re
from typing import Any

from PySide6.QtCore import QTimer

from tallmast.findings.figure import Figure, Working
from tallmast.findings.levels import drawer as solver
from tallmast.findings.levels.pieces import Drawer, feed
from tallmast.notebook.records import At, Piece, PieceType, Radio
from tallmast.physics.decibels import dbm_from_watt
from tallmast.physics.field_strength import field_v_per_m, received_dbm
from tallmast.units import read, show

from ..connectors import connector_fields, connector_of
from ..entry import Field, FieldError, Form
from ..records import decibels, history, keep, reason_fields, remover, text_of
from ..session import Session

TYPES: tuple[tuple[PieceType, str], ...] = (
    ("adapter", "an adapter"),
    ("cable", "a cable"),
    ("pad", "a pad"),
    ("step attenuator", "a step attenuator"),
    ("filter", "a filter"),
    ("preamp", "a preamp"),
    ("splitter", "a splitter"),
)
POINTS_EXPECTED = "points such as 10.1 dB at 868 MHz; 10.3 ±0.1 dB at 2.4 GHz"


def points(text: str, per: str = "") -> list[At]:
    """`10.1 dB at 868 MHz; 10.3 ±0.1 dB at 2.4 GHz`; with `per` the length in m that the losses are for, as written."""
    out = []
    for part in re.split(r"\s*;\s*", read.clean(text).strip("; ")):
        match = re.fullmatch(
            rf"({read.NUMBER})\s*(?:±\s*({read.NUMBER})\s*)?(?:dB)?\s*(?:(?:/|per)\s*(\S+(?:\s*(?:m|ft))?)\s+)?(?:at|@)\s*(.+)",
            part,
            re.IGNORECASE,
        )
        if not match:
            raise read.UnitError(POINTS_EXPECTED, text)
        size = 1.0
        if per:
            length = match[3] or per
            size = read.length(length if re.match(r"[\d.,]", length) else f"1 {length}")
            if size <= 0:
                raise read.UnitError(POINTS_EXPECTED, text)
        elif match[3]:
            raise read.UnitError(POINTS_EXPECTED, text)
        loss = read.number(match[1]) / size
        doubt = read.number(match[2]) / size if match[2] else (0.1 if not per else 0.05 * abs(loss))
        out.append(At(frequency_hz=read.frequency(match[4]), loss_db=loss, u_db=abs(doubt)))
    return out


def points_text(made: list[At]) -> str:
    return "; ".join(f"{p.loss_db:.6g} ±{p.u_db:.2g} dB at {show.frequency(p.frequency_hz)}" for p in made)


def curve(text: str) -> list[At]:
    """A cable's loss as its sheet gives it: `6.6 dB/100 m at 100 MHz; 22 dB/100 m at 1 GHz`."""
    return points(text, per="100 m")


def curve_text(made: list[At]) -> str:
    return "; ".join(
        f"{p.loss_db * 100:.6g} ±{p.u_db * 100:.2g} dB/100 m at {show.frequency(p.frequency_hz)}" for p in made
    )


def piece_form(session: Session, old: Piece | None = None) -> Form:
    """Anything that lies between a radio and an antenna."""
    p = old

    def loss(key: str, name: str, value: float | None, hint: str, *types: str) -> Field:
        return Field(
            key,
            name,
            read.loss,
            lambda v: f"{v:g} dB",
            text_of(value, decibels),
            hint,
            only=("type", types) if types else None,
        )

    def level(key: str, name: str, value: float | None, hint: str, *types: str) -> Field:
        return Field(key, name, read.level, show.level, text_of(value, show.level), hint, only=("type", types))

    passive = ("adapter", "pad", "step attenuator", "filter", "splitter")
    fields = [
        Field("name", "Name", read.plain, initial=p.name if p else "", hint="10 dB pad", needed=True),
        Field("type", "It is", choices=TYPES, chosen=p.type if p else "adapter"),
        *connector_fields("first", "Towards the antenna", p.first if p else None),
        *connector_fields("second", "Towards the radio", p.second if p else None),
        loss("loss", "Loss, as marked (of a step attenuator: at 0 dB)", p.loss_db if p else 0.1, "10 dB", *passive),
        loss(
            "tolerance",
            "Tolerance, ±",
            p.tolerance_db if p and p.tolerance_db else None,
            "0.3 dB",
            "pad",
            "step attenuator",
            "splitter",
            "preamp",
            "filter",
        ),
        loss("loss_u", "Doubt of that loss", p.loss_u_db if p else 0.05, "0.05 dB"),
        loss("largest", "Can be set up to", p.largest_db if p else None, "63 dB", "step attenuator"),
        loss("step", "In steps of", p.step_db if p else 1.0, "1 dB", "step attenuator"),
        Field(
            "length",
            "Length",
            read.length,
            show.length,
            text_of(p.length_m if p else None, show.length),
            "7 m",
            only=("type", ("cable",)),
        ),
        Field(
            "curve",
            "Its loss, from its sheet",
            curve,
            curve_text,
            text_of(p.curve or None if p else None, curve_text),
            "6.6 dB/100 m at 100 MHz; 22 dB/100 m at 1 GHz",
            only=("type", ("cable",)),
        ),
        loss(
            "more",
            "Loss besides: plugs, or all of it where no sheet is known",
            p.loss_db if p and p.type == "cable" else None,
            "0.1 dB",
            "cable",
        ),
        loss("gain", "Gain", p.gain_db if p and p.gain_db else None, "15 dB", "preamp"),
        Field(
            "figure",
            "Noise figure",
            read.noise_figure,
            lambda v: f"{v:.3g} dB",
            text_of(p.noise_figure_db if p else None, decibels),
            "1 dB or 75 K",
            only=("type", ("preamp",)),
        ),
        level("overload", "Input where it overloads", p.overload_dbm if p else None, "-30 dBm", "preamp"),
        level("damage", "Input that it must never see", p.damage_dbm if p else None, "5 dBm", "preamp"),
        loss("stop", "Takes beyond its band", p.stop_db if p and p.stop_db else None, "40 dB", "filter"),
        Field(
            "measured",
            "Measured elsewhere",
            points,
            points_text,
            text_of(p.measured or None if p else None, points_text),
            "10.1 dB at 868 MHz; 10.3 ±0.1 dB at 2.4 GHz",
            only=("type", (*passive, "cable")),
        ),
        Field(
            "rating", "Carries at most", read.power, show.power, text_of(p.rating_w if p else None, show.power), "2 W"
        ),
        Field(
            "low",
            "Meant from",
            read.frequency,
            show.frequency,
            text_of(p.low_hz if p else None, show.frequency),
            "0.1 MHz",
        ),
        Field(
            "top",
            "Meant for up to",
            read.frequency,
            show.frequency,
            text_of(p.top_hz if p else None, show.frequency),
            "6 GHz",
        ),
        *reason_fields(p),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if any(o.name.lower() == v["name"].lower() for o in session.evidence.all(Piece) if p is None or o.id != p.id):
            raise FieldError("name", f"There is a {v['name']} in the drawer already.")
        if "," in v["name"] or ";" in v["name"]:
            raise FieldError("name", "Commas and semicolons separate pieces: leave them out of the name.")
        if v["type"] == "step attenuator" and not v["largest"]:
            raise FieldError("largest", "How far can it be set? Such as 63 dB.")
        if v["type"] == "preamp" and not v["gain"]:
            raise FieldError("gain", "What gain has it? Such as 15 dB.")
        if v["low"] and v["top"] and v["low"] >= v["top"]:
            raise FieldError("low", "It is meant from a lower frequency to a higher one.")
        if v["curve"] and not v["length"]:
            raise FieldError("length", "How long is it? The loss on its sheet is for a length.")
        for key, words in (("rating", "What it carries"), ("length", "Its length"), ("step", "A step")):
            if v[key] is not None and v[key] <= 0:
                raise FieldError(key, f"{words} is above zero, or left empty.")
        whole = v["more"] if v["type"] == "cable" else v["loss"]
        record = Piece(
            **({"id": p.id} if p else {}),
            name=v["name"],
            type=v["type"],
            first=connector_of(v, "first", p.first if p else None),
            second=connector_of(v, "second", p.second if p else None),
            loss_db=0.0 if v["type"] == "preamp" else whole or 0.0,
            loss_u_db=v["loss_u"] or 0.0,
            tolerance_db=v["tolerance"] or 0.0,
            rating_w=v["rating"],
            low_hz=v["low"],
            top_hz=v["top"],
            measured=v["measured"] or [],
            length_m=v["length"],
            curve=v["curve"] or [],
            largest_db=v["largest"],
            step_db=v["step"] or 1.0,
            stop_db=v["stop"] or 0.0,
            gain_db=v["gain"] or 0.0,
            noise_figure_db=v["figure"],
            overload_dbm=v["overload"],
            damage_dbm=v["damage"],
        )
        words = f"{record.name}, {_piece_words(record)}"
        return keep(session, words if p else f"Into the drawer: {words}", record, p, v)

    return Form(
        p.name if p else "Into the drawer",
        fields,
        kept,
        "Name it in an antenna’s sheet (“Through”) or in the chain (P), and it counts there.",
        remove=remover(session, p, p.name if p else ""),
        again=lambda: piece_form(session),
        history=history(session, p),
    )


def _piece_words(piece: Piece) -> str:
    if piece.type == "preamp":
        return f"{piece.gain_db:g} dB of gain"
    if piece.type == "cable" and piece.length_m:
        return f"{show.length(piece.length_m)} long"
    if piece.type == "step attenuator":
        return f"up to {piece.largest_db:g} dB"
    return f"{piece.loss_db:g} dB"


def radio_form(session: Session, old: Radio | None = None) -> Form:
    """A transmitter, a receiver or both."""
    r = old

    def level(key: str, name: str, value: float | None, hint: str) -> Field:
        return Field(key, name, read.level, show.level, text_of(value, show.level), hint)

    fields = [
        Field("name", "Name", read.plain, initial=r.name if r else "", hint="logger radio", needed=True),
        Field(
            "power", "Power it sends", read.power, show.power, text_of(r.power_w if r else None, show.power), "25 mW"
        ),
        Field(
            "power_u",
            "Doubt of that",
            read.loss,
            lambda v: f"u = {v:g} dB",
            text_of(r.power_u_db if r else 0.3, decibels),
            "0.3 dB",
        ),
        level("sensitivity", "Weakest it takes", r.sensitivity_dbm if r else None, "-102 dBm or 0.5 µV"),
        Field(
            "snr",
            "Over the noise at that",
            read.decibel,
            lambda v: f"{v:g} dB",
            text_of(r.snr_db if r else None, decibels),
            "12 dB; as its sheet states it",
        ),
        Field(
            "bandwidth",
            "Bandwidth",
            read.frequency,
            show.frequency,
            text_of(r.bandwidth_hz if r else None, show.frequency),
            "50 kHz",
        ),
        Field(
            "figure",
            "Noise figure",
            read.noise_figure,
            lambda v: f"{v:.3g} dB",
            text_of(r.noise_figure_db if r else None, decibels),
            "6 dB; follows from the rest if empty",
        ),
        level("overload", "Input where it overloads", r.overload_dbm if r else None, "-25 dBm"),
        level("damage", "Input that it must never see", r.damage_dbm if r else None, "10 dBm"),
        *reason_fields(r),
    ]

    def kept(v: dict[str, Any]) -> bool:
        from tallmast.physics.noise import figure_of_sensitivity_db

        if any(o.name.lower() == v["name"].lower() for o in session.evidence.all(Radio) if r is None or o.id != r.id):
            raise FieldError("name", f"There is a {v['name']} already.")
        figure = v["figure"]
        if figure is None and None not in (v["sensitivity"], v["snr"], v["bandwidth"]):
            figure = figure_of_sensitivity_db(v["sensitivity"], v["bandwidth"], v["snr"])
            if figure < 0:
                raise FieldError(
                    "sensitivity",
                    f"That sensitivity would need a noise figure of {show.decibel(figure)}: under the thermal noise. "
                    "Look at the bandwidth and the ratio over the noise.",
                )
        record = Radio(
            **({"id": r.id} if r else {}),
            name=v["name"],
            power_w=v["power"],
            power_u_db=0.3 if v["power_u"] is None else v["power_u"],
            sensitivity_dbm=v["sensitivity"],
            bandwidth_hz=v["bandwidth"],
            snr_db=v["snr"],
            noise_figure_db=figure,
            overload_dbm=v["overload"],
            damage_dbm=v["damage"],
        )
        return keep(session, record.name if r else f"Into the drawer: {record.name}", record, r, v)

    return Form(
        r.name if r else "A radio",
        fields,
        kept,
        "Choose it in the chain (P) or at the far end (E): its lines then stand on the staircase.",
        remove=remover(session, r, r.name if r else ""),
        history=history(session, r),
    )


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
