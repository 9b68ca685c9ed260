"""Loss over what stands in the way, against the curves and limits of Rec. ITU-R P.526-15 and worked by hand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import fresnel

from tallmast.physics.constants import wavelength
from tallmast.physics.diffraction import (
    EARTH_M,
    Section,
    _first_term_db,
    bulge_m,
    fresnel_m,
    knife_edge_db,
    ray_m,
    smooth_earth_db,
)


def profile(whole_m=5000.0, edge_m=None, at_m=None, n=501):
    d = np.linspace(0.0, whole_m, n)
    h = np.zeros(n)
    if edge_m is not None:
        h[round((at_m if at_m is not None else whole_m / 2) / whole_m * (n - 1))] = edge_m
    return d, h


@pytest.mark.parametrize("v", [-0.7, -0.3, 0.0, 0.5, 1.0, 2.4, 5.0])
def test_one_edge_is_fresnels_integral(v):
    """P.526-15 (30): −20·log₁₀(½√((1 − C − S)² + (C − S)²)), of which (31) is the short form, good to 0.3 dB; grazing 6.02 dB."""
    s, c = fresnel(v)
    exact = -20.0 * np.log10(np.hypot(1 - c - s, c - s) / 2.0)
    assert float(knife_edge_db(v)) == pytest.approx(exact, abs=0.3)
    assert float(knife_edge_db(-0.79)) == 0.0


def test_the_earths_bulge_and_the_first_fresnel_zone():
    # 10 km at k = 4/3: 5000²/(2·8 494 667) = 1.47 m; at 869 MHz √(0.345·5000·5000/10000) = 29.4 m.
    assert float(bulge_m(5000.0, 10_000.0)) == pytest.approx(1.4715, abs=0.001)
    assert float(fresnel_m(5000.0, 10_000.0, 869e6)) == pytest.approx(29.37, abs=0.02)


def test_bullington_over_one_edge_is_that_edge_and_its_own_addition():
    """P.526-15 (45): L_uc + (1 − e^(−L_uc/6))·(10 + 0.02 d); the flat earth between is left out by a k of a million."""
    d, h = profile(10_000.0, 60.0)
    v = (60.0 - 10.0) * np.sqrt(2 * 10_000.0 / (wavelength(869e6) * 5000.0 * 5000.0))
    edge = float(knife_edge_db(v))
    expected = edge + (1 - np.exp(-edge / 6)) * (10 + 0.02 * 10)
    assert Section(d, h, 10.0, 10.0, 869e6, 1e6).bullington_db() == pytest.approx(expected, abs=1e-6)


def test_two_edges_become_one_where_the_rays_over_them_cross():
    """Hand-worked: edges of 50 m at 2 and 8 km of 10, ends at zero: rays 25 m/km from both sides meet at 5 km, 125 m up."""
    d, h = profile(10_000.0, 50.0, 2000.0)
    h += profile(10_000.0, 50.0, 8000.0)[1]
    v = 125.0 * np.sqrt(2 * 10_000.0 / (wavelength(869e6) * 25e6))
    edge = float(knife_edge_db(v))
    assert Section(d, h, 0.0, 0.0, 869e6, 1e9).bullington_db() == pytest.approx(
        edge + (1 - np.exp(-edge / 6)) * 10.2, abs=0.01
    )


def test_both_forms_of_the_distance_term_meet_at_1_6():
    """P.526-15 (17a) and (17b): F(1.6) = 11 + 2.04 − 28.16 = −15.1 dB by the one, −4.1 − 11.0 by the other."""

    def at(x):  # heights so low that G is 20·log of B and cancels
        mhz, radius = 869.0, EARTH_M * 4 / 3 / 1000
        d = x / (2.188 * mhz ** (1 / 3) * radius ** (-2 / 3))
        return _first_term_db(d * 1000, 10.0, 10.0, 869e6, EARTH_M * 4 / 3)

    assert at(1.5999) == pytest.approx(at(1.6001), abs=0.05)


def test_far_behind_the_horizon_the_smooth_earth():
    """Hand-worked by P.526-15 (13 to 18): 869 MHz, 60 km, 10 m and 10 m over k = 4/3 (a_e 8495 km): X = 2.188·9.543·60/416.3 = 3.009,
    F = 11 + 4.78 − 52.96 = −37.2; Y = 9.575e−3·91.07/20.4·10 = 0.4273, G = 20·log(0.4273 + 0.0078) = −7.23 each: 51.6 dB."""
    assert smooth_earth_db(60_000.0, 10.0, 10.0, 869e6) == pytest.approx(51.6, abs=0.2)


def test_a_short_high_path_sees_no_earth():
    assert smooth_earth_db(1000.0, 20.0, 20.0, 5.8e9) == 0.0
    d, h = profile(1000.0)
    assert Section(d, h, 20.0, 20.0, 5.8e9).over_profile_db() == 0.0


def test_from_where_0_55_of_the_zone_is_clear_to_the_horizon_the_loss_grows_steadily():
    d = np.linspace(2_000.0, 40_000.0, 300)
    loss = smooth_earth_db(d, 6.0, 4.0, 869e6)
    assert loss[0] > 0 and (np.diff(loss) > -1e-6).all()
    assert np.abs(np.diff(loss)).max() < 1.0, "no step where one form gives way to the other"


def test_over_flat_ground_the_profile_takes_what_the_smooth_earth_does():
    d, h = profile(30_000.0)
    assert Section(d, h, 10.0, 10.0, 869e6).over_profile_db() == pytest.approx(
        smooth_earth_db(30_000.0, 10.0, 10.0, 869e6), abs=0.1
    )


def test_the_smooth_surface_of_a_ramp_is_the_ramp():
    """P.526-15 (47 to 50): least squares through a straight line give it back."""
    d = np.linspace(0, 5000, 51)
    assert Section(d, 20 + d / 100, 100.0, 200.0, 869e6).smooth_ends_m() == (pytest.approx(20.0), pytest.approx(70.0))


def test_the_tightest_point_and_how_much_higher():
    d, h = profile(5000.0, 8.0, 1800.0)
    found = Section(d, h, 6.0, 6.0, 869e6).tightest()
    assert found.distance_m == pytest.approx(1800.0)
    bulge = 1800.0 * 3200.0 / (2 * 4 / 3 * EARTH_M)
    assert found.clearance_m == pytest.approx(6.0 - bulge - 8.0)
    assert found.fresnel_m == pytest.approx(np.sqrt(wavelength(869e6) * 1800 * 3200 / 5000))
    assert Section(d[:2], h[:2], 6.0, 6.0, 869e6).tightest() is None


@given(
    st.lists(st.floats(0, 300), min_size=5, max_size=60),
    st.floats(1, 60),
    st.floats(1, 60),
    st.sampled_from([145e6, 869e6, 5.8e9]),
)
def test_no_profile_makes_a_path_better_than_free_and_both_ways_are_alike(heights, one, other, hz):
    h = np.array(heights)
    d = np.linspace(0.0, 8000.0, len(h))
    a, b = h[0] + one, h[-1] + other
    loss = Section(d, h, a, b, hz).over_profile_db()
    assert np.isfinite(loss) and loss >= 0.0
    assert Section(d, h[::-1], b, a, hz).over_profile_db() == pytest.approx(loss, abs=1e-6)


@given(st.floats(5, 100), st.floats(0, 200))
def test_a_higher_ridge_costs_no_less(low, more):
    d, h = profile(8000.0, low)
    _, higher = profile(8000.0, low + more)
    assert (
        Section(d, higher, 10.0, 10.0, 869e6).bullington_db() >= Section(d, h, 10.0, 10.0, 869e6).bullington_db() - 1e-9
    )


def test_the_ray_sinks_by_the_bulge():
    assert float(ray_m(5000.0, 10_000.0, 10.0, 20.0)) == pytest.approx(15.0 - 1.4715, abs=0.001)
