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
        if f.drawn is None or f.focus is None:
            return "Budget against field"
        pad = f" through {f.drawn.pad_db:g} dB of pads" if f.drawn.pad_db else ""
        return f"{f.focus.name} at {show.power(f.drawn.power_w)}{pad}: what the budget predicts, what the field gave"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f, colour = sheet, self.finding, sheet.paper.colour
        if f.drawn is None or f.focus is None:
            s.text(rect.center().x(), rect.center().y(), "no budget yet", colour("soft"), 14, "middle")
            return
        w = f.drawn
        d, free, fan, earth = w.distance_m, w.free_dbm, w.fan_db, w.earth_dbm
        left, right = rect.left() + s.px(44), rect.right() - s.px(150)
        top, bottom = rect.top() + s.px(10), rect.bottom() - s.px(28)
        low = min(float(earth[-1]), f.sensitivity_dbm - 8, float(w.fitted[1][-1]) if w.fitted else 0.0)
        x = Axis(float(d[0]), float(d[-1]), left, right, log=True)
        y = Axis(max(low, f.sensitivity_dbm - 45), float(free[0] + fan[0]) + 1, bottom, top)
        s.level_over_distance(x, y)
        ink = s.paper.antenna(f.focus.slot)
        s.clip(QRectF(left, top, right - left, bottom - top))
        xs = x.many(d)
        s.between(xs, y.many(free - fan), y.many(free + fan), colour("open_wash", 0.95))
        s.path(xs, y.many(free), colour("soft"), 1.6)
        s.path(xs, y.many(earth), colour("soft"), 1.4, (2, 3))
        if w.points:
            s.dots(x.many(w.points[0]), y.many(w.points[1]), ink, 5)
        if w.fitted:
            s.path(x.many(w.fitted[0]), y.many(w.fitted[1]), ink, 2.4, s.dash(f.focus.slot))
        at = y(f.sensitivity_dbm)
        s.line(left, at, right, at, colour("accent"), 1.3, (5, 3))
        if f.way is not None:
            px = x(f.way.distance_m)
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
        if f.way is not None:
            s.text(
                x(f.way.distance_m),
                top + s.px(8),
                self.wanted or show.distance(f.way.distance_m),
                colour("accent"),
                11.5,
                "middle",
                halo=True,
            )
        labels = [(float(free[-1]), "free space", colour("soft")), (float(earth[-1]), "plane earth", colour("soft"))]
        if w.fitted:
            labels.append((float(w.fitted[1][-1]), "field, fitted", ink))
        heights = spread([min(max(y(v), top), bottom) for v, _, _ in labels], s.px(17), top + s.px(4), bottom)
        for (_, words, shade), h in zip(labels, heights, strict=True):
            s.text(right + s.px(8), h, words, shade, 11.5)
        if w.residual:
            box = s.text(
                left + s.px(8), bottom - s.px(12), f"field − free space  {w.residual.text}", ink, 12, halo=True
            )
            s.spot(box, w.residual, f"field against free space {w.residual.text}")
        if w.budget:
            h = heights[0]
            s.spot(QRectF(right + s.px(6), h - 9, s.px(110), 18), w.budget, f"{w.budget.name} {w.budget.text}")
        for margin in f.margins:
            if margin.antenna.id == f.focus.id and f.way is not None:
                s.spot(
                    QRectF(x(f.way.distance_m) - 10, top, 20, bottom - top),
                    margin.figure,
                    f"margin {margin.figure.text}",
                )
