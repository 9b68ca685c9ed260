"""Other ways to look at the same sweeps: return loss, power accepted, impedance, and the plane of reflection."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt

from tallmast.findings.bench import AntennaBench, BenchFinding, SweepReading
from tallmast.physics import reflection
from tallmast.physics.decibels import Floats
from tallmast.units import show

from .bench import frequency_span, in_sight
from .picture import Picture
from .sheet import Axis, Sheet, spread

RESISTANCES_OHM = (10.0, 25.0, 50.0, 100.0, 200.0)
REACTANCES_OHM = (25.0, 50.0, 100.0, 200.0)
Quantity = Literal["return loss", "power accepted", "impedance"]


def _values(quantity: Quantity, reading: SweepReading) -> Floats:
    magnitude = np.abs(reading.gamma)
    if quantity == "return loss":
        return reflection.return_loss_db(np.maximum(magnitude, 1e-2))
    return np.asarray(100.0 * (1.0 - np.minimum(magnitude, 1.0) ** 2))


@dataclass(kw_only=True)
class QuantityPicture(Picture):
    """One quantity of every antenna over frequency; for impedance R and X of the one in focus."""

    finding: BenchFinding
    quantity: Quantity
    span_hz: tuple[float, float] | None = None
    least_height = 318

    @property
    def title(self) -> str:  # type: ignore[override]
        return {
            "return loss": "Return loss at the antenna, cable removed; higher is better",
            "power accepted": "Power that goes in, per cent; what comes back is not heated away but sent back",
            "impedance": "Impedance at the antenna: R full, X broken",
        }[self.quantity]

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f, colour = sheet, self.finding, sheet.paper.colour
        shown = [b for b in f.antennas if b.antenna.id not in self.hidden and b.sweep]
        focus = f.focus if f.focus and f.focus.sweep and f.focus.antenna.id not in self.hidden else None
        if self.quantity == "impedance":
            shown = [focus] if focus else []
        left, right = rect.left() + s.px(44), rect.right() - s.px(118)
        top, bottom = rect.top() + s.px(24), rect.bottom() - s.px(26)
        if not shown:
            s.text(rect.center().x(), rect.center().y(), "nothing swept yet", colour("soft"), 14, "middle")
            return
        low, high = self.span_hz or frequency_span(shown, f.band_hz)
        x = Axis(low / 1e6, high / 1e6, left, right)
        self._x = x
        y, unit = self._axis(shown, bottom, top)
        b0, b1 = x(f.band_hz[0] / 1e6), x(f.band_hz[1] / 1e6)
        s.clip(QRectF(left, rect.top(), right - left, bottom - rect.top()))
        s.rect(QRectF(b0, top, max(b1 - b0, 2), bottom - top), colour("band"))
        s.text((b0 + b1) / 2, top - s.px(11), f"wanted {show.band(*f.band_hz)}", colour("doubt"), 11, "middle")
        s.unclip()
        for tick in y.ticks(6):
            s.line(left, y(tick), right, y(tick), colour("hairline"))
            s.text(
                left - s.px(7), y(tick), f"{tick:g}".replace("-", show.MINUS), colour("soft"), 11, "right", mono=True
            )
        for tick in x.ticks(7):
            s.text(x(tick), bottom + s.px(12), f"{tick:g}", colour("soft"), 11, "middle", mono=True)
        s.text(right + s.px(22), bottom + s.px(12), "MHz", colour("soft"), 11)
        s.text(left - s.px(7), top - s.px(11), unit, colour("soft"), 11, "right")
        self._limit(s, x, y)
        s.clip(QRectF(left, top - 1, right - left, bottom - top + 2))
        for bench in shown:
            self._curves(s, x, y, bench, bench is focus)
        s.unclip()
        self._names(s, shown, y, right, top, bottom)
        if focus and focus.sweep:
            cursor = x(f.at_hz / 1e6)
            if left <= cursor <= right:
                s.line(cursor, top, cursor, bottom, colour("ink", 0.55), 1)
                words = f"SWR at {show.frequency(focus.sweep.at_hz)}: {focus.sweep.at.text}"
                s.spot(QRectF(cursor - 8, top, 16, bottom - top), focus.sweep.at, words)

    def _axis(self, shown: list[AntennaBench], bottom: float, top: float) -> tuple[Axis, str]:
        if self.quantity == "return loss":
            return Axis(0.0, 40.0, bottom, top), "dB"
        if self.quantity == "power accepted":
            return Axis(0.0, 100.0, bottom, top), "%"
        sweep = shown[0].sweep
        z = reflection.impedance(sweep.gamma) if sweep else np.array([50.0 + 0j])
        reach = float(np.percentile(np.abs(np.concatenate((z.real, z.imag))), 90))
        reach = min(max(reach * 1.15, 80.0), 500.0)
        return Axis(-reach, reach, bottom, top), "Ω"

    def _limit(self, s: Sheet, x: Axis, y: Axis) -> None:
        k = float(reflection.gamma_from_swr(self.finding.limit))
        level = {
            "return loss": float(reflection.return_loss_db(k)),
            "power accepted": 100.0 * (1 - k * k),
            "impedance": 50.0,
        }[self.quantity]
        words = "50 Ω" if self.quantity == "impedance" else f"your limit, SWR {self.finding.limit:g}"
        s.line(x.start, y(level), x.end, y(level), s.paper.colour("accent"), 1.2, (5, 3))
        s.text(x.start + s.px(4), y(level) - s.px(9), words, s.paper.colour("accent"), 11, halo=True)

    def _curves(self, s: Sheet, x: Axis, y: Axis, bench: AntennaBench, focus: bool) -> None:
        reading = bench.sweep
        assert reading is not None
        part = in_sight(reading.frequency_hz, x)
        xs, ink = x.many(reading.frequency_hz[part] / 1e6), s.paper.antenna(bench.antenna.slot)
        if self.quantity == "impedance":
            z = reflection.impedance(reading.gamma[part])
            edge = 4 * y.high
            s.path(xs, y.many(np.clip(z.real, -edge, edge)), ink, 2.4)
            s.path(xs, y.many(np.clip(z.imag, -edge, edge)), ink, 1.8, (5, 3))
            return
        s.path(
            xs, y.many(_values(self.quantity, reading)[part]), ink, 2.6 if focus else 1.5, s.dash(bench.antenna.slot)
        )

    def _names(self, s: Sheet, shown: list[AntennaBench], y: Axis, right: float, top: float, bottom: float) -> None:
        names: list[tuple[str, float, int]] = []
        for bench in shown:
            assert bench.sweep is not None
            if self.quantity == "impedance":
                z = complex(reflection.impedance(bench.sweep.gamma[-1:])[0])
                names += [("R", y(z.real), bench.antenna.slot), ("X", y(z.imag), bench.antenna.slot)]
            else:
                names.append(
                    (bench.antenna.name, y(float(_values(self.quantity, bench.sweep)[-1])), bench.antenna.slot)
                )
        ends = [min(max(at, top), bottom) for _, at, _ in names]
        for (name, _, slot), at in zip(names, spread(ends, s.px(18), top, bottom), strict=True):
            s.glyph(right + s.px(12), at, slot, 8)
            s.text(right + s.px(20), at, name, s.paper.antenna(slot), 12)

    def drag(self, x: float, y: float) -> float | None:
        return float(self._x.back(x)) * 1e6 if hasattr(self, "_x") else None


@dataclass(kw_only=True)
class PlanePicture(Picture):
    """Γ of the antenna in focus as a path over a disc: the middle is a match, the rim sends everything back.

    Rings are marked by what people ask for, SWR, arcs by ohms of resistance and reactance; upper half inductive, lower half capacitive; the wanted band is the
    thick part of the path.
    """

    finding: BenchFinding
    title = "Reflection in its plane: the middle is a match, the rim sends all back"
    least_height = 360

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, f, colour = sheet, self.finding, sheet.paper.colour
        focus = f.focus if f.focus and f.focus.sweep and f.focus.antenna.id not in self.hidden else None
        radius = min(rect.width() - s.px(260), rect.height() - s.px(28)) / 2
        cx, cy = rect.left() + radius + s.px(60), rect.center().y()
        self._impedances(s, cx, cy, radius)
        for ratio in (1.5, 2.0, 3.0, 6.0):
            s.p.setBrush(Qt.BrushStyle.NoBrush)  # a text’s halo leaves its own
            r = radius * float(reflection.gamma_from_swr(ratio))
            wanted = abs(ratio - f.limit) < 1e-6
            s.p.setPen(s.pen(colour("accent" if wanted else "hairline"), 1.4, (5, 3) if wanted else ()))
            s.p.drawEllipse(QPointF(cx, cy), r, r)
            s.text(
                cx + s.px(2), cy - r, f"{ratio:g}", colour("accent" if wanted else "soft"), 10.5, halo=True, mono=True
            )
        s.p.setBrush(Qt.BrushStyle.NoBrush)
        s.p.setPen(s.pen(colour("line"), 1.6))
        s.p.drawEllipse(QPointF(cx, cy), radius, radius)
        s.line(cx - radius, cy, cx + radius, cy, colour("hairline"))
        for words, dx, dy, align in (
            ("short", -1.0, 0.0, "right"),
            ("open", 1.0, 0.0, "left"),
            ("electrically long ↑ inductive", 0.0, -1.0, "left"),
            ("electrically short ↓ capacitive", 0.0, 1.0, "left"),
        ):
            shift = s.px(6) * dx if dx else radius * 0.55
            y = cy + dy * radius * 0.94
            s.text(cx + dx * radius + shift, y, words, colour("soft"), 11, align)
        if focus is None or focus.sweep is None:
            s.text(cx, cy, "nothing swept yet", colour("soft"), 13, "middle", halo=True)
            return
        if not focus.sweep.sweep.phase_known:
            s.text(cx, cy, "no phase in this sweep", colour("soft"), 13, "middle", halo=True)
            return
        reading, slot = focus.sweep, focus.antenna.slot
        px, py = cx + radius * reading.gamma.real, cy - radius * reading.gamma.imag
        s.path(px, py, s.paper.antenna(slot, 0.7), 1.6)
        inside = (reading.frequency_hz >= f.band_hz[0]) & (reading.frequency_hz <= f.band_hz[1])
        if inside.sum() > 1:
            s.path(px[inside], py[inside], s.paper.antenna(slot), 5.0)
        self._marks(s, reading, px, py, slot)
        right = cx + radius + s.px(48)
        at = reading.at
        s.glyph(right, cy - s.px(40), slot, 9)
        s.text(right + s.px(10), cy - s.px(40), focus.antenna.name, s.paper.antenna(slot), 13, bold=True)
        lines = (
            f"at {show.frequency(reading.at_hz)}",
            f"SWR {at.text}",
            show.impedance(reading.impedance_ohm),
            f"return loss {reading.return_loss_db:.1f} dB",
        )
        for i, line in enumerate(lines):
            box = s.text(right, cy - s.px(16 - 20 * i), line, colour("ink"), 12, mono=i > 0)
            if i == 1:
                s.spot(box, at, f"{focus.antenna.name}, SWR {at.text}")
        s.text(right, cy + s.px(72), "thick: the wanted band", colour("soft"), 11)

    def _impedances(self, s: Sheet, cx: float, cy: float, radius: float) -> None:
        """Arcs of the same resistance, fine, and of the same reactance, dotted, with their ohms."""
        ink, soft = s.paper.colour("line", 0.75), s.paper.colour("soft")
        same_r, same_x = reflection.lines_of_impedance(
            RESISTANCES_OHM, [*REACTANCES_OHM, *(-x for x in REACTANCES_OHM)]
        )
        for line in same_r:
            s.path(cx + radius * line.real, cy - radius * line.imag, ink, 0.9)
        for line in same_x:
            s.path(cx + radius * line.real, cy - radius * line.imag, ink, 0.9, (1, 3))
        for ohm in (r for r in RESISTANCES_OHM if r != 50.0):  # the middle is where paths and marks are
            x = cx + radius * float(reflection.gamma_from_impedance(ohm).real)
            s.text(
                x,
                cy + s.px(8),
                f"{ohm:g} Ω" if ohm == RESISTANCES_OHM[-1] else f"{ohm:g}",
                soft,
                9.5,
                "middle",
                mono=True,
                halo=True,
            )
        for line in same_x:
            rim = complex(line[0])
            ohm = float(50.0 * ((1 + rim) / (1 - rim)).imag)
            align = "left" if rim.real > 0.2 else "right" if rim.real < -0.2 else "middle"
            x, y = cx + (radius + s.px(7)) * rim.real, cy - (radius + s.px(9)) * rim.imag
            s.text(x, y, f"{show.MINUS if ohm < 0 else chr(43)}j{abs(ohm):.0f}", soft, 9.5, align, mono=True)

    def _marks(self, s: Sheet, reading: SweepReading, px: Floats, py: Floats, slot: int) -> None:
        """Frequencies along the path, at round steps."""
        f = reading.frequency_hz / 1e6
        axis = Axis(float(f[0]), float(f[-1]), 0, 1)
        last: list[tuple[float, float]] = []
        for tick in axis.ticks(6):
            x, y = float(np.interp(tick, f, px)), float(np.interp(tick, f, py))
            s.rect(QRectF(x - 2.5, y - 2.5, 5, 5), s.paper.antenna(slot))
            if all(abs(x - u) > s.px(30) or abs(y - v) > s.px(13) for u, v in last):
                s.text(x + s.px(6), y - s.px(7), f"{tick:g}", s.paper.colour("soft"), 10.5, halo=True, mono=True)
                last.append((x, y))
        at = int(np.argmin(np.abs(reading.frequency_hz - reading.at_hz)))
        s.p.setBrush(s.paper.colour("sheet"))
        s.p.setPen(s.pen(s.paper.colour("ink"), 1.8))
        s.p.drawEllipse(QPointF(float(px[at]), float(py[at])), s.px(5), s.px(5))
