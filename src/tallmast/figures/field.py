"""The Field's pictures: the map with tracks coloured by level, and level against distance."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor

from tallmast.findings.field import FieldFinding
from tallmast.findings.field.calls import share_at
from tallmast.findings.field.fixes import PlaceFix
from tallmast.findings.field.group import Group
from tallmast.findings.field.runs import Tried
from tallmast.findings.field.samples import RunSamples
from tallmast.findings.field.tracks import Walk
from tallmast.findings.figure import Figure
from tallmast.findings.levels.clear import metres
from tallmast.findings.rails import exponent_trouble
from tallmast.notebook.records import Antenna
from tallmast.physics.decibels import Floats
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet, spread

MOST_POINTS, MOST_IN_ALL = 800, 8000
"""Of one track or run, and of all of them in a picture; more of them can't be told apart."""

Place = Callable[[ArrayLike, ArrayLike], tuple[Floats, Floats]]
"""(distance, bearing) to (x, y)."""


def _few(values: Floats, among: int = 1) -> Floats:
    """Every so many of a long run's values, alike for all its columns; `among` so many runs they share a picture."""
    most = min(MOST_POINTS, max(MOST_IN_ALL // among, 1))
    return values[:: max(1, -(-len(values) // most))]


def round_distance(value_m: float) -> float:
    """The 1, 2 or 5 at or under a value."""
    size = 10.0 ** np.floor(np.log10(max(value_m, 1e-6)))
    return float(max(k * size for k in (1, 2, 5) if k * size <= value_m * 1.0001))


def _toward(place: PlaceFix) -> str:
    return "direction not known" if place.bearing_deg is None else f"bearing {show.bearing(place.bearing_deg)}"


@dataclass(kw_only=True)
class MapPicture(Picture):
    """North is up. `picked`: the id of a place that is marked here and on the distance picture."""

    finding: FieldFinding
    picked: str = ""
    wanted_bearing_deg: float | None = None
    clear: Figure | None = None
    """How far people must stay away from home's antenna."""
    least_height = 300

    @property
    def title(self) -> str:  # type: ignore[override]
        if any(p.bearing_deg is None for p in self.finding.places):
            return "Map, true in distance from home; on an arc where nobody noted the direction"
        return "Map, true in distance and bearing from home"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f, colour = sheet, self.finding, sheet.paper.colour
        s.rect(rect, colour("sea"))
        if f.home is None and not f.places:
            s.text(rect.center().x(), rect.center().y(), "add a place", colour("soft"), 14, "middle")
            return
        there = [t.on_map for t in f.samples if t.run.antenna_id not in self.hidden]
        tracks = [t for t in there if t.run.antenna_id == self.focus_id] or there[:1]
        bearing = self._bearings()
        east = [0.0] + [p.distance.value * np.sin(np.radians(bearing[p.place.id])) for p in f.places]
        north = [0.0] + [p.distance.value * np.cos(np.radians(bearing[p.place.id])) for p in f.places]
        walks = [w for w in f.walks if w.run.antenna_id == self.focus_id and self.focus_id not in self.hidden]
        ways: list[RunSamples | Walk] = [*tracks, *walks]
        many = max(len(ways), 1)
        for t in ways:
            if len(t.distance_m):
                distance, angle = _few(t.distance_m, many), np.radians(_few(t.bearing_deg, many))
                e, n = distance * np.sin(angle), distance * np.cos(angle)
                east += [float(e.min()), float(e.max())]
                north += [float(n.min()), float(n.max())]
        span_e, span_n = max(max(east) - min(east), 50.0), max(max(north) - min(north), 50.0)
        scale = min((rect.width() - s.px(110)) / span_e, (rect.height() - s.px(76)) / span_n)
        mid_e, mid_n = (max(east) + min(east)) / 2, (max(north) + min(north)) / 2
        cx, cy = rect.center().x(), rect.center().y() - s.px(6)

        def at(distance: ArrayLike, bearing: ArrayLike) -> tuple[Floats, Floats]:
            t = np.radians(bearing)
            return cx + (np.asarray(distance) * np.sin(t) - mid_e) * scale, cy - (
                np.asarray(distance) * np.cos(t) - mid_n
            ) * scale

        s.clip(rect)
        hx, hy = (float(v) for v in at(0.0, 0.0))
        ring = round_distance(max(span_e, span_n) / 3)
        self._rings(s, at, ring, scale, rect)
        for walk in walks:
            s.dots(*at(_few(walk.distance_m), _few(walk.bearing_deg)), colour("line"), 2)
        levels = np.concatenate([_few(t.level_dbm[t.heard], many) for t in tracks]) if tracks else np.array([])
        if len(levels):
            low, high = np.percentile(levels, [3, 97])
            for t in tracks:
                self._track(s, t, at, float(low), float(max(high, low + 1)), many)
            self._ramp(s, rect, float(low), float(high))
        self._clear(s, hx, hy, scale, rect)
        s.p.setPen(Qt.PenStyle.NoPen)
        s.rect(QRectF(hx - 5, hy - 5, 10, 10), colour("ink"))
        s.text(hx - s.px(10), hy, f.home.name if f.home else "home", colour("ink"), 12, "right", bold=True, halo=True)
        self._places(s, at, bearing, rect)
        s.unclip()
        self._scale_bar(s, rect, ring, scale)
        self._north(s, rect.right() - s.px(20), rect.top() + s.px(34))

    def _rings(self, s: Sheet, at: Place, ring: float, scale: float, rect: QRectF) -> None:
        """How far from home, and the way that is wanted."""
        colour, (hx, hy) = s.paper.colour, (float(v) for v in at(0.0, 0.0))
        for k in range(1, 12):
            r = ring * k * scale
            if r > rect.width() + rect.height():
                break
            s.ring(hx, hy, r, colour("line", 0.8), 1, (1, 3))
        if self.wanted_bearing_deg is not None:
            far_x, far_y = (float(v) for v in at(ring * 6.0, self.wanted_bearing_deg))
            near_x, near_y = (float(v) for v in at(ring * 0.8, self.wanted_bearing_deg))
            s.line(hx, hy, far_x, far_y, colour("accent", 0.8), 1.2, (5, 3))
            s.text(near_x, near_y, f"wanted {show.bearing(self.wanted_bearing_deg)}", colour("accent"), 11, halo=True)

    @staticmethod
    def _north(s: Sheet, x: float, y: float) -> None:
        ink = s.paper.colour("ink")
        s.line(x, y + s.px(14), x, y - s.px(10), ink, 1.6)
        s.line(x, y - s.px(10), x - s.px(5), y, ink, 1.6)
        s.text(x, y - s.px(20), "N", ink, 11, "middle", bold=True)

    def _places(self, s: Sheet, at: Place, bearing: Mapping[str, float], rect: QRectF) -> None:
        """Each with its name and how far it is; the one to be reached in the accent's colour."""
        f, colour = self.finding, s.paper.colour
        for place in f.places:
            x, y = (float(v) for v in at(place.distance.value, bearing[place.place.id]))
            if place.bearing_deg is None:
                around = np.linspace(-14.0, 14.0, 15) + bearing[place.place.id]
                s.path(*at(np.full(15, place.distance.value), around), colour("ink", 0.6), 1.2, (2, 2))
            wanted = f.wanted is not None and place.place.id == f.wanted.id
            s.p.setBrush(colour("accent") if wanted else self._fill(s, place.place.id))
            s.p.setPen(s.pen(colour("accent" if place.place.id == self.picked or wanted else "ink"), 1.8))
            r = s.px(5.5 if place.place.id != self.picked else 8)
            s.p.drawEllipse(QPointF(x, y), r, r)
            words = f"{place.place.name}, {show.distance(place.distance.value)}"
            s.beside(x, y, rect, words, colour("ink"), 11.5, bold=wanted)
            s.spot(QRectF(x - 10, y - 10, 20, 20), place, f"{words}, {_toward(place)}")

    def _fill(self, s: Sheet, place_id: str) -> QColor:
        """A place by how well the antenna in focus was heard there, where that was graded; else empty."""
        calls = self.finding.calls
        share = share_at(calls, place_id, self.focus_id) if calls is not None else None
        if not share:
            return s.paper.colour("sheet")
        ramp = s.paper.palette.level_ramp
        return s.paper.colour(ramp[min(int(share * len(ramp)), len(ramp) - 1)])

    def _bearings(self) -> dict[str, float]:
        """By place; one whose direction nobody knows is drawn to the right, on an arc of dashes."""
        unknown = [p.place.id for p in self.finding.places if p.bearing_deg is None]
        at = {place_id: 90.0 - 30.0 + 60.0 * k / max(len(unknown) - 1, 1) for k, place_id in enumerate(unknown)}
        return {p.place.id: at[p.place.id] if p.bearing_deg is None else p.bearing_deg for p in self.finding.places}

    def _clear(self, s: Sheet, x: float, y: float, scale: float, inside: QRectF) -> None:
        """The ring inside which nobody should stand: to scale, or, where that could not be seen, round the mark."""
        if self.clear is None:
            return
        ink, true = s.paper.colour("fails"), metres(self.clear) * scale
        seen = true >= s.px(12)
        r = true if seen else s.px(12)
        s.p.setBrush(s.paper.colour("fails", 0.10))
        s.p.setPen(s.pen(ink, 1.4, () if seen else (2, 2)))
        s.p.drawEllipse(QPointF(x, y), r, r)
        words = f"{self.clear.short} clear"
        right = max(x - s.px(10), inside.left() + s.width(words, 11) + s.px(3))
        box = s.text(right, y + s.px(18), words, ink, 11, "right", halo=True)
        s.spot(box, self.clear, f"clear distance {self.clear.text}" + ("" if seen else ", ring not to scale"))

    def _track(self, s: Sheet, t: RunSamples, at: Place, low: float, high: float, among: int) -> None:
        x, y = at(_few(t.distance_m, among), _few(t.bearing_deg, among))
        level = _few(t.level_dbm, among)
        ramp = s.paper.palette.level_ramp
        heard = np.isfinite(level)
        index = np.clip(((level - low) / (high - low) * len(ramp)), 0, len(ramp) - 1)
        index = np.where(heard, index, -1).astype(int)
        for k, name in enumerate(ramp):
            s.dots(x[index == k], y[index == k], s.paper.colour(name), 4.5)
        if (~heard).any():
            s.dots(x[~heard], y[~heard], s.paper.colour("line"), 2)

    def _ramp(self, s: Sheet, rect: QRectF, low: float, high: float) -> None:
        ramp = s.paper.palette.level_ramp
        w = s.px(16)
        x, y = rect.right() - w * len(ramp) - s.px(10), rect.bottom() - s.px(28)
        for k, name in enumerate(ramp):
            s.rect(QRectF(x + k * w, y, w, s.px(7)), s.paper.colour(name))
        s.text(x, y + s.px(16), show.fixed(low, 0), s.paper.colour("soft"), 10.5, mono=True)
        s.text(
            x + w * len(ramp),
            y + s.px(16),
            f"{show.fixed(high, 0)} dBm",
            s.paper.colour("soft"),
            10.5,
            "right",
            mono=True,
        )

    def _scale_bar(self, s: Sheet, rect: QRectF, ring: float, scale: float) -> None:
        x, y = rect.left() + s.px(12), rect.bottom() - s.px(14)
        ink = s.paper.colour("ink")
        length = ring * scale
        s.line(x, y, x + length, y, ink, 2)
        for end in (x, x + length):
            s.line(end, y - s.px(4), end, y + s.px(4), ink, 1.5)
        s.text(x + length + s.px(8), y, f"rings {show.distance(ring)} apart", s.paper.colour("soft"), 11, halo=True)


@dataclass(kw_only=True)
class DistancePicture(Picture):
    finding: FieldFinding
    antennas: tuple[Antenna, ...] = ()
    sensitivity_dbm: float | None = None
    picked: str = ""
    title = "Received level against distance, runs that can be compared"
    least_height = 300

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f, colour = sheet, self.finding, sheet.paper.colour
        group = f.main
        by_id = {a.id: a for a in self.antennas}
        there = [
            t.at_distance
            for t in f.samples
            if group and t.run.id in group.run_ids and t.run.antenna_id not in self.hidden
        ]
        shown = [t for t in there if t.heard.any()]
        if not shown or group is None:
            s.text(
                rect.center().x(),
                rect.center().y(),
                "no levels yet: type a reading, or drop a log",
                colour("soft"),
                13,
                "middle",
            )
            return
        left, right = rect.left() + s.px(44), rect.right() - s.px(116)
        top, bottom = rect.top() + s.px(12), rect.bottom() - s.px(28)
        nearest = min(float(t.distance_m[t.heard].min()) for t in shown)
        furthest = max(float(t.distance_m[t.heard].max()) for t in shown)
        many = len(shown)
        levels = np.concatenate([_few(t.level_dbm[t.heard], many) for t in shown])
        low, high = float(np.percentile(levels, 0.5)) - 3, float(levels.max()) + 2
        if self.sensitivity_dbm is not None:
            low = min(low, self.sensitivity_dbm - 4)
        x = Axis(nearest * 0.92, max(furthest * 1.08, nearest * 1.3), left, right, log=True)
        y = Axis(low, high, bottom, top)
        s.level_over_distance(x, y)
        s.clip(QRectF(left, top, right - left, bottom - top))
        for t in sorted(shown, key=lambda t: t.run.antenna_id == self.focus_id):
            focus = t.run.antenna_id == self.focus_id
            slot = by_id[t.run.antenna_id].slot if t.run.antenna_id in by_id else 0
            heard = t.heard
            s.dots(
                x.many(_few(t.distance_m[heard], many)),
                y.many(_few(t.level_dbm[heard], many)),
                s.paper.antenna(slot, 0.55 if focus else 0.28),
                3.2 if focus else 2.4,
            )
        if self.sensitivity_dbm is not None:
            at = y(self.sensitivity_dbm)
            s.line(left, at, right, at, colour("accent"), 1.3, (5, 3))
            words = next(
                (w for w in ("far end’s sensitivity", "sensitivity") if s.width(w, 11) + s.px(12) <= right - left), ""
            )
            s.text(left + s.px(6), at + s.px(9), words, colour("accent"), 11, halo=bool(words))
        s.unclip()
        inside = QRectF(left, top, right - left, bottom - top)
        ends = self._fitted(s, group, by_id, x, y, inside)
        self._names(s, group, by_id, ends, inside)
        for place in f.places:
            if place.place.id == self.picked and x.low <= place.distance.value <= x.high:
                px = x(place.distance.value)
                s.line(px, top, px, bottom, colour("accent"), 1.5, (3, 2))
                s.text(px, top + s.px(4), place.place.name, colour("accent"), 11, "middle", halo=True)

    def _fitted(
        self, s: Sheet, group: Group, by_id: Mapping[str, Antenna], x: Axis, y: Axis, inside: QRectF
    ) -> list[tuple[Tried, float]]:
        """The lines that were fitted, and where each ends at the right."""
        ends: list[tuple[Tried, float]] = []
        if group.fit and not exponent_trouble(group.fit.exponent):
            lo, hi = group.fit.reach_m
            d = np.geomspace(lo, hi, 40)
            for tried, level in group.fit.at_1km_dbm.items():
                antenna_id = tried[0]
                if antenna_id in self.hidden or antenna_id not in by_id:
                    continue
                slot = by_id[antenna_id].slot
                stands = tried == group.tried(antenna_id)
                line = level - 10 * group.fit.exponent.value * np.log10(d / 1000)
                s.clip(inside)
                s.path(
                    x.many(d),
                    y.many(line),
                    s.paper.antenna(slot, 1.0 if stands else 0.55),
                    2.4 if stands and antenna_id == self.focus_id else 1.6,
                    s.dash(slot),
                )
                s.unclip()
                ends.append((tried, y(float(line[-1]))))
            words = f"n = {group.fit.exponent.text}"
            box = s.text(
                inside.right() - s.px(6), inside.top() + s.px(10), words, s.paper.colour("ink"), 12, "right", halo=True
            )
            s.spot(box, group.fit.exponent, f"path exponent {group.fit.exponent.text}")
        return ends

    def _names(
        self, s: Sheet, group: Group, by_id: Mapping[str, Antenna], ends: Sequence[tuple[Tried, float]], inside: QRectF
    ) -> None:
        """Beside the ends of the lines, none over another."""
        for (tried, _), at in zip(
            ends, spread([e for _, e in ends], s.px(17), inside.top(), inside.bottom() - 4), strict=True
        ):
            antenna, stands = by_id[tried[0]], tried == group.tried(tried[0])
            s.glyph(inside.right() + s.px(12), at, antenna.slot, 8)
            s.text(
                inside.right() + s.px(20),
                at,
                antenna.name if stands else antenna.state_name(tried[1]),
                s.paper.antenna(antenna.slot),
                11.5 if stands else 10.5,
                bold=stands and antenna.id == self.focus_id,
            )
