"""A display stepped through known attenuation, one step a key."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLineEdit

from tallmast.figures.levels_display import DisplayPicture
from tallmast.findings.levels.display import UNITS, fit
from tallmast.findings.levels.display import told_of as finding_of
from tallmast.notebook.records import DisplayRun, DisplayScale
from tallmast.notebook.store import Entry, new_series
from tallmast.units import read, show

from ..picture_view import PictureView
from .guided import GuidedPanel

SOURCE_DBM = -45.0
"""Level of the practice source: its receivers are loud with it, and lost behind the whole attenuator."""


@dataclass(frozen=True)
class DisplayPlan:
    """How a display is to be stepped. `by`: 'hand' or 'practice'."""

    receiver: str
    scale: DisplayScale
    from_db: float = 0.0
    to_db: float = 60.0
    step_db: float = 2.0
    both_ways: bool = True
    zero_dbm: float | None = None
    zero_u_db: float = 0.5
    step_u_db: float = 0.15
    by: str = "practice"

    @property
    def attenuation_db(self) -> tuple[float, ...]:
        """Every step, out and, if wanted, back again."""
        count = round((self.to_db - self.from_db) / self.step_db)
        out = [self.from_db + k * self.step_db for k in range(count + 1)]
        return tuple(out + out[::-1] if self.both_ways else out)


class DisplayRunPanel(GuidedPanel):
    """Says which attenuation to set, takes what the display shows, draws the curve as it grows."""

    title = "A display stepped through decibels"
    KEYS = (
        ("Enter", "note it, next step", "note"),
        ("Backspace", "take the last back", "take_back"),
        ("R", "run the rest (practice)", "run_rest"),
        ("K", "keep", "keep"),
        ("P", "another run …", "plan_sheet"),
    )

    def __init__(self, session: Any, paper: Any) -> None:
        self.plan: DisplayPlan | None = None
        self.shown: list[float] = []
        super().__init__(session, paper)

    def build(self) -> None:
        self.line = QLineEdit(self)
        self.line.setObjectName("displayReading")
        self.line.setAccessibleName("What the display shows")
        self.line.setMaximumWidth(round(260 * self.paper.scale))
        self.line.returnPressed.connect(self.note)
        self.box.addWidget(self.line)
        self.view = PictureView(self.paper, "displayRunPicture")
        self.view.setMinimumHeight(round(280 * self.paper.scale))
        self.view.hide()
        self.box.addWidget(self.view, 1)

    def open(self) -> None:
        """Show the panel; without a plan its sheet is asked for."""
        self.show()
        if self.plan is None:
            self.tell("No run yet.", "P says which display, and over which attenuations.")
            self.line.hide()
            self.setFocus()
            self.plan_sheet()
        else:
            self.refresh()

    def plan_sheet(self) -> None:
        self.sheet_asked.emit("display plan")

    def begin(self, plan: DisplayPlan) -> None:
        """A new run."""
        self.plan, self.shown = plan, []
        self.view.hide()
        self.line.setVisible(plan.by == "hand")
        if plan.by == "practice":
            self.do("Looking at the practice receiver", self._start_practice, self._started)
        else:
            self.refresh()

    def _start_practice(self) -> float:
        """Choose the receiver, and measure what reaches it with no attenuation."""
        assert self.plan is not None
        frequency = self._frequency_hz
        self.range.get("receiver").choose(self.plan.scale)
        self.range.get("hands").link.write("BENC:PAD none")
        attenuator, source, meter = (self.range.get(k) for k in ("attenuator", "source", "meter"))
        attenuator.set(0)
        source.set(frequency, SOURCE_DBM)
        source.switch(True)
        return float(np.mean([meter.level_dbm(frequency) for _ in range(5)]))

    def _started(self, zero_dbm: float) -> None:
        from dataclasses import replace

        assert self.plan is not None
        if self.plan.zero_dbm is None:
            self.plan = replace(self.plan, zero_dbm=round(zero_dbm, 2), zero_u_db=0.1)
        self.refresh()

    @property
    def _frequency_hz(self) -> float:
        question = self.session.evidence.question
        return question.centre_hz if question else 869e6

    @property
    def next_db(self) -> float | None:
        """The attenuation to set now; None when all are done."""
        if self.plan is None or len(self.shown) >= len(self.plan.attenuation_db):
            return None
        return self.plan.attenuation_db[len(self.shown)]

    def note(self) -> None:
        """Take what the display shows at this step."""
        plan, at = self.plan, self.next_db
        if plan is None or at is None:
            return
        if plan.by == "practice":
            self.do("Looking at the display", lambda: self._look(at), self._noted)
            return
        text = self.line.text().strip()
        if text.lower() == "k":
            self.keep()
            return
        if not text:
            self.session.trouble.emit("Write what the display shows first; 0 where it shows nothing.")
            return
        try:
            # “S7” and “3 bars” are said as they are read; the number counts.
            value = read.number("".join(c for c in text if c in "0123456789.,-+eE").strip("eE") or text)
        except read.UnitError as error:
            self.session.trouble.emit(str(error))
            return
        self._noted(value)

    def _look(self, attenuation_db: float) -> float:
        self.range.get("attenuator").set(attenuation_db)
        return float(self.range.get("receiver").shown())

    def _noted(self, value: float) -> None:
        self.shown.append(value)
        self.line.clear()
        self.refresh()

    def run_rest(self) -> None:
        """All steps that are left, where the practice bench does them."""
        plan = self.plan
        if plan is None or plan.by != "practice":
            self.session.trouble.emit("By hand every step is looked at: set it, write what is shown, Enter.")
            return
        left = plan.attenuation_db[len(self.shown) :]

        def done(values: list[float]) -> None:
            self.shown += values
            self.refresh()

        self.do("Stepping the rest", lambda: [self._look(a) for a in left], done)

    def take_back(self) -> None:
        if self.shown and not self.busy:
            self.shown.pop()
            self.refresh()

    # What it comes to

    def _record(self) -> DisplayRun:
        plan = self.plan
        assert plan is not None
        return DisplayRun(
            receiver=plan.receiver,
            scale=plan.scale,
            series_id="",
            zero_dbm=plan.zero_dbm,
            zero_u_db=plan.zero_u_db,
            step_u_db=plan.step_u_db,
            taken_at=datetime.now(UTC).isoformat(timespec="seconds"),
            source="practice bench" if plan.by == "practice" else "by hand",
        )

    def _columns(self) -> dict[str, np.ndarray]:
        assert self.plan is not None
        n = len(self.shown)
        return {
            "attenuation_db": np.array(self.plan.attenuation_db[:n]),
            "shown": np.array(self.shown),
            "order": np.arange(n, dtype=float),
        }

    def refresh(self) -> None:
        plan = self.plan
        if plan is None:
            return
        curve = fit(self._record(), self._columns()) if len(self.shown) >= 3 else None
        if curve is not None:
            found = finding_of(curve)
            self.view.show_picture(DisplayPicture(finding=found))
            self.session.pick(found.middle.level)
        self.view.setVisible(curve is not None)
        last = (
            f"{show.upper_first(plan.receiver)} showed {self.shown[-1]:g} {UNITS[plan.scale]}."
            if self.shown
            else f"{show.upper_first(plan.receiver)}, {plan.scale}."
        )
        at = self.next_db
        count = len(plan.attenuation_db)
        if at is None:
            said = finding_of(curve).sentence if curve is not None else "All steps done, and the display never moved."
            self.tell(said, "K keeps it: from then on its readings are decibels.")
            self.line.hide()
            self.setFocus()
        else:
            what = "Enter steps and looks" if plan.by == "practice" else "write what it shows, Enter"
            self.tell(
                f"Set {at:g} dB. {last}", f"Step {len(self.shown) + 1} of {count}: {what}. K keeps what there is."
            )
            if plan.by == "hand":
                self.line.show()
                self.line.setFocus(Qt.FocusReason.OtherFocusReason)
            else:
                self.setFocus()

    def keep(self) -> None:
        if self.plan is None or len(self.shown) < 3:
            self.session.trouble.emit("Three steps at least; better all of them.")
            return
        if fit(self._record(), self._columns()) is None:
            self.session.trouble.emit("The display never moved: step further, or begin louder.")
            return
        key, columns = new_series(self._columns())
        record = self._record().revised(series_id=key)
        words = f"{record.receiver}’s display stepped through {show.count(len(self.shown), 'reading')}"
        if self.session.write(Entry(show.upper_first(words), [record], series=columns)):
            self.plan, self.shown = None, []
            self.view.hide()
            self.line.hide()
            self.tell(f"Kept: {words}.", "P begins another; Esc leaves.")
            self.setFocus()
