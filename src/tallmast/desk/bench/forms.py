"""Sheets for sweeps and meter readings."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

from tallmast.notebook.records import Cable, CableSweep, FarEndOfCable, Fixture, MeterReading, Sweep
from tallmast.physics.constants import SPEED_OF_LIGHT
from tallmast.physics.reflection import swr_from_powers
from tallmast.units import read, show

from ..entry import Field, FieldError, Form
from ..records import antenna_choices, decibels, history, keep, made, plainly, reason_fields, remover, text_of
from ..session import Session


def last_sweep(session: Session) -> Sweep | None:
    sweeps = session.evidence.all(Sweep)
    return sweeps[-1] if sweeps else None


def velocity_factor(text: str) -> float:
    """0.66, 66 %."""
    return read.fraction(text)


def cable_fields(cable: Cable) -> list[Field]:
    """What lies between the instrument and the antenna."""
    return [
        Field(
            "loss",
            "Cable in between, loss one way",
            read.loss,
            lambda v: f"{v:g} dB",
            text_of(cable.loss_db or None, decibels),
            "0.42 dB; empty: none",
        ),
        Field(
            "loss_u",
            "Doubt of that loss",
            read.loss,
            lambda v: f"u = {v:g} dB",
            text_of(cable.loss_u_db or None, decibels),
            "0.05 dB",
        ),
        Field("length", "Its length", read.length, show.length, text_of(cable.length_m or None, show.length), "1.2 m"),
        Field("delay", "or its delay, one way", read.delay, show.delay, hint="6.1 ns"),
        Field(
            "velocity",
            "Its velocity factor",
            velocity_factor,
            lambda v: f"{v:g}",
            text_of(cable.velocity_factor, plainly),
            "0.66",
        ),
    ]


def cable_of(v: dict[str, Any], old: Cable | None = None) -> Cable:
    """The cable from the fields above. A delay, where one is given, settles the length; a loss that was not touched
    keeps its curve over frequency."""
    velocity = v["velocity"] or 0.66
    length = v["length"] or 0.0
    if v["delay"] is not None:
        length = v["delay"] * velocity * SPEED_OF_LIGHT
    untouched = old is not None and v["loss"] == old.loss_db
    return Cable(
        loss_db=v["loss"] or 0.0,
        loss_u_db=v["loss_u"] or 0.0,
        length_m=length,
        velocity_factor=velocity,
        root_db=old.root_db if old and untouched else None,
        linear_db=old.linear_db if old and untouched else 0.0,
    )


def sweep_fields(old: Sweep | None) -> list[Field]:
    """Fixture, cable and analyzer: carried over from the sweep before."""
    return [
        Field("fixture", "Fixture (name, and seating)", initial=old.fixture if old else "", hint="Plate A"),
        *cable_fields(old.cable if old else Cable()),
        Field(
            "directivity",
            "Directivity left after calibration",
            read.decibel,
            lambda v: f"{v:g} dB",
            text_of(old.directivity_db if old else 30.0, decibels),
            "30 dB; 38 dB when freshly calibrated",
            True,
        ),
    ]


def carried_settings(session: Session) -> dict[str, Any]:
    """Fixture, cable and analyzer of the sweep before, for one that comes in by itself."""
    last = last_sweep(session)
    if last is None:
        return {}
    return {
        "fixture": last.fixture,
        "fixture_id": last.fixture_id,
        "seating": last.seating,
        "cable": last.cable,
        "directivity_db": last.directivity_db,
    }


def sweep_settings(v: dict[str, Any], old: Cable | None = None) -> dict[str, Any]:
    """The record's settings from the fields above; `old` is the cable that they started from."""
    if v["directivity"] <= 0:
        raise FieldError("directivity", "Directivity is above 0 dB; 30 dB is usual for a pocket analyzer.")
    return {"fixture": v["fixture"] or "", "cable": cable_of(v, old), "directivity_db": v["directivity"]}


def sweep_form(session: Session, old: Sweep) -> Form:
    """Change how a kept sweep is read: its cable, its fixture, its analyzer. The raw file stays as it came."""
    antennas = antenna_choices(session)
    fields = [
        Field("antenna", "Antenna", choices=antennas, chosen=old.antenna_id),
        *sweep_fields(old),
        Field(
            "taken_in",
            "Compare it with other fixtures and seatings all the same, because",
            initial=old.taken_in_reason,
            hint="the plate was bolted down; empty: keep it apart",
        ),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Choose an antenna.")
        state = old.state_id if antenna.id == old.antenna_id else antenna.state.id
        changes = {**sweep_settings(v, old.cable), "antenna_id": antenna.id, "state_id": state}
        record = old.revised(**changes, taken_in_reason=v["taken_in"] or "")
        return keep(session, f"how the sweep {old.source} is read", record, old, v)

    return Form(
        f"Sweep {old.source}",
        fields,
        kept,
        "The cable is taken out of the reading, and widens the doubt.",
        remove=remover(session, old, f"sweep {old.source}"),
        history=history(session, old),
    )


def meter_form(session: Session, old: MeterReading | None = None) -> Form:
    """A reading of an inline SWR meter: SWR, or forward and reflected power."""
    antennas = antenna_choices(session)
    question = session.evidence.question
    readings = session.evidence.all(MeterReading)
    last = old or (readings[-1] if readings else None)
    focus = old.antenna_id if old else (session.focus_antenna.id if session.focus_antenna else None)
    fields = [
        Field("antenna", "Antenna", choices=antennas, chosen=focus),
        Field(
            "frequency",
            "Frequency",
            read.frequency,
            show.frequency,
            text_of(old.frequency_hz if old else question.centre_hz if question else None, show.frequency),
            "869 MHz",
            True,
        ),
        Field("channel", "Channel, if it has a name", initial=old.channel if old else "", hint="12, lower"),
        Field(
            "swr",
            "SWR it reads",
            read.swr,
            lambda v: f"{v:.2f} : 1",
            text_of(old.swr if old else None, lambda v: f"{v:.2f}"),
            "1.4 or 1:1.4",
        ),
        Field(
            "forward",
            "or forward power",
            read.power,
            show.power,
            text_of(old.forward_w if old else None, show.power),
            "400 mW",
        ),
        Field(
            "reflected",
            "and reflected power",
            read.power,
            show.power,
            text_of(old.reflected_w if old else None, show.power),
            "12 mW",
        ),
        Field(
            "power", "Power used", read.power, show.power, text_of(last.power_w if last else None, show.power), "0.4 W"
        ),
        Field(
            "accuracy",
            "The meter’s doubt",
            read.fraction,
            lambda v: f"{v * 100:g} % of reading",
            text_of(last.relative_u if last else 0.05, lambda v: f"{v * 100:g} %"),
            "5 %",
        ),
        Field("fixture", "Fixture", initial=last.fixture if last else "", hint="Plate A"),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Put the antenna on the shelf first.")
        swr = v["swr"]
        if swr is None:
            if v["forward"] is None or v["reflected"] is None:
                raise FieldError("swr", "Give the SWR, or forward and reflected power.")
            if v["reflected"] >= v["forward"]:
                raise FieldError("reflected", "More comes back than goes forward: are the two swapped?")
            swr = round(swr_from_powers(v["forward"], v["reflected"]), 4)
        record = made(
            MeterReading,
            old,
            antenna_id=antenna.id,
            state_id=old.state_id if old and old.antenna_id == antenna.id else antenna.state.id,
            frequency_hz=v["frequency"],
            swr=swr,
            forward_w=v["forward"],
            reflected_w=v["reflected"],
            power_w=v["power"],
            relative_u=v["accuracy"] if v["accuracy"] is not None else 0.05,
            fixture=v["fixture"] or "",
            channel=v["channel"] or "",
            taken_at=old.taken_at if old else datetime.now(UTC).isoformat(timespec="seconds"),
        )
        where = f"channel {v['channel']}" if v["channel"] else show.frequency(v["frequency"])
        words = f"meter on {antenna.name}: SWR {swr:.2f} at {where}"
        return keep(session, show.upper_first(words) if old is None else words, record, old, v)

    note = "Use the least power that moves the meter. Never transmit without an antenna or a load."
    return Form(
        "A meter reading",
        fields,
        kept,
        note,
        remove=remover(session, old, "a meter reading"),
        again=lambda: meter_form(session),
        history=history(session, old),
    )


def fixture_form(session: Session, old: Fixture | None = None) -> Form:
    """What the antenna is measured on: half of many an antenna, so it has a name and must pass before it is believed."""
    cable = old.cable if old else Cable()
    fields = [
        Field("name", "Name", read.plain, initial=old.name if old else "", hint="Plate A", needed=True),
        Field(
            "body", "Plate or body, adapters", initial=old.body if old else "", hint="steel plate 350 mm, one adapter"
        ),
        *cable_fields(cable),
        Field(
            "limit",
            "It passes while the known load is within SWR",
            read.swr,
            lambda v: f"{v:g} : 1",
            text_of(old.limit if old else 1.15, plainly),
            "1.15 for a load, 1.5 for a check antenna",
            True,
        ),
        Field(
            "lasts",
            "A pass holds for, hours",
            read.number,
            lambda v: f"{v:g} h",
            text_of(old.lasts_s / 3600 if old else 8.0, plainly),
            "8",
            True,
        ),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if v["limit"] <= 1:
            raise FieldError("limit", "A limit of 1 can’t be met: give one above it, such as 1.15.")
        if v["lasts"] <= 0:
            raise FieldError("lasts", "A pass holds for some time: above zero.")
        record = made(
            Fixture,
            old,
            name=v["name"],
            body=v["body"] or "",
            cable=cable_of(v, cable),
            limit=v["limit"],
            lasts_s=v["lasts"] * 3600,
        )
        words = f"fixture {record.name}"
        return keep(session, show.upper_first(words) if old is None else words, record, old, v)

    return Form(
        "A fixture",
        fields,
        kept,
        "The last one written is the one in use. The cable is what lies between the calibration plane and the antenna.",
        remove=remover(session, old, f"fixture {old.name}" if old else ""),
        history=history(session, old),
    )


FAR_ENDS = [("short", "a short"), ("open", "nothing, it is open"), ("load", "a load")]


def _cable_sweep_fields(old: CableSweep | None) -> list[Field]:
    return [
        Field("name", "Which cable", read.plain, initial=old.name if old else "", hint="blue one, 3 m", needed=True),
        Field("far", "At its far end", choices=FAR_ENDS, chosen=old.far_end if old else "short"),
        Field(
            "velocity",
            "Velocity factor",
            velocity_factor,
            lambda v: f"{v:g}",
            text_of(old.velocity_factor if old else 0.66, plainly),
            "0.66",
            True,
        ),
        Field(
            "length",
            "Length by tape, if known",
            read.length,
            show.length,
            text_of(old.length_m if old else None, show.length),
            "3 m",
        ),
    ]


def _positive_length(v: dict[str, Any]) -> None:
    if v["length"] is not None and v["length"] <= 0:
        raise FieldError("length", "A length is above zero, or left empty.")


def cable_form(sweep: Callable[[str, FarEndOfCable, float, float | None], bool]) -> Form:
    """A cable that is swept now: its name, and what is at its far end."""

    def kept(v: dict[str, Any]) -> bool:
        _positive_length(v)
        return sweep(v["name"], v["far"], v["velocity"], v["length"])

    note = (
        "Screw it on at the calibration plane. Sweep widely: 500 MHz tell apart what lies half a metre from each other."
    )
    return Form("A cable", _cable_sweep_fields(None), kept, note, "Sweep it")


def cable_sweep_form(session: Session, old: CableSweep) -> Form:
    """Change how a kept sweep of a cable is read."""

    def kept(v: dict[str, Any]) -> bool:
        _positive_length(v)
        record = old.revised(name=v["name"], far_end=v["far"], velocity_factor=v["velocity"], length_m=v["length"])
        return keep(session, f"cable {record.name}", record, old, v)

    return Form(
        f"Cable {old.name}",
        [*_cable_sweep_fields(old), *reason_fields(old)],
        kept,
        remove=remover(session, old, f"cable {old.name}"),
        history=history(session, old),
    )
