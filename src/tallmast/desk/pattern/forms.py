"""Sheets for pattern cuts."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from tallmast.notebook.records import Antenna, Cut
from tallmast.units import read

from ..entry import Field, FieldError, Form, Later
from ..records import antenna_choices, decibels, history, keep, plainly, reason_fields, remover, text_of
from ..session import Session


def cut_fields(session: Session, old: Cut | None) -> list[Field]:
    cuts = session.evidence.all(Cut)
    last = old or (cuts[-1] if cuts else None)
    return [
        Field(
            "plane",
            "Plane",
            choices=[("azimuth", "azimuth: round the horizon"), ("elevation", "elevation: up and over")],
            chosen=old.plane if old else "azimuth",
        ),
        Field(
            "absolute",
            "Levels are",
            choices=[(False, "against its own peak"), (True, "as received, all in one session")],
            chosen=last.absolute if last else False,
        ),
        Field("session", "Session (range, day)", initial=last.session if last else "", hint="boat shed yard, 24 m"),
        Field(
            "boresight",
            "Angle at which its front looked at the far end",
            read.angle,
            lambda v: f"{v:g}°",
            text_of(old.boresight_deg if old else 0.0, plainly),
            "0",
        ),
        Field(
            "u",
            "Doubt of a level",
            read.loss,
            lambda v: f"u = {v:g} dB",
            text_of(last.level_u_db if last else 0.5, decibels),
            "0.5 dB",
        ),
    ]


def cut_settings(v: dict[str, Any]) -> dict[str, Any]:
    return {
        "plane": v["plane"],
        "absolute": v["absolute"],
        "session": v["session"] or "",
        "boresight_deg": v["boresight"] or 0.0,
        "level_u_db": v["u"] if v["u"] is not None else 0.5,
    }


def cut_form(session: Session, old: Cut) -> Form:
    """Change how a kept cut is read."""
    antennas = antenna_choices(session)
    fields = [
        Field("antenna", "Antenna", choices=antennas, chosen=old.antenna_id),
        *cut_fields(session, old),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        record = old.revised(**cut_settings(v), antenna_id=v["antenna"])
        return keep(session, f"how the cut {old.source} is read", record, old, v)

    return Form(
        f"Cut {old.source}",
        fields,
        kept,
        remove=remover(session, old, f"cut {old.source}"),
        history=history(session, old),
    )


def bring_cut_form(
    session: Session,
    name: str,
    scale: str,
    taken: dict[str, str],
    notes: tuple[str, ...],
    keep_it: Callable[[Antenna, str, dict[str, Any]], Later],
) -> Form:
    """Where a dropped cut belongs and how its columns were taken."""
    antennas = antenna_choices(session)
    focus = session.focus_antenna
    fields = [
        Field("antenna", "It is of", choices=antennas, chosen=focus.id if focus else None),
        Field(
            "scale",
            f"Column “{taken['level']}” holds",
            choices=[("dB", "decibels"), ("relative field", "relative field, E/Emax")],
            chosen=scale,
        ),
        *cut_fields(session, None),
    ]

    def kept(v: dict[str, Any]) -> Later:
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Put the antenna on the shelf first.")
        return keep_it(antenna, v["scale"], cut_settings(v))

    note = f"Angle from column “{taken['angle']}”." + "".join(f" {n[:1].upper()}{n[1:]}." for n in notes)
    return Form(f"Bring in {name}", fields, kept, note, keep_words="Bring in")
