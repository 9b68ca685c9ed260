"""Which antennas, alone or two together, cover what flies; and what bank, pitch and heading cost each."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.pattern.pairs import TURNINGS, Covered, PairsFinding, Turning
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet, spread

MOST = 9
"""Bars that anybody compares."""
FLOOR_DB = -30.0


@dataclass(kw_only=True)
class PairsPicture(Picture):
    """A bar from the worst hundredth over the worst tenth to the median; the farther right, the better."""

    pairs: PairsFinding
    least_height = 340

    @property
    def title(self) -> str:  # type: ignore[override]
        return "Over every attitude and bearing: worst tenth, dB; the longer the better"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, colour = sheet, sheet.paper.colour
        rows = sorted((*self.pairs.pairs, *self.pairs.alone), key=lambda c: -c.worst_tenth.value)[:MOST]
        names = max(s.width(c.name, 12.5, True) for c in rows) + s.px(46)
        low = max(min(c.worst_db for c in rows) - 1.0, FLOOR_DB - 10.0)
        high = max(max(c.median_db, c.worst_tenth.interval[1]) for c in rows) + 1.0
        x = Axis(low, high, rect.left() + min(names, rect.width() * 0.45), rect.right() - s.px(16))
        top, foot = rect.top() + s.px(8), rect.bottom() - s.px(36)
        step = (foot - top) / len(rows)
        for tick in x.ticks(6):
            s.line(x(tick), top, x(tick), foot, colour("hairline"))
            s.text(x(tick), foot + s.px(12), show.fixed(tick, 0), colour("soft"), 11, "middle", mono=True)
        reserve = -self.pairs.craft.reserve_db
        if low < reserve < high:
            s.line(x(reserve), top, x(reserve), foot, colour("fails"), 1.4, (5, 3))
            s.text(x(reserve), foot + s.px(24), "gone below", colour("fails"), 10.5, "middle")
        for k, one in enumerate(rows):
            self._row(s, one, x, top + (k + 0.5) * step, min(step * 0.36, s.px(11)), rect.left())

    def _row(self, s: Sheet, one: Covered, x: Axis, y: float, half: float, left: float) -> None:
        colour = s.paper.colour
        at = left + s.px(8)
        for antenna in one.antennas:
            s.glyph(at, y, antenna.slot, 8)
            at += s.px(13)
        pair = len(one.antennas) > 1
        s.text(at + s.px(4), y, s.fitted(one.name, x.start - at - s.px(10), 12.5, pair), colour("ink"), 12.5, bold=pair)
        ink = s.paper.antenna(one.antennas[0].slot, 0.85 if pair else 0.45)
        begin = max(one.worst_db, x.low)
        s.rect(
            QRectF(x(begin), y - half * 0.35, x(one.median_db) - x(begin), half * 0.7),
            s.paper.antenna(one.antennas[0].slot, 0.25),
        )
        tenth = max(one.worst_tenth.value, x.low)
        s.rect(QRectF(x.start, y - half, x(tenth) - x.start, 2 * half), s.paper.antenna(one.antennas[0].slot, 0.18))
        s.line(x(tenth), y - half, x(tenth), y + half, ink, 3)
        low, high = (min(max(v, x.low), x.high) for v in one.worst_tenth.interval)
        s.line(x(low), y, x(high), y, colour("ink"), 1.2)
        words = f"{one.name}: worst tenth {one.worst_tenth.text}, median {show.decibel(one.median_db)}"
        s.spot(QRectF(x.start, y - half, x.end - x.start, 2 * half), one.worst_tenth, words)


ENDS: dict[Turning, tuple[str, str, str]] = {
    "bank": ("bank, from behind", "90° left", "90° right"),
    "pitch": ("pitch, from its side", "90° nose down", "90° nose up"),
    "heading": ("heading, off straight away", "90° left", "90° right"),
}
"""By what is turned, its title and what its two ends are."""


@dataclass(kw_only=True)
class TurnedPicture(Picture):
    """Bank, pitch and heading of what flies, each alone: what every receiving antenna loses by it."""

    pairs: PairsFinding
    least_height = 320
    title = "What bank, pitch and heading cost each antenna, dB against its best"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, told = sheet, self.pairs
        low = max(min(float(level.min()) for level in told.turned_db.values()), FLOOR_DB)
        names = max(s.width(k.antenna.name, 12) for k in told.known) + s.px(26)
        left, gap = rect.left() + s.px(40), s.px(14)
        wide = (rect.right() - names - left - gap * (len(ENDS) - 1)) / len(ENDS)
        y = Axis(min(low, -6.0) - 1.0, 1.0, rect.bottom() - s.px(44), rect.top() + s.px(26))
        for tick in y.ticks(6):
            s.text(left - s.px(6), y(tick), show.fixed(tick, 0), s.paper.colour("soft"), 11, "right", mono=True)
        ends: list[tuple[float, int]] = []
        for number, way in enumerate(TURNINGS):
            x = Axis(-90.0, 90.0, left + number * (wide + gap), left + number * (wide + gap) + wide)
            ends = self._panel(s, way, x, y)
        ends.sort()
        heights = spread([end for end, _ in ends], s.px(16), y.end, y.start)
        for (_, number), top in zip(ends, heights, strict=True):
            antenna = told.known[number].antenna
            edge = rect.right() - names
            s.glyph(edge + s.px(10), top, antenna.slot, 7)
            s.text(edge + s.px(19), top, antenna.name, s.paper.antenna(antenna.slot), 12)

    def _panel(self, s: Sheet, way: Turning, x: Axis, y: Axis) -> list[tuple[float, int]]:
        """One of the three; where each line ends, and whose it is."""
        told, colour = self.pairs, s.paper.colour
        title, at_left, at_right = ENDS[way]
        s.text((x.start + x.end) / 2, y.end - s.px(14), title, colour("ink"), 11.5, "middle", bold=True)
        for tick in y.ticks(6):
            s.line(x.start, y(tick), x.end, y(tick), colour("hairline"))
        for tick in (-90, -45, 0, 45, 90):
            s.line(x(tick), y.start, x(tick), y.end, colour("hairline"))
            if abs(tick) < 90:  # at the ends the words below say it
                s.text(x(tick), y.start + s.px(12), f"{abs(tick)}°", colour("soft"), 10.5, "middle", mono=True)
        s.text(x.start, y.start + s.px(28), at_left, colour("soft"), 11)
        s.text(x.end, y.start + s.px(28), at_right, colour("soft"), 11, "right")
        at_30 = int(np.argmin(np.abs(told.turned_deg - 30.0)))
        ends = []
        for number, known in enumerate(told.known):
            level = np.maximum(told.turned_db[way][number], y.low)
            slot = known.antenna.slot
            xs, ys = ([axis(v) for v in values.tolist()] for axis, values in ((x, told.turned_deg), (y, level)))
            focus = known.antenna.id == self.focus_id
            s.path(xs, ys, s.paper.antenna(slot), 2.6 if focus else 1.7, s.dash(slot))
            loss = -float(told.turned_db[way][number, at_30])
            words = f"{known.antenna.name}: 30° of {way} cost {show.decibel(loss)}"
            s.spot(QRectF(xs[at_30] - 8, ys[at_30] - 8, 16, 16), None, words)
            ends.append((ys[-1], number))
        return ends
