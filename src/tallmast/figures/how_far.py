"""How far with each thing that is tried: one bar a combination over distance, the places as lines across them."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF

from tallmast.findings.link.how_far import FarRow, HowFar, doubling_words
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet

MOST_BARS = 10


@dataclass(kw_only=True)
class HowFarPicture(Picture):
    """A bar reaches as far as the range's interval, its dot stands at the range; places within it wear a tick."""

    found: HowFar
    least_height = 260

    @property
    def title(self) -> str:  # type: ignore[override]
        return f"How far {self.found.antenna.name} reaches. {doubling_words(self.found)}"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, colour = sheet, sheet.paper.colour
        rows = [row for row in self.found.rows if row.reach is not None][:MOST_BARS]
        if not rows:
            s.text(
                rect.center().x(),
                rect.center().y(),
                "how far can’t be told from these places",
                colour("soft"),
                14,
                "middle",
            )
            return
        words = [self._words(row) for row in rows]
        left = rect.left() + min(max(s.width(w, 12) for w in words) + s.px(14), 0.4 * rect.width())
        head, foot = s.px(38), s.px(26)
        far = max(max(row.reach.high or row.reach.value for row in rows if row.reach) * 1e3, self.found.wanted_m) * 1.15
        near = min(min(row.reach.low or row.reach.value for row in rows if row.reach) * 1e3, self.found.wanted_m) / 1.6
        x = Axis(near, far, left, rect.right() - s.px(16), log=True)
        top, bottom = rect.top() + head, rect.bottom() - foot
        for tick in x.ticks(6):
            s.line(x(tick), top, x(tick), bottom, colour("hairline"), 1)
            s.text(x(tick), bottom + s.px(12), show.distance(tick), colour("soft"), 10.5, "middle", mono=True)
        self._places(s, x, rect.top(), top, bottom)
        step = (bottom - top) / len(rows)
        for i, (row, name) in enumerate(zip(rows, words, strict=True)):
            self._bar(s, row, name, x, top + (i + 0.5) * step, rect.left())

    def _words(self, row: FarRow) -> str:
        height = f", from {show.distance(row.option.height_m)}" if self.found.heights_differ else ""
        return f"{row.option.words}{height}"

    def _places(self, s: Sheet, x: Axis, head: float, top: float, bottom: float) -> None:
        ends = [head, head]
        for name, distance in self.found.places:
            if not x.low < distance < x.high:
                continue
            wanted = abs(distance - self.found.wanted_m) < 1.0
            ink = s.paper.colour("accent" if wanted else "line")
            px = x(distance)
            s.line(px, top, px, bottom, ink, 1.4 if wanted else 1.0, (4, 3))
            # Names that would run into each other stand one over the other.
            half = s.width(name, 11) / 2 + s.px(4)
            line = next((k for k, end in enumerate(ends) if px - half > end), 1)
            ends[line] = px + half
            s.text(px, head + s.px(8 + 15 * line), name, s.paper.colour("ink" if wanted else "soft"), 11, "middle")

    def _bar(self, s: Sheet, row: FarRow, name: str, x: Axis, y: float, left: float) -> None:
        assert row.reach is not None
        ink = s.paper.antenna(self.found.antenna.slot)
        s.text(left, y, s.fitted(name, x.start - left - s.px(6), 12), s.paper.colour("ink"), 12)
        low, high = row.reach.interval
        s.line(
            x(max(low * 1e3, x.low)),
            y,
            x(min(high * 1e3, x.high)),
            y,
            s.paper.antenna(self.found.antenna.slot, 0.45),
            7,
        )
        s.glyph(x(row.reach.value * 1e3), y, self.found.antenna.slot, 10)
        at = x(row.reach.value * 1e3)
        s.spot(QRectF(at - s.px(9), y - s.px(9), s.px(18), s.px(18)), row.reach, f"{name}: {row.range_text}")
        words = f"{row.reach.short}{row.horizon_words}"
        s.text(min(at, x.end - s.width(words, 11) / 2), y - s.px(14), words, ink, 11, "middle", halo=True)
