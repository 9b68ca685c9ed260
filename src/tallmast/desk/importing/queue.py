"""Bringing files in: one queue, read on a worker, one sheet after the other. What each kind becomes: `bringing_kinds`."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer

from tallmast.formats.apart import reader
from tallmast.formats.arrived import Arrived, Corrected, Whole, load, load_all
from tallmast.formats.errors import FormatError
from tallmast.formats.sniff import is_notebook
from tallmast.frozen import Frozen, field
from tallmast.notebook.entry import Entry
from tallmast.units import show

from ..bench.sheets import carried_settings
from ..sheets.entry import Form
from ..sheets.keeping import photo_entry
from .owners import rung_of, sheet_of, sweeps_entry, sweeps_sheet, waypoints_entry
from .watching import Watched

if TYPE_CHECKING:
    from ..protocols import Frame


MOMENT_S, PAINTED_MS = 0.15, 20


class Question(Frozen, eq=True):
    """A sheet that asks where something belongs, and the rung that it is asked on."""

    make: Callable[[], Form]
    """Its sheet, as the notebook stands when it is opened: what was put on the shelf meanwhile can be chosen."""
    rung: str
    texts: dict[str, Any] = field(default_factory=dict)
    """What stood in its fields when another sheet took its place."""
    whole: Whole | None = None
    """What reads the rest of the file while the sheet is open."""


class Bringing(QObject):
    """Takes dropped or chosen files one after the other; asks one sheet for each kind of question.

    The queue goes on whenever no sheet is open: whether one was kept or left. A sheet that another one replaced waits in
    front of it, with what was chosen.
    """

    def __init__(self, frame: Frame, parent: QObject) -> None:
        super().__init__(parent)
        self.frame, self.session = frame, frame.session
        self._queue: list[Path] = []
        self._loaded: deque[Arrived | Exception] = deque()
        self._waiting: deque[Question] = deque()
        self._asked: Question | None = None
        """The one whose sheet is open."""
        self._sweeps: list[Arrived] = []
        self._busy = self._stopped = False
        self._troubles: list[str] = []
        self._watched: Watched | None = None
        frame.sheet_closed.connect(self._soon)
        self.session.opened.connect(self._forget)
        self.session.stop_asked.connect(reader.stop)

    def take(self, paths: list[Path]) -> None:
        """Bring in files; a notebook among them is opened instead."""
        notebook = next((p for p in paths if is_notebook(p)), None)
        if notebook is not None:
            if self.frame.open_notebook(notebook) and len(paths) > 1:
                rest = show.count(len(paths) - 1, "other file")
                self.session.trouble.emit(
                    f"{notebook.name} was opened. The {rest} with it {'was' if len(paths) == 2 else 'were'} left: "
                    "bring them in again, into whichever notebook they belong to."
                )
            return
        if self.session.notebook is None and not self.frame.start_notebook(paths[0].stem):
            return  # no name for one was given: what was dropped is still where it was
        self._queue += paths
        self._stopped = False
        if self.frame.sheet is not None:
            one = len(paths) == 1
            self.session.trouble.emit(
                f"{paths[0].name if one else show.count(len(paths), 'file')} {'waits' if one else 'wait'} "
                "until the sheet at the side is kept (Enter) or left (Esc)."
            )
        self._next()

    def watch(self, folder: Path) -> None:
        """Keep each new Touchstone file that another program saves in a folder, under the antenna in focus."""
        self.unwatch()
        self._watched = Watched(folder, self._saved, self)
        self.session.busy.emit("")
        self.frame.show_state(f"Watching {folder.name}")

    def unwatch(self) -> None:
        if self._watched is not None:
            self._watched.stop()
            self._watched = None
            self.frame.show_state("")

    @property
    def watching(self) -> Path | None:
        return self._watched.folder if self._watched is not None else None

    def _saved(self, path: Path) -> None:
        """A new file in the watched folder: kept with the settings of the sweep before, without a question."""

        def read(arrived: Arrived | None, error: Exception | None) -> None:
            antenna = self.session.focus_antenna
            known = carried_settings(self.session)
            if arrived is not None and arrived.kind == "sweep table" and arrived.read is not None:
                known |= {"phase_known": arrived.read.phase_known}
            elif arrived is None or arrived.kind != "touchstone":
                told = (
                    str(error) if isinstance(error, FormatError) else f"{path.name} holds no sweep. It was left alone."
                )
                self.session.trouble.emit(told)
                return
            if antenna is None:
                self.session.trouble.emit(
                    f"{path.name} came in, but there is no antenna on the shelf to keep it under."
                )
                return
            self.session.write_large(
                sweeps_entry([arrived], antenna, 1, known),
                lambda kept: self.session.focus(antenna.id) if kept else None,
            )
            self.frame.climb_to("bench")

        corrected = self.frame.settings.corrections()
        self.session.work(f"Reading {path.name}", lambda: load(path, corrected), read)

    def let_go(self) -> None:
        """The window closes: nothing is read any more."""
        self.stop()
        reader.close()

    def stop(self) -> None:
        """Leave the rest; what was read so far is still asked about."""
        self._stopped = True
        self._queue.clear()

    def _forget(self) -> None:
        """Another notebook is open: what waits was meant for the one before."""
        left = len(self._queue) + len(self._loaded) + len(self._waiting) + len(self._sweeps)
        left += self._asked is not None
        self._asked = None
        for waiting in (self._queue, self._loaded, self._waiting, self._sweeps, self._troubles):
            waiting.clear()
        if left:
            self.session.trouble.emit(
                f"{show.upper_first(show.count(left, 'file'))} still waiting for the notebook before "
                f"{'was' if left == 1 else 'were'} not brought in."
            )

    # The queue

    def _soon(self) -> None:
        """In a turn of its own: what closed a sheet may open another one itself."""
        QTimer.singleShot(0, self, self._next)

    def _next(self) -> None:
        """The next question; when there is none, some more files are read; when there are none, the end."""
        if self._busy or self.frame.sheet is not None or self.session.notebook is None:
            return
        while self._loaded and not self._waiting:
            self._arrived(self._loaded.popleft())
        if not self._waiting and not self._queue:
            self._end()
        if self._waiting:
            self._ask(self._waiting.popleft())
        elif self._queue:
            paths = list(self._queue)
            left = f", {show.count(len(paths) - 1, 'more file')} waiting" if len(paths) > 1 else ""
            self._busy = True
            corrected = self.frame.settings.corrections()  # read here: the worker must not touch the settings
            self.session.work(
                f"Reading {paths[0].name}{left}", lambda: self._load_some(paths, corrected), self._some_loaded
            )

    def _load_some(self, paths: list[Path], corrected: Corrected) -> list[list[Arrived | Exception]]:
        """Files from the front of the queue, for a moment's work: between moments the window tells how far it is."""
        out: list[list[Arrived | Exception]] = []
        end = time.monotonic() + MOMENT_S
        for path in paths:
            try:
                out.append(load_all(path, corrected))
            except Exception as error:
                out.append([error])
            if self._stopped or time.monotonic() > end:
                break
        return out

    def _some_loaded(self, loaded: list[list[Arrived | Exception]] | None, error: Exception | None) -> None:
        self._busy = False
        if loaded is None:
            self._troubles.append(f"The files could not be read ({error}). Nothing of them was taken in.")
            self._queue.clear()
        else:
            del self._queue[: len(loaded)]
            self._loaded.extend(one for file in loaded for one in file)
        self._next()

    def _arrived(self, arrived: Arrived | Exception) -> None:
        """Deal with one file that was read: keep what needs no question, ask about the rest."""
        if isinstance(arrived, FormatError | MemoryError):
            self._troubles.append(str(arrived) or "The file is too large for this machine’s memory.")
        elif isinstance(arrived, Exception):
            self._troubles.append(f"A file could not be read ({arrived}). Nothing of it was taken in.")
        elif arrived.kind == "touchstone":
            self._sweeps.append(arrived)
        elif arrived.kind == "photo":
            entry = photo_entry(self.session, arrived.raw)
            if entry is not None:
                self.session.write(entry)
            else:
                self._waiting.append(self._question(arrived))
        else:
            if arrived.kind == "gpx" and not self._waypoints(arrived):
                return
            if arrived.whole is not None:
                self._read_rest(arrived.path.name, arrived.whole)
            self._waiting.append(self._question(arrived))

    def _question(self, arrived: Arrived) -> Question:
        make = partial(sheet_of, self.session, arrived, self.frame.settings)
        return Question(make, rung_of(arrived), whole=arrived.whole)

    def _read_rest(self, name: str, whole: Whole) -> None:
        """All of a long table, while its sheet is open: which then says what was odd in it, or wrong."""

        def told(_: object, error: Exception | None) -> None:
            sheet = self.frame.sheet
            if sheet is None or self._asked is None or self._asked.whole is not whole:
                return  # left, or not open yet: it is told when it is kept
            if error is not None:
                sheet.tell(str(error))
            else:
                sheet.show_note()

        self.session.work(f"Reading {name}", whole, told)

    def _waypoints(self, arrived: Arrived) -> bool:
        """The waypoints of a GPX file become places at once; whether a track is left to ask about."""
        entry: Entry | None = waypoints_entry(self.session, arrived)
        if entry is not None:
            self.session.write(entry)
        elif arrived.read.track is None:
            self._troubles.append(f"{arrived.path.name}: its waypoints are places already. Nothing was changed.")
        return arrived.read.track is not None

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
            self._waiting.append(Question(partial(sweeps_sheet, self.session, sweeps), "bench"))

    def _ask(self, question: Question) -> None:
        if self.frame.shows(question.rung):
            self._open(question)
            return
        # A rung and a sheet together would be felt: the sheet comes once the rung is painted.
        self._busy = True
        self.frame.climb_to(question.rung)
        QTimer.singleShot(PAINTED_MS, self, lambda: self._open(question))

    def _open(self, question: Question) -> None:
        self._busy = False
        self.frame.write(question.make())
        sheet = self.frame.sheet
        assert sheet is not None
        sheet.put(question.texts)
        self._asked = question

        def answered() -> None:
            self._asked = None

        def replaced() -> None:
            self._asked = None
            if not sheet.waits:  # what is being kept already is not asked once more
                self._waiting.appendleft(replace(question, texts=sheet.texts()))

        sheet.done.connect(answered)
        sheet.replaced.connect(replaced)
