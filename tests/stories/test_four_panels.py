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


def fly(hands):
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
            for name in (good, lost):
                if name not in there:
                    hands.write("l", {"name": name, "position": name}, "place")
            there |= {good, lost}
            day.run(hands, {good: "h", lost: "n"}, antenna=panel, day=when, power="1 mW")


@pytest.fixture
def flown(hands, tmp_path):
    day.once(hands, tmp_path, fly)
    return hands


def test_days_are_blocks_and_the_panels_ranked_with_ties(flown, tmp_path):
    field = flown.window.session.climb.field
    reached = told(field.contrasts, field.names)
    assert ("Square", "Bargain") in reached and not reached["Square", "Bargain"].open
    low, high = (10 * 2.8 * np.log10(edge) for edge in reached["Square", "Bargain"].farther.interval)
    assert low < GAIN["Square"] - GAIN["Bargain"] < high, "the gain by two days is inside its interval"
    pair = next(c for both, c in reached.items() if set(both) == {"Slab", "Slim"})
    assert pair.open, "near ties are ties"
    assert not reached.keys() & {("Bargain", "Square"), ("Bargain", "Slab")}
    (when,) = told(field.contrasts, field.names, "day").values()
    assert when.change.to == "open", "the wooded day is told, and is not the panels'"
    sentence = day.verdict(flown)
    assert "Square" in sentence and "times as far" in sentence
    detail = flown.window.views["verdict"].detail.text()
    assert detail.startswith("In order: Square, ") and "Bargain" in detail.split(".")[0].rpartition(",")[2]
    assert "It stands for " in flown.window.session.climb.field.detail
    assert "Square against Bargain" in day.report(flown, tmp_path)


def test_range_claims_at_full_power_are_judged_by_how_far_each_was_heard(flown):
    """Heard with 1 mW on the open day; the claims are at 25 mW: 14 dB more, for n from 2 to 4."""
    for panel, far in (("Bargain", "4 km"), ("Square", "150 m"), ("Slab", "400 m")):
        claim = {"antenna": panel, "quantity": "range", "value": far, "at_power": "25 mW"}
        flown.write("c", claim, "add claim")
    fates = {(f.antenna.name, f.claim.quantity): f for f in flown.window.session.climb.verdict.claims}
    square, bargain, slab = (fates[panel, "range"] for panel in ("Square", "Bargain", "Slab"))
    assert (square.mark, bargain.mark, slab.mark) == ("holds", "fails", "open")
    true_m = DAYS["open"][0] * 10 ** ((GAIN["Bargain"] - 8.0 + 14.0) / (10 * DAYS["open"][1]))
    low, high = bargain.figure.interval
    assert low * 1e3 < true_m < high * 1e3 < 4000
    assert "at 25 mW" in bargain.why and "4 km claimed" in bargain.why


def test_two_ports_are_tried_for_equality(hands):
    random = np.random.default_rng(12)
    day.ask(hands, "Are the two ports alike?", "5700-5900 MHz", ("Slab",))
    spots = {f"Post {k}": f"{40 + 25 * k} m" for k in range(6)}
    day.places(hands, spots)
    for port in ("A", "B", "B", "A"):
        noted = {spot: f"{-60 - 4 * k + random.normal(0, 0.4):.0f} dBm" for k, spot in enumerate(spots)}
        day.run(hands, noted, antenna="Slab", other=f"port: {port}")
    (ports,) = [c for c in hands.window.session.climb.field.contrasts if c.change.factor == "port"]
    assert ports.open and ports.within_db < 2.0
    assert "port" in day.verdict(hands) and "alike within" in hands.sentence


def test_mounted_the_wrong_way_round_is_seen_by_one_turn(hands):
    """Caught: turned by a quarter it is far better, so it was mounted wrongly."""
    random = np.random.default_rng(13)
    day.ask(hands, "Which way up?", "5700-5900 MHz", ("Slab",))
    day.places(hands, {f"Post {k}": f"{40 + 25 * k} m" for k in range(6)})
    for branches, gain in (("Slab", 0.0), ("Slab, turned 90°", 15.0), ("Slab, turned 90°", 15.0), ("Slab", 0.0)):
        noted = {f"Post {k}": f"{-85 + gain - 2 * k + random.normal(0, 1.0):.0f} dBm" for k in range(6)}
        day.run(hands, noted, antenna="Slab", branches=branches.replace("°", ""))
    (turn,) = [c for c in hands.window.session.climb.field.contrasts if c.change.factor == "pose"][:1]
    assert {turn.change.to, turn.change.since} == {"on", "turned 90°"}
    assert day.verdict(hands).startswith("Pose turned 90° is better than pose on by 1")


def test_value_for_money_is_said(flown):
    """Square reaches farther than Slim, which comes next, and is dearer by 25."""
    day.verdict(flown)
    detail = flown.window.views["verdict"].detail.text()
    assert "Square costs 25 more than Slim." in detail, detail
