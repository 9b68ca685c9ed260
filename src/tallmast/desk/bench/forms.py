"""Sheets for sweeps and meter readings."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from tallmast.notebook.records import Antenna, Cable, MeterReading, Sweep
from tallmast.physics.reflection import swr_from_powers
from tallmast.units import read, show

from ..entry import Field, FieldError, Form
from ..records import antenna_choices, decibels, history, keep, plainly, reason_fields, remover, text_of
from ..session import Session


def last_sweep(session: Session) -> Sweep | None:
    sweeps = session.evidence.all(Sweep)
    return sweeps[-1] if sweeps else None


def velocity_factor(text: str) -> float:
    """0.66, 66 %."""
    return read.fraction(text)


def sweep_fields(old: Sweep | None) -> list[Field]:
    """Fixture, cable and analyzer: carried over from the sweep before."""
    cable = old.cable if old else Cable()
    return [
        Field("fixture", "Fixture (name, and seating)", initial=old.fixture if old else "", hint="Plate A"),
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
        Field(
            "velocity",
            "Its velocity factor",
            velocity_factor,
            lambda v: f"{v:g}",
            text_of(cable.velocity_factor, plainly),
            "0.66",
        ),
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


def sweep_settings(v: dict[str, Any]) -> dict[str, Any]:
    """The record's settings from the fields above."""
    if v["directivity"] <= 0:
        raise FieldError("directivity", "Directivity is above 0 dB; 30 dB is usual for a pocket analyzer.")
    cable = Cable(
        loss_db=v["loss"] or 0.0,
        loss_u_db=v["loss_u"] or 0.0,
        length_m=v["length"] or 0.0,
        velocity_factor=v["velocity"] or 0.66,
    )
    return {"fixture": v["fixture"] or "", "cable": cable, "directivity_db": v["directivity"]}


def sweep_form(session: Session, old: Sweep) -> Form:
    """Change how a kept sweep is read: its cable, its fixture, its analyzer. The raw file stays as it came."""
    antennas = antenna_choices(session)
    fields = [
        Field("antenna", "Antenna", choices=antennas, chosen=old.antenna_id),
        *sweep_fields(old),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Choose an antenna.")
        state = old.state_id if antenna.id == old.antenna_id else antenna.state.id
        record = old.model_copy(update={**sweep_settings(v), "antenna_id": antenna.id, "state_id": state})
        return keep(session, f"how the sweep {old.source} is read", record, old, v)

    return Form(
        f"Sweep {old.source}",
        fields,
        kept,
        "The cable is taken out of the reading, and widens the doubt.",
        remove=remover(session, old, f"sweep {old.source}"),
        history=history(session, old),
    )


def bring_sweep_form(
    session: Session, names: list[str], ports: int, keep_all: Callable[[Antenna, int, dict[str, Any]], bool]
) -> Form:
    """Where dropped Touchstone files belong, and what lay between analyzer and antenna."""
    antennas = antenna_choices(session)
    focus = session.focus_antenna
    fields = [
        Field(
            "antenna",
            "They are of" if len(names) > 1 else "It is of",
            choices=antennas,
            chosen=focus.id if focus else None,
        )
    ]
    if ports > 1:
        fields.append(Field("port", "Port", choices=[(1, "port 1 (S11)"), (2, "port 2 (S22)")], chosen=1))
    fields += sweep_fields(last_sweep(session))

    def kept(v: dict[str, Any]) -> bool:
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Put the antenna on the shelf first.")
        return keep_all(antenna, v.get("port") or 1, sweep_settings(v))

    what = names[0] if len(names) == 1 else f"{len(names)} sweeps"
    note = "Settings are those of the last sweep. The state is the antenna’s present one."
    return Form(f"Bring in {what}", fields, kept, note, keep_words="Bring in")


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
        record = MeterReading(
            **({"id": old.id} if old else {}),
            antenna_id=antenna.id,
            state_id=old.state_id if old and old.antenna_id == antenna.id else antenna.state.id,
            frequency_hz=v["frequency"],
            swr=swr,
            forward_w=v["forward"],
            reflected_w=v["reflected"],
            power_w=v["power"],
            relative_u=v["accuracy"] if v["accuracy"] is not None else 0.05,
            fixture=v["fixture"] or "",
        )
        words = f"meter on {antenna.name}: SWR {swr:.2f} at {show.frequency(v['frequency'])}"
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
