"""The Link: budget by hand, margins by each basis, residual, range and the way back."""

import numpy as np
import pytest

from tallmast.findings.polarization import loss_between

from .build import Book
from .test_field import D


def book(wanted=3000.0, **far) -> Book:
    made = Book()
    made.home(wanted)
    made.antenna("A", known_gain_dbi=2.15, polarization="vertical")
    made.levels(power_w=0.01, full_power_w=0.1)
    made.far(**{"gain_dbi": 0.0, "sensitivity_dbm": -110.0, "polarization": "vertical", **far})
    return made


def test_free_space_budget_by_hand():
    # 20 dBm + 2.15 + 0 − (32.45 + 20 log 869 + 20 log 3) = 20 + 2.15 − 100.77 = −78.62; margin 31.38.
    margin = book().climb().link.margins[0]
    assert margin.basis == "free space only"
    assert margin.figure.value == pytest.approx(31.38, abs=0.02)


def test_the_measured_path_beats_the_budget():
    made = book()
    a = made.records["a"]
    for number in (1, 2):
        made.log(made.run(a, number, power_w=0.01, pad_db=6), D, -60 - 25 * np.log10(D / 100))
    link = made.climb(a).link
    # −60 − 25·log₁₀(30) = −96.93; + 10 dB power + 6 dB pad = −80.93; margin 29.07.
    assert link.margins[0].basis == "measured"
    assert link.margins[0].figure.value == pytest.approx(29.07, abs=0.1)
    # Range: 3 km · 10^(29.07/25) = 43.6 km.
    assert link.margins[0].reach.value == pytest.approx(43.6, rel=0.02)
    assert "radio horizon" in link.detail


def test_a_hidden_loss_shows_as_a_residual():
    made = book()
    a = made.records["a"]
    free = 10 + 2.15 - (32.45 + 20 * np.log10(869) + 20 * np.log10(D / 1000))
    for number in (1, 2):
        made.log(made.run(a, number, power_w=0.01), D, free - 9.0)
    link = made.climb(a).link
    assert link.residual.value == pytest.approx(-9.0, abs=0.1)
    assert "weaker than free space: look at cable" in link.detail
    assert link.standing.mark == "disagreement"


def test_an_antenna_that_was_not_run_goes_by_its_gain():
    made = book()
    a, b = made.records["a"], made.antenna("B", known_gain_dbi=8.15, polarization="vertical")
    for number in (1, 2):
        made.log(made.run(a, number), D, -60 - 25 * np.log10(D / 100))
    margins = {m.antenna.name: m for m in made.climb(b).link.margins}
    assert margins["B"].basis == "by its gain on the measured path"
    assert margins["B"].figure.value - margins["A"].figure.value == pytest.approx(6.0, abs=1e-6)


def test_the_way_back():
    made = book(power_w=0.01, home_sensitivity_dbm=-116.0)
    margin = made.climb().link.margins[0]
    # 10 dB less power, a receiver 6 dB better: 4 dB less.
    assert margin.back.value == pytest.approx(margin.figure.value - 4.0)


def test_what_if():
    reach = book().climb(what_if_power_w=0.4).link.what_if
    # Four times the power doubles the range in free space.
    assert reach.value == pytest.approx(2 * book().climb().link.margins[0].reach.value, rel=1e-3)


def test_not_heard_though_expected_is_a_disagreement():
    made = book(wanted=1000.0)
    a = made.records["a"]
    for number in (1, 2):
        made.log(made.run(a, number, power_w=0.1), D, -60 - 25 * np.log10(D / 100))
    made.reading(made.records["run1"], "rock", heard=False)
    assert any(c.mark == "disagrees" and "not heard at Rock" in c.text for c in made.climb(a).link.checks)


def test_what_is_missing_is_named():
    made = Book()
    made.antenna("A")
    detail = made.climb().link.detail
    assert "power and pads" in detail and "far end" in detail and "a place to reach" in detail


@pytest.mark.parametrize(
    ("one", "other", "loss"),
    [
        ("vertical", "vertical", 0.0),
        ("vertical", "horizontal", 20.0),
        ("vertical", "slant", 3.01),
        ("right circular", "right circular", 0.25),
    ],
)
def test_polarization_by_types(one, other, loss):
    figure = loss_between(one, None, other, None)
    assert figure.value == pytest.approx(loss, abs=0.3)
    assert figure.value == pytest.approx(loss_between(other, None, one, None).value)


def test_linear_to_circular_is_three_decibels_with_the_ellipses_doubt():
    figure = loss_between("right circular", 2.0, "vertical", None)
    # η = ½ + 2·r₁r₂/((1+r₁²)(1+r₂²)) over all tilts, r₁ = 1.259, r₂ = 100: 0.5097, 2.93 dB; swing (r₁²−1)/(2(r₁²+1)) =
    # 0.113, of which 0.9877 holds 90 %: 2.07 to 4.01 dB.
    assert figure.value == pytest.approx(2.93, abs=0.01)
    assert figure.interval == pytest.approx((2.07, 4.01), abs=0.02)
    assert figure.u == pytest.approx(0.69, abs=0.02)


@pytest.mark.parametrize(("ratio_db", "loss"), [(1.0, 21.8), (3.0, 12.6)])
def test_opposite_senses_are_parted_by_their_axial_ratios_in_the_mean_of_power(ratio_db, loss):
    figure = loss_between("right circular", ratio_db, "left circular", ratio_db)
    assert figure.value == pytest.approx(loss, abs=0.05)
    low, high = figure.interval
    # Aligned ellipses pass twice the mean: 3 dB less; nothing outdoors parts more than 30 dB.
    assert low == pytest.approx(loss - 2.98, abs=0.05)
    assert high <= 30.0


def test_perfect_circles_are_kept_apart_by_at_least_what_is_ever_seen():
    assert loss_between("right circular", 0.0, "left circular", 0.0).text == "at least 30.0 dB"
