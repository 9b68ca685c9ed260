"""The top: the question on the left, the antennas on the right."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QApplication, QHBoxLayout, QVBoxLayout, QWidget

from tallmast.figures.paper import Paper
from tallmast.figures.sheet import Sheet
from tallmast.notebook.records import Antenna, Question
from tallmast.units import show

from ..parts import Flow, button, label
from ..theme import icon


class Chip(QAbstractButton):
    """An antenna: its glyph, its colour, its name. Click: focus. Alt-click or V: show or hide."""

    hide_asked = Signal()

    def __init__(self, antenna: Antenna, paper: Paper, focus: bool, hidden: bool) -> None:
        super().__init__()
        self.antenna, self.paper, self.hidden = antenna, paper, hidden
        self.setCheckable(True)
        self.setChecked(focus)
        self.setObjectName(f"chip-{antenna.name}")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        state = ", hidden" if hidden else ""
        self.setAccessibleName(f"{antenna.name}{', in focus' if focus else ''}{state}")
        self.setToolTip(f"{antenna.name}, {antenna.state.name}. Alt-click or V: show or hide.")

        wide = QFontMetricsF(paper.font(13)).horizontalAdvance(antenna.name)
        self._size = QSize(round(wide + 38 * paper.scale), round(29 * paper.scale))

    def sizeHint(self) -> QSize:
        return self._size

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.hide_asked.emit()
        else:
            super().mousePressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        s = Sheet(painter, self.paper)
        c = self.paper.colour
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        edge = c("accent") if self.hasFocus() else c("ink") if self.isChecked() else c("hairline")
        s.rect(box, c("sheet"), edge, 1.6 if self.isChecked() or self.hasFocus() else 1, s.px(4))
        if self.isChecked():
            s.rect(
                QRectF(box.left() + s.px(8), box.bottom() - s.px(3), box.width() - s.px(16), s.px(3)),
                self.paper.antenna(self.antenna.slot),
            )
        faded = 0.35 if self.hidden else 1.0
        s.glyph(s.px(15), self.height() / 2, self.antenna.slot, 9, self.paper.antenna(self.antenna.slot, faded))
        area = s.text(s.px(26), self.height() / 2, self.antenna.name, c("soft" if self.hidden else "ink"), 13)
        if self.hidden:
            s.line(area.left(), area.center().y(), area.right(), area.center().y(), c("soft"), 1)
        painter.end()


class QuestionButton(QAbstractButton):
    """The question, its band and limit. Click or Enter to edit."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("question")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        box = self._box = QVBoxLayout(self)
        box.setContentsMargins(6, 4, 6, 4)
        box.setSpacing(0)
        self.text_label = label("", "questionText", wrap=True)
        self.band_label = label("", "questionBand", wrap=True)
        for part in (self.text_label, self.band_label):
            part.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            box.addWidget(part)

    def sizeHint(self) -> QSize:
        return self._box.sizeHint()

    def show_question(self, question: Question | None, file_name: str, at: int = 0) -> None:
        if question is None:
            self.text_label.setText("Ask the question")
            self.band_label.setText(f"{file_name}: which band, which limit, which place?")
        else:
            self.text_label.setText(question.text)
            parts = [question.campaign] if question.campaign else []
            bands = question.bands
            band = bands[at % len(bands)]
            which = f" ({at % len(bands) + 1} of {len(bands)}, ; for the next)" if question.further else ""
            parts += [show.band(band.low_hz, band.high_hz) + which, f"SWR limit {band.swr_limit:g}"]
            if question.wanted_bearing_deg is not None:
                parts.append(f"toward {show.bearing(question.wanted_bearing_deg)}")
            self.band_label.setText(" · ".join(parts))
        self.setAccessibleName(f"The question: {self.text_label.text()} {self.band_label.text()}. Enter to edit.")

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.hasFocus():
            painter = QPainter(self)
            painter.setPen(self.palette().highlight().color())
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
            painter.end()


class TopBar(QWidget):
    focus_asked = Signal(str)
    hide_asked = Signal(str)
    question_asked = Signal()
    add_asked = Signal()

    def __init__(self, paper: Paper) -> None:
        super().__init__()
        self.setObjectName("top")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.paper = paper
        self._shown: tuple[object, ...] | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 4, 12, 4)
        row.setSpacing(16)
        self.question = QuestionButton()
        self.question.clicked.connect(self.question_asked)
        row.addWidget(self.question, 5)
        self.chips = Flow(7)
        row.addWidget(self.chips, 7)
        self.setMinimumHeight(round(54 * paper.scale))

    def show_all(
        self,
        question: Question | None,
        file_name: str,
        antennas: list[Antenna],
        focus_id: str,
        hidden: set[str],
        band: int = 0,
    ) -> None:
        self.question.show_question(question, file_name, band)
        shown = (tuple(antennas), focus_id, frozenset(hidden))
        if shown == self._shown:
            return
        self._shown = shown
        had = QApplication.focusWidget()
        keep = had.objectName() if had is not None and self.isAncestorOf(had) else ""
        self.chips.clear()
        for antenna in antennas:
            chip = Chip(antenna, self.paper, antenna.id == focus_id, antenna.id in hidden)
            chip.clicked.connect(lambda _=False, i=antenna.id: self.focus_asked.emit(i))
            chip.hide_asked.connect(lambda i=antenna.id: self.hide_asked.emit(i))
            self.chips.add(chip)
            if chip.objectName() == keep:
                chip.setFocus()
        add = button("Antenna", self.add_asked.emit, name="plain")
        add.setIcon(icon("plus", self.paper.colour("soft"), round(14 * self.paper.scale)))
        add.setToolTip("Put an antenna on the shelf (A)")
        self.chips.add(add)
