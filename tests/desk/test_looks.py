"""Changing the look keeps everything that is being done, leaks nothing, and is quick."""

import time

from PySide6.QtWidgets import QApplication, QMenu

from tallmast.notebook.records import MeterReading


def test_a_half_filled_sheet_stays_and_is_kept(hands):
    window = hands.window
    hands.press("2")
    window.act("meter reading")
    sheet = window.sheet
    sheet.fields["swr"].line.setText("1.7")
    before = len(window.session.evidence.all(MeterReading))
    for look in ("Night", "Sun", "Day"):
        window.dress_as(look)
        hands.settle()
        assert window.sheet is sheet and sheet.isVisible()
        assert sheet.fields["swr"].line.text() == "1.7"
    assert sheet.keep()
    hands.settle()
    assert len(window.session.evidence.all(MeterReading)) == before + 1
    assert window.sheet is None


def test_a_run_goes_on_where_it_stood(hands):
    window = hands.window
    hands.press("5")
    view = window.views["field"]
    view.start_live()
    hands.press(" ")
    hands.press("h")
    hands.settle()
    stood = view.live.said.text(), view.live.todo.text()
    assert "heard" in stood[1]
    window.dress_as("Sun")
    hands.settle()
    now = window.views["field"].live
    assert now is not view.live and now.isVisible()
    assert (now.said.text(), now.todo.text()) == stood


def test_no_menu_is_left_behind(hands):
    window = hands.window
    window.dress_as("Night")
    hands.settle()
    QApplication.processEvents()
    count = len(window.findChildren(QMenu))
    for look in ("Day", "Night", "Sun", "Night"):
        window.dress_as(look)
        hands.settle()
    QApplication.sendPostedEvents(None, 0)
    QApplication.processEvents()
    assert len(window.findChildren(QMenu)) <= count


def test_it_is_no_work_to_put_on_what_is_worn(hands):
    window = hands.window
    view = window.views[window.rung]
    began = time.monotonic()
    window.dress_as(window.appearance)
    assert window.views[window.rung] is view and time.monotonic() - began < 0.05
