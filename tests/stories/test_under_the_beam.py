"""A tracked array tilted up 16° and a plane down a valley with two ridges: picture, telemetry and control logged together, out and back."""

import numpy as np
import pytest

from tallmast.physics.geodesy import destination

from . import day

HOME, BEARING = (57.9, -11.2), 74.0
TILT, WIDE = 16.0, 26.0
"""The array's, and its half-power beam up and down, degrees."""
RIDGES = {"the near ridge": (1800.0, 30.0), "the far ridge": (3100.0, 96.0)}
LAMBDA = 299_792_458.0 / 5.8e9
FLIES_M = 120.0
LIMITS = {"picture": -78.0, "telemetry": -92.0, "control": -101.0}
STRONGER = {"picture": 0.0, "telemetry": 2.0, "control": 8.0}


def beam_db(up):
    return -12.0 * ((np.asarray(up) - TILT) / WIDE) ** 2


def ridge_db(d):
    """One edge at a time, the worse of both: J(ν)."""
    worst = np.zeros(len(d))
    for at, high in RIDGES.values():
        ray = 6.0 + (FLIES_M - 6.0) * at / np.maximum(d, 1.0)
        behind = np.maximum(d - at, 1.0)
        v = (high - ray) * np.sqrt(2 * d / (LAMBDA * at * behind))
        loss = np.where((d > at + 30) & (v > -0.78), 6.9 + 20 * np.log10(np.sqrt((v - 0.1) ** 2 + 1) + v - 0.1), 0.0)
        worst = np.maximum(worst, loss)
    return worst


def flown(path, control=0.0):
    """Out to 5.6 km and back at 20 m/s."""
    random = np.random.default_rng(4)
    out = np.arange(120.0, 5600.0, 20.0)
    d = np.concatenate((out, out[::-1]))
    up = np.degrees(np.arctan2(FLIES_M - 6.0, d))
    wanders = BEARING + 4.0 * np.sin(d / 500.0) * np.minimum(1.0, 800.0 / d)
    free = 20 * np.log10(4 * np.pi * np.hypot(d, FLIES_M - 6.0) / LAMBDA)
    base = 27.0 + 14.0 + beam_db(up) - free - ridge_db(d)
    rows = ["time s,lat,lon,alt m," + ",".join(f"{name} dBm" for name in LIMITS)]
    for t in range(len(d)):
        at = destination(*HOME, float(wanders[t]), float(d[t]))
        extra = {**STRONGER, "control": STRONGER["control"] + control}
        levels = ",".join(f"{base[t] + extra[name] + random.normal(0, 1):.1f}" for name in LIMITS)
        rows.append(f"{t},{at[0]:.7f},{at[1]:.7f},{FLIES_M:.0f},{levels}")
    path.write_text("\n".join(rows) + "\n")
    truth = {}
    for name, limit in LIMITS.items():
        lost = np.flatnonzero(base + ({**STRONGER, "control": STRONGER["control"] + control})[name] < limit)
        truth[name] = (float(d[lost[0]]), float(d[lost[-1]])) if len(lost) else None
    return path, truth


def cut(path):
    angle = np.arange(-90.0, 91.0, 5.0)
    level = np.maximum(-12.0 * (angle / WIDE) ** 2, -22.0)
    path.write_text("angle deg,level dB\n" + "\n".join(f"{a:g},{v:.2f}" for a, v in zip(angle, level, strict=True)))
    return path


def at_home(hands, tmp_path):
    day.ask(hands, "Why does the picture go?", "5.7-5.9 GHz", {"Array": {"length": "20 cm", "known_gain": "14 dBi"}})
    end = destination(*HOME, BEARING, 5600.0)
    day.places(hands, {"Home": f"{HOME[0]}, {HOME[1]}", "Head of the valley": f"{end[0]:.6f}, {end[1]:.6f}"})
    hands.write("q", {"home_place": "Home", "wanted_place": "Head of the valley"}, "ask question")
    for name, (at, high) in RIDGES.items():
        hands.write("b", {"name": name, "from": f"{at:.0f} m", "height": f"{high:.0f} m"}, "obstacle")
    hands.drop(cut(tmp_path / "array.csv"))
    hands.sheet_opens()
    hands.fill({"antenna": "Array", "plane": "elevation", "absolute": "its own peak"})
    hands.keep()


def fly(hands, path):
    hands.write(
        "r",
        {"antenna": "Array", "power": "", "manner": "flight", "height": "6 m", "branches": f"Array, up {TILT:g}°"},
        "run",
    )
    hands.drop(path)
    hands.sheet_opens()
    hands.fill({"heights": "the ground", "lost": ", ".join(f"{name} {limit:g}" for name, limit in LIMITS.items())})
    hands.keep()
    hands.settle()


@pytest.fixture
def down_the_valley(hands, tmp_path):
    at_home(hands, tmp_path)
    path, truth = flown(tmp_path / "valley.csv")
    fly(hands, path)
    return hands, truth


def test_each_link_is_lost_and_back_where_it_was(down_the_valley, tmp_path):
    hands, truth = down_the_valley
    (flight,) = hands.window.session.climb.link.flown
    assert [link.name for link in flight.links] == ["picture", "telemetry", "control"]
    for link in flight.links:
        first, last = truth[link.name]
        assert link.spells[0].lost.distance_m == pytest.approx(first, abs=120.0), link.name
        assert link.spells[-1].back.distance_m == pytest.approx(last, abs=120.0), link.name
    lost = [link.spells[0].lost.distance_m for link in flight.links]
    assert lost == sorted(lost) and lost[2] > lost[0] + 200.0, "control goes later than the picture"
    text = day.report(hands, tmp_path)
    assert "Where what flew was lost, and back" in text


def test_the_beam_and_the_ridge_are_named_with_what_they_take(down_the_valley):
    hands, _ = down_the_valley
    link = hands.window.session.climb.link
    at = link.flown[0].links[0].spells[0].lost
    up = np.degrees(np.arctan2(FLIES_M - 6.0, at.distance_m))
    assert at.above_deg == pytest.approx(up, abs=0.3)
    assert at.off_beam_deg == pytest.approx(up - TILT, abs=0.3)
    assert -at.beam_db[0] == pytest.approx(-float(beam_db(up)), abs=0.8)
    assert f"{TILT - up:.0f}° under the beam" in link.detail
    telemetry = link.flown[0].links[1].spells[0].lost
    assert telemetry.way.over_db == pytest.approx(float(ridge_db(np.array([telemetry.distance_m]))[0]), abs=5.0)
    assert "behind the far ridge at 3.1 km" in link.detail or "grazing the far ridge at 3.1 km" in link.detail
    assert any("picture lost" in text and "under the beam" in text for text in day.checks(hands, "link"))


def test_what_a_tracker_may_lag_and_what_is_left_without_it(down_the_valley):
    hands, _ = down_the_valley
    tracker = hands.window.session.climb.link.flown[0].tracker
    if tracker is None:
        pytest.skip("an elevation cut alone leaves it all round")
    assert tracker.lag_s > 0 and tracker.stuck_db <= 0


def test_control_that_goes_first_is_an_alarm_and_else_none(hands, tmp_path):
    at_home(hands, tmp_path)
    path, truth = flown(tmp_path / "valley.csv", control=-38.0)
    assert truth["control"][0] < truth["picture"][0]
    fly(hands, path)
    assert any("control was lost first" in text for text in day.checks(hands, "link"))


def test_control_after_the_picture_is_no_alarm(down_the_valley):
    hands, _ = down_the_valley
    assert not any("control was lost first" in text for text in day.checks(hands, "link"))
    (check,) = [c for c in hands.window.session.climb.link.checks if "control was lost too" in c.text]
    assert "within sight" in check.why and "failsafe" in check.why
