"""Two senders on one band: how far the wanted one stands over the other along the way out, what is needed, and where it broke."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.link import LinkFinding
from tallmast.findings.link.shared_band import Shared
from tallmast.findings.link.trials import Tried
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet

BESIDE_PX = 16.0


@dataclass(kw_only=True)
class TwoSendersPicture(Picture):
    """Heard at home; every trial is a row of marks under the line, in its antenna's colour."""

    finding: LinkFinding
    shared: Shared
    least_height = 320

    @property
    def title(self) -> str:  # type: ignore[override]
        one = self.shared
        assert one.breaks is not None
        far = one.breaks.at
        tail = f" may go out to {far.text} before {one.neighbour.name} breaks it" if far is not None else ""
        return f"The wanted one{tail}" if tail else f"The wanted one over {one.neighbour.name} along the way"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, one, colour = sheet, self.shared, sheet.paper.colour
        breaks = one.breaks
        assert breaks is not None
        trials = [t for t in self.finding.trials if t.trial.neighbour_id == one.neighbour.id]
        left, right = rect.left() + s.px(44), rect.right() - s.px(16)
        bottom = rect.bottom() - s.px(26) - len(trials) * s.px(BESIDE_PX)
        d, over, half = breaks.distance_m, breaks.over_db, breaks.half_db
        needed = one.neighbour.needed_db
        inside = np.abs(over - needed) < 45.0
        if inside.sum() < 2:
            inside = np.ones(len(d), dtype=bool)
        marks = [v for t in trials for v in t.trial.broke_m]
        x = Axis(min(float(d[inside][0]), *marks, 1e9), max(float(d[inside][-1]), *marks, 0.0), left, right, log=True)
        y = Axis(
            float((over - half)[inside].min()) - 2, float((over + half)[inside].max()) + 2, bottom, rect.top() + s.px(6)
        )
        for tick in y.ticks(6):
            s.line(x.start, y(tick), x.end, y(tick), colour("hairline"))
            s.text(x.start - s.px(6), y(tick), show.fixed(tick, 0), colour("soft"), 11, "right", mono=True)
        for tick in x.ticks(6):
            s.text(x(tick), rect.bottom() - s.px(10), show.distance(tick), colour("soft"), 10.5, "middle", mono=True)
        s.text(
            x.start + s.px(4), y.end + s.px(2), f"dB over {one.neighbour.name}, at home", colour("soft"), 11, halo=True
        )
        s.clip(QRectF(left, y.end, right - left, y.start - y.end))
        ink = s.paper.antenna(self.finding.focus.slot if self.finding.focus else 0)
        xs = x.many(d)
        s.between(xs, y.many(over - half), y.many(over + half), colour("open_wash", 0.95))
        s.path(xs, y.many(over), ink, 2.2)
        s.line(x.start, y(needed), x.end, y(needed), colour("accent"), 1.4, (5, 3))
        s.unclip()
        s.text(x.end - s.px(4), y(needed) - s.px(9), f"{needed:g} dB needed", colour("accent"), 11, "right", halo=True)
        if breaks.at is not None and x.low < breaks.at.value * 1e3 < x.high:
            px = x(breaks.at.value * 1e3)
            s.spot(QRectF(px - 9, y(needed) - 9, 18, 18), breaks.at, f"it breaks at {breaks.at.text}")
            s.glyph(px, y(needed), self.finding.focus.slot if self.finding.focus else 0, 9)
        for k, trial in enumerate(trials):
            self._trial(s, k, trial, x, bottom)

    def _trial(self, s: Sheet, k: int, trial: Tried, x: Axis, bottom: float) -> None:
        y = bottom + (k + 0.7) * s.px(BESIDE_PX)
        for metres in trial.trial.broke_m:
            s.glyph(x(metres), y, trial.antenna.slot, 8)
        words = f"broke: {trial.words}"
        far = max(x(v) for v in trial.trial.broke_m)
        wide = s.width(words, 10.5)
        near = min(x(v) for v in trial.trial.broke_m)
        at = far + s.px(9) if far + s.px(9) + wide < x.end else near - s.px(9) - wide
        box = s.text(at, y, words, s.paper.antenna(trial.antenna.slot), 10.5)
        s.spot(box, trial.level, f"{words}, at {show.distance(trial.at_m)}")
