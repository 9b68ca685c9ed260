"""The tape: the last thing that happened at the bottom; the whole of it opens upward."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QToolButton, QVBoxLayout, QWidget

from tallmast.figures.paper import Paper
from tallmast.notebook.store import Act

from .parts import label
from .theme import icon


def act_time(act: Act, today: str | None = None) -> str:
    """Local clock time; with the date when it was not today."""
    try:
        moment = datetime.fromisoformat(act.at).astimezone()
    except ValueError:
        return ""
    today = today or datetime.now().astimezone().date().isoformat()
    return moment.strftime("%H:%M" if moment.date().isoformat() == today else "%d %b %H:%M")


def act_words(act: Act) -> str:
    front = {"do": "", "undo": "Undone: ", "redo": "Done again: "}[act.manner]
    reason = f" ({act.reason})" if act.reason else ""
    return f"{front}{act.label}{reason}"


class Tape(QWidget):
    open_asked = Signal(bool)
    undo_asked = Signal()
    find_asked = Signal()
    stop_asked = Signal()

    def __init__(self, paper: Paper) -> None:
        super().__init__()
        self.setObjectName("tape")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        self.list = QListWidget()
        self.list.setObjectName("tapeList")
        self.list.setAccessibleName("The tape: every entry")
        self.list.setFixedHeight(round(280 * paper.scale))
        self.list.hide()
        box.addWidget(self.list)
        row = QHBoxLayout()
        row.setContentsMargins(10, 1, 10, 1)
        box.addLayout(row)
        self.opener = QToolButton()
        self.opener.setText("Tape ▴")
        self.opener.setCheckable(True)
        self.opener.setAccessibleName("Open or close the whole tape")
        self.opener.toggled.connect(self._toggle)
        self.last = label("", wrap=False)
        self.last.setAccessibleName("Last entry")
        self.trouble = label("", "trouble", wrap=True)
        self.trouble.hide()
        self.undo = QToolButton()
        self.undo.setText("Undo")
        self._wear(self.undo, "arrow-back-up", paper)
        self.undo.setToolTip("Ctrl+Z")
        self.undo.clicked.connect(self.undo_asked)
        self.dismiss = QToolButton()
        self.dismiss.setText("Understood")
        self.dismiss.clicked.connect(lambda: self.tell(""))
        self.dismiss.hide()
        self.state = label("")
        self.stop = QToolButton()
        self.stop.setText("Stop")
        self.stop.clicked.connect(self.stop_asked)
        self.stop.hide()
        self.finder = QToolButton()
        self.finder.setText("Find anything  Ctrl K")
        self._wear(self.finder, "search", paper)
        self.finder.clicked.connect(self.find_asked)
        for part, stretch in ((self.opener, 0), (self.last, 0), (self.trouble, 1), (self.undo, 0), (self.dismiss, 0)):
            row.addWidget(part, stretch)
        row.addStretch(1)
        for part in (self.state, self.stop, self.finder):
            row.addWidget(part)
        self._acts: list[Act] = []

    @staticmethod
    def _wear(part: QToolButton, name: str, paper: Paper) -> None:
        part.setIcon(icon(name, paper.colour("soft"), round(15 * paper.scale)))
        part.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)

    def show_acts(self, acts: list[Act], can_undo: bool) -> None:
        self._acts = acts
        self.undo.setEnabled(can_undo)
        if acts:
            text = f"{act_time(acts[-1])}  {act_words(acts[-1])}"
            self.last.setToolTip(text)
            self.last.setText(text if len(text) <= 88 else text[:85].rsplit(" ", 1)[0] + " …")
        else:
            self.last.setText("Nothing written yet.")
        if self.list.isVisible():
            self._fill()

    def show_state(self, state: str) -> None:
        self.state.setText(state)

    def show_busy(self, what: str) -> None:
        self.stop.setVisible(bool(what))
        if what:
            self.state.setText(f"{what} …")

    def tell(self, message: str) -> None:
        """An error, until it is understood."""
        self.trouble.setText(message)
        self.trouble.setVisible(bool(message))
        self.dismiss.setVisible(bool(message))
        self.last.setVisible(not message)
        self.undo.setVisible(not message)

    def _toggle(self, opened: bool) -> None:
        self.opener.setText("Tape ▾" if opened else "Tape ▴")
        if opened:
            self._fill()
        self.list.setVisible(opened)
        if opened:
            self.list.setFocus()
            self.list.scrollToBottom()
        self.open_asked.emit(opened)

    def _fill(self) -> None:
        self.list.clear()
        for act in self._acts:
            self.list.addItem(QListWidgetItem(f"{act_time(act):>12}   {act_words(act)}"))
        self.list.setCurrentRow(self.list.count() - 1)
