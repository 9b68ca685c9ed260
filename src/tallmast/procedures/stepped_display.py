"""A display stepped through known attenuation, one step a key."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np
from msgspec.structs import replace

from tallmast.findings.levels.display import DisplayFinding, told_of
from tallmast.findings.levels.display_curve import fit
from tallmast.frozen import Frozen
from tallmast.notebook.entry import Entry, new_series
from tallmast.notebook.records import DisplayRun, DisplayScale
from tallmast.units import read, show
from tallmast.units.shown import SCALES

from .level_range import OnLevels
from .procedure import Key, Row, Workplace

SOURCE_DBM = -45.0
"""Level of the practice source: its receivers are loud with it, and lost behind the whole attenuator."""


class DisplayPlan(Frozen, eq=True):
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


class SteppedDisplay(OnLevels):
    """Says which attenuation to set, and takes what the display shows."""

    title = "A display stepped through decibels"
    rows = (
        Row(
            "",
            (
                Key("Enter", "note it, next step", "note"),
                Key("Backspace", "take the last back", "take_back"),
                Key("R", "run the rest (practice)", "run_rest"),
                Key("K", "keep", "keep"),
                Key("P", "another run …", "plan_sheet"),
            ),
        ),
    )

    def __init__(self, place: Workplace) -> None:
        super().__init__(place)
        self.plan: DisplayPlan | None = None
        self.shown: list[float] = []
        self.found: DisplayFinding | None = None
        """What the steps so far come to."""

    @property
    def by_hand(self) -> bool:
        """Whether what the display shows is to be written now."""
        return self.plan is not None and self.plan.by == "hand" and self.next_db is not None

    def begin(self) -> None:
        """Where it stood; without a plan its sheet is asked for."""
        if self.plan is None:
            self.tell("No run yet.", "P says which display, and over which attenuations.")
            self.plan_sheet()
        else:
            self.refresh()

    def plan_sheet(self) -> None:
        self.on_ask("display plan")

    def step_through(self, plan: DisplayPlan) -> None:
        """A new run."""
        self.plan, self.shown, self.found = plan, [], None
        if plan.by == "practice":
            self.do("Looking at the practice receiver", self._start_practice, self._started)
        else:
            self.refresh()

    def _start_practice(self) -> float:
        """Choose the receiver, and measure what reaches it with no attenuation."""
        assert self.plan is not None
        frequency = self.frequency_hz
        self.range.get("receiver").choose(self.plan.scale)
        self.range.get("hands").link.write("BENC:PAD none")
        attenuator, source, meter = (self.range.get(k) for k in ("attenuator", "source", "meter"))
        attenuator.set(0)
        source.set(frequency, SOURCE_DBM)
        source.switch(True)
        return float(np.mean([meter.level_dbm(frequency) for _ in range(5)]))

    def _started(self, zero_dbm: float) -> None:
        assert self.plan is not None
        if self.plan.zero_dbm is None:
            self.plan = replace(self.plan, zero_dbm=round(zero_dbm, 2), zero_u_db=0.1)
        self.refresh()

    @property
    def next_db(self) -> float | None:
        """The attenuation to set now; None when all are done."""
        if self.plan is None or len(self.shown) >= len(self.plan.attenuation_db):
            return None
        return self.plan.attenuation_db[len(self.shown)]

    def note(self) -> None:
        """Look at the display of the practice bench at this step."""
        at = self.next_db
        if at is not None and not self.by_hand:
            self.do("Looking at the display", lambda: self._look(at), self._noted)

    def note_typed(self, text: str) -> bool:
        """Take what somebody wrote that the display shows, or `k` for keep; whether it could be read."""
        if text.strip().lower() == "k":
            self.keep()
            return True
        if not text.strip():
            self.place.tell("Write what the display shows first; 0 where it shows nothing.")
            return False
        try:
            # “S7” and “3 bars” are said as they are read; the number counts.
            value = read.number("".join(c for c in text if c in "0123456789.,-+eE").strip("eE") or text)
        except read.UnitError as error:
            self.place.tell(str(error))
            return False
        self._noted(value)
        return True

    def _look(self, attenuation_db: float) -> float:
        self.range.get("attenuator").set(attenuation_db)
        return float(self.range.get("receiver").shown())

    def _noted(self, value: float) -> None:
        self.shown.append(value)
        self.refresh()

    def run_rest(self) -> None:
        """All steps that are left, where the practice bench does them."""
        plan = self.plan
        if plan is None or plan.by != "practice":
            self.place.tell("By hand every step is looked at: set it, write what is shown, Enter.")
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
        self.found = told_of(curve) if curve is not None else None
        if self.found is not None:
            self.place.pick(self.found.middle.level)
        last = (
            f"{show.upper_first(plan.receiver)} showed {self.shown[-1]:g} {SCALES[plan.scale].unit}."
            if self.shown
            else f"{show.upper_first(plan.receiver)}, {plan.scale}."
        )
        at = self.next_db
        if at is None:
            said = self.found.sentence if self.found is not None else "All steps done, and the display never moved."
            self.tell(said, "K keeps it: from then on its readings are decibels.")
            return
        what = "write what it shows, Enter" if self.by_hand else "Enter steps and looks"
        step = f"Step {len(self.shown) + 1} of {len(plan.attenuation_db)}"
        self.tell(f"Set {at:g} dB. {last}", f"{step}: {what}. K keeps what there is.")

    def keep(self) -> None:
        if self.plan is None or len(self.shown) < 3:
            self.place.tell("Three steps at least; better all of them.")
            return
        if self.found is None:
            self.place.tell("The display never moved: step further, or begin louder.")
            return
        key, columns = new_series(self._columns())
        record = self._record().revised(series_id=key)
        words = f"{record.receiver}’s display stepped through {show.count(len(self.shown), 'reading')}"
        if self.place.write(Entry(show.upper_first(words), [record], series=columns)):
            self.plan, self.shown, self.found = None, [], None
            self.tell(f"Kept: {words}.", "P begins another; Esc leaves.")
