"""The way to a place seen from the side: the ground as the earth bends it up, the ray, its first Fresnel zone, and what stands there."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.way import Profile
from tallmast.findings.way.words import taken_figure, tightest_words
from tallmast.physics.diffraction import CLEAR_SHARE
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet

Held = Literal["", "home", "away", "place"]
GRAB_PX = 22.0
"""So near an end a hand takes hold of it."""
LEAST_M, MOST_M = 0.5, 150.0
"""Heights that an antenna can be dragged to."""


HEIGHT_STEP_M, PLACE_STEP = 0.5, 0.02
"""By keys: an antenna's height, and the place as a share of the way shown."""


@dataclass(kw_only=True)
class ProfilePicture(Picture):
    """Both antennas are dragged up and down, the far place along the ground; the ray is straight, and the earth bulges."""

    profile: Profile
    home_name: str = "home"
    least_height = 330
    held: Held = ""
    """What a hand has hold of."""
    _x: Axis | None = field(default=None, repr=False)
    _y: Axis | None = field(default=None, repr=False)

    @property
    def title(self) -> str:  # type: ignore[override]
        return tightest_words(self.profile) or "Too near for anything to stand between"

    def drag(self, x: float, y: float) -> float | None:
        """The height over its ground of the antenna that a hand holds, or how far off the place is, m."""
        if self._x is None or self._y is None:
            return None
        if not self.held:
            self.held = self._at(x, y)
        p = self.profile
        if self.held == "place":
            least = 0.05 * p.whole_m
            return min(max(self._x.back(x), least), self._x.high)
        if self.held:
            ground = float(p.ground_m[0] if self.held == "home" else p.ground_m[-1])
            return min(max(self._y.back(y) - ground, LEAST_M), MOST_M)
        return None

    def stepped(self, what: Held, up: int) -> float:
        """Where a step by keys would bring what a hand could hold: an antenna's height over its ground, or how far off the place is, m."""
        p = self.profile
        if what == "place":
            far = self._x.high if self._x is not None else p.whole_m
            return min(max(p.whole_m + up * PLACE_STEP * far, PLACE_STEP * far), far)
        height = p.home_height_m if what == "home" else p.away_height_m
        return min(max(height + up * HEIGHT_STEP_M, LEAST_M), MOST_M)

    def _at(self, x: float, y: float) -> Held:
        assert self._x is not None and self._y is not None
        p, near = self.profile, GRAB_PX
        if abs(x - self._x(0.0)) < near:
            return "home"
        if abs(x - self._x(p.whole_m)) < near:
            return "away" if y < self._y(float(p.ground_m[-1])) else "place"
        return ""

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, p, colour = sheet, self.profile, sheet.paper.colour
        d, bulge = p.distance_m, p.bulge_m
        ray, zone = p.ray_m + bulge, p.fresnel_m
        ground, top = p.ground_m + bulge, p.top_m + bulge
        woods = p.woods_m + bulge
        x, y = self._axes(s, rect, ground, top, woods, ray, zone)
        self._x, self._y = x, y
        s.clip(QRectF(x.start, rect.top(), x.end - x.start, y.start - rect.top()))
        xs, floor = x.many(d), np.full(len(d), y.start)
        s.between(xs, y.many(ray - zone), y.many(ray + zone), colour("open_wash", 0.55))
        s.between(xs, y.many(ray - CLEAR_SHARE * zone), y.many(ray + CLEAR_SHARE * zone), colour("open_wash", 0.9))
        if np.isfinite(woods).any():
            there = np.isfinite(woods)
            s.between(
                xs, np.where(there, y.many(np.nan_to_num(woods)), y.many(ground)), y.many(ground), colour("holds", 0.45)
            )
        s.between(xs, y.many(top), floor, colour("line"))
        s.between(xs, y.many(ground), floor, colour("hairline"))
        s.path(xs, y.many(top), colour("ink"), 1.4)
        s.path(xs, y.many(ray), colour("accent"), 1.8)
        s.unclip()
        s.height_over_distance(x, y, "m over the sea, the bulge of the earth drawn in")
        self._tightest(s, x, y, bulge)
        for at, name, height, side in (
            (0, self.home_name, p.home_height_m, 1.0),
            (-1, p.place.name if p.place else "", p.away_height_m, -1.0),
        ):
            self._end(
                s,
                x(float(d[at])),
                y(float(ground[at])),
                y(float(ground[at]) + height),
                f"{name}, {show.distance(height)} up".lstrip(", "),
                side,
            )
        self._named(s, x, y, top)
        taken = taken_figure(p)
        box = s.text(
            x.end - s.px(6), rect.top() + s.px(9), f"the way takes {taken.text}", colour("ink"), 12, "right", halo=True
        )
        s.spot(box, taken, f"the way takes {taken.text} over free space")

    def _axes(self, s: Sheet, rect: QRectF, *heights: np.ndarray) -> tuple[Axis, Axis]:
        ground, top, woods, ray, zone = heights
        high = max(float(np.nanmax(np.concatenate((top, woods, ray + CLEAR_SHARE * zone)))), float(ray.max()) + 2.0)
        low = float(ground.min())
        room = 0.08 * (high - low) + 0.5
        x = Axis(0.0, self.profile.whole_m, rect.left() + s.px(46), rect.right() - s.px(22))
        return x, Axis(low - 1.5 * room, high + room, rect.bottom() - s.px(26), rect.top() + s.px(4))

    def _tightest(self, s: Sheet, x: Axis, y: Axis, bulge: np.ndarray) -> None:
        p, at = self.profile, self.profile.tightest
        if at is None or at.share > 2.0:
            return
        ray, top = float((p.ray_m + bulge)[at.at]), float((p.top_m + bulge)[at.at])
        name = "fails" if at.clearance_m < 0 else "doubt" if at.share < CLEAR_SHARE else "holds"
        ink = s.paper.colour(name)
        px = x(at.distance_m)
        s.line(px, y(ray), px, y(top), ink, 2.4)
        words = f"{show.distance(abs(at.clearance_m))} {'in the way' if at.clearance_m < 0 else 'clear'}, {at.share:.1f} of the zone"
        left = px > 0.6 * (x.start + x.end)
        box = s.text(
            px + (-s.px(7) if left else s.px(7)),
            min(y(top), y(ray)) - s.px(10),
            words,
            ink,
            12,
            "right" if left else "left",
            bold=True,
            halo=True,
        )
        s.spot(box, taken_figure(p), tightest_words(p))

    def _end(self, s: Sheet, px: float, ground: float, top: float, words: str, side: float) -> None:
        ink = s.paper.colour("ink")
        s.line(px, ground, px, top, ink, 2.4)
        s.rect(QRectF(px - s.px(5), top - s.px(5), s.px(10), s.px(10)), s.paper.colour("accent"))
        s.text(px + side * s.px(9), top - s.px(14), words, ink, 11.5, "left" if side > 0 else "right", halo=True)

    def _named(self, s: Sheet, x: Axis, y: Axis, top: np.ndarray) -> None:
        p = self.profile
        for obstacle in p.obstacles:
            middle = obstacle.from_m if obstacle.to_m is None else 0.5 * (obstacle.from_m + obstacle.to_m)
            if middle > p.whole_m:
                continue
            over = float(np.interp(middle, p.distance_m, np.fmax(top, np.nan_to_num(p.woods_m, nan=-1e9))))
            at = min(y(over) + s.px(14), y.start - s.px(8))
            box = s.text(x(middle), at, obstacle.title, s.paper.colour("ink"), 11, "middle", halo=True)
            s.spot(box, obstacle, f"{obstacle.title}, {show.distance(obstacle.from_m)} from {self.home_name}")
