"""The Bench looked at in other ways: by key and press, zoomed and panned, and what a screen reader hears."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tallmast.figures.bench import SwrPicture
from tallmast.figures.bench_ladder import LadderPicture
from tallmast.figures.bench_views import PlanePicture, QuantityPicture

from .hands import Hands


@pytest.fixture
def hands(hands) -> Hands:
    hands.press("2")
    return hands


def picture(hands):
    hands.window.views["bench"].view.grab()
    return hands.window.views["bench"].view.picture


def test_one_key_goes_through_every_look(hands):
    seen = []
    for _ in range(6):
        seen.append(picture(hands))
        hands.press("o")
    kinds = [type(p) for p in seen]
    assert kinds == [SwrPicture, QuantityPicture, QuantityPicture, QuantityPicture, PlanePicture, LadderPicture]
    assert [p.quantity for p in seen[1:4]] == ["return loss", "power accepted", "impedance"]
    assert isinstance(picture(hands), SwrPicture), "round and round"
    assert all(p.title for p in seen)
    assert all(p.spots for p in seen), "every look has a number that can be picked"


def test_the_ladder_tells_every_state_with_what_the_cut_did(hands):
    for _ in range(5):
        hands.press("o")
    told = picture(hands).words()
    assert told.index("as built: ") < told.index("trimmed 0.7 mm: ") < told.index("trimmed 1.4 mm: ")
    rungs = hands.window.session.climb.bench.focus.rungs
    assert [r.mark for r in rungs] == ["fails", "holds", "holds"]
    # The demo's truth: 84 mm − 3.6 mm at 854.2 MHz; 0.7 mm off: 854.2·80.4/79.7 = 861.7 MHz.
    low, high = rungs[1].resonance.interval
    assert low < 861.7 < high and high - low < 4.0
    assert rungs[1].step_words.startswith("0.7 mm off, ")


def test_a_look_stays_while_the_focus_moves(hands):
    for _ in range(4):
        hands.press("o")
    hands.press(".")
    hands.settle()
    assert isinstance(picture(hands), PlanePicture)
    assert "Gull Collinear" in picture(hands).words()


def test_zoom_and_back_by_keys(hands):
    view = hands.window.views["bench"]
    assert picture(hands).span_hz is None
    hands.press("+")
    low, high = picture(hands).span_hz
    assert high - low == pytest.approx(60e6 / 1.6, rel=1e-6)
    assert low < 869e6 < high, "about the frequency that is read off"
    hands.press("-")
    assert picture(hands).span_hz is None
    hands.press("+")
    hands.press("+")
    hands.press("0")
    assert view.span is None


def test_the_wheel_zooms_about_the_pointer(hands):
    shown = picture(hands)
    view = hands.window.views["bench"].view
    x = view.width() * 0.3
    before = shown.drag(x, 0)
    at, none = QPointF(x, 100), Qt.MouseButton.NoButton
    for held in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier):
        event = QWheelEvent(at, at, QPoint(), QPoint(0, 120), none, held, Qt.ScrollPhase.NoScrollPhase, False)
        QApplication.sendEvent(view, event)
    span = picture(hands).span_hz
    assert span[1] - span[0] == pytest.approx(60e6 / 1.25, rel=1e-6)
    assert picture(hands).drag(x, 0) == pytest.approx(before, rel=1e-4)


def test_panning_stops_at_the_ends(hands):
    view = hands.window.views["bench"]
    for _ in range(3):
        hands.press("+")
    start = picture(hands).span_hz
    view.view.setFocus()
    QTest.keyClick(view.view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    moved = picture(hands).span_hz
    assert moved[0] > start[0] and moved[1] - moved[0] == pytest.approx(start[1] - start[0])
    for _ in range(60):
        QTest.keyClick(view.view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        view.view.grab()
    assert picture(hands).span_hz[1] == pytest.approx(900e6)


def test_impedance_is_of_the_antenna_in_focus_only(hands):
    for _ in range(3):
        hands.press("o")
    shown = picture(hands)
    assert shown.quantity == "impedance"
    assert "R full, X broken" in shown.title
