"""Two on one band: C/I by hand, isolation by both ellipses with one reflection, how near the other may come, and which antenna parts best."""

import numpy as np
import pytest

from tallmast.findings.link.shared_band import isolation_db
from tallmast.notebook.records import Antenna, Branch, Neighbour
from tallmast.physics.propagation import free_space_loss_db

from .test_how_far import high
from .test_link import book

HZ = 869e6


def with_other(made, **settings):
    defaults = {"name": "rover", "power_w": 0.1, "gain_dbi": 2.15, "distance_m": 1000.0}
    made.add(Neighbour(id="n", **{**defaults, **settings}))
    return made.climb(made.records["a"]).link


def end_of(link, end):
    return next(one for one in link.shared if one.end == end)


def test_the_same_sender_at_the_same_distance_is_as_strong():
    """Both 100 mW through 2.15 dBi over 3 km, heard by the far end: C/I 0 dB."""
    made = high(book())
    made.place("Hut", 100.0, 217.0)
    link = with_other(made, place_id="hut", distance_m=None)
    one = end_of(link, "away")
    assert one.distance_m == pytest.approx(3100.0, rel=0.01)
    assert one.over.value == pytest.approx(20 * np.log10(3100 / 3000), abs=0.3)
    assert one.enough != "holds"


def test_by_hand_at_home():
    """What home hears: far 10 mW + 0 dBi − FS(3 km) + 2.15 against 100 mW + 2.15 − FS(1 km) + 2.15."""
    made = high(book(power_w=0.01, hears_dbm=-110.0))
    one = end_of(with_other(made), "home")
    wanted = 10.0 + 0.0 - float(free_space_loss_db(3000.0, HZ)) + 2.15
    other = 20.0 + 2.15 - float(free_space_loss_db(1000.0, HZ)) + 2.15
    assert one.wanted.value == pytest.approx(wanted, abs=0.1)
    assert one.other.value == pytest.approx(other, abs=0.1)
    assert one.over.value == pytest.approx(wanted - other, abs=0.1)
    assert one.enough == "fails"


def test_a_filter_takes_its_decibels_out():
    made = high(book(power_w=0.01, hears_dbm=-110.0))
    near = end_of(with_other(made), "home").over.value
    far = end_of(with_other(made, spacing_hz=40e6, selectivity_db=60.0), "home")
    assert far.over.value == pytest.approx(near + 60.0)
    assert far.enough == "holds"


def test_how_near_it_may_come():
    made = high(book(power_w=0.01, hears_dbm=-110.0))
    one = end_of(with_other(made, spacing_hz=40e6, selectivity_db=60.0), "home")
    moved = end_of(with_other(made, spacing_hz=40e6, selectivity_db=60.0, distance_m=one.nearest.value * 1e3), "home")
    assert moved.over.value == pytest.approx(one.neighbour.needed_db, abs=0.7)
    assert one.nearest.value * 1e3 < one.distance_m


def test_opposite_senses_part_by_both_axial_ratios_and_no_more_than_a_reflection_lets():
    """Axial ratios of 1 dB: 22 dB in the mean over tilt; with a reflection 18 dB down 16.6 dB."""
    right = Antenna(name="R", polarization="right circular", axial_ratio_db=1.0)
    found = isolation_db(right, "left circular", 1.0)
    assert found.value == pytest.approx(-10 * np.log10(10**-2.2 + 10**-1.8), abs=0.6)
    assert isolation_db(right, "right circular", 1.0).value == pytest.approx(0.0, abs=0.1)
    assert isolation_db(right, "left circular", 6.0).value < found.value


def test_the_antenna_that_parts_best_is_first():
    made = high(book(power_w=0.01, hears_dbm=-110.0, polarization="right circular", axial_ratio_db=1.0))
    made.antenna("Left", known_gain_dbi=5.0, polarization="left circular", axial_ratio_db=1.0)
    made.antenna("Right", known_gain_dbi=5.0, polarization="right circular", axial_ratio_db=1.0)
    one = end_of(with_other(made, polarization="left circular", axial_ratio_db=1.0), "home")
    assert one.by_antenna[0][0].name == "Right" and one.by_antenna[-1][0].name == "Left"


def test_a_beam_that_looks_away_counts():
    made = high(book(power_w=0.01, hears_dbm=-110.0))
    made.place("Hut", 1000.0, 217.0)  # straight behind: the wanted one lies at 37°
    plain = end_of(with_other(made, place_id="hut", distance_m=None), "home").other.value
    angle = np.arange(0, 360, 5.0)
    off = (angle + 180) % 360 - 180
    made.cut(made.records["a"], np.maximum(-12 * (off / 60) ** 2, -20.0), angle)
    behind = end_of(with_other(made, place_id="hut", distance_m=None), "home").other.value
    assert plain - behind == pytest.approx(20.0, abs=1.5)


def test_nothing_that_parts_them_is_said():
    made = high(book(power_w=0.01, hears_dbm=-110.0))
    texts = [c.text for c in with_other(made).checks]
    assert any(t.startswith("home:") and "over rover, 10 wanted" in t for t in texts)
    assert any(t.startswith("nothing parts rover from the wanted at home") for t in texts)


def test_a_quiet_one_far_off_raises_nothing():
    made = high(book(power_w=0.01, hears_dbm=-110.0))
    link = with_other(made, power_w=1e-6, distance_m=30_000.0)
    assert {one.enough for one in link.shared} == {"holds"}


def test_one_that_stands_nowhere_known_is_said_so():
    made = high(book())
    made.place("Hut", 100.0)
    made.add(made.records["hut"].revised(latitude_deg=None, longitude_deg=None))
    link = with_other(made, place_id="hut", distance_m=None)
    assert link.shared == ()
    assert "where rover stands is not known" in [c.text for c in link.checks]


def test_what_home_hears_is_said_not_to_be_known():
    texts = [c.text for c in with_other(high(book())).checks]
    assert "rover is not held against what home hears" in texts


def test_a_beam_whose_bearing_is_noted_looks_there():
    """The antenna is noted to look at 217°, straight at the hut: no decibel is lost toward it, whatever place is wanted."""
    made = high(book(power_w=0.01, hears_dbm=-110.0))
    made.place("Hut", 1000.0, 217.0)
    angle = np.arange(0, 360, 5.0)
    off = (angle + 180) % 360 - 180
    made.cut(made.records["a"], np.maximum(-12 * (off / 60) ** 2, -20.0), angle)
    away = end_of(with_other(made, place_id="hut", distance_m=None), "home").other.value
    made.add(made.records["home end"].revised(branches=[Branch(antenna_id="a", azimuth_deg=217.0)]))
    there = end_of(with_other(made, place_id="hut", distance_m=None), "home").other.value
    assert there - away == pytest.approx(20.0, abs=1.5)
