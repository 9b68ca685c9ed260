"""Hands for driving the real window: keys, drops and waiting for findings; nothing reaches round the interface."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit

from tallmast.desk.frame import keys
from tallmast.findings.climb import RUNGS


class Hands:
    def __init__(self, qtbot, window) -> None:
        self.qtbot, self.window = qtbot, window
        window.activateWindow()
        window.raise_()
        qtbot.waitUntil(window.isActiveWindow, timeout=5000)

    @property
    def focus(self):
        if not self.window.isActiveWindow():
            # Qt's offscreen platform takes the activation away when a combo box's hidden list is destroyed.
            self.window.activateWindow()
            self.qtbot.waitUntil(self.window.isActiveWindow, timeout=5000)
        return QApplication.focusWidget() or self.window

    def press(self, key, held=Qt.KeyboardModifier.NoModifier) -> None:
        """One key where the focus is: a Qt key, or a letter."""
        self._key(self.focus, key, held)

    @staticmethod
    def _key(widget, key, held=Qt.KeyboardModifier.NoModifier) -> None:
        """A key, and what follows from it: between two keys of a person the event loop runs."""
        if isinstance(key, str):
            QTest.keyClicks(widget, key)
        else:
            QTest.keyClick(widget, key, held)
        QApplication.processEvents()

    def chord(self, letter: str, *more) -> None:
        held = Qt.KeyboardModifier.ControlModifier
        for modifier in more:
            held |= modifier
        self._key(self.focus, getattr(Qt.Key, f"Key_{letter.upper()}"), held)

    def settle(self) -> None:
        self.qtbot.waitUntil(lambda: self.window.session.settled, timeout=30_000)
        QApplication.processEvents()

    def fill(self, values: dict[str, str]) -> None:
        """Write into the sheet in front, going from field to field with Tab only."""
        wanted = dict(values)
        sheet = self.window.sheet
        assert sheet is not None, "no sheet is open"
        if any(sheet.fields[key].isHidden() for key in wanted if key in sheet.fields):
            self.chord("m")  # what is folded away
        for _ in range(3 * len(sheet.fields) + 8):
            if not wanted:
                return
            widget = self.focus
            name = widget.objectName()
            key = name.removeprefix("field-")
            if name.startswith("field-") and key in wanted:
                if isinstance(widget, QComboBox):
                    at = next(i for i in range(widget.count()) if wanted[key].lower() in widget.itemText(i).lower())
                    while (widget := self.focus).currentIndex() != at:  # a choice may make the sheet anew
                        self._key(widget, Qt.Key.Key_Down if widget.currentIndex() < at else Qt.Key.Key_Up)
                else:
                    assert isinstance(widget, QLineEdit), (key, widget)
                    widget.selectAll()
                    self._key(widget, wanted[key] or Qt.Key.Key_Delete)
                del wanted[key]
            if wanted:
                self._key(self.focus, Qt.Key.Key_Tab)
        assert not wanted, f"not reached by Tab: {wanted}"

    def keep(self) -> None:
        """Enter: keep the sheet in front, and see it go."""
        sheet = self.window.sheet
        self._key(self.focus, Qt.Key.Key_Return)
        self.qtbot.waitUntil(lambda: self.window.sheet is not sheet, timeout=10_000)
        self.settle()

    def go_for(self, key: str, act: str = "") -> None:
        """Climb to a rung on which a key does something (a certain act), unless it does here."""
        known = [rung for rung, does in keys.elsewhere(key) if not act or does == act]
        if known and self.window.rung not in known:
            self.press(str(RUNGS.index(known[0]) + 1))

    def press_on(self, rung: str, key: str) -> None:
        """A key on the rung that it belongs to."""
        if self.window.rung != rung:
            self.press(str(RUNGS.index(rung) + 1))
        self.press(key)

    def write(self, key: str, values: dict[str, str], act: str = "") -> None:
        """Open a sheet by its key, on a rung where it has it, fill it, keep it."""
        self.go_for(key, act)
        self.press(key)
        self.fill(values)
        self.keep()

    def drop(self, *paths: Path) -> None:
        """Files let go over the window."""
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
        where = QPointF(self.window.width() / 2, self.window.height() / 2)
        copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        enter = QDragEnterEvent(where.toPoint(), copy, mime, left, none)
        self.window.dragEnterEvent(enter)
        assert enter.isAccepted()
        self.window.dropEvent(QDropEvent(where, copy, mime, left, none))

    def sheet_opens(self) -> None:
        self.qtbot.waitUntil(lambda: self.window.sheet is not None, timeout=30_000)

    @property
    def sentence(self) -> str:
        return self.window.views[self.window.rung].sentence.text()

    @property
    def trouble(self) -> str:
        return self.window.tape.trouble.text()
