"""What is dragged has keys, and Tab goes as the page is seen."""

from itertools import pairwise

import pytest
from PySide6.QtCore import Qt

from tallmast.figures.all_directions import AllDirectionsPicture
from tallmast.figures.coverage import CoveragePicture
from tallmast.figures.profile import ProfilePicture
from tallmast.findings.climb import RUNGS

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def on(hands, rung):
    hands.press(str(RUNGS.index(rung) + 1))
    hands.settle()
    view = hands.window.views[rung].view
    view.setFocus()
    return view


def press(hands, view, key, held, times=1):
    for _ in range(times):
        hands._key(view, key, held)


def test_heights_and_the_place_of_the_profile(hands):
    view = on(hands, "link")
    link = hands.window.views["link"]
    if not isinstance(view.picture, ProfilePicture):
        link._turn("profile")
    assert isinstance(view.picture, ProfilePicture)
    before = view.picture.profile
    press(hands, view, Qt.Key.Key_Up, SHIFT, 4)
    press(hands, view, Qt.Key.Key_Up, CTRL, 2)
    now = view.picture.profile
    assert now.home_height_m == pytest.approx(before.home_height_m + 2.0)
    assert now.away_height_m == pytest.approx(before.away_height_m + 1.0)
    assert link.moved.isVisible() and link.keep_button.isVisible()
    press(hands, view, Qt.Key.Key_Left, SHIFT, 5)
    assert 0.8 < view.picture.profile.whole_m / before.whole_m < 0.99
    press(hands, view, Qt.Key.Key_Down, SHIFT, 300)
    assert view.picture.profile.home_height_m == 0.5, "no antenna under the ground"
    link.put_back()
    assert view.picture.profile.home_height_m == before.home_height_m


def test_the_point_that_is_read_on_the_map(hands):
    on(hands, "link")
    hands.press("m")
    hands.settle()
    view = hands.window.views["link"].view
    assert isinstance(view.picture, CoveragePicture)
    view.setFocus()
    press(hands, view, Qt.Key.Key_Up, SHIFT, 3)
    press(hands, view, Qt.Key.Key_Right, SHIFT, 2)
    east, north = view.picture.at
    reach = view.picture.coverage.reach_m
    assert (east, north) == pytest.approx((0.04 * reach, 0.06 * reach))
    shown, there = hands.window.side.working.figure, view.picture.point()
    assert (shown.name, shown.text) == (there.name, there.text)


def test_the_frequency_of_the_bench(hands):
    view = on(hands, "bench")
    before = hands.window.views["bench"].shown.bench.at_hz
    press(hands, view, Qt.Key.Key_Up, SHIFT, 3)
    hands.qtbot.waitUntil(lambda: hands.window.session.aims.at_hz is not None, timeout=5000)
    hands.settle()
    after = hands.window.session.aims.at_hz
    assert after > before
    press(hands, view, Qt.Key.Key_Down, SHIFT, 3)
    hands.qtbot.waitUntil(lambda: hands.window.session.aims.at_hz == pytest.approx(before), timeout=5000)


def test_all_directions_are_turned(hands):
    on(hands, "pattern")
    pattern = hands.window.views["pattern"]
    pattern.view.show_picture(AllDirectionsPicture(maps=()))  # as after a flight
    pattern.view.setFocus()
    press(hands, pattern.view, Qt.Key.Key_Right, SHIFT)
    turned = pattern.turned_deg
    assert turned
    press(hands, pattern.view, Qt.Key.Key_Left, SHIFT)
    assert pattern.turned_deg == pytest.approx(0.0, abs=1e-6) or pattern.turned_deg == pytest.approx(360.0, abs=1e-6)


@pytest.mark.parametrize("rung", RUNGS)
def test_tab_goes_down_the_page(hands, rung):
    hands.press(str(RUNGS.index(rung) + 1))
    hands.settle()
    view = hands.window.views[rung]
    hands.window.mast.rungs[rung].setFocus()
    rows, seen = [], set()
    for _ in range(300):
        hands._key(hands.focus, Qt.Key.Key_Tab)
        now = hands.focus
        if now in seen:
            break
        seen.add(now)
        if view.isAncestorOf(now):
            rows.append(now.mapTo(view.page, now.rect().center()).y())
    assert len(rows) > 2
    assert all(after > before - 16 for before, after in pairwise(rows)), rows
