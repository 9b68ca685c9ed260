"""A jumping field meter before and behind a controller, its reflector off, on, off: what does the reflector do?"""

import numpy as np
import pytest

from tallmast.report.write import write

FRONT_DB, BEHIND_DB = 3.2, -4.1


def jumping(random, before: float, gain_db: float, turns: str) -> str:
    """What a meter of power density shows in µW/cm² while it jumps by a tenth, four readings a turn."""
    spells = []
    for turn in turns.split():
        level = before * (10 ** (gain_db / 10) if turn == "on" else 1.0)
        readings = level * random.normal(1.0, 0.08, 4)
        spells.append(f"{turn} " + " ".join(f"{r:.1f}" for r in readings))
    return "; ".join(spells)


@pytest.fixture
def random():
    return np.random.default_rng(3)


def test_front_gains_and_behind_loses_in_one_sentence_and_in_the_report(hands, random, tmp_path):
    for what, level, true in (("in front", 41.0, FRONT_DB), ("behind", 30.0, BEHIND_DB)):
        values = {"what": what, "spells": jumping(random, level, true, "off on off on off"), "unit": "µW/cm²"}
        hands.write("y", values, "comparison")
    hands.press("7")
    front, behind = hands.sentence.split("; ")
    assert front.startswith("In front: on over off ") and behind.startswith("behind: on over off −")
    found = {c.comparison.what: c.difference for c in hands.window.session.climb.compared}
    for what, true in (("in front", FRONT_DB), ("behind", BEHIND_DB)):
        low, high = found[what].interval
        assert low < true < high and high - low < 2.5
    write(hands.window.session.climb, tmp_path / "report.html")
    report = (tmp_path / "report.html").read_text()
    assert hands.sentence.split(";")[0] in report and "behind" in report


def test_a_meter_of_unknown_unit_is_told_both_ways(hands, random):
    """Caught: four times the reading is 6 dB, or 12 if it shows a field."""
    hands.write(
        "y", {"what": "in front", "spells": jumping(random, 41.0, 6.0, "off on off"), "unit": "not known"}, "comparison"
    )
    hands.press("7")
    low, high = hands.window.session.climb.verdict.headline.interval
    assert low < 6.0 and high > 11.0
    assert "unit not known" in hands.window.views["verdict"].detail.text()


def test_taking_the_reflector_off_once_more_is_what_shows_the_drift(hands):
    """Caught: off, on and never off again says nothing of a battery that runs down."""
    hands.write("y", {"what": "in front", "spells": "off 40 41; on 80 82", "unit": "µW/cm²"}, "comparison")
    hands.press("3")
    words = " ".join(c.drift_words for c in hands.window.session.climb.compared)
    assert words == "not told: return to the first"
