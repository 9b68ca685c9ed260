"""Four panels against their claims on a moving craft with little power, out until the picture breaks, on a day behind trees
and a day in the open."""

import numpy as np
import pytest

from ..findings.build import told
from . import day

GAIN = {"Slab": 8.0, "Slim": 8.2, "Square": 11.0, "Bargain": 5.0}
CLAIM = {"Slab": "8 dBi", "Square": "14 dBi", "Bargain": "12 dBi"}
PRICES = {"Slab": {"price": "40"}, "Slim": {"price": "35"}, "Square": {"price": "60"}, "Bargain": {"price": "15"}}
DAYS = {"trees": (40.0, 3.2), "open": (100.0, 2.4)}
STEP = 1.12


def broke_at(random, panel: str, when: str) -> float:
    reach, n = DAYS[when]
    return reach * 10 ** ((GAIN[panel] - 8.0 + random.normal(0, 1.0)) / (10 * n))


@pytest.fixture
def flown(hands):
    random = np.random.default_rng(11)
    day.ask(hands, "Which panel for the meadow?", "5700-5900 MHz", PRICES)
    for panel, claim in CLAIM.items():
        hands.write("c", {"antenna": panel, "quantity": "gain", "value": claim}, "add claim")
    there: set[str] = set()
    orders = {"trees": ("Slab", "Slim", "Square", "Bargain"), "open": ("Bargain", "Square", "Slim", "Slab")}
    for when, order in orders.items():
        for panel in (*order, *order[::-1]):
            step = int(np.floor(np.log(broke_at(random, panel, when)) / np.log(STEP)))
            good, lost = (f"{STEP**k:.0f} m" for k in (step, step + 1))
            for name in {good, lost} - there:
                hands.write("l", {"name": name, "position": name}, "place")
            there |= {good, lost}
            day.run(hands, {good: "h", lost: "n"}, antenna=panel, day=when, power="1 mW")
    return hands


def test_days_are_blocks_and_the_panels_ranked_with_ties(flown, tmp_path):
    field = flown.window.session.climb.field
    reached = told(field.reached, field.names)
    assert ("Square", "Bargain") in reached and not reached["Square", "Bargain"].alike
    pair = next(c for both, c in reached.items() if set(both) == {"Slab", "Slim"})
    assert pair.alike, "near ties are ties"
    assert not told(field.reached, field.names).keys() & {("Bargain", "Square"), ("Bargain", "Slab")}
    (when,) = told(field.reached, field.names, "day").values()
    assert when.change.to == "open", "the wooded day is told, and is not the panels'"
    sentence = day.verdict(flown)
    assert "Square" in sentence and "times as far" in sentence
    detail = flown.window.views["verdict"].detail.text()
    assert detail.startswith("In order: Square, ") and "Bargain" in detail.split(".")[0].rpartition(",")[2]
    assert "dB in free space (n = 2)" in flown.window.session.climb.field.detail
    assert "Square against Bargain" in day.report(flown, tmp_path)


def test_a_gain_by_two_days_is_inside_its_interval(flown):
    field = flown.window.session.climb.field
    one = told(field.reached, field.names)["Square", "Bargain"]
    low, high = (10 * 2.8 * np.log10(edge) for edge in one.figure.interval)
    assert low < GAIN["Square"] - GAIN["Bargain"] < high
