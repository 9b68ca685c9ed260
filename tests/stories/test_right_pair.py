"""A small craft with a lying dipole, a receiver that mixes two: the worst case and the worst tenth over all its attitudes for each
pair on the shelf."""

import numpy as np
import pytest

from . import day

SHELF = {
    "Lying Dipole": {"type": "dipole", "polarization": "horizontal"},
    "Upright": {"type": "whip", "polarization": "vertical"},
    "Crossed": {"type": "dipole", "polarization": "horizontal"},
    "Corkscrew": {"type": "helix", "polarization": "right circular"},
    "Patch": {"type": "panel", "polarization": "vertical"},
}


@pytest.fixture
def advised(hands):
    day.ask(hands, "Which two antennas for the small craft?", "5725-5875 MHz", SHELF)
    craft = {
        "antenna": "Lying Dipole",
        "mounted": "lying across",
        "flown": "flips",
        "mixes": "adds both",
        "highest": "30",
    }
    hands.write("c", craft, "craft")
    hands.press("4")
    return hands


def truth(seed: int = 1, n: int = 40_000) -> dict[str, float]:
    """Worst tenth of Upright, Crossed and both added, of a dipole turned every way at random: drawn, with formulas of its own."""
    random = np.random.default_rng(seed)
    axis = random.normal(size=(n, 3))
    axis /= np.linalg.norm(axis, axis=1, keepdims=True)
    bearing, up = random.uniform(0, 2 * np.pi, n), np.radians(30) * random.random(n) ** 2
    k = np.stack((np.cos(up) * np.cos(bearing), np.cos(up) * np.sin(bearing), np.sin(up)), axis=1)

    def dipole(axes):
        c = np.sum(axes * k, axis=1)
        across = axes - c[:, None] * k
        gain = 1.643 * (np.cos(np.pi / 2 * c) / np.maximum(1 - c**2, 1e-9)) ** 2
        return across * np.sqrt(gain)[:, None]  # length sin θ · cos(π/2·cos θ)/sin² θ

    sent = dipole(axis)
    upright, crossed = (
        np.sum(sent * dipole(np.broadcast_to(a, (n, 3))), axis=1) ** 2 for a in ([0, 0, 1.0], [0, 1.0, 0])
    )
    return {
        name: 10 * np.log10(np.quantile(power, 0.1))
        for name, power in {"Upright": upright, "Crossed": crossed, "both": upright + crossed}.items()
    }


def test_every_pair_on_the_shelf_over_every_attitude(advised, tmp_path):
    pairs = advised.window.session.climb.pattern.pairs
    # Four on the ground, and another like the one that flies.
    assert len(pairs.pairs) == 10 and len(pairs.alone) == 5
    assert any(c.name == "another Lying Dipole" for c in pairs.alone)
    drawn = truth()
    alone = {c.name: c.worst_tenth.value for c in pairs.alone}
    assert alone["Upright"] == pytest.approx(drawn["Upright"], abs=0.6)
    assert alone["Crossed"] == pytest.approx(drawn["Crossed"], abs=0.6)
    both = {c.name: c for c in pairs.pairs}["Upright + Crossed"]
    assert both.worst_tenth.value == pytest.approx(drawn["both"], abs=0.6)
    assert both.gain_over_better.value == pytest.approx(
        drawn["both"] - max(drawn["Upright"], drawn["Crossed"]), abs=0.8
    )
    detail = advised.window.views["pattern"].detail.text()
    assert " dB is " in detail and " times the range in the open" in detail
    assert "Corkscrew loses 3 dB by being circular, and never more by turning" in advised.sentence + detail
    text = day.report(advised, tmp_path)
    assert "Over every attitude and bearing" in text and "Upright + Crossed" in text


def test_30_degrees_of_bank_cost_1_2_db(advised):
    pairs = advised.window.session.climb.pattern.pairs
    at = int(np.flatnonzero(pairs.turned_deg == 30.0)[0])
    crossed = [k.antenna.name for k in pairs.known].index("Crossed")
    assert pairs.turned_db["bank"][crossed, at] == pytest.approx(-1.25, abs=0.1)
    corkscrew = [k.antenna.name for k in pairs.known].index("Corkscrew")
    assert np.ptp(pairs.turned_db["bank"][corkscrew]) < 3.2, (
        "circular on linear: turning takes no more than its axial ratio of 3 dB"
    )
    # Lying across it turns end on as it flies past: heading costs what its doughnut has, whatever receives it.
    assert pairs.turned_db["heading"][crossed].min() < -15
