"""A flight away from an antenna, seen from the side: the ground, the beam as it is tilted, the way flown, and where each link was lost and back."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor

from tallmast.findings.link.aloft import Aloft, Carried, Moment
from tallmast.findings.link.aloft_words import off_beam_words, way_words
from tallmast.physics.diffraction import EARTH_M
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet

MOST_ROWS = 600
HEAD_PX = 18.0
MOST_SPELLS = 2


@dataclass(kw_only=True)
class AloftPicture(Picture):
    """Heights over the ground at the antenna, straight rays: the ground falls away by the curve of the earth."""

    flown: Aloft
    least_height = 330

    @property
    def title(self) -> str:  # type: ignore[override]
        one = self.flown
        lost = [link.name for link in one.links if link.spells]
        if not lost:
            return f"Run {one.run.number} from the side: nothing was lost"
        return f"Run {one.run.number} from the side: {', then '.join(lost)} lost" + (
            "" if len(lost) == len(one.links) else f", {show.join([k.name for k in one.links if not k.spells])} held"
        )

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, one, colour = sheet, self.flown, sheet.paper.colour
        far = float(one.ground_m.max())
        drop = one.ground_m**2 / (2.0 * EARTH_M)
        way = one.way
        left, head = rect.left() + s.px(46), len(one.links) * s.px(HEAD_PX)
        x = Axis(0.0, far, left, rect.right() - s.px(22))
        high, low = float(one.up_m.max()), min(0.0, float((one.up_m - drop).min()))
        if way is not None:
            own = float(way.ground_m[0])
            top = way.top_m - own - way.distance_m**2 / (2.0 * EARTH_M)
            high, low = max(high, float(top.max())), min(low, float(top.min()))
        room = 0.1 * (high - low) + 2.0
        y = Axis(low - 0.5 * room, high + room, rect.bottom() - s.px(26), rect.top() + head + s.px(6))
        s.clip(QRectF(left, y.end, x.end - left, y.start - y.end))
        self._beam(s, x, y, far)
        if way is not None:
            xs = x.many(way.distance_m)
            s.between(xs, y.many(top), np.full(len(xs), y.start), colour("line"))
            s.path(xs, y.many(top), colour("ink"), 1.4)
        step = max(1, len(one.ground_m) // MOST_ROWS)
        s.dots(x.many(one.ground_m[::step]), y.many((one.up_m - drop)[::step]), colour("soft"), 2.2)
        s.unclip()
        s.height_over_distance(x, y, "m over the ground at the antenna")
        for k, link in enumerate(one.links):
            self._link(s, link, x, y, rect.top() + (k + 0.5) * s.px(HEAD_PX), drop)
        s.rect(QRectF(x(0.0) - s.px(5), y(one.antenna_m) - s.px(5), s.px(10), s.px(10)), colour("accent"))

    def _beam(self, s: Sheet, x: Axis, y: Axis, far: float) -> None:
        """Where it is tilted to, and where half of its power is gone."""
        one, ink = self.flown, s.paper.colour("accent")
        if one.tilt_deg is None:
            return
        d = np.array([0.0, far])

        def at(angle_deg: float) -> np.ndarray:
            return one.antenna_m + d * math.tan(math.radians(angle_deg))

        if one.half_up_deg is not None:
            edges = at(one.tilt_deg - one.half_up_deg), at(one.tilt_deg + one.half_up_deg)
            s.between(x.many(d), y.many(edges[0]), y.many(edges[1]), s.paper.colour("open_wash", 0.8))
        s.path(x.many(d), y.many(at(one.tilt_deg)), ink, 1.4, (5, 3))
        # Where the axis leaves the picture, or at its end.
        slope = math.tan(math.radians(one.tilt_deg))
        end = min(far, (y.high - one.antenna_m) / slope) if slope > 1e-6 else far
        words = f"beam {one.tilt_deg:+.0f}°" + (f", half its power ± {one.half_up_deg:.0f}°" if one.half_up_deg else "")
        s.text(x(end) + s.px(8), y(one.antenna_m + end * slope) + s.px(14), words, ink, 11, halo=True)

    def _link(self, s: Sheet, link: Carried, x: Axis, y: Axis, head: float, drop: np.ndarray) -> None:
        """A line over distance above the picture: thick where the link held; marks on the way where it was lost and back."""
        one, colour = self.flown, s.paper.colour
        held, gone = colour("holds"), colour("fails")
        s.text(x.start - s.px(7), head, s.fitted(link.name, x.start - s.px(2), 10.5), colour("ink"), 10.5, "right")
        first = min((spell.lost.distance_m for spell in link.spells), default=link.farthest_m)
        s.line(x(0.0), head, x(first), head, held, 4)
        if not link.spells:
            s.text(x(first) - s.px(4), head, "held", held, 10.5, "right", halo=True)
            return
        s.line(x(first), head, x.end, head, gone, 1.2, (2, 2))
        for spell in link.spells[:MOST_SPELLS]:
            lost, back = spell.lost, spell.back
            end = x.end if back is None else min(x(back.distance_m) + s.px(4), x.end - s.px(66))
            if back is not None:
                self._said(s, link, back, "back", end, head, held, "left")
            self._said(s, link, lost, "lost", min(x(lost.distance_m) - s.px(4), end - s.px(6)), head, gone, "right")
            for at, ink in ((lost, gone), (back, held)):
                if at is not None:
                    self._mark(s, x(at.distance_m), y(float(one.up_m[at.row] - drop[at.row])), ink)

    def _said(
        self,
        s: Sheet,
        link: Carried,
        at: Moment,
        word: str,
        px: float,
        head: float,
        ink: QColor,
        align: Literal["left", "right"],
    ) -> None:
        words = f"{word} {show.distance(at.distance_m)}"
        wide = s.width(words, 10.5) + s.px(6)
        left = px - wide if align == "right" else px
        s.rect(QRectF(left, head - s.px(7), wide, s.px(14)), s.paper.colour("sheet"))
        box = s.text(left + s.px(3), head, words, ink, 10.5)
        why = "; ".join(part for part in (off_beam_words(at), way_words(at)) if part)
        s.spot(box, None, f"{link.name} {words}" + (f": {why}" if why else ""))

    def _mark(self, s: Sheet, px: float, py: float, ink: QColor) -> None:
        s.line(px - s.px(4), py - s.px(4), px + s.px(4), py + s.px(4), ink, 2)
        s.line(px - s.px(4), py + s.px(4), px + s.px(4), py - s.px(4), ink, 2)
