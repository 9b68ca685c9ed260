"""Readings of an SWR meter in a table become readings, as if each had been typed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from tallmast.formats.meter_table import MeterNote, MeterTable
from tallmast.notebook.entry import Entry, RawFile
from tallmast.notebook.records import MeterReading
from tallmast.physics.reflection import swr_from_powers
from tallmast.units import read, show
from tallmast.units.quantity import PERCENT_OF_READING, POWER

from ..session import Session
from ..sheets.fields import Field, FieldError
from ..sheets.shelving import FIELD, Shelving, antenna_field, new_words

T = TypeVar("T")


def meter_fields(session: Session) -> list[Field]:
    """What no column may say; the meter and its fixture as the reading before had them."""
    readings = session.evidence.all(MeterReading)
    last = readings[-1] if readings else None
    accuracy = PERCENT_OF_READING.write(last.relative_u if last is not None else 0.05)
    return [
        antenna_field(session),
        Field("accuracy", "The meter’s uncertainty", PERCENT_OF_READING.read, PERCENT_OF_READING.echo, accuracy, "5 %"),
        Field(
            "mounted",
            "Fixture, where no column says it",
            str.strip,
            str,
            last.fixture if last else "",
            "Plate A",
            seldom=True,
        ),
    ]


def meter_said(session: Session, read_: MeterTable) -> str:
    words = f"{show.upper_first(show.count(len(read_.rows), 'reading'))} in it."
    return f"{words} {new_words(session, (note.antenna for note in read_.rows))}".strip()


def meter_entry(session: Session, v: dict[str, Any], read_: MeterTable, raw: RawFile) -> Entry:
    """All of them in one act. Raises `FieldError` with the line of what can't be read."""
    shelf, readings = Shelving(session.evidence), []
    for note in read_.rows:
        name = note.antenna or v[FIELD]
        if not name:
            raise FieldError(FIELD, f"Line {note.line} says no antenna: write which it was.")
        antenna = shelf.called(name)
        forward, reflected, sent = (
            _read(note, key, text, POWER.read) if text else None
            for key, text in (("forward", note.forward), ("reflected", note.reflected), ("sent", note.sent))
        )
        readings.append(
            MeterReading(
                antenna_id=antenna.id,
                state_id=antenna.state.id,
                frequency_hz=note.frequency_hz,
                channel=note.channel,
                swr=_swr(note, forward, reflected),
                forward_w=forward,
                reflected_w=reflected,
                power_w=sent if sent is not None else forward,
                relative_u=v["accuracy"] if v["accuracy"] is not None else 0.05,
                fixture=note.fixture or v["mounted"] or "",
            )
        )
    antennas = show.count(len({r.antenna_id for r in readings}), "antenna")
    label = f"Meter readings {raw.name}: {show.count(len(readings), 'reading')} of {antennas}"
    return Entry(label, [*shelf.new, *readings], raw=[raw])


def _read(note: MeterNote, key: str, text: str, reader: Callable[[str], T]) -> T:
    try:
        return reader(text)
    except read.UnitError as error:
        raise FieldError(key, f"Line {note.line}: {error}") from error


def _swr(note: MeterNote, forward: float | None, reflected: float | None) -> float:
    if note.swr:
        return round(_read(note, "swr", note.swr, read.swr), 4)
    if forward is None or reflected is None or reflected >= forward:
        raise FieldError("reflected", f"Line {note.line}: more comes back than goes forward: are the two swapped?")
    return round(swr_from_powers(forward, reflected), 4)
