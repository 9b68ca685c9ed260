"""The notebook in front, what is being looked at, and the findings that follow from both."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, TypeVar

from msgspec.structs import replace
from PySide6.QtCore import QCoreApplication, QDeadlineTimer, QEventLoop, QObject, QRunnable, QThreadPool, QTimer, Signal

from tallmast.findings.aims import Aims, focus
from tallmast.findings.climb import RUNGS, Climb
from tallmast.findings.figure import Figure
from tallmast.formats.text import LARGE_BYTES
from tallmast.notebook.entry import Act, Entry
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.file import NotebookError
from tallmast.notebook.records import Antenna, Log, Question
from tallmast.notebook.store import Notebook
from tallmast.units import show

from .job import Job

if TYPE_CHECKING:
    from .sheets.entry import Finish, Later

LONG_ROWS, DRAFT_ROWS = 200_000, 20_000
"""From so many rows of a log on it is shown by so many of them first."""
DRAFTED = ("pattern", "field")
"""Rungs that a log feeds."""
TIDY_MS = 300
"""After an act, until the file itself has it."""
R = TypeVar("R")


class Session(QObject):
    """Holds the open notebook; `found` carries each new Climb. Findings run on a worker, stale ones are dropped."""

    opened = Signal()
    kept = Signal(object)
    """An act was written."""
    found = Signal(object)
    drafted = Signal(object)
    """A Climb by some rows of a long log, to be looked at until that by all of them is found."""
    front_found = Signal(object)
    """A Climb that has the finding of the rung in front, the rest of it on its way."""
    picked = Signal(object)
    """A figure whose working is to be shown."""
    trouble = Signal(str)
    hidden_changed = Signal()
    stop_asked = Signal()
    """Whatever takes long is to end."""
    busy = Signal(str)
    """What is being done; empty when nothing is."""
    _worked = Signal(int, object, object)
    _sketched = Signal(int, object, int)
    _fronted = Signal(int, str, object, object)
    _finished = Signal(object, object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.notebook: Notebook | None = None
        self.climb: Climb | None = None
        self.aims = Aims()
        self.front = ""
        """The rung that is looked at: its finding comes first."""
        self.hidden: set[str] = set()
        self._wanted = 0
        self._pool = self._new_pool()
        self._left: list[QThreadPool] = []
        """Of notebooks that are closed: a finding at work there can't be broken off, and nobody waits for it."""
        self._files = QThreadPool(self)
        self._files.setMaxThreadCount(1)
        self._running = 0
        self._worked.connect(self._take)
        self._sketched.connect(self._take_draft)
        self._fronted.connect(self._take_front)
        self._draft_shown = False
        self._finished.connect(self._finish)
        self._tidying = QThreadPool(self)
        self._tidying.setMaxThreadCount(1)
        self._tidy_soon = QTimer(self)
        self._tidy_soon.setSingleShot(True)
        self._tidy_soon.setInterval(TIDY_MS)
        self._tidy_soon.timeout.connect(self._tidy)
        self._watch = QTimer(self)
        self._watch.setInterval(2000)
        self._watch.timeout.connect(self._look_again)

    # The notebook

    def open(self, notebook: Notebook) -> None:
        """Put another notebook in front; the one before is closed."""
        self.close()
        self.notebook = notebook
        notebook.on_change.append(self._on_act)
        self.hidden = set()
        first = focus(notebook.evidence(), Aims())
        self.aims = Aims(focus_id=first.id if first is not None else "")
        if notebook.read_only:
            self._watch.start()
        self.opened.emit()
        self.refind()

    def close(self) -> None:
        self._watch.stop()
        self._wanted += 1
        self._leave_findings()
        self._tidy_soon.stop()
        self._tidying.waitForDone()
        self._end_draft()
        if self.notebook is not None:
            self.notebook.close()
            self.notebook = None
            self.climb = None

    def _new_pool(self) -> QThreadPool:
        pool = QThreadPool(self)
        pool.setMaxThreadCount(1)
        return pool

    def _leave_findings(self) -> None:
        """What is worked out of the notebook that goes is wanted no more: the next one's begins at once, on a worker of its own."""
        self._pool.clear()
        self._left = [pool for pool in (*self._left, self._pool) if pool.activeThreadCount()]
        if self._pool in self._left:
            self._pool = self._new_pool()

    @property
    def at_work(self) -> bool:
        """Whether findings are still worked out, wanted or not."""
        return any(pool.activeThreadCount() for pool in (*self._left, self._pool))

    def finish_files(self) -> None:
        """Wait for what somebody asked to be written or kept: a window that closes leaves no half of it."""
        self._files.waitForDone()

    def _look_again(self) -> None:
        if self.notebook is not None and self.notebook.refresh():
            self.kept.emit(None)
            self.refind()

    def _on_act(self, act: Act) -> None:
        self.kept.emit(act)
        if not self._tidy_soon.isActive():  # not put off by the next act: the file alone is to have it within a second
            self._tidy_soon.start()
        self.refind()

    def _tidy(self) -> None:
        notebook = self.notebook
        if notebook is not None and notebook.needs_tidying:
            self._tidying.start(Job(notebook.tidy, lambda result, error: None))
            self._tidy_soon.start()  # and looks whether it came about

    @property
    def evidence(self) -> Evidence:
        return self.notebook.evidence() if self.notebook else Evidence({}, {})

    def write(self, entry: Entry) -> bool:
        """Keep an entry; trouble is told, and False returned."""
        if self.notebook is None:
            return False
        try:
            self.notebook.write(entry)
        except NotebookError as error:
            self.trouble.emit(str(error))
            return False
        added = [r for r in entry.records if isinstance(r, Antenna)]
        if added and not self.aims.focus_id:
            self.focus(added[-1].id)
        return True

    def write_large(self, entry: Entry, done: Callable[[bool], None]) -> None:
        """Keep an entry whose bytes may be many: they go into the file on a worker first, so the window goes on."""
        notebook = self.notebook
        size = sum(len(file.data) for file in entry.raw)
        if notebook is None or size < LARGE_BYTES:
            done(self.write(entry))
            return

        def staged(_: object, error: Exception | None) -> None:
            if error is not None:
                self.trouble.emit(str(error))
            done(error is None and self.notebook is notebook and self.write(entry))

        self.work(f"Keeping {entry.raw[0].name}", lambda: notebook.stage(entry), staged)

    def later(self, entry: Entry, then: Callable[[], object] = lambda: None) -> Later:
        """Keep an entry that a sheet asked for, however large; the sheet stays until it is kept."""

        def start(finish: Finish) -> None:
            def done(kept: bool) -> None:
                if kept:
                    then()
                finish(kept, "")

            self.write_large(entry, done)

        return start

    def read_first(self, what: str, job: Callable[[], R], entry: Callable[[R], Later]) -> Later:
        """Read something on a worker, then keep what is made of it; the sheet that asked stays until that is over."""

        notebook = self.notebook

        def start(finish: Finish) -> None:
            def done(result: R | None, error: Exception | None) -> None:
                why = str(error) if result is None else "Not kept: another notebook was opened meanwhile."
                if result is not None and self.notebook is notebook:
                    from .sheets.fields import FieldError  # there is a sheet, so it is loaded

                    try:
                        keep = entry(result)
                    except FieldError as wrong:  # it does not go with what was read
                        why = str(wrong)
                    else:
                        keep(finish)
                        return
                if not finish(False, why):
                    self.trouble.emit(why)

            self.work(what, job, done)

        return start

    def undo(self) -> None:
        self._reverse("undo")

    def redo(self) -> None:
        self._reverse("redo")

    def _reverse(self, manner: str) -> None:
        if self.notebook is None:
            return
        try:
            act = self.notebook.undo() if manner == "undo" else self.notebook.redo()
        except NotebookError as error:
            self.trouble.emit(str(error))
            return
        if act is None:
            self.trouble.emit("Nothing to undo." if manner == "undo" else "Nothing to do again.")

    # What is looked at

    @property
    def question(self) -> Question | None:
        """As it is of the band that is looked at; to be written, the whole of it is taken from the evidence."""
        return self.evidence.in_band(self.aims.band).question

    @property
    def channel_hz(self) -> float | None:
        """What a run is on, where nothing else is said: of several bands the middle of the one that is looked at."""
        several = self.evidence.question is not None and self.evidence.question.further
        return self.question.centre_hz if several and self.question is not None else None

    @property
    def focus_antenna(self) -> Antenna | None:
        return focus(self.evidence, self.aims)

    def look_at(self, aims: Aims) -> None:
        """At all that another window looked at."""
        self.aims = aims
        self.refind()

    def aim(self, **changes: Any) -> None:
        self.aims = replace(self.aims, **changes)
        self.refind()

    def step_band(self, step: int) -> None:
        """On to the next of the question's bands."""
        question = self.evidence.question
        if question is None or not question.further:
            self.trouble.emit("The question has one band. Further ones are written in it (Q).")
        else:
            self.aim(band=(self.aims.band + step) % len(question.bands))

    def focus(self, antenna_id: str) -> None:
        if antenna_id != self.aims.focus_id:
            self.aim(focus_id=antenna_id)

    def toggle_hidden(self, antenna_id: str) -> None:
        self.hidden ^= {antenna_id}
        self.hidden_changed.emit()

    def toggle_focus_hidden(self) -> None:
        antenna = self.focus_antenna
        if antenna is not None:
            self.toggle_hidden(antenna.id)

    def step_focus(self, step: int) -> None:
        """The antenna so many further in the order of the shelf, and round."""
        antenna = self.focus_antenna
        if antenna is not None:
            ids = [a.id for a in self.evidence.antennas]
            self.focus(ids[(ids.index(antenna.id) + step) % len(ids)])

    def tell(self, trouble: str) -> None:
        """Say what went wrong; empty: nothing does any more."""
        self.trouble.emit(trouble)

    def pick(self, figure: Figure) -> None:
        self.picked.emit(figure)

    # Findings

    def refind(self, anew: bool = False) -> None:
        """Work the findings out again from the notebook as it stands now; `anew`: all, whatever has changed."""
        if self.notebook is None:
            return
        if anew:
            self.climb = None
        self._wanted += 1
        number, front, climb = self._wanted, self.front, Climb(self.evidence, self.aims, self.climb)
        step = self._draft_step()
        draft = Climb(self.evidence.in_part(step), self.aims, self.climb) if step > 1 else None

        def first() -> None:
            if draft is not None and number == self._wanted:
                for rung in DRAFTED:
                    draft.of(rung)
                self._sketched.emit(number, draft, step)
            if front and number == self._wanted:
                climb.ready(front)

        def rest() -> Climb:
            for rung in RUNGS:
                if number != self._wanted:
                    break
                climb.of(rung)
            return climb

        def told(result: Climb | None, error: Exception | None) -> None:
            self._worked.emit(number, result, error)

        def fronted(_: None, error: Exception | None) -> None:
            if error is not None:
                told(None, error)
            else:
                self._fronted.emit(number, front, climb, Job(rest, told))

        self._pool.start(Job(first, fronted))

    def _draft_step(self) -> int:
        """Every how manieth row of a long log that has just come is shown first; 1 where nothing takes long."""
        before, now = self.climb, self.evidence
        if now.longest_log < LONG_ROWS or (before is not None and now.same(before.whole, (Log,))):
            return 1
        return now.longest_log // DRAFT_ROWS

    def _take_draft(self, number: int, climb: Climb, step: int) -> None:
        if number != self._wanted:
            return
        rows = show.grouped(self.evidence.longest_log)
        if not self._draft_shown:
            self._draft_shown = True
            self.hold(f"Reading all {rows} rows; so far it shows every {show.ordinal(step)}")
        self.drafted.emit(climb)

    def _end_draft(self) -> None:
        if self._draft_shown:
            self._draft_shown = False
            self.release()

    def _take_front(self, number: int, front: str, climb: Climb, rest: QRunnable) -> None:
        if number != self._wanted:
            return
        if front and front == self.front:
            self.front_found.emit(climb)
        # It is painted first: a worker at it meanwhile would only take turns with the window.
        QTimer.singleShot(0, self, lambda: self._pool.start(rest) if number == self._wanted else None)

    def _take(self, number: int, climb: Climb | None, error: Exception | None) -> None:
        self._end_draft()
        if number != self._wanted:
            return
        if climb is None:
            self.trouble.emit(
                f"The findings could not be worked out ({error}). The notebook is safe; undo the last entry."
            )
            return
        self.climb = climb
        self.found.emit(climb)

    @property
    def settled(self) -> bool:
        """Whether the findings are those of the notebook as it stands, and no work goes on."""
        if self.notebook is None:
            return self._running == 0
        climb = self.climb
        return (
            self._running == 0
            and climb is not None
            and climb.evidence.head == self.notebook.head
            and climb.aims == self.aims
        )

    def settle(self, most_ms: int = 60_000) -> None:
        """Process events until settled: for pictures, reports and tests."""
        deadline = QDeadlineTimer(most_ms)
        alarm = QTimer()  # ends the last wait
        alarm.start(most_ms)
        while not self.settled and not deadline.hasExpired():
            # Asleep between events: a loop that spins would fight the workers for the interpreter.
            QCoreApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
        QCoreApplication.processEvents()

    # Long work

    def hold(self, what: str) -> None:
        """Say that something outside goes on."""
        self._running += 1
        self.busy.emit(what)

    def release(self) -> None:
        self._running -= 1
        if self._running == 0:
            self.busy.emit("")

    def work(self, what: str, job: Callable[[], Any], done: Callable[[Any, Exception | None], None]) -> None:
        """Run a long job on a worker; `done` is called in the window's thread."""
        self.hold(what)
        self._files.start(Job(job, lambda result, error: self._finished.emit(done, result, error)))

    def aside(self, job: Callable[[], R], done: Callable[[R], object]) -> None:
        """Run something that nobody waits for on a worker; `done` must be a signal's emit. A failure is left unsaid."""

        def over(result: Any, error: Exception | None) -> None:
            if error is None:
                done(result)

        self._files.start(Job(job, over))

    def _finish(self, done: Callable[[Any, Exception | None], None], result: Any, error: Exception | None) -> None:
        # First what follows, which may be more work of the same kind: the tape need not blink in between.
        try:
            done(result, error)
        finally:
            self.release()
