"""The live curve: a still frame kept as pixels, and the newest sweep painted over it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from tallmast.figures.live import LiveFrame
from tallmast.figures.paper import Paper
from tallmast.figures.sheet import Sheet
from tallmast.procedures.analyzer import Analyzer


class LiveView(QWidget):
    """Paints what the analyzer reads, at the rate at which it is told to."""

    def __init__(self, analyzer: Analyzer, paper: Paper, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.analyzer, self.paper = analyzer, paper
        self.setObjectName("livePicture")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(round(230 * paper.scale))
        self.frame: LiveFrame | None = None
        self.painted = 0
        """How often a sweep was painted, for the benchmark and the tests."""
        self._still: QPixmap | None = None

    def sizeHint(self) -> QSize:
        return QSize(600, round(250 * self.paper.scale))

    def show_frame(self, frame: LiveFrame) -> None:
        if frame != self.frame:
            self.frame, self._still = frame, None
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        frame = self.frame
        if frame is None:
            return
        rect = QRectF(self.rect()).adjusted(4, 2, -4, -2)
        size = (QSizeF(self.size()) * self.devicePixelRatioF()).toSize()
        if self._still is None or self._still.size() != size:
            self._still = QPixmap(size)
            self._still.setDevicePixelRatio(self.devicePixelRatioF())
            self._still.fill(Qt.GlobalColor.transparent)
            brush = QPainter(self._still)
            frame.draw(Sheet(brush, self.paper), rect)
            brush.end()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._still)
        reading = self.analyzer.reading
        if reading is not None:
            frame.trace(Sheet(painter, self.paper), rect, reading, self.analyzer.kept, self.analyzer.held)
            self.painted += 1
        painter.end()
        self.setAccessibleName(frame.words(reading))
