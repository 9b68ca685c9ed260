"""A day of calls: the sheet in a few words, and the grid by single keys in the real window."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tallmast.desk.field.calls_forms import places_of
from tallmast.notebook.records import Reading
from tallmast.units.read import UnitError

HOME = {"home": (57.9, -11.2)}


@pytest.mark.parametrize(
    ("text", "named"),
    [
        ("ford 800 m, mill, gate 1.2 miles", [("ford", 800.0), ("mill", None), ("gate", 1931.2)]),
        ("2 miles; 3 miles", [("2 miles", 3218.7), ("3 miles", 4828.0)]),
        ("row 1, row 2", [("row 1", None), ("row 2", None)]),
    ],
)
def test_places_in_a_few_words(text, named):
    found = places_of(text, {})
    assert [(name, where[2] and round(where[2], 1)) for name, where in found] == named


def test_a_place_in_a_direction_from_home_has_coordinates():
    ((name, where),) = places_of("ford 800 m north", HOME, "home")
    assert name == "ford" and where[2] is None and where[0] > 57.9


@pytest.mark.parametrize("text", ["", " , ", "ford, Ford 800 m"])
def test_no_places(text):
    with pytest.raises(UnitError):
        places_of(text, {})


def test_the_grid_counts_attempts_and_says_which_cell_is_in_front(hands):
    hands.press_on("field", "c")
    hands.fill({"places": "pier, slip 300 m", "antennas": "Shed Yagi, Corkscrew", "modes": "voice"})
    hands.keep()
    live = hands.window.views["field"].live
    assert not live.isHidden() and live.procedure.said.startswith("pier · Shed Yagi, voice")
    before = len(hands.window.session.evidence.all(Reading))
    for key in ("4", "3", " ", "n"):
        hands.press(key)
    hands.settle()
    kept = hands.window.session.evidence.all(Reading)[before:]
    assert [(r.readability, r.heard) for r in kept] == [(4, True), (3, True), (None, False)]
    assert kept[0].run_id == kept[1].run_id != kept[2].run_id and len({r.place_id for r in kept}) == 1
    hands.press(Qt.Key.Key_Escape)
    hands.press("g")
    assert live.procedure.said.startswith("slip · Corkscrew, voice"), "goes on where nothing was noted yet"
    places = {p.name: p for p in hands.window.session.evidence.places}
    assert places["pier"].position is None and places["slip"].distance_m == pytest.approx(300.0)


def test_what_is_no_antenna_of_the_shelf_is_refused_and_nothing_is_lost(hands):
    hands.press_on("field", "c")
    hands.fill({"places": "pier, slip", "antennas": "Shed Yagi, Umbrella"})
    hands.press(Qt.Key.Key_Return)
    sheet = hands.window.sheet
    assert sheet is not None and "Umbrella" in sheet.fields["antennas"].echo.text()
    assert sheet.fields["places"].line.text() == "pier, slip"


def test_the_verdict_of_a_voice_notebook_shows_what_was_compared(window, qtbot, tmp_path):
    from tallmast.notebook.store import Notebook

    from .hands import Hands

    Notebook.create(tmp_path / "voice.tallmast").close()
    assert window.open_notebook(tmp_path / "voice.tallmast")
    hands = Hands(qtbot, window)
    hands.settle()
    hands.write("q", {"text": "Which?", "band": "145 MHz"}, "ask question")
    for name in ("Stub", "Long"):
        hands.write("a", {"name": name}, "add antenna")
    hands.write("c", {"places": "ford, mill, gate"}, "calls")
    for key in "2 4 5 3 3 5":
        hands.press(key)
    hands.settle()
    hands.press(Qt.Key.Key_Escape)
    hands.press("7")
    view = window.views["verdict"]
    assert view.decision_card.isVisible() and not view.card.isVisible() and not view.rank.isVisible()
    window.grab()
    assert "Stub" in view.decision.picture.words() and "Long" in view.decision.picture.words()
    assert window.session.climb.verdict.standing.words == "compared, no margin"


def test_a_mark_in_the_grid_opens_what_was_noted_there(hands):
    hands.press_on("field", "c")
    hands.fill({"places": "pier, slip 300 m", "antennas": "Shed Yagi, Corkscrew", "modes": "voice"})
    hands.keep()
    for key in "4 2 5 3":
        hands.press(key)
    hands.settle()
    hands.press(Qt.Key.Key_Escape)
    view = hands.window.views["field"]
    hands.window.grab()
    spot = next(s for s in view.calls.picture.spots if "pier" in s.label and "Corkscrew" in s.label)
    QTest.mouseClick(view.calls, Qt.MouseButton.LeftButton, pos=spot.rect.center().toPoint())
    assert hands.window.sheet is not None
    assert hands.window.sheet.fields["what"].line.text() == spot.payload.as_typed == "2 of 5"
