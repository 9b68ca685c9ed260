"""What the window does with files: notebooks, copies, the demo, the report, the bundle."""

from __future__ import annotations

import re
import sys
import threading
from collections.abc import Callable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QProcess, QProcessEnvironment, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from tallmast.findings.aims import as_text
from tallmast.findings.climb import Climb
from tallmast.notebook.file import NotebookError
from tallmast.notebook.records import Sweep
from tallmast.notebook.store import SUFFIX, Notebook
from tallmast.report.naming import file_name
from tallmast.units import show

from .settings import data_folder

if TYPE_CHECKING:
    from ..importing.queue import Bringing
    from ..protocols import Frame


class Files(QObject):
    """Opens, copies and writes out, for the window that asks."""

    written_out = Signal(bool)
    """A report or bundle was written, or not."""

    def __init__(self, frame: Frame, parent: QWidget) -> None:
        super().__init__(parent)
        self.frame, self.session, self._window = frame, frame.session, parent
        self._enough = threading.Event()
        """A rescue is to end with what it has."""
        self.session.stop_asked.connect(self._enough.set)

    def let_go(self) -> None:
        """End what is being read, in whatever process."""
        self._enough.set()
        if "bringing" in self.__dict__:
            self.bringing.let_go()

    @cached_property
    def bringing(self) -> Bringing:
        """Whatever brings files in; loaded when first wanted."""
        from ..importing.queue import Bringing

        return Bringing(self.frame, self._window)

    def open_notebook(self, path: Path) -> bool:
        """Open a notebook; a damaged one is offered as far as it can be read."""
        if self.session.notebook is not None and self.session.notebook.path.resolve() == path.resolve():
            return True
        try:
            notebook = Notebook.open(path)
        except NotebookError as error:
            self.frame.tell_trouble(str(error))
            if error.can_rescue:
                self._rescue(path, str(error))
            return False
        self.session.open(notebook)
        if notebook.kept_before is not None:
            self.frame.show_state(f"Brought up to date; as it was it is kept as {notebook.kept_before.name}")
        if notebook.set_aside:
            first = show.join(notebook.set_aside[:3]) + (" and more" if len(notebook.set_aside) > 3 else "")
            self.frame.tell_trouble(
                f"{show.upper_first(show.count(len(notebook.set_aside), 'part'))} of {path.name} can’t be read and "
                f"{'is' if len(notebook.set_aside) == 1 else 'are'} set aside: {first}. The rest is shown; nothing was removed."
            )
        return True

    def _rescue(self, path: Path, why: str) -> None:
        """Read what is left of a damaged notebook on a worker, and show it; the window goes on meanwhile."""
        from tallmast.notebook.rescue import rescue

        self._enough.clear()

        def job() -> object:
            return rescue(path, stopped=self._enough.is_set)

        def done(saved: Any, error: Exception | None) -> None:
            if error is not None or saved is None:
                self.frame.tell_trouble(f"{why} Nothing in it could be read.")
                return
            self.session.open(saved.notebook)
            self.frame.tell_trouble(
                f"{why} {saved.sentence} This is a view of what is left; “Save a copy” (Ctrl+Shift+S) makes it a notebook "
                "again."
            )

        self.session.work(f"Reading what is left of {path.name}", job, done)

    def start_notebook(self, stem: str) -> bool:
        """Start a notebook for what was dropped before there was one, under a name that is asked for; its question can wait."""
        data_folder().mkdir(parents=True, exist_ok=True)
        path = self._ask_save("A new notebook for it", f"{stem}{SUFFIX}", f"Notebooks (*{SUFFIX})")
        return path is not None and self.new_notebook(path, ask=False)

    def new_notebook(self, path: Path, ask: bool = True) -> bool:
        """Start a notebook and, unless something else is asked first, ask its question."""
        path = path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX)
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            notebook = Notebook.create(path)
        except (NotebookError, OSError) as error:
            self.frame.tell_trouble(str(error))
            return False
        from tallmast.notebook.records import Question

        from ..sheets.record_sheet import form

        self.session.open(notebook)
        self.frame.climb_to("shelf")
        if ask:  # In a turn of its own: opening and the first sheet together would be felt.
            QTimer.singleShot(40, self, lambda: self.frame.write(form(self.session, Question)))
        return True

    def open_demo(self) -> None:
        """A fresh copy of the demo, so that playing never spoils it."""
        from tallmast.demo.campaign import write

        folder = data_folder() / "demo"
        try:
            folder.mkdir(parents=True, exist_ok=True)
            path = next(p for i in range(1, 10_000) if not (p := folder / f"Harrow Skerries {i}{SUFFIX}").exists())
            write(path)
        except (NotebookError, OSError) as error:
            self.frame.tell_trouble(str(error))
            return
        self.open_notebook(path)

    def _ask_save(self, title: str, name: str, kinds: str) -> Path | None:
        """Where to, with the ending of the kind that was chosen where none was typed."""
        folder = self.session.notebook.path.parent if self.session.notebook else data_folder()
        chosen, kind = QFileDialog.getSaveFileName(self._window, title, str(folder / file_name(name)), kinds)
        if not chosen:
            return None
        path = Path(chosen)
        endings = re.findall(r"\*(\.\w+)", kinds)
        if path.suffix.lower() in endings:
            return path
        path = path.with_name(path.name + re.findall(r"\*(\.\w+)", kind or kinds)[0])
        if path.exists():  # which the dialog, that knew the name without its ending, did not ask about
            self.frame.tell_trouble(f"{path.name} is there already. Choose another name; nothing was overwritten.")
            return None
        return path

    def ask_new(self) -> None:
        data_folder().mkdir(parents=True, exist_ok=True)
        path = self._ask_save("New notebook", f"question{SUFFIX}", f"Notebooks (*{SUFFIX})")
        if path:
            self.new_notebook(path)

    def ask_open(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(
            self._window, "Open a notebook", str(data_folder()), f"Notebooks (*{SUFFIX});;All files (*)"
        )
        if chosen:
            self.open_notebook(Path(chosen))

    def ask_files(self) -> None:
        kinds = "Measurements (*.s1p *.s2p *.ts *.csv *.txt *.xlsx *.ods *.gpx *.tif *.hgt *.asc *.png *.jpg);;All files (*)"
        chosen, _ = QFileDialog.getOpenFileNames(self._window, "Bring in files", str(Path.home()), kinds)
        if chosen:
            self.bringing.take([Path(name) for name in chosen])

    def ask_watch(self) -> None:
        """Watch a folder in which another program saves sweeps; or stop watching it."""
        if self.bringing.watching is not None:
            self.bringing.unwatch()
            return
        chosen = QFileDialog.getExistingDirectory(self._window, "Watch a folder for sweeps", str(Path.home()))
        if chosen:
            self.bringing.watch(Path(chosen))

    def ask_copy(self) -> None:
        notebook = self.session.notebook
        if notebook is None:
            return
        path = self._ask_save("Save a copy", f"{notebook.path.stem} copy{SUFFIX}", f"Notebooks (*{SUFFIX})")
        if path:
            try:
                notebook.save_copy(path)
            except NotebookError as error:
                self.frame.tell_trouble(str(error))
                return
            self.open_notebook(path)

    def ask_report(self) -> None:
        notebook = self.session.notebook
        path = self._ask_save(
            "Make the report", f"{notebook.path.stem if notebook else 'report'}.html", "Web page (*.html);;PDF (*.pdf)"
        )
        if path:
            self.make_report(path)

    def make_report(self, path: Path) -> None:
        """Write the report for somebody else, HTML or PDF by the ending.

        Painting and typesetting hold the interpreter for long stretches, so a process of its own does it: the window
        goes on. It reads the notebook as it stands now, can't write it, and is told what is looked at here, so that it speaks of the same.
        """
        notebook = self.session.notebook
        if notebook is None:
            return
        if notebook.in_no_file:
            self.frame.tell_trouble(
                f"{path.name} was not written: what was rescued is in no file yet. Save a copy (Ctrl+Shift+S), then make the report."
            )
            return
        process = QProcess(self)
        environment = QProcessEnvironment.systemEnvironment()
        environment.insert("QT_QPA_PLATFORM", "offscreen")
        process.setProcessEnvironment(environment)
        self.session.hold(f"Writing {path.name}")

        def finished(code: int) -> None:
            self.session.release()
            if code:
                said = bytes(process.readAllStandardError().data()).decode(errors="replace").strip()
                last = said.splitlines()[-1] if said else "the writer ended early"
                self.frame.tell_trouble(last if path.name in last else f"{path.name} was not written: {last}.")
            else:
                self.frame.show_state(f"Report written: {path.name}")
            self.written_out.emit(code == 0)
            process.deleteLater()

        process.finished.connect(finished)
        looked_at = ["--aims", as_text(self.session.aims)]
        process.start(sys.executable, ["-m", "tallmast", str(notebook.path), "--report", str(path), *looked_at])

    def _write_out(self, what: str, job: Callable[[], None], words: str) -> None:
        def done(_: object, error: Exception | None) -> None:
            if error is not None:
                self.frame.tell_trouble(str(error))
            else:
                self.frame.show_state(words)
            self.written_out.emit(error is None)

        self.session.work(what, job, done)

    def ask_map(self) -> None:
        """Save the map of where the antenna in focus reaches for another program."""
        from tallmast.report.maps import KINDS

        antenna = self.session.focus_antenna
        path = self._ask_save("Save the map", f"{antenna.name if antenna else 'map'}.tif", KINDS)
        if path:
            self.frame.on("link", "save_map", path)

    def ask_sweep(self) -> None:
        """Save the newest sweep of the antenna in focus for another program."""
        from tallmast.report.sweeps import KINDS

        antenna = self.session.focus_antenna
        sweeps = self.session.evidence.sweeps(antenna.id) if antenna else []
        if antenna is None or not sweeps:
            self.frame.tell_trouble(
                f"{antenna.name if antenna else 'Nothing'} was not swept yet, so there is no sweep to save."
            )
            return
        path = self._ask_save("Save this sweep", f"{antenna.name} {antenna.state_name(sweeps[-1].state_id)}.s1p", KINDS)
        if path:
            self.save_sweep(sweeps[-1], path)

    def save_sweep(self, sweep: Sweep, path: Path) -> None:
        """Write one sweep as Touchstone or a table, by the ending of its name."""
        from tallmast.report.sweeps import write

        climb = Climb(self.session.evidence, self.session.aims)
        self._write_out(f"Writing {path.name}", lambda: write(climb, sweep, path), f"Sweep written: {path.name}")

    def ask_bundle(self) -> None:
        notebook = self.session.notebook
        path = self._ask_save(
            "Save the data as open files", f"{notebook.path.stem if notebook else 'data'}.zip", "Bundle (*.zip)"
        )
        if path:
            self.make_bundle(path)

    def make_bundle(self, path: Path) -> None:
        """Write the data as open files in one zip, on a worker."""
        from tallmast.report.bundle import write

        notebook = self.session.notebook
        if notebook is not None:
            climb = Climb(self.session.evidence, self.session.aims)
            self._write_out(
                f"Writing {path.name}", lambda: write(climb, notebook, path), f"Bundle written: {path.name}"
            )
