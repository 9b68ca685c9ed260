"""Bringing files in: what each one is, where it belongs, and keeping it with its raw bytes. Reading runs on a worker."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from threading import Thread
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QTimer

from tallmast.formats import cut, display_log, gain_table, log, sniff, sweep_table, text, touchstone
from tallmast.formats.errors import FormatError
from tallmast.notebook.evidence import Series
from tallmast.notebook.records import Antenna, Cut, DisplayRun, GainTable, Log, Place, Run, Sweep
from tallmast.notebook.store import Entry, RawFile, new_series
from tallmast.units import show

from .bench.bring_forms import bring_sweep_form, bring_table_form
from .bench.forms import carried_settings
from .field.forms import bring_log_form
from .levels.guided_forms import bring_display_form, bring_gains_form
from .pattern.forms import bring_cut_form
from .records import photo_entry
from .session import LARGE_BYTES
from .watching import Watched

if TYPE_CHECKING:
    from .window import Window


MOMENT_S = 0.15


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
    read: Any = None
    if kind == "touchstone":
        read = touchstone.read(data, name)
    elif kind == "sweep table":
        read = sweep_table.read(data, name)
    elif kind == "gain table":
        read = gain_table.read(data, name)
    elif kind == "display":
        read = display_log.read(data, name)
    elif kind == "cut":
        read = cut.read(data, name)
    elif kind == "log":
        read = log.read_csv(data, name)
    elif kind == "gpx":
        read = log.read_gpx(data, name)
    return kind, read


class Bringing:
    """Takes dropped or chosen files one after the other; asks one sheet for each kind of question."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.session = window.session
        self._queue: list[Path] = []
        self._loaded: deque[tuple[Arrived | None, Exception | None]] = deque()
        self._sweeps: list[Arrived] = []
        self._stopped = False
        self._troubles: list[str] = []
        self._watched: Watched | None = None

    def take(self, paths: list[Path]) -> None:
        """Bring in files; a notebook among them is opened instead."""
        notebooks = [p for p in paths if p.suffix.lower() == ".tallmast"]
        if notebooks:
            self.window.open_notebook(notebooks[0])
            return
        if self.session.notebook is None:
            self.session.trouble.emit("Open or start a notebook first; then the file can be kept in it.")
            return
        self._queue += paths
        self._stopped = False
        self._troubles = []
        self._next()

    def watch(self, folder: Path) -> None:
        """Keep each new Touchstone file that another program saves in a folder, under the antenna in focus."""
        self.unwatch()
        self._watched = Watched(folder, self._saved, self.window)
        self.session.busy.emit("")
        self.window.tape.show_state(f"Watching {folder.name}")

    def unwatch(self) -> None:
        if self._watched is not None:
            self._watched.stop()
            self._watched = None
            self.window.tape.show_state("")

    @property
    def watching(self) -> Path | None:
        return self._watched.folder if self._watched is not None else None

    def _saved(self, path: Path) -> None:
        """A new file in the watched folder: kept with the settings of the sweep before, without a question."""

        def read(arrived: Arrived | None, error: Exception | None) -> None:
            antenna = self.session.focus_antenna
            if arrived is not None and arrived.kind == "sweep table" and antenna is not None:
                known = {**carried_settings(self.session), "phase_known": arrived.read.phase_known}
                self._keep_sweeps([replace(arrived, read=arrived.read.reflection)], antenna, 1, known)
                self.window.climb_to("bench")
            elif arrived is None or arrived.kind != "touchstone":
                told = (
                    str(error) if isinstance(error, FormatError) else f"{path.name} holds no sweep. It was left alone."
                )
                self.session.trouble.emit(told)
            elif antenna is None:
                self.session.trouble.emit(
                    f"{path.name} came in, but there is no antenna on the shelf to keep it under."
                )
            else:
                self._keep_sweeps([arrived], antenna, 1, carried_settings(self.session))
                self.window.climb_to("bench")

        self.session.work(f"Reading {path.name}", lambda: load(path), read)

    def stop(self) -> None:
        """Leave the rest; what was read so far is still asked about."""
        self._stopped = True
        self._queue.clear()

    def _next(self) -> None:
        """The next file that was read; when there is none, some more are read; when there are none, the end."""
        while self._loaded:
            if not self._arrived(*self._loaded.popleft()):
                return  # a sheet asks something first
        if not self._queue:
            self._end()
            return
        paths = list(self._queue)
        left = f", {show.count(len(paths) - 1, 'more file')} waiting" if len(paths) > 1 else ""
        self.session.work(f"Reading {paths[0].name}{left}", lambda: self._load_some(paths), self._some_loaded)

    def _load_some(self, paths: list[Path]) -> list[tuple[Arrived | None, Exception | None]]:
        """Files from the front of the queue, for a moment's work: between moments the window tells how far it is."""
        out: list[tuple[Arrived | None, Exception | None]] = []
        end = time.monotonic() + MOMENT_S
        for path in paths:
            try:
                out.append((load(path), None))
            except Exception as error:
                out.append((None, error))
            if self._stopped or time.monotonic() > end:
                break
        return out

    def _some_loaded(
        self, loaded: list[tuple[Arrived | None, Exception | None]] | None, error: Exception | None
    ) -> None:
        if loaded is None:
            self._troubles.append(f"The files could not be read ({error}). Nothing of them was taken in.")
            self._queue.clear()
        else:
            del self._queue[: len(loaded)]
            self._loaded.extend(loaded)
        self._next()

    def _arrived(self, arrived: Arrived | None, error: Exception | None) -> bool:
        """Deal with one file; whether the next may follow at once."""
        if arrived is None:
            if isinstance(error, FormatError | MemoryError):
                self._troubles.append(str(error) or "The file is too large for this machine’s memory.")
            else:
                self._troubles.append(f"A file could not be read ({error}). Nothing of it was taken in.")
            return True
        if arrived.kind == "touchstone":
            self._sweeps.append(arrived)
        elif arrived.kind == "photo":
            entry = photo_entry(self.session, arrived.raw)
            if entry is None:
                self._troubles.append("Put an antenna on the shelf first; then the photo can go to it.")
            else:
                self.session.write(entry)
        else:
            {
                "sweep table": self._table,
                "cut": self._cut,
                "log": self._log,
                "gpx": self._gpx,
                "gain table": self._gains,
                "display": self._display,
            }[arrived.kind](arrived)
            return False
        return True

    def _end(self) -> None:
        """All are read: sweeps are kept together, troubles are told together."""
        if self._troubles:
            more = (
                f" And {show.count(len(self._troubles) - 1, 'other file')} had trouble too."
                if len(self._troubles) > 1
                else ""
            )
            self.session.trouble.emit(self._troubles[0] + more)
            self._troubles = []
        if self._sweeps:
            sweeps, self._sweeps = self._sweeps, []
            ports = max(s.read.ports for s in sweeps)
            names = [s.path.name for s in sweeps]
            self._ask(
                bring_sweep_form(self.session, names, ports, lambda a, port, v: self._keep_sweeps(sweeps, a, port, v)),
                "bench",
            )

    def _ask(self, form: Any, rung: str) -> None:
        new = rung not in self.window.views
        self.window.climb_to(rung)
        if new:
            # A rung seen for the first time and a sheet together would be felt: each has a turn of its own.
            QTimer.singleShot(0, self.window, lambda: self._open(form))
        else:
            self._open(form)

    def _open(self, form: Any) -> None:
        self.window.write(form)
        sheet = self.window.sheet
        if sheet is not None:
            # A file whose sheet was left is passed over; those waiting behind it still come.
            sheet.left.connect(self._next)

    def _told(self, notes: tuple[str, ...]) -> str:
        return f" ({'; '.join(notes)})" if notes else ""

    def _keep_sweeps(self, sweeps: list[Arrived], antenna: Antenna, port: int, settings: dict[str, Any]) -> bool:
        records: list[Sweep] = []
        raws: list[RawFile] = []
        notes: list[str] = []
        series: dict[str, Series] = {}
        for arrived in sweeps:
            read = arrived.read
            if port > 1 and read.ports >= port:
                try:
                    read = touchstone.read(arrived.raw.data, arrived.path.name, port)
                except FormatError as error:
                    self.session.trouble.emit(str(error))
                    continue
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
            raws.append(arrived.raw)
            notes += read.notes
        if not records:
            return False
        points = len(series[records[0].series_id]["frequency_hz"])
        what = f"sweep {records[0].source}, {points} points" if len(records) == 1 else f"{len(records)} sweeps"
        label = f"{antenna.name}: {what}{self._told(tuple(dict.fromkeys(notes)))}"
        self.session.write_large(
            Entry(label, records, raw=raws, series=series),
            lambda kept: self.session.focus(antenna.id) if kept else None,
        )
        return True

    def _table(self, arrived: Arrived) -> None:
        """A sweep as a table: what its columns mean was guessed, is shown, and can be corrected."""

        def keep(antenna: Antenna, mapping: sweep_table.Mapping, settings: dict[str, Any]) -> bool:
            def done(read: sweep_table.SweepTable | None, error: Exception | None) -> None:
                if read is None:
                    self.session.trouble.emit(str(error))
                    return
                known = {**settings, "phase_known": read.phase_known}
                self._keep_sweeps([replace(arrived, read=read.reflection)], antenna, 1, known)
                self._next()

            if mapping == arrived.read.mapping:
                done(arrived.read, None)
            else:
                data, name = arrived.raw.data, arrived.path.name
                self.session.work(f"Reading {name} again", lambda: sweep_table.read(data, name, mapping), done)
            return True

        self._ask(bring_table_form(self.session, arrived.path.name, arrived.read, keep), "bench")

    def _gains(self, arrived: Arrived) -> None:
        """A calibrated antenna's gain over frequency."""
        read: gain_table.GainFile = arrived.read

        def keep(antenna: Antenna) -> bool:
            key, columns = new_series({"frequency_hz": read.frequency_hz, "gain_dbi": read.gain_dbi, "u_db": read.u_db})
            name = arrived.path.name
            record = GainTable(antenna_id=antenna.id, series_id=key, source=name, raw_sha256=arrived.raw.sha256)
            label = f"{antenna.name}: gain table {name}, {show.count(len(read.gain_dbi), 'frequency', 'frequencies')}{self._told(read.notes)}"
            kept = self.session.write(Entry(label, [record], raw=[arrived.raw], series=columns))
            if kept:
                self._next()
            return kept

        self._ask(bring_gains_form(self.session, arrived.path.name, read.notes, keep), "levels")

    def _display(self, arrived: Arrived) -> None:
        """A display that was stepped elsewhere."""
        read: display_log.DisplayFile = arrived.read

        def keep(record: DisplayRun) -> bool:
            key, columns = new_series(
                {
                    "attenuation_db": read.attenuation_db,
                    "shown": read.shown,
                    "order": np.arange(len(read.shown), dtype=float),
                }
            )
            made = record.model_copy(
                update={"series_id": key, "source": arrived.path.name, "raw_sha256": arrived.raw.sha256}
            )
            label = f"{record.receiver}: stepped display {arrived.path.name}, {show.count(len(read.shown), 'reading')}{self._told(read.notes)}"
            self.session.write_large(
                Entry(show.upper_first(label), [made], raw=[arrived.raw], series=columns), lambda kept: self._next()
            )
            return True

        self._ask(bring_display_form(self.session, arrived.path.name, read.notes, keep), "levels")

    def _cut(self, arrived: Arrived) -> None:
        read = arrived.read

        def keep(antenna: Antenna, scale: str, settings: dict[str, Any]) -> bool:
            try:
                final = read if scale == read.scale else cut.read(arrived.raw.data, arrived.path.name, scale)  # type: ignore[arg-type]
            except FormatError as error:
                self.session.trouble.emit(str(error))
                return False
            series_id, columns = new_series({"angle_deg": final.angle_deg, "level_db": final.level_db})
            record = Cut(
                antenna_id=antenna.id,
                state_id=antenna.state.id,
                series_id=series_id,
                source=arrived.path.name,
                raw_sha256=arrived.raw.sha256,
                **settings,
            )
            label = f"{antenna.name}: {record.plane} cut {record.source}, {len(final.angle_deg)} angles{self._told(final.notes)}"
            kept = self.session.write(Entry(label, [record], raw=[arrived.raw], series=columns))
            if kept:
                self.session.focus(antenna.id)
                self._next()
            return kept

        self._ask(bring_cut_form(self.session, arrived.path.name, read.scale, read.taken, read.notes, keep), "pattern")

    def _log(self, arrived: Arrived) -> None:
        def keep(run: Run, mapping: dict[str, str]) -> bool:
            if mapping == {k: v for k, v in arrived.read.mapping.items() if k in mapping} and set(mapping) >= set(
                log.NEEDED
            ):
                self._keep_log(arrived, run, arrived.read)
            else:

                def reread() -> log.LogFile:
                    return log.read_csv(arrived.raw.data, arrived.path.name, mapping)

                self.session.work(f"Reading {arrived.path.name} again", reread, self._reread(arrived, run))
            return True

        self._ask(bring_log_form(self.session, arrived.path.name, arrived.read, keep), "field")

    def _reread(self, arrived: Arrived, run: Run) -> Callable[[Any, Exception | None], None]:
        def done(read: log.LogFile | None, error: Exception | None) -> None:
            if read is None:
                self.session.trouble.emit(str(error))
            else:
                self._keep_log(arrived, run, read)

        return done

    def _keep_log(self, arrived: Arrived, run: Run, read: log.LogFile) -> None:
        series_id, columns = new_series({k: np.ascontiguousarray(v) for k, v in read.columns.items()})
        record = Log(
            run_id=run.id,
            series_id=series_id,
            source=arrived.path.name,
            raw_sha256=arrived.raw.sha256,
            mapping=read.mapping,
        )
        points = len(read.columns["latitude_deg"])
        label = f"Run {run.number}: log {record.source}, {points} points{self._told(read.notes)}"
        entry = Entry(label, [record], raw=[arrived.raw], series=columns)
        self.session.write_large(entry, lambda kept: self._next())

    def _gpx(self, arrived: Arrived) -> None:
        read: log.GpxFile = arrived.read
        known = {p.name.lower() for p in self.session.evidence.places}
        new = [w for w in read.waypoints if w.name.lower() not in known]
        if new:
            places = [Place(name=w.name, latitude_deg=w.latitude_deg, longitude_deg=w.longitude_deg) for w in new]
            self.session.write(
                Entry(
                    f"{show.upper_first(show.count(len(places), 'place'))} from {arrived.path.name}",
                    places,
                    raw=[arrived.raw],
                )
            )
        track = read.track
        if track is None:
            if not new:
                self.session.trouble.emit(
                    f"{arrived.path.name}: its waypoints are places already. Nothing was changed."
                )
            self._next()
            return

        def keep(run: Run, mapping: dict[str, str]) -> bool:
            self._keep_log(arrived, run, track)
            return True

        self._ask(bring_log_form(self.session, arrived.path.name, track, keep), "field")
