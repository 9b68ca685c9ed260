"""What a file that was brought in becomes: for each kind the sheet that asks, and the entry that is kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from threading import Thread
from typing import Any

import numpy as np

from tallmast.formats import cut, display_log, gain_table, log, sniff, sweep_table, text, touchstone
from tallmast.formats.errors import FormatError
from tallmast.notebook.evidence import Series
from tallmast.notebook.records import Antenna, Cut, DisplayRun, GainTable, Place, Run, Sweep
from tallmast.notebook.store import Entry, RawFile, new_series
from tallmast.units import show

from .bench.bring_forms import bring_sweep_form, bring_table_form
from .entry import FieldError, Form, Later
from .field.log_forms import bring_log_form, log_entry
from .levels.guided_forms import bring_display_form, bring_gains_form
from .pattern.sheets import bring_cut_form
from .session import LARGE_BYTES, Session

READERS: dict[sniff.FileKind, Callable[[bytes, str], Any]] = {
    "touchstone": touchstone.read,
    "sweep table": sweep_table.read,
    "gain table": gain_table.read,
    "display": display_log.read,
    "cut": cut.read,
    "log": log.read_csv,
    "gpx": log.read_gpx,
}


@dataclass(frozen=True)
class Arrived:
    """One file off the disk: its kind, and a first reading of it."""

    path: Path
    raw: RawFile
    kind: sniff.FileKind
    read: Any = None


def load(path: Path) -> Arrived:
    """Read and recognise a file. Raises FormatError."""
    data = text.load(path)
    raw = RawFile(path.name, data)
    hashing = Thread(target=lambda: raw.sha256)
    if len(data) < LARGE_BYTES:
        hashing.run()
        return Arrived(path, raw, *_recognised(data, path.name))
    # Hashing lets go of the interpreter, so it goes on beside the reading.
    hashing.start()
    try:
        return Arrived(path, raw, *_recognised(data, path.name))
    finally:
        hashing.join()


def _recognised(data: bytes, name: str) -> tuple[sniff.FileKind, Any]:
    kind = sniff.kind_of(data, name)
    reader = READERS.get(kind)
    return kind, reader(data, name) if reader is not None else None


def _told(notes: Sequence[str]) -> str:
    return f" ({'; '.join(dict.fromkeys(notes))})" if notes else ""


def sweeps_entry(sweeps: Sequence[Arrived], antenna: Antenna, port: int, settings: dict[str, Any]) -> Entry:
    """Sweeps of one antenna, kept together. Raises FormatError where a file has no such port."""
    records: list[Sweep] = []
    notes: list[str] = []
    series: dict[str, Series] = {}
    for arrived in sweeps:
        read = arrived.read
        if port > 1 and read.ports >= port:
            read = touchstone.read(arrived.raw.data, arrived.path.name, port)
        series_id, columns = new_series(
            {"frequency_hz": read.frequency_hz, "re": read.gamma.real, "im": read.gamma.imag}
        )
        series |= columns
        records.append(
            Sweep(
                antenna_id=antenna.id,
                state_id=antenna.state.id,
                series_id=series_id,
                source=arrived.path.name,
                raw_sha256=arrived.raw.sha256,
                port=read.port,
                **settings,
            )
        )
        notes += read.notes
    points = len(series[records[0].series_id]["frequency_hz"])
    what = f"sweep {records[0].source}, {points} points" if len(records) == 1 else f"{len(records)} sweeps"
    return Entry(f"{antenna.name}: {what}{_told(notes)}", records, raw=[s.raw for s in sweeps], series=series)


def sweeps_sheet(session: Session, sweeps: Sequence[Arrived]) -> tuple[Form, str]:
    """Sweeps that came together, of one antenna."""

    def keep(antenna: Antenna, port: int, settings: dict[str, Any]) -> Later:
        try:
            entry = sweeps_entry(sweeps, antenna, port, settings)
        except FormatError as error:
            raise FieldError("port", str(error)) from error
        return session.later(entry, lambda: session.focus(antenna.id))

    ports = max(s.read.ports for s in sweeps)
    return bring_sweep_form(session, [s.path.name for s in sweeps], ports, keep), "bench"


def table_sheet(session: Session, arrived: Arrived) -> tuple[Form, str]:
    """A sweep as a table: what its columns mean was guessed, is shown, and can be corrected."""
    data, name = arrived.raw.data, arrived.path.name

    def keep(antenna: Antenna, mapping: sweep_table.Mapping, settings: dict[str, Any]) -> Later:
        def kept(read: sweep_table.SweepTable) -> Later:
            known = {**settings, "phase_known": read.phase_known}
            entry = sweeps_entry([replace(arrived, read=read.reflection)], antenna, 1, known)
            return session.later(entry, lambda: session.focus(antenna.id))

        if mapping == arrived.read.mapping:
            return kept(arrived.read)
        return session.read_first(f"Reading {name} again", lambda: sweep_table.read(data, name, mapping), kept)

    return bring_table_form(session, name, arrived.read, keep), "bench"


def gains_sheet(session: Session, arrived: Arrived) -> tuple[Form, str]:
    """A calibrated antenna's gain over frequency."""
    read, name = arrived.read, arrived.path.name

    def keep(antenna: Antenna) -> Later:
        key, columns = new_series({"frequency_hz": read.frequency_hz, "gain_dbi": read.gain_dbi, "u_db": read.u_db})
        record = GainTable(antenna_id=antenna.id, series_id=key, source=name, raw_sha256=arrived.raw.sha256)
        points = show.count(len(read.gain_dbi), "frequency", "frequencies")
        label = f"{antenna.name}: gain table {name}, {points}{_told(read.notes)}"
        return session.later(Entry(label, [record], raw=[arrived.raw], series=columns))

    return bring_gains_form(session, name, read.notes, keep), "levels"


def display_sheet(session: Session, arrived: Arrived) -> tuple[Form, str]:
    """A display that was stepped elsewhere."""
    read, name = arrived.read, arrived.path.name

    def keep(record: DisplayRun) -> Later:
        order = np.arange(len(read.shown), dtype=float)
        key, columns = new_series({"attenuation_db": read.attenuation_db, "shown": read.shown, "order": order})
        made = record.revised(series_id=key, source=name, raw_sha256=arrived.raw.sha256)
        readings = show.count(len(read.shown), "reading")
        label = f"{record.receiver}: stepped display {name}, {readings}{_told(read.notes)}"
        return session.later(Entry(show.upper_first(label), [made], raw=[arrived.raw], series=columns))

    return bring_display_form(session, name, read.notes, keep), "levels"


def cut_sheet(session: Session, arrived: Arrived) -> tuple[Form, str]:
    """A cut through a pattern."""
    read, name = arrived.read, arrived.path.name

    def keep(antenna: Antenna, scale: str, settings: dict[str, Any]) -> Later:
        def kept(final: cut.CutFile) -> Later:
            series_id, columns = new_series({"angle_deg": final.angle_deg, "level_db": final.level_db})
            record = Cut(
                antenna_id=antenna.id,
                state_id=antenna.state.id,
                series_id=series_id,
                source=name,
                raw_sha256=arrived.raw.sha256,
                **settings,
            )
            label = f"{antenna.name}: {record.plane} cut {name}, {len(final.angle_deg)} angles{_told(final.notes)}"
            entry = Entry(label, [record], raw=[arrived.raw], series=columns)
            return session.later(entry, lambda: session.focus(antenna.id))

        if scale == read.scale:
            return kept(read)
        data = arrived.raw.data
        return session.read_first(f"Reading {name} again", lambda: cut.read(data, name, scale), kept)  # type: ignore[arg-type]

    return bring_cut_form(session, name, read.scale, read.taken, read.notes, keep), "pattern"


def log_sheet(session: Session, arrived: Arrived) -> tuple[Form, str]:
    """A logger's table, or the track of a GPX file."""
    data, name = arrived.raw.data, arrived.path.name
    found: log.LogFile = arrived.read.track if arrived.kind == "gpx" else arrived.read

    def keep(run: Run, mapping: dict[str, str]) -> Later:
        def kept(read: log.LogFile) -> Later:
            return session.later(log_entry(run, read, arrived.raw))

        if all(found.mapping.get(ours, "") == theirs for ours, theirs in mapping.items()):
            return kept(found)
        return session.read_first(f"Reading {name} again", lambda: log.read_csv(data, name, mapping), kept)

    return bring_log_form(session, name, found, keep), "field"


def waypoints_entry(session: Session, arrived: Arrived) -> Entry | None:
    """The waypoints of a GPX file that are no places yet; None where there are none."""
    read: log.GpxFile = arrived.read
    known = {p.name.lower() for p in session.evidence.places}
    new = [w for w in read.waypoints if w.name.lower() not in known]
    if not new:
        return None
    places = [Place(name=w.name, latitude_deg=w.latitude_deg, longitude_deg=w.longitude_deg) for w in new]
    label = f"{show.upper_first(show.count(len(places), 'place'))} from {arrived.path.name}"
    return Entry(label, places, raw=[arrived.raw])


SHEETS: dict[sniff.FileKind, Callable[[Session, Arrived], tuple[Form, str]]] = {
    "sweep table": table_sheet,
    "gain table": gains_sheet,
    "display": display_sheet,
    "cut": cut_sheet,
    "log": log_sheet,
    "gpx": log_sheet,
}
"""By the kind of a file, the sheet that asks about it and the rung it is asked on."""
