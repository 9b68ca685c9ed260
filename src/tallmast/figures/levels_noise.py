"""Noise here, by where it comes from, and what each remedy does for signal over noise."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF

from tallmast.findings.levels.noise import WORTH_DB, NoiseFinding
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet, spread


@dataclass(kw_only=True)
class NoisePicture(Picture):
    finding: NoiseFinding
    title = "What would help to hear more: signal over noise, against how it is now"
    least_height = 330

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f = sheet, self.finding
        strip = s.px(96)
        self._levels(s, QRectF(rect.left(), rect.top(), rect.width(), strip))
        self._remedies(s, QRectF(rect.left(), rect.top() + strip, rect.width(), rect.height() - strip))
        s.spot(QRectF(rect.left(), rect.top(), s.px(150), s.px(18)), f.floor, f"noise at the antenna {f.floor.text}")

    def _levels(self, s: Sheet, rect: QRectF) -> None:
        """The parts of the noise and the level that is wanted, on one line of levels."""
        f, colour = self.finding, s.paper.colour
        marks = [(name, level, "soft") for name, level in f.parts_dbm.items()]
        marks += [("all together", f.floor.value, "ink"), ("sensitivity here", f.sensitivity.value, "accent")]
        low, high = min(m[1] for m in marks) - 4, max(m[1] for m in marks) + 4
        left, right = rect.left() + s.px(170), rect.right() - s.px(60)
        x = Axis(low, high, left, right)
        at = rect.top() + s.px(34)
        s.text(rect.left(), rect.top() + s.px(9), "Noise at the antenna’s connector", colour("soft"), 12)
        s.line(left, at, right, at, colour("hairline"), 1.4)
        for tick in x.ticks(7):
            s.line(x(tick), at - s.px(3), x(tick), at + s.px(3), colour("hairline"))
            s.text(x(tick), at - s.px(11), show.fixed(tick, 0), colour("soft"), 11, "middle", mono=True)
        s.text(right + s.px(8), at, "dBm", colour("soft"), 11)
        half = f.floor.half
        s.rect(
            QRectF(x(f.floor.value - half), at - s.px(5), x(f.floor.value + half) - x(f.floor.value - half), s.px(10)),
            colour("open_wash"),
        )
        ordered = sorted(marks, key=lambda m: m[1])
        widths = [s.width(f"{name} {show.fixed(level, 1)}", 11.5) for name, level, _ in ordered]
        gap = max(widths) * 0.72 + s.px(8)
        # Two rows of words under the line, so that neighbours don't meet.
        for row in (0, 1):
            chosen = ordered[row::2]
            places = spread([x(level) for _, level, _ in chosen], gap * 1.4, left - s.px(60), right)
            for (name, level, ink), place in zip(chosen, places, strict=True):
                y = at + s.px(20) + row * s.px(18)
                s.line(x(level), at - s.px(6), x(level), at + s.px(6), colour(ink), 2)
                s.line(x(level), at + s.px(6), place, y - s.px(7), colour("hairline"))
                box = s.text(place, y, f"{name} {show.fixed(level, 1)}", colour(ink), 11.5, "middle", halo=True)
                figure = {"all together": f.floor, "sensitivity here": f.sensitivity, "outside": f.outside}.get(name)
                if figure is not None:
                    s.spot(box, figure, f"{name} {figure.text}")

    def _remedies(self, s: Sheet, rect: QRectF) -> None:
        f, colour = self.finding, s.paper.colour
        if not f.remedies:
            s.text(rect.left(), rect.center().y(), f.trouble, colour("soft"), 13)
            return
        left, right = rect.left() + s.px(190), rect.right() - s.px(120)
        highest = max(r.improvement.interval[1] for r in f.remedies)
        lowest = min(*(r.improvement.interval[0] for r in f.remedies), 0.0)
        x = Axis(max(lowest, -6.0), max(highest, 2.0) * 1.05, left, right)
        bottom = rect.bottom() - s.px(20)
        for tick in x.ticks(6):
            s.line(x(tick), rect.top() + s.px(6), x(tick), bottom, colour("hairline"))
            s.text(x(tick), bottom + s.px(10), show.plus(tick, 0), colour("soft"), 11, "middle", mono=True)
        s.text(right + s.px(10), bottom + s.px(10), "dB", colour("soft"), 11)
        s.line(x(WORTH_DB), rect.top() + s.px(6), x(WORTH_DB), bottom, colour("doubt"), 1.2, (4, 3))
        s.text(
            x(WORTH_DB) + s.px(4), rect.top() + s.px(2), "under this nobody hears it", colour("doubt"), 11, halo=True
        )
        apart = s.px(22)  # what is done at the other end stands by itself: the sentence speaks of this one
        step = (bottom - rect.top() - s.px(12) - apart) / len(f.remedies)
        for i, remedy in enumerate(f.remedies):
            y = rect.top() + s.px(14) + (i + 0.5) * step
            if remedy.key == "power":
                s.line(rect.left(), y - step / 2 + apart / 2, right, y - step / 2 + apart / 2, colour("line"))
                y += apart
            value = remedy.improvement.value
            low, high = remedy.improvement.interval
            good = value >= WORTH_DB
            ink = colour("soft" if remedy.key == "power" else "holds" if good else "soft")
            s.text(left - s.px(12), y, remedy.name, colour("ink"), 12.5, "right")
            thick = min(step * 0.42, s.px(15))
            edges = sorted((x(0.0), x(value)))
            s.rect(QRectF(edges[0], y - thick / 2, max(edges[1] - edges[0], 1.0), thick), ink)
            s.line(x(max(low, x.low)), y, x(min(high, x.high)), y, colour("ink"), 1.4)
            for end in (low, high):
                if x.low <= end <= x.high:
                    s.line(x(end), y - s.px(4), x(end), y + s.px(4), colour("ink"), 1.4)
            box = s.text(
                max(x(max(high, 0.0)), x(0.0)) + s.px(10),
                y,
                remedy.improvement.text,
                colour("ink"),
                12,
                mono=True,
                halo=True,
            )
            s.spot(
                QRectF(rect.left(), y - step / 2, box.right() - rect.left(), step),
                remedy.improvement,
                f"{remedy.name} {remedy.improvement.text}",
            )
