"""Local straight lines: exact on a line, smooth on a curve, silent beyond the points."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.local_line import local_line

REACHES = (5.0, 10.0, 20.0)


@given(st.floats(-5, 5), st.floats(-2, 2))
def test_a_straight_line_is_given_back_exactly(start, slope):
    x = np.linspace(0, 50, 40)
    found = local_line(x, start + slope * x, [10.0, 25.0, 40.0], REACHES)
    assert found.value == pytest.approx(start + slope * np.array([10.0, 25.0, 40.0]), abs=1e-6)
    assert found.slope == pytest.approx(np.full(3, slope), abs=1e-6)


def test_a_curve_is_followed_within_its_uncertainty():
    random = np.random.default_rng(1)
    x = np.sort(random.uniform(0, 60, 400))
    y = 3 * np.cos(x / 12) + random.normal(0, 0.5, 400)
    at = np.arange(6, 55, 4.0)
    found = local_line(x, y, at, REACHES)
    assert np.mean(np.abs(found.value - 3 * np.cos(at / 12)) < 2 * found.u) > 0.8
    assert found.scatter == pytest.approx(0.5, abs=0.06)


def test_beyond_the_points_nothing_is_told():
    x = np.linspace(10, 20, 30)
    found = local_line(x, x, [0.0, 15.0, 40.0], REACHES)
    assert np.isnan(found.value[[0, 2]]).all() and np.isfinite(found.value[1])


def test_too_few_points_tell_nothing():
    assert np.isnan(local_line([0.0, 1.0], [0.0, 1.0], [0.5], REACHES).value).all()
