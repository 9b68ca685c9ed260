"""Sheets for the far end, and for what-if."""

from __future__ import annotations

from typing import Any, get_args

from tallmast.notebook.records import FarEnd, Polarization
from tallmast.notebook.records.shelf import CIRCULAR
from tallmast.units import read, show

from ..entry import Field, Form
from ..levels.forms import placed_field, radio_field
from ..records import dbi, decibels, history, keep, reason_fields, text_of
from ..session import Session


def _dbm(value: float) -> str:
    return f"{show.fixed(value, 1)} dBm"


def far_end_form(session: Session) -> Form:
    """The other end of the link: its antenna, its cable, how weak a signal it still takes."""
    old = session.evidence.far_end
    question = session.evidence.question
    frequency = question.centre_hz if question else 0.0

    def level(text: str) -> float:
        return read.level(text, frequency)

    fields = [
        Field("name", "What it is", read.plain, initial=old.name if old else "", hint="gauge", needed=True),
        Field(
            "sensitivity",
            "Weakest signal it takes",
            level,
            _dbm,
            text_of(old.sensitivity_dbm if old else None, _dbm),
            "-112 dBm or 0.6 µV",
            True,
        ),
        Field(
            "sensitivity_u",
            "Doubt of that",
            read.loss,
            lambda v: f"u = {v:g} dB",
            text_of(old.sensitivity_u_db if old else 1.0, decibels),
            "1 dB",
        ),
        Field(
            "gain",
            "Gain of its antenna",
            read.gain_dbi,
            lambda v: f"{show.fixed(v, 2)} dBi",
            text_of(old.gain_dbi if old else None, dbi),
            "2.15 dBi",
        ),
        Field(
            "gain_u",
            "Doubt of that",
            read.loss,
            lambda v: f"u = {v:g} dB",
            text_of(old.gain_u_db if old else 1.0, decibels),
            "1 dB",
        ),
        Field(
            "polarization",
            "Its polarization",
            choices=[(k, k) for k in get_args(Polarization)],
            chosen=old.polarization if old else "vertical",
        ),
        Field(
            "axial",
            "Its axial ratio",
            read.axial_ratio,
            lambda v: f"{v:.1f} dB",
            text_of(old.axial_ratio_db if old else None, decibels),
            "2 dB or 1.26",
            only=("polarization", CIRCULAR),
        ),
        radio_field(session, old.radio_id if old else ""),
        placed_field(session, "Pieces of the drawer, from its radio on", old.placed if old else ()),
        Field(
            "wanted",
            "How far over its sensitivity you want to be",
            read.loss,
            lambda v: f"{v:g} dB",
            text_of(old.wanted_db or None if old else None, decibels),
            "6 dB",
        ),
        Field(
            "cable",
            "Loss of its cable",
            read.loss,
            lambda v: f"{v:g} dB",
            text_of(old.cable_loss_db if old else None, decibels),
            "0 dB",
        ),
        Field(
            "power",
            "Power it answers with",
            read.power,
            show.power,
            text_of(old.power_w if old else None, show.power),
            "10 mW; for the way back",
        ),
        Field(
            "home_sensitivity",
            "Weakest signal home takes",
            level,
            _dbm,
            text_of(old.home_sensitivity_dbm if old else None, _dbm),
            "-104 dBm; for the way back",
        ),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        record = FarEnd(
            name=v["name"],
            sensitivity_dbm=v["sensitivity"],
            sensitivity_u_db=v["sensitivity_u"] if v["sensitivity_u"] is not None else 1.0,
            gain_dbi=2.15 if v["gain"] is None else v["gain"],
            gain_u_db=v["gain_u"] if v["gain_u"] is not None else 1.0,
            polarization=v["polarization"],
            axial_ratio_db=v["axial"],
            cable_loss_db=v["cable"] or 0.0,
            power_w=v["power"],
            home_sensitivity_dbm=v["home_sensitivity"],
            radio_id=v["radio"],
            placed=v["placed"] or [],
            wanted_db=v["wanted"] or 0.0,
        )
        return keep(
            session,
            f"the far end: {record.name}" if old else f"Far end: {record.name}, down to {_dbm(record.sensitivity_dbm)}",
            record,
            old,
            v,
        )

    return Form(
        "The far end",
        fields,
        kept,
        "The stated level is the weakest at which it still works.",
        history=history(session, old),
    )


def what_if_form(session: Session) -> Form:
    """Another power or another pad: how far then? Nothing is written in the notebook."""
    aims = session.aims
    chain = session.evidence.chain
    power = aims.what_if_power_w or (chain.full_power_w or chain.power_w if chain else None)
    fields = [
        Field("power", "Power", read.power, show.power, text_of(power, show.power), "100 mW"),
        Field("pad", "Pads in all", read.loss, lambda v: f"{v:g} dB", text_of(aims.what_if_pad_db, decibels), "0 dB"),
    ]

    def kept(v: dict[str, Any]) -> bool:
        session.aim(what_if_power_w=v["power"], what_if_pad_db=v["pad"] or 0.0)
        return True

    return Form(
        "What if",
        fields,
        kept,
        "The range of the antenna in focus at another power or through another pad. The notebook stays as it is.",
        keep_words="Show",
    )
