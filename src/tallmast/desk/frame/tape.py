"""The tape: the last thing that happened at the bottom; the whole of it opens upward."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QToolButton, QVBoxLayout, QWidget

from tallmast.figures.paper import Paper
from tallmast.notebook.changes import Change
from tallmast.notebook.entry import Act
from tallmast.units import show

from ..parts import label
from ..theme import icon


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


_UNITS: dict[str, tuple[str, Callable[[Any], str]]] = {
    "_hz": ("", show.frequency),
    "_w": ("", show.power),
    "_m": ("", show.length),
    "_kg": ("", show.mass),
    "_dbm": ("", lambda v: f"{show.fixed(v, 1)} dBm"),
    "_dbi": ("", lambda v: f"{show.fixed(v, 2)} dBi"),
    "_u_db": (" uncertainty", lambda v: f"{v:g} dB"),
    "_db": ("", lambda v: f"{v:g} dB"),
    "_deg": ("", lambda v: f"{v:.6g}°"),
}
_UNSPOKEN = ("series_id", "raw_sha256", "slot", "as_typed", "states", "photo_sha256")


def _value(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)


def change_words(change: Change, name_of: Callable[[str], str]) -> str:
    """`SWR 1.52 → 1.48`; empty for what means nothing to a person. `name_of` turns a record's id into its name."""
    if change.field in _UNSPOKEN:
        return ""
    words = change.field
    shown: Callable[[Any], str] = _value
    if change.field.endswith("_id"):
        words, shown = change.field.removesuffix("_id"), name_of
    else:
        for ending, (more, by_unit) in _UNITS.items():
            if change.field.endswith(ending):
                words, shown = change.field.removesuffix(ending) + more, by_unit
                break
    words = words.replace("_", " ").replace("swr", "SWR")
    values = (change.before, change.after)
    if any(isinstance(v, list | dict) for v in values):
        return f"{words} changed"
    texts = ["not noted" if v in (None, "") else shown(v) for v in values]
    return f"{words} {texts[0]} → {texts[1]}"


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
        self.corrections: Callable[[], dict[int, str]] = dict
        """What each correcting act changed, in words; asked when the whole tape is opened."""

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
        corrected = self.corrections()
        for act in self._acts:
            more = f": {corrected[act.number]}" if corrected.get(act.number) else ""
            self.list.addItem(QListWidgetItem(f"{act_time(act):>12}   {act_words(act)}{more}"))
        self.list.setCurrentRow(self.list.count() - 1)
