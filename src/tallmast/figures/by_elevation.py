"""Two antennas by elevation: which is stronger below, which above, and how sure."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.pattern.side import SideBySide
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet, polygon


@dataclass(kw_only=True)
class ByElevationPicture(Picture):
    """Elevation upward as it is outdoors; to the right the one is stronger, to the left the other."""

    side: SideBySide
    least_height = 300

    @property
    def title(self) -> str:  # type: ignore[override]
        return f"{self.side.one.name} against {self.side.other.name} by elevation, in the same directions"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, side, colour = sheet, self.side, sheet.paper.colour
        half = coverage_factor(side.degrees) * np.hypot(side.u_db, side.common_u_db)
        most = max(float(np.max(np.abs(side.difference_db) + half)), 2.0)
        low, high = float(side.elevation_deg.min()), float(side.elevation_deg.max())
        span = max(high - low, 6.0)
        x = Axis(-most, most, rect.left() + s.px(46), rect.right() - s.px(16))
        y = Axis(low - 0.06 * span, low + 1.06 * span, rect.bottom() - s.px(30), rect.top() + s.px(24))
        for tick in x.ticks(6):
            s.line(x(tick), y.start, x(tick), y.end, colour("line" if tick == 0 else "hairline"))
            s.text(
                x(tick),
                y.start + s.px(12),
                show.fixed(abs(tick), 0 if abs(tick) >= 1 or tick == 0 else 1),
                colour("soft"),
                11,
                "middle",
                mono=True,
            )
        for tick in y.ticks(6):
            s.line(x.start, y(tick), x.end, y(tick), colour("hairline"))
            s.text(x.start - s.px(6), y(tick), show.elevation(tick), colour("soft"), 11, "right", mono=True)
        for antenna, edge, align in ((side.other, x.start, "left"), (side.one, x.end, "right")):
            words = f"{antenna.name} stronger, dB"
            s.text(edge, rect.top() + s.px(10), words, s.paper.antenna(antenna.slot), 12, align, bold=True)
        ys = np.array([y(v) for v in side.elevation_deg.tolist()])
        left = np.array([x(v) for v in (side.difference_db - half).tolist()])
        right = np.array([x(v) for v in (side.difference_db + half).tolist()])
        s.p.setPen(s.paper.colour("sheet", 0.0))
        s.p.setBrush(colour("accent", 0.16))
        s.p.drawPolygon(polygon(np.concatenate((left, right[::-1])), np.concatenate((ys, ys[::-1]))))
        middle = np.array([x(v) for v in side.difference_db.tolist()])
        s.path(middle, ys, colour("ink"), 2.2)
        for k in range(len(ys)):
            figure = side.at(k)
            better = side.one if figure.value > 0 else side.other
            words = f"{show.elevation(float(side.elevation_deg[k]))}: {better.name} by {show.plus_minus(abs(figure.value), figure.half, 'dB')}"
            s.glyph(float(middle[k]), float(ys[k]), better.slot, 7)
            s.spot(QRectF(float(middle[k]) - 8, float(ys[k]) - 8, 16, 16), figure, words)
        if side.crossing is not None:
            at = y(side.crossing.value)
            s.line(x.start, at, x.end, at, colour("accent"), 1.4, (5, 3))
            box = s.text(
                x.end, at - s.px(9), f"alike at {side.crossing.text}", colour("accent"), 11.5, "right", halo=True
            )
            s.spot(box, side.crossing, f"alike at {side.crossing.text}")
