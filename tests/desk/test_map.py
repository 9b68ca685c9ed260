"""The map of where an antenna reaches in the window: by one key, growing, stopped and gone on with, pointed at, wider, kept as a file."""

import json

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from tallmast.figures.coverage import CoveragePicture
from tallmast.findings.aims import Options


def shown(hands) -> CoveragePicture:
    picture = hands.window.views["link"].view.picture
    assert isinstance(picture, CoveragePicture)
    return picture


def on_map(hands, qtbot):
    hands.press("6")
    hands.settle()
    hands.press("m")
    view = hands.window.views["link"]
    qtbot.waitUntil(lambda: not view.covering.going and view.covering.coverage is not None, timeout=60_000)
    hands.settle()
    return view


def test_it_grows_until_all_of_it_is_fine(hands, qtbot):
    states = []
    view = hands.window.views["link"]
    view.covering.grown.connect(lambda: states.append(shown(hands).coverage.done))
    on_map(hands, qtbot)
    assert states[0] == 0.0 and states[-1] == 1.0 and len(states) >= 9
    assert "reaches" in shown(hands).title and "%" in shown(hands).title
    assert not view.stop_button.isVisible() and not view.again_button.isVisible()
    name = hands.window.session.climb.field.wanted.name
    margin = shown(hands).cover.margin.figure
    assert f"margin at {name} {margin.text}" in shown(hands).words()


def test_stopped_it_stays_and_goes_on(hands, qtbot):
    hands.press("6")
    hands.settle()
    hands.press("m")
    view = hands.window.views["link"]
    qtbot.waitUntil(lambda: view.covering.coverage is not None, timeout=60_000)
    hands.window.tape.stop.click()
    assert view.covering.stopped and view.again_button.isVisible()
    done = shown(hands).coverage.done
    hands.settle()
    assert shown(hands).coverage.done == done < 1.0
    QTest.mouseClick(view.again_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not view.covering.going, timeout=60_000)
    assert shown(hands).coverage.done == 1.0


def test_pointed_at_it_says_how_far_and_what_is_left_there(hands, qtbot):
    view = on_map(hands, qtbot)
    picture = shown(hands)
    centre = picture._map.center().toPoint()
    QTest.mouseClick(view.view, Qt.MouseButton.LeftButton, pos=centre + QPoint(60, -40))
    figure = picture.point()
    assert figure is not None and picture.at[0] > 0 and picture.at[1] > 0
    assert hands.window.side.working.figure.text == figure.text


def test_wider_and_closer(hands, qtbot):
    view = on_map(hands, qtbot)
    reach = shown(hands).coverage.reach_m
    hands.press("-")
    qtbot.waitUntil(lambda: not view.covering.going, timeout=60_000)
    assert shown(hands).coverage.reach_m > 1.5 * reach
    hands.press("+")
    qtbot.waitUntil(lambda: not view.covering.going, timeout=60_000)
    assert abs(shown(hands).coverage.reach_m - reach) < 1.0


def test_what_is_tried_stands_on_it_as_rings(hands, qtbot):
    on_map(hands, qtbot)
    assert shown(hands).rings == ()
    hands.window.session.aim(options=Options((0.01, 0.1)))
    hands.settle()
    assert [words for words, _ in shown(hands).rings] == ["10 mW", "100 mW"]
    near, far = (metres for _, metres in shown(hands).rings)
    assert near < far


def test_kept_for_another_program(hands, qtbot, tmp_path):
    view = on_map(hands, qtbot)
    view.save_map(tmp_path / "map.geojson")
    hands.settle()
    assert json.loads((tmp_path / "map.geojson").read_text())["features"]
    view.save_map(tmp_path / "nowhere" / "map.tif")
    hands.settle()
    assert "map.tif" in hands.trouble


def test_another_notebook_forgets_it(hands, qtbot, tmp_path):
    view = on_map(hands, qtbot)
    hands.window.files.new_notebook(tmp_path / "other.tallmast")
    hands.settle()
    assert view.covering.cover is None and view.covering.coverage is None


def test_over_another_on_the_band_and_round(hands, qtbot):
    view = on_map(hands, qtbot)
    hands.press("c")
    assert "Note another sender" in hands.trouble
    hands.write("n", {"name": "the trawler", "distance": "900 m", "power": "25 mW"}, "neighbour")
    hands.press(Qt.Key.Key_Escape)
    hands.settle()
    hands.press_on("link", "c")
    qtbot.waitUntil(lambda: not view.covering.going and view.covering.over is not None, timeout=60_000)
    assert "over the trawler" in shown(hands).title and "enough over" in shown(hands).title
    for _ in range(len(hands.window.session.climb.link.over)):
        hands.press("c")
    qtbot.waitUntil(lambda: not view.covering.going and view.covering.over is None, timeout=60_000)
    assert "reaches" in shown(hands).title


def test_a_change_of_look_while_it_grows_loses_none_of_it(hands, qtbot):
    """The look keys pressed again and again: no error, and the map is fine in the end, as far as a person asked."""
    hands.press("6")
    hands.settle()
    hands.press("m")
    for look in ("Night", "Sun", "Day", "Night", "Sun", "Day"):
        covering = hands.window.views["link"].covering
        qtbot.waitUntil(lambda covering=covering: covering.coverage is not None, timeout=60_000)
        hands.window.dress_as(look)
    view = hands.window.views["link"]
    qtbot.waitUntil(lambda: not view.covering.going and view.covering.coverage is not None, timeout=60_000)
    hands.settle()
    assert view.covering.coverage.done == 1.0 and shown(hands).coverage.done == 1.0
    assert hands.trouble == ""
