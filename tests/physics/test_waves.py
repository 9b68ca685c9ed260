"""Waves between two antennas in any attitude, against laws and values of the books."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.attitude import axes, pointing
from tallmast.physics.polarization import polarization_efficiency
from tallmast.physics.waves import Wave, beam_gain, dipole_gain, doughnut_gain, facing, fields, minor_of, passed


def even(azimuth, elevation):
    return np.ones(np.broadcast_shapes(np.shape(azimuth), np.shape(elevation)))


UP, ACROSS = (0.0, 0.0, 1.0), (0.0, 1.0, 0.0)


def link(one: Wave, other: Wave, roll_one=0.0, roll_other=0.0, bearing=30.0) -> float:
    """The one looks along a bearing at the other, which looks back; each rolled about that line."""
    k = pointing(bearing, 0.0)
    mine = fields(one, axes(bearing, 0.0, roll_one), k)
    theirs = fields(other, axes(bearing + 180.0, 0.0, roll_other), -k)
    return float(passed(mine, facing(theirs)))


def linear(axis=UP):
    return Wave(even, axis)


def circular(right: bool, ratio_db: float = 0.0):
    return Wave(even, UP, minor_of(ratio_db, right))


@pytest.mark.parametrize(("bank", "loss"), [(0, 0.0), (30, 1.25), (45, 3.01), (60, 6.02)])
def test_turning_one_of_two_linear_ones_loses_the_square_of_the_cosine(bank, loss):
    # Malus: 30° of bank costs 1.25 dB, 45° 3.01 dB.
    assert -10 * np.log10(link(linear(), linear(), bank)) == pytest.approx(loss, abs=0.005)


@given(st.floats(-180, 180))
def test_circular_on_linear_loses_3_db_and_never_more_by_turning(roll):
    assert -10 * np.log10(link(circular(True), linear(), 0.0, roll)) == pytest.approx(3.01, abs=0.01)


def test_senses():
    assert link(circular(True), circular(True)) == pytest.approx(1.0, abs=1e-5)
    assert link(circular(False), circular(False)) == pytest.approx(1.0, abs=1e-5)
    assert link(circular(True), circular(False)) < 1e-6


@given(st.floats(0, 12), st.floats(0, 12), st.booleans(), st.booleans(), st.floats(-90, 90))
def test_any_two_ellipses_as_the_closed_form_has_it(one, other, right, other_right, roll):
    # Rolled clockwise as each sees it from behind itself: seen from one side the tilts differ by the sum of both.
    got = link(circular(right, one), circular(other_right, other), roll, 0.0)
    assert got == pytest.approx(polarization_efficiency(one, right, other, other_right, roll), abs=1e-4)


def test_a_lying_dipole_end_on_gives_nothing_and_broadside_its_gain():
    lying = Wave(lambda a, e: dipole_gain(np.cos(np.radians(a)) * np.cos(np.radians(e))), (1.0, 0.0, 0.0))
    k = pointing(0.0, 0.0)
    end_on, broadside = fields(lying, axes(0.0), k), fields(lying, axes(90.0), k)
    assert float(np.sum(np.abs(end_on) ** 2)) < 1e-3
    assert 10 * np.log10(float(np.sum(np.abs(broadside) ** 2))) == pytest.approx(2.15, abs=0.01)
    assert abs(broadside[1]) < 1e-3, "horizontal"


def whole(gain) -> float:
    """Mean gain over the sphere."""
    elevation = np.linspace(-89.75, 89.75, 360)
    azimuth = np.arange(0, 360, 1.0)
    a, e = np.meshgrid(azimuth, elevation)
    weight = np.cos(np.radians(e))
    return float((gain(a, e) * weight).sum() / weight.sum())


@pytest.mark.parametrize("gain", [2.15, 6.0, 9.0])
def test_a_doughnut_radiates_what_it_is_given(gain):
    assert whole(doughnut_gain(gain)) == pytest.approx(1.0, abs=0.01)


def test_more_gain_is_darker_overhead():
    at_45 = [10 * np.log10(float(doughnut_gain(g)(np.array(0.0), np.array(45.0)))) for g in (2.15, 5.15, 8.15)]
    assert at_45[0] > at_45[1] > at_45[2]


@pytest.mark.parametrize("gain", [8.0, 12.0])
def test_a_beam_radiates_what_it_is_given(gain):
    assert whole(beam_gain(gain, back_db=60)) == pytest.approx(1.0, abs=0.02)


def test_a_half_wave_dipole_has_2_15_dbi():
    def gain(a, e):
        return dipole_gain(np.sin(np.radians(e)))

    assert whole(gain) == pytest.approx(1.0, abs=0.002)
    assert 10 * np.log10(float(dipole_gain(0.0))) == pytest.approx(2.156, abs=0.001)
