"""What a file that was brought in becomes: for each kind whose it is, and the entry that is kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from msgspec.structs import replace

from tallmast.formats import cut, cuts, design, gain_table, gpx, log, sweep_table, touchstone
from tallmast.formats.arrived import Arrived
from tallmast.formats.display_log import DisplayFile
from tallmast.formats.errors import FormatError
from tallmast.formats.field_notes import NotesFile
from tallmast.formats.meter_table import MeterTable
from tallmast.formats.recording import RecordingFile
from tallmast.notebook.entry import Entry, new_series
from tallmast.notebook.evidence import Series
from tallmast.notebook.records import Antenna, Cut, Design, DisplayRun, GainTable, Log, Place, Sweep
from tallmast.units import show

from ..bench.bring_forms import bring_sweep_form
from ..bench.meter_forms import meter_entry, meter_fields, meter_said
from ..bench.sheets import sweep_fields, sweep_settings
from ..field.log_forms import OF_A_LOG, log_entry, receiver_field, told_fields, told_settings
from ..field.notes_forms import notes_entry, notes_fields, notes_said
from ..field.recording_forms import recording_entry, recording_fields, recording_settings
from ..levels.sheets import display_fields, display_settings
from ..link.heights_form import heights_form
from ..pattern.sheets import cut_fields, cut_settings, design_fields, design_settings
from ..session import Session
from ..sheets.entry import Form, Later
from ..sheets.fields import Field, FieldError
from ..sheets.shelving import Shelving, new_words
from .table_sheet import Memory, Owner, table_form
from .whose import antenna_fields, antenna_of, run_fields, run_of, with_new


def _told(notes: Sequence[str]) -> str:
    return f" ({'; '.join(dict.fromkeys(notes))})" if notes else ""


def sweeps_entry(sweeps: Sequence[Arrived], antenna: Antenna, port: int, settings: dict[str, Any]) -> Entry:
    """Sweeps of one antenna, kept together. Raises FormatError where a file has no such port."""
    records: list[Sweep] = []
    notes: list[str] = []
    series: dict[str, Series] = {}
    for arrived in sweeps:
        read = getattr(arrived.read, "reflection", arrived.read)
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


def sweeps_sheet(session: Session, sweeps: Sequence[Arrived]) -> Form:
    """Sweeps that came together, of one antenna."""

    def keep(v: dict[str, Any], port: int, settings: dict[str, Any]) -> Later:
        antenna, new = antenna_of(session, v)
        try:
            entry = sweeps_entry(sweeps, antenna, port, settings)
        except FormatError as error:
            raise FieldError("port", str(error)) from error
        return session.later(with_new(entry, new), lambda: session.focus(antenna.id))

    ports = max(s.read.ports for s in sweeps)
    whose = antenna_fields(session, "They are of" if len(sweeps) > 1 else "It is of")
    return bring_sweep_form(session, [s.path.name for s in sweeps], ports, whose, keep)


def photo_sheet(session: Session, arrived: Arrived) -> Form:
    """A photo that came before there was an antenna."""

    def keep(v: dict[str, Any]) -> Later:
        antenna, new = antenna_of(session, v)
        shown = antenna.revised(photo_sha256=arrived.raw.sha256)
        others = [record for record in new if record.id != antenna.id]
        return session.later(Entry(f"{antenna.name}: photo {arrived.raw.name}", [*others, shown], raw=[arrived.raw]))

    return Form(f"Bring in {arrived.raw.name}", antenna_fields(session), keep, keep_words="Bring in")


# Tables, by kind


def _sweep(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[sweep_table.SweepTable], Entry]:
    (antenna, new), settings = antenna_of(session, v), sweep_settings(v, session)

    def entry(read: sweep_table.SweepTable) -> Entry:
        known = {**settings, "phase_known": read.phase_known}
        return with_new(sweeps_entry([replace(arrived, read=read.reflection)], antenna, 1, known), new)

    return entry


def _gains(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[gain_table.GainFile], Entry]:
    antenna, new = antenna_of(session, v)

    def entry(read: gain_table.GainFile) -> Entry:
        key, columns = new_series({"frequency_hz": read.frequency_hz, "gain_dbi": read.gain_dbi, "u_db": read.u_db})
        name = arrived.path.name
        record = GainTable(antenna_id=antenna.id, series_id=key, source=name, raw_sha256=arrived.raw.sha256)
        points = show.count(len(read.gain_dbi), "frequency", "frequencies")
        label = f"{antenna.name}: gain table {name}, {points}{_told(read.notes)}"
        return Entry(label, [*new, record], raw=[arrived.raw], series=columns)

    return entry


def _display(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[DisplayFile], Entry]:
    settings = display_settings(v)

    def entry(read: DisplayFile) -> Entry:
        order = np.arange(len(read.shown), dtype=float)
        key, columns = new_series({"attenuation_db": read.attenuation_db, "shown": read.shown, "order": order})
        name = arrived.path.name
        record = DisplayRun(series_id=key, source=name, raw_sha256=arrived.raw.sha256, **settings)
        readings = show.count(len(read.shown), "reading")
        label = f"{record.receiver}: stepped display {name}, {readings}{_told(read.notes)}"
        return Entry(show.upper_first(label), [record], raw=[arrived.raw], series=columns)

    return entry


def _one_cut(
    antenna: Antenna, read: cut.CutFile, arrived: Arrived, settings: dict[str, Any]
) -> tuple[Cut, dict[str, Series]]:
    series_id, columns = new_series({"angle_deg": read.angle_deg, "level_db": read.level_db})
    record = Cut(
        antenna_id=antenna.id,
        state_id=antenna.state.id,
        series_id=series_id,
        source=arrived.path.name,
        raw_sha256=arrived.raw.sha256,
        **settings,
    )
    return record, columns


def _cut(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[cut.CutFile], Entry]:
    (antenna, new), settings = antenna_of(session, v), cut_settings(v)

    def entry(read: cut.CutFile) -> Entry:
        record, columns = _one_cut(antenna, read, arrived, settings)
        label = f"{antenna.name}: {record.plane} cut {record.source}, {len(read.angle_deg)} angles{_told(read.notes)}"
        return Entry(label, [*new, record], raw=[arrived.raw], series=columns)

    return entry


def _cuts(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[cuts.CutsFile], Entry]:
    settings = cut_settings(v)

    def entry(read: cuts.CutsFile) -> Entry:
        shelf = Shelving(session.evidence)
        records: list[Cut] = []
        series: dict[str, Series] = {}
        # What stands side by side was measured together.
        together = {**settings, "session": settings["session"] or arrived.path.stem}
        for name, one in read.cuts:
            record, columns = _one_cut(shelf.called(name), one, arrived, together)
            records.append(record)
            series |= columns
        label = f"{show.upper_first(show.count(len(records), 'cut'))} of {arrived.path.name}{_told(read.notes)}"
        return Entry(label, [*shelf.new, *records], raw=[arrived.raw], series=series)

    return entry


AS_RECEIVED = "Levels as received? Say so, and they tell who has more gain."


def _cuts_said(session: Session, read: cuts.CutsFile) -> str:
    names = [name for name, _ in read.cuts]
    return f"A cut each of {show.join(names)}. {new_words(session, names)} {AS_RECEIVED}"


def _design(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[design.DesignFile], Entry]:
    (antenna, new), settings = antenna_of(session, v), design_settings(v)

    def entry(read: design.DesignFile) -> Entry:
        columns = {"azimuth_deg": read.azimuth_deg, "elevation_deg": read.elevation_deg, "level_db": read.level_db}
        key, series = new_series({name: np.ascontiguousarray(values) for name, values in columns.items()})
        name = arrived.path.name
        record = Design(antenna_id=antenna.id, series_id=key, source=name, raw_sha256=arrived.raw.sha256, **settings)
        label = f"{antenna.name}: design {name}, {show.count(len(read.level_db), 'direction')}{_told(read.notes)}"
        return Entry(label, [*new, record], raw=[arrived.raw], series=series)

    return entry


def _recording(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[RecordingFile], Entry]:
    run, new = run_of(session, v)
    settings = recording_settings(v)
    return lambda read: with_new(recording_entry(run, settings, read, arrived.raw), new)


def _meter(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[MeterTable], Entry]:
    return lambda read: meter_entry(session, v, read, arrived.raw)


def _notes(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[NotesFile], Entry]:
    return lambda read: notes_entry(session, v, read, arrived.raw)


def _log_fields(session: Session) -> list[Field]:
    logs = session.evidence.all(Log)
    return [
        *run_fields(session, OF_A_LOG),
        receiver_field(session, logs[-1].receiver if logs else ""),
        *told_fields(session, None),
    ]


def _log(session: Session, v: dict[str, Any], arrived: Arrived) -> Callable[[Any], Entry]:
    run, new = run_of(session, v)
    told = told_settings(v)

    def entry(read: log.LogFile | gpx.GpxFile) -> Entry:
        track = read.track if isinstance(read, gpx.GpxFile) else read
        assert track is not None
        return with_new(log_entry(run, track, arrived.raw, v.get("receiver") or "", told), new)

    return entry


OWNERS: dict[str, Owner] = {
    "sweep table": Owner(
        "bench", lambda session: [*antenna_fields(session), *sweep_fields(session)], _sweep, focused=True
    ),
    "meter table": Owner("bench", meter_fields, _meter, said=meter_said),
    "gain table": Owner(
        "levels",
        antenna_fields,
        _gains,
        "Between its frequencies it is read straight in log f; beyond them its uncertainty grows.",
    ),
    "display": Owner(
        "levels", display_fields, _display, "Attenuation and reading, in the order in which they were taken."
    ),
    "cut": Owner("pattern", lambda session: [*antenna_fields(session), *cut_fields(session)], _cut, focused=True),
    "cuts": Owner("pattern", cut_fields, _cuts, said=_cuts_said),
    "design": Owner(
        "pattern",
        lambda session: [*antenna_fields(session, asked=True), *design_fields(session)],
        _design,
        "What it was designed to send: its cuts are held against it, and where they stand off is told.",
        focused=True,
    ),
    "log": Owner("field", _log_fields, _log),
    "recording": Owner(
        "field",
        lambda session: [*run_fields(session, "It is of run"), *recording_fields(session)],
        _recording,
        "Readings in time. Marks part it into stretches, which are compared run by run.",
    ),
    "field notes": Owner("field", notes_fields, _notes, said=notes_said),
    "gpx": Owner("field", lambda session: [*run_fields(session, OF_A_LOG), *told_fields(session, None)], _log),
}
"""By the kind of a file, whose it is asked to be."""


def sheet_of(session: Session, arrived: Arrived, memory: Memory) -> Form:
    """The sheet that asks about a file, as the notebook stands now."""
    if arrived.kind == "photo":
        return photo_sheet(session, arrived)
    if arrived.kind == "heights":
        return heights_form(session, arrived.read)
    return table_form(session, arrived, OWNERS, memory)


def rung_of(arrived: Arrived) -> str:
    """The rung that it is asked on."""
    others = {"photo": "shelf", "heights": "link"}
    return others.get(arrived.kind) or OWNERS[arrived.kind].rung


def waypoints_entry(session: Session, arrived: Arrived) -> Entry | None:
    """The waypoints of a GPX file that are no places yet; None where there are none."""
    read: gpx.GpxFile = arrived.read
    known = {p.name.lower() for p in session.evidence.places}
    new = [w for w in read.waypoints if w.name.lower() not in known]
    if not new:
        return None
    places = [Place(name=w.name, latitude_deg=w.latitude_deg, longitude_deg=w.longitude_deg) for w in new]
    label = f"{show.upper_first(show.count(len(places), 'place'))} from {arrived.path.name}"
    return Entry(label, places, raw=[arrived.raw])
