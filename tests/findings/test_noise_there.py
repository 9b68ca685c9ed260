"""Noise at each end in the budget: as read there or by P.372, per place; which way it rules, and what then does not help."""

import numpy as np
import pytest

from tallmast.notebook.records import NoiseSite, Radio
from tallmast.physics.noise import external_figure_db, thermal_dbm

from .test_link import book

HZ = 869e6


def margin_of(made):
    return made.climb().link.margins[0]


def noted(made, place, **noise):
    made.add(made.records[place].revised(**noise))
    return made


def test_noise_read_at_the_place_takes_the_place_of_the_receiver_s_own():
    """−110 dBm by the receiver; −105 dBm of noise and 10 dB over it: −95 dBm, 15 dB less."""
    quiet, loud = margin_of(book()), margin_of(noted(book(), "rock", noise_dbm=-105.0))
    assert loud.figure.value == pytest.approx(quiet.figure.value - 15.0)
    assert loud.figure.u > quiet.figure.u
    assert any("15.0 dB of it by noise of −105.0 dBm there" in line for line in loud.figure.working.lines)


def test_noise_below_what_the_receiver_takes_changes_nothing():
    assert margin_of(noted(book(), "rock", noise_dbm=-125.0)).figure.value == margin_of(book()).figure.value


def test_by_the_recommendation_both_noises_add():
    """P.372 city at 200 MHz … by hand: kTB + Fa + 10 dB beside −110 dBm, as powers."""
    made = book()
    made.records["question"] = made.records["question"].revised(band_low_hz=144e6, band_high_hz=146e6)
    quiet = margin_of(made).figure.value
    made.add(Radio(id="set", name="set", bandwidth_hz=12_500.0, snr_db=10.0))
    made.add(made.records["far end"].revised(radio_id="set"))
    noted(made, "rock", surroundings="city")
    outside = thermal_dbm(12_500.0) + external_figure_db("city", 145e6) + 10.0
    taken = 10 * np.log10(10**-11 + 10 ** (outside / 10)) + 110.0
    assert quiet - margin_of(made).figure.value == pytest.approx(taken, abs=0.01)
    assert taken > 1.0


def test_without_a_bandwidth_the_kind_of_place_tells_nothing():
    made = noted(book(), "rock", surroundings="city")
    assert margin_of(made).figure.value == margin_of(book()).figure.value
    (check,) = [one for one in made.climb().link.checks if "can’t be reckoned with" in one.text]
    assert "bandwidth" in check.why


def test_a_band_that_the_recommendation_has_no_noise_for_is_said():
    """Of a city it goes to 250 MHz."""
    made = noted(book(), "rock", surroundings="city")
    made.add(Radio(id="set", name="set", bandwidth_hz=12_500.0))
    made.add(made.records["far end"].revised(radio_id="set"))
    (check,) = [one for one in made.climb().link.checks if "can’t be reckoned with" in one.text]
    assert "250 MHz" in check.why and "read the noise there" in check.why


def test_the_way_back_goes_by_noise_at_home():
    """What the far end sends is heard through −100 dBm at home: 10 dB over it is −90 dBm for −112."""
    made = book(power_w=0.1, hears_dbm=-112.0)
    quiet = margin_of(made)
    loud = margin_of(noted(made, "home", noise_dbm=-100.0))
    assert loud.back.value == pytest.approx(quiet.back.value - 22.0)
    assert loud.figure.value == quiet.figure.value


def test_what_was_noted_on_levels_of_the_noise_at_home_counts_too():
    made = book(power_w=0.1, hears_dbm=-112.0)
    quiet = margin_of(made).back.value
    made.add(NoiseSite(bandwidth_hz=50e3, receiver_figure_db=6.0, snr_db=12.0, floor_dbm=-104.0))
    assert margin_of(made).back.value == pytest.approx(quiet - 20.0)


def test_a_feed_weakens_what_the_antenna_hears_of_the_noise():
    """−104 dBm at the antenna's connector, 3 dB of feed, 12 dB over it: −95 dBm at the receiver."""
    made = book(power_w=0.1, hears_dbm=-112.0)
    quiet = margin_of(made).back.value
    site = NoiseSite(bandwidth_hz=50e3, receiver_figure_db=6.0, snr_db=12.0, floor_dbm=-104.0, feed_loss_db=3.0)
    made.add(site)
    assert margin_of(made).back.value == pytest.approx(quiet - 17.0)


def test_more_power_at_home_does_nothing_where_noise_at_home_rules():
    made = book(power_w=0.1, hears_dbm=-112.0)
    link = noted(made, "home", noise_dbm=-95.0).climb().link
    assert "−27.0 dB by noise" in link.detail and "noise at home rules it" in link.detail
    assert "more power at home does nothing for it" in link.detail
    (check,) = [c for c in link.checks if c.text.startswith("noise at home")]
    assert check.mark == "open" and "does nothing" in check.why


def test_a_quiet_day_says_nothing_of_noise():
    link = book(power_w=0.1, hears_dbm=-112.0).climb().link
    assert "noise" not in link.detail and not [c for c in link.checks if "noise" in c.text]


def test_a_noisy_place_on_the_way_is_not_reached_and_the_one_behind_it_is():
    made = book(wanted=2000.0)
    made.place("Pumphouse", 1000.0)
    reached = made.climb().link.how_far.rows[0].reached
    assert "Pumphouse" in reached
    noted(made, "pumphouse", noise_dbm=-60.0)
    row = made.climb().link.how_far.rows[0]
    assert "Pumphouse" in row.missed and "Rock" in row.reached


def test_levels_and_link_speak_of_the_same_noise():
    """What the staircase leaves over the far end's sensitivity is the Link's margin, noise there in both; and the same back."""
    made = noted(book(power_w=0.1, hears_dbm=-112.0), "rock", noise_dbm=-105.0)
    noted(made, "home", noise_dbm=-100.0)
    made.add(made.records["home end"].revised(power_w=0.1))
    climb = made.climb()
    margin = climb.link.margins[0]
    for staircase, told, level in ((climb.levels.out, margin.figure, -95.0), (climb.levels.back, margin.back, -90.0)):
        (met,) = [one for one in staircase.met if one.limit.name.endswith("sensitivity")]
        assert met.limit.level_dbm == pytest.approx(level)
        assert met.spare_db == pytest.approx(told.value, abs=0.1)
