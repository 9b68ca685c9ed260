"""The sheet for power and pads."""

from __future__ import annotations

import re
from typing import Any, get_args

from tallmast.notebook.records import Chain, Pad
from tallmast.physics.exposure import SOURCES, Limit
from tallmast.units import read, show

from ..entry import Field, FieldError, Form
from ..records import decibels, history, keep, reason_fields, text_of
from ..session import Session

PAD_EXPECTED = "pads such as “10 dB 2 W + 6 dB”, each with its rating if known"


def pads(text: str) -> list[Pad]:
    """`10 dB 2 W + 6 dB ± 0.3 0.5W`: value, tolerance (0.3 dB if not given), rating (0.5 W if not given)."""
    out = []
    for part in re.split(r"[+;]|,(?=\s)", read.clean(text)):
        body = part.strip()
        match = re.fullmatch(
            rf"({read.NUMBER})\s*(?:dB)?(?:\s*±\s*({read.NUMBER})\s*(?:dB)?)?(?:\s+(.+))?", body, re.IGNORECASE
        )
        if not match or read.number(match[1]) < 0:
            raise read.UnitError(PAD_EXPECTED, text)
        rating = read.power(match[3]) if match[3] else 0.5
        value = read.number(match[1])
        out.append(
            Pad(
                name=f"{value:g} dB pad",
                attenuation_db=value,
                tolerance_db=read.number(match[2]) if match[2] else 0.3,
                rating_w=rating,
            )
        )
    return out


def pads_text(made: list[Pad]) -> str:
    return " + ".join(f"{p.attenuation_db:g} dB ±{p.tolerance_db:g} {show.power(p.rating_w)}" for p in made)


def chain_form(session: Session) -> Form:
    """Power, pads and cable as set up for the test, and the limits to keep."""
    old = session.evidence.chain
    fields = [
        Field(
            "power",
            "Transmitter power in the test",
            read.power,
            show.power,
            text_of(old.power_w if old else None, show.power),
            "10 mW or 10 dBm",
            True,
        ),
        Field(
            "pads",
            "Pads, in order",
            pads,
            lambda v: f"{sum(p.attenuation_db for p in v):g} dB in all: {pads_text(v)}",
            text_of(old.pads or None if old else None, pads_text),
            "10 dB 2 W + 6 dB; empty: none",
        ),
        Field(
            "loss",
            "Cable loss",
            read.loss,
            lambda v: f"{v:g} dB",
            text_of(old.cable_loss_db if old else None, decibels),
            "1.2 dB",
        ),
        Field(
            "full",
            "Power in the end, without pads",
            read.power,
            show.power,
            text_of(old.full_power_w if old else None, show.power),
            "25 mW",
        ),
        Field(
            "power_u",
            "Doubt of the power",
            read.loss,
            lambda v: f"u = {v:g} dB",
            text_of(old.power_u_db if old else 0.3, decibels),
            "0.3 dB",
        ),
        Field(
            "duty",
            "Share of time on the air",
            read.fraction,
            lambda v: f"{v * 100:g} %",
            text_of(old.duty if old else 1.0, lambda v: f"{v * 100:g} %"),
            "10 %",
        ),
        Field(
            "limit",
            "Exposure limit for the clear distance",
            choices=[(k, SOURCES[k].split(",")[0]) for k in get_args(Limit)],
            chosen=old.limit if old else "icnirp-2020",
        ),
        Field(
            "legal",
            "Your own limit of EIRP",
            read.power,
            show.power,
            text_of(old.legal_eirp_w if old else None, show.power),
            "0.5 W; as your licence says",
        ),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if v["full"] is not None and v["full"] < v["power"] * 0.999:
            raise FieldError("full", "The power in the end is less than in the test: leave it empty, or swap the two.")
        record = Chain(
            power_w=v["power"],
            power_u_db=v["power_u"] if v["power_u"] is not None else 0.3,
            pads=v["pads"] or [],
            cable_loss_db=v["loss"] or 0.0,
            full_power_w=v["full"],
            duty=v["duty"] or 1.0,
            limit=v["limit"],
            legal_eirp_w=v["legal"],
        )
        words = f"power {show.power(record.power_w)}" + (
            f" through {record.pad_db:g} dB of pads" if record.pads else ", no pads"
        )
        return keep(session, show.upper_first(words) if old is None else words, record, old, v)

    note = "Band, power and licence are the regulator’s business: the limit is the one you enter."
    return Form("Power and pads", fields, kept, note, history=history(session, old))
