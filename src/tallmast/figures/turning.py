"""A pattern while it is turned: every reading as it comes, onward and back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.units import show

from .picture import Picture
from .sheet import Sheet

SPAN_DB = 40.0


@dataclass(kw_only=True)
class TurningPicture(Picture):
    """Onward dots, back rings; the hand stands where it looks now."""

    readings: tuple[tuple[float, float, float, int], ...]
    slot: int = 0
    least_height = 300
    title = "As it turns, dB against the strongest so far"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, colour = sheet, sheet.paper.colour
        radius = min(rect.width(), rect.height()) / 2 - s.px(22)
        cx, cy = rect.center().x(), rect.center().y()
        for ring in (0.0, -10.0, -20.0, -30.0):
            r = radius * (1.0 + ring / SPAN_DB)
            s.ring(cx, cy, r, colour("line" if ring == 0 else "hairline"), 1)
            s.text(
                cx - 0.3 * r, cy + 0.954 * r, show.fixed(ring, 0), colour("soft"), 10, "middle", mono=True, halo=True
            )
        for mark in range(0, 360, 30):
            t = np.radians(mark)
            x, y = cx + (radius + s.px(12)) * float(np.sin(t)), cy - (radius + s.px(12)) * float(np.cos(t))
            s.text(x, y, show.bearing(mark), colour("soft"), 10.5, "middle", mono=True)
        if not self.readings:
            return
        angle, level, _, way = (np.array(column, dtype=float) for column in zip(*self.readings, strict=True))
        share = np.clip(1.0 + (level - level.max()) / SPAN_DB, 0.0, 1.0)
        x, y = cx + radius * share * np.sin(np.radians(angle)), cy - radius * share * np.cos(np.radians(angle))
        onward = way > 0
        s.path(x[onward], y[onward], s.paper.antenna(self.slot, 0.6), 1.5)
        s.dots(x[onward], y[onward], s.paper.antenna(self.slot), 5)
        for k in np.flatnonzero(~onward):
            s.ring(float(x[k]), float(y[k]), s.px(3.5), s.paper.antenna(self.slot), 1.4)
        t = np.radians(angle[-1])
        s.line(cx, cy, cx + radius * float(np.sin(t)), cy - radius * float(np.cos(t)), colour("accent"), 1.6)
        now = f"{show.bearing(float(angle[-1]))}: {show.level(float(level[-1]))}"
        s.spot(QRectF(float(x[-1]) - 8, float(y[-1]) - 8, 16, 16), None, now)
