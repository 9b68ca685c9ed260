"""Two antennas side by side over one ground, on one scale, and where the one is better."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.field.ground import ALIKE_DB, OverGround
from tallmast.notebook.records import Antenna
from tallmast.physics.decibels import Floats
from tallmast.units import show

from .field import round_distance
from .picture import Picture
from .sheet import Sheet

At = Callable[[Floats, Floats], tuple[Floats, Floats]]
"""(east, north) in m to (x, y) of one of the three."""
MOST_DB = 9.0
"""From here on a mark of the difference grows no more."""


@dataclass(kw_only=True)
class GroundPicture(Picture):
    """North is up; home is the square. Marks of the difference wear the better one, as large as it is better."""

    ground: OverGround
    antennas: tuple[Antenna, ...] = ()
    least_height = 280
    title = "The two over the same ground, on one scale, and where the one is better"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, g = sheet, self.ground
        gap, head, foot = s.px(10), s.px(24), s.px(26)
        width = (rect.width() - 2 * gap) / 3
        panels = [
            QRectF(rect.left() + k * (width + gap), rect.top() + head, width, rect.height() - head - foot)
            for k in range(3)
        ]
        east = np.concatenate([[0.0], *(h.east_m for h in g.both)])
        north = np.concatenate([[0.0], *(h.north_m for h in g.both)])
        span = max(float(np.ptp(east)), 20.0), max(float(np.ptp(north)), 20.0)
        scale = min((width - s.px(36)) / span[0], (panels[0].height() - s.px(36)) / span[1])
        middle = (float(east.max() + east.min()) / 2, float(north.max() + north.min()) / 2)
        ring = round_distance(max(span) / 3)
        levels = np.concatenate([h.level_dbm[np.isfinite(h.level_dbm)] for h in g.both])
        low, high = (float(v) for v in np.percentile(levels, [3, 97]))
        slots = {a.id: a.slot for a in self.antennas}
        for panel, heard in zip(panels, g.both, strict=False):
            at = self._ground(s, panel, middle, scale, ring)
            self._levels(s, heard.level_dbm, at(heard.east_m, heard.north_m), low, max(high, low + 1.0))
            s.unclip()
            slot = slots.get(heard.tried[0], 0)
            s.glyph(panel.left() + s.px(6), panel.top() - s.px(11), slot, 9)
            box = s.text(
                panel.left() + s.px(18), panel.top() - s.px(11), heard.name, s.paper.antenna(slot), 12, bold=True
            )
            known = int(np.isfinite(heard.level_dbm).sum())
            s.spot(box, None, f"{heard.name}: heard in {known} of {show.count(len(heard.level_dbm), 'cell')} of ground")
        self._differences(s, panels[2], middle, scale, ring, slots)
        self._ramp(s, QRectF(rect.left(), rect.bottom() - foot, width, foot), low, high)
        words = f"rings {show.distance(ring)} apart"
        s.text(panels[1].left(), panels[1].bottom() + s.px(14), words, s.paper.colour("soft"), 10.5)

    def _ground(self, s: Sheet, panel: QRectF, middle: tuple[float, float], scale: float, ring: float) -> At:
        """The empty ground of one of them; where things lie on it."""
        colour, centre = s.paper.colour, panel.center()

        def at(east: Floats, north: Floats) -> tuple[Floats, Floats]:
            return centre.x() + (east - middle[0]) * scale, centre.y() - (north - middle[1]) * scale

        s.rect(panel, colour("sea"))
        s.clip(panel)
        x, y = (float(v) for v in at(np.array(0.0), np.array(0.0)))
        for k in range(1, 9):
            s.ring(x, y, ring * k * scale, colour("line", 0.8), 1, (1, 3))
        s.rect(QRectF(x - s.px(4), y - s.px(4), s.px(8), s.px(8)), colour("ink"))
        return at

    def _levels(self, s: Sheet, level: Floats, at: tuple[Floats, Floats], low: float, high: float) -> None:
        ramp, (x, y) = s.paper.palette.level_ramp, at
        heard = np.isfinite(level)
        index = np.clip((np.nan_to_num(level, nan=low) - low) / (high - low) * len(ramp), 0, len(ramp) - 1).astype(int)
        for k, name in enumerate(ramp):
            mine = heard & (index == k)
            s.dots(x[mine], y[mine], s.paper.colour(name), 6)
        s.dots(x[~heard], y[~heard], s.paper.colour("line"), 2.5)

    def _differences(
        self, s: Sheet, panel: QRectF, middle: tuple[float, float], scale: float, ring: float, slots: dict[str, int]
    ) -> None:
        g, colour = self.ground, s.paper.colour
        at = self._ground(s, panel, middle, scale, ring)
        x, y = at(g.east_m, g.north_m)
        alike = np.abs(g.difference_db) <= ALIKE_DB
        s.dots(x[alike], y[alike], colour("soft"), 3)
        for heard, sign in zip(g.both, (1.0, -1.0), strict=True):
            slot = slots.get(heard.tried[0], 0)
            for k in np.flatnonzero(~alike & (sign * g.difference_db > 0)):
                s.glyph(float(x[k]), float(y[k]), slot, 4.0 + 0.9 * min(abs(float(g.difference_db[k])), MOST_DB))
        s.unclip()
        first, second, neither = g.better
        names = [heard.name for heard in g.both]
        s.text(panel.left(), panel.top() - s.px(11), "which is better, and how much", colour("ink"), 12, bold=True)
        told = f"better in cells: {names[0]} {first}, {names[1]} {second}, neither {neither}"
        box = s.text(panel.left(), panel.bottom() + s.px(14), told, colour("soft"), 10.5)
        s.spot(box, g.figure, f"{told}, by more than {ALIKE_DB:g} dB; {g.figure.text} over all of them")

    def _ramp(self, s: Sheet, rect: QRectF, low: float, high: float) -> None:
        ramp, w, y = s.paper.palette.level_ramp, s.px(16), rect.top() + s.px(10)
        soft = s.paper.colour("soft")
        box = s.text(rect.left(), y + s.px(4), show.fixed(low, 0), soft, 10.5, mono=True)
        x = box.right() + s.px(6)
        for k, name in enumerate(ramp):
            s.rect(QRectF(x + k * w, y, w, s.px(7)), s.paper.colour(name))
        s.text(x + w * len(ramp) + s.px(6), y + s.px(4), f"{show.fixed(high, 0)} dBm", soft, 10.5, mono=True)
