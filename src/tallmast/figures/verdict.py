"""The Verdict's picture: every way in which the gain is known, on one axis."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPolygonF

from tallmast.findings.figure import Figure
from tallmast.findings.verdict import Ranked, VerdictFinding
from tallmast.units import show

from .paper import MARKS, Paper
from .picture import Picture
from .sheet import Axis, Sheet

ROW = 15.5


USUAL = ("range", "flight", "field")
"""Ways that are named where they give none, so long as there is room."""


def _ways(r: Ranked) -> list[tuple[str, Figure | None]]:
    """Every way in which its gain was measured; of the usual three those that were not, up to as many in all."""
    measured: list[tuple[str, Figure | None]] = list(r.gain.measured)
    missing = [way for way in USUAL if way not in dict(measured)]
    room = max(len(USUAL) - len(measured), 0)
    return sorted(
        [*measured, *((way, None) for way in missing[:room])],
        key=lambda one: USUAL.index(one[0]) if one[0] in USUAL else -1,
    )


@dataclass(kw_only=True)
class GainPicture(Picture):
    finding: VerdictFinding
    title = "Gain toward its front, every way it was found; bars are 90 % intervals"

    def rows(self) -> list[Ranked]:
        return [r for r in self.finding.ranked if r.antenna.known_gain_dbi is None and r.antenna.id not in self.hidden]

    def _lines(self) -> int:
        """Of one antenna: claim, limit, and the most ways that any has."""
        return 2 + max((len(_ways(r)) for r in self.rows()), default=len(USUAL))

    def height_for(self, width: float, paper: Paper) -> int:
        return round((34 + (ROW * self._lines() + 10) * max(len(self.rows()), 1)) * paper.scale)

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, colour = sheet, sheet.paper.colour
        rows = self.rows()
        values: list[float] = []
        for r in rows:
            values += [v for v in (r.gain.claimed_dbi, r.gain.limit.value if r.gain.limit else None) if v is not None]
            for _, figure in r.gain.measured:
                values += list(figure.interval)
        left, right = rect.left() + s.px(290), rect.right() - s.px(24)
        axis = Axis(min([0.0, *values]) - 0.5, max([10.0, *values]) + 1.0, left, right)
        row, block = s.px(ROW), s.px(ROW * self._lines() + 10)
        top = rect.top() + s.px(4)
        bottom = top + block * len(rows)
        for tick in axis.ticks(8):
            s.line(axis(tick), top, axis(tick), bottom, colour("hairline"))
            s.text(axis(tick), bottom + s.px(12), show.fixed(tick, 0), colour("soft"), 11, "middle", mono=True)
        s.text(right + s.px(20), bottom + s.px(12), "dBi", colour("soft"), 11, "right")
        for i, r in enumerate(rows):
            self._block(s, r, axis, top + block * i, row, rect)
            if i:
                s.line(rect.left(), top + block * i, rect.right(), top + block * i, colour("hairline"))

    def _block(self, s: Sheet, r: Ranked, axis: Axis, top: float, row: float, rect: QRectF) -> None:
        colour = s.paper.colour
        ink = s.paper.antenna(r.antenna.slot)
        x = rect.left() + s.px(8)
        s.glyph(x, top + row * 0.9, r.antenna.slot, 9)
        s.text(x + s.px(10), top + row * 0.9, r.antenna.name, colour("ink"), 13.5, bold=True)
        if r.gain.combined:
            box = s.text(x + s.px(10), top + row * 2.15, r.gain.combined.text, ink, 12.5, mono=True)
            s.spot(box, r.gain.combined, f"{r.antenna.name}, gain {r.gain.combined.text}")
        else:
            s.text(x + s.px(10), top + row * 2.15, "gain not measured", colour("soft"), 12)
        mark = r.gain.agreement
        s.text(x + s.px(10), top + row * 3.35, f"{MARKS[mark]} {r.gain.agreement_words}", s.paper.mark(mark), 12)
        label_x = axis.start - s.px(10)

        def at(k: int) -> float:
            return top + row * (k + 0.85)

        s.text(label_x, at(0), "claimed", colour("soft"), 11, "right")
        if r.gain.claimed_dbi is not None:
            cx, cy, half = axis(r.gain.claimed_dbi), at(0), s.px(5.5)
            s.p.setPen(s.pen(colour("ink"), 1.6))
            s.p.setBrush(colour("sheet"))
            s.p.drawPolygon(
                QPolygonF([QPointF(cx - half, cy - half), QPointF(cx + half, cy - half), QPointF(cx, cy + half)])
            )
            fate = next(
                (f for f in self.finding.claims if f.antenna.id == r.antenna.id and f.claim.quantity == "gain"), None
            )
            if fate:
                word = {"impossible": "impossible", "fails": "fails", "holds": "holds", "open": "not shown yet"}[
                    fate.mark
                ]
                side = "right" if cx > axis.end - s.px(90) else "left"
                s.text(
                    cx + s.px(10 if side == "left" else -10),
                    cy,
                    f"{MARKS[fate.mark]} {word}",
                    s.paper.mark(fate.mark),
                    11.5,
                    side,
                    halo=True,
                )
        else:
            s.text(axis.start, at(0), "nothing", colour("soft"), 11)
        s.text(label_x, at(1), "most possible", colour("soft"), 11, "right")
        if r.gain.limit:
            end = axis(r.gain.limit.value)
            s.rect(QRectF(axis.start, at(1) - s.px(4), max(end - axis.start, 1), s.px(8)), colour("open_wash"))
            s.line(end, at(1) - s.px(6), end, at(1) + s.px(6), colour("soft"), 2)
            s.spot(
                QRectF(axis.start, at(1) - 7, max(end - axis.start, 1) + 4, 14),
                r.gain.limit,
                f"{r.gain.limit.name} {r.gain.limit.short}",
            )
        else:
            s.text(axis.start, at(1), "sizes not noted", colour("soft"), 11)
        for k, (way, figure) in enumerate(_ways(r), 2):
            s.text(label_x, at(k), way, colour("soft"), 11, "right")
            if figure is None:
                s.text(axis.start, at(k), "none", colour("soft"), 11)
                continue
            low, high = figure.interval
            s.line(axis(low), at(k), axis(high), at(k), ink, 2)
            s.glyph(axis(figure.value), at(k), r.antenna.slot, 8, ink)
            s.spot(
                QRectF(axis(low), at(k) - 8, axis(high) - axis(low), 16),
                figure,
                f"{r.antenna.name}, by {way} {figure.text}",
            )
