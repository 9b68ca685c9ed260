"""The mast: seven rungs climbed from the ground up, each saying how far its evidence has come."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QAbstractButton, QVBoxLayout, QWidget

from tallmast.figures.paper import Paper
from tallmast.figures.sheet import Sheet
from tallmast.findings.climb import RUNGS
from tallmast.findings.figure import Standing

NAMES = {rung: rung.capitalize() for rung in RUNGS}
WIDTH = 172
POLE = 32


class Rung(QAbstractButton):
    """One rung: number, name, and its standing as a shape and words."""

    def __init__(self, number: int, rung: str, paper: Paper) -> None:
        super().__init__()
        self.number, self.rung, self.paper = number, rung, paper
        self.standing = Standing("nothing", "")
        self.setCheckable(True)
        self.setObjectName(f"rung-{rung}")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.set_standing(self.standing)

    def set_standing(self, standing: Standing) -> None:
        name = f"Rung {self.number}, {NAMES[self.rung]}: {standing.words}"
        if (standing.mark, name) != (self.standing.mark, self.accessibleName()):
            self.standing = standing
            self.setAccessibleName(name)
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(round(WIDTH * self.paper.scale), round(58 * self.paper.scale))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        s = Sheet(painter, self.paper)
        c = self.paper.colour
        w, mid = float(self.width()), self.height() / 2
        here = self.isChecked()
        if here:
            s.rect(QRectF(0, mid - s.px(28), w, s.px(56)), c("sheet"))
            s.rect(QRectF(0, mid - s.px(28), s.px(4), s.px(56)), c("accent"))
        pole = s.px(POLE)
        s.line(pole, 0, pole, self.height(), c("line"), 5)
        s.line(pole - s.px(9), mid, pole + s.px(20), mid, c("ink" if here else "line"), 4 if here else 3.4)
        s.text(s.px(13), mid, str(self.number), c("ink" if here else "soft"), 12, "middle", mono=True)
        x = pole + s.px(27)
        s.text(x, mid - s.px(9), NAMES[self.rung], c("ink"), 14, bold=True)
        self._mark(s, x + s.px(4), mid + s.px(9))
        s.text(x + s.px(13), mid + s.px(9), self.standing.words, c("soft"), 10.5)
        if self.hasFocus():
            s.rect(QRectF(2, mid - s.px(26), w - 4, s.px(52)), None, c("accent"), 1.6, 3)
        painter.end()

    def _mark(self, s: Sheet, x: float, y: float) -> None:
        """Nothing: a ring. Some: half a disc. Done: a disc. Disagreement: a triangle on its point."""
        c, r = self.paper.colour, s.px(4)
        p = s.p
        if self.standing.mark == "nothing":
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(s.pen(c("soft"), 1.2))
            p.drawEllipse(QPointF(x, y), r * 0.85, r * 0.85)
        elif self.standing.mark == "some":
            p.setPen(s.pen(c("doubt"), 1.2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawEllipse(QPointF(x, y), r * 0.9, r * 0.9)
            p.setBrush(c("doubt"))
            p.drawPie(QRectF(x - r * 0.9, y - r * 0.9, 1.8 * r, 1.8 * r), 90 * 16, 180 * 16)
        elif self.standing.mark == "done":
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(c("holds"))
            p.drawEllipse(QPointF(x, y), r, r)
        else:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(c("fails"))
            p.drawPolygon(QPolygonF([QPointF(x - r, y - r * 0.9), QPointF(x + r, y - r * 0.9), QPointF(x, y + r)]))


class Mast(QWidget):
    """Rungs 7 to 1 from the top, and the lamp, lit when there is a verdict."""

    climbed = Signal(str)

    def __init__(self, paper: Paper) -> None:
        super().__init__()
        self.setObjectName("mast")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("The mast: seven rungs")
        self.paper = paper
        self.lamp = False
        box = QVBoxLayout(self)
        box.setContentsMargins(0, round(58 * paper.scale), 0, round(26 * paper.scale))
        box.setSpacing(0)
        self.rungs: dict[str, Rung] = {}
        for number, rung in reversed(list(enumerate(RUNGS, 1))):
            button = Rung(number, rung, paper)
            button.clicked.connect(lambda _=False, rung=rung: self.climbed.emit(rung))
            self.rungs[rung] = button
            box.addWidget(button, 1)
        self.setFixedWidth(round(WIDTH * paper.scale))

    def show_standings(self, standings: Mapping[str, Standing], lamp: bool) -> None:
        for rung, standing in standings.items():
            self.rungs[rung].set_standing(standing)
        if lamp != self.lamp:
            self.lamp = lamp
            self.update()

    def stand_on(self, rung: str) -> None:
        for name, button in self.rungs.items():
            button.setChecked(name == rung)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        s = Sheet(painter, self.paper)
        c = self.paper.colour
        pole, top, foot = s.px(POLE), s.px(34), self.height() - s.px(18)
        s.line(pole, top, s.px(2), self.height() * 0.62, c("line", 0.45), 1)
        s.line(pole, top, self.width() - s.px(2), self.height() * 0.97, c("line", 0.45), 1)
        s.line(pole, top, pole, foot, c("line"), 5)
        s.line(pole - s.px(16), foot, pole + s.px(18), foot, c("line"), 7)
        painter.setPen(s.pen(c("line"), 2))
        painter.setBrush(c("sheet"))
        painter.drawEllipse(QPointF(pole, top - s.px(4)), s.px(9), s.px(9))
        if self.lamp:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(c("accent"))
            painter.drawEllipse(QPointF(pole, top - s.px(4)), s.px(5.5), s.px(5.5))
        painter.end()
