"""Sheets of the drawer: pieces and radios."""

from __future__ import annotations

import re
from typing import Any

from tallmast.notebook.records import At, Piece, PieceType, Radio
from tallmast.units import read, show

from ..connectors import connector_fields, connector_of
from ..entry import Field, FieldError, Form
from ..records import decibels, history, keep, made, reason_fields, remover, text_of
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
        record = made(
            Piece,
            p,
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
        record = made(
            Radio,
            r,
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
