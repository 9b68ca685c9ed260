"""A fixed unit far off; receiving antennas × two powers, bit rate facing it and turned right round; then a receiver with two
antennas, one of them covered in turn."""

import numpy as np
import pytest

from . import day

SPOTS = {"Gate": "900 m", "Pond": "1.1 km", "Stile": "1.3 km", "Wall": "1.6 km"}
FACING = {"Panel": 36.0, "Whip": 24.0}
ROUND = {"Panel": 11.0, "Whip": 22.0}
"""Mbit/s at the lower power; 6 more at the higher one."""


def noted(random, base: float) -> dict[str, str]:
    return {spot: f"{base - 1.5 * k + random.normal(0, 0.8):.0f}" for k, spot in enumerate(SPOTS)}


@pytest.fixture
def turned(hands):
    random = np.random.default_rng(21)
    day.ask(hands, "Which antenna for the ridge?", "5700-5800 MHz", ("Panel", "Whip"), treated="pose: compared within")
    day.places(hands, SPOTS)
    for pose, rates in (("facing", FACING), ("right round", ROUND)):
        for antenna, power in (("Panel", "25 mW"), ("Whip", "25 mW"), ("Whip", "200 mW"), ("Panel", "200 mW")):
            base = rates[antenna] + (6.0 if power == "200 mW" else 0.0)
            run = {"antenna": antenna, "power": power, "other": f"pose: {pose}", "read_on": "Mbit/s"}
            day.run(hands, noted(random, base), **run)
    return hands


def told(hands) -> dict[str, list]:
    out: dict[str, list] = {}
    for contrast in hands.window.session.climb.field.own:
        if contrast.scale == "bit rate":
            out.setdefault(contrast.change.factor, []).append(contrast)
    return out


def test_far_the_panel_all_round_the_whip_and_more_power_helps_both(turned, tmp_path):
    found = told(turned)
    names = {a.id: a.name for a in turned.window.session.evidence.antennas}
    (antenna,) = found["antenna"]
    by_pose = {block: figure.value for block, figure in antenna.blocks}
    better = names[antenna.change.to.split()[0]]
    facing, round_ = (next(v for b, v in by_pose.items() if pose in b) for pose in ("facing", "round"))
    assert (facing > 95 and round_ < 5) if better == "Panel" else (facing < 5 and round_ > 95)
    (power,) = found["power"]
    assert power.change.to == "200 mW" and power.figure.value > 90
    text = day.report(turned, tmp_path)
    assert "facing" in text and "right round" in text
    sentence = day.verdict(turned)
    assert sentence.startswith("With pose facing Panel gets a higher bit rate than Whip ")
    assert "; with pose right round Whip gets a higher bit rate than Panel " in sentence
    assert "25 mW" not in sentence, "at both powers the same: it is said once"


def test_which_branch_carries_it(hands):
    """With both, then with each covered in turn."""
    random = np.random.default_rng(22)
    day.ask(hands, "Which side carries it?", "5700-5800 MHz", ("Panel", "Whip"))
    day.places(hands, SPOTS)
    both = "left: Panel; right: Whip"
    for branches, base in (
        (both, 30.0),
        ("left: Panel, covered; right: Whip", 14.0),
        ("left: Panel; right: Whip, covered", 29.0),
        ("left: Panel; right: Whip, covered", 29.0),
        ("left: Panel, covered; right: Whip", 14.0),
        (both, 30.0),
    ):
        day.run(hands, noted(random, base), antenna="Panel", branches=branches, read_on="Mbit/s")
    found = told(hands)
    (left,) = found["port left"]
    assert "covered" in left.change.since and left.figure.value > 95 and left.size.value == pytest.approx(16.0, abs=2.0)
    (right,) = found["port right"]
    assert right.size.value == pytest.approx(1.0, abs=1.5)
    assert day.verdict(hands).startswith("Port left on gets a higher bit rate than port left covered at the same spot")
