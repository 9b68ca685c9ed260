"""A probe turned before an antenna: what was read at each angle, the curve through it, and the ellipse that it means."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.pattern.ellipse import PolarizationReading
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet


@dataclass(kw_only=True)
class EllipsePicture(Picture):
    """Left the levels over the probe's angle, right the ellipse as the antenna sends it, upright up."""

    reading: PolarizationReading
    least_height = 300

    @property
    def title(self) -> str:  # type: ignore[override]
        return f"Polarization of {self.reading.antenna.name}: {self.reading.words}"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, read = sheet, self.reading
        room = min(rect.height(), rect.width() * 0.42)
        plot = QRectF(rect.left(), rect.top(), rect.width() - room - s.px(10), rect.height())
        self._levels(s, plot)
        if read.axial_ratio is not None:
            self._ellipse(s, QRectF(rect.right() - room, rect.top(), room, rect.height()))

    def _levels(self, s: Sheet, rect: QRectF) -> None:
        read, colour = self.reading, s.paper.colour
        low, high = float(read.level_db.min()), float(read.level_db.max())
        room = max(0.15 * (high - low), 1.0)
        most = max(180.0, float(read.angle_deg.max()))
        x = Axis(0.0, most, rect.left() + s.px(46), rect.right() - s.px(8))
        y = Axis(low - room, high + room, rect.bottom() - s.px(30), rect.top() + s.px(12))
        for tick in y.ticks(5):
            s.line(x.start, y(tick), x.end, y(tick), colour("hairline"))
            s.text(x.start - s.px(6), y(tick), show.fixed(tick, 0), colour("soft"), 11, "right", mono=True)
        for tick in range(0, int(most) + 1, 45 if most <= 180 else 90):
            s.line(x(tick), y.start, x(tick), y.end, colour("hairline"))
            s.text(x(tick), y.start + s.px(12), f"{tick}°", colour("soft"), 11, "middle", mono=True)
        s.text(x.start + s.px(4), y.end + s.px(8), "dB read, over the angle of the probe", colour("soft"), 11)
        slot = read.antenna.slot
        for angle, level in zip(read.angle_deg.tolist(), read.level_db.tolist(), strict=True):
            s.glyph(x(angle), y(level), slot, 7)
            figure = read.axial_ratio or read.sense or read.upright
            s.spot(QRectF(x(angle) - 8, y(level) - 8, 16, 16), figure, f"{angle:g}°: {show.fixed(level, 1)}")
        if read.curve is not None:
            fine, level = read.curve
            inside = fine <= most
            xs, ys = ([axis(v) for v in values.tolist()] for axis, values in ((x, fine[inside]), (y, level[inside])))
            s.path(xs, ys, s.paper.antenna(slot), 2.0)

    def _ellipse(self, s: Sheet, rect: QRectF) -> None:
        read, colour = self.reading, s.paper.colour
        assert read.axial_ratio is not None
        radius = min(rect.width(), rect.height()) / 2 - s.px(26)
        cx, cy = rect.center().x(), rect.center().y()
        s.ring(cx, cy, radius, colour("hairline"), 1)
        s.line(cx, cy - radius, cx, cy + radius, colour("hairline"))
        s.line(cx - radius, cy, cx + radius, cy, colour("hairline"))
        s.text(cx, cy - radius - s.px(10), "upright", colour("soft"), 11, "middle")
        minor = 10.0 ** (-read.axial_ratio.value / 20.0)
        tilt = math.radians(read.tilt.value if read.tilt is not None else 0.0)
        t = np.linspace(0.0, 2.0 * np.pi, 121)
        along, across = np.cos(t), minor * np.sin(t)
        x = cx + radius * (along * math.sin(tilt) + across * math.cos(tilt))
        y = cy - radius * (along * math.cos(tilt) - across * math.sin(tilt))
        s.path(x, y, s.paper.antenna(read.antenna.slot), 2.4)
        words = f"axial ratio {read.axial_ratio.text}"
        box = s.text(cx, cy + radius + s.px(12), words, colour("ink"), 11.5, "middle")
        s.spot(box, read.axial_ratio, words)
        sense = "sense not told" if read.right is None else "right-hand" if read.right else "left-hand"
        s.text(cx, cy, sense, colour("soft"), 11, "middle", halo=True)
