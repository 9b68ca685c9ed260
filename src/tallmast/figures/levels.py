"""The Levels' main picture: a link as a staircase of power, from the transmitter to the receiver."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor

from tallmast.findings.figure import Figure
from tallmast.findings.levels import LevelsFinding
from tallmast.findings.levels.staircase import LimitMargin, Staircase, Step
from tallmast.frozen import Frozen
from tallmast.physics.decibels import watt_from_dbm
from tallmast.units import show

from .picture import Picture
from .sheet import Axis, Sheet, spread


class StepPick(Frozen):
    """A step picked on the staircase: by its key, and the figure of the level after it."""

    key: str
    figure: Figure


@dataclass
class _Tread:
    """Where a step lies on the picture, for a hand that takes hold of it."""

    step: int
    left: float
    right: float
    axis: Axis
    beyond_db: float = 0.0
    """Changes between this step and the level that its tread shows: of the path, what polarization takes after it."""


@dataclass(kw_only=True)
class StaircasePicture(Picture):
    """Both sides of the path on one scale of decibels, the path torn out between them.

    `stairs` is the one shown; `finding` gives what else is drawn with the way out.
    """

    finding: LevelsFinding
    stairs: Staircase | None = None
    selected: str = ""
    spans: tuple[tuple[float, float], tuple[float, float]] | None = None
    """Lowest and highest level of either side, kept from the picture before while a hand drags; None: as they fit."""
    least_height = 330

    def __post_init__(self) -> None:
        self.stairs = self.stairs or self.finding.out
        self.treads: list[_Tread] = []
        self._taken: list[QRectF] = []
        """Where words stand already."""

    @property
    def title(self) -> str:  # type: ignore[override]
        if self.stairs is None:
            return "Power, step by step"
        way = "as set up for the test" if self.stairs.plan.direction == "out" else "the way back"
        return f"Power, step by step, {way}"

    def drag(self, x: float, y: float) -> float | None:
        """The change that the step under the pointer would make if its tread lay at y, dB."""
        key = self.key_at(x)
        return None if key is None else self.change_for(key, y)

    def key_at(self, x: float) -> str | None:
        """The step whose tread lies at x; None where it can't be moved."""
        for tread in self.treads:
            if self.stairs is not None and tread.left <= x <= tread.right:
                planned = self.stairs.plan.steps[tread.step]
                return planned.key if planned.movable else None
        return None

    def change_for(self, key: str, y: float) -> float | None:
        """The change of a step for which its tread lies at y, on its grain and within its ends."""
        stairs = self.stairs
        tread = next((t for t in self.treads if stairs and stairs.steps[t.step].key == key), None)
        if tread is None or stairs is None:
            return None
        before = stairs.steps[tread.step - 1].level_dbm if tread.step else 0.0
        return stairs.plan.steps[tread.step].held(tread.axis.back(y) - before - tread.beyond_db)

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        s, stairs = sheet, self.stairs
        self.treads, self._taken = [], []
        if stairs is None:
            s.text(
                rect.center().x(),
                rect.center().y(),
                "note the power and the pads",
                s.paper.colour("soft"),
                14,
                "middle",
            )
            return
        steps = list(enumerate(stairs.steps))
        crossing = next((i for i, step in steps if step.part == "path"), None)
        near = steps if crossing is None else steps[:crossing]
        across = [step for _, step in steps if step.part == "path"]
        last_path = max((i for i, step in steps if step.part == "path"), default=-1)
        # The far side begins with what arrives, the path's last step.
        far = [] if crossing is None else [(last_path, stairs.steps[last_path]), *steps[last_path + 1 :]]
        near_met, far_met = [m for m in stairs.met if m.step < len(near)], [m for m in stairs.met if m.step > last_path]
        if self.spans is None:
            near_span = self._span([step for _, step in near], self._near_lines(), near_met)
            self.spans = near_span, self._span([step for _, step in far], [], far_met) if far else near_span
        near_span, far_span = self.spans
        size = max(near_span[1] - near_span[0], far_span[1] - far_span[0])
        top, bottom = rect.top() + s.px(30), rect.bottom() - s.px(50)
        left, right = rect.left() + s.px(46), rect.right() - s.px(150 if not far else 46)
        gap = s.px(104) if far else 0.0
        column = (right - left - gap) / max(len(near) + len(far), 1)
        middle = left + column * len(near)
        axis = Axis(near_span[1] - size, near_span[1], bottom, top)
        self._scale(s, axis, left, middle, "left")
        self._side(s, near, left, column, axis, stairs, first=True)
        self._lines(s, near_met, axis, left, middle, "left")
        if stairs.plan.direction == "out":
            self._full_power(s, axis, left, middle if far else right, outside=not far)
        if far:
            over = Axis(far_span[0], far_span[0] + size, bottom, top)
            start = middle + gap
            self._scale(s, over, start, right, "right")
            self._side(s, far, start, column, over, stairs, first=False)
            self._lines(s, far_met, over, start, right, "right")
            self._torn(s, across, near[-1][1], far[0][1], axis, over, middle, start)

    # Parts

    def _near_lines(self) -> list[float]:
        f, stairs = self.finding, self.stairs
        if stairs is None or stairs.plan.direction != "out" or f.full_eirp is None:
            return []
        return [f.full_eirp.value]

    @staticmethod
    def _span(steps: Sequence[Step], lines: Sequence[float], met: Sequence[LimitMargin]) -> tuple[float, float]:
        """Lowest and highest level to be shown: the steps, and the limits that are not far off them."""
        levels = [v for step in steps for v in (step.low_dbm, step.high_dbm)] + list(lines)
        low, high = min(levels), max(levels)
        near = [m.limit.level_dbm for m in met if low - 25 <= m.limit.level_dbm <= high + 25]
        return min([low, *near]) - 6, max([high, *near]) + 6

    def _scale(self, s: Sheet, y: Axis, left: float, right: float, side: str) -> None:
        ink = s.paper.colour("soft")
        for tick in y.ticks(6):
            s.line(left, y(tick), right, y(tick), s.paper.colour("hairline"))
            x = left - s.px(6) if side == "left" else right + s.px(6)
            s.text(x, y(tick), show.fixed(tick, 0), ink, 11, "right" if side == "left" else "left", mono=True)
        x = left - s.px(6) if side == "left" else right + s.px(6)
        s.text(x, y.end - s.px(18), "dBm", ink, 11, "right" if side == "left" else "left")

    def _side(
        self,
        s: Sheet,
        steps: Sequence[tuple[int, Step]],
        left: float,
        column: float,
        y: Axis,
        stairs: Staircase,
        first: bool,
    ) -> None:
        colour = s.paper.colour
        before: float | None = None
        for place, (i, step) in enumerate(steps):
            x0, x1 = left + place * column, left + (place + 1) * column
            at = y(step.level_dbm)
            arrives = not first and place == 0
            movable = stairs.plan.steps[i].movable or arrives
            ink = colour("fails" if step.mark == "fails" else "doubt" if step.tried else "ink")
            if step.key == self.selected and not arrives:
                s.rect(QRectF(x0 + 1, y.end, x1 - x0 - 2, y.start - y.end), colour("accent", 0.07))
            s.rect(QRectF(x0, y(step.high_dbm), x1 - x0, y(step.low_dbm) - y(step.high_dbm)), colour("open_wash", 0.9))
            if before is not None:
                s.line(x0, before, x0, at, ink, 2)
                # Beside its riser, where no tread's own words are: on the left of one that falls, on the right of one
                # that rises; under it where it is too short to hold words.
                falls, tall = at > before, abs(before - at) > s.px(20)
                over = (before + at) / 2 if tall else max(before, at) + s.px(14)
                x, side = (x0 - s.px(5), "right") if falls else (x0 + s.px(5), "left")
                words = show.plus(step.change_db, 1)
                self._taken.append(s.text(x, over, words, colour("ink"), 12, side, mono=True, halo=not tall))
            s.line(x0, at, x1, at, ink, 3)
            if movable:
                self._grip(s, x1, at, ink)
            if not arrives:
                self._name(s, step.name, (x0 + x1) / 2, y.start + s.px(13), column)
                self.treads.append(_Tread(i, x0, x1, y))
            else:
                s.text((x0 + x1) / 2, y.start + s.px(13), "arrives", colour("soft"), 11, "middle")
                # A hand on what arrives moves the path.
                path = next(k for k, st in enumerate(stairs.steps) if st.part == "path")
                self.treads.append(_Tread(path, x0, x1, y, sum(st.change_db for st in stairs.steps[path + 1 : i + 1])))
            bears = next((m for m in stairs.met if m.step == i and m.limit.where == "before"), None)
            if bears is not None and y.low <= bears.limit.level_dbm <= y.high:
                self._bears(s, x0, x1, y(bears.limit.level_dbm), bears.limit.level_dbm)
            if step.rating_w is not None and step.dissipated_w is not None and step.part == "near":
                words = f"{'✓' if step.mark == 'holds' else '✕'} of {show.power(step.rating_w)}"
                s.text((x0 + x1) / 2, y.start + s.px(41), words, s.paper.mark(step.mark or "open"), 11, "middle")
            figure = stairs.figure(i)
            end = place == len(steps) - 1
            words = show.fixed(step.level_dbm, 1) if not end else f"{show.fixed(step.level_dbm, 1)} dBm"
            ink = colour("accent" if end else "soft")
            if arrives and place + 1 < len(steps) and abs(steps[place + 1][1].change_db) < 0.05:
                words = ""  # the next tread says it
            self._taken.append(s.text((x0 + x1) / 2, at - s.px(11), words, ink, 11.5, "middle", end, True, True))
            if first and (end or place == 0):
                s.text(
                    (x0 + x1) / 2,
                    at - s.px(26),
                    show.power(watt_from_dbm(step.level_dbm)),
                    colour("soft"),
                    11,
                    "middle",
                    halo=True,
                )
            s.spot(
                QRectF(x0, at - s.px(12), x1 - x0, s.px(24)), StepPick(step.key, figure), f"{step.name} {figure.text}"
            )
            before = at

    @staticmethod
    def _grip(s: Sheet, x: float, y: float, ink: QColor) -> None:
        """What a hand can take hold of, at the end of a tread."""
        for k in (-1, 0, 1):
            s.line(x - s.px(9) + k * s.px(3), y - s.px(4), x - s.px(9) + k * s.px(3), y + s.px(4), ink, 1)

    def _bears(self, s: Sheet, x0: float, x1: float, y: float, level_dbm: float) -> None:
        """The level at its input that a part bears: a short line over its own column."""
        ink = s.paper.colour("fails")
        s.line(x0, y, x1, y, ink, 1.6)
        words = f"bears {show.fixed(level_dbm, 0)}"
        self._taken.append(s.text((x0 + x1) / 2, y - s.px(8), words, ink, 10.5, "middle", halo=True))

    @staticmethod
    def _name(s: Sheet, name: str, x: float, y: float, column: float) -> None:
        """A name under its column, on two lines where one is too short for it."""
        words = name.split()
        rows = [name]
        if s.width(name, 11) > column - s.px(4) and len(words) > 1:
            cut = min(range(1, len(words)), key=lambda k: max(len(" ".join(words[:k])), len(" ".join(words[k:]))))
            rows = [" ".join(words[:cut]), " ".join(words[cut:])]
        widest = max(s.width(row, 11) for row in rows)
        size = 11 if widest <= column else max(11 * column / widest, 8)
        for k, row in enumerate(rows):
            s.text(x, y + k * s.px(14), row, s.paper.colour("ink"), size, "middle")

    def _full_power(self, s: Sheet, y: Axis, left: float, right: float, outside: bool) -> None:
        full = self.finding.full_eirp
        if full is None or not y.low <= full.value <= y.high:
            return
        at, ink = y(full.value), s.paper.colour("accent")
        s.line(left, at, right, at, ink, 1.2, (2, 3))
        words = f"EIRP at full power {full.short}"
        box = s.text(left + s.px(4), at + s.px(9), words, ink, 11, halo=True)
        s.spot(box, full, f"EIRP at full power {full.text}")

    def _lines(self, s: Sheet, met: Sequence[LimitMargin], y: Axis, left: float, right: float, side: str) -> None:
        """Limits on their lines; those beyond the picture with an arrow and how far off they are."""
        shown = [
            m for m in met if not (m.limit.name.startswith("what ") and m.limit.where == "before" and m.limit.hard)
        ]
        inside = [m for m in shown if y.low <= m.limit.level_dbm <= y.high]
        heights = spread([y(m.limit.level_dbm) - s.px(8) for m in inside], s.px(14), y.end, y.start - s.px(6))
        for m, height in zip(inside, heights, strict=True):
            ink = s.paper.colour("fails" if m.limit.side == "under" else "accent")
            if m.limit.name.startswith("wanted"):
                ink = s.paper.colour("doubt")
            at = y(m.limit.level_dbm)
            s.line(left, at, right, at, ink, 1.4 if m.limit.hard else 1.1, (6, 3))
            words = f"{m.limit.name} {show.fixed(m.limit.level_dbm, 0)}"
            wide, ends = s.width(words, 11), (left + s.px(4), right - s.px(4))
            # Over its line where there is room, else under it, else over it all the same.
            places = [(self._free(wide, y_, *ends, s.px(8)), y_) for y_ in (height, at + s.px(9))]
            x, y_ = next(((x, y_) for x, y_ in places if x is not None), (ends[1], height))
            self._taken.append(s.text(x, y_, words, ink, 11, "right", halo=True))
        beyond = sorted((m for m in shown if m not in inside), key=lambda m: m.limit.level_dbm)
        for k, m in enumerate(m for m in beyond if m.limit.level_dbm > y.high):
            words = f"↑ {m.limit.name} {show.fixed(m.limit.level_dbm, 0)} dBm"
            s.text(
                right - s.px(4), y.end - s.px(18) + k * s.px(14), words, s.paper.colour("soft"), 11, "right", halo=True
            )

    def _free(self, wide: float, y: float, left: float, right: float, half: float) -> float | None:
        """The right end of words at height y that keep clear of others, as far right as there is room; None: nowhere."""
        x = right
        while x - wide >= left:
            box = QRectF(x - wide, y - half, wide, 2 * half)
            if not any(box.intersects(other) for other in self._taken):
                return x
            x -= 12.0
        return None

    @staticmethod
    def _torn(
        s: Sheet, across: Sequence[Step], last: Step, arrives: Step, near: Axis, far: Axis, left: float, right: float
    ) -> None:
        """The path between the two sides, too tall for either."""
        ink = s.paper.colour("ink")
        y0, y1 = near(last.level_dbm), far(arrives.level_dbm)
        x0, x1 = left + s.px(10), right - s.px(10)
        s.line(left, y0, x0, y0, ink, 2)
        s.line(x1, y1, right, y1, ink, 2)
        middle = (y0 + y1) / 2
        tooth = s.px(5)
        s.line(x0, y0, x0, max(y0, middle) if y1 >= y0 else middle, ink, 2)
        s.line(x1, min(y1, middle) if y1 >= y0 else middle, x1, y1, ink, 2)
        xs = [x0 + (x1 - x0) * k / 8 for k in range(9)]
        ys = [middle + (tooth if k % 2 else -tooth) * (0 if k in (0, 8) else 1) for k in range(9)]
        s.path(xs, ys, ink, 1.4)
        for k, step in enumerate(across):
            if step.key != "path" and abs(step.change_db) < 0.05:
                continue
            words = f"{show.fixed(step.change_db, 1)} dB"
            at = middle - s.px(34) + k * s.px(58)
            s.text((x0 + x1) / 2, at, step.name, s.paper.colour("soft"), 11, "middle", halo=True)
            s.text((x0 + x1) / 2, at + s.px(14), words, ink, 12, "middle", mono=True, halo=True)
