"""The window: the frame around the rungs, and what is shown in it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QCoreApplication, QEvent, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QPlainTextEdit,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tallmast.figures.paper import Appearance, Paper
from tallmast.findings.climb import RUNGS, Climb
from tallmast.findings.figure import Figure
from tallmast.notebook.entry import Act as Kept
from tallmast.notebook.records import Antenna, Record
from tallmast.units import show

from ..session import DRAFTED, Session
from ..tab_order import tab_in_order
from ..theme import app_icon, dress
from . import keys
from .acts import all_acts
from .dialogs import Dialogs
from .files import Files
from .fitting import FrameArea, appearance_of_system, room, size_of_system
from .mast import Mast
from .menus import Menus
from .settings import Settings
from .side import Side
from .tape import Tape, change_words
from .topbar import TopBar
from .views import Views

if TYPE_CHECKING:
    from ..rung_view import RungView
    from ..sheets.entry import EntrySheet, Form
    from .start import StartPage

R = TypeVar("R", bound=Record)
MOST_ON_PAGE = 5
"""Notebooks on the start page, so that it fits a small window; the menu has them all."""
TURN_MS = 1
"""Gives a rung that is shown for the first time a turn of its own. Not 0: that would come before any key pressed meanwhile."""


class Window(QMainWindow):
    """The one window. `painted` fires after the first paint that shows findings."""

    painted = Signal()
    sheet_closed = Signal()

    def __init__(self, settings: Settings | None = None, appearance: Appearance | None = None) -> None:
        super().__init__()
        self.settings = settings or Settings()
        show.use_imperial(self.settings.imperial)
        self.appearance: Appearance = appearance or self.settings.appearance or appearance_of_system()
        self.session = Session(self)
        self.files = Files(self, self)
        self.rung = "shelf"
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.timeout.connect(self._ready_one)
        self.setWindowIcon(app_icon())
        self.setAcceptDrops(True)
        self.setMinimumSize(640, 400)
        self.session.opened.connect(self._opened)
        self.session.kept.connect(self._kept)
        self.session.found.connect(self._found)
        self.session.front_found.connect(self._front_found)
        self.session.drafted.connect(self._drafted)
        self.session.picked.connect(self._picked)
        self.session.trouble.connect(self.tell_trouble)
        self.session.hidden_changed.connect(self._repaint)
        self.session.busy.connect(self._busy)
        self._build()
        geometry = self.settings.geometry
        if geometry is not None:
            self.restoreGeometry(geometry)
        else:
            self.resize(*room())

    # The frame

    def _build(self) -> None:
        """Everything visible; done anew when the appearance changes, since sizes change with it."""
        app = QApplication.instance()
        size = size_of_system()
        self.paper = Paper.of(self.appearance).scaled(size)
        if isinstance(app, QApplication):
            dress(app, self.paper)
        self.stack = QStackedWidget()
        self.stack.setObjectName("ground")
        self.start: StartPage | None = None
        self.views = Views(self, self.stack)
        self.acts = all_acts(self, self.files, Dialogs(self, self.views, self))
        self.mast = Mast(self.paper)
        self.mast.climbed.connect(self.climb_to)
        self.top = TopBar(self.paper)
        self.top.focus_asked.connect(self.session.focus)
        self.top.hide_asked.connect(self.session.toggle_hidden)
        self.top.question_asked.connect(lambda: self.act("ask question"))
        self.top.add_asked.connect(lambda: self.act("add antenna"))
        self.side = Side(self.paper)
        self.side.fold(self.settings.working_shown)
        self.tape = Tape(self.paper)
        self.tape.undo_asked.connect(self.session.undo)
        self.tape.corrections = self._corrections
        self.tape.find_asked.connect(lambda: self.act("find"))
        self.tape.stop_asked.connect(self.session.stop_asked)
        self.tape.stop_asked.connect(lambda: self.files.bringing.stop())  # noqa: PLW0108  (loads it when first asked)
        frame = QWidget()
        frame.setObjectName("ground")
        column = QVBoxLayout(frame)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.top)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.mast)
        middle.addWidget(self.stack, 1)
        middle.addWidget(self.side)
        column.addLayout(middle, 1)
        column.addWidget(self.tape)
        self.setCentralWidget(FrameArea(frame, size))
        self.menus = Menus(self, self.acts, self.act)
        self.menus.show_recent(self.settings.recent, self.open_notebook)
        if self.session.notebook is not None:
            self._show_frame()

    def _start_page(self) -> StartPage:
        from .start import StartPage

        if self.start is None:
            self.start = StartPage(self, self.files)
            self.stack.addWidget(self.start)
        return self.start

    def _show_frame(self) -> None:
        """Question, chips, tape and title from the notebook as it stands."""
        notebook = self.session.notebook
        for part in (self.mast, self.top, self.tape):
            part.setVisible(notebook is not None)
        if notebook is None:
            self.side.setVisible(False)
            recent = self.settings.recent[:MOST_ON_PAGE]
            self._start_page().show_recent(recent, [self.settings.sentence(path) for path in recent])
            self.stack.setCurrentWidget(self._start_page())
            self._idle.start(300)
            self.setWindowTitle("Tall Mast")
            return
        evidence = self.session.evidence
        name = notebook.path.stem
        self.setWindowTitle(f"{name} – Tall Mast")
        focus = self.session.focus_antenna
        focus_id, hidden, band = focus.id if focus else "", self.session.hidden, self.session.aims.band
        self.top.show_all(evidence.question, name, evidence.antennas, focus_id, hidden, band)
        self.tape.show_acts(list(notebook.tape), notebook.can_undo is not None)
        self.tape.show_state("Only shown" if notebook.read_only else "")

    # What the session says

    def _opened(self) -> None:
        notebook = self.session.notebook
        assert notebook is not None
        self.settings.opened(notebook.path)
        self.menus.show_recent(self.settings.recent, self.open_notebook)
        self.tape.tell(notebook.read_only)
        self.side.close_entry()
        self.side.working.show_figure(None)
        self.side.show_cautions(())
        self._show_frame()
        self.climb_to(self.settings.rung(notebook.path) if self.settings.rung(notebook.path) in RUNGS else "shelf")
        self.mast.rungs[self.rung].setFocus(Qt.FocusReason.OtherFocusReason)

    def _kept(self, act: Kept | None) -> None:
        if act is not None:
            self.tape.tell("")
        self._show_frame()

    def _found(self, climb: Climb) -> None:
        standings = {rung: climb.of(rung).standing for rung in RUNGS}
        self.mast.show_standings(standings, climb.verdict.lamp)
        if self.session.notebook is not None:
            self.settings.set_sentence(self.session.notebook.path, climb.verdict.sentence)
        self.views.outdate(but=climb)
        self._show_frame()
        # All at once would be felt: the frame, the rung and its working have a turn each.
        QTimer.singleShot(0, self, self._show_found)

    def _front_found(self, climb: Climb) -> None:
        """The finding of the rung in front, before those of the others: whoever works there waits for no more."""
        self.views.outdate(but=climb)
        self.views.put_in_front(self.rung, climb)

    def _drafted(self, climb: Climb) -> None:
        """The rung in front by a part of a long log, where that feeds it; it is stale at once, for the whole is on its way."""
        if self.rung in DRAFTED:
            self.views.outdate()
            self.views.put_in_front(self.rung, climb)
            self.views.outdate()

    def _show_found(self) -> None:
        """What was found, on the rung in front."""
        self._paint_rung()
        QTimer.singleShot(0, self, self._show_working)
        self.painted.emit()
        self._idle.start(150)

    def _show_working(self) -> None:
        if self.session.climb is not None:
            climb = self.session.climb
            self.side.working.show_figure(climb.of(self.rung).headline)
            self.side.show_cautions(climb.cautions(self.rung))

    def _ready_one(self) -> None:
        """While nothing else goes on: make one more rung ready, so that climbing to it is only showing it."""
        climb = self.session.climb
        if self.session.notebook is None:
            if self.views.load_one():
                self._idle.start(10)
            else:
                _ = self.files.bringing
                self._start_page().paint_soon()
        elif climb is None or not self.session.settled:
            return  # the next findings start it again
        elif self.views.ready_one(climb):
            self._idle.start(20)
        else:
            _ = self.files.bringing

    def _paint_rung(self) -> None:
        if self.session.climb is not None:
            self.views.put_in_front(self.rung, self.session.climb)
            tab_in_order(self.top, self.mast, self.views[self.rung], self.side, self.tape)

    def _repaint(self) -> None:
        self.views.outdate()
        self._show_frame()
        self._paint_rung()

    def _picked(self, figure: Figure) -> None:
        if self.side.entry is None:
            self.side.working.show_figure(figure)

    def show_state(self, words: str) -> None:
        """Something that is so, at the end of the tape."""
        self.tape.show_state(words)

    def tell_trouble(self, message: str) -> None:
        self.tape.setVisible(True)
        self.tape.tell(message)

    def _busy(self, what: str) -> None:
        self.tape.show_busy(what)
        if not what:
            notebook = self.session.notebook
            self.tape.show_state("Only shown" if notebook and notebook.read_only else "")

    # Acts

    def act(self, name: str) -> None:
        """Do something by name; without a notebook only what needs none."""
        act = self.acts[name]
        if act.needs_notebook and self.session.notebook is None:
            self.tell_trouble("Open or start a notebook first.")
            return
        act.run()

    def climb_to(self, rung: str) -> None:
        """Stand on a rung."""
        if self.session.notebook is None:
            return
        self.rung = self.session.front = rung
        self.settings.set_rung(self.session.notebook.path, rung)
        self.mast.stand_on(rung)
        if QApplication.focusWidget() in self.mast.rungs.values():
            self.mast.rungs[rung].setFocus(Qt.FocusReason.OtherFocusReason)
        new = rung not in self.views
        self.stack.setCurrentWidget(self.views[rung])
        if new:
            # Making it and filling it together would be felt: each has a turn of its own.
            QTimer.singleShot(TURN_MS, self, self._show_rung)
        else:
            self._show_rung()

    def _show_rung(self) -> None:
        """Fill the rung in front, and show the working of its headline."""
        self._paint_rung()
        self._show_working()

    def write(self, form: Form) -> None:
        """Open an entry sheet at the side."""
        from ..sheets.entry import EntrySheet

        before = self.sheet
        if before is not None:
            before.replaced.emit()
        sheet = EntrySheet(form)
        sheet.done.connect(self._written)
        # Keeping one and opening the next together would be felt: each has a turn of its own.
        sheet.next_asked.connect(lambda form: QTimer.singleShot(0, self, lambda: self.write(form)))
        self.side.show_entry(sheet)
        sheet.start()

    def _written(self) -> None:
        self.side.close_entry()
        view = self.views.get(self.rung)
        if view is not None and not view.take_keyboard():
            self.stand()
        self.sheet_closed.emit()

    def view_of(self, rung: str) -> RungView:
        """The view of a rung as it is now; made, where it is not there yet."""
        return self.views[rung]

    def stand(self) -> None:
        """The keyboard to the rung in front."""
        self.mast.rungs[self.rung].setFocus(Qt.FocusReason.OtherFocusReason)

    @property
    def sheet(self) -> EntrySheet | None:
        """The entry sheet in front, if any."""
        from ..sheets.entry import EntrySheet

        area = self.side.entry
        widget = area.widget() if area is not None else None
        return widget if isinstance(widget, EntrySheet) else None

    def shows(self, rung: str) -> bool:
        """Whether a rung is in front, made already."""
        return self.rung == rung and rung in self.views

    def open_notebook(self, path: Path) -> bool:
        """Open a notebook; False, with the trouble told, where that can't be."""
        return self.files.open_notebook(path)

    def start_notebook(self, stem: str) -> bool:
        """For what is brought in before there is one."""
        return self.files.start_notebook(stem)

    def on(self, rung: str, what: str, *with_: object) -> None:
        """Stand on a rung and have its view do something."""
        self.climb_to(rung)
        getattr(self.views[rung], what)(*with_)

    def toggle_working(self) -> None:
        self.settings.working_shown = not self.side.wanted
        self.side.fold(not self.side.wanted)

    def toggle_tape(self) -> None:
        self.tape.opener.toggle()

    def _corrections(self) -> dict[int, str]:
        """What each correction on the tape changed, in words."""
        notebook = self.session.notebook
        if notebook is None:
            return {}
        evidence = self.session.evidence
        out = {}
        for number, changed in notebook.changes().items():
            words = [change_words(change, evidence.title) for change in changed]
            out[number] = "; ".join(word for word in words if word)
        return out

    def toggle_imperial(self) -> None:
        self.settings.imperial = not self.settings.imperial
        show.use_imperial(self.settings.imperial)
        self.session.refind(anew=True)

    def dress_as(self, appearance: Appearance) -> None:
        """Change clothes: the frame is built anew at the new sizes, and goes on with what was being done.

        Not from within an event of a part of the frame, which it deletes: the acts call it in a turn of its own.
        """
        if appearance == self.appearance and self.centralWidget() is not None:
            return
        self.settings.appearance = self.appearance = appearance
        sheet = self.side.take_entry()
        caret = sheet.focusWidget() if sheet is not None else None
        carried = self.views.let_go()
        # Gone before the new style is put on: it would be worked out for every part of the old frame once more.
        menus, frame = self.menus.take_away(), self.takeCentralWidget()
        for old in (frame, *menus) if frame is not None else menus:
            old.deleteLater()
            QCoreApplication.sendPostedEvents(old, QEvent.Type.DeferredDelete)
        self._build()
        if self.session.climb is not None:
            self._found(self.session.climb)
            self.climb_to(self.rung)
        self.views.carry_on(carried)
        if sheet is not None:
            self.side.put_entry(sheet)
            if caret is not None:
                caret.setFocus(Qt.FocusReason.OtherFocusReason)

    def open_record(self, record: Record) -> None:
        """Open the sheet of a record, on its rung."""
        self.climb_to(record.rung)
        if isinstance(record, Antenna):
            self.session.focus(record.id)
        self.write_record(type(record), record)

    def write_record(self, model: type[R], old: R | None = None) -> None:
        """Open the sheet of a new record of a kind, or of one that was kept before."""
        from ..sheets.record_sheet import form

        self.write(form(self.session, model, old))

    # Events

    def keyPressEvent(self, event: QKeyEvent) -> None:
        text = event.text()
        held = event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
        focus = QApplication.focusWidget()
        writing = isinstance(focus, QLineEdit | QPlainTextEdit | QComboBox | QAbstractSpinBox)
        if event.key() == Qt.Key.Key_Escape:
            if self.side.entry is not None:
                sheet = self.sheet
                if sheet is not None:
                    sheet.leave()
            elif self.tape.opener.isChecked():
                self.tape.opener.setChecked(False)
            return
        letter = bool(text) and not held and not writing
        if letter and self.session.notebook is None and self._start_page().take_key(text):
            return
        if letter:
            name = keys.act_of(text, self.rung) or next(
                (act.name for act in self.acts.values() if len(act.key) == 1 and act.key.lower() == text.lower()), None
            )
            if name is not None:
                self.act(name)
                return
            self._tell_key(text)
        super().keyPressEvent(event)

    def _tell_key(self, key: str) -> None:
        """Where a key does something, for somebody who pressed it on another rung."""
        known = keys.elsewhere(key)
        if known and self.session.notebook is not None:
            words = [f"{self.acts[act].plain} ({rung.capitalize()}, {RUNGS.index(rung) + 1})" for rung, act in known]
            self.tell_trouble(f"{key.upper()} does nothing here. Elsewhere it is: {show.join(words, 'or')}.")

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            event.acceptProposedAction()
            self.files.bringing.take(paths)

    def showEvent(self, event: QShowEvent) -> None:
        if self.session.notebook is None:
            self._show_frame()
        super().showEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.settings.geometry = self.saveGeometry()
        self.settings.sync()
        self.views.let_go()
        self.files.let_go()
        self.session.close()
        super().closeEvent(event)
