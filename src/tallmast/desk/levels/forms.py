"""Sheets for the chain, for trying it at other values, and for one value in all its units."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any, get_args

from tallmast.findings.levels.staircase import Planned
from tallmast.notebook.records import Chain, Pad, Piece, Placed, Radio
from tallmast.notebook.store import Entry
from tallmast.physics.constants import DIPOLE_GAIN_DBI
from tallmast.physics.decibels import dbm_from_watt, watt_from_dbm
from tallmast.physics.exposure import SOURCES, Limit
from tallmast.units import read, show

from ..entry import Field, FieldError, Form
from ..records import decibels, history, keep, made, reason_fields, text_of
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


PLACED_HINT = "white cable; step box 12 dB; mast preamp"


def placed_of(text: str, pieces: Sequence[Piece]) -> list[Placed]:
    """Pieces of the drawer by name, in order, `;` or `,` between them; a step attenuator with its setting."""
    known = {piece.name.lower(): piece for piece in pieces}
    out = []
    for part in re.split(r"\s*[;,]\s*", read.clean(text).strip("; ,")):
        name, setting = part.lower(), 0.0
        # Longest name first: “10 dB pad” is a name, not a setting of “10”.
        match = next((k for k in sorted(known, key=len, reverse=True) if name == k or name.startswith(f"{k} ")), None)
        if match is None:
            there = show.join([piece.name for piece in pieces]) or "nothing yet: write it with D"
            raise read.UnitError(f"pieces of the drawer. There is {there}", part)
        piece, rest = known[match], name[len(match) :].strip()
        if rest:
            if piece.type != "step attenuator":
                raise read.UnitError(f"{piece.name} alone: only a step attenuator can be set", part)
            setting = read.loss(rest)
            if setting > (piece.largest_db or 0.0):
                raise read.UnitError(f"at most {piece.largest_db:g} dB on {piece.name}", part)
        out.append(Placed(piece_id=piece.id, setting_db=setting))
    return out


def placed_text(made: Sequence[Placed], pieces: Sequence[Piece]) -> str:
    by_id = {piece.id: piece for piece in pieces}
    words = []
    for one in made:
        piece = by_id.get(one.piece_id)
        if piece is not None:
            words.append(piece.name + (f" {one.setting_db:g} dB" if piece.type == "step attenuator" else ""))
    return "; ".join(words)


def placed_field(session: Session, name: str, made: Sequence[Placed]) -> Field:
    pieces = session.evidence.all(Piece)
    return Field(
        "placed",
        name,
        lambda t: placed_of(t, pieces),
        lambda v: f"{show.count(len(v), 'piece')}: {placed_text(v, pieces)}",
        text_of(list(made) or None, lambda v: placed_text(v, pieces)),
        PLACED_HINT if pieces else "D puts pieces into the drawer",
    )


def radio_field(session: Session, chosen: str) -> Field:
    radios = [("", "none noted"), *((r.id, r.name) for r in session.evidence.all(Radio))]
    return Field("radio", "Radio, from the drawer", choices=radios, chosen=chosen)


def chain_form(session: Session) -> Form:
    """Power, pads and cable as set up for the test, and the limits to keep."""
    old = session.evidence.chain
    fields = [
        radio_field(session, old.radio_id if old else ""),
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
            "Other pads, in order",
            pads,
            lambda v: f"{sum(p.attenuation_db for p in v):g} dB in all: {pads_text(v)}",
            text_of(old.pads or None if old else None, pads_text),
            "10 dB 2 W + 6 dB; empty: none",
        ),
        placed_field(session, "Pieces of the drawer, from the radio on", old.placed if old else ()),
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
            "ground",
            "For the clear distance the ground is taken",
            choices=[(True, "to reflect (farther)"), (False, "not to reflect")],
            chosen=old.ground_reflection if old else True,
        ),
        Field(
            "legal",
            "Your own limit of EIRP",
            read.radiated,
            show.power,
            text_of(old.legal_eirp_w if old else None, show.power),
            "0.5 W; as your licence says",
        ),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if v["full"] is not None and v["full"] < v["power"] * 0.999:
            raise FieldError("full", "The power in the end is less than in the test: leave it empty, or swap the two.")
        record = made(
            Chain,
            old,
            power_w=v["power"],
            power_u_db=v["power_u"] if v["power_u"] is not None else 0.3,
            pads=v["pads"] or [],
            cable_loss_db=v["loss"] or 0.0,
            full_power_w=v["full"],
            duty=v["duty"] or 1.0,
            limit=v["limit"],
            legal_eirp_w=v["legal"],
            radio_id=v["radio"],
            placed=v["placed"] or [],
            ground_reflection=v["ground"],
        )
        through = [f"{record.pad_db:g} dB of pads"] if record.pads else []
        through += [placed_text(record.placed, session.evidence.all(Piece))] if record.placed else []
        words = f"power {show.power(record.power_w)}" + (f" through {show.join(through)}" if through else ", no pads")
        return keep(session, show.upper_first(words) if old is None else words, record, old, v)

    note = "Band, power and licence are the regulator’s business: the limit is the one you enter."
    return Form("Power and pads", fields, kept, note, history=history(session, old))


def _dbi(value: float) -> str:
    return f"{show.fixed(value, 2)} dBi"


def try_form(session: Session) -> Form:
    """Every step of the staircase that can be moved, at another value: tried, not kept."""
    levels = session.climb.levels if session.climb else None
    stairs = [s for s in (levels.out, levels.back) if s is not None] if levels else []
    movable: dict[str, tuple[Planned, str]] = {}
    for one in stairs:
        for planned in one.plan.steps:
            if planned.movable:
                movable.setdefault(planned.key, (planned, planned.name))
    tried = dict(session.aims.tried)
    fields = []
    for key, (planned, name) in movable.items():
        now = tried.get(key, planned.change_db)
        if key in ("power", "far power"):
            dbm = lambda t: dbm_from_watt(read.power(t))  # noqa: E731
            fields.append(Field(key, f"{name} sends", dbm, show.level, text_of(now, show.level), "10 dBm or 10 mW"))
        elif key in ("antenna", "far antenna"):
            fields.append(Field(key, name, read.gain_dbi, _dbi, text_of(now, _dbi), "8 dBi"))
        else:
            fields.append(
                Field(
                    key,
                    "The path takes" if key == "path" else f"{name} takes",
                    read.loss,
                    lambda v: f"{v:g} dB",
                    text_of(abs(now), decibels),
                    "10 dB",
                )
            )

    def kept(v: dict[str, Any]) -> bool:
        out = []
        for key, (planned, _) in movable.items():
            value = v[key]
            if value is None:
                continue
            change = value if key in ("power", "far power", "antenna", "far antenna") else -value
            if abs(planned.held(change) - change) > planned.grain_db / 2 + 1e-9:
                low, high = planned.least_db, planned.most_db
                raise FieldError(key, f"{planned.name} goes from {low:g} to {high:g} dB on the staircase.")
            if abs(change - planned.change_db) > 1e-6:
                out.append((key, change))
        session.aim(tried=tuple(out))
        return True

    note = (
        "Nothing is written in the notebook: a field made empty goes back to what is noted. Afterwards "
        "Ctrl+Enter keeps pads, settings, cable and power that were tried."
        if fields
        else "Note power and pads first (P)."
    )
    return Form("Try the staircase", fields, kept, note, keep_words="Try")


def keep_tried(session: Session) -> None:
    """Write what was tried on the staircase into the chain; gains and fixed pieces can't be written, and that is told."""
    tried, chain = dict(session.aims.tried), session.evidence.chain
    if not tried or chain is None:
        session.trouble.emit("Nothing is being tried: drag a step of the staircase, or K.")
        return
    pieces = {piece.id: piece for piece in session.evidence.all(Piece)}
    changes: dict[str, Any] = {}
    words, left = [], []
    pads_now, placed_now = list(chain.pads), list(chain.placed)
    for key, change in tried.items():
        if key == "power":
            changes["power_w"] = watt_from_dbm(change)
            words.append(show.power(changes["power_w"]))
        elif key == "cable":
            changes["cable_loss_db"] = -change
            words.append(f"cable {-change:g} dB")
        elif key.startswith("pad ") and int(key.removeprefix("pad ")) < len(pads_now):
            i = int(key.removeprefix("pad "))
            name = f"{-change:g} dB pad" if pads_now[i].name.endswith("dB pad") else pads_now[i].name
            pads_now[i] = pads_now[i].revised(attenuation_db=-change, name=name)
            words.append(name)
        elif key in pieces and key in {one.piece_id for one in placed_now}:
            at = next(i for i, one in enumerate(placed_now) if one.piece_id == key)
            base = (
                session.climb.levels.ends.drawer.taken(pieces[key]).loss_db
                if session.climb and session.climb.levels.ends
                else 0.0
            )
            setting = round(max(-change - base, 0.0) / pieces[key].step_db) * pieces[key].step_db
            placed_now[at] = Placed(piece_id=key, setting_db=setting)
            words.append(f"{pieces[key].name} {setting:g} dB")
        else:
            left.append(
                "the gain of an antenna"
                if "antenna" in key
                else "the far end’s power"
                if key == "far power"
                else "the path"
                if key == "path"
                else "what is not in the chain any more"
            )
    if not words:
        session.trouble.emit(
            f"{show.upper_first(show.join(left))} can’t be kept from here: it is what was measured or noted."
        )
        return
    record = chain.revised(**changes, pads=pads_now, placed=placed_now)
    if session.write(Entry(f"Kept from the staircase: {show.join(words)}", [record])):
        session.aim(tried=tuple((k, v) for k, v in tried.items() if "antenna" in k or k in ("far power", "path")))


def units_form(session: Session) -> Form:
    """One value written in every unit that people use for it. Nothing is kept."""
    question = session.evidence.question
    frequency = question.centre_hz if question else None

    def told(rows: Sequence[tuple[str, str]]) -> str:
        return "\n".join(f"{words}: {text}" for words, text in rows)

    fields = [
        Field(
            "level",
            "A level, power or voltage",
            lambda t: read.level(t, frequency or 0.0),
            lambda v: told(show.level_ways(v, frequency)),
            hint="-97 dBm · 2.5 µV · 12 dBµV in 75 Ω · 25 mW · S7",
        ),
        Field(
            "field",
            "A field or a density",
            read.field_strength,
            lambda v: told(show.field_ways(v)),
            hint="3.2 mV/m · 62 dBµV/m · 1.5 mW/m² · 4 µW/cm²",
        ),
        Field(
            "radiated",
            "A radiated power",
            read.radiated,
            lambda v: told(show.radiated_ways(v)),
            hint="0.5 W ERP · 14 dBm EIRP",
        ),
        Field(
            "gain",
            "A gain",
            read.gain_dbi,
            lambda v: f"{v:.2f} dBi, {v - DIPOLE_GAIN_DBI:.2f} dBd".replace("-", show.MINUS),
            hint="8 dBi · 6 dBd",
        ),
        Field(
            "noise",
            "A noise figure or temperature",
            read.noise_figure,
            lambda v: told(show.noise_ways(v)),
            hint="1.2 dB · 90 K",
        ),
    ]
    return Form(
        "In all its units",
        fields,
        lambda v: True,
        "Type a value: it stands below in every unit at once. The notebook stays as it is."
        + (f" S units for {show.frequency(frequency)} by IARU Region 1 R.1." if frequency else ""),
        keep_words="Done",
    )
