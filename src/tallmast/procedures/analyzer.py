"""The analyzer on the Bench: sweep, keep, hand near, calibrate, qualify, trim, each by one key."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from tallmast.findings.bench.live import LiveReading, newest_calibration, newest_fixture, read_live
from tallmast.findings.bench.trust import CalibrationReading
from tallmast.instruments.driver import RawSweep, SweepPlan
from tallmast.instruments.drivers import makers
from tallmast.notebook.entry import Entry
from tallmast.notebook.records import Antenna, Calibration, FarEndOfCable, Fixture, Question
from tallmast.physics.decibels import Floats
from tallmast.units import show

from . import keeping
from .calibrating import Calibrating
from .lines import Lines, Sweeper
from .practice_hands import PracticeHands
from .practising import PRACTICE
from .procedure import Key, Procedure, Row, Workplace, nothing

NAME_IT = "Name the fixture first: press F."


def usual_plan(question: Question | None) -> SweepPlan:
    """Seven bandwidths about the band, or a tenth of its frequency, whichever is more: wide enough to see which way."""
    if question is None:
        return SweepPlan(100e6, 1000e6, 401)
    half = max(3.5 * (question.band_high_hz - question.band_low_hz), 0.035 * question.centre_hz)
    return SweepPlan(max(question.centre_hz - half, 1e5), question.centre_hz + half, 401)


PRACTICE_ROW = Row(
    "Practice bench: attach",
    (
        Key("O", "open", "hands.attach_open"),
        Key("S", "short", "hands.attach_short"),
        Key("L", "load", "hands.attach_load"),
        Key("A", "antenna in focus", "hands.attach_antenna"),
        Key("D", "3 m cable", "hands.next_cable"),
        Key("R", "read the meter", "hands.read_meter"),
    ),
)


class Analyzer(Procedure):
    """While it has the keyboard, single keys do everything."""

    title = "Analyzer"
    rows = (
        Row(
            "Sweep",
            (
                Key("Space", "sweep or stop", "toggle"),
                Key("K", "keep", "keep"),
                Key("J", "least and greatest", "hold"),
                Key("H", "hand near", "hand"),
                Key("X", "cut …", "cut_sheet"),
                Key("U", "plan …", "plan_sheet"),
                Key("B", "analyzer …", "connect_sheet"),
            ),
        ),
        Row(
            "Believe it",
            (
                Key("C", "calibrate", "calibrating.calibrate"),
                Key("V", "load again", "calibrating.check"),
                Key("F", "fixture …", "fixture_sheet"),
                Key("Q", "qualify", "qualify"),
                Key("M", "it was moved", "moved"),
                Key("Y", "measure a cable …", "cable_sheet"),
                Key("E", "that cable into the fixture", "cable_into_fixture"),
                Key("T", "standards …", "calibrating.standards_sheet"),
            ),
        ),
        PRACTICE_ROW,
    )

    def __init__(self, place: Workplace, lines: Lines) -> None:
        super().__init__(place)
        self.lines = lines
        self.line: Sweeper | None = None
        self.hands = PracticeHands(self)
        self.calibrating = Calibrating(self, self.hands)
        self.address, self.driver, self.name = "", "SCPI", ""
        self.plan: SweepPlan = usual_plan(None)
        self.raw: RawSweep | None = None
        self.reading: LiveReading | None = None
        self.kept: LiveReading | None = None
        """The one kept last, to compare with."""
        self.holding = False
        self.held: tuple[Floats, Floats] | None = None
        """Least and greatest of |Γ| since they are held."""
        self.hand_near = False
        self.on_reading: Callable[[], object] = nothing
        self._calibration: CalibrationReading | None = None
        self._pending: tuple[float, Callable[[RawSweep], object], bool] | None = None

    def shows(self, row: Row) -> bool:
        return row is not PRACTICE_ROW or self.practising

    # The line

    @property
    def practising(self) -> bool:
        server = self.hands.server
        return server is not None and self.address == server.analyzer.address

    @property
    def calibration(self) -> Calibration | None:
        """The one in use."""
        return self._calibration.calibration if self._calibration else None

    def begin(self) -> None:
        """With the practice bench where nothing else was ever connected."""
        if self.line is None:
            self.plan = usual_plan(self.place.question)
        if not self.address:
            self.connect_to(PRACTICE)
        self.refresh()

    def connect_to(self, address: str, driver: str = "SCPI") -> None:
        """Take an analyzer at an address; the practice bench by its name."""
        if address == PRACTICE:
            address = self.hands.start()
        self.lines.close()
        self.address, self.driver = address, driver
        self.raw = self.reading = None
        self.line = self.lines.open(makers()[driver], address, self.plan)
        self.tell(todo="Connecting …")

    def end(self) -> None:
        """Let go of the instrument and end the practice bench."""
        self.lines.close()
        self.line = None
        self.hands.stop()
        self.address = ""
        self.lines.end()

    def leave(self) -> None:
        """A calibration on its way first; then the panel. The line stays open, and nothing is swept meanwhile."""
        if not self.calibrating.give_up():
            if self.line is not None:
                self.line.pause()
            self.on_leave()

    def set_plan(self, plan: SweepPlan) -> None:
        self.plan = plan
        self.raw = self.reading = self.held = None
        self.calibrating.guide = None
        if self.line is not None:
            self.line.plan(plan)
        self.refresh()

    def connected(self, name: str) -> None:
        self.name = name
        self.refresh()

    def fault(self, message: str) -> None:
        self.place.tell(message)
        self.tell(todo="The analyzer does not answer as it should; what was kept is kept, and it is tried again.")

    def recovered(self) -> None:
        self.place.tell("")
        self.tell(todo="It answers again.")

    def arrived(self) -> None:
        """A newer sweep can be taken."""
        taken = self.line.take() if self.line is not None else None
        if taken is None:
            return
        self.raw, began = taken
        self._read(self.raw)
        self.said = self._words()
        self.on_reading()
        if self._pending is not None and began >= self._pending[0]:
            _, act, was_stopped = self._pending
            self._pending = None
            if was_stopped and self.line is not None:
                self.line.pause()
            act(self.raw)

    def with_fresh(self, act: Callable[[RawSweep], object]) -> None:
        """Do something with the first sweep that begins from now on: the one on the screen may be of what was attached
        before."""
        if self.line is None:
            self.tell(todo="No analyzer is connected: press B.")
            return
        self._pending = (time.monotonic(), act, not self.line.going)
        self.tell(todo="Sweeping …")
        self.line.go()

    def _read(self, raw: RawSweep) -> None:
        self.reading = read_live(
            raw.frequency_hz, raw.gamma, self.place.question, self.setting.cable, self._calibration
        )
        if self.holding:
            m = self.reading.magnitude
            low, high = self.held if self.held is not None and len(self.held[0]) == len(m) else (m, m)
            self.held = (np.minimum(low, m), np.maximum(high, m))

    # What is so

    @property
    def setting(self) -> keeping.Setting:
        """Under what a sweep is taken now."""
        fixture = newest_fixture(self.place.evidence)
        return keeping.Setting(self.name, self.plan, self._calibration, fixture, self.hand_near)

    def refresh(self) -> None:
        """After the notebook, the focus or the plan has changed."""
        self._calibration = newest_calibration(self.place.evidence)
        if self._calibration and self._calibration.calibration.analyzer != self.name:
            self._calibration = None  # another instrument's errors
        fixture = newest_fixture(self.place.evidence)
        seat = f"{fixture.name}, connection {fixture.reconnection}" if fixture else "no fixture named"
        self.title = f"{self.name or 'Connecting'}: {self.calibrated}; {seat}. One key does it, Esc folds it away"
        self.hands.stock()
        if self.raw is not None:
            self._read(self.raw)
        self.tell(self._words())
        self.remind()

    def remind(self) -> None:
        """Say again what a calibration on its way waits for."""
        self.calibrating.say()

    @property
    def calibrated(self) -> str:
        """In words, what calibration there is of what is swept."""
        if self._calibration is None:
            return "not calibrated here"
        if not self._calibration.covers(self.plan.frequency_hz):
            return "calibrated over another range"
        return self._calibration.words

    def _words(self) -> str:
        if self.reading is None:
            return "Nothing swept yet. Space sweeps."
        rate = self.line.rate if self.line is not None and self.line.going else 0.0
        running = f"  ·  {rate:.0f} sweeps a second" if rate >= 1 else "" if rate else "  ·  stopped"
        hand = "  ·  hand near" if self.hand_near else ""
        return f"{show.upper_first(self.reading.words)}{hand}{running}"

    def antenna(self) -> Antenna | None:
        """The one in focus; told where there is none."""
        antenna = self.place.focus_antenna
        if antenna is None:
            self.tell(todo="Put an antenna on the shelf first: Esc, then A.")
        return antenna

    def _fixture(self) -> Fixture | None:
        fixture = newest_fixture(self.place.evidence)
        if fixture is None:
            self.tell(todo=NAME_IT)
        return fixture

    # Sweeping

    def toggle(self) -> None:
        if self.line is not None:
            (self.line.pause if self.line.going else self.line.go)()
            self.tell(self._words())

    def hold(self) -> None:
        """Least and greatest of all that comes from now on; once more: forgotten."""
        self.holding, self.held = not self.holding, None
        self.tell(todo="Least and greatest are held from now on; J forgets them." if self.holding else "Let go.")

    def hand(self) -> None:
        """The next sweep kept is one with a hand near. On the practice bench the hand comes near, too."""
        self.hand_near = not self.hand_near
        bench = self.hands.bench
        if bench is not None:
            bench.hand = self.hand_near
        self.tell(
            self._words(),
            "A hand is near: keep this sweep, and it is held against the one without."
            if self.hand_near
            else "Hands away.",
        )

    def keep(self) -> None:
        """Keep the next sweep, as it comes, under the antenna in focus and its present state."""
        antenna = self.antenna()
        if antenna is not None and self.hands.holds(antenna):
            self.with_fresh(lambda raw: self._keep(antenna, raw))

    def _keep(self, antenna: Antenna, raw: RawSweep) -> None:
        number = len(self.place.evidence.sweeps(antenna.id)) + 1
        entry = keeping.sweep(self.setting, antenna, raw, number)
        if self.place.write(entry):
            self.kept = self.reading
            self.tell(todo=f"Kept: {entry.label}. Ctrl+Z takes it back.")

    def plan_sheet(self) -> None:
        self.on_ask("plan")

    def connect_sheet(self) -> None:
        self.on_ask("connect")

    def fixture_sheet(self) -> None:
        self.on_ask("fixture")

    def cable_sheet(self) -> None:
        self.on_ask("cable")

    def cut_sheet(self) -> None:
        if self.antenna() is not None:
            self.on_ask("cut")

    def cut_off(self, length_m: float) -> bool:
        """Cut the antenna in focus: on the practice bench for real, and in the notebook as a new state."""
        antenna = self.antenna()
        if antenna is None or not self.hands.could_cut(antenna, length_m):
            return False
        entry, state = keeping.cut(antenna, length_m)
        if not self.place.write(entry):
            return False
        self.hands.stock()
        self.tell(todo=f"{entry.label}. Sweeps from here on belong to “{state.name}”.")
        return True

    # Fixture and cables

    def qualify(self) -> None:
        """Try the fixture with the known load, or the check antenna, that is attached."""
        fixture = self._fixture()
        if fixture is not None:
            self.with_fresh(lambda raw: self._tried(fixture, raw))

    def _tried(self, fixture: Fixture, raw: RawSweep) -> None:
        if self.place.write(keeping.qualification(self.setting, fixture, raw, self.hands.attached or "load")):
            self.tell(todo="Tried: the check at the top says whether it passed.")

    def moved(self) -> None:
        """The fixture was moved or connected again: what was measured before can't be compared."""
        fixture = self._fixture()
        if fixture is not None and self.place.write(keeping.moved(fixture)):
            self.refresh()
            self.tell(todo="Noted. Qualify it again before you believe a reading.")

    def keep_cable(self, name: str, far_end: FarEndOfCable, velocity: float, length_m: float | None) -> bool:
        """Keep the next sweep as one of a cable: what is attached now, with a known far end."""

        def keep(raw: RawSweep) -> None:
            if self.place.write(keeping.cable(self.setting, raw, name, far_end, velocity, length_m)):
                self.tell(todo="Kept: the table of cables says what it loses, how long it is, and where it steps.")

        self.with_fresh(keep)
        return True

    def cable_into_fixture(self) -> None:
        """The cable measured last lies between the calibration plane and the antenna: take it out of what is read."""
        fixture, climb = self._fixture(), self.place.climb
        if fixture is None:
            return
        found = climb.bench.cables[-1] if climb and climb.bench.cables else None
        cable = found.cable() if found else None
        if found is None or cable is None:
            self.tell(todo="No cable was measured with an open or short at its far end: press Y.")
            return
        words = f"{fixture.name} has {found.sweep.name} in it: {show.fixed(cable.loss_db, 2)} dB, {show.length(cable.length_m)}"
        if self.place.write(Entry(words, [fixture.revised(cable=cable)])):
            self.refresh()
            self.tell(todo=f"{words}. It is taken out of every sweep kept from now on.")
