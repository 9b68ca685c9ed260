"""Stock, dear and cheap long antennas at the sender; bit rate and delay at one frozen spot behind a hill."""

import numpy as np
import pytest

from tallmast.notebook.entry import Entry

from ..findings.build import told
from . import day

RATE = {"Stock": 18.0, "Dear": 31.0, "Cheap": 30.6}
DELAY = {"Stock": 46.0, "Dear": 28.0, "Cheap": 28.5}
PRICES = {"Stock": {"price": "0"}, "Dear": {"price": "90"}, "Cheap": {"price": "25"}}
ORDER = ("Stock", "Dear", "Cheap", "Cheap", "Dear", "Stock", "Stock", "Dear", "Cheap", "Cheap", "Dear", "Stock")


def fly(hands):
    random = np.random.default_rng(8)
    day.ask(hands, "Which long antenna at the sender?", "2400-2480 MHz", PRICES, asks="which is the better")
    day.places(hands, {"Behind the hill": ""})
    for antenna in ORDER:
        shift = random.normal(0, 1.0)
        rates = ", ".join(f"{RATE[antenna] + shift + random.normal(0, 1.0):.0f}" for _ in range(3))
        delay = f"{DELAY[antenna] - 0.7 * shift + random.normal(0, 1.0):.0f} ms"
        day.run(hands, {"Behind the hill": f"{rates}, {delay}"}, antenna=antenna, read_on="Mbit/s")


@pytest.fixture
def flown(hands, tmp_path):
    day.once(hands, tmp_path, fly)
    return hands


def test_both_long_ones_beat_the_stock_one_and_are_alike(flown, tmp_path):
    assert day.alarms(flown) == []
    field = flown.window.session.climb.field
    by_rate = told(field.contrasts, field.names)
    for better in ("Dear", "Cheap"):
        one = by_rate[better, "Stock"]
        low, high = one.size.interval
        assert one.alone == "Behind the hill" and not one.alike
        assert low < RATE[better] - RATE["Stock"] < high
    pair = next(c for both, c in by_rate.items() if set(both) == {"Dear", "Cheap"})
    assert pair.alike
    low, high = pair.size.interval
    assert max(abs(low), abs(high)) < 5.0, "alike within a few Mbit/s"
    delay = dict(by_rate["Cheap", "Stock"].by_kind)["delay"]
    assert delay.value > 0.0, "less is better"
    assert day.verdict(flown).startswith("At Behind the hill, ")
    assert "take Cheap" in flown.window.views["verdict"].detail.text(), "buy the cheap one"
    text = day.report(flown, tmp_path)
    assert "Cheap against Stock" in text and "31 Mbit/s" in text


def test_what_was_typed_is_kept_as_the_run_says_it_is_read(flown):
    readings = flown.window.session.evidence.readings(flown.window.session.evidence.runs[0].id)
    assert [r.scale for r in readings] == ["bit rate"] * 3 + ["delay"]
    assert all(r.as_typed.endswith(("Mbit/s", "ms")) for r in readings)


def test_which_end_first_and_why_it_is_the_same_decibel(flown):
    """On the Link: a better antenna lifts both ways, at whichever end; the dear one and the cheap one are alike there too."""
    (place,) = flown.window.session.evidence.places
    flown.window.session.write(Entry("paced off since", [place.revised(distance_m=900.0)]))
    flown.write("q", {"wanted_place": "Behind the hill"}, "ask question")
    flown.write("p", {"power": "100 mW", "full_power": "100 mW", "sensitivity": "-95 dBm"}, "power and pads")
    flown.write("e", {"name": "craft", "sensitivity": "-95 dBm", "power": "25 mW", "gain": "2 dBi"}, "far end")
    link = flown.window.session.climb.link
    assert "The way back has 6.0 dB less: −6.0 dB by the power sent" in link.detail
    assert "an antenna or less cable lifts both alike, whichever end it is at" in link.detail
    ends = {one.end for one in link.worth}
    assert "home" in ends and any("power" in one.what for one in link.worth)
