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
    assert ("Better", "Stock") in told(field.contrasts, field.names)
    (battery,) = told(field.contrasts, field.names, "battery").values()
    assert battery.change.to == "above", "below it blocks on the way back"
    sentence = day.verdict(flown)
    assert sentence.startswith("Better is better than Stock by "), "in decibels: a known step says what a bar is worth"
    assert "battery" in flown.window.views["verdict"].detail.text()


def test_a_known_step_of_power_is_taken_out_of_what_changed_with_it(flown, tmp_path):
    """Caught: two changes at once. A quarter of the power shows as many bars: the slower rate made up for 6 dB, and power is known."""
    field = flown.window.session.climb.field
    (rate,) = told(field.contrasts, field.names, "rate").values()
    assert (rate.change.to, len(rate.changes)) == ("50 Hz", 1)
    low, high = rate.figure.interval
    assert rate.chance > 0.8 and low < 6.0 < high
    assert not told(field.contrasts, field.names, "power"), "a known step is no question"
    assert "run 3: three things changed" in day.checks(flown), "and all the same it is said"
    assert "rate 50 Hz against rate 250 Hz" in day.report(flown, tmp_path)
