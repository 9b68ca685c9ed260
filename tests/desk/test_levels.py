"""The Levels rung by keys and pointer: trying steps, finding and measuring pads, stepping displays, noise, units."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tallmast.desk.field.reports import on_display, report_of, report_words
from tallmast.desk.levels.find_forms import source as read_source
from tallmast.desk.sheets.named import placed_of
from tallmast.findings.levels.display import read_displays
from tallmast.notebook.records import (
    Comparison,
    DisplayRun,
    Emitter,
    GainTable,
    HomeEnd,
    NoiseSite,
    PadCheck,
    Piece,
    Radio,
    Reading,
)
from tallmast.notebook.records.lists import curve, curve_text, points, points_text, spells, spells_text
from tallmast.units.read import UnitError

from .hands import Hands


@pytest.fixture
def hands(qtbot, window, demo_copy):
    window.resize(1280, 800)
    window.open_notebook(demo_copy)
    made = Hands(qtbot, window)
    made.settle()
    made.press("3")
    qtbot.waitUntil(lambda: "levels" in window.views and window.views["levels"].finding is not None, timeout=5000)
    return made


@pytest.fixture
def view(hands):
    return hands.window.views["levels"]


def stairs_by_key(view):
    return {step.key: step for step in view.view.picture.stairs.steps}


class TestTrying:
    def test_a_step_is_dragged_and_the_findings_follow_when_the_hand_lets_go(self, hands, view):
        picture = view.view.picture
        view.view.grab()  # so that it knows where its treads lie
        tread = next(t for t in picture.treads if picture.stairs.steps[t.step].key == "cable")
        x, y = (tread.left + tread.right) / 2, tread.axis(picture.stairs.steps[tread.step].level_dbm)
        lower = tread.axis(picture.stairs.steps[tread.step].level_dbm - 6.0)
        before = picture.stairs.steps[-1].level_dbm
        QTest.mousePress(view.view, Qt.MouseButton.LeftButton, pos=QPoint(int(x), int(y)))
        QTest.mouseMove(view.view, QPoint(int(x), int((y + lower) / 2)))
        QTest.mouseMove(view.view, QPoint(int(x), int(lower)))
        assert view.view.picture.stairs.steps[-1].level_dbm == pytest.approx(before - 6.0, abs=0.5)
        assert hands.window.session.aims.tried == ()
        QTest.mouseRelease(view.view, Qt.MouseButton.LeftButton, pos=QPoint(int(x), int(lower)))
        hands.settle()
        ((key, change),) = hands.window.session.aims.tried
        assert key == "cable" and change == pytest.approx(-7.2, abs=0.5)
        assert hands.sentence.startswith("Tried: the test radiates")

    def test_a_hand_on_what_arrives_moves_the_path(self, hands, view):
        view.view.grab()
        picture = view.view.picture
        tread = next(t for t in picture.treads if picture.stairs.steps[t.step].key == "path")
        step = picture.stairs.steps[tread.step]
        assert picture.key_at((tread.left + tread.right) / 2) == "path"
        for more in (-6.0, 0.0, 4.0):
            y = tread.axis(step.level_dbm + tread.beyond_db + more)
            assert picture.change_for("path", y) == pytest.approx(step.change_db + more, abs=0.3)
        hands.press("k")
        hands.fill({"path": "100 dB"})
        hands.keep()
        assert dict(hands.window.session.aims.tried) == {"path": -100.0}
        assert hands.window.session.climb.levels.back.steps[2].change_db == -100.0

    def test_a_picked_step_is_nudged_by_keys_and_kept_by_a_key(self, hands, view):
        view.view.setFocus()
        for _ in range(4):
            hands.press(Qt.Key.Key_Right)
        assert view.selected == "cable"
        for _ in range(3):
            hands.press(Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
        hands.settle()
        assert dict(hands.window.session.aims.tried) == {"cable": pytest.approx(-1.5)}
        hands.window.stand()
        hands._key(hands.focus, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        hands.settle()
        assert hands.window.session.evidence.home_end.cable_loss_db == pytest.approx(1.5)
        assert hands.window.session.aims.tried == ()
        assert not hands.sentence.startswith("Tried")

    def test_a_fixed_pad_is_not_moved(self, hands, view):
        view.selected = "piece-pad-10"
        view._nudge(1)
        assert "with a grip" in hands.trouble

    def test_steps_are_typed_and_let_go_of_by_making_the_field_empty(self, hands):
        hands.press("k")
        hands.fill({"power": "100 mW", "antenna": "6 dBd"})
        hands.keep()
        assert dict(hands.window.session.aims.tried) == {"power": pytest.approx(20.0), "antenna": pytest.approx(8.15)}
        levels = hands.window.session.climb.levels
        assert levels.steps[0].level_dbm == pytest.approx(20.0)
        hands.press("k")
        hands.fill({"power": "", "antenna": ""})
        hands.keep()
        assert hands.window.session.aims.tried == ()

    def test_a_gain_that_is_tried_can_not_be_kept(self, hands):
        hands.press("k")
        hands.fill({"antenna": "12 dBi"})
        hands.keep()
        hands._key(hands.focus, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        assert "can’t be kept from here" in hands.trouble

    def test_beyond_its_ends_is_told(self, hands):
        hands.press("k")
        hands.fill({"cable": "80 dB"})
        hands.window.sheet.keep()
        assert "goes from" in hands.window.sheet.trouble.text()

    def test_all_pictures_by_one_key(self, hands, view):
        seen = []
        for _ in range(5):
            seen.append(view.looks.chosen)
            hands.press("o")
        assert seen == ["the way out", "the way back", "noise", "displays", "the drawer"]
        assert view.looks.chosen == "the way out"


class TestDrawer:
    def test_a_step_attenuator_goes_in_and_into_the_chain_with_a_setting(self, hands):
        hands.write("d", {"name": "grey box", "type": "step", "loss": "1 dB", "largest": "31 dB", "step": "1 dB"})
        box = next(p for p in hands.window.session.evidence.all(Piece) if p.name == "grey box")
        assert (box.type, box.largest_db) == ("step attenuator", 31.0)
        hands.write("p", {"placed": "10 dB pad; grey box 12 dB; mast preamp"})
        chain = hands.window.session.evidence.home_end
        assert [p.setting_db for p in chain.placed] == [0.0, 12.0, 0.0]
        levels = hands.window.session.climb.levels
        assert "mast preamp" not in [s.name for s in levels.out.steps]
        assert [s.change_db for s in levels.back.steps if s.name == "mast preamp"] == [15.0]

    def test_only_fields_that_go_with_the_kind_are_reached(self, hands):
        hands.press("d")
        hands.fill({"type": "preamp"})
        sheet = hands.window.sheet
        shown = {key for key, part in sheet.fields.items() if part.isVisibleTo(sheet)}
        assert {"gain", "noise_figure", "overload"} <= shown
        assert not {"length", "curve", "loss", "largest", "stop"} & shown
        sheet.keep()
        assert "Name" in sheet.trouble.text()

    @pytest.mark.parametrize(
        ("values", "words"),
        [
            ({"name": "x", "type": "preamp"}, "What gain"),
            ({"name": "x", "type": "step"}, "How far can it be set"),
            ({"name": "10 DB PAD", "type": "a pad"}, "in the drawer already"),
            ({"name": "x", "type": "cable", "curve": "6 dB/100 m at 100 MHz"}, "How long is it"),
            ({"name": "x", "low": "2 GHz", "top": "1 GHz"}, "from a lower frequency"),
        ],
    )
    def test_what_does_not_go_together_is_told(self, hands, values, words):
        hands.press("d")
        hands.fill(values)
        hands.window.sheet.keep()
        assert words in hands.window.sheet.trouble.text()

    def test_a_radios_figure_follows_from_its_sensitivity(self, hands):
        hands.window.act("radio")
        hands.fill({"name": "set", "sensitivity": "-112 dBm", "snr": "10 dB", "bandwidth": "12.5 kHz"})
        hands.keep()
        radio = next(r for r in hands.window.session.evidence.all(Radio) if r.name == "set")
        # −112 − 10 + 174 − 10·log₁₀ 12500 = 11.0 dB.
        assert radio.noise_figure_db == pytest.approx(11.0, abs=0.05)
        hands.window.act("radio")
        hands.fill({"name": "too good", "sensitivity": "-140 dBm", "snr": "10 dB", "bandwidth": "12.5 kHz"})
        hands.window.sheet.keep()
        assert "under the thermal noise" in hands.window.sheet.trouble.text()


class TestFindPads:
    def answer(self, hands):
        working = hands.window.side.working
        return working.figure

    def test_nearest(self, hands):
        hands.write("f", {"wanted": "29 dB", "power": "10 mW"})
        figure = self.answer(hands)
        assert figure.value == pytest.approx(29.0, abs=0.25)
        assert "goes in" in "".join(figure.working.lines)

    def test_to_fail_at_a_distance(self, hands):
        hands.write("f", {"job": "fail", "distance": "400 m"})
        lines = "\n".join(self.answer(hands).working.lines)
        assert "measured in the field" in lines and "plane earth" in lines and "take " in lines

    def test_to_protect_an_input(self, hands):
        hands.write("f", {"job": "keep an input", "source": "3 V/m", "gain": "2.15 dBi", "limit": "-25 dBm"})
        figure = self.answer(hands)
        # 3 V/m at 869 MHz into a dipole: E²/η₀·1.64λ²/4π is −4.3 dBm… the pads take at least what is over −25.
        assert figure.value >= 20.0
        assert "limit −25.0 dBm" in "\n".join(figure.working.lines)

    @pytest.mark.parametrize(
        ("values", "words"),
        [
            ({}, "How much is wanted"),
            ({"job": "fail"}, "At what distance"),
            ({"job": "keep an input"}, "What arrives"),
            ({"job": "keep an input", "source": "10 W EIRP", "limit": "-25 dBm"}, "From how far"),
        ],
    )
    def test_what_is_missing_is_asked_for(self, hands, values, words):
        hands.press("f")
        hands.fill(values)
        hands.window.sheet.keep()
        assert words in hands.window.sheet.trouble.text()


class TestGuided:
    def test_a_pad_is_measured_on_the_practice_bench_by_keys(self, hands, view, qtbot):
        hands.press("z")
        panel = view.substitution
        assert panel.procedure.piece.name == "6 dB pad"  # the first that was not measured
        for count in range(1, 6):
            hands.press(Qt.Key.Key_Return)
            qtbot.waitUntil(
                lambda count=count: len(panel.procedure.readings) == count and not panel.procedure.busy, timeout=20_000
            )
        assert panel.said.text().startswith("6 dB pad takes 5.9")
        hands.press("l")
        qtbot.waitUntil(lambda: panel.procedure.leak_dbm is not None and not panel.procedure.busy, timeout=20_000)
        hands.press("k")
        hands.settle()
        check = hands.window.session.evidence.all(PadCheck)[-1]
        assert check.piece_id == "piece-pad-6" and check.idle_dbm == pytest.approx(-78, abs=1)
        row = next(r for r in hands.window.session.climb.levels.drawer if r.piece.name == "6 dB pad")
        assert row.taken.basis == "measured" and row.taken.loss_db == pytest.approx(5.91, abs=0.1)
        hands.press(Qt.Key.Key_Escape)
        assert view.panel is None

    def test_too_few_readings_are_not_kept(self, hands, view, qtbot):
        hands.press("z")
        hands.press("k")
        assert "three readings at least" in hands.trouble
        hands.press("l")
        assert "First read" in hands.trouble

    def test_instruments_that_do_not_answer_are_told_and_the_run_goes_on(self, hands, view, qtbot):
        hands.press("z")
        panel = view.substitution
        hands.press("i")
        hands.sheet_opens()
        hands.fill({"source": "TCPIP0::127.0.0.1::9::SOCKET"})
        hands.window.sheet.keep()
        assert "go together" in hands.window.sheet.trouble.text()
        hands.fill({"meter": "TCPIP0::127.0.0.1::9::SOCKET"})
        hands.keep()
        assert not panel.procedure.range.practising and "practice bench" not in panel.todo.text()
        hands.press(Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: not panel.procedure.busy and bool(hands.trouble), timeout=30_000)
        assert "still here" in hands.trouble
        assert panel.procedure.readings == []

    def test_a_display_is_stepped_on_the_practice_bench(self, hands, view, qtbot):
        hands.press("x")
        hands.sheet_opens()
        hands.fill({"receiver": "camera screen", "scale": "picture", "to": "50 dB"})
        hands.keep()
        panel = view.display_run
        qtbot.waitUntil(
            lambda: panel.procedure.plan is not None and panel.procedure.plan.zero_dbm is not None, timeout=20_000
        )
        assert panel.procedure.plan.zero_dbm == pytest.approx(-46.2, abs=0.2)
        hands.press(Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: len(panel.procedure.shown) == 1 and not panel.procedure.busy, timeout=20_000)
        hands.press("r")
        qtbot.waitUntil(lambda: panel.procedure.next_db is None and not panel.procedure.busy, timeout=60_000)
        hands.press("k")
        hands.settle()
        run = hands.window.session.evidence.all(DisplayRun)[-1]
        assert run.receiver == "camera screen" and run.scale == "picture grade"
        assert "camera screen" in hands.window.session.climb.displays

    def test_a_display_is_stepped_by_hand(self, hands, view):
        hands.press("x")
        hands.sheet_opens()
        hands.fill(
            {
                "receiver": "old set",
                "scale": "S units",
                "by": "by hand",
                "to": "12 dB",
                "step": "6 dB",
                "ways": "no",
                "zero": "-73 dBm",
            }
        )
        hands.keep()
        panel = view.display_run
        for shown in ("S9", "8", "s7"):
            assert panel.line.hasFocus()
            hands.press(shown)
            hands.press(Qt.Key.Key_Return)
        assert panel.procedure.shown == [9.0, 8.0, 7.0]
        hands.press("k")
        hands.settle()
        curve_ = hands.window.session.climb.displays["old set"].curve
        assert curve_.read(8.0).level.value == pytest.approx(-79.0, abs=0.5)

    def test_nonsense_at_a_step_is_told_and_k_keeps_what_there_is(self, hands, view):
        hands.press("x")
        hands.sheet_opens()
        hands.fill({"receiver": "old set", "by": "by hand", "to": "20 dB"})
        hands.keep()
        panel = view.display_run
        hands.press("loud")
        hands.press(Qt.Key.Key_Return)
        assert "Expected a number" in hands.trouble and panel.procedure.shown == []
        panel.line.clear()
        hands.press("k")
        hands.press(Qt.Key.Key_Return)
        assert "Three steps at least" in hands.trouble

    @pytest.mark.parametrize(
        ("values", "words"),
        [
            ({"step": "0 dB"}, "above zero"),
            ({"to": "2 dB"}, "three steps"),
            ({"to": "90 dB"}, "0 to 63"),
            ({"step": "0.01 dB"}, "two thousand"),
        ],
    )
    def test_a_run_that_can_not_be_stepped_is_told(self, hands, values, words):
        hands.press("x")
        hands.sheet_opens()
        hands.fill({"receiver": "set", **values})
        hands.window.sheet.keep()
        assert words in hands.window.sheet.trouble.text()


class TestNoiseAndTurns:
    def test_noise_is_written_anew_and_its_remedies_follow(self, hands):
        hands.write("j", {"floor": "-105 dBm", "quieter_floor": "-112 dBm"})
        noise = hands.window.session.climb.levels.noise
        assert noise.sentence.startswith("Outside noise rules here")
        assert hands.window.session.evidence.get(NoiseSite, "noise").floor_dbm == -105.0

    def test_a_neighbour_by_its_field(self, hands):
        hands.window.act("emitter")
        hands.fill({"name": "mast", "frequency": "100 MHz", "source": "0.5 V/m"})
        hands.keep()
        assert hands.window.session.evidence.all(Emitter)[-1].field_v_per_m == pytest.approx(0.5)
        assert len(hands.window.session.climb.levels.exposed.seen) == 2

    def test_two_things_in_turn(self, hands):
        hands.write(
            "y",
            {
                "what": "reflector",
                "spells": "off -61 -60 -61; on -57 -58 -57; off -61 -61 -60",
                "averaging": "decibels",
            },
        )
        compared = hands.window.session.climb.levels.compared[-1]
        assert compared.difference.value == pytest.approx(3.33, abs=0.1)
        hands.press("y")
        hands.fill({"what": "x", "spells": "a 1 2; b -3; a 1", "unit": "V/m"})
        hands.window.sheet.keep()
        assert "above zero" in hands.window.sheet.trouble.text()
        assert len(hands.window.session.evidence.all(Comparison)) == 2

    @pytest.mark.parametrize(
        ("values", "name", "value"),
        [
            # 1 W EIRP at 100 m: √30/100 = 54.8 mV/m; into 2.15 dBi at 869 MHz: 20 dB(W→mW) … −30 − 71.2 + 30 + 2.15 = −39.1 dBm.
            ({"source": "1 W EIRP", "distance": "100 m"}, "level at the antenna’s connector", -39.08),
            ({"source": "94.77 dBµV/m"}, "level at the antenna’s connector", -39.08),
            ({"source": "-39.08 dBm"}, "field at the antenna", 54.8e3),
        ],
    )
    def test_field_and_power(self, hands, values, name, value):
        hands.window.act("field strength")
        hands.fill(values)
        hands.keep()
        figure = hands.window.side.working.figure
        assert figure.name == name
        assert figure.value == pytest.approx(value, rel=3e-3)

    def test_a_calibrated_antenna_lends_its_gain(self, hands):
        hands.window.act("field strength")
        hands.fill({"source": "1 W EIRP", "distance": "100 m", "antenna": "Check Dipole", "frequency": "140 MHz"})
        hands.keep()
        assert "−11.00 dBi, by its table" in "\n".join(hands.window.side.working.figure.working.lines)

    def test_one_value_in_all_its_units(self, hands):
        hands.press("u")
        hands.fill({"level": "S9"})
        assert "across 50 Ω: 5.01 µV" in hands.window.sheet.fields["level"].echo.text()
        before = hands.window.session.notebook.head
        hands.keep()
        assert hands.window.session.notebook.head == before


class TestFiles:
    def test_a_gain_table_and_a_stepped_display_are_dropped_in(self, hands, tmp_path):
        gains = tmp_path / "probe.csv"
        gains.write_text("frequency MHz;antenna factor dB/m;u dB\n100;12,3;0,5\n900;28,0;0,5\n")
        hands.drop(gains)
        hands.sheet_opens()
        assert "antenna factors were turned to gain" in hands.window.sheet.note.text().lower()
        hands.keep()
        table = hands.window.session.evidence.all(GainTable)[-1]
        series = hands.window.session.evidence.series(table.series_id)
        # AF = 20 log₁₀(9.73/λ) − G: 12.3 dB/m at 100 MHz is −2.1 dBi.
        assert series["gain_dbi"][0] == pytest.approx(20 * 0.51140 - 12.3, abs=0.05)
        display = tmp_path / "bars.csv"
        display.write_text("attenuation dB,bars\n" + "".join(f"{a},{max(5 - a // 8, 0)}\n" for a in range(0, 50, 2)))
        hands.drop(display)
        hands.sheet_opens()
        hands.fill({"receiver": "pocket set", "zero": "-60 dBm"})
        hands.keep()
        assert "pocket set" in hands.window.session.climb.displays


def test_the_ring_to_stand_clear_is_on_the_map(hands, qtbot):
    hands.press("5")
    view = hands.window.views["field"]
    qtbot.waitUntil(lambda: view.map.picture is not None, timeout=5000)
    view.map.grab()
    assert any(spot.label.startswith("clear distance") for spot in view.map.picture.spots)


def test_bars_of_a_stepped_display_are_a_level_in_the_field(hands):
    hands.press_on("field", "n")
    hands.fill({"what": "3 bars"})
    assert "3 on handset: −8" in hands.window.sheet.fields["what"].echo.text()
    hands.keep()
    reading = hands.window.session.evidence.all(Reading)[-1]
    assert (reading.shown, reading.receiver, reading.level_dbm) == (3.0, "handset", None)


def test_what_a_display_shows_as_people_write_it(demo_file):
    from tallmast.demo.campaign import evidence

    displays = read_displays(evidence()[1])
    assert on_display("3 bars", displays) == ("handset", 3.0)
    assert on_display("4 on the handset", displays) == ("handset", 4.0)
    assert on_display("-97 dBm", displays) is None and on_display("S7", displays) is None
    assert report_of("S7", 869e6, displays)["level_dbm"] == -105.0
    assert report_words(report_of("5 bars", 869e6, displays), displays).startswith("5 on handset: saturated: at least")


class TestWriting:
    @pytest.mark.parametrize("text", ["10.1 dB at 868 MHz; 10.3 ±0.2 dB at 2.4 GHz"])
    def test_points(self, text):
        made = points(text)
        assert [(p.frequency_hz, p.loss_db, p.u_db) for p in made] == [(868e6, 10.1, 0.1), (2.4e9, 10.3, 0.2)]
        assert points(points_text(made)) == made

    def test_a_cables_curve_for_any_length(self):
        made = curve("6.6 dB/100 m at 100 MHz; 2.2 dB per 10 m at 1 GHz; 0.5 dB/m at 3 GHz")
        assert [p.loss_db for p in made] == pytest.approx([0.066, 0.22, 0.5])
        again = curve(curve_text(made))
        assert [p.loss_db for p in again] == pytest.approx([p.loss_db for p in made])

    @pytest.mark.parametrize("text", ["loud", "10 dB", "10 dB/100 m at 100 MHz", "at 3 MHz"])
    def test_no_points(self, text):
        with pytest.raises(UnitError):
            points(text)

    def test_spells(self):
        made = spells("with reflector@2 -61 -62,5; without@5 min -66; with reflector -61")
        assert [(s.label, s.minute, s.values) for s in made] == [
            ("with reflector", 2.0, [-61.0, -62.5]),
            ("without", 5.0, [-66.0]),
            ("with reflector", None, [-61.0]),
        ]
        assert spells(spells_text(made)) == made

    @pytest.mark.parametrize("text", ["-61 -62", "A -61", "A -61; B -60; C -59", "A; B"])
    def test_no_spells(self, text):
        with pytest.raises(UnitError):
            spells(text)

    def test_pieces_of_the_drawer_by_name(self):
        pieces = [
            Piece(id="1", name="box", type="step attenuator", largest_db=30),
            Piece(id="2", name="10 dB pad", type="pad"),
        ]
        assert [(p.piece_id, p.setting_db) for p in placed_of("box 12; 10 dB pad", pieces)] == [("1", 12.0), ("2", 0.0)]
        for wrong in ("box 40 dB", "10 dB pad 3 dB", "lead"):
            with pytest.raises(UnitError):
                placed_of(wrong, pieces)

    def test_what_arrives_by_eirp_or_field(self):
        assert read_source("10 W") == ("eirp", 10.0)
        assert read_source("120 dBµV/m")[0] == "field"
        with pytest.raises(UnitError, match="EIRP"):
            read_source("loud")


def test_without_a_chain_the_rung_shows_what_there_is(qtbot, window, tmp_path):
    """A display or a noise floor alone is something; the rung says so and crashes at nothing."""
    hands = Hands(qtbot, window)
    window.files.new_notebook(tmp_path / "n.tallmast")
    hands.settle()
    hands.sheet_opens()
    hands.fill({"text": "x", "band": "868-870 MHz"})
    hands.keep()
    hands.press("3")
    hands.write("j", {"bandwidth": "50 kHz", "receiver_figure": "6 dB", "floor": "-110 dBm"})
    view = window.views["levels"]
    assert hands.sentence == "Power and pads are not noted yet."
    assert view.looks.chosen == "noise"
    hands.press("f")
    hands.fill({"wanted": "10 dB"})
    hands.keep()
    assert QApplication.focusWidget() is not None


def test_a_home_that_sends_what_its_radio_sends(hands):
    """No power has to be invented for it."""
    session = hands.window.session
    radio = next(r for r in session.evidence.all(Radio) if r.id == session.evidence.home_end.radio_id)
    hands.write("p", {"power": ""})
    assert session.evidence.get(HomeEnd, "home end").power_w is None
    assert session.evidence.home_end.power_w == radio.power_w
    assert f"power as {radio.name} sends" in session.notebook.tape[-1].label
