"""The Pattern's picture: cuts laid over each other round a compass, decibels inward."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor

from tallmast.findings.pattern import CutReading, PatternFinding
from tallmast.findings.pattern.named import Toward
from tallmast.physics.decibels import Floats
from tallmast.physics.pattern import WIDEST_GAP_DEG, covered, level_at
from tallmast.units import show

from .picture import Picture
from .sheet import Sheet, polygon, spread

Compass = Callable[[ArrayLike, ArrayLike], tuple[Floats, Floats]]
"""(angle, level) to (x, y)."""

FLOOR_DB = -30.0
RINGS_DB = (0.0, -3.0, -10.0, -20.0)
RINGS_FIELD = (1.0, 0.707, 0.5, 0.2)
OVER_DB = 1.0
"""So far over its peak the middle of a noisy one is still drawn."""


NOISY_DB = 0.8
"""From this scatter on a curve says more than a line from sample to sample."""
LEAST_COMPASS = 0.24
"""Share of a picture's width that the compass's radius keeps."""


@dataclass(kw_only=True)
class PolarPicture(Picture):
    finding: PatternFinding
    plane: str = "azimuth"
    field: bool = False
    """As relative field, E/Emax, instead of decibels."""
    least_height = 430

    @property
    def title(self) -> str:  # type: ignore[override]
        how = "relative field E/Emax" if self.field else "dB against its peak"
        return f"{self.plane.capitalize()} cuts from each antenna's own front, {how}"

    def _out(self, level_db: ArrayLike) -> Floats:
        """How far out a level lies, 0 to 1."""
        level = np.asarray(level_db, dtype=float)
        if self.field:
            return np.asarray(np.clip(10.0 ** (level / 20.0), 0.0, 10.0 ** (OVER_DB / 20.0)))
        return np.asarray(np.clip((level - FLOOR_DB) / -FLOOR_DB, 0.0, 1.0 + OVER_DB / -FLOOR_DB))

    def _rings(self) -> list[tuple[float, str]]:
        """(level dB, what stands at it)"""
        if self.field:
            return [(20.0 * float(np.log10(v)), f"{v:g}") for v in RINGS_FIELD]
        return [(v, show.fixed(v, 0)) for v in RINGS_DB]

    def cuts(self) -> list[CutReading]:
        found = [a.cut(self.plane) for a in self.finding.antennas if a.antenna.id not in self.hidden]
        return [cut for cut in found if cut is not None]

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, colour = sheet, sheet.paper.colour
        cuts = self.cuts()
        told, beside = self._told(s, cuts, rect.width())
        rim = s.px(44 if self.plane == "azimuth" and self._named() else 24)
        radius = min(rect.height() / 2 - rim, max((rect.width() - beside) / 2, rect.width() * LEAST_COMPASS))
        cx, cy = rect.left() + radius + s.px(46), rect.center().y()
        if not cuts:
            s.text(
                rect.center().x(),
                rect.center().y(),
                f"no {self.plane} cut yet: turn it on the spot, or drop a CSV of angle and level",
                colour("soft"),
                14,
                "middle",
            )
            return

        over = self.plane == "elevation"  # front to the right and the sky above, as one stands beside it

        def at(angle_deg: ArrayLike, level_db: ArrayLike) -> tuple[Floats, Floats]:
            r = radius * self._out(level_db)
            t = np.radians(90.0 - np.asarray(angle_deg) if over else np.asarray(angle_deg))
            return cx + r * np.sin(t), cy - r * np.cos(t)

        a, b = self.finding.sector_deg
        wedge = np.concatenate(([0.0], np.linspace(a, a + ((b - a) % 360 or 360), 60), [0.0]))
        edge = np.concatenate(([FLOOR_DB], np.zeros(60), [FLOOR_DB]))
        wx, wy = at(wedge, edge)
        s.p.setPen(Qt.PenStyle.NoPen)
        s.p.setBrush(colour("band", 0.7))
        s.p.drawPolygon(polygon(wx, wy))
        for ring, said in self._rings():
            r = radius * float(self._out(ring))
            s.p.setBrush(Qt.BrushStyle.NoBrush)
            s.p.setPen(s.pen(colour("line" if ring == 0 else "hairline"), 1))
            s.p.drawEllipse(QPointF(cx, cy), r, r)
            lx, ly = at(-107.0 if over else 197.0, ring)
            s.text(float(lx), float(ly), said, colour("soft"), 10.5, "middle", mono=True, halo=True)
        for angle in range(0, 360, 30):
            x1, y1 = at(angle, FLOOR_DB + 4)
            x2, y2 = at(angle, 0.0)
            s.line(float(x1), float(y1), float(x2), float(y2), colour("hairline"))
            t = np.radians(90.0 - angle if over else angle)
            lx, ly = cx + (radius + s.px(15)) * np.sin(t), cy - (radius + s.px(13)) * np.cos(t)
            s.text(float(lx), float(ly), show.direction(angle, self.plane), colour("soft"), 11, "middle", mono=True)
        if over:
            s.text(cx + radius - s.px(5), cy - s.px(8), "front", colour("soft"), 11, "right")
        s.text(cx + s.px(5), cy - radius + s.px(10), "up" if over else "front", colour("soft"), 11, "left")
        if not over:
            self._toward(s, (cx, cy), radius)
        self._design(s, at)
        order = sorted(cuts, key=lambda c: c.antenna.id == self.focus_id)
        for cut in order:
            self._trace(s, cut, at)
        self._names(s, cuts, told, cx + radius + s.px(36), rect)

    def _named(self) -> tuple[Toward, ...]:
        """Places and bearings that are asked for, as the antenna in focus looks at them."""
        focus = self.finding.of(self.focus_id) or self.finding.focus
        return focus.toward if focus is not None else ()

    def _toward(self, s: Sheet, centre: tuple[float, float], radius: float) -> None:
        """The places and the bearing asked for, at the rim, as the antenna in focus looks at them."""
        for one in self._named():
            t = np.radians(one.from_front_deg)
            ux, uy = float(np.sin(t)), -float(np.cos(t))
            (x1, y1), (x2, y2) = ((centre[0] + radius * k * ux, centre[1] + radius * k * uy) for k in (0.96, 1.05))
            s.line(x1, y1, x2, y2, s.paper.colour("accent"), 2)
            align = "left" if ux > 0.3 else "right" if ux < -0.3 else "middle"
            x, y = centre[0] + radius * 1.17 * ux, centre[1] + (radius + s.px(30)) * uy
            name = one.name or "wanted"
            box = s.text(x, y, name, s.paper.colour("accent"), 11.5, align, bold=True, halo=True)
            s.spot(box, one.level, one.words)

    def _design(self, s: Sheet, at: Compass) -> None:
        """The design of the one in focus, and the stretches at which it stands off."""
        focus = self.finding.of(self.focus_id) or self.finding.focus
        one = next((d for d in focus.designs if d.cut.plane == self.plane), None) if focus is not None else None
        if one is None:
            return
        x, y = at(np.append(one.angle_deg, 360.0), np.append(one.design_db, one.design_db[0]))
        s.path(x, y, s.paper.colour("soft"), 1.4, (2, 3))
        told = np.flatnonzero(np.isfinite(one.design_db))
        if len(told):
            k = int(told[len(told) // 8])
            s.text(float(x[k]) + s.px(4), float(y[k]), "design", s.paper.colour("soft"), 10.5, halo=True)
        for fault in one.faults:
            span = (fault.to_deg - fault.from_deg) % 360.0
            t = fault.from_deg + np.linspace(0.0, span, 24)
            x, y = at(t, np.full(24, OVER_DB))
            s.path(x, y, s.paper.colour("fails"), 3.0)
            mx, my = float(x[12]), float(y[12])
            s.spot(QRectF(mx - 9, my - 9, 18, 18), fault.worst, f"fault: {fault.worst.text} off its design")

    def _trace(self, s: Sheet, cut: CutReading, at: Compass) -> None:
        focus = cut.antenna.id == self.focus_id
        ink = s.paper.antenna(cut.antenna.slot, 1.0 if focus else 0.85)
        if cut.coarse:
            self._few(s, cut, at, ink)
        elif cut.of.way == "flight" or (focus and cut.spread.random_db > NOISY_DB):
            self._smooth(s, cut, at, focus)
        else:
            self._as_read(s, cut, at, focus)
        if not focus:
            return
        if cut.beam_edges_deg and cut.beamwidth:
            for edge in cut.beam_edges_deg:
                x1, y1 = at(edge, FLOOR_DB)
                x2, y2 = at(edge, 0.0)
                s.line(float(x1), float(y1), float(x2), float(y2), ink, 1.1, (4, 3))
            lx, ly = at(cut.beam_edges_deg[1] + 3, -6.5)
            box = s.text(float(lx) + s.px(6), float(ly), f"beam {cut.beamwidth.short}", ink, 11.5, halo=True)
            s.spot(box, cut.beamwidth, f"beamwidth {cut.beamwidth.text}")
        if cut.front_to_back is not None:
            bx, by = at(cut.peak_deg + 180, -cut.front_to_back.value)
            s.glyph(float(bx), float(by), cut.antenna.slot, 7)
            spot = QRectF(float(bx) - 9, float(by) - 9, 18, 18)
            s.spot(spot, cut.front_to_back, f"front to back {cut.front_to_back.text}")
        if cut.sidelobe and cut.sidelobe_deg is not None:
            sx, sy = at(cut.sidelobe_deg, cut.sidelobe.value)
            s.spot(QRectF(float(sx) - 9, float(sy) - 9, 18, 18), cut.sidelobe, f"largest sidelobe {cut.sidelobe.text}")
        if cut.sector is None or cut.sector_deg is None:
            return
        wx, wy = at(cut.sector_deg, cut.sector.value)
        s.spot(QRectF(float(wx) - 9, float(wy) - 9, 18, 18), cut.sector, f"weakest in sector {cut.sector.text}")

    def _as_read(self, s: Sheet, cut: CutReading, at: Compass, focus: bool) -> None:
        """From sample to sample, broken where a stretch was not read; of the one in focus the ± of a level."""
        ink = s.paper.antenna(cut.antenna.slot, 1.0 if focus else 0.85)
        angle = np.append(cut.angle_deg, cut.angle_deg[0] + 360)
        level = np.append(cut.level_db, cut.level_db[0])
        if cut.gap_deg > 30:
            holes = np.flatnonzero(np.diff(angle) > 30)
            angle = np.insert(angle, holes + 1, angle[holes])
            level = np.insert(level, holes + 1, np.nan)
        x, y = at(angle, level)
        if focus:
            u = 1.645 * cut.of.level_u_db
            for fine in _stretches(cut.angle_deg):
                smooth = level_at(cut.angle_deg, cut.level_db, fine)
                self._band(s, cut, at, fine, smooth - u, smooth + u)
        s.path(x, y, ink, 2.6 if focus else 1.5, s.dash(cut.antenna.slot))

    def _smooth(self, s: Sheet, cut: CutReading, at: Compass, focus: bool) -> None:
        """The curve through many readings with its ±, and the readings behind it."""
        angle, level, half = cut.line
        ink = s.paper.antenna(cut.antenna.slot, 1.0 if focus else 0.85)
        if focus:
            told = np.isfinite(level)
            edges = np.flatnonzero(np.diff(np.concatenate(([0], told.astype(int), [0]))))
            for a, b in zip(edges[::2], edges[1::2], strict=True):
                inside = slice(a, b)
                whole = b - a == len(angle)
                fine = np.append(angle, 360.0) if whole else angle[inside]
                low, high = level[inside] - half[inside], level[inside] + half[inside]
                if whole:
                    low, high = np.append(low, low[0]), np.append(high, high[0])
                self._band(s, cut, at, fine, low, high)
            x, y = at(cut.angle_deg, cut.level_db)
            s.dots(x, y, s.paper.antenna(cut.antenna.slot, 0.55), 2.5)
        x, y = at(np.append(angle, 360.0), np.append(level, level[0]))
        s.path(x, y, ink, 2.6 if focus else 1.5, s.dash(cut.antenna.slot))

    def _band(self, s: Sheet, cut: CutReading, at: Compass, angle: Floats, low: Floats, high: Floats) -> None:
        s.p.setPen(Qt.PenStyle.NoPen)
        s.p.setBrush(s.paper.antenna(cut.antenna.slot, 0.18))
        edges = [at(angle, high), at(angle[::-1], low[::-1])]
        px, py = (np.concatenate(both) for both in zip(*edges, strict=True))
        s.p.drawPolygon(polygon(px, py))

    def _few(self, s: Sheet, cut: CutReading, at: Compass, ink: QColor) -> None:
        """Each direction alone with its ±: between them nothing is drawn, since nothing was read."""
        half = cut.reading_half_db
        for angle, level in zip(cut.angle_deg.tolist(), cut.level_db.tolist(), strict=True):
            x1, y1 = at(angle, level - half)
            x2, y2 = at(angle, min(level + half, OVER_DB))
            s.line(float(x1), float(y1), float(x2), float(y2), ink, 1.6)
            x, y = at(angle, level)
            s.glyph(float(x), float(y), cut.antenna.slot, 10)
            words = f"{show.direction(angle, cut.plane)}: {show.plus_minus(level, half, 'dB')} against its strongest"
            s.spot(QRectF(float(x) - 9, float(y) - 9, 18, 18), cut.front_to_back, words)
        for angle in cut.of.lost_deg:
            x, y = at(angle, FLOOR_DB + 5.0)
            s.text(float(x), float(y), "nothing heard", ink, 11, "middle", halo=True)

    def _told(self, s: Sheet, cuts: list[CutReading], width: float) -> tuple[list[str], float]:
        """What is said of each in the sector, in so few words that the compass keeps its size, and the room for it all."""
        room = 0.0
        for words in ([_weakest(cut) for cut in cuts], [_weakest(cut, short=True) for cut in cuts]):
            names = [s.width(cut.antenna.name, 12.5, True) for cut in cuts]
            room = s.px(46 + 36 + 16 + 8) + max([s.width(line, 11.5) for line in words] + names, default=0.0)
            if (width - room) / 2 >= width * LEAST_COMPASS:
                break
        return words, room

    def _names(self, s: Sheet, cuts: list[CutReading], told: list[str], x: float, rect: QRectF) -> None:
        """What was read of each, beside the compass."""
        colour = s.paper.colour
        row = s.px(58)
        y = rect.top() + s.px(16)
        wanted = [y + row * i for i in range(len(cuts))]
        for cut, words, top in zip(cuts, told, spread(wanted, row, y, rect.bottom()), strict=True):
            focus = cut.antenna.id == self.focus_id
            s.glyph(x + s.px(6), top, cut.antenna.slot, 8)
            s.text(x + s.px(16), top, cut.antenna.name, s.paper.antenna(cut.antenna.slot), 12.5, bold=focus)
            beam = _beam(cut)
            box = s.text(x + s.px(16), top + s.px(16), beam, colour("ink"), 11.5)
            if cut.beamwidth:
                s.spot(box, cut.beamwidth, f"{cut.antenna.name}: {beam}")
            box = s.text(x + s.px(16), top + s.px(31), words, colour("soft"), 11.5)
            if cut.sector is not None:
                s.spot(box, cut.sector, f"{cut.antenna.name}: {_weakest(cut)}")


def _beam(cut: CutReading) -> str:
    if cut.coarse:
        back = cut.front_to_back
        return (
            f"opposite {show.plus_minus(-back.value, back.half, 'dB')}" if back and not back.bound else "few directions"
        )
    if cut.beamwidth is None and cut.gap_deg > WIDEST_GAP_DEG:
        return "beam not told"
    return f"beam {cut.beamwidth.text}" if cut.beamwidth else "all round"


def _weakest(cut: CutReading, short: bool = False) -> str:
    """The weakest in the sector that matters, in words."""
    if cut.coarse:
        return "sector not told"
    if cut.sector is None:
        return "sector not seen" if short else "no sample in the sector"
    level = f"{(show.fixed if cut.beamwidth else show.plus)(cut.sector.value, 1)} dB"
    if short:
        return f"at worst {level}"
    return f"at worst {level} {'from its mean ' if cut.beamwidth is None else ''}in the sector"


def _stretches(angle_deg: Floats) -> list[Floats]:
    """Angles in steps of 2° over each stretch of a turn that a cut covers: over a gap nothing is drawn."""
    fine = np.arange(0.0, 361.0, 2.0)
    seen = covered(angle_deg, fine)
    ends = np.flatnonzero(np.diff(seen)) + 1
    return [
        part for part, told in zip(np.split(fine, ends), np.split(seen, ends), strict=True) if told[0] and len(part) > 1
    ]
