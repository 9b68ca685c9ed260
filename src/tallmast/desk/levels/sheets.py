"""What the drawer, the chain, noise and its neighbours, comparisons and guided runs can't declare of their sheets."""

from __future__ import annotations

from typing import Any, get_args

from tallmast.findings.levels.compare import UNKNOWN, decibels_of, rule
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import (
    Comparison,
    DisplayRun,
    DisplayScale,
    Emitter,
    GainTable,
    HomeEnd,
    NoiseSite,
    Pad,
    PadCheck,
    Piece,
    Radio,
)
from tallmast.units import quantity, show

from ..session import Session
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import text_of
from ..sheets.named import named_parts, placed_text, station_fields
from ..sheets.record_sheet import RecordSheet, Values, declared_fields, named_once, values_of
from .find_forms import source

# The drawer


def _piece_fits(values: Values, old: Piece | None, session: Session) -> None:
    named_once(Piece, " in the drawer")(values, old, session)
    if "," in values["name"] or ";" in values["name"]:
        raise FieldError("name", "Commas and semicolons separate pieces: leave them out of the name.")
    if values["type"] == "step attenuator" and not values["largest_db"]:
        raise FieldError("largest", "How far can it be set? Such as 63 dB.")
    if values["type"] == "preamp" and not values["gain_db"]:
        raise FieldError("gain", "What gain has it? Such as 15 dB.")
    if values["low_hz"] and values["top_hz"] and values["low_hz"] >= values["top_hz"]:
        raise FieldError("low", "It is meant from a lower frequency to a higher one.")
    if values["curve"] and not values["length_m"]:
        raise FieldError("length", "How long is it? The loss on its sheet is for a length.")


def _cables_loss(session: Session, old: Piece | None) -> list[tuple[str, Field]]:
    """A cable's loss is asked for in words of its own, behind what its sheet says of it."""
    loss = quantity.LOSS
    known = text_of(old.loss_db if old and old.type == "cable" else None, loss.write)
    words = "Loss besides: plugs, or all of it where no sheet is known"
    return [("curve", Field("more", words, loss.read, loss.echo, known, "0.1 dB", only=("type", ("cable",))))]


def _piece_rest(values: Values, old: Piece | None, session: Session) -> Values:
    if values["type"] == "cable":
        return {"loss_db": values["sheet:more"] or 0.0}
    return {"loss_db": 0.0} if values["type"] == "preamp" else {}


def _piece_words(piece: Piece, old: Piece | None, evidence: Evidence) -> str:
    what = f"{piece.loss_db:g} dB"
    if piece.type == "preamp":
        what = f"{piece.gain_db:g} dB of gain"
    elif piece.type == "cable" and piece.length_m:
        what = f"{show.length(piece.length_m)} long"
    elif piece.type == "step attenuator":
        what = f"up to {piece.largest_db:g} dB"
    return f"{piece.name}, {what}"


PIECE = RecordSheet(
    Piece,
    "Into the drawer",
    words=_piece_words,
    first="Into the drawer: ",
    note="Name it in an antenna’s sheet (“Through”) or in the chain (P), and it counts there.",
    check=_piece_fits,
    own=_cables_loss,
    work_out=_piece_rest,
    again=True,
)


def _noise_figure(values: Values, old: Radio | None, session: Session) -> Values:
    """What follows from sensitivity, bandwidth and the ratio over the noise, where it was left empty."""
    from tallmast.physics.noise import figure_of_sensitivity_db

    known = (values["sensitivity_dbm"], values["bandwidth_hz"], values["snr_db"])
    if values["noise_figure_db"] is not None or None in known:
        return {}
    figure = figure_of_sensitivity_db(*known)
    if figure < 0:
        raise FieldError(
            "sensitivity",
            f"That sensitivity would need a noise figure of {show.decibel(figure)}: under the thermal noise. "
            "Look at the bandwidth and the ratio over the noise.",
        )
    return {"noise_figure_db": figure}


RADIO = RecordSheet(
    Radio,
    "A radio",
    first="Into the drawer: ",
    note="Choose it in the chain (P) or at the far end (E): its lines then stand on the staircase.",
    check=named_once(Radio, ""),
    work_out=_noise_figure,
)

# The chain


def _powers(values: Values, old: HomeEnd | None, session: Session) -> None:
    test_w = values["power_w"]
    if None not in (test_w, values["full_power_w"]) and values["full_power_w"] < test_w * 0.999:
        raise FieldError(
            "full_power", "The power in the end is less than in the test: leave it empty, or swap the two."
        )


def _home_words(near: HomeEnd, old: HomeEnd | None, evidence: Evidence) -> str:
    through = [f"{near.pad_db:g} dB of pads"] if near.pads else []
    through += [placed_text(near.placed, evidence.all(Piece))] if near.placed else []
    radio = evidence.get(Radio, near.radio_id)
    power = show.power(near.power_w) if near.power_w else f"as {radio.name} sends" if radio else "not noted"
    return f"power {power}" + (f" through {show.join(through)}" if through else ", no pads")


def _home_start(session: Session) -> Values:
    """Where nobody noted it yet: what the runs were made with."""
    near = session.evidence.home_end
    if near is None or session.evidence.power_as_run != "all":
        return {}
    pads = [
        Pad(name=pad.name, attenuation_db=pad.attenuation_db) for pad in near.pads
    ]  # with the usual rating, to be seen
    return {"power_w": near.power_w, "pads": pads, "full_power_w": near.full_power_w}


HOME_END = RecordSheet(
    HomeEnd,
    "Power and pads",
    words=_home_words,
    opened=lambda near, evidence: "Power and pads",
    note="Band, power and licence are the regulator’s business: the limit is the one you enter.",
    check=_powers,
    own=station_fields,
    work_out=named_parts,
    carried=_home_start,
    removed_as=None,
)

# Noise and neighbours


def _noise_start(session: Session) -> Values:
    near = session.evidence.home_end
    radio = session.evidence.get(Radio, near.radio_id) if near else None
    return {
        "bandwidth_hz": radio.bandwidth_hz if radio else None,
        "receiver_figure_db": radio.noise_figure_db if radio else None,
        "feed_loss_db": near.cable_loss_db if near else 0.0,
    }


NOISE = RecordSheet(
    NoiseSite,
    "Noise here",
    words=lambda noise, old, evidence: "noise here" if old else "noise here noted",
    opened=lambda noise, evidence: "Noise here",
    note=(
        "A floor that was measured counts before any table. Then the tool says whether a preamp, an antenna, another "
        "place or more power helps."
    ),
    carried=_noise_start,
    removed_as=lambda noise: "noise here",
)


def _source_text(known: tuple[str, float]) -> str:
    return f"{show.power(known[1])} EIRP" if known[0] == "eirp" else show.field_strength(known[1])


def _source_field(session: Session, old: Emitter | None) -> list[tuple[str, Field]]:
    known = None
    if old is not None:
        known = ("eirp", old.eirp_w) if old.eirp_w is not None else ("field", old.field_v_per_m)
    words = "Its EIRP, or the field that it makes here"
    text = text_of(known, _source_text)
    return [("frequency_hz", Field("source", words, source, _source_text, text, "20 W · 20 W ERP · 0.3 V/m", True))]


def _source_of(values: Values, old: Emitter | None, session: Session) -> Values:
    kind, value = values["sheet:source"]
    if kind == "eirp" and not values["distance_m"]:
        raise FieldError("distance", "How far is it? Such as 900 m.")
    return {"eirp_w": value if kind == "eirp" else None, "field_v_per_m": value if kind == "field" else None}


EMITTER = RecordSheet(
    Emitter,
    "A transmitter in the neighbourhood",
    first="Neighbour: ",
    note="What it puts into home’s receiver is reckoned before the receiver is exposed to it.",
    own=_source_field,
    work_out=_source_of,
    again=True,
)

# Two things in turn

METER_UNITS = ("dBm", "dB", "dBµV", "µV", "V/m", "mV/m", "dBµV/m", "mW/m²", "µW/cm²", "mW", "µW", UNKNOWN)


def _unit_words(unit: str) -> str:
    if unit == UNKNOWN:
        return "not known: both rules are told"
    short = rule(unit).partition(": ")[2].replace("four times the reading", "× 4")
    return f"{unit}: {short or 'decibels already'}"


def _unit_field(session: Session, old: Comparison | None) -> list[tuple[str, Field]]:
    """What each unit means for decibels is the findings' to say."""
    choices = [(unit, _unit_words(unit)) for unit in METER_UNITS]
    return [("unit", Field("unit", "Unit of the meter", choices=choices, chosen=old.unit if old else "dBm"))]


def _in_decibels(values: Values, old: Comparison | None, session: Session) -> None:
    unit = values["unit"]
    if any(decibels_of(unit, value) is None for s in values["spells"] for value in s.values):
        raise FieldError("spells", f"A reading in {unit} is above zero: no decibel can be made of the others.")


def _of_the_focus(values: Values, old: Comparison | None, session: Session) -> Values:
    focus = session.focus_antenna
    return {} if old else {"antenna_id": focus.id if focus else ""}


COMPARISON = RecordSheet(
    Comparison,
    "Two things in turn",
    words=lambda comparison, old, evidence: f"{comparison.what}, {comparison.averaging}",
    first="Compared: ",
    note=(
        "First, second, first again: then drift can be taken out. A label, its minute after @ if you noted it, and the "
        "readings."
    ),
    check=_in_decibels,
    own=_unit_field,
    work_out=_of_the_focus,
    again=True,
)

# What guided runs kept

DISPLAY = ("receiver", "zero_dbm", "zero_u_db", "step_u_db")
"""What the sheet of a display that was stepped elsewhere asks of it, besides what it shows."""


def display_fields(session: Session) -> list[Field]:
    declared = dict(declared_fields(session, DisplayRun, None, {}))
    scales = Field("shows", "It shows", choices=[(s, s) for s in get_args(DisplayScale)], chosen="bars")
    receiver, *rest = (field for name in DISPLAY for field in declared[name])
    return [receiver, scales, *rest]


def display_settings(v: dict[str, Any]) -> Values:
    """The record's settings from the fields above."""
    return {**values_of(DisplayRun, None, v, names=DISPLAY), "scale": v["shows"]}


DISPLAY_RUN = RecordSheet(DisplayRun, "A display", opened=lambda run, evidence: f"{run.receiver}, {run.scale}")

PAD_CHECK = RecordSheet(
    PadCheck,
    "A pad check",
    words=lambda check, old, evidence: "a pad check",
    opened=lambda check, evidence: f"Check of {evidence.title(check.piece_id)}",
    removed_as=lambda check: "a pad check",
)


def _table_note(session: Session, old: GainTable | None) -> str:
    if old is None:
        return ""
    series = session.evidence.series(old.series_id)
    f, gain = series["frequency_hz"], series["gain_dbi"]
    return (
        f"{show.upper_first(show.count(len(f), 'frequency', 'frequencies'))} from {show.frequency(float(f.min()))} to "
        f"{show.frequency(float(f.max()))}; {show.fixed(float(gain.min()), 1)} to {show.fixed(float(gain.max()), 1)} dBi."
    )


GAIN_TABLE = RecordSheet(
    GainTable,
    "A gain table",
    words=lambda table, old, evidence: f"gain table {table.source} is of {evidence.title(table.antenna_id)}",
    opened=lambda table, evidence: f"Gain table {table.source}".rstrip(),
    note=_table_note,
    removed_as=lambda table: f"gain table {table.source}",
)

SHEETS = (PIECE, RADIO, HOME_END, NOISE, EMITTER, COMPARISON, DISPLAY_RUN, PAD_CHECK, GAIN_TABLE)
