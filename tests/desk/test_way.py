"""The way to a place in the window: heights dropped on it, a ridge typed, antennas dragged up and down, kept or put back."""

import time

import numpy as np
import rasterio
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from rasterio.transform import from_origin

from tallmast.figures.how_far import HowFarPicture
from tallmast.figures.profile import ProfilePicture
from tallmast.findings.aims import Options
from tallmast.notebook.records import Conditions, Obstacle, Terrain


def heights_file(path, height=120.0, west=-11.4):
    values = np.full((400, 400), height, "float32")
    with rasterio.open(
        path,
        "w",
        driver="GTiff",
        width=400,
        height=400,
        count=1,
        dtype="float32",
        crs="EPSG:4326",
        transform=from_origin(west, 58.1, 0.001, 0.001),
    ) as out:
        out.write(values, 1)
        out.units = ("m",)
    return path


def on_link(hands):
    hands.press("6")
    hands.settle()
    return hands.window.views["link"]


def profile_of(view) -> ProfilePicture:
    assert isinstance(view.view.picture, ProfilePicture)
    return view.view.picture


def test_heights_dropped_on_the_window_are_kept_as_far_as_the_places_lie(hands, tmp_path):
    hands.drop(heights_file(tmp_path / "moor.tif"))
    hands.sheet_opens()
    assert "height datum" in hands.window.sheet.note.text()
    hands.keep()
    hands.settle()
    terrain = hands.window.session.evidence.all(Terrain)[-1]
    values = hands.window.session.evidence.series(terrain.series_id)["height_m"]
    assert terrain.source == "moor.tif" and np.nanmax(values) == 120.0
    profile = hands.window.session.climb.link.way.profile
    assert profile.by_raster and profile.one_m == 126.0
    hands.chord("z")
    hands.settle()
    assert terrain not in hands.window.session.evidence.all(Terrain)


def test_heights_of_elsewhere_are_told_and_nothing_is_kept(hands, tmp_path):
    before = len(hands.window.session.evidence.all(Terrain))
    hands.drop(heights_file(tmp_path / "far.tif", west=20.0))
    hands.sheet_opens()
    hands.press(Qt.Key.Key_Return)
    hands.settle()
    hands.qtbot.waitUntil(
        lambda: (
            "home is not in it" in hands.window.sheet.trouble.text()
            if hands.window.sheet
            else "home is not in it" in hands.trouble
        )
    )
    assert len(hands.window.session.evidence.all(Terrain)) == before


def test_a_ridge_typed_on_the_link_is_in_the_picture_and_the_checks(hands):
    view = on_link(hands)
    hands.press("B")
    hands.sheet_opens()
    hands.fill({"name": "the crag", "from": "2 km", "height": "60 m"})
    hands.keep()
    hands.settle()
    assert [o.name for o in hands.window.session.evidence.all(Obstacle)] == ["the crag"]
    assert "The crag" in profile_of(view).title and "into the ray" in profile_of(view).title
    assert any(t.check.text.startswith("the crag in the way") for t in view.tags.parts)


def test_woods_without_an_end_are_asked_for_it(hands):
    on_link(hands)
    hands.press("B")
    hands.sheet_opens()
    hands.fill({"what": "woods, from one edge to the other", "from": "600", "height": "12"})
    hands.press(Qt.Key.Key_Return)
    hands.settle()
    assert hands.window.sheet is not None and not hands.window.session.evidence.all(Obstacle)
    hands.fill({"to": "900"})
    hands.keep()
    assert hands.window.session.evidence.all(Obstacle)[0].to_m == 900.0


def test_air_and_ground(hands):
    on_link(hands)
    hands.press("G")
    hands.sheet_opens()
    hands.fill({"visibility": "80 m"})
    hands.keep()
    assert hands.window.session.evidence.all(Conditions)[0].visibility_m == 80.0
    hands.settle()
    assert any(t.check.text.startswith("fog takes 0.0") for t in hands.window.views["link"].tags.parts)


def test_an_antenna_dragged_up_clears_the_way_and_is_kept_or_put_back(hands):
    view = on_link(hands)
    picture = profile_of(view)
    before = picture.profile.tightest.share
    x, y = round(picture._x(0.0)), round(picture._y(picture.profile.one_m))
    QTest.mousePress(view.view, Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    QTest.mouseMove(view.view, QPoint(x, y - 60))
    QTest.mouseRelease(view.view, Qt.MouseButton.LeftButton, pos=QPoint(x, y - 60))
    hands.settle()
    assert picture.profile.home_height_m > 10 and picture.profile.tightest.share > before
    assert view.card.heading.text() == picture.title and view.moved.isVisibleTo(view)
    home = hands.window.session.climb.field.home
    assert home.height_m == 6.0, "tried is not kept"
    tried = picture.profile.home_height_m
    view.back_button.click()
    assert profile_of(view).profile.home_height_m == 6.0 and not view.moved.isVisibleTo(view)
    picture = profile_of(view)
    view.view.grab()  # painted: only then there is something to take hold of
    QTest.mousePress(view.view, Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    QTest.mouseMove(view.view, QPoint(x, y - 60))
    QTest.mouseRelease(view.view, Qt.MouseButton.LeftButton, pos=QPoint(x, y - 60))
    view.keep_button.click()
    hands.settle()
    assert hands.window.session.climb.field.home.height_m == round(tried, 1)
    assert "Quay" in hands.window.session.notebook.tape[-1].label


def test_the_far_place_dragged_nearer(hands):
    view = on_link(hands)
    picture = profile_of(view)
    x, y = round(picture._x(picture.profile.whole_m)), round(picture._y(-1.0))
    QTest.mousePress(view.view, Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    QTest.mouseMove(view.view, QPoint(x - 200, y))
    QTest.mouseRelease(view.view, Qt.MouseButton.LeftButton, pos=QPoint(x - 200, y))
    assert picture.profile.whole_m < 4500 and not view.keep_button.isVisibleTo(view)


def test_what_a_drag_works_out_takes_less_than_a_frame(hands):
    """16 ms for profile, losses and words, best of several: nothing here is a wait."""
    profile = profile_of(on_link(hands)).profile
    spent = []
    for k in range(8):
        began = time.perf_counter()
        moved = profile.moved(home_height_m=7.0 + k)
        assert moved.losses is not None and ProfilePicture(profile=moved).title
        spent.append(time.perf_counter() - began)
    assert min(spent) < 0.016


def test_the_other_picture_of_the_link(hands):
    view = on_link(hands)
    hands.press("O")
    hands.settle()
    assert not isinstance(view.view.picture, ProfilePicture)


def test_what_if_tells_every_combination_and_keeps_nothing(hands):
    view = on_link(hands)
    head = hands.window.session.notebook.tape[-1].label
    hands.press("I")
    hands.sheet_opens()
    hands.fill({"powers": "5 mW, 25 mW", "pads": "0 dB; 16 dB", "heights": "6 m, 12 m"})
    hands.keep()
    hands.settle()
    rows = hands.window.session.climb.link.how_far.rows
    assert len(rows) == 8 and {r.option.height_m for r in rows} == {6.0, 12.0}
    assert isinstance(view.view.picture, HowFarPicture)
    assert "Twice the range takes" in view.card.heading.text()
    view.view.grab()
    assert len(view.view.picture.spots) == 8
    assert hands.window.session.notebook.tape[-1].label == head
    hands.press("I")
    hands.sheet_opens()
    hands.fill({"powers": "", "pads": "", "heights": ""})
    hands.keep()
    hands.settle()
    assert isinstance(view.view.picture, ProfilePicture)


def test_a_power_that_is_none_is_asked_for_again(hands):
    on_link(hands)
    hands.press("I")
    hands.sheet_opens()
    hands.fill({"powers": "25 mW, many"})
    hands.press(Qt.Key.Key_Return)
    hands.settle()
    assert hands.window.sheet is not None and hands.window.session.aims.options == Options()


def test_another_on_the_band_is_held_against_the_wanted_signal(hands):
    view = on_link(hands)
    hands.press("N")
    hands.sheet_opens()
    hands.fill({"name": "second boat", "power": "25 mW"})
    hands.press(Qt.Key.Key_Return)
    hands.settle()
    assert hands.window.sheet is not None, "nobody said where it stands"
    hands.fill({"distance": "2 km"})
    hands.keep()
    hands.settle()
    assert any("over second boat" in t.check.text for t in view.tags.parts)
    assert view.shared.isVisibleTo(view)


def test_a_trial_wants_somebody_else_on_the_band_first(hands):
    on_link(hands)
    hands.press("k")
    assert hands.window.sheet is None and "another sender on the band first" in hands.trouble
