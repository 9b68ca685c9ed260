"""Sheets that keep no record: the staircase tried at other values, and one value in all its units."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from tallmast.findings.levels.staircase import Planned
from tallmast.notebook.entry import Entry
from tallmast.notebook.records import Piece, Placed
from tallmast.physics.constants import DIPOLE_GAIN_DBI
from tallmast.physics.decibels import dbm_from_watt, watt_from_dbm
from tallmast.units import read, show
from tallmast.units.quantity import GAIN, LOSS, Quantity

from ..session import Session
from ..sheets.entry import Form
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import field_for

SENT = Quantity(lambda text: dbm_from_watt(read.power(text)), show.level, show.level)


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
            fields.append(field_for(key, f"{name} sends", SENT, now, "10 dBm or 10 mW"))
        elif key in ("antenna", "far antenna"):
            fields.append(field_for(key, name, GAIN, now, "8 dBi"))
        else:
            words = "The path takes" if key == "path" else f"{name} takes"
            fields.append(field_for(key, words, LOSS, abs(now), "10 dB"))

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
    tried, near = dict(session.aims.tried), session.evidence.home_end
    if not tried or near is None:
        session.trouble.emit("Nothing is being tried: drag a step of the staircase, or K.")
        return
    pieces = {piece.id: piece for piece in session.evidence.all(Piece)}
    changes: dict[str, Any] = {}
    words, left = [], []
    pads_now, placed_now = list(near.pads), list(near.placed)
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
    record = near.revised(**changes, pads=pads_now, placed=placed_now)
    if session.write(Entry(f"Kept from the staircase: {show.join(words)}", [record])):
        session.aim(tried=tuple((k, v) for k, v in tried.items() if "antenna" in k or k in ("far power", "path")))


def units_form(session: Session) -> Form:
    """One value written in every unit that people use for it. Nothing is kept."""
    question = session.question
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
