"""Procedures, driven by their keys alone: no window, no Qt, a notebook and what the keys say."""

import subprocess
import sys

import numpy as np
import pytest

from tallmast.findings.aims import Aims
from tallmast.findings.climb import Climb
from tallmast.instruments.driver import RawSweep
from tallmast.notebook.entry import Entry
from tallmast.notebook.records import (
    Antenna,
    Calibration,
    Cut,
    DisplayRun,
    PadCheck,
    Piece,
    Place,
    Question,
    Reading,
    Run,
    StandardCheck,
    Sweep,
    Turn,
)
from tallmast.notebook.store import Notebook
from tallmast.procedures.analyzer import PRACTICE_ROW, Analyzer
from tallmast.procedures.run_by_keys import RunByKeys, cells_of
from tallmast.procedures.stepped_display import DisplayPlan, SteppedDisplay
from tallmast.procedures.substitution import Substitution
from tallmast.procedures.turn_by_keys import TurnByKeys
from tallmast.procedures.turning import Turning


class Desk:
    """A workplace without a window: work is done at once."""

    climb = None

    def __init__(self, book: Notebook) -> None:
        self.book, self.told, self.picked = book, [], []

    @property
    def evidence(self):
        return self.book.evidence()

    @property
    def question(self):
        return self.evidence.question

    @property
    def focus_antenna(self):
        return next(iter(self.evidence.antennas), None)

    def write(self, entry: Entry) -> bool:
        self.book.write(entry)
        return True

    def work(self, what, job, done) -> None:
        done(job(), None)

    def pick(self, figure) -> None:
        self.picked.append(figure)

    def tell(self, trouble: str) -> None:
        self.told.append(trouble)


class OneLine:
    """An analyzer that answers at once with whatever is attached."""

    def __init__(self) -> None:
        self.going, self.rate, self.attached, self.began = False, 0.0, 0j, 0.0
        self.procedure: Analyzer | None = None

    def open(self, maker, address, plan):
        self.f = plan.frequency_hz
        return self

    def close(self) -> None: ...

    def end(self) -> None: ...

    def pause(self) -> None:
        self.going = False

    def plan(self, plan) -> None: ...

    def go(self) -> None:
        self.going = True
        self.began = float("inf")
        self.procedure.arrived()

    def take(self):
        return RawSweep(self.f, np.full(len(self.f), self.attached)), self.began


@pytest.fixture
def desk(tmp_path):
    book = Notebook.create(tmp_path / "procedures.tallmast")
    start = [
        Question(text="Which?", band_low_hz=868e6, band_high_hz=870e6, home_place_id="home"),
        Antenna(id="yagi", name="Shed Yagi"),
        Place(id="home", name="Home", latitude_deg=57.0, longitude_deg=-11.0),
        Place(id="quay", name="Quay", latitude_deg=57.01, longitude_deg=-11.0),
        Place(id="hill", name="Hill", latitude_deg=57.02, longitude_deg=-11.0),
        Run(id="run", number=3, antenna_id="yagi", power_w=0.01),
        Piece(id="pad", name="Six", type="pad", loss_db=6.0),
    ]
    book.write(Entry("Start", start))
    yield Desk(book)
    book.close()


def pressed(procedure, keys: str) -> None:
    for key in keys:
        assert procedure.press("Space" if key == " " else key), f"{key} does nothing"


def test_a_run_by_keys_keeps_place_end_and_grade(desk):
    run = RunByKeys(desk)
    run.start(desk.evidence.runs[0])
    assert run.said == "Quay · Shed Yagi · the far end listens" and "1 of 2, run 3" in run.title
    pressed(run, "H NE4")
    kept = [(r.place_id, r.end, r.heard, r.readability) for r in desk.evidence.all(Reading)]
    assert kept == [("quay", "away", True, None), ("hill", "away", False, None), ("hill", "home", True, 4)]
    assert run.todo == "Kept: Run 3, Shed Yagi, Hill: home end 4 of 5. Space goes on, Ctrl+Z takes it back."
    assert run.said == "Hill · Shed Yagi · the home end listens: 4 of 5"
    pressed(run, "5")
    assert "the second attempt there" in run.todo and run.said.endswith("4 of 5, 5 of 5")
    again = RunByKeys(desk)
    again.state = run.state
    assert (again.said, again.todo) == (run.said, run.todo)
    assert not run.press("Z"), "a key that is none of its own is left to others"


def test_a_grid_goes_place_by_place_and_swaps_what_comes_first():
    cells = cells_of(["ford", "mill", "gate"], ["stub-fm", "long-fm"], "each")
    assert cells[:4] == [("ford", "stub-fm"), ("ford", "long-fm"), ("mill", "long-fm"), ("mill", "stub-fm")]
    whole = cells_of(["ford", "mill"], ["stub", "long", "long-2", "stub-2"], "whole")
    assert whole[:4] == [("ford", "stub"), ("mill", "stub"), ("mill", "long"), ("ford", "long")], "back the other way"


def test_a_grid_goes_on_where_nothing_was_noted_yet(desk):
    plan = "each quay hill #1"
    runs = [Run(id=f"r{n}", number=n, antenna_id="yagi", mode=mode, plan=plan) for n, mode in ((4, "FM"), (5, "data"))]
    desk.write(Entry("plan", runs))
    grid = RunByKeys(desk)
    grid.start(runs[1])
    assert grid.said == "Quay · Shed Yagi, FM · the far end listens" and "1 of 4" in grid.title
    pressed(grid, "4 5 2")
    assert [(r.place_id, r.run_id, r.readability) for r in desk.evidence.all(Reading)] == [
        ("quay", "r4", 4),
        ("quay", "r5", 5),
        ("hill", "r5", 2),
    ]
    again = RunByKeys(desk)
    again.start(runs[0])
    assert again.said == "Hill · Shed Yagi, FM · the far end listens", "the only cell left"
    pressed(again, ["Backspace"])
    assert again.said.startswith("Hill · Shed Yagi, data") and again.said.endswith("2 of 5")
    pressed(again, "P")
    assert again.said.startswith("Quay")


def test_a_display_stepped_by_hand_takes_what_is_read_and_refuses_what_is_not(desk):
    stepping = SteppedDisplay(desk)
    stepping.begin()
    assert stepping.said == "No run yet."
    stepping.step_through(DisplayPlan("handset", "bars", 0, 40, 10, False, -50.0, by="hand"))
    assert stepping.said.startswith("Set 0 dB.") and stepping.by_hand
    assert not stepping.note_typed("") and not stepping.note_typed("four")
    for shown in ("5 bars", "4", "3", "2"):
        assert stepping.note_typed(shown)
    pressed(stepping, ["Backspace"])
    assert stepping.shown == [5.0, 4.0, 3.0]
    stepping.note_typed("2")
    stepping.note_typed("1")
    assert stepping.next_db is None and not stepping.by_hand
    assert stepping.note_typed("k")
    run = desk.evidence.all(DisplayRun)[0]
    assert (run.receiver, run.zero_dbm, run.source) == ("handset", -50.0, "by hand")
    assert list(desk.evidence.series(run.series_id)["shown"]) == [5, 4, 3, 2, 1]


def test_a_pad_by_substitution_on_the_practice_range(desk):
    pad = Substitution(desk)
    try:
        pad.begin()
        assert pad.todo.startswith("No readings. Join the two ends without it")
        pressed(pad, ["Enter", "K"])
        assert not desk.evidence.all(PadCheck) and "three readings at least" in desk.told[-1]
        pressed(pad, ["Enter", "Enter", "K"])
        check = desk.evidence.all(PadCheck)[0]
        inside = desk.evidence.series(check.series_id)["inside"]
        assert (check.piece_id, check.source, list(inside)) == ("pad", "practice bench", [0, 1, 0])
        assert desk.picked[-1].value == pytest.approx(6.0, abs=0.5)
        assert pad.readings == [], "the next one begins anew"
    finally:
        pad.end()


def test_a_turn_by_single_keys(desk):
    turn = TurnByKeys(desk)
    turn.begin()
    assert "looks to 0°, 12 o’clock" in turn.said
    pressed(turn, ["U", "U", "5", "3", "K"])
    assert not desk.evidence.all(Turn) and "four directions" in desk.told[-1]
    assert "looks to 180°, 6 o’clock" in turn.said
    pressed(turn, ["N", "4", "Backspace", "2"])
    pressed(turn, "K")
    (kept,) = desk.evidence.all(Turn)
    assert kept.read_on == "bars"
    assert [(h.at_deg, h.values, h.nothing) for h in kept.readings] == [
        (0.0, [5.0], 0),
        (90.0, [3.0], 0),
        (180.0, [], 1),
        (270.0, [2.0], 0),
    ]
    assert turn.readings == {} and turn.todo.startswith("Kept: ")


def test_a_pattern_by_turntable_stopped_and_gone_on_with(desk):
    table = Turning(desk)
    try:
        table.step_deg = 30.0
        table.begin()
        assert "onward and back in steps of 30°: 0 of 26" in table.said
        table.range.get("turntable")
        table.range.practice.range.degrees_per_second = 1e5
        looked = []

        def stop_after_five():
            looked.append(table.said)
            if len(table.readings) == 5 and table.running:
                table.running = False

        table.on_change = stop_after_five
        pressed(table, ["Space"])
        assert len(table.readings) == 5 and table.todo.startswith("Stopped. Space goes on")
        pressed(table, ["K"])
        assert not desk.evidence.all(Cut) and "eight angles" in desk.told[-1]
        table.on_change = lambda: None
        pressed(table, ["Space"])
        assert table.done and len(table.readings) == 26
        assert table.settled.backlash_deg == pytest.approx(table.range.practice.range.backlash_deg, abs=0.4)
        pressed(table, ["K"])
        (cut,) = desk.evidence.all(Cut)
        series = desk.evidence.series(cut.series_id)
        assert (cut.source, len(series["angle_deg"]), set(series["way"])) == ("practice bench", 26, {1.0, -1.0})
        assert table.readings == [], "the next one begins anew"
        assert cut.reference_id == ""
    finally:
        table.end()


def test_a_turntable_reads_a_reference_before_and_after(desk):
    table = Turning(desk)
    try:
        table.step_deg = 30.0
        table.begin()
        pressed(table, ["R"])
        assert "known gain" in desk.told[-1] and not table.references
        desk.write(Entry("Added", [Antenna(id="dipole", name="Dipole", known_gain_dbi=5.0)]))
        table.begin()
        assert "Dipole in its place, R: the gain follows" in table.todo
        table.range.get("turntable")
        practice = table.range.practice.range
        practice.degrees_per_second = 1e5
        pressed(table, ["R", "Backspace", "R", "Space"])
        assert "Dipole in its place: one reading." in table.said and "once more, R" in table.todo
        pressed(table, ["R", "K"])
        (cut,) = desk.evidence.all(Cut)
        way = desk.evidence.series(cut.series_id)["way"]
        assert (cut.reference_id, int((way == 0).sum()), len(way)) == ("dipole", 2, 28)
        climb = Climb(desk.evidence, Aims(cut.antenna_id))
        # The practice beam gives 4 dB over the practice reference, whatever that is called here.
        assert climb.pattern.of(cut.antenna_id).substitution.value == pytest.approx(9.0, abs=0.3)
    finally:
        table.end()


def test_a_calibration_asks_for_one_standard_after_the_other_and_can_be_given_up(desk):
    line = OneLine()
    analyzer = line.procedure = Analyzer(desk, line)
    analyzer.address, analyzer.name, analyzer.line = "somewhere", "VNA", line.open(None, "", analyzer.plan)
    left = []
    analyzer.on_leave = lambda: left.append(True)
    assert not analyzer.shows(PRACTICE_ROW) and not analyzer.press("O")
    pressed(analyzer, "V")
    assert "no calibration" in analyzer.todo
    pressed(analyzer, "C")
    assert "screw on the open" in analyzer.todo
    analyzer.leave()
    assert analyzer.todo == "Calibration left; nothing was changed." and not left
    pressed(analyzer, "C")
    for attached, then in ((1, "short"), (-1, "load"), (0.01, "")):
        line.attached = complex(attached)
        pressed(analyzer, "C")
        assert f"screw on the {then}" in analyzer.todo if then else analyzer.todo.startswith("Calibrated.")
    assert desk.evidence.all(Calibration)[0].analyzer == "VNA"
    pressed(analyzer, "V")
    assert len(desk.evidence.all(StandardCheck)) == 1
    line.attached = 0.2 + 0j
    pressed(analyzer, "HK")
    sweep = desk.evidence.all(Sweep)[0]
    assert sweep.hand_near and sweep.calibration_id == desk.evidence.all(Calibration)[0].id
    analyzer.leave()
    assert left and not line.going


def test_none_of_it_loads_qt():
    script = (
        "import sys, tallmast.procedures.analyzer, tallmast.procedures.substitution, tallmast.procedures.run_by_keys,"
        "tallmast.procedures.stepped_display; print([m for m in sys.modules if m.startswith(('PySide6', 'shiboken6'))])"
    )
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=60, check=True)
    assert done.stdout.strip() == "[]"
