"""What a rung will show once it is fed: its picture in faint ink, of nothing that was measured."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt

from tallmast.physics.decibels import Floats

from .picture import Picture
from .sheet import Sheet


@cache
def _scatter() -> Floats:
    """The same in every ghost; drawn when the first is painted, for a start does without."""
    return np.random.default_rng(5).normal(0.0, 1.0, 60)


@dataclass(kw_only=True)
class GhostPicture(Picture):
    """The ghost of a rung's picture."""

    rung: str
    least_height = 260

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        room = rect.adjusted(sheet.px(30), sheet.px(16), -sheet.px(30), -sheet.px(26))
        GHOSTS[self.rung](_Ghost(sheet, room))

    def words(self) -> str:
        return "An empty picture: nothing has been noted yet"


class _Ghost:
    """Draws in shares of a rectangle, from its lower left corner."""

    def __init__(self, sheet: Sheet, room: QRectF) -> None:
        self.s, self.room = sheet, room
        colour = sheet.paper.colour
        self.ink, self.faint, self.wash = colour("line", 0.9), colour("hairline"), colour("band", 0.5)

    def x(self, share: float) -> float:
        return self.room.left() + share * self.room.width()

    def y(self, share: float) -> float:
        return self.room.bottom() - share * self.room.height()

    def line(self, x1: float, y1: float, x2: float, y2: float, dashed: bool = False) -> None:
        self.s.line(
            self.x(x1),
            self.y(y1),
            self.x(x2),
            self.y(y2),
            self.ink if dashed else self.faint,
            1.2,
            (5, 3) if dashed else (),
        )

    def curve(self, xs: np.ndarray, ys: np.ndarray, width: float = 2.0, pattern: tuple[float, ...] = ()) -> None:
        self.s.path(
            self.room.left() + xs * self.room.width(),
            self.room.bottom() - ys * self.room.height(),
            self.ink,
            width,
            pattern,
        )

    def box(self, x1: float, y1: float, x2: float, y2: float) -> None:
        self.s.rect(QRectF(self.x(x1), self.y(y2), self.x(x2) - self.x(x1), self.y(y1) - self.y(y2)), self.wash)

    def say(self, x: float, y: float, words: str, align: str = "left") -> None:
        self.s.text(self.x(x), self.y(y), words, self.s.paper.colour("soft"), 11.5, align)

    def circle(self, x: float, y: float, radius: float) -> None:
        self.s.p.setBrush(Qt.BrushStyle.NoBrush)
        self.s.p.setPen(self.s.pen(self.ink, 1.2))
        self.s.p.drawEllipse(QPointF(self.x(x), self.y(y)), radius, radius)


def _shelf(g: _Ghost) -> None:
    for row, (length, most, claim) in enumerate(((0.26, 0.34, 0.0), (0.34, 0.12, 0.16), (0.2, 0.24, 0.2))):
        y = 0.82 - 0.32 * row
        g.line(0.0, y - 0.16, 1.0, y - 0.16)
        g.curve(np.array([0.08, 0.08 + length]), np.array([y, y]), 3.0)
        for k in range(5 if row == 0 else 0):
            g.curve(np.full(2, 0.08 + length * k / 4), np.array([y - 0.07, y + 0.07]))
        g.box(0.56, y - 0.03, 0.56 + most, y + 0.03)
        if claim:
            g.circle(0.56 + claim, y, g.s.px(6))
    g.say(0.56, 1.0, "what its size allows, and the claim")
    g.say(0.08, 1.0, "each antenna, to scale")


def _bench(g: _Ghost) -> None:
    f = np.linspace(0, 1, 120)
    g.box(0.46, 0.0, 0.54, 1.0)
    for y in (0.0, 0.25, 0.5, 0.75, 1.0):
        g.line(0.0, y, 1.0, y)
    g.line(0.0, 0.3, 1.0, 0.3, dashed=True)
    g.curve(f, 0.07 + 0.9 * np.abs(f - 0.47) / (0.12 + np.abs(f - 0.47)))
    g.say(0.0, 1.06, "SWR")
    g.say(1.0, 0.34, "limit", "right")
    g.say(0.5, -0.07, "your band", "middle")


def _levels(g: _Ghost) -> None:
    steps = ((0.62, "transmitter"), (0.52, "cable"), (0.3, "pads"), (0.5, "antenna"), (0.12, "path"), (0.24, "far end"))
    for k, (level, words) in enumerate(steps):
        left, right = k / 6 + 0.01, (k + 1) / 6 - 0.01
        g.curve(np.array([left, right]), np.array([level, level]), 3.0)
        if k:
            g.curve(np.full(2, left), np.array([steps[k - 1][0], level]), 1.2)
        g.say((left + right) / 2, -0.06, words, "middle")
    g.line(0.0, 0.08, 1.0, 0.08, dashed=True)
    g.say(0.0, 1.0, "dBm, from the transmitter to the far end")
    g.say(0.0, 0.12, "weakest signal it takes")


def _pattern(g: _Ghost) -> None:
    radius = 0.48 * g.room.height()
    for share in (1.0, 2 / 3, 1 / 3):
        g.circle(0.5, 0.5, radius * share)
    t = np.linspace(0, 2 * np.pi, 200)
    lobe = np.abs(0.85 * np.cos(t / 2) ** 8 + 0.15 * np.cos(2 * t))
    wide, tall = radius / g.room.width(), radius / g.room.height()
    g.curve(0.5 + lobe * np.sin(t) * wide, 0.5 + lobe * np.cos(t) * tall)
    g.say(0.5, -0.05, "how strong, in which direction", "middle")


def _field(g: _Ghost) -> None:
    d = np.linspace(0.05, 0.95, 60)
    for y in (0.2, 0.4, 0.6, 0.8):
        g.line(0.0, y, 1.0, y)
    for drop, pattern in ((0.0, ()), (0.14, (5.0, 3.0))):
        level = 0.95 - 0.75 * d - drop
        g.s.dots(
            g.room.left() + d * g.room.width(),
            g.room.bottom() - (level + 0.05 * _scatter()) * g.room.height(),
            g.ink,
            3,
        )
        g.curve(d, level, 1.6, pattern)
    g.line(0.0, 0.1, 1.0, 0.1, dashed=True)
    g.say(0.0, 1.04, "what was heard")
    g.say(1.0, -0.06, "distance", "right")
    g.say(0.0, 0.14, "as weak as it can be heard")


def _link(g: _Ghost) -> None:
    d = np.linspace(0.02, 1.0, 60)
    level = 0.98 - 0.3 * np.log10(d * 50)
    x, y = g.room.left() + d * g.room.width(), g.room.bottom() - level * g.room.height()
    g.s.between(x, y - g.s.px(16), y + g.s.px(16), g.wash)
    g.curve(d, level)
    g.line(0.0, 0.32, 1.0, 0.32, dashed=True)
    g.line(0.8, 0.32, 0.8, 0.49)
    g.say(0.81, 0.41, "margin")
    g.say(0.0, 0.36, "weakest signal the far end takes")
    g.say(1.0, -0.06, "distance", "right")


def _verdict(g: _Ghost) -> None:
    for y in (0.9, 0.6, 0.3):
        g.line(0.0, y - 0.14, 1.0, y - 0.14)
    for y, middle, half in ((0.9, 0.72, 0.1), (0.6, 0.52, 0.14), (0.3, 0.3, 0.08)):
        g.curve(np.array([middle - half, middle + half]), np.array([y, y]))
        g.circle(middle, y, g.s.px(6))
        g.say(middle + half + 0.02, y, "±")
    g.say(0.0, -0.04, "gain, by every way it was found, antenna by antenna")


GHOSTS: dict[str, Callable[[_Ghost], None]] = {
    "shelf": _shelf,
    "bench": _bench,
    "levels": _levels,
    "pattern": _pattern,
    "field": _field,
    "link": _link,
    "verdict": _verdict,
}
