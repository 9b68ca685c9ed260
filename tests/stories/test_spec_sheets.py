"""Two panels by their sheets, then flown with everything fixed; beside them an omni that stays on. What they claim is impossible,
what drops out is told in seconds, and the other branch is named."""

import numpy as np
import pytest

from ..findings.build import told
from . import day


def flown_log(random, often: float, seconds: float = 90.0) -> str:
    time = np.arange(0.0, seconds, 0.5)
    level = 22.0 + random.normal(0, 2.0, len(time))
    for _ in range(max(random.poisson(often * seconds / 60.0), 0)):
        at = random.uniform(0, seconds)
        level[(time >= at) & (time < at + random.uniform(1.0, 3.0))] = 2.0
    return "time s,Mbit/s\n" + "\n".join(f"{t:.1f},{v:.1f}" for t, v in zip(time, level, strict=True))


@pytest.fixture
def flown(hands, tmp_path):
    random = np.random.default_rng(6)
    sizes = {"type": "panel", "face_width": "100 mm", "face_height": "100 mm"}
    day.ask(hands, "Which panel?", "5700-5900 MHz", {"Leaf": sizes, "Tile": sizes, "Omni": {"type": "whip"}})
    for panel, claim in (("Leaf", "24 dBi"), ("Tile", "14 dBi")):
        hands.write("c", {"antenna": panel, "quantity": "gain", "value": claim}, "add claim")
    for number, (panel, often) in enumerate(
        (("Leaf", 6.0), ("Tile", 1.0), ("Tile", 1.0), ("Leaf", 6.0), ("Leaf", 6.0), ("Tile", 1.0)), 1
    ):
        hands.write("r", {"antenna": panel, "power": "", "manner": "flight", "branches": "Omni"}, "run")
        path = tmp_path / f"flight-{number}.csv"
        path.write_text(flown_log(random, often))
        hands.drop(path)
        hands.sheet_opens()
        hands.fill({"usable": "10"})
        hands.keep()
    return hands


def test_dropouts_in_seconds_for_each_and_what_is_claimed_is_impossible(flown, tmp_path):
    field = flown.window.session.climb.field
    dropouts = told([c for c in field.dying if c.scale == "dropouts"], field.names)
    one = dropouts["Tile", "Leaf"]
    low, high = one.size.interval
    assert low < 5.0 < high, "a minute"
    claims = {(f.antenna.name): f.mark for f in flown.window.session.climb.verdict.claims}
    assert claims["Leaf"] == "impossible"
    text = day.report(flown, tmp_path)
    assert "Dropouts" in text and " s, the longest " in text


def test_the_other_branch_that_stayed_on_is_named(flown):
    assert "Omni stayed on in runs 1, 2, 3, 4, 5 and 6" in day.checks(flown)
