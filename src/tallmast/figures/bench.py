"""The Bench's pictures: SWR over frequency with band, limit and doubt; and every antenna's usable window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF

from tallmast.findings.bench import AntennaBench, BenchFinding, MatchProposal, SweepReading
from tallmast.physics.decibels import Floats
from tallmast.physics.reflection import gamma_from_swr
from tallmast.units import show

from .paper import MARKS, Paper
from .picture import Picture
from .sheet import Axis, Sheet, spread

SWR_TICKS = (1.0, 1.2, 1.5, 2.0, 3.0, 5.0)
TOP_SWR = 7.0


def frequency_span(benches: list[AntennaBench], band: tuple[float, float]) -> tuple[float, float]:
    sweeps = [b.sweep for b in benches if b.sweep]
    if sweeps:
        return min(float(r.frequency_hz[0]) for r in sweeps), max(float(r.frequency_hz[-1]) for r in sweeps)
    width = max(band[1] - band[0], 0.01 * band[1])
    low, high = band[0] - 4 * width, band[1] + 4 * width
    read = [f for b in benches for m in b.meters if low <= (f := m.reading.frequency_hz) <= high]
    if read:
        return min(band[0], *read) - width, max(band[1], *read) + width
    return low, high


def in_sight(frequency_hz: Floats, x: Axis) -> slice:
    """The part of a sweep between the ends of an axis in MHz, with a point beyond each."""
    first, last = np.searchsorted(frequency_hz, [x.low * 1e6, x.high * 1e6])
    return slice(max(int(first) - 1, 0), int(last) + 1)


@dataclass(kw_only=True)
class SwrPicture(Picture):
    finding: BenchFinding
    span_hz: tuple[float, float] | None = None
    """What part of the sweep is shown; None: all of it."""
    over: MatchProposal | None = None
    """A way to match, drawn over the sweep that it would change."""
    title = "SWR at the antenna, cable removed"
    least_height = 318

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f = sheet, self.finding
        colour = s.paper.colour
        shown = [b for b in f.antennas if b.antenna.id not in self.hidden]
        if not f.antennas:
            s.text(rect.center().x(), rect.center().y(), "nothing to measure yet", colour("soft"), 14, "middle")
            return
        left, right = rect.left() + s.px(38), rect.right() - s.px(118)
        top, bottom = rect.top() + s.px(24), rect.bottom() - s.px(26)
        low, high = self.span_hz or frequency_span(shown, f.band_hz)
        x = Axis(low / 1e6, high / 1e6, left, right)
        self._x = x
        # Heights go by |Γ|, so that a unit of height is the same share of amplitude all the way up.
        y = Axis(0.0, float(gamma_from_swr(TOP_SWR)), bottom, top)

        def swr_y(swr: float) -> float:
            return y(float(gamma_from_swr(swr)))

        b0, b1 = x(f.band_hz[0] / 1e6), x(f.band_hz[1] / 1e6)
        s.clip(QRectF(left, rect.top(), right - left, bottom - rect.top()))
        s.rect(QRectF(b0, top, max(b1 - b0, 2), bottom - top), colour("band"))
        s.text((b0 + b1) / 2, top - s.px(11), f"wanted {show.band(*f.band_hz)}", colour("doubt"), 11, "middle")
        s.unclip()
        for tick in SWR_TICKS:
            s.line(left, swr_y(tick), right, swr_y(tick), colour("hairline"))
            s.text(left - s.px(7), swr_y(tick), f"{tick:g}", colour("soft"), 11, "right", mono=True)
        for tick in x.ticks(7):
            s.text(x(tick), bottom + s.px(12), f"{tick:g}", colour("soft"), 11, "middle", mono=True)
        s.text(right + s.px(22), bottom + s.px(12), "MHz", colour("soft"), 11)
        limit_y = swr_y(f.limit)
        s.line(left, limit_y, right, limit_y, colour("accent"), 1.2, (5, 3))
        s.clip(QRectF(left, top - 1, right - left, bottom - top + 2))
        focus = f.focus if f.focus and f.focus.antenna.id not in self.hidden else None
        if focus and focus.sweep:
            for older in focus.ladder:
                self._curve(s, x, y, older, focus.antenna.slot, 1.0, 0.45)
            r = focus.sweep
            part = in_sight(r.frequency_hz, x)
            k = gamma_from_swr(np.array([r.swr_low[part], r.swr_high[part]]))
            xs = x.many(r.frequency_hz[part] / 1e6)
            s.between(xs, y.many(k[0]), y.many(k[1]), s.paper.antenna(focus.antenna.slot, 0.18))
        for bench in shown:
            if bench.sweep and bench is not focus:
                self._curve(s, x, y, bench.sweep, bench.antenna.slot, 1.5, 0.9)
        if focus and focus.sweep:
            self._curve(s, x, y, focus.sweep, focus.antenna.slot, 2.6, 1.0)
            if self.over is not None:
                self._over(s, x, y, self.over, focus.sweep)
        s.unclip()
        s.text(left + s.px(4), limit_y - s.px(9), f"your limit {f.limit:g}", colour("accent"), 11, halo=True)
        self._names(s, shown, x, y, left, right, top, bottom)
        s.clip(QRectF(left - 1, rect.top(), right - left + 2, rect.bottom() - rect.top()))
        self._meters(s, shown, x, y)
        if focus and focus.sweep:
            self._states(s, focus, swr_y, x, top, bottom)
            self._resonance(s, focus, x, y, bottom)
            cursor = x(f.at_hz / 1e6)
            s.line(cursor, top, cursor, bottom, colour("ink", 0.55), 1)
            at = focus.sweep.at
            s.spot(
                QRectF(cursor - 8, top, 16, bottom - top), at, f"SWR at {show.frequency(focus.sweep.at_hz)}: {at.text}"
            )
        s.unclip()
        if focus and focus.worst:
            s.spot(
                QRectF(b0 - 4, top, max(b1 - b0, 2) + 8, bottom - top),
                focus.worst,
                f"{focus.antenna.name}, worst {focus.match_words}",
            )
        if not any(b.sweep or b.meters for b in shown):
            s.text(
                (left + right) / 2,
                (top + bottom) / 2,
                "drop a Touchstone file here",
                colour("soft"),
                14,
                "middle",
                halo=True,
            )

    def _curve(self, s: Sheet, x: Axis, y: Axis, reading: SweepReading, slot: int, width: float, alpha: float) -> None:
        part = in_sight(reading.frequency_hz, x)
        xs = x.many(reading.frequency_hz[part] / 1e6)
        ys = y.many(np.minimum(np.abs(reading.gamma[part]), float(gamma_from_swr(TOP_SWR * 3))))
        s.path(xs, ys, s.paper.antenna(slot, alpha), width, s.dash(slot) if alpha > 0.5 else (2, 2))

    def _over(self, s: Sheet, x: Axis, y: Axis, over: MatchProposal, reading: SweepReading) -> None:
        part = in_sight(reading.frequency_hz, x)
        xs = x.many(reading.frequency_hz[part] / 1e6)
        ink = s.paper.colour("holds")
        s.path(xs, y.many(np.minimum(over.magnitude[part], float(gamma_from_swr(TOP_SWR * 3)))), ink, 2.2, (6, 2, 1, 2))
        where = x.low + 0.12 * (x.high - x.low)
        at = y(float(np.interp(where * 1e6, reading.frequency_hz, over.magnitude)))
        s.text(x(where), at - s.px(10), f"with {over.match.name}", ink, 11, halo=True)

    def _meters(self, s: Sheet, shown: list[AntennaBench], x: Axis, y: Axis) -> None:
        for bench in shown:
            for meter in bench.meters:
                if meter.reading.state_id != bench.antenna.state.id or meter.reading.swr > TOP_SWR:
                    continue
                px, py = x(meter.reading.frequency_hz / 1e6), y(float(gamma_from_swr(meter.reading.swr)))
                low, high = meter.figure.interval
                focus = bench.antenna.id == self.focus_id
                ink = s.paper.antenna(bench.antenna.slot, 1.0 if focus else 0.55)
                s.line(px, y(float(gamma_from_swr(low))), px, y(float(gamma_from_swr(high))), ink, 1.2)
                s.glyph(px, py, bench.antenna.slot, 8, ink)
                if meter.mark == "disagrees":
                    s.text(
                        px + s.px(9),
                        py,
                        f"! meter {show.swr(meter.reading.swr)}",
                        s.paper.colour("doubt"),
                        11,
                        halo=True,
                    )
                s.spot(QRectF(px - 7, py - 7, 14, 14), meter.figure, f"{bench.antenna.name}, {meter.words}")

    def _names(
        self,
        s: Sheet,
        shown: list[AntennaBench],
        x: Axis,
        y: Axis,
        left: float,
        right: float,
        top: float,
        bottom: float,
    ) -> None:
        swept = [b for b in shown if b.sweep]
        ends = []
        for bench in swept:
            assert bench.sweep is not None
            end = float(np.interp(x.high * 1e6, bench.sweep.frequency_hz, np.abs(bench.sweep.gamma)))
            ends.append(min(max(y(end), top), bottom))
        for bench, at in zip(swept, spread(ends, s.px(18), top, bottom), strict=True):
            focus = bench.antenna.id == self.focus_id
            s.glyph(right + s.px(12), at, bench.antenna.slot, 8)
            s.text(right + s.px(20), at, bench.antenna.name, s.paper.antenna(bench.antenna.slot), 12, bold=focus)

    def _states(
        self, s: Sheet, focus: AntennaBench, swr_y: Callable[[float], float], x: Axis, top: float, bottom: float
    ) -> None:
        """Earlier states named where their curves leave on the right."""
        for older in focus.ladder:
            if older.resonance_hz is None or older.sweep.state_id == (
                focus.sweep.sweep.state_id if focus.sweep else ""
            ):
                continue
            at = min(max(swr_y(float(older.swr[-1])), top), bottom)
            s.text(
                x(float(older.frequency_hz[-1]) / 1e6) - s.px(4),
                at + s.px(1),
                older.state,
                s.paper.antenna(focus.antenna.slot),
                11,
                "right",
                halo=True,
            )

    def _resonance(self, s: Sheet, focus: AntennaBench, x: Axis, y: Axis, bottom: float) -> None:
        reading = focus.sweep
        assert reading is not None
        if reading.resonance_hz is None:
            return
        ink = s.paper.antenna(focus.antenna.slot)
        px = x(reading.resonance_hz / 1e6)
        s.line(px, bottom, px, bottom - s.px(10), ink, 2)
        if focus.limit_mark != "holds" and focus.advice:
            wanted = x((self.finding.band_hz[0] + self.finding.band_hz[1]) / 2e6)
            if abs(wanted - px) > s.px(14):
                yy = bottom - s.px(6)
                s.line(px, yy, wanted, yy, ink, 1.6)
                way = 1 if wanted > px else -1
                s.line(wanted, yy, wanted - way * s.px(7), yy - s.px(4), ink, 1.6)
                s.line(wanted, yy, wanted - way * s.px(7), yy + s.px(4), ink, 1.6)
                words = (
                    f"trim {focus.trim.short} off each part"
                    if focus.trim and focus.trim.value > 0
                    else "lengthen or sleeve"
                    if way < 0
                    else "shorten"
                )
                s.text(px - way * s.px(6), yy - s.px(12), words, ink, 11, "right" if way > 0 else "left", halo=True)
                if focus.trim:
                    s.spot(QRectF(min(px, wanted), yy - 16, abs(wanted - px), 22), focus.trim, words)

    def drag(self, x: float, y: float) -> float | None:
        return float(self._x.back(x)) * 1e6 if hasattr(self, "_x") else None


@dataclass(kw_only=True)
class RibbonPicture(Picture):
    """One ribbon an antenna: thick where SWR is under 1.5, thinner to 2, thin to 3, a line beyond."""

    finding: BenchFinding
    title = "Usable window of every antenna"

    def shown(self) -> list[AntennaBench]:
        return [b for b in self.finding.antennas if b.antenna.id not in self.hidden]

    def height_for(self, width: float, paper: Paper) -> int:
        return round((30 + 25 * max(len(self.shown()), 1)) * paper.scale)

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f, shown = sheet, self.finding, self.shown()
        colour = s.paper.colour
        if not f.antennas:
            return
        left, right = rect.left() + s.px(130), rect.right() - s.px(190)
        low, high = frequency_span(shown, f.band_hz)
        x = Axis(low, high, left, right)
        row_h = s.px(25)
        top = rect.top() + s.px(4)
        for i, bench in enumerate(shown):
            y = top + row_h * (i + 0.5)
            s.glyph(rect.left() + s.px(8), y, bench.antenna.slot, 8)
            s.text(
                rect.left() + s.px(18), y, bench.antenna.name, colour("ink"), 12, bold=bench.antenna.id == self.focus_id
            )
            s.line(left, y, right, y, colour("line"), 1, (1, 3))
            if bench.sweep:
                for limit, half, name in ((3.0, 2.0, "fails"), (2.0, 4.5, "doubt"), (1.5, 8.0, "holds")):
                    for a, b in bench.sweep.windows[limit]:
                        bar = QRectF(x(a), y - s.px(half), x(b) - x(a), s.px(2 * half))
                        s.rect(bar, colour("sheet"))
                        s.rect(bar, colour(name, 0.72))
            mark_colour = s.paper.mark(bench.limit_mark)
            if bench.worst:
                where = f" at {show.frequency(bench.by_meter.at_hz)}" if bench.by_meter is not None else ""
                words = f"{MARKS[bench.limit_mark]} worst {bench.worst.text}{where}"
                if s.width(words, 12) > s.px(180):
                    words = f"{MARKS[bench.limit_mark]} worst {show.swr(bench.worst.value)}{where or ' in band'}"
                box = s.text(right + s.px(12), y, words, mark_colour, 12)
                s.spot(box, bench.worst, f"{bench.antenna.name}: {words}")
            else:
                s.text(right + s.px(12), y, "– not measured in band", colour("soft"), 12)
        bottom = top + row_h * len(shown)
        b0, b1 = x(f.band_hz[0]), x(f.band_hz[1])
        s.rect(QRectF(b0 - 2, top - 2, max(b1 - b0, 2) + 4, bottom - top + 4), None, colour("ink"), 1.4)
        keys = (("under 1.5", 8.0, "holds"), ("to 2", 4.5, "doubt"), ("to 3", 2.0, "fails"))
        at = left
        for words, half, name in keys:
            s.rect(QRectF(at, bottom + s.px(13 - half), s.px(22), s.px(2 * half)), colour(name, 0.75))
            box = s.text(at + s.px(28), bottom + s.px(13), words, colour("soft"), 11)
            at = box.right() + s.px(18)
