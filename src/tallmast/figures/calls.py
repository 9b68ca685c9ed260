"""The grid of calls: places down, antennas and modes across, every attempt a mark."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF

from tallmast.findings.field.calls import Attempt, Calls
from tallmast.findings.field.model.noted import HEARD
from tallmast.notebook.records import Antenna
from tallmast.units import show
from tallmast.units.shown import SCALES

from .paper import Paper
from .picture import Picture
from .sheet import Sheet

ROW, HEAD = 26.0, 40.0
GRADES = {"readability": "are grades, 5 the best", "picture grade": "are grades of the picture, 5 the best"}
MOST_MARKS = 6
"""Attempts drawn in one cell; a count stands for the others."""
MOST_PLACES = 100
"""Rows of one picture: the nearest; the table of what was noted has the others."""


@dataclass(kw_only=True)
class CallsPicture(Picture):
    calls: Calls
    antennas: tuple[Antenna, ...] = ()

    @property
    def title(self) -> str:  # type: ignore[override]
        scale = self.calls.scale
        unit = SCALES[scale].unit
        numbers = GRADES.get(scale, unit if unit in ("as shown", "counts") else f"in {unit}")
        marks = "a square was heard" if scale == HEARD else f"numbers {numbers}"
        every = len(self.calls.places)
        which = "each place" if every <= MOST_PLACES else f"the nearest {MOST_PLACES} of {show.grouped(every)} places"
        return f"What was noted at {which}: {marks}, a ring was not heard"

    def height_for(self, width: float, paper: Paper) -> int:
        return round((HEAD + ROW * min(len(self.calls.places), MOST_PLACES) + 10) * paper.scale)

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, c, colour = sheet, self.calls, sheet.paper.colour
        slots = {a.id: a.slot for a in self.antennas}
        shown = [i for i, column in enumerate(c.columns) if column.tried[0] not in self.hidden]
        left = rect.left() + min(rect.width() * 0.34, s.px(190))
        wide = (rect.right() - left - s.px(6)) / max(len(shown), 1)
        top = rect.top() + s.px(HEAD)
        for k, i in enumerate(shown):
            column, x = c.columns[i], left + wide * k
            slot = slots.get(column.tried[0], 0)
            s.glyph(x + s.px(6), rect.top() + s.px(12), slot, 8)
            name = s.fitted(column.antenna, wide - s.px(20), 12)
            s.text(
                x + s.px(14),
                rect.top() + s.px(12),
                name,
                s.paper.antenna(slot),
                12,
                bold=column.tried[0] == self.focus_id,
            )
            if column.block:
                s.text(
                    x + s.px(14),
                    rect.top() + s.px(28),
                    s.fitted(column.block, wide - s.px(20), 10.5),
                    colour("soft"),
                    10.5,
                )
        for row, (place, distance) in enumerate(c.places[:MOST_PLACES]):
            y = top + s.px(ROW) * (row + 0.5)
            s.line(rect.left(), y - s.px(ROW / 2), rect.right(), y - s.px(ROW / 2), colour("hairline"))
            named = s.fitted(place.name, left - rect.left() - s.width(distance, 11) - s.px(26), 12.5)
            s.text(rect.left() + s.px(8), y, named, colour("ink"), 12.5)
            s.text(left - s.px(10), y, distance, colour("soft"), 11, "right")
            for k, i in enumerate(shown):
                attempts = c.cells.get((row, i), ())
                box = QRectF(left + wide * k, y - s.px(ROW / 2), wide, s.px(ROW))
                self._cell(s, box, attempts, f"{place.name}, {c.columns[i].antenna} {c.columns[i].block}".strip())

    def _cell(self, s: Sheet, box: QRectF, attempts: tuple[Attempt, ...], where: str) -> None:
        size, y = s.px(19), box.center().y()
        room = max(int((box.width() - s.px(16)) // (size + s.px(3))), 1)
        drawn = attempts[: min(MOST_MARKS, room)]
        for k, attempt in enumerate(drawn):
            self._mark(s, QRectF(box.left() + s.px(3) + k * (size + s.px(3)), y - size / 2, size, size), attempt)
        if len(attempts) > len(drawn):
            words = f"+{len(attempts) - len(drawn)}"
            s.text(box.left() + s.px(5) + len(drawn) * (size + s.px(3)), y, words, s.paper.colour("soft"), 10)
        if attempts:
            told = ", ".join(a.words for a in attempts)
            s.spot(box, attempts[-1].reading, f"{where}: {told}")

    def _mark(self, s: Sheet, box: QRectF, attempt: Attempt) -> None:
        colour, ramp = s.paper.colour, s.paper.palette.level_ramp
        if attempt.share == 0.0:
            s.p.setBrush(colour("sheet"))
            s.p.setPen(s.pen(colour("fails"), 1.6))
            s.p.drawEllipse(box.adjusted(3, 3, -3, -3))
            return
        share = 0.5 if attempt.share is None else attempt.share
        # By colour and by size, so that it is told without colour too.
        inset = box.width() * 0.16 * (1.0 - share)
        fill = colour("line") if attempt.share is None else colour(ramp[min(int(share * len(ramp)), len(ramp) - 1)])
        s.rect(box.adjusted(inset, inset, -inset, -inset), fill)
        ink = colour("sheet" if (fill.lightnessF() < 0.5) == (colour("sheet").lightnessF() > 0.5) else "ink")
        s.text(box.center().x(), box.center().y(), _short(attempt), ink, 11, "middle", bold=True)


def _short(attempt: Attempt) -> str:
    """What fits on a mark: the grade, or the number that the display showed."""
    reading = attempt.reading
    if reading.readability is not None:
        return str(reading.readability)
    return show.fixed(reading.shown, 0) if reading.shown is not None else ""
