"""The window: the frame around the rungs, and the acts that open files."""

from __future__ import annotations

from functools import cached_property
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QCoreApplication, QEvent, Qt, QTimer, Signal
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence, QShowEvent
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tallmast import __version__
from tallmast.figures.paper import Appearance, Paper
from tallmast.findings.climb import RUNGS, Climb
from tallmast.findings.figure import Figure
from tallmast.notebook.records import Antenna, Record
from tallmast.notebook.store import Act
from tallmast.units import show

from ..rung_view import RungView
from ..session import Session
from ..theme import app_icon, dress
from . import acts as acts_module
from . import keys
from .file_acts import FileActs
from .mast import Mast
from .settings import Settings
from .side import Side
from .tape import Tape, change_words
from .topbar import TopBar

if TYPE_CHECKING:
    from ..importing.queue import Bringing
    from ..sheets.entry import EntrySheet, Form
    from .start import StartPage

R = TypeVar("R", bound=Record)
MOST_ON_PAGE = 5
"""Notebooks on the start page, so that it fits a small window; the menu has them all."""
TURN_MS = 1
"""Gives a rung that is shown for the first time a turn of its own. Not 0: that would come before any key pressed meanwhile."""


class Window(FileActs):
    """The one window. `painted` fires after the first paint that shows findings."""

    painted = Signal()
    sheet_closed = Signal()

    def __init__(self, settings: Settings | None = None, appearance: Appearance | None = None) -> None:
        super().__init__()
        self.settings = settings or Settings()
        show.use_imperial(self.settings.imperial)
        self.appearance: Appearance = appearance or self.settings.appearance
        self.session = Session(self)
        self.rung = "shelf"
        self._unpainted: list[str] = []
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.timeout.connect(self._ready_one)
        self.setWindowIcon(app_icon())
        self.setAcceptDrops(True)
        self.setMinimumSize(1024, 700)
        self.session.opened.connect(self._opened)
        self.session.kept.connect(self._kept)
        self.session.found.connect(self._found)
        self.session.picked.connect(self._picked)
        self.session.trouble.connect(self.tell_trouble)
        self.session.hidden_changed.connect(self._repaint)
        self.session.busy.connect(self._busy)
        self._build()
        geometry = self.settings.geometry
        if geometry is not None:
            self.restoreGeometry(geometry)
        else:
            self.resize(1280, 800)

    # The frame

    def _build(self) -> None:
        """Everything visible; done anew when the appearance changes, since sizes change with it."""
        app = QApplication.instance()
        self.paper = Paper.of(self.appearance)
        if isinstance(app, QApplication):
            dress(app, self.paper)
        self.acts = acts_module.all_acts(self)
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
        self.tape.find_asked.connect(self.find_anything)
        self.tape.stop_asked.connect(lambda: self.bringing.stop())  # noqa: PLW0108  (loads it when first asked)
        self.stack = QStackedWidget()
        self.stack.setObjectName("ground")
        self.start: StartPage | None = None
        self.views: dict[str, RungView] = {}
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
        self.setCentralWidget(frame)
        self._fill_menus()
        self._fill_recent()
        if self.session.notebook is not None:
            self._show_frame()

    def _start_page(self) -> StartPage:
        from .start import StartPage

        if self.start is None:
            self.start = StartPage(self)
            self.stack.addWidget(self.start)
        return self.start

    def _view(self, rung: str) -> RungView:
        """The view of a rung, made when first needed."""
        if rung not in self.views:
            # Loaded when first needed: start-up pays only for the rung it opens on.
            room = import_module(f"tallmast.desk.{rung}.view")
            made: type[RungView] = getattr(room, f"{rung.capitalize()}View")
            self.views[rung] = made(self, self.session, self.paper)
            self.stack.addWidget(self.views[rung])
        return self.views[rung]

    @cached_property
    def bringing(self) -> Bringing:
        """Whatever brings files in."""
        from ..importing.queue import Bringing

        return Bringing(self)

    def _fill_menus(self) -> None:
        bar = self.menuBar()
        bar.clear()
        for old in self.actions():
            self.removeAction(old)
        menus: dict[str, QMenu] = {}
        for act in self.acts.values():
            menu = menus.get(act.menu)
            if menu is None:
                menu = menus[act.menu] = bar.addMenu(act.menu)
            # A single key would steal letters from fields as a shortcut; the window's keyPressEvent serves those.
            single = len(act.key) == 1
            shown = act.key if single else keys.where(act.name) if not act.key else ""
            action = QAction(f"{act.words}\t{shown}" if shown else act.words, self)
            if act.key and not single:
                action.setShortcut(QKeySequence(act.key))
            action.triggered.connect(lambda _=False, name=act.name: self.act(name))
            menu.addAction(action)
            if act.name in ("demo", "bundle", "redo", "previous antenna", "tape", "sun"):
                menu.addSeparator()
            if act.name == "open":
                self.recent_menu = menu.addMenu("Opened last")
        self.menus = menus

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        for path in self.settings.recent:
            action = self.recent_menu.addAction(path.stem)
            action.setToolTip(str(path))
            action.triggered.connect(lambda _=False, p=path: self.open_notebook(p))
        self.recent_menu.setEnabled(bool(self.settings.recent))

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
        self.top.show_all(evidence.question, name, evidence.antennas, self.focus_id, self.session.hidden)
        self.tape.show_acts(list(notebook.tape), notebook.can_undo is not None)
        self.tape.show_state("Only shown" if notebook.read_only else "")

    @property
    def focus_id(self) -> str:
        antenna = self.session.focus_antenna
        return antenna.id if antenna else ""

    # What the session says

    def _opened(self) -> None:
        notebook = self.session.notebook
        assert notebook is not None
        self.settings.opened(notebook.path)
        self._fill_recent()
        self.tape.tell(notebook.read_only)
        self.side.close_entry()
        self.side.working.show_figure(None)
        self._show_frame()
        self.climb_to(self.settings.rung(notebook.path) if self.settings.rung(notebook.path) in RUNGS else "shelf")
        self.mast.rungs[self.rung].setFocus(Qt.FocusReason.OtherFocusReason)

    def _kept(self, act: Act | None) -> None:
        if act is not None:
            self.tape.tell("")
        self._show_frame()

    def _found(self, climb: Climb) -> None:
        standings = {rung: climb.of(rung).standing for rung in RUNGS}
        self.mast.show_standings(standings, climb.verdict.lamp)
        if self.session.notebook is not None:
            self.settings.set_sentence(self.session.notebook.path, climb.verdict.sentence)
        for view in self.views.values():
            view.stale = True
        self._unpainted = []
        self._show_frame()
        # All at once would be felt: the frame, the rung and its working have a turn each.
        QTimer.singleShot(0, self, self._show_found)

    def _show_found(self) -> None:
        """What was found, on the rung in front."""
        self._paint_rung()
        QTimer.singleShot(0, self, self._show_working)
        self.painted.emit()
        self._idle.start(150)

    def _show_working(self) -> None:
        if self.session.climb is not None:
            self.side.working.show_figure(self.session.climb.of(self.rung).headline, self._caution())

    def _ready_one(self) -> None:
        """While nothing else goes on: make one more rung ready, so that climbing to it is only showing it."""
        climb = self.session.climb
        if self.session.notebook is None:
            missing = next((rung for rung in RUNGS if rung not in self.views), None)
            if missing is not None:
                self._view(missing)
                import_module(f"tallmast.desk.{missing}.{'view' if missing == 'verdict' else 'sheets'}")
                self._idle.start(10)
            else:
                _ = self.bringing
                self._start_page().paint_soon()
            return
        if climb is None or not self.session.settled:
            return  # the next findings start it again
        for rung in RUNGS:
            view = self._view(rung)
            if view.stale:
                view.resize(self.stack.size())
                view.show_climb(climb)
                self._unpainted.append(rung)
                self._idle.start(20)
                return
        if self._unpainted:
            view = self._view(self._unpainted.pop(0))
            if not view.isVisible():
                view.grab()  # lays it out in the clothes it will wear, and paints its pictures for keeps
            self._idle.start(20)
        else:
            _ = self.bringing

    def _paint_rung(self) -> None:
        if self.session.climb is None:
            return
        view = self._view(self.rung)
        if view.stale:
            view.show_climb(self.session.climb)
        self.stack.setCurrentWidget(view)

    def _caution(self) -> str:
        """What to mind before transmitting, on the rungs where somebody may."""
        climb = self.session.climb
        if climb is None or self.rung not in ("levels", "field", "bench"):
            return ""
        clear = climb.levels.clear
        distance = (
            f"Stand {clear.short} clear of the antenna at full power. " if clear else "Keep clear of the antenna. "
        )
        more = (
            "Never transmit without an antenna or a load."
            if self.rung != "field"
            else "Two people; mind tide, weather and masts near power lines."
        )
        return f"{distance}Band, power and duty are set by your licence and local rules; this tool doesn’t know them. {more}"

    def _repaint(self) -> None:
        for view in self.views.values():
            view.stale = True
        self._show_frame()
        self._paint_rung()

    def _picked(self, figure: Figure) -> None:
        if self.side.entry is None:
            self.side.working.show_figure(figure)

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
        self.rung = rung
        self.settings.set_rung(self.session.notebook.path, rung)
        self.mast.stand_on(rung)
        if QApplication.focusWidget() in self.mast.rungs.values():
            self.mast.rungs[rung].setFocus(Qt.FocusReason.OtherFocusReason)
        new = rung not in self.views
        self.stack.setCurrentWidget(self._view(rung))
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

    def start_live(self) -> None:
        self.climb_to("field")
        from ..field.view import FieldView

        view = self._view("field")
        assert isinstance(view, FieldView)
        view.start_live()

    def start_analyzer(self) -> None:
        self.on_bench("start_live")

    def look_another_way(self) -> None:
        """The next picture of the rung in front, where it has several; the Bench's from any other."""
        rung = self.rung if self.rung in ("bench", "levels") else "bench"
        self.on(rung, "look_next")

    def start_display_run(self) -> None:
        self.on("levels", "start_display_run")

    def start_substitution(self) -> None:
        self.on("levels", "start_substitution")

    def keep_tried(self) -> None:
        from ..levels.forms import keep_tried

        keep_tried(self.session)

    def on_bench(self, what: str, *with_: float) -> None:
        self.on("bench", what, *with_)

    def on(self, rung: str, what: str, *with_: float) -> None:
        """Stand on a rung and have its view do something."""
        self.climb_to(rung)
        getattr(self._view(rung), what)(*with_)

    def toggle_hidden(self) -> None:
        if self.focus_id:
            self.session.toggle_hidden(self.focus_id)

    def step_focus(self, step: int) -> None:
        ids = [a.id for a in self.session.evidence.antennas]
        if ids:
            at = ids.index(self.focus_id) if self.focus_id in ids else 0
            self.session.focus(ids[(at + step) % len(ids)])

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
        carried = {rung: view.carried() for rung, view in self.views.items()}
        for view in self.views.values():
            view.let_go()
        # Gone before the new style is put on: it would be worked out for every part of the old frame once more.
        self.menuBar().clear()
        frame = self.takeCentralWidget()
        for old in (frame, *self.menus.values()) if frame is not None else self.menus.values():
            old.deleteLater()
            QCoreApplication.sendPostedEvents(old, QEvent.Type.DeferredDelete)
        self._build()
        if self.session.climb is not None:
            self._found(self.session.climb)
            self.climb_to(self.rung)
        for rung, state in carried.items():
            if state is not None:
                self._view(rung).carry_on(state)
        if sheet is not None:
            self.side.put_entry(sheet)
            if caret is not None:
                caret.setFocus(Qt.FocusReason.OtherFocusReason)

    def find_anything(self) -> None:
        """Any act, record or page of help."""
        from . import index
        from .finder import Finder

        known = [
            (act.name, act.words, act.menu, keys.where(act.name) or act.key)
            for act in self.acts.values()
            if act.name != "find"
        ]
        things = [*index.acts(known), *index.records(self.session.evidence), *index.help_pages()]
        finder = Finder(things, self.paper, self)
        finder.chosen.connect(self._do_found)
        self._centre(finder)
        finder.open()
        finder.line.setFocus()

    def _do_found(self, found: object) -> None:
        from .index import HelpPage

        if isinstance(found, Record):
            self.open_record(found)
        elif isinstance(found, HelpPage):
            self.climb_to(found.rung)
            self.help()
        else:
            self.act(str(found))

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

    def help(self) -> None:
        from .finder import Page
        from .help import HELP

        page = Page(f"{self.rung.capitalize()}: what it answers", HELP[self.rung], self)
        self._centre(page)
        page.open()

    def key_card(self) -> None:
        """Every key there is."""
        from .finder import KeyCard

        columns = keys.card(
            self.rung, {name: act.words.removesuffix(" …") for name, act in self.acts.items()}, self._shared_keys()
        )
        card = KeyCard(columns, self)
        self._centre(card)
        card.open()

    def _shared_keys(self) -> list[tuple[str, str]]:
        """Keys and chords that are the same on every rung."""
        return [
            (act.key.replace("Return", "⏎"), act.words.removesuffix(" …"))
            for act in self.acts.values()
            if act.key and act.menu != "Climb"
        ]

    def about(self) -> None:
        """Version, what ± means, and whose type and icons these are."""
        from .finder import Page

        words = [
            f"Version {__version__}. Which antenna, how sure, by how much, and does the claim hold.",
            "Every ± is a 90 % interval; every number shows its working. Cautions are guidance: your licence and local rules decide.",
            "Type: IBM Plex (SIL Open Font License). Icons: Tabler (MIT). Their licences are in the program’s folder.",
        ]
        page = Page("Tall Mast", words, self)
        self._centre(page)
        page.open()

    def _centre(self, dialog: QDialog) -> None:
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        own = dialog.objectName() in ("finder", "keycard")
        hint = dialog.sizeHint().expandedTo(dialog.size()) if own else dialog.sizeHint()
        at = self.geometry().center()
        dialog.move(at.x() - hint.width() // 2, max(self.geometry().top() + 60, at.y() - hint.height() // 2))

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
            words = [
                f"{self.acts[act].words.removesuffix(' …')} ({rung.capitalize()}, {RUNGS.index(rung) + 1})"
                for rung, act in known
            ]
            self.tell_trouble(f"{key.upper()} does nothing here. Elsewhere it is: {show.join(words, 'or')}.")

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            event.acceptProposedAction()
            self.bringing.take(paths)

    def showEvent(self, event: QShowEvent) -> None:
        if self.session.notebook is None:
            self._show_frame()
        super().showEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.settings.geometry = self.saveGeometry()
        self.settings.sync()
        for view in self.views.values():
            view.let_go()
        self.session.close()
        super().closeEvent(event)
