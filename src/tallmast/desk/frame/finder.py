"""Find any act or record by a few letters (Ctrl+K), and the card of keys."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QBrush, QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QScrollArea,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from tallmast.figures.paper import Paper

from ..parts import label
from .index import Thing, search


class Finder(QDialog):
    """Type, arrows, Enter."""

    chosen = Signal(object)
    """What stands for the thing that was chosen."""

    def __init__(self, things: Sequence[Thing], paper: Paper, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("finder")
        self.setWindowTitle("Find anything")
        self.setWindowFlag(Qt.WindowType.FramelessWindowHint)
        self._things, self._soft = things, QBrush(paper.colour("soft"))
        box = QVBoxLayout(self)
        self.line = QLineEdit()
        self.line.setObjectName("finderLine")
        self.line.setPlaceholderText("what to do, or an antenna, a place, a run, a reading …")
        self.line.setAccessibleName("Find anything")
        self.list = QTreeWidget()
        self.list.setObjectName("finderList")
        self.list.setAccessibleName("What was found")
        self.list.setColumnCount(3)
        self.list.setHeaderHidden(True)
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        header = self.list.header()
        header.setStretchLastSection(False)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Interactive)
        header.setSectionResizeMode(2, QHeaderView.ResizeMode.Interactive)
        header.resizeSection(1, 230)
        header.resizeSection(2, 90)
        box.addWidget(self.line)
        box.addWidget(self.list)
        self.resize(700, 440)
        self.line.textChanged.connect(self._fill)
        self.line.installEventFilter(self)
        self.list.itemActivated.connect(lambda item: self._choose())
        self._fill("")

    def _fill(self, query: str) -> None:
        self.list.clear()
        rows = []
        for thing in search(query, self._things):
            row = QTreeWidgetItem([thing.words, thing.where, thing.key])
            row.setData(0, Qt.ItemDataRole.UserRole, thing)
            row.setForeground(1, self._soft)
            rows.append(row)
        if not rows:
            rows.append(QTreeWidgetItem(["Nothing is called that, and nothing is meant by it."]))
        self.list.addTopLevelItems(rows)
        self.list.setCurrentItem(rows[0])

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 10, Qt.Key.Key_PageUp: -10}
            if event.key() in steps:
                at = self.list.currentIndex().row() + steps[Qt.Key(event.key())]
                at = max(0, min(self.list.topLevelItemCount() - 1, at))
                self.list.setCurrentIndex(self.list.model().index(at, 0))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._choose()
                return True
        return super().eventFilter(watched, event)

    def _choose(self) -> None:
        item = self.list.currentItem()
        thing = item.data(0, Qt.ItemDataRole.UserRole) if item else None
        if thing is not None:
            self.accept()
            self.chosen.emit(thing.payload)


WIDE = 620
"""Points of a page of help."""


class Scrolled(QScrollArea):
    """A page that scrolls where the window is small, by arrows and Page Up and Down."""

    def __init__(self, page: QWidget) -> None:
        super().__init__()
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setWidget(page)


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
            grid.setVerticalSpacing(2)
            grid.addWidget(label(group, "sideTitle"), 0, 0, 1, 2)
            for row, (key, words) in enumerate(keys, 1):
                grid.addWidget(label(key, "key"), row, 0, Qt.AlignmentFlag.AlignLeft)
                grid.addWidget(label(words), row, 1)
            grid.setRowStretch(len(keys) + 1, 1)
            columns.addLayout(grid)
        # On a small screen it scrolls.
        area = Scrolled(page)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(area)
        hint = page.sizeHint()
        self.resize(min(hint.width() + 16, parent.width() - 16), min(hint.height() + 4, parent.height() - 70))


class Page(QDialog):
    """A page of help for one rung."""

    def __init__(self, title: str, paragraphs: Sequence[str], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("help")
        self.setWindowTitle(title)
        page = QWidget()
        page.setObjectName("page")
        box = QVBoxLayout(page)
        box.setContentsMargins(24, 20, 24, 20)
        box.addWidget(label(title, "sentence", wrap=True))
        for paragraph in paragraphs:
            box.addWidget(label(paragraph, wrap=True))
        box.addStretch(1)
        area = Scrolled(page)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(1, 1, 1, 12)  # the edge of the page stays
        outer.addWidget(area)
        foot = label("Esc closes this page.", "soft")
        foot.setContentsMargins(24, 0, 24, 0)
        outer.addWidget(foot)
        # As tall as it must be at its width, or as the window has room for; the rest is scrolled to, by keys too.
        page.ensurePolished()
        wide = min(WIDE, parent.width() - 16)
        tall = box.totalHeightForWidth(wide - 20) + foot.sizeHint().height() + 24
        self.resize(wide, min(tall, parent.height() - 70))
        area.setFocus()
