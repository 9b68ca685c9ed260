"""Two senders near in frequency, opposite senses: one flies out until the other breaks its picture, antennas swapped, repeated, and once on the
same channel."""

import numpy as np
import pytest

from tallmast.notebook.entry import Entry
from tallmast.notebook.records import Trial

from . import day

HZ = 5.8e9
POWER_DBM, GAIN = 14.0, 1.5
NEEDED = 8.0
OTHER_M = 40.0
FILTER = 12.0
REFLECTED = -18.0


def isolation(ratio_one: float, ratio_other: float) -> float:
    """Two ellipses of opposite sense, the mean power over their tilts, and what a reflection turns over."""
    a, b = 10 ** (ratio_one / 20), 10 ** (ratio_other / 20)
    tilt = np.linspace(0, np.pi, 181)
    share = 0.5 + (-4 * a * b + (a * a - 1) * (b * b - 1) * np.cos(2 * tilt)) / (2 * (a * a + 1) * (b * b + 1))
    return -10 * np.log10(float(np.mean(np.maximum(share, 0))) + 10 ** (REFLECTED / 10))


def breaks_at(parted: float, filtered: float) -> float:
    """The truth: both as strong, the other OTHER_M off; the wanted one falls by 6 dB a doubling."""
    return OTHER_M * 10 ** ((parted + filtered - NEEDED) / 20)


def noted(random, true: float, n: int) -> str:
    return ", ".join(f"{true * 10 ** (random.normal(0, 1.5) / 20):.0f} m" for _ in range(n))


def fly(hands):
    random = np.random.default_rng(20)
    antennas = {
        "Clover": {"polarization": "left circular", "axial_ratio": "1 dB", "known_gain": "1.5 dBi"},
        "Loose clover": {"polarization": "left circular", "axial_ratio": "5 dB", "known_gain": "1.5 dBi"},
        "Stick": {"polarization": "vertical", "known_gain": "1.5 dBi"},
    }
    day.ask(hands, "How near may the other one fly?", "5.7-5.9 GHz", antennas)
    day.places(hands, {"Gate": "800 m"})
    hands.write("q", {"wanted_place": "Gate"}, "ask question")
    hands.write("p", {"power": "25 mW", "sensitivity": "-90 dBm"}, "power and pads")
    far = {"name": "craft", "sensitivity": "-90 dBm", "gain": "1.5 dBi", "power": "25 mW"}
    hands.write("e", {**far, "polarization": "left circular", "axial_ratio": "1 dB"}, "far end")
    other = {"name": "the other craft", "distance": f"{OTHER_M:.0f} m", "power": "25 mW", "gain": "1.5 dBi"}
    other |= {"polarization": "right circular", "axial_ratio": "1 dB", "spacing": "40 MHz", "needed": "8 dB"}
    hands.write("n", {**other, "selectivity": "20 dB"}, "neighbour")
    good, loose = isolation(1, 1), isolation(5, 1)
    truth = {"Clover": breaks_at(good, FILTER), "Loose clover": breaks_at(loose, FILTER), "same": breaks_at(good, 0.0)}
    for name in ("Clover", "Loose clover"):
        hands.write(
            "k", {"neighbour": "the other craft", "antenna": name, "broke": noted(random, truth[name], 3)}, "trial"
        )
    same = {
        "neighbour": "the other craft",
        "antenna": "Clover",
        "spacing": "0",
        "broke": noted(random, truth["same"], 3),
    }
    hands.write("k", same, "trial")
    hands.settle()
    return truth


@pytest.fixture
def flown(hands, tmp_path):
    return hands, day.once(hands, tmp_path, fly)


def test_which_pair_parts_best_and_by_how_much(flown, tmp_path):
    hands, truth = flown
    link = hands.window.session.climb.link
    pair = next(
        p
        for p in link.pairs
        if {p.better.antenna.name, p.other.antenna.name} == {"Clover", "Loose clover"}
        and p.better.trial.spacing_hz is None
        and p.other.trial.spacing_hz is None
    )
    true = 20 * np.log10(truth["Clover"] / truth["Loose clover"])
    low, high = pair.figure.interval
    assert pair.better.antenna.name == "Clover" and low < true < high
    assert "Gone out until another broke it" in day.report(hands, tmp_path)


def test_the_filter_is_taken_as_it_was_tried_and_not_as_it_was_noted(flown):
    hands, _ = flown
    link = hands.window.session.climb.link
    by_filter = [p for p in link.pairs if p.of_filter]
    assert len(by_filter) == 1
    low, high = by_filter[0].figure.interval
    assert low < FILTER < high < 24.0
    at_home = next(one for one in link.shared if one.end == "home")
    assert any("as tried" in line for line in at_home.other.working.lines)


def test_how_far_it_may_go_and_how_near_the_other_may_come(flown):
    hands, truth = flown
    link = hands.window.session.climb.link
    at_home = next(one for one in link.shared if one.end == "home")
    low, high = at_home.breaks.at.interval
    assert low * 1e3 < truth["Clover"] < high * 1e3
    assert at_home.nearest is not None
    middle = np.argmin(np.abs(at_home.breaks.over_db - NEEDED))
    assert at_home.breaks.distance_m[middle] == pytest.approx(at_home.breaks.at.value * 1e3, rel=0.2)


def test_once_each_tells_less_than_three_times(hands, flown):
    made, _ = flown
    link = made.window.session.climb.link
    thrice = link.pairs[0].figure.half
    evidence = made.window.session.evidence
    made.window.session.write(Entry("once", [t.revised(broke_m=t.broke_m[:1]) for t in evidence.all(Trial)]))
    made.settle()
    pairs = made.window.session.climb.link.pairs
    assert pairs[0].figure.half > 1.3 * thrice
    checks = day.checks(made, "link")
    assert any("can’t be told apart" in text or "parts better" in text for text in checks)


def test_the_picture_is_offered(flown):
    hands, _ = flown
    hands.press("6")
    for _ in range(8):
        if hands.window.views["link"].view.picture.__class__.__name__ == "TwoSendersPicture":
            break
        hands.press("o")
    picture = hands.window.views["link"].view.picture
    assert "breaks it" in picture.title and "broke: Clover" in picture.words()
