"""Drive away from home; both ends report S and readability at landmarks. Powers differ, one stretch is noisy, and a station far
over the sea comes in too."""

import numpy as np
import pytest

from tallmast.notebook.entry import Entry
from tallmast.physics.resonance import series_gamma

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


def test_an_swr_of_1_6_on_this_channel_and_by_how_much_to_retune(hands, tmp_path):
    """Caught: the whip is tuned low. The sweep says where it is best, the advice by how much to shorten it."""
    f = np.linspace(25.5e6, 28.5e6, 301)
    rows = "\n".join(
        f"{a:.0f} {g.real:.6f} {g.imag:.6f}" for a, g in zip(f, series_gamma(f, 26.75e6, 48.0, 14.0), strict=True)
    )
    (tmp_path / "whip.s1p").write_text(f"# Hz S RI R 50\n{rows}\n")
    day.ask(hands, "How far does the car reach?", "26.9-27.5 MHz", {"Mast whip": {"type": "whip", "length": "2.6 m"}})
    hands.write("m", {"antenna": "Mast whip", "frequency": "27.2 MHz", "swr": "1.6"}, "meter reading")
    hands.drop(tmp_path / "whip.s1p")
    hands.sheet_opens()
    hands.keep()
    focus = hands.window.session.climb.bench.focus
    assert focus.sweep.resonance.value == pytest.approx(26.75, abs=0.02)
    assert "meter agrees" in " ".join(day.checks(hands, "bench"))
    assert focus.trim.interval[0] < 2600 * 0.45 / 27.2 < focus.trim.interval[1], "mm, by the formula"
    hands.press("2")
    assert hands.sentence.startswith("Mast whip resonates 0.45 ± 0.0"), "digits by its ±"
    assert "trim 4" in hands.window.views["bench"].detail.text()


def test_the_link_says_which_way_ends_first_and_by_what(driven):
    """4 W there, 1 W back: 6 dB; and where noise at the car rules, more power at the car does nothing for what it hears."""
    driven.write("p", {"power": "4 W", "full_power": "4 W", "sensitivity": "-110 dBm"}, "power and pads")
    driven.write("q", {"wanted_place": "Fork"}, "ask question")
    link = driven.window.session.climb.link
    assert "−6.0 dB by the power sent" in link.detail and "The way back ends first" in link.detail
    assert "more power at car" in link.detail
    place = next(p for p in driven.window.session.evidence.places if p.name == "Fork")
    driven.window.session.write(Entry("noise at Fork", [place.revised(noise_dbm=-92.0)]))
    driven.settle()
    link = driven.window.session.climb.link
    assert "by noise" in link.detail and "noise at car rules it" in link.detail
    assert any(text.startswith("noise at car takes 28 dB") for text in day.checks(driven, "link"))
