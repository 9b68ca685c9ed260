"""Two rays, worked by hand."""

import numpy as np
import pytest

from tallmast.physics.propagation import free_space_loss_db, plane_earth_loss_db
from tallmast.physics.two_rays import both_rays_db, phase_u_rad, reflection


def test_reflection_at_grazing_is_minus_one_both_ways():
    for vertical in (True, False):
        assert reflection(0.01, 869e6, "ordinary ground", vertical) == pytest.approx(-1.0, abs=0.01)


def test_straight_down_by_hand():
    # ε = 15 − j·0.03/(2π·869e6·8.854e-12) = 15 − j0.62: horizontal (1 − √14.98…)/(1 + …) = −0.59.
    assert abs(reflection(90.0, 869e6, "ordinary ground", False)) == pytest.approx(0.59, abs=0.01)


def test_at_the_pseudo_brewster_angle_a_vertical_wave_is_hardly_reflected():
    # tan ψ = 1/√ε: 14.5° for ε = 15.
    psi = np.arange(1, 90, 0.5)
    least = psi[np.argmin(np.abs(reflection(psi, 869e6, "ordinary ground", True)))]
    assert least == pytest.approx(14.5, abs=1.0)
    assert abs(reflection(least, 869e6, "ordinary ground", True)) < 0.05


def test_metal_reflects_all_of_it():
    assert np.abs(reflection([5.0, 30.0, 80.0], 869e6, "metal", False)) == pytest.approx(1.0, abs=1e-3)


def test_roughness_takes_the_second_ray_away():
    rough = abs(reflection(20.0, 869e6, "sea", False, rough_m=0.2))
    # 2·(2π·0.2·sin 20°/0.345)² = 3.1: e^−3.1 = 0.045 of it is left.
    assert rough / abs(reflection(20.0, 869e6, "sea", False)) == pytest.approx(0.045, abs=0.01)


def test_far_out_it_is_the_plane_earth():
    # 40·log d − 20·log h₁h₂ at 8 km with 4 m and 2 m (Egli; Rec. ITU-R P.1411): both rays are that much over free space.
    d = np.array([8000.0, 12000.0])
    got = both_rays_db(d, 4.0, 2.0, 169e6, "metal", False)
    expected = free_space_loss_db(d, 169e6) - plane_earth_loss_db(d, 4.0, 2.0, 169e6)
    assert got == pytest.approx(np.maximum(expected, 20 * np.log10(0.03)), abs=0.3)


def test_a_maximum_is_6_db_over_free_space():
    level = both_rays_db(np.linspace(30, 400, 4000), 6.0, 4.0, 869e6, "metal", False)
    assert level.max() == pytest.approx(6.0, abs=0.1)


def test_a_height_to_a_metre_tells_no_phase_at_869_mhz_near_by():
    # 2π/0.345·2·6·1/50 = 4.4 rad; at 98 MHz 0.5.
    assert phase_u_rad(50.0, 6.0, 1.0, 869e6) == pytest.approx(4.37, abs=0.02)
    assert phase_u_rad(50.0, 6.0, 1.0, 98e6) == pytest.approx(0.49, abs=0.01)
