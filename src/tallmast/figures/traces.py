"""Recordings in time: traces laid over each other by their marks with the difference below, and how often each is above a level."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.field.laid import Aligned, Along, difference_along, how_often
from tallmast.findings.field.trace import LEVEL, Trace
from tallmast.notebook.records import Antenna
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import percentile
from tallmast.units import show
from tallmast.units.shown import SCALES

from .picture import Picture
from .sheet import Axis, Sheet


def unit_of(read_on: str) -> str:
    return "dBm" if read_on == LEVEL else SCALES[read_on].unit


def _axis(values: Sequence[Floats], limit: float | None, start: float, end: float) -> Axis:
    known = np.concatenate([v[np.isfinite(v)] for v in values]) if values else np.array([])
    if not len(known):
        return Axis(0.0, 1.0, start, end)
    edges = [percentile(known, 0.5), float(known.max()), *([limit] if limit is not None else [])]
    low, high = min(edges), max(edges)
    room = 0.06 * max(high - low, 1e-6)
    return Axis(low - room, high + room, start, end)


@dataclass(kw_only=True)
class TracesPicture(Picture):
    aligned: Aligned
    antennas: tuple[Antenna, ...] = ()
    least_height = 330

    @property
    def title(self) -> str:  # type: ignore[override]
        how = "laid over each other by their marks" if len(self.aligned.names) > 1 else "from their beginnings"
        if any(self.aligned.moved_s):
            how = "laid over each other by their likeness, or as you moved them"
        return f"Recordings in {unit_of(self.aligned.read_on)}, {how}"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, a, colour = sheet, self.aligned, sheet.paper.colour
        slots = {one.id: one.slot for one in self.antennas}
        shown = [(t, u) for t, u in a.traces if t.run.antenna_id not in self.hidden]
        along = difference_along(a, self.focus_id, self.hidden)
        left, right = rect.left() + s.px(46), rect.right() - s.px(14)
        top, bottom = rect.top() + s.px(22), rect.bottom() - s.px(24)
        under = bottom
        if along is not None:
            bottom = top + (under - top) * 0.66
        x = Axis(0.0, max(a.edges_s[-1], 1e-6), left, right)
        y = _axis([t.values for t, _ in shown], a.limit, bottom, top)
        for tick in y.ticks(5):
            s.line(left, y(tick), right, y(tick), colour("hairline"))
            s.text(
                left - s.px(6),
                y(tick),
                show.fixed(tick, 0 if abs(tick) >= 3 else 1),
                colour("soft"),
                10.5,
                "right",
                mono=True,
            )
        self._marks(s, x, top, under)
        s.clip(QRectF(left, top, right - left, bottom - top))
        for trace, u in sorted(shown, key=lambda one: one[0].run.antenna_id == self.focus_id):
            focus = trace.run.antenna_id == self.focus_id
            slot = slots.get(trace.run.antenna_id, 0)
            s.path(
                x.many(u),
                y.many(np.nan_to_num(trace.values, nan=y.low)),
                s.paper.antenna(slot, 0.9 if focus else 0.5),
                1.5 if focus else 1.0,
            )
        if a.limit is not None:
            s.line(left, y(a.limit), right, y(a.limit), colour("accent"), 1.3, (5, 3))
            s.text(left + s.px(6), y(a.limit) - s.px(8), "usable", colour("accent"), 11, halo=True)
        s.unclip()
        self._spots(s, shown, x, y, slots)
        if along is not None:
            rest = QRectF(left, bottom + s.px(14), right - left, under - bottom - s.px(14))
            self._difference(s, along, x, rest)
        s.text(right, under + s.px(13), f"{a.edges_s[-1]:.0f} s", colour("soft"), 10.5, "right")

    def _marks(self, s: Sheet, x: Axis, top: float, bottom: float) -> None:
        colour = s.paper.colour
        for name, at in zip(self.aligned.names, self.aligned.edges_s, strict=False):
            s.line(x(at), top, x(at), bottom, colour("line"), 1.0, (2, 3))
            if len(self.aligned.names) > 1:
                s.text(x(at) + s.px(4), top - s.px(9), name, colour("soft"), 11)

    def _spots(self, s: Sheet, shown: Sequence[tuple[Trace, Floats]], x: Axis, y: Axis, slots: dict[str, int]) -> None:
        for k, antenna_id in enumerate(dict.fromkeys(t.run.antenna_id for t, _ in shown)):
            at = x.end - s.px(120), y.end + s.px(10) + k * s.px(16)
            s.glyph(at[0], at[1], slots.get(antenna_id, 0), 8)
            box = s.text(
                at[0] + s.px(10),
                at[1],
                self._name(antenna_id),
                s.paper.antenna(slots.get(antenna_id, 0)),
                11.5,
                halo=True,
            )
            mine = [t for t, _ in shown if t.run.antenna_id == antenna_id]
            told = "; ".join(f"run {t.run.number}{self._moved(t)}{_usable_words(t)}" for t in mine)
            s.spot(box, mine[0].recording, f"{self._name(antenna_id)}: {told}")

    def _moved(self, trace: Trace) -> str:
        traces = [t for t, _ in self.aligned.traces]
        by = self.aligned.moved_s[traces.index(trace)] if self.aligned.moved_s else 0.0
        return f", moved by {show.plus(by, 1)} s" if by else ""

    def _difference(self, s: Sheet, along: Along, x: Axis, rect: QRectF) -> None:
        """The one in focus, or the first, less the other, along the way."""
        colour = s.paper.colour
        read = np.isfinite(along.difference)
        half = np.zeros_like(along.difference) if along.half is None else along.half
        reach = np.abs(along.difference) + half
        most = max(percentile(reach[read], 98.0), 1e-6) if read.any() else 1.0
        y = Axis(-most, most, rect.bottom(), rect.top())
        s.clip(rect)
        if along.half is not None:
            edges = np.flatnonzero(np.diff(np.concatenate(([0], read.astype(int), [0]))))
            for a, b in zip(edges[::2], edges[1::2], strict=True):
                low, high = (y.many((along.difference + sign * half)[a:b]) for sign in (-1.0, 1.0))
                s.between(x.many(along.time_s[a:b]), low, high, colour("open_wash"))
        s.line(rect.left(), y(0.0), rect.right(), y(0.0), colour("ink"), 1.0)
        s.path(x.many(along.time_s), y.many(along.difference), colour("ink"), 1.4)
        s.unclip()
        first, second = (self._name(tried[0]) for tried in (along.first, along.second))
        how = "90 % by repeats" if along.half is not None else "run each again for its ±"
        words = f"{first} less {second}, {how}"
        s.text(rect.left() + s.px(6), rect.top() + s.px(4), words, colour("soft"), 11, halo=True)
        for edge in (-most, most):
            told = show.plus(edge, 0 if most >= 3 else 1)
            s.text(rect.left() - s.px(6), y(edge), told, colour("soft"), 10, "right", mono=True)

    def _name(self, antenna_id: str) -> str:
        return next((a.name for a in self.antennas if a.id == antenna_id), "?")


def _usable_words(trace: Trace) -> str:
    whole = trace.whole
    return (
        ""
        if whole is None
        else f", usable {show.percent(whole.share)} of the time, {show.count(len(whole.dropouts_s), 'dropout')}"
    )


@dataclass(kw_only=True)
class HowOftenPicture(Picture):
    """Share of the time above each value, an antenna a line: all its runs together."""

    aligned: Aligned
    antennas: tuple[Antenna, ...] = ()
    least_height = 330

    @property
    def title(self) -> str:  # type: ignore[override]
        return f"How often it was {'at most' if self.aligned.less_is_better else 'at least'} so many {unit_of(self.aligned.read_on)}"

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, a, colour = sheet, self.aligned, sheet.paper.colour
        slots = {one.id: one.slot for one in self.antennas}
        shown = [t for t, _ in a.traces if t.run.antenna_id not in self.hidden]
        left, right = rect.left() + s.px(46), rect.right() - s.px(20)
        top, bottom = rect.top() + s.px(12), rect.bottom() - s.px(28)
        x = _axis([t.values for t in shown], a.limit, left, right)
        y = Axis(0.0, 100.0, bottom, top)
        for tick in (0.0, 25.0, 50.0, 75.0, 100.0):
            s.line(left, y(tick), right, y(tick), colour("hairline"))
            s.text(left - s.px(6), y(tick), f"{tick:g} %", colour("soft"), 10.5, "right", mono=True)
        for tick in x.ticks(6):
            s.text(
                x(tick),
                bottom + s.px(12),
                show.fixed(tick, 0 if abs(tick) >= 3 or tick == 0 else 1),
                colour("soft"),
                10.5,
                "middle",
                mono=True,
            )
        for often in how_often(a, x.low, x.high, self.hidden):
            slot = slots.get(often.tried[0], 0)
            s.path(
                x.many(often.levels),
                y.many(often.share),
                s.paper.antenna(slot),
                2.2 if often.tried[0] == self.focus_id else 1.5,
                s.dash(slot),
            )
        if a.limit is not None:
            s.line(x(a.limit), top, x(a.limit), bottom, colour("accent"), 1.3, (5, 3))
            s.text(x(a.limit) + s.px(5), top + s.px(8), "usable", colour("accent"), 11, halo=True)
