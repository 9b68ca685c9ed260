"""A fixed unit far off; receiving antennas × two powers, bit rate facing it and turned right round; then a receiver with two
antennas, one of them covered in turn."""

import numpy as np
import pytest

from . import day

SPOTS = {"Gate": "900 m", "Pond": "1.1 km", "Stile": "1.3 km", "Wall": "1.6 km"}
FACING = {"Panel": 33.0, "Whip": 21.0}
ROUND = {"Panel": 9.0, "Whip": 20.0}
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
    for contrast in hands.window.session.climb.field.contrasts:
        out.setdefault(contrast.change.factor, []).append(contrast)
    return out


def test_far_the_panel_all_round_the_whip_and_more_power_helps_both(turned, tmp_path):
    found = told(turned)
    names = {a.id: a.name for a in turned.window.session.evidence.antennas}
    (antenna,) = found["antenna"]
    by_pose = {block: figure.value for block, figure in antenna.blocks}
    better = names[antenna.change.to.split()[0]]
    facing, round_ = (next(v for b, v in by_pose.items() if pose in b) for pose in ("facing", "round"))
    assert (facing > 0 > round_) if better == "Panel" else (facing < 0 < round_)
    assert antenna.differ and "power" not in found, "a known step is no question"
    text = day.report(turned, tmp_path)
    assert "facing" in text and "right round" in text
    sentence = day.verdict(turned)
    assert "ose facing: Panel by " in sentence and "ose right round: Whip by " in sentence
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
    assert "covered" in left.change.since and left.chance > 0.97 and left.size.value == pytest.approx(16.0, abs=3.0)
    (right,) = found["port right"]
    assert right.size.value == pytest.approx(1.0, abs=1.5)
    assert day.verdict(hands).startswith("Port left on gets a higher bit rate than port left covered at 4 of 4 spots")


def test_turned_on_the_spot_each_has_a_pattern_on_the_display_s_own_scale(hands, tmp_path):
    """Facing it, at angles, right round: by the clock, bit rate as it is read; and in decibels once that display was stepped."""
    day.ask(hands, "Which antenna for the ridge?", "5700-5800 MHz", ("Panel", "Whip"))
    for antenna, rates in (("Panel", "12: 27; 3: 16; 6: 9; 9: 17"), ("Whip", "12: 24; 3: 22; 6: 23; 9: 22")):
        hands.write("n", {"antenna": antenna, "readings": rates, "read_on": "Mbit/s"}, "turn")
    hands.press("4")
    panel, whip = hands.window.session.climb.pattern.antennas
    assert [len(a.own) for a in (panel, whip)] == [1, 1]
    hands.window.session.focus(panel.antenna.id)
    hands.settle()
    assert hands.sentence == "Panel, read in four directions, shows 27 Mbit/s in front and 9 Mbit/s behind."
    assert "Mbit/s are no decibels" in day.checks(hands, "pattern")
    text = day.report(hands, tmp_path)
    assert "27 Mbit/s in front" in text

    steps = tmp_path / "steps.csv"
    attenuation = np.repeat(np.arange(20.0, 80.0, 2.0), 4)
    random = np.random.default_rng(4)
    shown = np.clip(np.round(45 - 0.75 * (attenuation - 24) + random.normal(0, 0.3, len(attenuation))), 5, 45)
    rows = "\n".join(f"{a:g},{v:g}" for a, v in zip(attenuation, shown, strict=True))
    steps.write_text(f"attenuation dB,Mbit/s\n{rows}\n")
    hands.drop(steps)
    hands.sheet_opens()
    hands.fill({"receiver": "tablet", "shows": "bit rate"})
    hands.keep()
    # 27 against 9 Mbit/s at 0.75 Mbit/s a decibel: 24 dB.
    hands.write("n", {"antenna": "Panel", "readings": "12: 27; 3: 16; 6: 9; 9: 17", "receiver": "tablet"}, "turn")
    cut = hands.window.session.climb.pattern.of(panel.antenna.id).cuts[0]
    low, high = cut.front_to_back.interval
    assert low < 18.0 / 0.75 < high
    hands.press("4")
    assert "is strongest in front, " in hands.sentence and " dB weaker on the opposite side" in hands.sentence
