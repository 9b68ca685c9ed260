"""The analyzer on the Bench: sweep, keep, calibrate, qualify, trim, each by one key."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent

from tallmast.figures.live import LiveFrame
from tallmast.figures.paper import Paper
from tallmast.findings.bench.live import LiveReading, newest_calibration, newest_fixture, read_live
from tallmast.findings.bench.trust import CalibrationReading
from tallmast.instruments.driver import RawSweep, SweepPlan
from tallmast.instruments.drivers import makers
from tallmast.instruments.scpi import read_powers
from tallmast.notebook.records import Antenna, Calibration, FarEndOfCable, Fixture, Question, StandardSet
from tallmast.notebook.store import Entry
from tallmast.units import show

from ..parts import Card, Flow, button, label
from ..session import Session
from . import keeping, practising
from .live_view import LiveView
from .practising import PRACTICE
from .sweeping import SweepLoop

if TYPE_CHECKING:
    from tallmast.instruments.practice.server import PracticeServer


def usual_plan(question: Question | None) -> SweepPlan:
    """Seven bandwidths about the band, or a tenth of its frequency, whichever is more: wide enough to see which way."""
    if question is None:
        return SweepPlan(100e6, 1000e6, 401)
    half = max(3.5 * (question.band_high_hz - question.band_low_hz), 0.035 * question.centre_hz)
    return SweepPlan(max(question.centre_hz - half, 1e5), question.centre_hz + half, 401)


LETS_GO_MS = 800
"""How long the window waits for an instrument to let go."""


class LiveBench(Card):
    """While it has the keyboard, single keys do everything; Esc leaves."""

    left = Signal()
    sheet_asked = Signal(str)
    """The name of a sheet to be opened: plan, cut, fixture, connect."""

    KEYS: tuple[tuple[str, tuple[tuple[str, str, str], ...]], ...] = (
        (
            "Sweep",
            (
                ("Space", "sweep or stop", "toggle"),
                ("K", "keep", "keep"),
                ("J", "least and greatest", "hold"),
                ("H", "hand near", "hand"),
                ("X", "cut …", "cut_sheet"),
                ("U", "plan …", "plan_sheet"),
                ("B", "analyzer …", "connect_sheet"),
            ),
        ),
        (
            "Believe it",
            (
                ("C", "calibrate", "calibrate"),
                ("V", "load again", "check"),
                ("F", "fixture …", "fixture_sheet"),
                ("Q", "qualify", "qualify"),
                ("M", "it was moved", "moved"),
                ("Y", "measure a cable …", "cable_sheet"),
                ("E", "that cable into the fixture", "cable_into_fixture"),
                ("T", "standards …", "standards_sheet"),
            ),
        ),
    )
    PRACTICE_KEYS: tuple[tuple[str, str, str], ...] = (
        ("O", "open", "attach_open"),
        ("S", "short", "attach_short"),
        ("L", "load", "attach_load"),
        ("A", "antenna in focus", "attach_antenna"),
        ("D", "3 m cable", "practice_cable"),
        ("R", "read the meter", "read_meter"),
    )

    def __init__(self, session: Session, paper: Paper) -> None:
        super().__init__("Analyzer")
        self.session, self.paper = session, paper
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(
            "Live sweep: "
            + ", ".join(f"{key} {words}" for _, keys in self.KEYS for key, words, _ in keys)
            + ", Escape leaves"
        )
        self.loop: SweepLoop | None = None
        self._leaving: list[SweepLoop] = []
        self._pending: tuple[float, Callable[[RawSweep], object], bool] | None = None
        self.practice: PracticeServer | None = None
        self.address, self.driver = "", "SCPI"
        self.analyzer_name = ""
        self.plan: SweepPlan = usual_plan(None)
        self.raw: RawSweep | None = None
        self.guide: keeping.Guide | None = None
        self.hand_near = False
        self._calibration: CalibrationReading | None = None
        self.said = label("", "sentence", wrap=True)
        self.said.setAccessibleName("Live reading")
        self.todo = label("", "detail", wrap=True)
        self.view = LiveView(paper)
        self.box.addWidget(self.said)
        self.box.addWidget(self.view, 1)
        self.box.addWidget(self.todo)
        self._acts: dict[str, Callable[[], object]] = {}
        for title, keys in self.KEYS:
            self.box.addWidget(self._row(title, keys))
        self.practice_row = self._row("Practice bench: attach", self.PRACTICE_KEYS)
        self.practice_row.hide()
        self.box.addWidget(self.practice_row)

    def _row(self, title: str, keys: tuple[tuple[str, str, str], ...]) -> Flow:
        row = Flow(5)
        head = label(title, "sideTitle")
        head.setMinimumHeight(round(26 * self.paper.scale))
        row.add(head)
        for key, words, name in keys:
            act: Callable[[], object] = getattr(self, name)
            self._acts[key] = act
            part = button(f"{words}  {key}", act, name="key")
            part.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            part.setAccessibleName(words)
            row.add(part)
        return row

    # The line

    @property
    def practising(self) -> bool:
        return self.practice is not None and self.address == self.practice.analyzer.address

    @property
    def calibration(self) -> Calibration | None:
        """The one in use."""
        return self._calibration.calibration if self._calibration else None

    def open(self) -> None:
        """Show the panel, with the practice bench where nothing else was ever connected."""
        self.show()
        self.plan = usual_plan(self.session.evidence.question) if self.loop is None else self.plan
        if not self.address:
            self.connect_to(PRACTICE)
        self.refresh()
        self.setFocus()

    def connect_to(self, address: str, driver: str = "SCPI") -> None:
        """Take an analyzer at an address; the practice bench by its name, started when first wanted."""
        if address == PRACTICE:
            if self.practice is None:
                from tallmast.instruments.practice.server import PracticeServer

                self.practice = PracticeServer()
            address = self.practice.analyzer.address
        self._stop_loop()
        self.address, self.driver = address, driver
        self.raw = None
        self.loop = SweepLoop(makers()[driver], address, self.plan)
        self.loop.arrived.connect(self._arrived)
        self.loop.connected.connect(self._connected)
        self.loop.fault.connect(self._fault)
        self.loop.recovered.connect(self._recovered)
        self.loop.start()
        self.loop.go()
        self.practice_row.setVisible(self.practising)
        self._tell("Connecting …")

    def _stop_loop(self) -> None:
        loop, self.loop = self.loop, None
        if loop is None:
            return
        for signal, slot in (
            (loop.arrived, self._arrived),
            (loop.connected, self._connected),
            (loop.fault, self._fault),
            (loop.recovered, self._recovered),
        ):
            signal.disconnect(slot)
        self._leaving = [left for left in self._leaving if left.isRunning()] + [loop]
        loop.stop()

    def close_all(self) -> None:
        """Let go of the instrument and end the practice bench."""
        self._stop_loop()
        if self.practice is not None:
            self.practice.stop()
            self.practice = None
        self.address = ""
        for loop in self._leaving:
            if not loop.wait(LETS_GO_MS):
                # A driver of another package that is deaf: a thread left running would take the program down at its end.
                loop.terminate()
                loop.wait(LETS_GO_MS)
        self._leaving = []

    def set_plan(self, plan: SweepPlan) -> None:
        self.plan = plan
        self.raw = None
        self.guide = None
        if self.loop is not None:
            self.loop.plan(plan)
        self.refresh()

    def _connected(self, name: str) -> None:
        self.analyzer_name = name
        self.refresh()

    def _fault(self, message: str) -> None:
        self.session.trouble.emit(message)
        self._tell("The analyzer does not answer as it should; what was kept is kept, and it is tried again.")

    def _recovered(self) -> None:
        self.session.trouble.emit("")
        self._tell("It answers again.")

    def _arrived(self) -> None:
        taken = self.loop.take() if self.loop is not None else None
        if taken is None:
            return
        raw, began = taken
        self.raw = raw
        self.view.show_reading(self._read(raw))
        self._say()
        if self._pending is not None and began >= self._pending[0]:
            _, act, was_stopped = self._pending
            self._pending = None
            if was_stopped and self.loop is not None:
                self.loop.pause()
            act(raw)

    def _with_fresh(self, act: Callable[[RawSweep], object]) -> None:
        """Do something with the first sweep that begins from now on: the one on the screen may be of what was attached
        before."""
        if self.loop is None:
            self._tell("No analyzer is connected: press B.")
            return
        self._pending = (time.monotonic(), act, not self.loop.going)
        self.loop.go()
        self._tell("Sweeping …")

    def _read(self, raw: RawSweep) -> LiveReading:
        return read_live(
            raw.frequency_hz, raw.gamma, self.session.evidence.question, self._setting.cable, self._calibration
        )

    # What is shown

    @property
    def _setting(self) -> keeping.Setting:
        fixture = newest_fixture(self.session.evidence)
        return keeping.Setting(self.analyzer_name, self.plan, self._calibration, fixture, self.hand_near)

    def refresh(self) -> None:
        """After the notebook or the focus has changed."""
        antenna, question = self.session.focus_antenna, self.session.evidence.question
        self._calibration = newest_calibration(self.session.evidence)
        if self._calibration and self._calibration.calibration.analyzer != self.analyzer_name:
            self._calibration = None  # another instrument's errors
        self.set_title(
            f"{self.analyzer_name or 'Connecting'}: {self._calibrated()}; {self._seat()}. One key does it, Esc folds it away"
        )
        self._stock()
        slot = antenna.slot if antenna else 0
        name = antenna.name if antenna else "nothing"
        self.view.show_frame(LiveFrame(self.plan.start_hz, self.plan.stop_hz, question, slot, name))
        if self.raw is not None:
            self.view.show_reading(self._read(self.raw))
        self._say()
        self._guide_words()

    def _seat(self) -> str:
        fixture = newest_fixture(self.session.evidence)
        return f"{fixture.name}, seating {fixture.seating}" if fixture else "no fixture named"

    def _calibrated(self) -> str:
        if self._calibration is None:
            return "not calibrated here"
        f = self.plan.frequency_hz
        if not self._calibration.covers(f):
            return "calibrated over another range"
        return self._calibration.words

    def _say(self) -> None:
        reading = self.view.reading
        if reading is None:
            self.said.setText("Nothing swept yet. Space sweeps.")
            return
        rate = self.loop.rate if self.loop is not None and self.loop.going else 0.0
        running = f"  ·  {rate:.0f} sweeps a second" if rate >= 1 else "" if rate else "  ·  stopped"
        hand = "  ·  hand near" if self.hand_near else ""
        self.said.setText(f"{show.upper_first(reading.words)}{hand}{running}")

    def _tell(self, words: str) -> None:
        self.todo.setText(words)

    def _guide_words(self) -> None:
        if self.guide is not None:
            self._tell(f"Calibrating: screw on the {self.guide.next} where the antenna goes, then press C.")

    # Acts

    def toggle(self) -> None:
        if self.loop is None:
            return
        if self.loop.going:
            self.loop.pause()
        else:
            self.loop.go()
        self._say()

    def hold(self) -> None:
        self.view.hold(not self.view.holding)
        self._tell("Least and greatest are held from now on; J forgets them." if self.view.holding else "Let go.")

    def hand(self) -> None:
        """The next sweep kept is one with a hand near. On the practice bench the hand comes near, too."""
        self.hand_near = not self.hand_near
        if self.practising and self.practice is not None:
            self.practice.bench.hand = self.hand_near
        words = (
            "A hand is near: keep this sweep, and it is held against the one without."
            if self.hand_near
            else "Hands away."
        )
        self._tell(words)
        self._say()

    def plan_sheet(self) -> None:
        self.sheet_asked.emit("plan")

    def connect_sheet(self) -> None:
        self.sheet_asked.emit("connect")

    def fixture_sheet(self) -> None:
        self.sheet_asked.emit("fixture")

    def cable_sheet(self) -> None:
        self.sheet_asked.emit("cable")

    def keep_cable(self, name: str, far_end: FarEndOfCable, velocity: float, length_m: float | None) -> bool:
        """Keep the next sweep as one of a cable: what is attached now, with a known far end."""

        def keep(raw: RawSweep) -> None:
            if self.session.write(keeping.cable(self._setting, raw, name, far_end, velocity, length_m)):
                self._tell("Kept: the table of cables says what it loses, how long it is, and where it steps.")

        self._with_fresh(keep)
        return True

    def cable_into_fixture(self) -> None:
        """The cable measured last lies between the calibration plane and the antenna: take it out of what is read."""
        fixture, climb = newest_fixture(self.session.evidence), self.session.climb
        if fixture is None:
            self._tell("Name the fixture first: press F.")
            return
        found = climb.bench.cables[-1] if climb and climb.bench.cables else None
        cable = found.cable() if found else None
        if found is None or cable is None:
            self._tell("No cable was measured with an open or short at its far end: press Y.")
            return
        changed = fixture.revised(cable=cable)
        words = f"{fixture.name} has {found.sweep.name} in it: {show.fixed(cable.loss_db, 2)} dB, {show.length(cable.length_m)}"
        if self.session.write(Entry(words, [changed])):
            self.refresh()
            self._tell(f"{words}. It is taken out of every sweep kept from now on.")

    def standards_sheet(self) -> None:
        if self._calibration is None:
            self._tell("Calibrate first (C): then say here what your open, short and load really are.")
        else:
            self.sheet_asked.emit("standards")

    def set_standards(self, standards: StandardSet) -> bool:
        """What the standards really are: for this calibration and every other one made with the same ones."""
        if self._calibration is None:
            return False
        old = self._calibration.calibration.standards
        same = [c for c in self.session.evidence.all(Calibration) if c.standards == old]
        changed = [c.revised(standards=standards) for c in same]
        if standards == old:
            return True
        mended = show.count(len(changed), "calibration")
        kept = self.session.write(Entry(f"Standards “{standards.name}” defined, {mended} worked out anew", changed))
        if kept:
            self.refresh()
            self._tell(
                f"{show.upper_first(mended)} and every sweep under {'it' if len(changed) == 1 else 'them'} worked out anew."
            )
        return kept

    def cut_sheet(self) -> None:
        if self._focus() is not None:
            self.sheet_asked.emit("cut")

    def _focus(self) -> Antenna | None:
        antenna = self.session.focus_antenna
        if antenna is None:
            self._tell("Put an antenna on the shelf first: Esc, then A.")
        return antenna

    def keep(self) -> None:
        """Keep the next sweep, as it comes, under the antenna in focus and its present state."""
        antenna = self._focus()
        if antenna is None:
            return
        if self.practising and self.practice is not None and self.practice.bench.attached != antenna.name:
            self._tell(
                f"{show.upper_first(self.practice.bench.attached)} is attached, not {antenna.name}: press A first."
            )
            return
        self._with_fresh(lambda raw: self._keep(antenna, raw))

    def _keep(self, antenna: Antenna, raw: RawSweep) -> bool:
        number = len(self.session.evidence.sweeps(antenna.id)) + 1
        entry = keeping.sweep(self._setting, antenna, raw, number)
        if not self.session.write(entry):
            return False
        self.view.kept = self.view.reading
        self._tell(f"Kept: {entry.label}. Ctrl+Z takes it back.")
        return True

    def calibrate(self) -> None:
        """One standard after the other; the third makes the calibration."""
        if self.guide is None:
            self.guide = keeping.Guide()
            self._guide_words()
            return
        standard = self.guide.next
        if self.practising and self.practice is not None and self.practice.bench.attached != standard:
            self._tell(f"The {self.practice.bench.attached} is attached. Screw on the {standard}, then press C.")
            return
        self._with_fresh(lambda raw: self._seen(standard, raw))

    def _seen(self, standard: str, raw: RawSweep) -> None:
        if self.guide is None:
            return
        self.guide.seen[standard] = raw
        if self.guide.next:
            self._guide_words()
            return
        seen, self.guide = self.guide.seen, None
        if self.session.write(keeping.calibration(self._setting, seen, self._standards())):
            self.refresh()
            self._tell("Calibrated. Leave the load on and press V: what it is off by now is what is left over.")

    def _standards(self) -> StandardSet:
        """The standards in use: the practice bench's own, else those of the calibration before."""
        if self.practising:
            return practising.STANDARDS
        return self._calibration.calibration.standards if self._calibration else StandardSet()

    def check(self) -> None:
        """The load, measured again: what it is off by is what the calibration leaves over."""
        calibration = self._calibration
        if calibration is None:
            self._tell("There is no calibration of this analyzer to check: press C.")
            return
        if self.practising and self.practice is not None and self.practice.bench.attached != "load":
            self._tell("Screw on the load first.")
            return
        self._with_fresh(lambda raw: self._checked(calibration.calibration.id, raw))

    def _checked(self, calibration_id: str, raw: RawSweep) -> None:
        if self.session.write(keeping.check(calibration_id, raw)):
            self.refresh()
            self._tell(f"{show.upper_first(self._calibrated())}. Q qualifies the fixture with what is attached.")

    def qualify(self) -> None:
        """Try the fixture with the known load, or the check antenna, that is attached."""
        fixture = newest_fixture(self.session.evidence)
        if fixture is None:
            self._tell("Name the fixture first: press F.")
            return
        self._with_fresh(lambda raw: self._tried(fixture, raw))

    def _tried(self, fixture: Fixture, raw: RawSweep) -> None:
        tried = self.practice.bench.attached if self.practising and self.practice is not None else "load"
        if self.session.write(keeping.qualification(self._setting, fixture, raw, tried)):
            self._tell("Tried: the check at the top says whether it passed.")

    def moved(self) -> None:
        """The fixture was moved or seated again: what was measured before can't be compared."""
        fixture = newest_fixture(self.session.evidence)
        if fixture is None:
            self._tell("Name the fixture first: press F.")
            return
        if self.session.write(keeping.moved(fixture)):
            self.refresh()
            self._tell("Noted. Qualify it again before you believe a reading.")

    # The practice bench's hands

    def _attach(self, what: str) -> None:
        if self.practice is None:
            return
        try:
            self.practice.bench.attach(what)
        except ValueError as error:
            names = ", ".join(self.practice.bench.antennas)
            self._tell(f"{show.upper_first(str(error))}. It has {names}.")
            return
        self._tell(f"Attached: {self.practice.bench.attached}.")
        self._guide_words()

    def attach_open(self) -> None:
        self._attach("open")

    def attach_short(self) -> None:
        self._attach("short")

    def attach_load(self) -> None:
        self._attach("load")

    def practice_cable(self) -> None:
        if self.practice is not None:
            self._tell(practising.next_cable(self.practice.bench))

    def read_meter(self) -> None:
        """The practice bench's inline meter on what is attached, at the band's centre, kept as a reading."""
        antenna, question = self._focus(), self.session.evidence.question
        if antenna is None or question is None or self.practice is None:
            return
        if self.practice.bench.attached != antenna.name:
            self._tell(
                f"{show.upper_first(self.practice.bench.attached)} is attached, not {antenna.name}: press A first."
            )
            return
        hz, address = question.centre_hz, self.practice.meter.address

        def read(powers: tuple[float, float] | None, error: Exception | None) -> None:
            if powers is None:
                self.session.trouble.emit(str(error))
            elif self.session.write(keeping.meter(antenna, hz, *powers, self._setting)):
                self._tell("The meter was read: the check at the top says whether it agrees with the sweep.")

        self.session.work("Reading the meter", lambda: read_powers(address, hz), read)

    def attach_antenna(self) -> None:
        antenna = self._focus()
        if antenna is not None:
            self._stock()
            self._attach(antenna.name)

    def _stock(self) -> None:
        if self.practice is not None:
            question = self.session.evidence.question
            centre = question.centre_hz if question else 0.5 * (self.plan.start_hz + self.plan.stop_hz)
            practising.stock(self.practice.bench, self.session.evidence.antennas, centre)

    def cut_off(self, length_m: float) -> bool:
        """Cut the antenna in focus: on the practice bench for real, and in the notebook as a new state."""
        antenna = self._focus()
        if antenna is None:
            return False
        if self.practising and self.practice is not None:
            bench = self.practice.bench
            if bench.attached != antenna.name:
                self._attach(antenna.name)
            try:
                bench.antennas[antenna.name].cut(length_m)  # could it be done? The state that is kept does it
            except (ValueError, KeyError) as error:
                self._tell(f"{show.upper_first(str(error))}.")
                return False
        entry, state = keeping.cut(antenna, length_m)
        if not self.session.write(entry):
            return False
        self._stock()
        self._tell(f"{entry.label}. Sweeps from here on belong to “{state.name}”.")
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = "Space" if event.key() == Qt.Key.Key_Space else event.text().upper()
        act = self._acts.get(key)
        if event.key() == Qt.Key.Key_Escape:
            if self.guide is not None:
                self.guide = None
                self._tell("Calibration left; nothing was changed.")
            else:
                self.left.emit()
        elif act is not None and not event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier:
            if self.practising or key not in {k for k, _, _ in self.PRACTICE_KEYS}:
                act()
        else:
            super().keyPressEvent(event)
