"""The analyzer at the bench, by keys: calibrate, check, qualify, sweep, cut, sweep, cut; and what goes wrong."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from tallmast.instruments.driver import InstrumentError, RawSweep, SweepPlan
from tallmast.instruments.practice.bench import PracticeBench
from tallmast.notebook.entry import Entry
from tallmast.notebook.records import (
    Antenna,
    CableSweep,
    Calibration,
    Fixture,
    MeterReading,
    Qualification,
    Question,
    StandardCheck,
    Sweep,
)
from tallmast.notebook.store import Notebook

from .hands import Hands


@pytest.fixture
def hands(window, qtbot, tmp_path) -> Hands:
    book = Notebook.create(tmp_path / "bench.tallmast")
    book.write(
        Entry(
            "Asked",
            [
                Question(text="Which one?", band_low_hz=868e6, band_high_hz=870e6),
                Antenna(id="yagi", name="Shed Yagi", cut_part_m=0.084),
            ],
        )
    )
    book.close()
    made = Hands(qtbot, window)
    assert window.open_notebook(book.path)
    made.settle()
    return made


@pytest.fixture
def live(hands):
    """The panel, sweeping on the practice bench."""
    hands.press_on("bench", "b")
    panel = hands.window.views["bench"].live
    hands.qtbot.waitUntil(lambda: panel.procedure.raw is not None, timeout=20_000)
    panel.procedure.hands.server.bench.warm_up = panel.procedure.hands.server.bench.drift_per_hour = 0.0
    return panel


def kept(hands, kind) -> list:
    return hands.window.session.evidence.all(kind)


def until(hands, kind, count) -> None:
    hands.qtbot.waitUntil(lambda: len(kept(hands, kind)) == count, timeout=10_000)
    hands.settle()


def calibrated(hands, live) -> None:
    hands.press("c")
    for key in "OSL":
        hands.press(key)
        before = len(live.procedure.calibrating.guide.seen)
        hands.press("c")
        hands.qtbot.waitUntil(
            lambda before=before: (
                live.procedure.calibrating.guide is None or len(live.procedure.calibrating.guide.seen) > before
            ),
            timeout=10_000,
        )
    until(hands, Calibration, 1)


def test_the_whole_session_by_keys(hands, live):
    """Qualify, calibrate, sweep, cut by the formula, sweep, cut by its own slope, sweep, cross-check: into the band."""
    bench = live.procedure.hands.server.bench
    calibrated(hands, live)
    assert "not checked yet" in live.heading.text()
    hands.press("v")
    until(hands, StandardCheck, 1)
    hands.press("f")
    hands.sheet_opens()
    hands.fill({"name": "Plate A", "limit": "1.15"})
    hands.keep()
    assert hands.window.focusWidget() is live, "the keyboard goes back to the panel"
    hands.press("q")
    until(hands, Qualification, 1)
    assert any("Plate A qualified" in tag.text() for tag in hands.window.views["bench"].tags.parts)

    hands.press("a")
    assert bench.attached == "Shed Yagi"
    hands.press("k")
    until(hands, Sweep, 1)
    sweep = kept(hands, Sweep)[0]
    assert sweep.calibration_id == kept(hands, Calibration)[0].id
    assert (sweep.fixture, sweep.reconnection) == ("Plate A", 1)
    assert 0 < sweep.noise < 0.01
    assert "Shed Yagi resonates 14." in hands.sentence and "low" in hands.sentence
    assert "half of it first" in hands.window.views["bench"].detail.text()

    def advised() -> float:
        return hands.window.session.climb.bench.focus.trim.value

    first = advised() / 2
    hands.press("x")
    hands.sheet_opens()
    hands.fill({"cut": f"{first:.2f} mm"})
    hands.keep()
    assert bench.antennas["Shed Yagi"].cut_m == pytest.approx(round(first, 2) / 1e3)
    hands.press("k")
    until(hands, Sweep, 2)
    assert "as its last cut showed" in hands.window.views["bench"].detail.text()
    hands.press("x")
    hands.sheet_opens()
    hands.fill({"cut": f"{advised():.2f} mm"})
    hands.keep()
    hands.press("k")
    until(hands, Sweep, 3)
    assert "Shed Yagi holds SWR 1.5 over 868–870 MHz" in hands.sentence
    assert bench.true_swr(868e6) < 1.5 and bench.true_swr(870e6) < 1.5
    assert hands.window.session.focus_antenna.state.cut_m > 0

    hands.press(Qt.Key.Key_Escape)
    assert not live.isVisible()
    hands.write("m", {"frequency": "869 MHz", "swr": f"{bench.true_swr(869e6):.2f}"})
    assert any("meter agrees" in tag.text() for tag in hands.window.views["bench"].tags.parts)
    assert hands.trouble == ""


def test_a_hand_near_is_one_key(hands, live):
    hands.press("a")
    hands.press("k")
    until(hands, Sweep, 1)
    hands.press("h")
    assert live.procedure.hands.server.bench.hand
    hands.press("k")
    until(hands, Sweep, 2)
    assert kept(hands, Sweep)[1].hand_near
    assert any("a hand near moves it −" in tag.text() for tag in hands.window.views["bench"].tags.parts)
    hands.press("h")
    assert not live.procedure.hands.server.bench.hand


def test_moving_the_fixture_is_told_at_the_next_sweep(hands, live):
    hands.press("m")
    assert "Name the fixture first" in live.todo.text()
    hands.press("f")
    hands.sheet_opens()
    hands.fill({"name": "Car roof"})
    hands.keep()
    hands.press("a")
    hands.press("k")
    until(hands, Sweep, 1)
    hands.press("m")
    assert kept(hands, Fixture)[0].reconnection == 2
    hands.press("k")
    until(hands, Sweep, 2)
    hands.settle()
    assert hands.window.session.climb.bench.focus.earlier[0].apart == "the fixture was moved in between"
    assert any("in doubt" in tag.text() for tag in hands.window.views["bench"].tags.parts)


def test_the_wrong_thing_attached_is_told_and_nothing_kept(hands, live):
    hands.press("k")
    assert "Load is attached, not Shed Yagi" in live.todo.text()
    hands.press("c")
    hands.press("c")
    assert "The load is attached. Screw on the open" in live.todo.text()
    hands.press(Qt.Key.Key_Escape)
    assert live.procedure.calibrating.guide is None and live.isVisible()
    assert kept(hands, Sweep) == [] and kept(hands, Calibration) == []
    hands.press("v")
    assert "no calibration" in live.todo.text()


def test_stop_and_go_and_hold(hands, live):
    hands.press(Qt.Key.Key_Space)
    assert not live.procedure.line.going
    assert "stopped" in live.said.text()
    hands.press("j")
    hands.press(Qt.Key.Key_Space)
    hands.qtbot.waitUntil(lambda: live.procedure.held is not None, timeout=5000)
    low, high = live.procedure.held
    assert (low <= high).all()
    hands.press("j")
    assert live.procedure.held is None
    live.view.grab()
    assert live.view.painted > 0
    assert "Live sweep of Shed Yagi" in live.view.accessibleName()


def test_keeping_while_stopped_sweeps_once_and_stops_again(hands, live):
    hands.press("a")
    hands.press(Qt.Key.Key_Space)
    hands.press("k")
    until(hands, Sweep, 1)
    assert not live.procedure.line.going


@pytest.mark.parametrize(
    ("values", "span"),
    [({"span": "800-950 MHz"}, (800e6, 950e6)), ({"centre": "869 MHz", "width": "20 MHz"}, (859e6, 879e6))],
)
def test_the_plan_by_ends_or_by_centre(hands, live, values, span):
    hands.press("u")
    hands.sheet_opens()
    hands.fill({**values, "points": "201", "averages": "4"})
    hands.keep()
    hands.qtbot.waitUntil(
        lambda: live.procedure.raw is not None and len(live.procedure.raw.gamma) == 201, timeout=10_000
    )
    assert (live.procedure.raw.frequency_hz[0], live.procedure.raw.frequency_hz[-1]) == pytest.approx(span)
    assert live.procedure.plan.averages == 4


def test_a_plan_that_makes_no_sense_is_refused(hands, live):
    hands.press("u")
    hands.sheet_opens()
    hands.fill({"points": "1"})
    hands.press(Qt.Key.Key_Return)
    assert "2 to 200 001 points" in hands.window.sheet.trouble.text()


def test_a_cable_pulled_and_plugged_in_again(hands, live, qtbot):
    said = []
    hands.window.session.trouble.connect(said.append)
    port = live.procedure.hands.server.analyzer
    faulty = port.scpi.take
    port.scpi.take = lambda line: b"" if "DATA?" in line else faulty(line)
    port.unplug()
    qtbot.waitUntil(lambda: bool(said) and bool(said[0]), timeout=15_000)
    assert "Traceback" not in said[0] and said[0].endswith(".")
    assert "tried again" in live.todo.text()
    port.scpi.take = faulty
    port.unplug()
    qtbot.waitUntil(lambda: "" in said, timeout=20_000)
    assert live.todo.text() == "It answers again."
    hands.press("a")
    hands.press("k")
    until(hands, Sweep, 1)


def test_the_connection_sheet_offers_the_practice_bench_and_takes_an_address(hands, live, qtbot):
    hands.press_on("bench", "b")
    hands.sheet_opens()
    sheet = hands.window.sheet
    assert "practice bench" in sheet.fields["found"].list.itemText(0)
    hands.fill({"address": "TCPIP0::127.0.0.1::9::SOCKET"})
    said = []
    hands.window.session.trouble.connect(said.append)
    hands.press(Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: any("Nothing answers at TCPIP0::127.0.0.1::9" in s for s in said), timeout=15_000)
    assert not live.rows[-1][1].isVisible()
    hands.press_on("bench", "b")
    hands.sheet_opens()
    remembered = hands.window.sheet.fields["address"].line.text()
    assert remembered == "TCPIP0::127.0.0.1::9::SOCKET", "remembered for the next time"
    hands.press(Qt.Key.Key_Escape)
    live.procedure.connect_to("practice bench")
    qtbot.waitUntil(lambda: live.procedure.raw is not None, timeout=15_000)
    assert live.rows[-1][1].isVisible()


def test_a_driver_that_breaks_is_told(hands, live, qtbot, monkeypatch):
    class Broken:
        def identify(self):
            return "Broken one"

        def configure(self, plan):
            raise ZeroDivisionError("by hand")

        def sweep(self):
            raise InstrumentError("never", "never")

        def close(self):
            pass

    monkeypatch.setattr("tallmast.procedures.analyzer.makers", lambda: {"SCPI": lambda address: Broken()})
    said = []
    hands.window.session.trouble.connect(said.append)
    live.procedure.connect_to("somewhere")
    qtbot.waitUntil(lambda: any("The driver failed (ZeroDivisionError" in s for s in said), timeout=10_000)


def test_another_analyzers_calibration_is_not_used(hands, live):
    calibrated(hands, live)
    assert live.procedure._calibration is not None
    record = kept(hands, Calibration)[0]
    hands.window.session.write(Entry("other", [record.revised(analyzer="another one")]))
    hands.settle()
    assert live.procedure._calibration is None
    assert "not calibrated here" in live.heading.text()


def test_the_window_closes_while_it_sweeps(hands, live):
    loop = live.procedure.line
    hands.window.close()
    assert loop.isFinished()
    assert live.procedure.hands.server is None


def test_the_practice_bench_is_what_the_panel_shows(hands, live, qtbot):
    hands.press("a")
    truth = PracticeBench()
    truth.attach("Shed Yagi")
    qtbot.waitUntil(
        lambda: (
            isinstance(live.procedure.raw, RawSweep)
            and live.procedure.reading.resonance_hz is not None
            and abs(live.procedure.reading.resonance_hz - 854.2e6) < 6e6
        ),
        timeout=10_000,
    )
    assert np.abs(live.procedure.raw.gamma).max() < 1.2


def test_a_cable_is_measured_and_its_bad_joint_found(hands, live):
    bench = live.procedure.hands.server.bench
    bench.directivity = bench.source_match = 0.0
    bench.tracking = 1.0  # an analyzer without errors of its own, so that no calibration is needed
    hands.press("u")
    hands.sheet_opens()
    hands.fill({"span": "600-1100 MHz", "points": "801"})
    hands.keep()
    hands.press("d")
    hands.press("s")
    hands.press("y")
    hands.sheet_opens()
    hands.fill({"name": "blue one", "far_end": "short", "length": "3 m"})
    hands.keep()
    until(hands, CableSweep, 1)
    reading = hands.window.session.climb.bench.cables[0]
    truth = float(live.procedure.hands.server.bench.cable.loss_db(np.array([869e6]))[0])
    assert reading.loss.value == pytest.approx(truth, abs=0.12)
    assert reading.length.value == pytest.approx(3.0, abs=0.03)
    hands.press("d")
    hands.press("l")
    hands.press("y")
    hands.sheet_opens()
    hands.fill({"name": "blue one again", "far_end": "load"})
    hands.keep()
    until(hands, CableSweep, 2)
    again = hands.window.session.climb.bench.cables[1]
    assert again.mark == "fails"
    assert min(abs(step.distance_m - 1.85) for step in again.steps) < 0.03
    assert any("something reflects at 1.8" in tag.text() for tag in hands.window.views["bench"].tags.parts)
    hands.press("d")
    assert live.procedure.hands.server.bench.cable.length_m == 0


def test_an_antenna_of_ones_own_can_be_practised_with(hands, live, qtbot):
    """The bench makes up one of that name, a little long, and the advice brings it in."""
    hands.press(Qt.Key.Key_Escape)
    hands.write("a", {"name": "Broom Whip", "type": "whip", "cut_part": "82 mm"})
    hands.press_on("bench", "b")
    hands.press("a")
    assert live.procedure.hands.server.bench.attached == "Broom Whip"
    hands.press("k")
    until(hands, Sweep, 1)
    focus = hands.window.session.climb.bench.focus
    assert focus.antenna.name == "Broom Whip" and focus.sweep.resonance_hz < 868e6
    assert focus.trim.value > 0


def test_taking_back_a_cut_puts_the_practice_wire_back(hands, live):
    hands.press("a")
    hands.press("x")
    hands.sheet_opens()
    hands.fill({"cut": "0.7 mm"})
    hands.keep()
    assert live.procedure.hands.server.bench.antennas["Shed Yagi"].cut_m == pytest.approx(0.7e-3)
    hands.chord("z")
    hands.settle()
    assert live.procedure.hands.server.bench.antennas["Shed Yagi"].cut_m == 0.0


@pytest.mark.parametrize(("typed", "words"), [("0 mm", "above zero"), ("84 mm", "can't be cut off it")])
def test_a_cut_that_can_t_be_is_refused(hands, live, typed, words):
    hands.press("a")
    hands.press("x")
    hands.sheet_opens()
    hands.fill({"cut": typed})
    hands.press(Qt.Key.Key_Return)
    said = hands.window.sheet.trouble.text() + live.todo.text()
    assert words in said
    assert len(hands.window.session.focus_antenna.states) == 1


def test_a_measured_cable_goes_into_the_fixture_and_out_of_the_readings(hands, live):
    hands.press("e")
    assert "Name the fixture first" in live.todo.text()
    hands.press("f")
    hands.sheet_opens()
    hands.fill({"name": "Plate A"})
    hands.keep()
    hands.press("e")
    assert "No cable was measured" in live.todo.text()
    live.procedure.set_plan(SweepPlan(600e6, 1100e6, 801))
    calibrated(hands, live)
    hands.press("d")
    hands.press("s")
    hands.press("y")
    hands.sheet_opens()
    hands.fill({"name": "blue"})
    hands.keep()
    until(hands, CableSweep, 1)
    assert hands.window.views["bench"].along.isVisible()
    hands.press("e")
    hands.settle()
    cable = kept(hands, Fixture)[-1].cable
    true = live.procedure.hands.server.bench.cable
    assert cable.length_m == pytest.approx(3.0, abs=0.02)
    assert cable.loss_db == pytest.approx(float(true.loss_db(np.array([869e6]))[0]), abs=0.03)
    assert cable.root_db > 0
    hands.press("a")
    hands.press("k")
    until(hands, Sweep, 1)
    reading = hands.window.session.climb.bench.focus.sweep
    true_swr = live.procedure.hands.server.bench.true_swr(reading.at_hz)
    low, high = reading.at.interval
    assert low - 0.1 < true_swr < high + 0.1


def test_a_better_definition_of_the_standards_mends_sweeps_already_kept(hands, live):
    hands.press("t")
    assert "Calibrate first" in live.todo.text()
    live.procedure.hands.server.bench.noise = 0.0
    calibrated(hands, live)
    hands.press("a")
    hands.press("k")
    until(hands, Sweep, 1)

    def off() -> float:
        reading = hands.window.session.climb.bench.focus.sweep
        return float(np.abs(reading.gamma - live.procedure.hands.server.bench.true_gamma(reading.frequency_hz)).max())

    right = off()
    hands.press("t")
    hands.sheet_opens()
    hands.fill({"fringe": "120; 0; 0", "name": "wrong"})
    hands.keep()
    assert kept(hands, Calibration)[0].standards.open_fringe_f[0] == pytest.approx(120e-15)
    wrong = off()
    hands.press("t")
    hands.sheet_opens()
    hands.fill({"fringe": "49"})
    hands.keep()
    assert off() == pytest.approx(right, abs=1e-12)
    assert wrong > right + 0.01
    assert "1 calibration" in hands.window.session.notebook.tape[-1].label or "one calibration" in (
        hands.window.session.notebook.tape[-1].label
    )


@pytest.mark.parametrize(
    ("field", "typed", "words"), [("fringe", "a lot", "one to four numbers"), ("ohm", "0", "above zero")]
)
def test_standards_that_make_no_sense(hands, live, field, typed, words):
    calibrated(hands, live)
    hands.press("t")
    hands.sheet_opens()
    hands.fill({field: typed})
    hands.press(Qt.Key.Key_Return)
    assert words in hands.window.sheet.trouble.text()


def test_the_practice_meter_is_read_by_one_key_and_held_against_the_sweep(hands, live):
    calibrated(hands, live)
    hands.press("r")
    assert "press A first" in live.todo.text()
    hands.press("a")
    hands.press("k")
    until(hands, Sweep, 1)
    hands.press("r")
    until(hands, MeterReading, 1)
    reading = kept(hands, MeterReading)[0]
    assert reading.swr == pytest.approx(live.procedure.hands.server.bench.true_swr(869e6), rel=0.05)
    assert (reading.forward_w, reading.power_w) == (pytest.approx(0.4, rel=0.05), reading.forward_w)
    assert any("meter agrees" in tag.text() for tag in hands.window.views["bench"].tags.parts)


def test_a_state_that_says_sleeved_or_bent_is_so_on_the_practice_bench(hands, live):
    bench = live.procedure.hands.server.bench
    plain = bench.antennas["Shed Yagi"].f0_hz
    hands.press(Qt.Key.Key_Escape)
    for name, share in (
        ("sleeved, 40 mm", 0.988),
        ("a bent director", 0.988 * 0.996),
        ("sleeve off", 0.996),
        ("straightened", 1.0),
    ):
        hands.write("s", {"name": name})
        hands.press_on("bench", "b")
        hands.press("a")
        assert bench.antennas["Shed Yagi"].f0_hz == pytest.approx(plain * share)
        hands.press(Qt.Key.Key_Escape)


def test_a_sheet_of_the_analyzer_outlives_a_change_of_look(hands, live):
    """The plan is asked for, the look is changed under it, and kept: it is the plan of the panel that is there now."""
    hands.press("u")
    hands.sheet_opens()
    hands.fill({"span": "800-950 MHz", "points": "201", "averages": "4"})
    for look in ("Night", "Sun", "Day"):
        hands.window.dress_as(look)
    hands.settle()
    assert hands.window.sheet.keep()
    now = hands.window.views["bench"].live
    assert now is not live and now.procedure is not live.procedure
    hands.qtbot.waitUntil(lambda: now.procedure.raw is not None and len(now.procedure.raw.gamma) == 201, timeout=20_000)
    assert now.procedure.plan.averages == 4
