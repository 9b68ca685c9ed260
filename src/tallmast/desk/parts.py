"""Small parts that every view is put together from."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterable, Sequence
from typing import Any

from PySide6.QtCore import QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from tallmast.figures.paper import MARKS, Paper
from tallmast.figures.sheet import Sheet
from tallmast.findings.figure import Check


class Flow(QWidget):
    """Children left to right, then down: for tags, chips and buttons. Its height follows from its width."""

    def __init__(self, gap: int = 8, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._gap = gap
        self.parts: list[QWidget] = []
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def add(self, part: QWidget) -> None:
        part.setParent(self)
        part.show()
        self.parts.append(part)
        self._changed()

    def clear(self) -> None:
        for part in self.parts:
            part.hide()
            part.deleteLater()
        self.parts = []
        self._changed()

    def _changed(self) -> None:
        self._place(self.width(), dry=False)
        self.updateGeometry()

    def heightForWidth(self, width: int) -> int:
        return self._place(width, dry=True)

    def sizeHint(self) -> QSize:
        width = max(self.width(), 100)
        return QSize(width, self._place(width, dry=True))

    def minimumSizeHint(self) -> QSize:
        widest = max((part.sizeHint().width() for part in self.parts), default=0)
        return QSize(widest, self._place(max(self.width(), widest), dry=True))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place(event.size().width(), dry=False)

    def _place(self, width: int, dry: bool) -> int:
        x, y, tallest = 0, 0, 0
        row: list[tuple[QWidget, QRect]] = []

        def put_row() -> None:
            """Each in the middle of its row."""
            for part, place in row if not dry else ():
                part.setGeometry(place.translated(0, (tallest - place.height()) // 2))
            row.clear()

        for part in self.parts:
            hint = part.sizeHint()
            if x + hint.width() > width and tallest:
                put_row()
                x, y, tallest = 0, y + tallest + self._gap, 0
            row.append((part, QRect(x, y, hint.width(), hint.height())))
            x += hint.width() + self._gap
            tallest = max(tallest, hint.height())
        put_row()
        return y + tallest


class Folded(Flow):
    """A flow of at most so many rows: what comes after waits behind a last part that says how many there are."""

    def __init__(self, gap: int, rows: int, parent: QWidget | None = None) -> None:
        super().__init__(gap, parent)
        self._rows, self._open = rows, False
        self.more = QPushButton(self)
        self.more.setObjectName("plain")
        self.more.clicked.connect(self.unfold)
        self.more.hide()

    def clear(self) -> None:
        self._open = False
        super().clear()

    def unfold(self) -> None:
        """Show all, or fold them again."""
        self._open = not self._open
        self._changed()

    def _place(self, width: int, dry: bool) -> int:
        fits = self._fitting(width)
        folds = fits < len(self.parts)
        if not dry:
            self.more.setText("fewer" if self._open else f"+ {len(self.parts) - fits} more")
            self.more.setAccessibleName(f"{len(self.parts) - fits} more checks: show or fold them")
            self.more.setVisible(folds)
            for i, part in enumerate(self.parts):
                part.setVisible(self._open or i < fits)
        every = self.parts
        self.parts = [*(every if self._open else every[:fits]), *([self.more] if folds else [])]
        try:
            return super()._place(width, dry)
        finally:
            self.parts = every

    def _fitting(self, width: int) -> int:
        """How many parts the rows take, with room left for the last one if there are more."""
        spare = self.more.fontMetrics().horizontalAdvance("+ 00 more") + 24 + self._gap
        x, row, fits = 0, 1, 0
        for number, part in enumerate(self.parts):
            wide = part.sizeHint().width()
            if x + wide > width and x:
                x, row = 0, row + 1
            if row > self._rows:
                return fits
            x += wide + self._gap
            if row < self._rows or x + spare <= width:
                fits = number + 1
        return len(self.parts)


def clear_layout(layout: QLayout) -> None:
    """Take every widget out of a layout and let it go."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


def label(text: str, name: str = "", wrap: bool = False, parent: QWidget | None = None) -> QLabel:
    out = QLabel(text, parent)
    out.setObjectName(name)
    out.setWordWrap(wrap)
    out.setTextFormat(Qt.TextFormat.PlainText)
    return out


def button(text: str, act: Callable[[], Any], first: bool = False, name: str = "") -> QPushButton:
    out = QPushButton(text)
    out.setObjectName("first" if first else name)
    out.clicked.connect(lambda _=False: act())
    out.setAutoDefault(True)
    return out


class Card(QFrame):
    """A sheet of paper with a small title."""

    def __init__(self, title: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(10, 8, 10, 8)
        self.box.setSpacing(4)
        self.heading = label(title, "cardTitle", wrap=True)
        self.box.addWidget(self.heading)
        self.heading.setVisible(bool(title))

    def set_title(self, title: str) -> None:
        self.heading.setText(title)
        self.heading.setVisible(bool(title))


class Tag(QAbstractButton):
    """A check: mark and words, never colour alone. Picks its figure; its reason is the tooltip."""

    def __init__(self, check: Check, paper: Paper, pick: Callable[[Check], None]) -> None:
        super().__init__()
        self.check, self.paper = check, paper
        self.setToolTip(check.why)
        self.setText(f"{MARKS[check.mark]} {check.text}")
        words = {"holds": "holds", "fails": "fails", "disagrees": "disagrees", "open": "not shown yet"}[check.mark]
        self.setAccessibleName(f"{check.text}: {words}. {check.why}")
        self.clicked.connect(lambda: pick(self.check))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

        metrics = QFontMetricsF(paper.font(12, bold=True))
        self._size = QSize(
            round(metrics.horizontalAdvance(self.text()) + 16 * paper.scale), round(metrics.height() + 6)
        )

    def sizeHint(self) -> QSize:
        return self._size

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        sheet = Sheet(painter, self.paper)
        washes = {"holds": "holds_wash", "fails": "fails_wash", "disagrees": "doubt_wash", "open": "open_wash"}
        box = self.rect().adjusted(1, 1, -1, -1)
        edge = self.paper.colour("accent") if self.hasFocus() else None
        sheet.rect(box.toRectF(), self.paper.colour(washes[self.check.mark]), edge, 2, 3)
        ink = self.paper.mark(self.check.mark) if self.check.mark != "open" else self.paper.colour("ink")
        sheet.text(sheet.px(8), self.height() / 2, self.text(), ink, 12, bold=True)
        painter.end()


class Switch(Flow):
    """One of a few words, chosen by a press; `turned` hears which."""

    def __init__(self, title: str, words: Sequence[str], turned: Callable[[str], Any]) -> None:
        super().__init__(2)
        self.add(label(title, "soft"))
        self._turned = turned
        self._group = QButtonGroup(self)
        self.words = list(words)
        for i, word in enumerate(words):
            part = QPushButton(word)
            part.setObjectName("plain")
            part.setCheckable(True)
            part.setChecked(i == 0)
            part.clicked.connect(lambda _=False, word=word: turned(word))
            self._group.addButton(part, i)
            self.add(part)

    @property
    def chosen(self) -> Any:
        return self.words[max(self._group.checkedId(), 0)]

    def turn(self, word: str) -> None:
        """To one of its words, as if it had been pressed."""
        self.set(word)
        self._turned(word)

    def set(self, word: str) -> None:
        """Show one of its words as chosen; nobody is told."""
        self._group.button(self.words.index(word)).setChecked(True)

    def next(self) -> None:
        """Turn to the next word, round and round."""
        button = self._group.button((self._group.checkedId() + 1) % len(self.words))
        button.setChecked(True)
        self._turned(self.chosen)


class LookRow(QWidget):
    """The ways in which a rung can be looked at: one button each, those that there is nothing of left out."""

    chosen = Signal(str)

    def __init__(self, looks: Iterable[str]) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(label("Show", "soft"))
        self.group = QButtonGroup(self)
        for look in looks:
            part = QPushButton(look)
            part.setObjectName("plain")
            part.setCheckable(True)
            part.clicked.connect(lambda _=False, one=look: self.chosen.emit(one))
            self.group.addButton(part)
            row.addWidget(part)
        row.addStretch(1)

    def offer(self, there: Container[str], shown: str) -> None:
        """Those that there are, where they are more than one."""
        buttons = self.group.buttons()
        several = sum(part.text() in there for part in buttons) > 1
        self.setVisible(several)
        for part in buttons:
            part.setVisible(part.text() in there)
            part.setChecked(part.text() == shown)
