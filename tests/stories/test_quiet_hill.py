"""A station antenna for weak signals on a hill: sensitivity with each gain, a preamp or not, range by gain for n = 2, 3.77 and 4 as rings, and
which stations are reached, those behind hills among them."""

import numpy as np
import pytest

from tallmast.figures.coverage import CoveragePicture
from tallmast.physics.geodesy import destination

from . import day

HOME = (57.9, -11.2)
STATIONS = {"Sands": (6_000.0, 20.0), "Tarn": (9_000.0, 95.0), "Dale": (7_000.0, 200.0), "Far Isle": (90_000.0, 300.0)}
"""Distance and bearing; Dale lies behind the fell, Far Isle behind the horizon."""


def fells(path):
    """An ASCII grid of 100 m cells in degrees: a hill at home, a fell to the south-west of it, level else."""
    n, step = 240, 0.0016
    west, south = HOME[1] - 0.5 * n * step, HOME[0] - 0.5 * n * step
    longitude = west + (np.arange(n) + 0.5) * step
    latitude = south + (np.arange(n) + 0.5) * step
    east = (longitude - HOME[1]) * 111_320.0 * np.cos(np.radians(HOME[0]))
    north = (latitude - HOME[0]) * 111_320.0
    e, h = np.meshgrid(east, north)
    ground = 30.0 + 90.0 * np.exp(-((np.hypot(e, h) / 600.0) ** 2))
    a = np.radians(200.0)
    along, across = e * np.sin(a) + h * np.cos(a), e * np.cos(a) - h * np.sin(a)
    ground += 170.0 * np.exp(-(((along - 3500.0) / 500.0) ** 2)) * (np.abs(across) < 2500.0)
    rows = "\n".join(" ".join(f"{v:.0f}" for v in row) for row in ground[::-1])
    head = f"ncols {n}\nnrows {n}\nxllcorner {west:.6f}\nyllcorner {south:.6f}\ncellsize {step}\nNODATA_value -9999\n"
    path.write_text(head + rows + "\n")
    return path


@pytest.fixture
def station(hands, tmp_path):
    antennas = {
        "Turnstile": {"known_gain": "2 dBi", "polarization": "vertical"},
        "Long beam": {"type": "yagi", "known_gain": "12 dBi", "polarization": "vertical"},
    }
    day.ask(hands, "Which stations does the hill reach?", "144-146 MHz", antennas)
    day.places(hands, {"Hill": f"{HOME[0]}, {HOME[1]}"})
    for name, (far, bearing) in STATIONS.items():
        at = destination(*HOME, bearing, far)
        day.places(hands, {name: f"{at[0]:.6f}, {at[1]:.6f}"})
    hands.write("q", {"home_place": "Hill", "wanted_place": "Tarn"}, "ask question")
    hands.write(
        "j", {"bandwidth": "2.5 kHz", "receiver_figure": "3 dB", "snr": "6 dB", "surroundings": "residential"}, "noise"
    )
    hands.write("p", {"power": "2 W", "full_power": "2 W", "sensitivity": "-134 dBm"}, "power and pads")
    far_end = {
        "name": "the others",
        "sensitivity": "-120 dBm",
        "gain": "2 dBi",
        "power": "2 W",
        "polarization": "vertical",
    }
    hands.write("e", far_end, "far end")
    hands.drop(fells(tmp_path / "fells.asc"))
    hands.sheet_opens()
    hands.fill({"radius": "12 km"})
    hands.keep()
    hands.settle()
    return hands


def test_gain_turned_to_them_helps_and_a_preamp_does_not(station):
    """Residential noise at 145 MHz stands 12 dB and more over a receiver of 3 dB: a preamp amplifies it alike."""
    noise = station.window.session.climb.levels.noise
    by_key = {r.key: r.improvement.value for r in noise.remedies}
    assert by_key["directional"] > by_key["mast preamp"] + 1.0 and by_key["mast preamp"] < 1.0
    link = station.window.session.climb.link
    assert any(text.startswith("noise at home takes") for text in day.checks(station, "link"))
    adds = next(w for w in link.worth if w.antenna is not None).adds
    assert abs(adds.value) == pytest.approx(10.0, abs=0.1)


def test_range_by_gain_for_three_exponents_as_rings(station, qtbot):
    station.press_on("link", "i")
    station.sheet_opens()
    station.fill({"powers": "2 mW", "gains": "0 dB, 3 dB, 10 dB"})
    station.keep()
    found = station.window.session.climb.link.how_far
    none, three, ten = found.rows
    for n, times in ((2.0, 10 ** (3 / 20)), (3.77, 10 ** (3 / 37.7)), (4.0, 10 ** (3 / 40))):
        if n > 2.0:
            assert three.by_slope_m[n] / none.by_slope_m[n] == pytest.approx(times, rel=0.02), n
    # In free space it would go on for longer than the earth lets it: the horizon ends all three.
    assert none.by_slope_m[2.0] == three.by_slope_m[2.0] == pytest.approx(48_100.0, rel=0.05)
    assert ten.reach.value >= three.reach.value >= none.reach.value
    station.press_on("link", "m")
    view = station.window.views["link"]
    qtbot.waitUntil(lambda: not view.covering.going and view.covering.coverage is not None, timeout=60_000)
    picture = view.view.picture
    assert isinstance(picture, CoveragePicture) and len(picture.rings) == 3


def test_which_stations_are_reached_and_which_lie_behind_hills(station, tmp_path):
    row = station.window.session.climb.link.how_far.rows[0]
    assert "Sands" in row.reached and "Tarn" in row.reached
    assert "Far Isle" in row.missed, "behind the horizon"
    ways = dict(station.window.session.climb.link.way.others)
    assert ways["Dale"].over_db > ways["Sands"].over_db + 10.0
    assert ways["Dale"].tightest.clearance_m < 0 < ways["Sands"].tightest.clearance_m
    assert ways["Far Isle"].whole_m > ways["Far Isle"].horizon_m
    assert "How far" in day.report(station, tmp_path)


def test_free_space_would_have_promised_more(station):
    """Caught: free space alone reaches Far Isle; the horizon and the fells do not let it."""
    link = station.window.session.climb.link
    free = link.margins[0].figure.value + sum(loss.loss_db for loss in link.way.profile.losses)
    at_isle = free - 20 * np.log10(STATIONS["Far Isle"][0] / STATIONS["Tarn"][0])
    assert at_isle > 0.0 and "Far Isle" in link.how_far.rows[0].missed
    assert link.margins[0].basis == "over the ground"
