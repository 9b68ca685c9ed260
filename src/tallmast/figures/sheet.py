"""A sheet to draw on: QPainter with the words that pictures use, and the spots that can be picked."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFontMetricsF, QPainter, QPainterPath, QPen, QPolygonF
from shiboken6 import VoidPtr

from tallmast.frozen import Frozen
from tallmast.units import show

from .paper import Glyph, Paper, dash, glyph

ROUND_FROM = 3.0
"""Size of a dot."""


class Spot(Frozen):
    """A place on the picture that stands for something: a figure, a run, a place."""

    rect: QRectF
    payload: Any
    label: str
    """What a screen reader says of it."""


class Axis(Frozen):
    """Values to pixels along one direction, linear or by a function."""

    low: float
    high: float
    start: float
    end: float
    log: bool = False

    def __call__(self, value: float) -> float:
        return float(self.many(np.array([value]))[0])

    def many(self, values: ArrayLike) -> NDArray[np.float64]:
        v = np.asarray(values, dtype=float)
        low, high = (math.log10(self.low), math.log10(self.high)) if self.log else (self.low, self.high)
        if self.log:
            v = np.log10(np.maximum(v, 1e-12))
        return np.asarray(self.start + (v - low) / (high - low) * (self.end - self.start))

    def back(self, pixel: float) -> float:
        """The value at a pixel."""
        share = (pixel - self.start) / (self.end - self.start)
        if self.log:
            return float(10 ** (math.log10(self.low) + share * (math.log10(self.high) - math.log10(self.low))))
        return self.low + share * (self.high - self.low)

    def ticks(self, about: int = 6) -> list[float]:
        """Round values inside the axis; none on an axis of no length."""
        if not self.high > self.low:
            return []
        if self.log:
            out = []
            for decade in range(math.floor(math.log10(self.low)), math.ceil(math.log10(self.high)) + 1):
                out += [k * 10.0**decade for k in (1, 2, 5)]
            return [v for v in out if self.low * 0.999 <= v <= self.high * 1.001]
        span = (self.high - self.low) / max(about, 1)
        size = 10 ** math.floor(math.log10(span))
        step = next(k * size for k in (1, 2, 5, 10) if k * size >= span)
        first = math.ceil(self.low / step - 1e-9)
        return [k * step for k in range(first, math.floor(self.high / step + 1e-9) + 1)]


class Sheet:
    """Wraps a painter for one picture; collects spots."""

    def __init__(self, painter: QPainter, paper: Paper) -> None:
        self.p, self.paper = painter, paper
        self.spots: list[Spot] = []
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.TextAntialiasing)

    def px(self, size: float) -> float:
        """Pixels at this paper's scale."""
        return size * self.paper.scale

    def pen(self, colour: QColor, width: float = 1.0, pattern: Sequence[float] = ()) -> QPen:
        pen = QPen(colour, self.px(width) * (self.paper.heavy if width > 1 else 1))
        pen.setCapStyle(Qt.PenCapStyle.FlatCap if pattern else Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        if pattern:
            pen.setDashPattern([v * 1.0 for v in pattern])
        return pen

    def line(
        self,
        x1: float,
        y1: float,
        x2: float,
        y2: float,
        colour: QColor,
        width: float = 1.0,
        pattern: Sequence[float] = (),
    ) -> None:
        self.p.setPen(self.pen(colour, width, pattern))
        self.p.drawLine(QPointF(x1, y1), QPointF(x2, y2))

    def rect(
        self,
        rect: QRectF,
        fill: QColor | None = None,
        edge: QColor | None = None,
        width: float = 1.0,
        radius: float = 0.0,
    ) -> None:
        self.p.setBrush(QBrush(fill) if fill is not None else Qt.BrushStyle.NoBrush)
        self.p.setPen(self.pen(edge, width) if edge is not None else Qt.PenStyle.NoPen)
        if radius:
            self.p.drawRoundedRect(rect, radius, radius)
        else:
            self.p.drawRect(rect)

    def width(self, text: str, size: float = 12.0, bold: bool = False, mono: bool = False) -> float:
        return QFontMetricsF(self.paper.font(size, bold, mono)).horizontalAdvance(text)

    def fitted(self, text: str, room: float, size: float = 12.0, bold: bool = False) -> str:
        """A text cut where it would leave its room."""
        shown = text
        while len(shown) > 4 and self.width(shown, size, bold) > room:
            shown = shown[:-2].rstrip() + "…"
        return shown

    def text(
        self,
        x: float,
        y: float,
        text: str,
        colour: QColor,
        size: float = 12.0,
        align: str = "left",
        bold: bool = False,
        mono: bool = False,
        halo: bool = False,
    ) -> QRectF:
        """Text whose middle is at height y; `align` says which end x is. Returns where it stands."""
        font = self.paper.font(size, bold, mono)
        metrics = QFontMetricsF(font)
        wide = metrics.horizontalAdvance(text)
        left = x - (wide if align == "right" else wide / 2 if align == "middle" else 0)
        base = y + (metrics.ascent() - metrics.descent()) / 2
        box = QRectF(left, y - metrics.height() / 2, wide, metrics.height())
        if halo and text:
            self.rect(box.adjusted(-2, 0, 2, 0), self.paper.colour("sheet", 0.85))
        self.p.setFont(font)
        self.p.setPen(colour)
        self.p.drawText(QPointF(left, base), text)
        return box

    def beside(self, x: float, y: float, inside: QRectF, text: str, colour: QColor, size: float, bold: bool) -> None:
        """What a mark is called: on its right, on its left, or above it, wherever it is not cut off."""
        wide, gap = self.width(text, size, bold), self.px(11)
        if x + gap + wide <= inside.right():
            self.text(x + gap, y, text, colour, size, bold=bold, halo=True)
        elif x - gap - wide >= inside.left():
            self.text(x - gap, y, text, colour, size, "right", bold=bold, halo=True)
        else:
            middle = min(max(x, inside.left() + wide / 2), inside.right() - wide / 2)
            self.text(middle, y - self.px(15), text, colour, size, "middle", bold=bold, halo=True)

    def path(
        self, xs: ArrayLike, ys: ArrayLike, colour: QColor, width: float = 1.6, pattern: Sequence[float] = ()
    ) -> None:
        """A polyline; breaks at NaN. Of many points in one column of pixels only the least and greatest are drawn."""
        x, y = thinned(np.asarray(xs, dtype=float), np.asarray(ys, dtype=float))
        pen = self.pen(colour, width, pattern)
        if len(x) > 60:
            # Rounding a thousand corners costs Qt five times the line; between near points nobody sees them.
            pen.setJoinStyle(Qt.PenJoinStyle.BevelJoin)
        self.p.setPen(pen)
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        good = np.isfinite(x) & np.isfinite(y)
        edges = np.flatnonzero(np.diff(np.concatenate(([0], good.astype(int), [0]))))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            # Short pieces are filled much quicker than one long outline; dashes must run through, and where pieces of
            # a thin ink meet they would show.
            whole = bool(pattern) or colour.alpha() < 255 or b - a <= 200
            piece = b - a if whole else 24
            for start in range(a, max(b - 1, a + 1), piece):
                end = min(start + piece + 1, b)
                self.p.drawPolyline(polygon(x[start:end], y[start:end]))

    def between(self, xs: ArrayLike, low: ArrayLike, high: ArrayLike, fill: QColor) -> None:
        """The area between two curves."""
        x, a, b = np.asarray(xs, dtype=float), np.asarray(low, dtype=float), np.asarray(high, dtype=float)
        starts = columns(x)
        if starts is not None:
            x, a, b = x[starts], np.maximum.reduceat(a, starts), np.minimum.reduceat(b, starts)
        self.p.setPen(Qt.PenStyle.NoPen)
        self.p.setBrush(fill)
        self.p.drawPolygon(polygon(np.concatenate((x, x[::-1])), np.concatenate((a, b[::-1]))))

    def glyph(self, x: float, y: float, slot: int, size: float = 9.0, colour: QColor | None = None) -> None:
        """An antenna's mark, centred."""
        draw_glyph(self.p, x, y, glyph(slot), self.px(size), colour or self.paper.antenna(slot))

    def dots(self, xs: ArrayLike, ys: ArrayLike, colour: QColor, size: float = 3.0) -> None:
        """Many small dots; thinned beyond what can be told apart."""
        x, y = np.asarray(xs, dtype=float), np.asarray(ys, dtype=float)
        if len(x) > 1200:
            step = -(-len(x) // 1200)
            x, y = x[::step], y[::step]
        pen = self.pen(colour, size)
        if size >= ROUND_FROM:  # smaller ones look the same square, in half the time
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        self.p.setPen(pen)
        self.p.drawPoints(polygon(x, y))

    def ring(
        self, x: float, y: float, radius: float, colour: QColor, width: float, pattern: Sequence[float] = ()
    ) -> None:
        """A circle that is not filled."""
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        self.p.setPen(self.pen(colour, width, pattern))
        self.p.drawEllipse(QPointF(x, y), radius, radius)

    def level_over_distance(self, x: Axis, y: Axis) -> None:
        """The grid of every picture that shows levels in dBm against distance on a log scale."""
        ink, bottom = self.paper.colour("soft"), y.start
        for tick in y.ticks(6):
            self.line(x.start, y(tick), x.end, y(tick), self.paper.colour("hairline"))
            self.text(x.start - self.px(6), y(tick), show.fixed(tick, 0), ink, 11, "right", mono=True)
        last = -1e9
        for tick in x.ticks():
            if x(tick) - last > self.px(50):
                words = show.distance(tick)
                self.text(x(tick), bottom + self.px(12), words, ink, 11, "middle", mono=True)
                last = x(tick)
        self.text(x.start + self.px(4), y.end - self.px(8), "dBm received", ink, 11)

    def height_over_distance(self, x: Axis, y: Axis, words: str) -> None:
        """The scales of every picture from the side: metres up, distance along the ground."""
        soft = self.paper.colour("soft")
        for tick in y.ticks(5):
            self.line(x.start, y(tick), x.start - self.px(4), y(tick), self.paper.colour("line"))
            self.text(x.start - self.px(7), y(tick), show.fixed(tick, 0), soft, 10.5, "right", mono=True)
        for tick in x.ticks(6):
            if tick > 0:
                self.text(x(tick), y.start + self.px(12), show.distance(tick), soft, 10.5, "middle", mono=True)
        self.text(x.start + self.px(4), y.start - self.px(9), words, soft, 10.5)

    def spot(self, rect: QRectF, payload: Any, label: str) -> None:
        self.spots.append(Spot(rect, payload, label))

    def dash(self, slot: int) -> tuple[float, ...]:
        return dash(slot)

    def clip(self, rect: QRectF) -> None:
        self.p.save()
        self.p.setClipRect(rect, Qt.ClipOperation.IntersectClip)

    def unclip(self) -> None:
        self.p.restore()


def polygon(x: NDArray[np.float64], y: NDArray[np.float64]) -> QPolygonF:
    """Points for Qt, written into its own memory: a hundred times quicker than one object a point."""
    out = QPolygonF()
    if len(x):
        out.resize(len(x))
        # A QPointF is two doubles (Qt 6 on every desktop); the view ends with this function.
        memory: Any = VoidPtr(out.data(), 16 * len(x), True)  # type: ignore[call-arg, arg-type]
        into = np.frombuffer(memory, dtype=np.float64).reshape(-1, 2)
        into[:, 0], into[:, 1] = x, y
    return out


def columns(x: NDArray[np.float64]) -> NDArray[np.intp] | None:
    """Where each column of pixels begins in a long curve, x ascending; None where thinning would not pay."""
    if len(x) < 2500:
        return None
    steps = np.diff(np.floor(x))
    if (steps < 0).any():
        return None
    starts = np.flatnonzero(np.concatenate(([True], steps > 0)))
    return starts if len(x) >= 3 * len(starts) else None


def thinned(x: NDArray[np.float64], y: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """A long curve, x ascending in pixels, by the least and greatest of each column of pixels: no peak is lost.

    Curves of up to two points a column, and those that go back and forth, stay as they are.
    """
    starts = columns(x)
    if starts is None or not np.isfinite(y).all():
        return x, y
    low, high = np.minimum.reduceat(y, starts), np.maximum.reduceat(y, starts)
    return np.repeat(x[starts], 2), np.stack((low, high), axis=1).ravel()


def draw_glyph(p: QPainter, x: float, y: float, which: Glyph, size: float, colour: QColor) -> None:
    """The marks by which antennas are told apart without colour."""
    r = size / 2
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour)
    shapes: dict[str, list[tuple[float, float]]] = {
        "triangle": [(0, -1.05), (1.0, 0.85), (-1.0, 0.85)],
        "diamond": [(0, -1.15), (1.0, 0), (0, 1.15), (-1.0, 0)],
        "square": [(-0.88, -0.88), (0.88, -0.88), (0.88, 0.88), (-0.88, 0.88)],
        "bar": [(-0.4, -1.05), (0.4, -1.05), (0.4, 1.05), (-0.4, 1.05)],
        "wedge": [(-0.95, -0.95), (1.05, 0), (-0.95, 0.95)],
        "cross": [
            (-0.35, -1),
            (0.35, -1),
            (0.35, -0.35),
            (1, -0.35),
            (1, 0.35),
            (0.35, 0.35),
            (0.35, 1),
            (-0.35, 1),
            (-0.35, 0.35),
            (-1, 0.35),
            (-1, -0.35),
            (-0.35, -0.35),
        ],
    }
    if which == "disc":
        p.drawEllipse(QPointF(x, y), r, r)
    elif which == "ring":
        path = QPainterPath()
        path.addEllipse(QPointF(x, y), r, r)
        path.addEllipse(QPointF(x, y), r * 0.5, r * 0.5)
        p.drawPath(path)
    else:
        p.drawPolygon(QPolygonF([QPointF(x + a * r, y + b * r) for a, b in shapes[which]]))


def spread(wanted: Sequence[float], gap: float, low: float, high: float) -> list[float]:
    """Heights near the wanted ones, in the same order, at least `gap` apart, inside low…high where they fit."""
    order = sorted(range(len(wanted)), key=lambda i: wanted[i])
    placed = [wanted[i] for i in order]
    for i in range(1, len(placed)):
        placed[i] = max(placed[i], placed[i - 1] + gap)
    if placed and placed[-1] > high:
        placed[-1] = high
        for i in range(len(placed) - 2, -1, -1):
            placed[i] = min(placed[i], placed[i + 1] - gap)
    if placed and placed[0] < low:
        placed[0] = low
        for i in range(1, len(placed)):
            placed[i] = max(placed[i], placed[i - 1] + gap)
    out = [0.0] * len(wanted)
    for i, value in zip(order, placed, strict=True):
        out[i] = value
    return out
