"""The Field's first picture: every contrast on one axis, with its ±, block by block, and what is alike."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor

from tallmast.findings.field.decision import Decision, Line
from tallmast.notebook.records import Antenna
from tallmast.units import show

from .paper import Paper
from .picture import Picture
from .sheet import Axis, Sheet

ROW, BLOCK = 34.0, 12.0
FARTHEST_DB = 25.0
"""What is drawn at most: an interval that goes on is cut there with an arrow's end."""


@dataclass(kw_only=True)
class DecisionPicture(Picture):
    decision: Decision
    antennas: tuple[Antenna, ...] = ()

    @property
    def title(self) -> str:  # type: ignore[override]
        left = self.decision.left
        return self.decision.title + (f"; {left} more in the table" if left else "")

    def _heights(self) -> list[float]:
        return [ROW + BLOCK * len(line.parts) for line in self.decision.lines]

    def height_for(self, width: float, paper: Paper) -> int:
        return round((38 + sum(self._heights())) * paper.scale)

    def _axis(self, start: float, end: float) -> Axis:
        d = self.decision
        edges = [e for line in d.lines for e in (*line.figure.interval, line.figure.value)]
        edges += [e for line in d.lines for _, f in line.parts for e in f.interval]
        low, high = min([*edges, -d.alike_db]), max([*edges, d.alike_db])
        return Axis(max(low, -FARTHEST_DB) - 0.5, min(high, FARTHEST_DB) + 0.5, start, end)

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, d, colour = sheet, self.decision, sheet.paper.colour
        start = rect.left() + max(rect.width() * 0.32, s.px(150))
        end = rect.right() - s.px(190)
        axis = self._axis(start, end)
        top, bottom = rect.top() + s.px(4), rect.top() + s.px(4 + sum(self._heights()))
        alike = axis(d.alike_db) - axis(-d.alike_db)
        s.rect(QRectF(axis(-d.alike_db), top, alike, bottom - top), colour("open_wash"))
        for tick in axis.ticks(6):
            s.line(axis(tick), top, axis(tick), bottom, colour("hairline"))
            words = show.fixed(tick, 0 if tick == round(tick) else 1)
            s.text(axis(tick), bottom + s.px(12), words, colour("soft"), 11, "middle", mono=True)
        s.line(axis(0.0), top, axis(0.0), bottom, colour("ink"), 1.4)
        under = bottom + s.px(26)  # below the figures: on a narrow window it would lie over the next of them
        s.text(axis(d.alike_db) + s.px(4), under, "half the power", colour("soft"), 10.5)
        y = top
        for line, height in zip(d.lines, self._heights(), strict=True):
            self._line(s, rect, axis, line, y)
            y += s.px(height)
            s.line(rect.left(), y, rect.right(), y, colour("hairline"))

    def _line(self, s: Sheet, rect: QRectF, axis: Axis, line: Line, top: float) -> None:
        colour = s.paper.colour
        slot = next((a.slot for a in self.antennas if a.id == line.antenna_id), None)
        ink = colour("ink") if slot is None else s.paper.antenna(slot)
        x, room = rect.left() + s.px(8), axis.start - rect.left() - s.px(30)
        if slot is not None:
            s.glyph(x, top + s.px(11), slot, 8)
        told = not line.contrast.open
        better, other = s.fitted(line.better, room, 12.5, told), s.fitted(f"over {line.other}", room, 11)
        s.text(x + s.px(10), top + s.px(11), better, colour("ink"), 12.5, bold=told)
        s.text(x + s.px(10), top + s.px(25), other, colour("soft"), 11)
        at = top + s.px(ROW / 2)
        self._bar(s, axis, line.figure.interval, line.figure.value, at, ink, 2.4, 8.0, slot)
        words = line.figure.text
        s.text(axis.end + s.px(10), at - s.px(6), words, colour("ink"), 11.5, mono=True)
        s.text(axis.end + s.px(10), at + s.px(8), line.remark, colour("soft"), 10.5)
        s.spot(
            QRectF(rect.left(), top, rect.width(), s.px(ROW)),
            line.figure,
            f"{line.better} over {line.other}: {words}{', ' + line.remark if line.remark else ''}",
        )
        for k, (block, figure) in enumerate(line.parts):
            y = top + s.px(ROW - 4 + BLOCK * (k + 0.5))
            s.text(axis.start - s.px(8), y, block or "not noted", colour("soft"), 10, "right")
            self._bar(s, axis, figure.interval, figure.value, y, colour("soft"), 1.2, 4.5, None)

    def _bar(
        self,
        s: Sheet,
        axis: Axis,
        interval: tuple[float, float],
        value: float,
        y: float,
        ink: QColor,
        thick: float,
        size: float,
        slot: int | None,
    ) -> None:
        low, high = (float(np.clip(edge, axis.low, axis.high)) for edge in interval)
        s.line(axis(low), y, axis(high), y, ink, thick)
        for edge, shown in zip(interval, (low, high), strict=True):
            half = s.px(2) if shown != edge else s.px(4)
            s.line(axis(shown), y - half, axis(shown), y + half, ink, thick)
        middle = axis(float(np.clip(value, axis.low, axis.high)))
        if slot is None:
            s.dots([middle], [y], ink, size * 0.7)
        else:
            s.glyph(middle, y, slot, size)
