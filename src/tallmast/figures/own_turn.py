"""A turn on a scale of its own: bit rate, bars, delay by direction."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.pattern.samples import OwnTurn
from tallmast.units import show
from tallmast.units.shown import words_of

from .picture import Picture
from .sheet import Sheet


@dataclass(kw_only=True)
class OwnTurnPicture(Picture):
    """Turns on one scale, the better farther out; each reading stands where it was read, and nothing between."""

    turns: tuple[OwnTurn, ...]
    least_height = 400

    @property
    def title(self) -> str:  # type: ignore[override]
        return f"By direction from its front, {self.turns[0].unit}: a scale of its own, no decibels"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, colour = sheet, sheet.paper.colour
        turns = [t for t in self.turns if t.antenna.id not in self.hidden] or list(self.turns)
        values = np.concatenate([t.value for t in turns])
        low, high = min(0.0, float(values.min())), float(values.max())
        more = turns[0].more_is_better
        if not more:
            low = float(values.min())
        span = max(high - low, 1e-9)
        radius = min(rect.height() / 2 - s.px(26), rect.width() / 2 - s.px(140))
        cx, cy = rect.left() + radius + s.px(70), rect.center().y()
        for share in (0.25, 0.5, 0.75, 1.0):
            s.ring(cx, cy, radius * share, colour("line" if share == 1.0 else "hairline"), 1)
            value = low + span * share if more else high - span * share
            s.text(
                cx, cy + radius * share - s.px(7), f"{value:.3g}", colour("soft"), 10, "middle", mono=True, halo=True
            )
        for angle in range(0, 360, 30):
            t = np.radians(angle)
            x, y = cx + (radius + s.px(14)) * np.sin(t), cy - (radius + s.px(14)) * np.cos(t)
            s.line(cx, cy, cx + radius * np.sin(t), cy - radius * np.cos(t), colour("hairline"))
            words = "front" if angle == 0 else show.bearing(angle)
            s.text(float(x), float(y), words, colour("soft"), 11, "middle", mono=angle != 0)
        for k, turn in enumerate(turns):  # a little apart, or equal readings would hide each other
            self._one(s, turn, (cx, cy), radius, low, span, 3.0 * (k - (len(turns) - 1) / 2.0))
        self._names(s, turns, cx + radius + s.px(50), rect)

    def _one(
        self,
        s: Sheet,
        turn: OwnTurn,
        centre: tuple[float, float],
        radius: float,
        low: float,
        span: float,
        aside_deg: float,
    ) -> None:
        ink = s.paper.antenna(turn.antenna.slot)
        for angle, value, blocked in zip(turn.angle_deg.tolist(), turn.value.tolist(), turn.blocked, strict=True):
            share = (value - low) / span
            r = radius * (share if turn.more_is_better else 1.0 - share)
            t = np.radians(angle + aside_deg)
            x, y = centre[0] + r * float(np.sin(t)), centre[1] - r * float(np.cos(t))
            s.line(*centre, x, y, ink, 1.6, s.dash(turn.antenna.slot))
            s.glyph(x, y, turn.antenna.slot, 10)
            words = words_of(turn.turn.read_on, value)
            told = (
                f"{turn.antenna.name} at {show.bearing(angle)}: {words}{f', {blocked} in the way' if blocked else ''}"
            )
            s.spot(QRectF(x - 9, y - 9, 18, 18), None, told)
        for angle in turn.lost_deg:
            t = np.radians(angle)
            x, y = centre[0] + s.px(24) * float(np.sin(t)), centre[1] - s.px(24) * float(np.cos(t))
            s.text(x, y, "nothing", ink, 10.5, "middle", halo=True)

    def _names(self, s: Sheet, turns: list[OwnTurn], x: float, rect: QRectF) -> None:
        y = rect.top() + s.px(18)
        for turn in turns:
            slot = turn.antenna.slot
            s.glyph(x + s.px(6), y, slot, 8)
            s.text(
                x + s.px(16), y, turn.antenna.name, s.paper.antenna(slot), 12.5, bold=turn.antenna.id == self.focus_id
            )
            best, worst = (words_of(turn.turn.read_on, float(turn.value[k])) for k in (turn.best, turn.worst))
            s.text(x + s.px(16), y + s.px(16), f"{worst} to {best}", s.paper.colour("ink"), 11.5)
            if turn.turn.held:
                s.text(x + s.px(16), y + s.px(31), turn.turn.held, s.paper.colour("soft"), 11.5)
            y += s.px(58)
