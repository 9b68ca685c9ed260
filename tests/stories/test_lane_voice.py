"""Three whips on one handheld, calls from six spots known by distance; a friend at home says how well. Single keys only."""

import numpy as np
import pytest

from tallmast.report.write import write

from ..findings.build import told

SPOTS = {
    "ford": "800 m north",
    "gate": "0.7 miles at 20°",
    "mill": "1 mile north-east",
    "bend": "1.2 miles NNE",
    "chapel": "1.5 miles N",
    "ridge": "2 miles north",
}
LOSS_DB = {"ford": 4.0, "gate": 6.0, "mill": 8.0, "bend": 9.0, "chapel": 11.0, "ridge": 15.0}
WHIPS = {"Stub": 0.0, "Stock": 3.0, "Long": 11.0}
ORDER = ("Stub", "Stock", "Long", "Long", "Stock", "Stub")


@pytest.fixture
def called(hands):
    hands.write("q", {"text": "Which whip for the lanes?", "band": "144-146 MHz"}, "ask question")
    for name in WHIPS:
        hands.write("a", {"name": name, "type": "whip"}, "add antenna")
    hands.write("l", {"name": "Home", "position": "57.9, -11.2"}, "place")
    for name, where in SPOTS.items():
        hands.write("l", {"name": name, "position": where, "part": "on the way"}, "place")
    random = np.random.default_rng(2)
    strokes = 0
    for whip in ORDER:
        hands.write("r", {"antenna": whip, "power": "1 W", "pad": "0"}, "run")
        hands.press("g")
        for spot in SPOTS:
            level = 19.0 + WHIPS[whip] - LOSS_DB[spot] + random.normal(0, 2.0)
            grade = int(np.clip(level // 4, 0, 5))
            hands.press(str(grade) if grade else "n")
            hands.press(" ")
            strokes += 2
    hands.settle()
    assert strokes == 2 * len(ORDER) * len(SPOTS), "two keys a call"
    return hands


def test_which_is_heard_better_by_the_chance_at_the_same_spot(called, tmp_path):
    called.press("5")
    called.settle()
    field = called.window.session.climb.field
    first = called.sentence
    assert first.startswith("Long is heard better than ") and "at the same spot" in first
    pairs = told(field.own, field.names)
    assert ("Long", "Stub") in pairs and ("Stub", "Long") not in pairs
    called.press("7")
    called.settle()
    assert called.sentence == first, "Field and Verdict say the same"
    write(called.window.session.climb, tmp_path / "report.html")
    text = (tmp_path / "report.html").read_text()
    assert "Long against Stub" in text and "readability, chance of better" in text


def test_nothing_that_was_called_is_lost(called):
    kept = called.window.session.evidence
    assert sum(len(kept.readings(run.id)) for run in kept.runs) == len(ORDER) * len(SPOTS)
    reports = called.window.session.climb.field.reports
    assert len(reports) == len(ORDER) * len(SPOTS)
