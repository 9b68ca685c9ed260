"""The Shelf's picture: antennas to scale beside half a wavelength, and what is claimed against what is possible."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPolygonF

from tallmast.findings.shelf import ShelfFinding, ShelfRow
from tallmast.units import show

from .paper import Paper
from .picture import Picture
from .sheet import Axis, Sheet


@dataclass(kw_only=True)
class ShelfPicture(Picture):
    finding: ShelfFinding
    title = "On the shelf, to scale, and what is claimed against what is possible"

    def rows(self) -> list[ShelfRow]:
        return [row for row in self.finding.rows if row.antenna.id not in self.hidden]

    def height_for(self, width: float, paper: Paper) -> int:
        return round((52 + 58 * max(len(self.rows()), 1)) * paper.scale)

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, rows, f = sheet, self.rows(), self.finding
        colour = s.paper.colour
        if not rows:
            s.text(rect.center().x(), rect.center().y(), "add the antennas", colour("soft"), 14, "middle")
            return
        name_w = s.px(168)
        things = QRectF(rect.left() + name_w, rect.top(), rect.width() * 0.36, rect.height())
        axis_left = things.right() + s.px(30)
        row_h = s.px(58)
        top = rect.top() + s.px(22)
        half_wave = f.wavelength_m / 2
        longest = max([row.longest_m or 0 for row in rows] + [half_wave]) * 1.02
        across = Axis(0, longest, things.left(), things.right())
        gains = [
            v for row in rows for v in (row.claimed_gain_dbi, row.limit.value if row.limit else None) if v is not None
        ]
        gain = Axis(min([0.0, *gains]) - 1, max([10.0, *gains]) + 2, axis_left, rect.right() - s.px(24))
        for tick in gain.ticks(6):
            s.line(gain(tick), top - s.px(4), gain(tick), top + row_h * len(rows), colour("hairline"))
            s.text(
                gain(tick),
                top + row_h * len(rows) + s.px(12),
                f"{show.fixed(tick, 0)}",
                colour("soft"),
                11,
                "middle",
                mono=True,
            )
        s.text(rect.right() - s.px(2), top + row_h * len(rows) + s.px(12), "dBi", colour("soft"), 11, "right")
        s.text(gain.start, top - s.px(14), "most that physics allows, and the claim ▽", colour("soft"), 11)
        base = top + row_h * len(rows) + s.px(10)
        s.line(across(0), base, across(half_wave), base, colour("accent"), 2)
        s.text(across(half_wave) + s.px(6), base, f"half a wavelength, {show.length(half_wave)}", colour("soft"), 11)
        for i, row in enumerate(rows):
            y = top + row_h * (i + 0.5)
            if i:
                s.line(rect.left(), top + row_h * i, rect.right(), top + row_h * i, colour("hairline"))
            focus = row.antenna.id == self.focus_id
            s.glyph(rect.left() + s.px(8), y - s.px(8), row.antenna.slot)
            s.text(rect.left() + s.px(20), y - s.px(8), row.antenna.name, colour("ink"), 13, bold=focus)
            s.text(rect.left() + s.px(20), y + s.px(9), _facts(row), colour("soft"), 11)
            _silhouette(s, row, across, y)
            self._gain(s, row, gain, y)

    def _gain(self, s: Sheet, row: ShelfRow, gain: Axis, y: float) -> None:
        colour = s.paper.colour
        if row.limit is not None:
            bar = QRectF(gain.start, y - s.px(6), gain(row.limit.value) - gain.start, s.px(12))
            s.rect(bar, colour("open_wash"))
            s.line(bar.right(), y - s.px(9), bar.right(), y + s.px(9), colour("soft"), 2)
            s.text(bar.right() - s.px(6), y - s.px(16), row.limit.short, colour("soft"), 11, "right", mono=True)
            s.spot(bar.adjusted(0, -8, 4, 8), row.limit, f"{row.antenna.name}, {row.limit.name} {row.limit.short}")
        else:
            s.text(gain.start, y, "no sizes, no limit", colour("soft"), 11)
        if row.claimed_gain_dbi is not None:
            x = gain(row.claimed_gain_dbi)
            standings = {p.standing for p in row.claims if p.claim.quantity == "gain"}
            worst = next(name for name in ("impossible", "doubted", "possible", "no limit") if name in standings)
            ink = colour({"impossible": "fails", "doubted": "doubt"}.get(worst, "ink"))
            r = s.px(7)
            s.p.setPen(s.pen(ink, 1.8))
            s.p.setBrush(colour("sheet"))
            s.p.drawPolygon(QPolygonF([QPointF(x - r, y - r), QPointF(x + r, y - r), QPointF(x, y + r * 0.8)]))
            words = {"impossible": "✕ impossible", "doubted": "! doubtful", "possible": "possible"}.get(worst, "")
            s.text(x, y + s.px(18), words, ink, 11, "middle")
        else:
            s.text(gain.end, y + s.px(17), "no gain claimed", colour("soft"), 11, "right")


def _facts(row: ShelfRow) -> str:
    a = row.antenna
    parts = [a.made, a.type if a.type != "other" else ""]
    if a.mass_kg:
        parts.append(show.mass(a.mass_kg))
    return " · ".join(part for part in parts if part)


def _silhouette(s: Sheet, row: ShelfRow, across: Axis, y: float) -> None:
    """The antenna lying on its side, true to the scale."""
    a = row.antenna
    ink = s.paper.antenna(a.slot)
    x0 = across(0)
    if row.longest_m is None:
        s.text(x0, y, "sizes not noted", s.paper.colour("soft"), 11)
        return
    scale = (across.end - across.start) / across.high
    if a.type == "yagi" and a.length_m:
        end = across(a.length_m)
        s.line(x0, y, end, y, ink, 2)
        n = a.elements or 5
        for i in range(n):
            x = x0 + (end - x0) * i / max(n - 1, 1)
            tall = s.px(19 - 1.0 * i)
            s.line(x, y - tall, x, y + tall, ink, 2)
    elif a.type == "helix" and a.turns and a.turn_spacing_m and a.diameter_m:
        r = min(a.diameter_m * scale / 2, s.px(21))
        pitch = a.turn_spacing_m * scale
        s.line(x0, y - s.px(24), x0, y + s.px(24), ink, 2)
        for i in range(round(a.turns)):
            x = x0 + i * pitch
            s.line(x, y - r, x + pitch / 2, y + r, ink, 2)
            s.line(x + pitch / 2, y + r, x + pitch, y - r, ink, 2)
    elif a.face_width_m and a.face_height_m:
        w, h = a.face_width_m * scale, min(a.face_height_m * scale, s.px(46))
        s.rect(QRectF(x0, y - h / 2, w, h), s.paper.antenna(a.slot, 0.25), ink, 2, 2)
    else:
        length = a.length_m or row.longest_m
        thick = max(min((a.diameter_m or 0.006) * scale, s.px(14)), 3.0)
        s.rect(QRectF(x0, y - thick / 2, length * scale, thick), ink, None, 1, thick / 2)
        if a.type == "dipole":
            s.rect(QRectF(x0 + length * scale / 2 - 2, y - thick, 4, 2 * thick), s.paper.colour("sheet"), ink, 1)
