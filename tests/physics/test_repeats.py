"""What repeats say: grain, likeness in time."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import repeats


@pytest.mark.parametrize(
    ("values", "grain"),
    [
        ([-60, -66], 1.0),
        ([-60.5, -66], 0.5),
        ([-60.2, -61.0], 0.2),
        ([1.23, 4.5], 0.01),
        ([np.pi, 1.0], 0.0),
        ([], 0.0),
    ],
)
def test_the_grain_is_the_largest_step_of_which_all_are_multiples(values, grain):
    assert repeats.grain_of(values) == grain


def test_steady_readings_have_a_rectangle_and_scatter_shakes_it_out():
    # GUM F.2.2.1: q/√12.
    assert repeats.u_of_grain(1.0, 0.0) == pytest.approx(0.2887, abs=1e-4)
    assert repeats.u_of_grain(1.0, 0.6) < 0.01
    assert repeats.u_of_grain(0.0, 0.3) == 0.0
    random = np.random.default_rng(1)
    for own in (0.15, 0.25, 0.4):
        true = random.uniform(0, 1, 400)
        means = np.array([np.round(t + random.normal(0, own, 4000)).mean() for t in true])
        # Widrow and Kollár: the sine that is left has 1/π of the step at no scatter.
        assert np.std(means - true) == pytest.approx(repeats.u_of_grain(1.0, np.hypot(own, 0.2887)), abs=0.05)


def process(random, n, rho):
    out = [random.normal()]
    for _ in range(n - 1):
        out.append(rho * out[-1] + random.normal(0, np.sqrt(1 - rho**2)))
    return np.array(out)


@pytest.mark.parametrize("rho", [0.0, 0.5, 0.8])
def test_likeness_is_found_and_the_mean_is_as_uncertain_as_it_says(rho):
    random = np.random.default_rng(3)
    groups = [process(random, 20, rho) for _ in range(60)]
    assert repeats.likeness(groups) == pytest.approx(rho, abs=0.08)
    means = np.array([g.mean() for g in groups])
    shown = np.mean([g.var(ddof=1) for g in groups])
    said = np.sqrt(shown * repeats.inflation(20, rho) / 20)
    assert said == pytest.approx(np.std(means), rel=0.3)


@given(st.integers(2, 40))
def test_readings_that_are_not_alike_are_not_widened(n):
    assert repeats.inflation(n, 0.0) == pytest.approx(1.0)
    assert repeats.degrees([n, n], 0.0) == 2 * (n - 1)


def test_nothing_to_go_by():
    assert repeats.likeness([]) == 0.0
    assert repeats.likeness([np.array([1.0, 1.0, 1.0])]) == 0.0
    assert repeats.inflation(1, 0.9) == 1.0
