"""Find any act or record by a few letters (Ctrl+K), and the card of keys."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from .parts import label


@dataclass(frozen=True)
class Found:
    """Something that can be found: what it is called, of what kind it is, and what choosing it does."""

    words: str
    kind: str
    run: Callable[[], object]
    key: str = ""


def matches(query: str, found: Found) -> bool:
    """Every word of the query stands somewhere in it."""
    text = f"{found.words} {found.kind}".lower()
    return all(word in text for word in query.lower().split())


class Finder(QDialog):
    """Type, arrows, Enter."""

    def __init__(self, things: list[Found], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("finder")
        self.setWindowTitle("Find anything")
        self.setWindowFlag(Qt.WindowType.FramelessWindowHint)
        self._things = things
        box = QVBoxLayout(self)
        self.line = QLineEdit()
        self.line.setObjectName("finderLine")
        self.line.setPlaceholderText("an act, an antenna, a place, a run …")
        self.line.setAccessibleName("Find anything")
        self.list = QListWidget()
        self.list.setObjectName("finderList")
        self.list.setAccessibleName("What was found")
        box.addWidget(self.line)
        box.addWidget(self.list)
        self.resize(560, 420)
        self.line.textChanged.connect(self._fill)
        self.line.installEventFilter(self)
        self.list.itemActivated.connect(lambda item: self._choose())
        self._fill("")

    def _fill(self, query: str) -> None:
        self.list.clear()
        for found in [f for f in self._things if matches(query, f)][:60]:
            item = QListWidgetItem(f"{found.words}    {found.kind}{'    ' + found.key if found.key else ''}")
            item.setData(Qt.ItemDataRole.UserRole, found)
            self.list.addItem(item)
        if self.list.count():
            self.list.setCurrentRow(0)
        else:
            self.list.addItem(QListWidgetItem("Nothing is called that."))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + step)))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._choose()
                return True
        return super().eventFilter(watched, event)

    def _choose(self) -> None:
        item = self.list.currentItem()
        found = item.data(Qt.ItemDataRole.UserRole) if item else None
        if found is not None:
            self.accept()
            found.run()


class KeyCard(QDialog):
    """Every key, in columns by where it works."""

    def __init__(self, groups: dict[str, list[tuple[str, str]]], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("keycard")
        self.setWindowTitle("Keys")
        page = QWidget()
        page.setObjectName("page")
        columns = QHBoxLayout(page)
        columns.setContentsMargins(18, 16, 18, 16)
        columns.setSpacing(18)
        for group, keys in groups.items():
            grid = QGridLayout()
            grid.setHorizontalSpacing(8)
            grid.addWidget(label(group, "sideTitle"), 0, 0, 1, 2)
            for row, (key, words) in enumerate(keys, 1):
                grid.addWidget(label(key, "key"), row, 0, Qt.AlignmentFlag.AlignLeft)
                grid.addWidget(label(words), row, 1)
            grid.setRowStretch(len(keys) + 1, 1)
            columns.addLayout(grid)
        # On a small screen it scrolls.
        area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidget(page)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(area)
        hint = page.sizeHint()
        self.resize(min(hint.width() + 4, parent.width() - 16), min(hint.height() + 4, parent.height() - 70))


class Page(QDialog):
    """A page of help for one rung."""

    def __init__(self, title: str, paragraphs: list[str], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("help")
        self.setWindowTitle(title)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 20, 24, 20)
        box.addWidget(label(title, "sentence"))
        for paragraph in paragraphs:
            part = label(paragraph, wrap=True)
            part.setMinimumWidth(520)
            box.addWidget(part)
        box.addWidget(label("Esc closes this page.", "soft"))
