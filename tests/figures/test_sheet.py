"""Long curves thinned to what pixels can show: no peak is lost, short ones are left alone."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.figures.bench import in_sight
from tallmast.figures.sheet import Axis, columns, thinned


@given(st.integers(2500, 20_000), st.integers(1, 20_000), st.floats(100, 700))
def test_the_greatest_and_least_are_always_drawn(n, at, width):
    x, y = np.linspace(0, width, n), np.zeros(n)
    y[at % n] = 9.0
    y[(at * 7 + 1) % n] = -9.0
    tx, ty = thinned(x, y)
    assert (ty.max(), ty.min()) == (y.max(), y.min())
    assert len(tx) <= len(x)
    spike = tx[np.argmax(ty)]
    assert abs(spike - x[np.argmax(y)]) <= 1.0


def test_what_would_not_pay_or_goes_back_is_left_alone():
    x = np.linspace(0, 600, 2000)
    assert thinned(x, x)[0] is x
    back = np.concatenate((np.linspace(0, 600, 5000), np.linspace(600, 0, 5000)))
    assert columns(back) is None
    assert columns(np.linspace(0, 1e5, 10_000)) is None


def test_a_hundred_thousand_points_become_two_a_column():
    x, y = np.linspace(0, 600, 100_001), np.random.default_rng(1).normal(size=100_001)
    tx, _ = thinned(x, y)
    assert len(tx) == 2 * 601


@pytest.mark.parametrize(
    ("low", "high", "first", "last"), [(840, 900, 840, 900), (860, 870, 859.9, 870.1), (800, 845, 840, 845.1)]
)
def test_only_what_is_in_sight_is_drawn(low, high, first, last):
    f = np.linspace(840e6, 900e6, 601)
    part = f[in_sight(f, Axis(low, high, 0, 100))]
    assert part[0] / 1e6 == pytest.approx(first, abs=0.11)
    assert part[-1] / 1e6 == pytest.approx(last, abs=0.11)
