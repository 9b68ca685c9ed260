"""A sender that may not radiate fully: through 16 dB, then through 6 dB, to see how far it would go at its full 80 mW."""

import numpy as np
import pytest

from . import day

PLACES = {"Gate": 150.0, "Barn": 260.0, "Bend": 420.0, "Weir": 640.0, "Mast": 880.0, "Kiln": 1100.0}
N, AT_1M, SENSITIVITY = 2.9, 28.0, -104.0
FULL_DBM = 19.03


def level(distance_m: float, pad_db: float) -> float:
    return FULL_DBM - pad_db - AT_1M - 10 * N * np.log10(distance_m)


def reaches(power_dbm: float) -> float:
    """The truth: where the level falls under what the receiver takes, m."""
    return 10 ** ((power_dbm - AT_1M - SENSITIVITY) / (10 * N))


def walk(hands):
    random = np.random.default_rng(17)
    shadow = {name: random.normal(0, 2.0) for name in PLACES}
    day.ask(hands, "How far would it go?", "433-435 MHz", {"Stub": {"known_gain": "0 dBi"}}, further="868-870 MHz")
    day.places(hands, {name: f"{metres:.0f} m" for name, metres in PLACES.items()})
    hands.write("p", {"power": "80 mW", "full_power": "80 mW"}, "power and pads")
    hands.write("e", {"name": "receiver", "sensitivity": f"{SENSITIVITY} dBm", "gain": "0 dBi"}, "far end")
    for pad in (16, 6, 6, 16):
        shift = random.normal(0, 0.4)
        noted = {
            name: f"{level(metres, pad) + shadow[name] + shift + random.normal(0, 1.0):.0f} dBm"
            for name, metres in PLACES.items()
            if level(metres, pad) + shadow[name] > SENSITIVITY
        }
        day.run(hands, noted, antenna="Stub", power="80 mW", pad=f"{pad} dB")


@pytest.fixture
def walked(hands, tmp_path):
    day.once(hands, tmp_path, walk)
    return hands


def test_what_the_full_power_does_and_what_a_tenth_of_it_would(walked, tmp_path):
    assert day.alarms(walked) == []
    walked.press_on("link", "i")
    walked.sheet_opens()
    walked.fill({"powers": "80 mW, 8 mW", "pads": "0 dB, 16 dB"})
    walked.keep()
    found = walked.window.session.climb.link.how_far
    rows = {(round(r.option.power_w, 4), r.option.pad_db): r for r in found.rows}
    for (power, pad), row in rows.items():
        low, high = row.reach.interval
        true = reaches(10 * np.log10(power * 1e3) - pad) / 1e3
        assert low < true < high, (power, pad, row.reach.text, true)
    full, tenth = rows[0.08, 0.0], rows[0.008, 0.0]
    ratio = full.reach.value / tenth.reach.value
    assert 1.8 < ratio < 3.2, "ten decibels at n = 2.9 are 2.2 times"
    assert set(PLACES) == set(full.reached)
    assert "Kiln" in rows[0.08, 16.0].missed
    assert found.doubling.value == pytest.approx(8.7, abs=3.0)
    text = day.report(walked, tmp_path)
    assert "80 mW, 16 dB of pads" in text and "Twice the range" not in day.verdict(walked)


def test_what_does_the_same_in_the_other_band(walked):
    """20·log₁₀(869/434) = 6.03 dB: 80 mW at 434 MHz does what 321 mW does at 869 MHz."""
    walked.press("6")
    assert "80 mW at 434 MHz does what 321 mW does at 869 MHz" in walked.window.views["link"].detail.text()


def test_licence_and_band_are_the_regulators(walked):
    walked.press_on("link", "i")
    walked.sheet_opens()
    assert "licence" in walked.window.sheet.note.text()
