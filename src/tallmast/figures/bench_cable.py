"""Along a cable: what comes back from where."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.bench import CableReading
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet


@dataclass(kw_only=True)
class AlongPicture(Picture):
    """|Γ| over distance from the plane, in decibels below all; each step named in metres, the far end marked."""

    cable: CableReading
    least_height = 230
    FLOOR_DB = -60.0

    @property
    def title(self) -> str:  # type: ignore[override]
        return f"Along {self.cable.sweep.name}: what comes back from where"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, c, colour = sheet, self.cable, sheet.paper.colour
        if c.response is None:
            s.text(rect.center().x(), rect.center().y(), c.words, colour("soft"), 13, "middle")
            return
        left, right = rect.left() + s.px(48), rect.right() - s.px(30)
        top, bottom = rect.top() + s.px(30), rect.bottom() - s.px(26)
        end = c.length.value if c.length else c.sweep.length_m
        reach = float(c.response.distance_m[-1])
        far = min(1.35 * end if end else reach, reach)
        x, y = Axis(0.0, far, left, right), Axis(self.FLOOR_DB, 0.0, bottom, top)
        for level in (-60.0, -40.0, -20.0, 0.0):
            s.line(left, y(level), right, y(level), colour("hairline"))
            words = f"{level:g}".replace("-", show.MINUS)
            s.text(left - s.px(7), y(level), words, colour("soft"), 11, "right", mono=True)
        s.text(left - s.px(7), top - s.px(14), "dB", colour("soft"), 11, "right")
        for tick in x.ticks(8):
            s.text(x(tick), bottom + s.px(12), f"{tick:g}", colour("soft"), 11, "middle", mono=True)
        s.text(right + s.px(14), bottom + s.px(12), "m", colour("soft"), 11)
        seen = c.response.distance_m <= far
        level_db = 20 * np.log10(np.maximum(c.response.magnitude[seen], 1e-4))
        s.clip(QRectF(left, top - 1, right - left, bottom - top + 2))
        s.path(x.many(c.response.distance_m[seen]), y.many(level_db), colour("ink"), 1.8)
        s.unclip()
        if end is not None and end < far:
            s.line(x(end), top, x(end), bottom, colour("soft"), 1, (4, 3))
            s.text(x(end), top - s.px(14), f"{c.sweep.far_end} at {show.fixed(end, 2)} m", colour("soft"), 11, "middle")
        for step in c.steps:
            at = x(step.distance_m)
            high = y(max(20 * np.log10(step.magnitude), self.FLOOR_DB))
            words = f"{show.fixed(step.distance_m, 2)} ± {show.fixed(1.645 * step.u_m, 2)} m"
            s.line(at, high - s.px(4), at, high - s.px(22), colour("fails"), 1.6)
            box = s.text(at, high - s.px(30), words, colour("fails"), 12, "middle", halo=True)
            if c.loss or c.length:
                s.spot(box, c.loss or c.length, f"a step at {words}, |Γ| {step.magnitude:.2f}")
