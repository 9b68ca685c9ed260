"""What sweeps, meter readings, fixtures and cables can't declare of their sheets."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import CableSweep, FarEndOfCable, Fixture, MeterReading, Sweep
from tallmast.physics.reflection import swr_from_powers
from tallmast.units import show
from tallmast.units.quantity import SWR_READ

from ..session import Session
from ..sheets.entry import Form
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import text_of
from ..sheets.record_sheet import RecordSheet, Values, declared_fields, values_of


def last_sweep(session: Session) -> Sweep | None:
    sweeps = session.evidence.all(Sweep)
    return sweeps[-1] if sweeps else None


SETTINGS = ("fixture", "cable", "directivity_db")
"""What the sheet of a sweep that comes in asks of the way it was taken."""


def carried_settings(session: Session) -> Values:
    """Fixture, cable and analyzer of the sweep before, for one that comes in."""
    last = last_sweep(session)
    if last is None:
        return {}
    return {name: getattr(last, name) for name in (*SETTINGS, "fixture_id", "reconnection")}


def sweep_fields(session: Session) -> list[Field]:
    """Fixture, cable and analyzer of a sweep that comes in: carried over from the sweep before."""
    declared = dict(declared_fields(session, Sweep, None, carried_settings(session)))
    return [field for name in SETTINGS for field in declared[name]]


def sweep_settings(v: dict[str, Any], session: Session) -> Values:
    """The record's settings from the fields above."""
    values = values_of(Sweep, None, v, set(), SETTINGS, carried_settings(session))
    _directivity(values, None, session)
    return values


def _directivity(values: Values, old: Sweep | None, session: Session) -> None:
    if values["directivity_db"] <= 0:
        raise FieldError("directivity", "Directivity is above 0 dB; 30 dB is usual for a pocket analyzer.")


SWEEP = RecordSheet(
    Sweep,
    "A sweep",
    words=lambda sweep, old, evidence: f"how the sweep {sweep.source} is read",
    opened=lambda sweep, evidence: f"Sweep {sweep.source}",
    note="The cable is taken out of the reading, and widens the ±.",
    check=_directivity,
)


def _meter_start(session: Session) -> Values:
    evidence, question = session.evidence, session.question
    readings = evidence.all(MeterReading)
    last = {name: getattr(readings[-1], name) for name in ("power_w", "relative_u", "fixture")} if readings else {}
    return {
        "antenna_id": session.focus_antenna.id if session.focus_antenna else None,
        "frequency_hz": question.centre_hz if question else None,
        **last,
    }


def _swr_field(session: Session, old: MeterReading | None) -> list[tuple[str, Field]]:
    text = text_of(old.swr if old else None, SWR_READ.write)
    return [("channel", Field("swr", "SWR it reads", SWR_READ.read, SWR_READ.echo, text, "1.4 or 1:1.4"))]


def _swr_of(values: Values, old: MeterReading | None, session: Session) -> Values:
    swr, forward, reflected = values["sheet:swr"], values["forward_w"], values["reflected_w"]
    if swr is None:
        if forward is None or reflected is None:
            raise FieldError("swr", "Give the SWR, or forward and reflected power.")
        if reflected >= forward:
            raise FieldError("reflected", "More comes back than goes forward: are the two swapped?")
        swr = round(swr_from_powers(forward, reflected), 4)
    return {"swr": swr, "taken_at": old.taken_at if old else datetime.now(UTC).isoformat(timespec="seconds")}


def _meter_words(reading: MeterReading, old: MeterReading | None, evidence: Evidence) -> str:
    where = f"channel {reading.channel}" if reading.channel else show.frequency(reading.frequency_hz)
    return f"meter on {evidence.title(reading.antenna_id)}: SWR {reading.swr:.2f} at {where}"


METER = RecordSheet(
    MeterReading,
    "A meter reading",
    words=_meter_words,
    opened=lambda reading, evidence: "A meter reading",
    note="Use the least power that moves the meter. Never transmit without an antenna or a load.",
    carried=_meter_start,
    own=_swr_field,
    work_out=_swr_of,
    removed_as=lambda reading: "a meter reading",
    again=True,
)


def _passes(values: Values, old: Fixture | None, session: Session) -> None:
    if values["limit"] <= 1:
        raise FieldError("limit", "A limit of 1 can’t be met: give one above it, such as 1.15.")
    if values["lasts_s"] <= 0:
        raise FieldError("lasts", "A pass holds for some time: above zero.")


FIXTURE = RecordSheet(
    Fixture,
    "A fixture",
    words=lambda fixture, old, evidence: f"fixture {fixture.name}",
    opened=lambda fixture, evidence: "A fixture",
    note="The last one written is the one in use. The cable is what lies between the calibration plane and the antenna.",
    check=_passes,
    removed_as=lambda fixture: f"fixture {fixture.name}",
)

CABLE_SWEEP = RecordSheet(
    CableSweep,
    "A cable",
    words=lambda sweep, old, evidence: f"cable {sweep.name}",
    opened=lambda sweep, evidence: f"Cable {sweep.name}",
    removed_as=lambda sweep: f"cable {sweep.name}",
)


def cable_form(session: Session, sweep: Callable[[str, FarEndOfCable, float, float | None], bool]) -> Form:
    """A cable that is swept now: its name, and what is at its far end."""

    def kept(v: dict[str, Any]) -> bool:
        values = values_of(CableSweep, None, v, set())
        if values["length_m"] is not None and values["length_m"] <= 0:
            raise FieldError("length", "A length is above zero, or left empty.")
        return sweep(values["name"], values["far_end"], values["velocity_factor"], values["length_m"])

    note = (
        "Screw it on at the calibration plane. Sweep widely: 500 MHz tell apart what lies half a metre from each other."
    )
    fields = [f for _, declared in declared_fields(session, CableSweep, None, {}) for f in declared]
    return Form("A cable", fields, kept, note, "Sweep it")


SHEETS = (SWEEP, METER, FIXTURE, CABLE_SWEEP)
