"""The Link's picture: the prediction as a fan, the field under it, and where the signal runs out."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF

from tallmast.findings.link import LinkFinding
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet, spread


@dataclass(kw_only=True)
class FanPicture(Picture):
    finding: LinkFinding
    wanted: str = ""
    least_height = 330

    @property
    def title(self) -> str:  # type: ignore[override]
        f = self.finding
        if f.predicted is None or f.focus is None:
            return "Budget against field"
        pad = f" through {f.at_pad_db:g} dB of pads" if f.at_pad_db else ""
        return f"{f.focus.name} at {show.power(f.at_power_w)}{pad}: what the budget predicts, what the field gave"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f, colour = sheet, self.finding, sheet.paper.colour
        if f.predicted is None or f.focus is None:
            s.text(rect.center().x(), rect.center().y(), "no budget yet", colour("soft"), 14, "middle")
            return
        d, free, fan, earth = f.predicted
        left, right = rect.left() + s.px(44), rect.right() - s.px(150)
        top, bottom = rect.top() + s.px(10), rect.bottom() - s.px(28)
        low = min(float(earth[-1]), f.sensitivity_dbm - 8, float(f.fitted[1][-1]) if f.fitted else 0.0)
        x = Axis(float(d[0]), float(d[-1]), left, right, log=True)
        y = Axis(max(low, f.sensitivity_dbm - 45), float(free[0] + fan[0]) + 1, bottom, top)
        s.level_over_distance(x, y)
        ink = s.paper.antenna(f.focus.slot)
        s.clip(QRectF(left, top, right - left, bottom - top))
        xs = x.many(d)
        s.between(xs, y.many(free - fan), y.many(free + fan), colour("open_wash", 0.95))
        s.path(xs, y.many(free), colour("soft"), 1.6)
        s.path(xs, y.many(earth), colour("soft"), 1.4, (2, 3))
        if f.points:
            s.dots(x.many(f.points[0]), y.many(f.points[1]), ink, 5)
        if f.fitted:
            s.path(x.many(f.fitted[0]), y.many(f.fitted[1]), ink, 2.4, s.dash(f.focus.slot))
        at = y(f.sensitivity_dbm)
        s.line(left, at, right, at, colour("accent"), 1.3, (5, 3))
        if f.distance_m:
            px = x(f.distance_m)
            s.line(px, top, px, bottom, colour("accent"), 1.3, (5, 3))
        s.unclip()
        s.text(
            left + s.px(6),
            at + s.px(10),
            f"sensitivity {show.fixed(f.sensitivity_dbm, 0)} dBm",
            colour("accent"),
            11,
            halo=True,
        )
        if f.distance_m:
            s.text(
                x(f.distance_m),
                top + s.px(8),
                self.wanted or show.distance(f.distance_m),
                colour("accent"),
                11.5,
                "middle",
                halo=True,
            )
        labels = [(float(free[-1]), "free space", colour("soft")), (float(earth[-1]), "plane earth", colour("soft"))]
        if f.fitted:
            labels.append((float(f.fitted[1][-1]), "field, fitted", ink))
        heights = spread([min(max(y(v), top), bottom) for v, _, _ in labels], s.px(17), top + s.px(4), bottom)
        for (_, words, shade), h in zip(labels, heights, strict=True):
            s.text(right + s.px(8), h, words, shade, 11.5)
        if f.residual:
            box = s.text(
                left + s.px(8), bottom - s.px(12), f"field − free space  {f.residual.text}", ink, 12, halo=True
            )
            s.spot(box, f.residual, f"field against free space {f.residual.text}")
        if f.budget:
            h = heights[0]
            s.spot(QRectF(right + s.px(6), h - 9, s.px(110), 18), f.budget, f"{f.budget.name} {f.budget.text}")
        for margin in f.margins:
            if margin.antenna.id == f.focus.id and f.distance_m:
                s.spot(
                    QRectF(x(f.distance_m) - 10, top, 20, bottom - top), margin.figure, f"margin {margin.figure.text}"
                )
