"""A drone with a calibrated probe orbits and climbs before a broadcast mast, through pads chosen beforehand; a customer wants
either peace of mind or the bearing of the fault."""

import numpy as np
import pytest

from tallmast.physics.geodesy import destination
from tallmast.physics.propagation import free_space_loss_db

from . import day

MAST = (57.9, -11.2)
FREQUENCY_HZ = 98e6
LOOKS_TO = 28.0
TOWN = 208.0


def array_db(bearing, above, fault: bool):
    """Four faces that make an even turn, one of them dead: a hole to its side, 15 dB deep toward the town."""
    off = (np.asarray(bearing) - TOWN + 180) % 360 - 180
    hole = (-12.0 * np.exp(-((off / 32.0) ** 2)) if fault else 0.0) - 3.0 * np.exp(-((off / 40.0) ** 2))
    return hole - 12.0 * (np.asarray(above) / 20.0) ** 2


def design(path):
    """The array as it was drawn, over θ and φ: φ runs counter-clockwise from its front."""
    theta, phi = np.meshgrid(np.arange(60, 121, 5), np.arange(0, 360, 10))
    bearing, above = (LOOKS_TO - phi) % 360, 90 - theta
    rows = "\n".join(
        f"{t},{p},{v:.2f}"
        for t, p, v in zip(theta.ravel(), phi.ravel(), array_db(bearing, above, False).ravel(), strict=True)
    )
    path.write_text(f"theta,phi,gain dB\n{rows}\n")
    return path


def log(path, random, bearing, radius, up, fault):
    at = [destination(*MAST, float(b) % 360, float(r)) for b, r in zip(bearing, radius, strict=True)]
    slant, above = np.hypot(radius, up - 40.0), np.degrees(np.arctan2(up - 40.0, radius))
    level = (
        10.0
        - free_space_loss_db(slant, FREQUENCY_HZ)
        + array_db(bearing, above, fault)
        + random.normal(0, 0.6, len(up))
    )
    rows = "\n".join(
        f"{i},{p[0]:.7f},{p[1]:.7f},{h:.2f},{v:.1f}" for i, (p, h, v) in enumerate(zip(at, up, level, strict=True))
    )
    path.write_text(f"time s,lat,lon,alt m,level dBm\n{rows}\n")
    return path


@pytest.fixture(params=[True, False], ids=["fault", "sound"])
def surveyed(request, hands, tmp_path):
    random = np.random.default_rng(31)
    day.ask(hands, "Is the array sound?", "97.5-98.5 MHz", {"Array": {"length": "6 m", "polarization": "vertical"}})
    town = destination(*MAST, TOWN, 4300.0)
    day.places(hands, {"Mast": f"{MAST[0]}, {MAST[1]}", "Town": f"{town[0]:.6f}, {town[1]:.6f}"})
    hands.write("q", {"home_place": "Mast"}, "ask question")
    turn = np.linspace(0, 4 * 360, 480)
    up = np.concatenate((np.linspace(5, 110, 160), np.linspace(110, 5, 160)))
    ways = {
        "orbit": (turn, 160.0 + random.normal(0, 2, len(turn)), np.full(len(turn), 42.0)),
        "climb": (np.full(len(up), LOOKS_TO), 150.0 + random.normal(0, 2, len(up)), up),
    }
    for name, (bearing, radius, height) in ways.items():
        branches = f"Array, at {LOOKS_TO:g}°"
        hands.write(
            "r", {"antenna": "Array", "power": "", "manner": "flight", "height": "40 m", "branches": branches}, "run"
        )
        hands.drop(log(tmp_path / f"{name}.csv", random, bearing, radius, height, request.param))
        hands.sheet_opens()
        hands.fill({"heights": "the ground"})
        hands.keep()
    hands.press("4")
    return request.param, hands


def test_the_town_s_bearing_is_read_off_with_its_uncertainty(surveyed, tmp_path):
    fault, hands = surveyed
    found = hands.window.session.climb.pattern.antennas[0]
    (toward,) = found.toward
    low, high = toward.level.interval
    assert low < (-15.0 if fault else -3.0) < high and toward.level.half < 2.5
    assert f"down toward Town at {TOWN:.0f}°" in hands.window.views["pattern"].detail.text()
    climb = found.cut("elevation")
    low, high = climb.beamwidth.interval
    assert low < 20.0 < high, "half the power 10° over and under it"
    text = day.report(hands, tmp_path)
    assert "down toward Town at 208°" in text and "All directions" in text


def test_peace_of_mind_or_the_bearing_of_the_fault(surveyed, tmp_path):
    fault, hands = surveyed
    hands.drop(design(tmp_path / "drawn.csv"))
    hands.sheet_opens()
    hands.keep()
    hands.press("4")
    one = next(d for d in hands.window.session.climb.pattern.antennas[0].designs if d.cut.plane == "azimuth")
    if fault:
        assert one.faults and abs((one.faults[0].at_deg + LOOKS_TO - TOWN + 180) % 360 - 180) < 12
        assert "stands off its design at " in hands.window.views["pattern"].detail.text()
        assert any(c.startswith("a fault at ") for c in day.checks(hands, "pattern"))
    else:
        assert one.words.startswith("is sound ")
        assert "sound against its design" in day.checks(hands, "pattern")


def test_a_pad_that_would_burn_is_said_before_the_flight(hands):
    """What the mast sends would reach the receiver through a pad of half a watt."""
    day.ask(hands, "Is the array sound?", "97.5-98.5 MHz", {"Array": {"length": "6 m", "polarization": "vertical"}})
    hands.write("p", {"power": "20 W", "pads": "20 dB 0.5 W"}, "power and pads")
    assert any("20 dB pad" in text and ("W" in text) for text in day.checks(hands, "levels")), day.checks(
        hands, "levels"
    )
    assert any(c.mark == "fails" for c in hands.window.session.climb.levels.checks)
