"""Drive away from home; both ends report S and readability at landmarks. Powers differ, one stretch is noisy, and a station far
over the sea comes in too."""

import pytest

from . import day

LANDMARKS = {"Chapel": "1 mile", "Bridge": "2 miles", "Mill": "3.5 miles", "Pass": "5 miles", "Fork": "7 miles"}
AWAY = {"Chapel": "59", "Bridge": "58", "Mill": "27", "Pass": "26", "Fork": "55"}
HOME = {"Chapel": "58", "Bridge": "57", "Mill": "56", "Pass": "55", "Fork": "54"}


@pytest.fixture
def driven(hands):
    day.ask(hands, "How far does the car reach?", "26.9-27.5 MHz", ("Mast whip",))
    day.places(hands, LANDMARKS)
    hands.write("e", {"name": "car", "sensitivity": "-110 dBm", "power": "1 W"}, "far end")
    day.run(hands, AWAY, antenna="Mast whip", manner="drive", power="4 W", ended="the field ended")
    for place, said in HOME.items():
        hands.write("n", {"what": said, "place": place, "end": "home"}, "reading")
    return hands


def test_the_asymmetry_is_the_powers_and_the_noise_has_its_place(driven, tmp_path):
    told = day.checks(driven)
    assert day.alarms(driven) == []
    assert any(t.startswith("the far end hears ") and "the powers make +6 dB" in t for t in told)
    assert "noise at the far end, at Mill and Pass" in told, "between two landmarks"
    field = driven.window.session.climb.field
    low, high = field.ends.difference.interval
    assert low < 6.0 < high
    assert field.reaches[0].furthest.bound == "at least" and field.reaches[0].furthest.value == pytest.approx(
        11_265, abs=5
    )
    assert day.verdict(driven).startswith("Mast whip was heard to at least ")
    detail = driven.window.views["verdict"].detail.text()
    assert "the powers make +6 dB" in detail and "noise at the far end, at Mill and Pass" in detail
    text = day.report(driven, tmp_path)
    assert "noise at the far end, at Mill and Pass" in text and "Fork" in text


def test_a_contact_over_the_sky_is_kept_apart(driven):
    driven.write("l", {"name": "Far island", "position": "1400 km"}, "place")
    driven.write("n", {"what": "57", "place": "Far island", "end": "far end"}, "reading")
    assert any(t.startswith("Far island") and t.endswith("over the sky, kept apart") for t in day.checks(driven))
    assert driven.window.session.climb.field.reaches[0].furthest.value < 12_000
