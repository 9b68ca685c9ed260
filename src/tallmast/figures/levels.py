"""The Levels' picture: a staircase of power from the transmitter into the air."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF

from tallmast.findings.levels import LevelsFinding
from tallmast.physics.decibels import watt_from_dbm
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet


@dataclass(kw_only=True)
class StaircasePicture(Picture):
    finding: LevelsFinding
    title = "Power, step by step, as set up for the test"
    least_height = 300

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f = sheet, self.finding
        colour = s.paper.colour
        steps = f.steps
        if not steps:
            s.text(rect.center().x(), rect.center().y(), "note the power and the pads", colour("soft"), 14, "middle")
            return
        levels = [step.level_dbm for step in steps]
        lines = [v for v in (f.full_eirp.value if f.full_eirp else None, f.legal_eirp_dbm) if v is not None]
        top, bottom = rect.top() + s.px(26), rect.bottom() - s.px(34)
        y = Axis(min(levels + lines) - 5, max(levels + lines) + 4, bottom, top)
        left, right = rect.left() + s.px(54), rect.right() - s.px(150)
        for tick in y.ticks(6):
            s.line(left, y(tick), right, y(tick), colour("hairline"))
            s.text(left - s.px(7), y(tick), show.fixed(tick, 0), colour("soft"), 11, "right", mono=True)
        s.text(left - s.px(7), top - s.px(16), "dBm", colour("soft"), 11, "right")
        if f.legal_eirp_dbm is not None:
            s.line(left, y(f.legal_eirp_dbm), right, y(f.legal_eirp_dbm), colour("fails"), 1.4, (6, 3))
            s.text(
                right + s.px(8),
                y(f.legal_eirp_dbm),
                f"your limit {show.power(watt_from_dbm(f.legal_eirp_dbm))}",
                colour("fails"),
                11,
            )
        if f.full_eirp is not None:
            at = y(f.full_eirp.value)
            s.line(left, at, right, at, colour("accent"), 1.4, (2, 3))
            clash = f.legal_eirp_dbm is not None and abs(at - y(f.legal_eirp_dbm)) < s.px(15)
            box = s.text(
                right + s.px(8),
                at + (s.px(13) if clash else 0),
                f"EIRP at full power {f.full_eirp.short}",
                colour("accent"),
                11,
            )
            s.spot(box, f.full_eirp, f"EIRP at full power {f.full_eirp.text}")
        wide = (right - left) / len(steps)
        before = None
        for i, step in enumerate(steps):
            x0, x1 = left + i * wide, left + (i + 1) * wide
            at = y(step.level_dbm)
            last = i == len(steps) - 1
            ink = colour("fails" if step.mark == "fails" else "accent" if last else "ink")
            doubt = abs(y(step.level_dbm + 1.645 * step.u_db) - at)
            s.rect(QRectF(x0, at - doubt, x1 - x0, 2 * doubt), colour("open_wash", 0.9))
            if before is not None:
                s.line(x0, before, x0, at, ink, 2)
                # Beside its riser; under it where the riser is too short to hold words.
                middle = (before + at) / 2 if abs(before - at) > s.px(24) else max(before, at) + s.px(14)
                s.text(
                    x0 - s.px(5), middle, f"{show.plus(step.change_db, 1)} dB", colour("ink"), 12, "right", mono=True
                )
            s.line(x0, at, x1, at, ink, 3)
            s.text(
                (x0 + x1) / 2 + s.px(4),
                at - s.px(12),
                show.power(watt_from_dbm(step.level_dbm)),
                colour("soft"),
                11,
                "middle",
                mono=True,
            )
            s.text((x0 + x1) / 2, bottom + s.px(12), step.name, colour("ink"), 12, "middle", bold=last)
            if step.rating_w is not None and step.dissipated_w is not None:
                words = f"{'✓' if step.mark == 'holds' else '✕'} {show.power(step.dissipated_w)} of {show.power(step.rating_w)}"
                s.text((x0 + x1) / 2, bottom + s.px(26), words, s.paper.mark(step.mark or "open"), 11, "middle")
            before = at
        if f.eirp:
            s.text(right + s.px(8), y(f.eirp.value), f"EIRP {f.eirp.text}", colour("accent"), 12, bold=True)
            s.spot(
                QRectF(left + wide * (len(steps) - 1), y(f.eirp.value) - 12, wide + s.px(140), 24),
                f.eirp,
                f"EIRP in the test {f.eirp.text}",
            )
