"""A craft to a turning point and back: better antennas, then power and rate both changed, then the battery moved."""

import pytest

from ..findings.build import told
from . import day

LEGS = {"out": "300 m", "turn": "600 m", "back": "310 m"}


@pytest.fixture
def flown(hands):
    day.ask(hands, "What helps the craft?", "868 MHz", ("Stock", "Better"), asks="which change helps")
    day.places(hands, LEGS)
    for factors, bars in (
        ({"antenna": "Stock", "power": "100 mW", "rate": "250 Hz", "battery": "above"}, (4, 2, 4)),
        ({"antenna": "Better", "power": "100 mW", "rate": "250 Hz", "battery": "above"}, (6, 4, 6)),
        ({"antenna": "Better", "power": "25 mW", "rate": "50 Hz", "battery": "above"}, (6, 4, 6)),
        ({"antenna": "Better", "power": "25 mW", "rate": "50 Hz", "battery": "below"}, (6, 4, 3)),
        ({"antenna": "Stock", "power": "100 mW", "rate": "250 Hz", "battery": "above"}, (4, 2, 4)),
    ):
        day.run(hands, dict(zip(LEGS, (f"{b} bars" for b in bars), strict=True)), **factors)
    return hands


def test_each_step_is_told_against_the_one_before(flown):
    field = flown.window.session.climb.field
    assert ("Better", "Stock") in told(field.own, field.names)
    (battery,) = told(field.own, field.names, "battery").values()
    assert battery.change.to == "above", "below it blocks on the way back"
    sentence = day.verdict(flown)
    assert sentence.startswith("Better shows more bars than Stock at the same spot")
    assert "battery" in flown.window.views["verdict"].detail.text()


def test_two_changes_at_once_are_told_as_one_with_the_run_that_would_part_them(flown, tmp_path):
    """Caught: two changes at once."""
    field = flown.window.session.climb.field
    both = next(c for c in field.own if {x.factor for x in c.changes} == {"power", "rate"})
    assert both.alike, "less power did no harm"
    assert any(t.endswith("power and rate told as one") for t in day.checks(flown))
    why = next(c.why for c in field.checks if c.text.endswith("power and rate told as one"))
    # Which of the two is named first goes by which came out ahead; either run would do.
    assert "would part them" in why
    assert any(run in why for run in ("power 25 mW and rate 250 Hz", "power 100 mW and rate 50 Hz"))
    assert "told as one: power and rate" in day.report(flown, tmp_path)
