"""An omni and a patch on a receiver that takes the better: from its own log of both branches, and from what is known of each."""

import numpy as np
import pytest

from . import day


def log(path, random, minutes: float = 4.0):
    """Ten readings a second of both branches: the omni fades all round, the patch is strong ahead and weak behind."""
    n = int(minutes * 600)
    time = np.arange(n) / 10.0
    bearing = 360.0 * time / 60.0

    def fading(s):
        white = random.normal(0, 1, (2, n))
        kernel = np.exp(-np.arange(30) / 8.0)
        slow = np.array([np.convolve(w, kernel, "same") for w in white]) / np.sqrt(np.sum(kernel**2))
        return 10 * np.log10((slow[0] ** 2 + slow[1] ** 2) / 2)

    ahead = (np.cos(np.radians(bearing)) + 1) / 2
    omni, patch = -72 + fading(1), -66 - 16 * (1 - ahead) + fading(1)
    rows = "\n".join(f"{t:.1f},{a:.1f},{b:.1f}" for t, a, b in zip(time, omni, patch, strict=True))
    path.write_text(f"time s,left rssi dBm,right rssi dBm\n{rows}\n")
    return omni, patch


@pytest.fixture
def flown(hands, tmp_path):
    random = np.random.default_rng(5)
    day.ask(
        hands,
        "What does the second antenna add?",
        "5725-5875 MHz",
        {"Omni": {"type": "whip"}, "Patch": {"type": "panel"}},
    )
    hands.write("r", {"antenna": "Omni", "power": "", "branches": "left: Omni; right: Patch"}, "run")
    omni, patch = log(tmp_path / "both.csv", random)
    hands.drop(tmp_path / "both.csv")
    hands.sheet_opens()
    hands.keep()
    hands.press("4")
    return hands, omni, patch


def test_what_the_second_adds_at_the_worst_tenth(flown, tmp_path):
    hands, omni, patch = flown
    (both,) = hands.window.session.climb.pattern.branches
    assert both.names == ("Omni", "Patch")
    tenth = np.quantile(np.maximum(omni, patch), 0.1)
    low, high = both.together.interval
    assert low < tenth < high and both.together.value == pytest.approx(tenth, abs=0.2)
    assert both.adds == pytest.approx(tenth - max(np.quantile(omni, 0.1), np.quantile(patch, 0.1)), abs=0.3)
    assert both.share_of_first == pytest.approx(np.mean(omni > patch), abs=0.02)
    assert both.switches > 20
    assert hands.sentence.startswith("Omni carries ") and "at the worst tenth both together have " in hands.sentence
    assert "Both branches of the receiver" in day.report(hands, tmp_path)


def test_the_holes_left_and_what_remains_when_the_tracker_loses_it(flown):
    hands, *_ = flown
    hands.write("a", {"name": "Stub", "type": "whip", "polarization": "vertical"}, "add antenna")
    craft = {"antenna": "Stub", "flown": "banks", "tracked": "follow", "reserve": "15 dB"}
    hands.write("c", craft, "craft")
    pairs = hands.window.session.climb.pattern.pairs
    (pair,) = (p for p in pairs.pairs if "another" not in p.name)
    assert pair.tracker_lost.value < pair.worst_tenth.value, "a patch that looks elsewhere gives less"
    assert 0.0 <= pair.holes < 1.0 and len(pair.left) == 2
