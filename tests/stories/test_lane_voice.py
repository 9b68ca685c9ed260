"""Three whips on one handheld, two modes, calls from places known by their names and distances alone; a friend at home
listens. A grid filled by single keys in the order walked."""

import numpy as np
import pytest

from tallmast.notebook.records import Place, Run
from tallmast.report.write import write

from ..findings.build import told
from . import day

SPOTS = "ford 800 m, gate 0.7 miles, mill 1 mile, bend, chapel 1.5 miles, ridge 2 miles"
LOSS_DB = {"ford": 4.0, "gate": 6.0, "mill": 8.0, "bend": 9.0, "chapel": 11.0, "ridge": 15.0}
WHIPS = {"Stub": 0.0, "Stock": 3.0, "Long": 11.0}
MODES = {"FM": 0.0, "data": 4.0}


class Lane:
    """What the friend hears: a level that each whip meets in its own way at each spot, graded by ear."""

    def __init__(self, seed: int = 2) -> None:
        self.random = np.random.default_rng(seed)
        self.own = {(whip, spot): self.random.normal(0, 1.5) for whip in WHIPS for spot in LOSS_DB}

    def grade(self, whip: str, mode: str, spot: str) -> str:
        level = 15.0 + WHIPS[whip] + MODES[mode] - LOSS_DB[spot] + self.own[whip, spot] + self.random.normal(0, 1.0)
        grade = int(np.clip(level // 4, 0, 5))
        return str(grade) if grade else "n"


def fill(hands, lane: Lane) -> int:
    """Every cell in front, one key each, and on; the keys pressed."""
    live = hands.window.views["field"].live.procedure
    strokes = 0
    for place_id, run_id in live.cells:
        place, run = hands.window.session.evidence.get(Place, place_id), hands.window.session.evidence.get(Run, run_id)
        whip = hands.window.session.evidence.antenna(run.antenna_id).name
        assert live.said.startswith(f"{place.name} · {whip}, {run.mode} · the home end listens"), (
            "what is in front is shown"
        )
        hands.press(lane.grade(whip, run.mode, place.name))
        hands.press(" ")
        strokes += 2
    hands.settle()
    return strokes


@pytest.fixture
def shelf(hands):
    hands.write("q", {"text": "Which whip for the lanes?", "band": "144-146 MHz"}, "ask question")
    for name in WHIPS:
        hands.write("a", {"name": name, "type": "whip"}, "add antenna")
    return hands


@pytest.fixture
def called(shelf):
    shelf.write("c", {"places": SPOTS, "modes": "FM, data"}, "calls")
    fill(shelf, Lane())
    return shelf


def test_which_is_heard_better_in_which_mode_and_at_how_many_spots(called, tmp_path):
    called.press("5")
    called.settle()
    assert day.alarms(called) == []
    field = called.window.session.climb.field
    first = called.sentence
    assert first.startswith("Long is heard better than ") and " of 12 spots; " in first
    pairs = told(field.contrasts, field.names)
    assert ("Long", "Stub") in pairs and ("Stub", "Long") not in pairs
    (mode,) = told(field.contrasts, field.names, "mode").values()
    assert mode.change.to == "data" and mode.chance > 0.95
    called.press("7")
    called.settle()
    assert called.sentence == first, "Field and Verdict say the same"
    write(called.window.session.climb, tmp_path / "report.html")
    text = (tmp_path / "report.html").read_text()
    assert "Long against Stub" in text and "readability: better at " in text


def test_nothing_that_was_called_is_lost(called):
    kept = called.window.session.evidence
    assert sum(len(kept.readings(run.id)) for run in kept.runs) == len(WHIPS) * len(MODES) * len(LOSS_DB)
    calls = called.window.session.climb.field.calls
    assert [place.name for place, _ in calls.places] == ["ford", "gate", "mill", "chapel", "ridge", "bend"]
    assert len(calls.cells) == len(WHIPS) * len(MODES) * len(LOSS_DB)
    assert not [c for c in called.window.session.climb.field.checks if "always came" in c.text], "the grid swaps"


def test_a_grid_of_three_places_two_whips_and_two_modes_takes_sixty_keys(hands):
    """From an empty notebook with its antennas on the shelf."""
    hands.write("q", {"text": "Which whip for the lanes?", "band": "144-146 MHz"}, "ask question")
    for name in ("Stub", "Long"):
        hands.write("a", {"name": name, "type": "whip"}, "add antenna")
    places, modes = "ford, mill, gate", "FM, data"
    strokes = 0
    for key in ("5", "c"):
        hands.press(key)
        strokes += 1
    hands.fill({"places": places, "modes": modes})
    strokes += len(places) + len(modes) + 2  # Tab twice, past the antennas
    hands.keep()
    strokes += 1
    strokes += fill(hands, Lane())
    assert strokes <= 60
    field = hands.window.session.climb.field
    assert field.sentence.startswith("Long is heard better than Stub at 6 of 6 spots")


def test_an_order_that_was_never_swapped_is_named(shelf):
    """Caught: each whip in turn all along the lane, always the stub first."""
    evidence = shelf.window.session.evidence
    for _ in range(2):
        for whip in ("Stub", "Long"):
            shelf.write("r", {"antenna": whip, "power": ""}, "run")
            for spot in ("ford", "mill"):
                if spot not in [p.name for p in shelf.window.session.evidence.places]:
                    shelf.write("l", {"name": spot}, "place")
                shelf.write("n", {"what": "4" if whip == "Long" else "3", "place": spot}, "reading")
    assert evidence is not shelf.window.session.evidence
    assert "Stub always came before Long" in [c.text for c in shelf.window.session.climb.field.checks]


def test_worked_at_three_miles_is_at_least(shelf):
    shelf.write("r", {"antenna": "Long", "power": ""}, "run")
    shelf.write("l", {"name": "quarry", "position": "3 miles"}, "place")
    shelf.write("n", {"what": "R4 S5", "place": "quarry"}, "reading")
    shelf.press("5")
    assert "at least 4.83 km" in shelf.sentence
    said = shelf.sentence
    shelf.press("7")
    assert shelf.sentence == said, "what was noted is never nothing"
