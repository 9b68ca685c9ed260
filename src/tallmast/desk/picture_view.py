"""A widget that shows a picture, and lets its spots be picked by pointer or keys."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from tallmast.figures.paper import Paper
from tallmast.figures.picture import Picture
from tallmast.figures.sheet import Spot

MARGIN = 8


class PictureView(QWidget):
    """Shows one picture. Arrow keys step through its spots, Enter picks; a click picks the nearest."""

    picked = Signal(object)
    dragged = Signal(float)
    zoomed = Signal(float, float)
    """Factor, and the pixel that is to stay where it is."""
    panned = Signal(float)
    """By so many pixels."""
    released = Signal()
    """A hand has let go."""
    nudged = Signal(int)
    """Shift with ↑ (1) or ↓ (−1): what was picked is to go a little up or down."""
    lifted = Signal(int)
    """The same with Ctrl, for what else can be moved."""

    def __init__(self, paper: Paper, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.paper = paper
        self.picture: Picture | None = None
        self._current: int | None = None
        self._pan_from: float | None = None
        self.pointer = QPointF()
        """Where a drag is."""
        self._painted: QPixmap | None = None
        """The picture as painted at this size: a window uncovered or a rung climbed to again need not paint it anew."""
        self.setObjectName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_picture(self, picture: Picture) -> None:
        self.picture = picture
        self._painted = None
        self._current = None
        self.setAccessibleName(picture.title)
        self.setMinimumHeight(picture.height_for(self.width(), self.paper) + 2 * MARGIN)
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        height = self.picture.height_for(self.width(), self.paper) if self.picture else 200
        return QSize(600, height + 2 * MARGIN)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.picture is None:
            return
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._sheet(self.picture))
        spots = self.picture.spots
        if self._current is not None and self._current < len(spots) and self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            pen = painter.pen()
            pen.setColor(self.paper.colour("accent"))
            pen.setWidthF(2)
            pen.setStyle(Qt.PenStyle.SolidLine)
            painter.setPen(pen)
            painter.drawRoundedRect(spots[self._current].rect.adjusted(-3, -2, 3, 2), 3, 3)
        elif self.hasFocus():
            painter.setPen(self.paper.colour("accent"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        painter.end()

    def _sheet(self, picture: Picture) -> QPixmap:
        ratio = self.devicePixelRatioF()
        size = (QSizeF(self.size()) * ratio).toSize()
        if self._painted is None or self._painted.size() != size:
            self._painted = QPixmap(size)
            self._painted.setDevicePixelRatio(ratio)
            self._painted.fill(Qt.GlobalColor.transparent)
            brush = QPainter(self._painted)
            picture.paint(brush, QRectF(self.rect()).adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN), self.paper)
            brush.end()
            self.setAccessibleDescription(picture.words())
        return self._painted

    def _spot_at(self, x: float, y: float) -> Spot | None:
        if self.picture is None:
            return None
        hits = [s for s in self.picture.spots if s.rect.adjusted(-3, -3, 3, 3).contains(x, y)]
        return min(hits, key=lambda s: s.rect.width() * s.rect.height(), default=None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if event.button() == Qt.MouseButton.RightButton:
            self._pan_from = at.x()
            return
        spot = self._spot_at(at.x(), at.y())
        if spot is not None:
            self.picked.emit(spot.payload)
        else:
            self._drag(at.x(), at.y())

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier and steps:
            self.zoomed.emit(1.25**steps, event.position().x())
        else:
            event.ignore()  # the page scrolls

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if event.buttons() & Qt.MouseButton.RightButton:
            if self._pan_from is not None:
                self.panned.emit(at.x() - self._pan_from)
            self._pan_from = at.x()
            return
        self._pan_from = None
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._drag(at.x(), at.y())
            return
        spot = self._spot_at(at.x(), at.y())
        self.setCursor(Qt.CursorShape.PointingHandCursor if spot else Qt.CursorShape.ArrowCursor)
        if spot:
            QToolTip.showText(event.globalPosition().toPoint(), spot.label, self)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.released.emit()

    def repaint_picture(self) -> None:
        """Paint the same picture anew: something on it was picked."""
        self._painted = None
        self.update()

    def _drag(self, x: float, y: float) -> None:
        self.pointer = QPointF(x, y)
        value = self.picture.drag(x, y) if self.picture else None
        if value is not None:
            self.dragged.emit(value)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        spots = self.picture.spots if self.picture else []
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1}.get(
            Qt.Key(event.key())
        )
        if step and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                self.lifted.emit(-step)
        elif step and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                self.nudged.emit(-step)
                return
            self.panned.emit(-0.2 * step * self.width())
        elif spots and step:
            start = -1 if self._current is None and step > 0 else self._current or 0
            self._current = (start + step) % len(spots)
            self.picked.emit(spots[self._current].payload)
            self.update()
        elif spots and self._current is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.picked.emit(spots[self._current].payload)
        else:
            super().keyPressEvent(event)
