"""The margin over the ground: colour by what is left, lines where nothing is, places and runs on it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from tallmast.findings.field import FieldFinding
from tallmast.findings.figure import Figure
from tallmast.findings.link.cells import Coverage
from tallmast.findings.link.coverage import Cover
from tallmast.physics.decibels import Floats
from tallmast.units import show

from .field import round_distance
from .paper import Paper
from .picture import Picture
from .sheet import Sheet

BOUNDS_DB = (-10.0, 0.0, 10.0, 20.0, 30.0)
"""Between the colours of the ramp."""
MOST_TRACK = 400
BESIDE = 190.0
STEP = 0.02
"""Of the reach, that the point which is read moves by keys."""
"""Of the picture’s width the map leaves so much to words."""


@dataclass(kw_only=True)
class CoveragePicture(Picture):
    """North is up, home is the square. `at`: what a hand points at, m east and north."""

    cover: Cover
    coverage: Coverage
    field: FieldFinding
    rings: tuple[tuple[str, float], ...] = ()
    """(words, m) of how far with what is tried."""
    at: tuple[float, float] | None = None
    least_height = 400
    _map: QRectF | None = None

    @property
    def title(self) -> str:  # type: ignore[override]
        name, grown = self.cover.margin.antenna.name, self.coverage
        if grown.against:
            enough, perhaps = grown.shares
            done = "" if grown.done == 1.0 else f", {show.percent(grown.done)} of it finely"
            return (
                f"{name} {grown.against}: enough over {show.percent(enough)} of the ground, perhaps over "
                f"{show.percent(perhaps)} more{done}"
            )
        if grown.done < 1.0:
            return f"Where {name} reaches: {show.percent(grown.done)} of it is worked out finely"
        reached, perhaps = grown.shares
        within = show.distance(grown.reach_m)
        if not self.cover.heights:
            return (
                f"Where {name} reaches over level ground, to {within} each way; heights would show what is in the way"
            )
        return (
            f"{name} reaches {show.percent(reached)} of the ground within {within} each way, "
            f"and perhaps {show.percent(perhaps)} more"
        )

    def height_for(self, width: float, paper: Paper) -> int:
        return round(min(self.least_height * paper.scale, max(width - BESIDE * paper.scale, 200.0)))

    def point(self) -> Figure | None:
        """What is pointed at."""
        return self.cover.at(self.coverage, *self.at) if self.at is not None else None

    def drag(self, x: float, y: float) -> float | None:
        if self._map is None or not self._map.contains(x, y):
            return None
        metres = 2.0 * self.coverage.reach_m / self._map.width()
        centre = self._map.center()
        self.at = ((x - centre.x()) * metres, (centre.y() - y) * metres)
        return 0.0

    def step(self, east: int, north: int) -> None:
        """The point that is read a step on, from home where none is read yet."""
        reach, (x, y) = self.coverage.reach_m, self.at or (0.0, 0.0)
        self.at = tuple(min(max(v + STEP * d * reach, -reach), reach) for v, d in ((x, east), (y, north)))  # type: ignore[assignment]

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s = sheet
        side = min(rect.height(), rect.width() - s.px(BESIDE))
        self._map = QRectF(rect.left(), rect.top(), side, side)
        s.rect(self._map, s.paper.colour("ground"))
        s.clip(self._map)
        s.p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        s.p.drawImage(self._map, self._coloured(s))
        self._lines(s)
        self._rings(s)
        self._marks(s)
        s.unclip()
        s.rect(self._map, None, s.paper.colour("line"))
        self._beside(s, QRectF(self._map.right() + s.px(16), rect.top(), s.px(174), rect.height()))

    def _on_map(self, east_m: Floats, north_m: Floats) -> tuple[Floats, Floats]:
        assert self._map is not None
        scale, centre = self._map.width() / (2.0 * self.coverage.reach_m), self._map.center()
        return centre.x() + np.asarray(east_m) * scale, centre.y() - np.asarray(north_m) * scale

    def _shades(self, s: Sheet) -> list[QColor]:
        return [s.paper.colour(name) for name in s.paper.palette.level_ramp]

    def _coloured(self, s: Sheet) -> QImage:
        """A pixel a cell; nothing where no height is known."""
        margin = self.coverage.margin_db
        shade = np.digitize(np.nan_to_num(margin, nan=0.0), BOUNDS_DB).astype(np.uint8)
        shade[np.isnan(margin)] = len(BOUNDS_DB) + 1
        pixels: NDArray[np.uint8] = np.ascontiguousarray(shade)
        rows, columns = pixels.shape
        image = QImage(pixels.data, columns, rows, columns, QImage.Format.Format_Indexed8)
        tints = [QColor(one) for one in self._shades(s)]
        for tint in tints:
            tint.setAlphaF(0.62)
        image.setColorTable([*(tint.rgba() for tint in tints), QColor(0, 0, 0, 0).rgba()])
        return image.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)

    def _lines(self, s: Sheet) -> None:
        """Of the ground, faint; then where it is surely, likely and perhaps still taken."""
        ink = s.paper.colour("ink")
        for east, north in self.coverage.ground:
            s.path(*self._on_map(east, north), s.paper.colour("ink", 0.28), 1.0)
        if self.coverage.done < 1.0:
            return
        for bound, width, dash in ((-1.0, 1.0, (2.0, 2.0)), (1.0, 1.0, (2.0, 2.0)), (0.0, 2.0, ())):
            for east, north in self.coverage.lines[bound]:
                s.path(*self._on_map(east, north), ink, width, dash)

    def _rings(self, s: Sheet) -> None:
        assert self._map is not None
        x, y = (float(v) for v in self._on_map(np.array(0.0), np.array(0.0)))
        scale = self._map.width() / (2.0 * self.coverage.reach_m)
        for k, (words, far_m) in enumerate(self.rings):
            s.ring(x, y, far_m * scale, s.paper.colour("accent"), 1.4, (5, 3))
            angle = np.radians(20.0 + 35.0 * k)
            s.text(
                x + far_m * scale * float(np.sin(angle)),
                y - far_m * scale * float(np.cos(angle)),
                words,
                s.paper.colour("accent"),
                10.5,
                "middle",
                halo=True,
            )

    def _marks(self, s: Sheet) -> None:
        """Tracks of the runs, home, places, and what is pointed at."""
        assert self._map is not None
        colour = s.paper.colour
        for ran in self.field.samples:
            track = ran.on_map
            if track.run.antenna_id in self.hidden or len(track.distance_m) < 2:
                continue
            step = max(1, len(track.distance_m) // MOST_TRACK)
            d, angle = track.distance_m[::step], np.radians(track.bearing_deg[::step])
            s.dots(*self._on_map(d * np.sin(angle), d * np.cos(angle)), colour("ink", 0.5), 1.6)
        x, y = (float(v) for v in self._on_map(np.array(0.0), np.array(0.0)))
        s.rect(QRectF(x - s.px(5), y - s.px(5), s.px(10), s.px(10)), colour("ink"))
        s.beside(x, y, self._map, self.cover.home.name, colour("ink"), 11.5, True)
        for name, east, north, figure in self.cover.places_on(self.coverage):
            x, y = (float(v) for v in self._on_map(np.array(east), np.array(north)))
            wanted = self.field.wanted is not None and name == self.field.wanted.name
            s.p.setBrush(colour("accent" if wanted else "sheet"))
            s.p.setPen(s.pen(colour("ink"), 1.6))
            s.p.drawEllipse(QPointF(x, y), s.px(4.5), s.px(4.5))
            s.beside(x, y, self._map, f"{name} {show.fixed(figure.value, 0)}", colour("ink"), 11, wanted)
            what = self.coverage.against or "margin"
            s.spot(QRectF(x - 10, y - 10, 20, 20), figure, f"{what} at {name} {figure.text}")
        if self.at is not None:
            x, y = (float(v) for v in self._on_map(np.array(self.at[0]), np.array(self.at[1])))
            for dx, dy in ((8.0, 0.0), (0.0, 8.0)):
                s.line(x - dx, y - dy, x + dx, y + dy, colour("accent"), 1.6)

    def _beside(self, s: Sheet, rect: QRectF) -> None:
        """What the colours say, and what is pointed at."""
        colour, shades = s.paper.colour, self._shades(s)
        y, tall = rect.top() + s.px(10), s.px(20)
        what = "over what is needed, dB" if self.coverage.against else "margin of the median, dB"
        s.text(rect.left(), y, what, colour("soft"), 11)
        y += s.px(14)
        for k, shade in enumerate(reversed(shades)):
            tint = QColor(shade)
            tint.setAlphaF(0.62)
            s.rect(QRectF(rect.left(), y + k * tall, s.px(22), tall), tint)
        for k, bound in enumerate(reversed(BOUNDS_DB), 1):
            words = f"{show.fixed(bound, 0)}" + (
                f", just {'enough' if self.coverage.against else 'taken'}" if bound == 0.0 else ""
            )
            s.text(rect.left() + s.px(28), y + k * tall, words, colour("ink"), 10.5, mono=bound != 0.0)
        y += len(shades) * tall + s.px(16)
        for words, width, dash in (("nothing to spare", 2.0, ()), ("at either end of the ±", 1.0, (2.0, 2.0))):
            s.line(rect.left(), y, rect.left() + s.px(22), y, colour("ink"), width, dash)
            s.text(rect.left() + s.px(28), y, words, colour("soft"), 10.5)
            y += s.px(16)
        ring = round_distance(self.coverage.reach_m / 2.0)
        assert self._map is not None
        length = ring * self._map.width() / (2.0 * self.coverage.reach_m)
        y += s.px(8)
        s.line(rect.left(), y, rect.left() + min(length, s.px(160)), y, colour("ink"), 2)
        s.text(rect.left(), y + s.px(11), show.distance(ring), colour("soft"), 10.5)
        y += s.px(14)
        for words in filter(None, (self.cover.looks, self.cover.typed)):
            y += s.px(16)
            s.text(rect.left(), y, s.fitted(words, rect.width(), 11), colour("ink"), 11)
        figure = self.point()
        if self.at is not None:
            y += s.px(36)
            d, b = float(np.hypot(*self.at)), float(np.degrees(np.arctan2(*self.at))) % 360.0
            s.text(rect.left(), y, f"{show.distance(d)} at {show.bearing(b)}", colour("ink"), 11.5)
            words = figure.text if figure is not None else "no height known there"
            box = s.text(rect.left(), y + s.px(16), words, colour("ink"), 12, bold=True)
            if figure is not None:
                s.spot(box, figure, f"{self.coverage.against or 'margin'} there {figure.text}")
