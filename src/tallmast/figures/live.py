"""The live sweep: a still frame with band and limit, and a curve that moves over it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.bench.live import LiveReading
from tallmast.frozen import Frozen
from tallmast.notebook.records import Question
from tallmast.physics.decibels import Floats
from tallmast.physics.reflection import gamma_from_swr
from tallmast.units import show

from .bench import SWR_TICKS, TOP_SWR
from .sheet import Axis, Sheet


class LiveFrame(Frozen, eq=True):
    """What stands still while sweeps come in: drawn once for each size and plan."""

    start_hz: float
    stop_hz: float
    question: Question | None
    slot: int
    name: str

    def axes(self, sheet: Sheet, rect: QRectF) -> tuple[Axis, Axis]:
        s = sheet
        x = Axis(self.start_hz / 1e6, self.stop_hz / 1e6, rect.left() + s.px(34), rect.right() - s.px(50))
        y = Axis(0.0, float(gamma_from_swr(TOP_SWR)), rect.bottom() - s.px(20), rect.top() + s.px(14))
        return x, y

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, colour = sheet, sheet.paper.colour
        x, y = self.axes(s, rect)
        if self.question:
            low, high = x(self.question.band_low_hz / 1e6), x(self.question.band_high_hz / 1e6)
            s.rect(QRectF(low, y.end, max(high - low, 2), y.start - y.end), colour("band"))
        for tick in SWR_TICKS:
            at = y(float(gamma_from_swr(tick)))
            s.line(x.start, at, x.end, at, colour("hairline"))
            s.text(x.start - s.px(6), at, f"{tick:g}", colour("soft"), 11, "right", mono=True)
        for tick in x.ticks(7):
            s.text(x(tick), y.start + s.px(11), f"{tick:g}", colour("soft"), 11, "middle", mono=True)
        s.text(x.end + s.px(18), y.start + s.px(11), "MHz", colour("soft"), 11)
        if self.question:
            at = y(float(gamma_from_swr(self.question.swr_limit)))
            s.line(x.start, at, x.end, at, colour("accent"), 1.2, (5, 3))
            s.text(x.end + s.px(4), at, f"{self.question.swr_limit:g}", colour("accent"), 11)

    def trace(
        self,
        sheet: Sheet,
        rect: QRectF,
        reading: LiveReading,
        kept: LiveReading | None,
        held: tuple[Floats, Floats] | None,
    ) -> None:
        """The moving part: the sweep, the last one kept (dotted), and least and greatest held."""
        s = sheet
        x, y = self.axes(s, rect)
        top = float(gamma_from_swr(TOP_SWR * 3))
        s.clip(QRectF(x.start, y.end - 1, x.end - x.start, y.start - y.end + 2))
        if held is not None and len(held[0]) == len(reading.frequency_hz):
            xs = x.many(reading.frequency_hz / 1e6)
            s.between(
                xs, y.many(np.minimum(held[0], top)), y.many(np.minimum(held[1], top)), s.paper.antenna(self.slot, 0.2)
            )
        if kept is not None:
            xs = x.many(kept.frequency_hz / 1e6)
            s.path(xs, y.many(np.minimum(kept.magnitude, top)), s.paper.colour("soft"), 1.2, (2, 2))
        xs = x.many(reading.frequency_hz / 1e6)
        s.path(xs, y.many(np.minimum(reading.magnitude, top)), s.paper.antenna(self.slot), 2.2)
        if reading.resonance_hz is not None:
            at = x(reading.resonance_hz / 1e6)
            s.line(at, y.start, at, y.start - s.px(9), s.paper.antenna(self.slot), 2)
        s.unclip()
        if kept is not None:
            end = float(np.interp(self.stop_hz, kept.frequency_hz, kept.magnitude))
            s.text(
                x.end - s.px(4),
                y(min(end, y.high)) + s.px(10),
                "last kept",
                s.paper.colour("soft"),
                10.5,
                "right",
                halo=True,
            )

    def words(self, reading: LiveReading | None) -> str:
        """For a screen reader."""
        span = show.band(self.start_hz, self.stop_hz)
        return f"Live sweep of {self.name} over {span}. {reading.words if reading else 'Nothing swept yet'}."
