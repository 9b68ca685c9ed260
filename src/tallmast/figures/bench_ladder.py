"""The trimming ladder: every state of one antenna, where it resonated and how far its window reached."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF

from tallmast.findings.bench import BenchFinding
from tallmast.findings.bench.ladder import LadderRung
from tallmast.units import show

from .paper import MARKS
from .picture import Picture
from .sheet import Axis, Sheet


@dataclass(kw_only=True)
class LadderPicture(Picture):
    """A row a state, as received at the bottom: the window at the limit as a bar, the resonance as a post with its ±,
    and between two rows what was cut and how far that moved it."""

    finding: BenchFinding
    title = "Every state of the antenna in focus, oldest at the bottom: window at your limit, and resonance"
    least_height = 318

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f, colour = sheet, self.finding, sheet.paper.colour
        focus = f.focus if f.focus and f.focus.rungs and f.focus.antenna.id not in self.hidden else None
        if focus is None:
            s.text(rect.center().x(), rect.center().y(), "nothing swept yet", colour("soft"), 14, "middle")
            return
        left, right = rect.left() + s.px(150), rect.right() - s.px(210)
        top, bottom = rect.top() + s.px(24), rect.bottom() - s.px(26)
        x = self._axis(focus.rungs, left, right)
        b0, b1 = x(f.band_hz[0] / 1e6), x(f.band_hz[1] / 1e6)
        s.rect(QRectF(b0, top, max(b1 - b0, 2), bottom - top), colour("band"))
        s.text((b0 + b1) / 2, top - s.px(11), f"wanted {show.band(*f.band_hz)}", colour("doubt"), 11, "middle")
        for tick in x.ticks(7):
            s.line(x(tick), top, x(tick), bottom, colour("hairline"))
            s.text(x(tick), bottom + s.px(12), f"{tick:g}", colour("soft"), 11, "middle", mono=True)
        s.text(right + s.px(22), bottom + s.px(12), "MHz", colour("soft"), 11)
        step = (bottom - top) / len(focus.rungs)
        middles = [bottom - step * (i + 0.5) for i in range(len(focus.rungs))]
        for rung, before, y, under in zip(
            focus.rungs, (None, *focus.rungs[:-1]), middles, (None, *middles[:-1]), strict=True
        ):
            self._rung(s, rung, x, y, focus.antenna.slot, rung is focus.rungs[-1], rect.left(), right)
            if before is not None and under is not None:
                self._between(s, rung, before, x, (y + under) / 2, y, under)

    @staticmethod
    def _axis(rungs: tuple[LadderRung, ...], left: float, right: float) -> Axis:
        lows = [float(r.reading.frequency_hz[0]) / 1e6 for r in rungs]
        highs = [float(r.reading.frequency_hz[-1]) / 1e6 for r in rungs]
        return Axis(min(lows), max(highs), left, right)

    @staticmethod
    def _rung(
        s: Sheet, rung: LadderRung, x: Axis, y: float, slot: int, now: bool, name_at: float, right: float
    ) -> None:
        colour, ink = s.paper.colour, s.paper.antenna(slot)
        s.text(name_at + s.px(8), y, rung.state, colour("ink"), 12.5, bold=now)
        s.line(x.start, y, x.end, y, colour("line"), 1, (1, 3))
        if rung.window_hz is not None:
            a, b = (x(edge / 1e6) for edge in rung.window_hz)
            bar = QRectF(a, y - s.px(7), b - a, s.px(14))
            s.rect(bar, colour("sheet"))
            s.rect(bar, s.paper.antenna(slot, 0.45 if now else 0.25), ink, 1.2)
        words = f"{MARKS[rung.mark]} {rung.words}"
        if rung.resonance is not None:
            at = x(rung.resonance.value)
            low, high = (x(edge) for edge in rung.resonance.interval)
            s.line(at, y - s.px(13), at, y + s.px(13), ink, 2.6 if now else 1.6)
            if high - low > s.px(5):
                s.line(low, y, high, y, ink, 2)
        box = s.text(right + s.px(12), y, words, s.paper.mark(rung.mark), 12)
        s.spot(box, rung.resonance or rung.reading.at, f"{rung.state}: {words}")
        if rung.apart:
            s.text(right + s.px(12), y + s.px(15), f"! {rung.apart}", colour("doubt"), 10.5)

    @staticmethod
    def _between(
        s: Sheet, rung: LadderRung, before: LadderRung, x: Axis, middle: float, y: float, under: float
    ) -> None:
        if rung.resonance is None or before.resonance is None:
            return
        soft = s.paper.colour("soft")
        here, there = x(rung.resonance.value), x(before.resonance.value)
        s.line(there, under - s.px(14), here, y + s.px(14), soft, 1.2, (3, 3))
        if rung.step_words:
            s.text((here + there) / 2 + s.px(10), middle, rung.step_words, soft, 11.5, halo=True)
