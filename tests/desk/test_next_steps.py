"""What a rung offers first: the step that makes sense with what there is."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from tallmast.demo import campaign
from tallmast.desk.next_steps import FIRST, WAYS, offered
from tallmast.findings.aims import Aims
from tallmast.findings.climb import RUNGS, Climb
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, FarEnd, HomeEnd, Place, Question, Run
from tallmast.notebook.store import Notebook

OWN = {
    "shelf": ("add antenna", "add claim"),
    "bench": ("analyzer", "bring in", "meter reading"),
    "levels": ("power and pads", "far end"),
    "pattern": ("bring in",),
    "field": ("run", "reading", "place"),
    "link": ("far end", "what if"),
    "verdict": ("report", "bundle"),
}
ASKED = Question(band_low_hz=868e6, band_high_hz=870e6)
A, B = Antenna(id="a", name="A"), Antenna(id="b", name="B")
HOME, ROCK = (Place(id=n, name=n, latitude_deg=57.9 + i / 100, longitude_deg=-11.0) for i, n in enumerate("hr"))
CHAIN, FAR = HomeEnd(power_w=0.01), FarEnd(sensitivity_dbm=-110.0)
RUN = Run(id="1", number=1, antenna_id="a", power_w=0.01)


@pytest.mark.parametrize(
    ("rung", "records", "first"),
    [
        ("shelf", [], "ask question"),
        ("shelf", [ASKED], "add antenna"),
        ("bench", [ASKED], "add antenna"),
        ("bench", [ASKED, A], "meter reading"),
        ("levels", [ASKED, A], "power and pads"),
        ("levels", [ASKED, A, CHAIN], "far end"),
        ("pattern", [ASKED], "add antenna"),
        ("pattern", [ASKED, A], "bring in"),
        ("field", [ASKED, A], "place"),
        ("field", [ASKED, A, HOME], "place"),
        ("field", [ASKED, A, HOME, ROCK], "run"),
        ("field", [ASKED, A, HOME, ROCK, RUN], "reading"),
        ("link", [ASKED, A], "power and pads"),
        ("link", [ASKED, A, CHAIN], "far end"),
        ("link", [ASKED, A, CHAIN, FAR], "place"),
        ("link", [ASKED, A, CHAIN, FAR, HOME, ROCK], "what if"),
        ("verdict", [], "ask question"),
        ("verdict", [ASKED, A], "add antenna"),
        ("verdict", [ASKED, A, B], "meter reading"),
    ],
)
def test_what_has_to_come_first_comes_first(rung, records, first):
    climb = Climb(Evidence({r.id: r for r in records}, {}), Aims("a"))
    found = offered(rung, OWN[rung], climb)
    assert found[0] == first
    assert len(set(found)) == len(found)
    if rung == "verdict":
        assert "report" not in found, "there is nothing to report"


def test_with_everything_there_a_rung_offers_its_own_in_its_own_order():
    evidence = campaign.evidence()[1]
    climb = Climb(evidence, Aims(evidence.antennas[0].id))
    assert set(FIRST) == set(RUNGS)
    assert offered("bench", OWN["bench"], climb) == list(OWN["bench"])
    assert offered("field", OWN["field"], climb) == list(OWN["field"])
    assert offered("verdict", OWN["verdict"], climb) == list(OWN["verdict"])
    assert offered("link", OWN["link"], climb) == ["what if", "far end"]


def test_the_buttons_follow_when_something_comes(hands, window, tmp_path):
    assert window.files.new_notebook(tmp_path / "n.tallmast")
    hands.sheet_opens()
    hands.fill({"text": "Which?", "band": "868-870 MHz"})
    hands.keep()
    hands.press("5")

    def first() -> str:
        return window.views["field"].act_row.parts[0].accessibleName()

    assert first() == "Add an antenna …"
    hands.write("a", {"name": "One"})
    hands.press("5")
    assert first() == "Place …"


def test_an_empty_rung_shows_two_or_three_ways_to_feed_it_under_its_first_step(hands, window, tmp_path):
    Notebook.create(tmp_path / "empty.tallmast").close()
    window.open_notebook(tmp_path / "empty.tallmast")
    hands.settle()
    for number, rung in enumerate(RUNGS, 1):
        hands.press(str(number))
        view = window.views[rung]
        assert view.empty.isVisible() and len(view.act_row.parts) == 1
        assert 2 <= len(WAYS[rung]) <= 3 and {act for act, _ in WAYS[rung]} <= set(window.acts)
        picture = view.empty.view.grab().toImage()
        inks = {picture.pixel(x, y) for x in range(picture.width()) for y in range(0, picture.height(), 3)}
        assert len(inks) > 2, f"the ghost of {rung} is blank"
    hands.press("1")
    lines = {b.accessibleName(): b for b in window.views["shelf"].empty.findChildren(QPushButton)}
    for (_, words), values in zip(
        WAYS["shelf"][:2], ({"text": "Which?", "band": "868 MHz"}, {"name": "One"}), strict=True
    ):
        QTest.mouseClick(lines[words], Qt.MouseButton.LeftButton)
        hands.sheet_opens()
        hands.fill(values)
        hands.keep()
    assert not window.views["shelf"].empty.isVisible() and len(window.views["shelf"].act_row.parts) > 1
    window.files.open_demo()
    hands.settle()
    for number, rung in enumerate(RUNGS, 1):
        hands.press(str(number))
        hands.settle()
        assert not window.views[rung].empty.isVisible()
