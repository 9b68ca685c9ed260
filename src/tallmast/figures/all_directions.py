"""All directions at once: the sphere about the antenna laid out flat, what is told where, and the way that was flown."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from tallmast.findings.pattern.direction_map import DirectionMap
from tallmast.physics.decibels import Floats
from tallmast.units import show

from .picture import Picture
from .sheet import Sheet, polygon

At = Callable[[ArrayLike, ArrayLike], tuple[Floats, Floats]]
"""(azimuth, elevation) to (x, y)."""
MOST_TRACK = 3000


def laid_flat(azimuth_deg: ArrayLike, elevation_deg: ArrayLike) -> tuple[Floats, Floats]:
    """(across, up) in degrees: its front in the middle, its back at both edges; a parallel is as long as it is about a ball, so
    that patches keep their size (an equal-area layout: across = azimuth · cos elevation)."""
    azimuth = (np.asarray(azimuth_deg, dtype=float) + 180.0) % 360.0 - 180.0
    elevation = np.asarray(elevation_deg, dtype=float)
    return azimuth * np.cos(np.radians(elevation)), elevation


@dataclass(kw_only=True)
class AllDirectionsPicture(Picture):
    """Where no reading is near the sheet stays blank."""

    maps: tuple[DirectionMap, ...]
    """Of those that were flown: the one in focus, and another beside it on the same scale."""
    turned_deg: float = 0.0
    """So far it is turned about its own upright axis: what lies in the middle."""
    least_height = 300
    scale: float = 1.0
    """Pixels a degree, as it was painted last."""

    @property
    def title(self) -> str:  # type: ignore[override]
        unit = self.maps[0].unit if self.maps else "dB"
        scale = "dB against the strongest told" if unit == "dB" else f"{unit}, a scale of its own, no decibels"
        return f"All directions from the antenna, {scale}; blank: not read; drag it round"

    def drag(self, x: float, y: float) -> float | None:
        """Where the pointer holds it, degrees from the left edge."""
        return x / max(self.scale, 1e-9)

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s = sheet
        shown = [one for one in self.maps if one.antenna.id not in self.hidden] or list(self.maps)
        if not shown:
            s.text(rect.center().x(), rect.center().y(), "nothing flown yet", s.paper.colour("soft"), 14, "middle")
            return
        foot = s.px(24)
        height = (rect.height() - foot) / len(shown)
        for k, one in enumerate(shown):
            panel = QRectF(rect.left(), rect.top() + k * height, rect.width(), height)
            self._one(s, one, panel)
        self._ramp(s, shown[0], QRectF(rect.left(), rect.bottom() - foot, rect.width(), foot))

    def _one(self, s: Sheet, one: DirectionMap, panel: QRectF) -> None:
        low = min(float(one.elevation_deg.min()) - one.step_deg[1], -5.0)
        high = max(float(one.elevation_deg.max()) + one.step_deg[1], 20.0)
        head = s.px(20)
        inside = QRectF(
            panel.left() + s.px(34), panel.top() + head, panel.width() - s.px(44), panel.height() - head - s.px(16)
        )
        scale = min(inside.width() / 360.0, inside.height() / (high - low))
        self.scale = scale
        mx, my = inside.center().x(), inside.center().y() + scale * (high + low) / 2.0

        def at(azimuth: ArrayLike, elevation: ArrayLike) -> tuple[Floats, Floats]:
            x, y = laid_flat(np.asarray(azimuth, dtype=float) - self.turned_deg, elevation)
            return mx + scale * x, my - scale * y

        self._net(s, at, low, high, one)
        self._patches(s, one, at)
        self._track(s, one, at)
        slot = one.antenna.slot
        s.glyph(panel.left() + s.px(8), panel.top() + s.px(10), slot, 9)
        name = f"{one.antenna.name}"
        box = s.text(panel.left() + s.px(20), panel.top() + s.px(10), name, s.paper.antenna(slot), 12.5, bold=True)
        words = f"{name}: told over {show.percent(one.told_share)} of the heights flown"
        s.spot(box, one.headline, words)
        self._strongest(s, one, at)

    def _net(self, s: Sheet, at: At, low: float, high: float, flown: DirectionMap) -> None:
        colour = s.paper.colour
        fine = np.linspace(low, high, 40)
        edge = 179.99 + self.turned_deg
        for azimuth in range(0, 360, 30):
            x, y = at(np.full(40, float(azimuth)), fine)
            if np.abs(np.diff(x)).max() < abs(x).max():  # not across the back
                s.path(x, y, colour("hairline"), 1)
        for side in (edge, edge - 359.98):
            x, y = at(np.full(40, side), fine)
            s.path(x, y, colour("line", 0.6), 1)
        across = np.linspace(-179.9, 179.9, 120) + self.turned_deg
        for elevation in range(-90, 91, 15):
            if low <= elevation <= high:
                x, y = at(across, np.full(120, float(elevation)))
                s.path(x, y, colour("line" if elevation == 0 else "hairline"), 1.2 if elevation == 0 else 1)
                s.text(
                    float(x[0]) - s.px(4),
                    float(y[0]),
                    show.elevation(elevation),
                    colour("soft"),
                    10,
                    "right",
                    mono=True,
                )
        north = not flown.pointing_noted
        for azimuth in range(0, 360, 90):
            x, y = at(float(azimuth), low)
            words = show.bearing(azimuth) if north else ("front", "right", "back", "left")[azimuth // 90]
            s.text(float(x), float(y) + s.px(9), words, colour("soft"), 10.5, "middle")

    def _patches(self, s: Sheet, flown: DirectionMap, at: At) -> None:
        """Strips of one shade along each parallel: what is alike is drawn as one, and without seams."""
        wide, tall = (0.5 * step for step in flown.step_deg)
        ramp = s.paper.palette.level_ramp[::-1]
        off = (flown.azimuth_deg - self.turned_deg + 180.0) % 360.0 - 180.0
        split = np.flatnonzero(off - wide < -180.0)  # across the back: half of it at either edge
        off, cell = np.append(off, off[split] + 360.0), np.append(np.arange(len(off)), split)
        order = np.argsort(off)
        shades = flown.shade[cell]
        s.p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        s.p.setPen(Qt.PenStyle.NoPen)
        for k, elevation in enumerate(flown.elevation_deg.tolist()):
            low, high = (min(max(elevation + side * tall, -90.0), 90.0) for side in (-1, 1))
            row, west = shades[order, k], off[order]
            edges = np.flatnonzero(np.diff(np.concatenate(([-9], row, [-9]))))
            for a, b in pairwise(edges.tolist()):
                if row[a] < 0:
                    continue
                left, right = max(float(west[a]) - wide, -180.0) + 1e-6, min(float(west[b - 1]) + wide, 180.0) - 1e-6
                s.p.setBrush(s.paper.colour(ramp[int(row[a])]))
                x, y = at(np.array([left, right, right, left]) + self.turned_deg, np.array([low, low, high, high]))
                s.p.drawPolygon(polygon(x, y))
        s.p.setRenderHint(QPainter.RenderHint.Antialiasing, True)

    def _track(self, s: Sheet, flown: DirectionMap, at: At) -> None:
        for track in flown.tracks:
            one = track.where(track.counts)
            step = max(1, len(one.azimuth_deg) // MOST_TRACK)
            x, y = at(one.azimuth_deg[::step], one.elevation_deg[::step])
            s.dots(x, y, s.paper.colour("ink", 0.35), 1.4)

    def _strongest(self, s: Sheet, flown: DirectionMap, at: At) -> None:
        best = flown.best
        if best is None:
            return
        azimuth, elevation = best
        x, y = (float(v) for v in at(azimuth, elevation))
        s.ring(x, y, s.px(7), s.paper.colour("sheet"), 2)
        up = f"{show.elevation(abs(elevation))} {'up' if elevation >= 0 else 'down'}"
        where = f"{'strongest' if flown.unit == 'dB' else 'best'} at {show.bearing(azimuth)}, {up}"
        box = s.text(x + s.px(11), y - s.px(2), where, s.paper.colour("ink"), 11, halo=True)
        s.spot(box, None, where)

    def _ramp(self, s: Sheet, flown: DirectionMap, rect: QRectF) -> None:
        ramp = s.paper.palette.level_ramp[::-1]
        colour, wide, x = s.paper.colour, s.px(34), rect.left() + s.px(34)
        y = rect.center().y()
        for k, name in enumerate(ramp):
            s.rect(QRectF(x + k * wide, y - s.px(5), wide, s.px(10)), colour(name))
            if k:
                edge = flown.edges[k - 1]
                value = show.fixed(edge, 0) if flown.unit == "dB" else show.three(edge)
                s.text(x + k * wide, y + s.px(11), value, colour("soft"), 9.5, "middle", mono=True)
        unit = "dB under the strongest" if flown.unit == "dB" else f"{flown.unit}, the best on the left"
        words = f"{unit}; dots: where it was read"
        s.text(x + len(ramp) * wide + s.px(10), y, words, colour("soft"), 10.5)
