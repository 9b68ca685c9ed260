"""A display against the level that arrives: what its readings are worth, and where they are worth nothing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.levels.display import DisplayFinding
from tallmast.units import show
from tallmast.units.shown import SCALES

from .picture import Picture
from .sheet import Axis, Sheet


@dataclass(kw_only=True)
class DisplayPicture(Picture):
    finding: DisplayFinding
    least_height = 320

    @property
    def title(self) -> str:  # type: ignore[override]
        run = self.finding.curve.run
        return f"{show.upper_first(run.receiver)}: {run.scale} against the level that arrives"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, curve = sheet, self.finding.curve
        colour = s.paper.colour
        level, value = curve.steps.level_db, curve.value * curve.sign
        mean = curve.steps.mean * curve.sign
        left, right = rect.left() + s.px(58), rect.right() - s.px(30)
        top, bottom = rect.top() + s.px(26), rect.bottom() - s.px(36)
        x = Axis(float(level[0]), float(level[-1]), left, right)
        low, high = float(min(value.min(), mean.min())), float(max(value.max(), mean.max()))
        room = 0.08 * (high - low)
        y = Axis(low - room, high + room, bottom, top)
        for edge, bound in ((curve.bottom_db, "low"), (curve.top_db, "high")):
            if edge is None:
                continue
            x0, x1 = (left, x(edge)) if bound == "low" else (x(edge), right)
            s.rect(QRectF(x0, top, x1 - x0, bottom - top), colour("doubt_wash"))
            s.line(x(edge), top, x(edge), bottom, colour("doubt"), 1.2, (4, 3))
        for tick in y.ticks(6):
            s.line(left, y(tick), right, y(tick), colour("hairline"))
            s.text(left - s.px(7), y(tick), f"{tick:g}", colour("soft"), 11, "right", mono=True)
        s.text(left - s.px(7), rect.top() + s.px(8), SCALES[curve.run.scale].unit, colour("soft"), 11, "left")
        for tick in x.ticks(8):
            s.text(x(tick), bottom + s.px(13), show.fixed(tick, 0), colour("soft"), 11, "middle", mono=True)
        words = "dBm at the receiver" if curve.unit == "dBm" else "dB under no attenuation"
        s.text((left + right) / 2, bottom + s.px(28), words, colour("soft"), 11, "middle")
        xs, ys = x.many(level), y.many(value)
        band = curve.noise
        s.between(xs, y.many(value + band), y.many(value - band), colour("accent", 0.14))
        s.path(xs, ys, colour("accent"), 2.4)
        for a, b, n in zip(xs, y.many(mean), curve.steps.count, strict=True):
            size = s.px(3.0 if n < 3 else 4.0)
            s.rect(QRectF(a - size / 2, b - size / 2, size, size), colour("ink"))
        self._middle(s, x, y)
        if curve.bottom_db is not None:
            s.text(
                x(curve.bottom_db) + s.px(6),
                bottom - s.px(10),
                "← below the threshold: nothing told",
                colour("doubt"),
                11.5,
                halo=True,
            )
        if curve.top_db is not None:
            s.text(
                x(curve.top_db) - s.px(6),
                top + s.px(10),
                "saturated: nothing told →",
                colour("doubt"),
                11.5,
                "right",
                halo=True,
            )

    def _middle(self, s: Sheet, x: Axis, y: Axis) -> None:
        """One reading turned into decibels, as an example: its row, and the span of levels that it stands for."""
        told = self.finding.middle
        if told.state != "told":
            return
        colour, shown = s.paper.colour, self.finding.middle_shown
        low, high = told.level.interval
        at = y(shown)
        s.line(x.start, at, x(low), at, colour("holds"), 1.2, (2, 3))
        s.line(x(max(low, x.low)), at, x(min(high, x.high)), at, colour("holds"), 3)
        for end in (low, high):
            if x.low <= end <= x.high:
                s.line(x(end), at, x(end), y.start, colour("holds"), 1.2, (2, 3))
        span = np.clip([low, high], x.low, x.high)
        box = s.text(
            (x(float(span[0])) + x(float(span[1]))) / 2,
            at - s.px(13),
            f"{show.fixed(shown, 1) if shown % 1 else f'{shown:g}'} stands for {told.words}",
            colour("holds"),
            12,
            "middle",
            bold=True,
            halo=True,
        )
        s.spot(box, told.level, told.level.name + " " + told.words)
