"""The frame: looks, contrast, folding, hiding, finding, undoing, trouble, and what is remembered."""

import contextlib
import os
import shutil
import sqlite3

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QTextDocument
from PySide6.QtWidgets import QApplication, QTableWidget, QWidget

from tallmast.desk.frame.tape import change_words
from tallmast.desk.ledger import Ledger
from tallmast.desk.picture_view import PictureView
from tallmast.figures.paper import DASHES, GLYPHS, PALETTES
from tallmast.notebook import schema
from tallmast.notebook.changes import Change
from tallmast.notebook.records import MeterReading
from tallmast.notebook.store import Notebook

from .hands import Hands


def contrast(one: str, other: str) -> float:
    """WCAG 2.1 contrast ratio."""

    def luminance(name: str) -> float:
        def channel(v: float) -> float:
            return v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4

        c = QColor(name)
        return 0.2126 * channel(c.redF()) + 0.7152 * channel(c.greenF()) + 0.0722 * channel(c.blueF())

    a, b = sorted((luminance(one), luminance(other)), reverse=True)
    return (a + 0.05) / (b + 0.05)


@pytest.mark.parametrize("name", list(PALETTES))
def test_text_and_lines_stand_out(name):
    p = PALETTES[name]
    for ground in (p.ground, p.sheet, p.rail):
        for ink in (p.ink, p.soft):
            assert contrast(ink, ground) >= 4.5, (ink, ground)
        assert contrast(p.line, ground) >= 3.0
    for ink in (p.accent, p.holds, p.doubt, p.fails, *p.antennas):
        assert contrast(ink, p.sheet) >= 4.5, ink
    for ink, wash in ((p.holds, p.holds_wash), (p.doubt, p.doubt_wash), (p.fails, p.fails_wash), (p.ink, p.open_wash)):
        assert contrast(ink, wash) >= 4.5, (ink, wash)
    assert contrast(p.on_strong, p.strong) >= 4.5


def test_antennas_differ_without_colour():
    assert len(set(GLYPHS)) == len(GLYPHS) == 8
    assert len(set(DASHES)) == len(DASHES) == 8


@pytest.mark.parametrize("look", ["Night", "Sun", "Day"])
@pytest.mark.parametrize("size", [(1024, 700), (1280, 800)])
def test_nothing_overflows_sideways(hands, look, size):
    window = hands.window
    window.dress_as(look)
    window.resize(*size)
    hands.settle()
    for key in "1234567":
        hands.press(key)
        QApplication.processEvents()
        view = window.views[window.rung]
        assert view.page.width() <= view.viewport().width()
        right = window.width()
        for part in (window.mast, window.top, window.side, window.tape, view):
            if part.isVisible():
                assert part.mapTo(window, part.rect().topRight()).x() <= right
        for rung in window.mast.rungs.values():
            font = window.paper.font(10.5)
            from PySide6.QtGui import QFontMetricsF

            room = rung.width() - (32 + 27 + 13) * window.paper.scale
            assert QFontMetricsF(font).horizontalAdvance(rung.standing.words) <= room, rung.standing.words


def test_focus_and_hiding_by_keys(hands):
    window = hands.window
    hands.press("2")
    hands.press(".")
    hands.settle()
    assert window.session.focus_antenna.name == "Gull Collinear"
    assert "Gull Collinear holds" in hands.sentence
    hands.press("V")
    assert window.session.hidden == {"antenna-gull-collinear"}
    assert "hidden" in next(c for c in window.top.chips.parts if "Gull" in c.objectName()).accessibleName()


def test_the_working_folds_and_stays_folded(hands):
    window = hands.window
    hands.press("W")
    assert not window.side.isVisible()
    assert not window.settings.working_shown
    hands.press("W")
    assert window.side.isVisible()


def test_the_finder_opens_a_record_and_an_act(hands, qtbot):
    window = hands.window
    hands.chord("k")
    finder = window.findChild(QWidget, "finder")
    qtbot.keyClicks(finder.line, "kelp rock")
    qtbot.keyClick(finder.line, Qt.Key.Key_Return)
    assert window.sheet.form.title == "A place"
    assert window.rung == "field"
    hands.press(Qt.Key.Key_Escape)
    assert window.sheet is None
    hands.chord("k")
    finder = next(w for w in window.findChildren(QWidget, "finder") if w.isVisible())
    qtbot.keyClicks(finder.line, "verdict")
    qtbot.keyClick(finder.line, Qt.Key.Key_Return)
    assert window.rung == "verdict"


def test_a_correction_asks_why_and_the_tape_says_so(hands, qtbot):
    window = hands.window
    from tallmast.notebook.records import Place

    window.open_record(next(p for p in window.session.evidence.all(Place) if p.name == "Kelp Rock"))
    hands.fill({"height": "3 m", "reason": "measured it"})
    hands.keep()
    act = window.session.notebook.tape[-1]
    assert act.label.startswith("Corrected: place Kelp Rock")
    assert act.reason == "measured it"
    hands.press("t")
    assert "measured it" in window.tape.list.item(window.tape.list.count() - 1).text()


def test_numbers_are_picked_by_arrow_keys_and_their_working_shown(hands, qtbot):
    window = hands.window
    hands.press("7")
    picture = window.views["verdict"].view
    picture.setFocus()
    window.grab()
    hands.press(Qt.Key.Key_Right)
    first = window.side.working.figure
    hands.press(Qt.Key.Key_Right)
    assert window.side.working.figure is not first
    assert window.side.working.figure.working.lines


def test_every_control_has_a_name_for_a_screen_reader(hands):
    from PySide6.QtWidgets import QAbstractButton, QLineEdit, QTableWidget

    window = hands.window
    for key in "1234567":
        hands.press(key)
    for kind in (QAbstractButton, QLineEdit, QTableWidget):
        for part in window.findChildren(kind):
            if part.objectName().startswith("qt_") or not part.isVisible() or isinstance(part.parent(), QTableWidget):
                continue
            assert part.accessibleName() or (isinstance(part, QAbstractButton) and part.text()), part


def test_bad_files_are_told_one_after_the_other_and_nothing_is_kept(hands, tmp_path):
    window = hands.window
    entries = window.session.notebook.head
    cases = {
        "empty.s1p": b"",
        "binary.s1p": os.urandom(3000),
        "cut.csv": b"angle,dB\n0,1\n10,2\n20,nan\n" + b"".join(b"%d,1\n" % a for a in range(30, 360, 10)),
        "bomb.gpx": b'<?xml version="1.0"?><!DOCTYPE g [<!ENTITY a "b">]><gpx version="1.1">&a;</gpx>',
        "words.txt": b"Dear diary, today the antenna fell over.\n",
        "short.s1p": b"# MHz S RI R 50\n860 .1 .1\n869 .1\n",
    }
    for name, data in cases.items():
        (tmp_path / name).write_bytes(data)
        window.tape.tell("")
        hands.drop(tmp_path / name)
        hands.qtbot.waitUntil(lambda: bool(hands.trouble), timeout=20_000)
        assert hands.trouble.startswith(name), hands.trouble
        assert "Nothing of it was taken in" in hands.trouble
    hands.drop(tmp_path / "vanished.csv")
    hands.qtbot.waitUntil(lambda: "not there any more" in hands.trouble, timeout=20_000)
    assert window.session.notebook.head == entries
    assert window.sheet is None


def test_a_damaged_notebook_is_shown_as_far_as_it_goes(window, qtbot, demo_copy):
    data = bytearray(demo_copy.read_bytes())
    at = 4096 * (len(data) // 4096 // 2)
    data[at : at + 12_288] = os.urandom(12_288)
    demo_copy.write_bytes(data)
    hands = Hands(qtbot, window)
    assert not window.open_notebook(demo_copy)
    window.session.settle()
    hands.settle()
    assert "damaged" in hands.trouble and "Rescued" in hands.trouble
    assert window.session.notebook.read_only
    assert demo_copy.read_bytes() == bytes(data)
    report = demo_copy.with_name("report.html")
    window.files.make_report(report)
    assert "in no file yet" in hands.trouble and not report.exists()
    saved = demo_copy.with_name("saved.tallmast")
    window.session.notebook.save_copy(saved)
    assert window.open_notebook(saved) and not window.session.notebook.read_only


def test_an_older_notebook_says_where_it_is_kept_as_it_was(window, qtbot, demo_copy):
    with contextlib.closing(sqlite3.connect(demo_copy)) as db:
        db.execute(f"PRAGMA user_version = {schema.FORMAT - 1}")
    assert window.open_notebook(demo_copy)
    kept = demo_copy.with_name(f"{demo_copy.stem} (format {schema.FORMAT - 1}).tallmast")
    assert kept.name in window.tape.state.text() and kept.exists()


def test_a_notebook_open_elsewhere_is_only_shown(window, qtbot, demo_copy):
    other = Notebook.open(demo_copy)
    hands = Hands(qtbot, window)
    assert window.open_notebook(demo_copy)
    hands.settle()
    assert "another window" in hands.trouble
    hands.press_on("field", "l")
    hands.fill({"name": "New", "position": "57.9 -11.2"})
    hands.press(Qt.Key.Key_Return)
    assert "Not kept" in hands.trouble
    assert window.sheet is not None, "what was typed must not be lost"
    other.close()


def test_the_rung_and_the_recent_notebooks_are_remembered(hands, qtbot, tmp_path):
    window = hands.window
    hands.press("6")
    path = window.session.notebook.path
    second = shutil.copy(path, tmp_path / "second.tallmast")
    window.open_notebook(type(path)(second))
    hands.settle()
    assert window.rung == "shelf"
    window.open_notebook(path)
    hands.settle()
    assert window.rung == "link"
    assert [p.name for p in window.settings.recent][:2] == ["demo.tallmast", "second.tallmast"]


def test_an_empty_window_offers_three_ways_to_begin(window, qtbot):
    assert window.stack.currentWidget() is window.start
    hands = Hands(qtbot, window)
    hands.press("5")
    hands.press("a")
    assert "Open or start a notebook first" in hands.trouble
    window.act("demo")
    hands.settle()
    assert window.session.notebook is not None


def test_dragging_over_the_curve_reads_elsewhere(hands, qtbot):
    window = hands.window
    hands.press("2")
    window.grab()
    picture = window.views["bench"].view
    picture.dragged.emit(880e6)
    qtbot.waitUntil(lambda: window.session.aims.at_hz == 880e6, timeout=5000)
    hands.settle()
    assert "880 MHz" in window.views["bench"].readings.heading.text()


def test_a_pick_on_the_map_marks_the_distance_picture(hands):
    window = hands.window
    hands.press("5")
    view = window.views["field"]
    view.ensureWidgetVisible(view.map)
    window.grab()
    spot = next(s for s in view.map.picture.spots if "Inner Holm" in s.label)
    view.map.picked.emit(spot.payload)
    assert view.level.picture.picked == "place-inner-holm"
    assert window.side.working.figure.name == "distance to Inner Holm"


@pytest.mark.parametrize("width", [1024, 1280, 1700])
def test_no_word_of_a_table_is_cut_and_no_picture_either(hands, width):
    window = hands.window
    window.resize(width, 800)
    for key in "1234567":
        hands.press(key)
        for _ in range(3):
            QApplication.processEvents()
        view = window.views[window.rung]
        assert view.page.height() >= view.box.minimumHeightForWidth(view.page.width())
        for table in (t for t in view.findChildren(QTableWidget) if t.isVisible()):
            header, bar = table.horizontalHeader(), table.horizontalScrollBar()
            assert header.length() <= table.viewport().width() or bar.maximum() > 0, table.objectName()
            for column in range(table.columnCount() - (1 if table.wordWrap() else 0)):
                assert header.sectionSize(column) >= table.sizeHintForColumn(column), table.objectName()
            if table.wordWrap():
                for row in range(table.rowCount()):
                    assert table.rowHeight(row) >= table.sizeHintForRow(row), (table.objectName(), row)
        for picture in (p for p in view.findChildren(PictureView) if p.isVisible()):
            assert picture.height() >= picture.minimumHeight(), picture.objectName()


def test_distances_in_feet_and_miles_wherever_they_are_written(hands):
    window = hands.window
    hands.press("6")
    assert " km" in hands.sentence + window.views["link"].detail.text()
    window.act("units")
    hands.settle()
    for rung in ("5", "6", "7"):
        hands.press(rung)
        words = hands.sentence + window.views[window.rung].detail.text()
        assert " km" not in words, words
    figure = window.session.climb.field.places[0].distance
    assert figure.text.endswith("mi") and figure.unit == "m"
    assert float(figure.short.removesuffix(" mi")) == pytest.approx(figure.value / 1609.344, abs=0.006)
    window.act("units")
    hands.settle()
    assert window.session.climb.field.places[0].distance.text.endswith("m")


def test_the_tape_shows_what_a_correction_corrected(hands):
    window = hands.window
    reading = window.session.evidence.all(MeterReading)[0]
    window.open_record(reading)
    window.sheet.fields["swr"].line.setText("1.9")
    window.sheet.fields["reason"].line.setText("misread the dial")
    assert window.sheet.keep()
    hands.settle()
    hands.press("t")
    last = window.tape.list.item(window.tape.list.count() - 1).text()
    assert f"SWR {reading.swr:g} → 1.9" in last
    assert "misread the dial" in last
    hands.press("t")
    hands.chord("z")
    hands.settle()
    hands.press("t")
    assert f"SWR 1.9 → {reading.swr:g}" in window.tape.list.item(window.tape.list.count() - 1).text()


@pytest.mark.parametrize(
    ("field", "before", "after", "words"),
    [
        ("height_m", 2.0, 6.0, "height 2 m → 6 m"),
        ("power_w", 0.01, 0.05, "power 10 mW → 50 mW"),
        ("antenna_id", "a", "b", "antenna Whip → Stub"),
        ("level_dbm", -97.0, None, "level −97.0 dBm → not noted"),
        ("cable_loss_u_db", 0.1, 0.2, "cable loss uncertainty 0.1 dB → 0.2 dB"),
        ("weather", "", "rain", "weather not noted → rain"),
        ("pads", [1], [2], "pads changed"),
        ("heard", True, False, "heard yes → no"),
        ("series_id", "x", "y", ""),
    ],
)
def test_a_change_in_words(field, before, after, words):
    names = {"a": "Whip", "b": "Stub"}
    assert change_words(Change("r", field, before, after), lambda i: names.get(i, "?")) == words


def test_enter_on_every_row_of_every_table_opens_its_sheet_and_raises_nothing(hands, qtbot):
    """Whatever stands in a table: Enter shows the record behind it, and Esc closes it."""
    opened = 0
    with qtbot.captureExceptions() as raised:
        for rung in "1234567":
            hands.press(rung)
            hands.settle()
            view = hands.window.views[hands.window.rung]
            for table in view.findChildren(Ledger):
                for row in range(table.rowCount()) if table.isVisible() else ():
                    table.setCurrentCell(row, 0)
                    table.setFocus()
                    hands.press(Qt.Key.Key_Return)
                    if hands.window.sheet is not None:
                        opened += 1
                        hands.press(Qt.Key.Key_Escape)
                    assert hands.window.sheet is None
                    hands.press(rung)  # a piece of the drawer opens on Levels
    assert not raised
    assert opened > 40


def test_before_transmitting_the_distance_to_stand_clear_is_said_with_the_rules_that_decide(hands):
    """On the rungs where somebody may transmit; with the distance of the finding, and who has the last word."""
    side = hands.window.side
    hands.press("3")
    hands.settle()
    hands.qtbot.waitUntil(lambda: bool(side.cautions), timeout=5000)
    levels = hands.window.session.climb.levels
    told = " ".join(side.cautions)
    assert f"Stand clear at full power: {levels.clear.short} of {levels.antenna}" in told
    assert "On the air: never without an antenna or a load; band, power and duty as your licence says." in told
    assert told.endswith("Local rules and licensed people decide.")
    shown = QTextDocument()
    shown.setHtml(side.safety.text())
    assert side.safety.isVisible() and shown.toPlainText().splitlines() == list(side.cautions)
    for rung in "24567":
        hands.press(rung)
        hands.settle()
        hands.qtbot.waitUntil(lambda: "as your licence says" in " ".join(side.cautions), timeout=5000)
        assert levels.clear.short in " ".join(side.cautions)
    hands.press("1")
    hands.settle()
    hands.qtbot.waitUntil(lambda: not side.cautions, timeout=5000)


def test_what_is_held_is_asked_with_the_power_and_then_no_distance_is_told(hands):
    """On a mast of 6 m it is what the person says; the sheet has it among its seldom fields."""
    hands.write("p", {"near_people": "held in the hand"}, "power and pads")
    side = hands.window.side
    hands.press("3")
    hands.qtbot.waitUntil(lambda: "is held: no far-field distance applies" in " ".join(side.cautions), timeout=10_000)
    assert hands.window.session.climb.clear is None


def test_what_to_mind_of_a_flight_stands_in_its_sheet_before_it_is_flown(hands):
    hands.press("5")
    hands.press("r")
    caution = hands.window.sheet.caution
    hands.fill({"manner": "walk"})
    assert caution.isHidden()
    hands.fill({"manner": "flight"})
    assert not caution.isHidden() and "return-home tried" in caution.text() and "swollen" in caution.text()
    hands.fill({"manner": "drive"})
    assert "does not log" in caution.text() and "return-home" not in caution.text()


def test_a_wide_window_shows_both_planes_and_a_small_one_the_chosen(hands):
    window = hands.window
    hands.press("4")
    view = window.views["pattern"]
    for width, both in ((1920, True), (1280, False)):
        window.resize(width, 900)
        hands.settle()
        assert view.beside_card.isVisible() == both
    window.resize(1920, 900)
    hands.settle()
    assert {view.view.picture.plane, view.beside.picture.plane} == {"azimuth", "elevation"}


def test_a_table_on_a_wide_window_shares_its_room(hands):
    window = hands.window
    hands.press("4")
    ledger = window.views["pattern"].cuts.ledger

    def widths() -> list[int]:
        return [ledger.columnWidth(i) for i in range(ledger.columnCount())]

    window.resize(1280, 900)
    hands.settle()
    narrow = widths()
    window.resize(1920, 900)
    hands.settle()
    assert all(wide > less for wide, less in zip(widths(), narrow, strict=True))
    assert sum(widths()) <= ledger.viewport().width()


def test_a_copy_of_the_file_alone_has_an_act_within_a_second(hands, tmp_path):
    from tallmast.notebook.store import Notebook

    path = hands.window.session.notebook.path
    hands.write("a", {"name": "Rope Dipole"}, "add antenna")

    def there() -> bool:
        copy = tmp_path / f"{len(list(tmp_path.iterdir()))}.tallmast"
        copy.write_bytes(path.read_bytes())
        found = Notebook.open(copy)
        named = [a.name for a in found.evidence().antennas]
        found.close()
        return "Rope Dipole" in named

    hands.qtbot.waitUntil(there, timeout=1000)
