"""The closed forms against SciPy."""

import math

import numpy as np
import pytest
import scipy.stats
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import statistics


@given(st.floats(0.5, 500), st.floats(0.5, 0.999))
def test_coverage_factor_is_students_t(degrees, confidence):
    expected = scipy.stats.t.ppf(0.5 + confidence / 2, degrees)
    assert statistics.coverage_factor(degrees, confidence) == pytest.approx(expected, rel=1e-6)


def test_many_degrees_are_normal():
    assert statistics.coverage_factor(math.inf) == pytest.approx(1.644854, abs=1e-4)


@given(st.floats(0.01, 60), st.integers(1, 12))
def test_chi2_tail(chi2, degrees):
    assert statistics.chi2_tail(chi2, degrees) == pytest.approx(scipy.stats.chi2.sf(chi2, degrees), rel=1e-6, abs=1e-12)


def test_normal_cdf():
    z = np.linspace(-4, 4, 17)
    assert statistics.normal_cdf(z) == pytest.approx(scipy.stats.norm.cdf(z), abs=1e-12)


@given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=30), st.floats(0, 100))
def test_percentiles_are_numpys(values, percent):
    assert statistics.percentile(values, percent) == pytest.approx(float(np.percentile(values, percent)), abs=1e-6)
    assert statistics.median(values) == pytest.approx(float(np.median(values)), rel=1e-12, abs=1e-9)


def test_of_nothing_there_is_no_middle():
    assert np.isnan(statistics.median([]))


@given(st.floats(1e-9, 1 - 1e-9))
def test_the_normal_quantile_is_scipys(p):
    from scipy.stats import norm

    assert float(statistics.normal_quantile(p)) == pytest.approx(norm.ppf(p), abs=1e-7)


@pytest.mark.parametrize("confidence", [0.9, 0.8])
@pytest.mark.parametrize("share", [0.0, 0.3, 0.7, 0.9, 1.0])
def test_the_factor_of_a_bounded_vector_holds_what_it_says(share, confidence):
    # Chance of |√(1−s)·z + √(2s)·cos φ| ≤ k by the mean over φ, z by SciPy's normal distribution.
    k = float(statistics.bounded_factor(share, confidence))
    cos = np.sqrt(2 * share) * np.cos(np.pi * (np.arange(20_000) + 0.5) / 20_000)
    sigma = max(np.sqrt(1 - share), 1e-12)
    held = np.mean(scipy.stats.norm.cdf((k - cos) / sigma) - scipy.stats.norm.cdf((-k - cos) / sigma))
    assert held == pytest.approx(confidence, abs=2e-4)


@pytest.mark.parametrize("degrees", [1, 2, 3, 4, 7, 10])
@pytest.mark.parametrize("chi2", [0.3, 2.0, 9.0])
def test_the_tail_of_chi_square_for_odd_and_even_degrees(chi2, degrees):
    assert statistics.chi2_tail(chi2, degrees) == pytest.approx(float(scipy.stats.chi2.sf(chi2, degrees)), rel=1e-9)


@pytest.mark.parametrize("degrees", [0.05, 0.3, 1.0, 2.5, 7.0, 300.0, 1e5])
@pytest.mark.parametrize("confidence", [0.5, 0.8, 0.9, 0.99])
def test_coverage_factors_are_those_of_students_t(degrees, confidence):
    want = float(scipy.stats.t.ppf(0.5 + confidence / 2, degrees))
    if want < 1e12:
        assert statistics.coverage_factor(degrees, confidence) == pytest.approx(want, rel=1e-7)


@pytest.mark.parametrize("degrees", [1.0, 2.5, 7.0, 40.0, 1000.0])
def test_degrees_are_found_again_from_their_factor(degrees):
    assert statistics.degrees_of(statistics.coverage_factor(degrees)) == pytest.approx(degrees, rel=1e-3)
    assert statistics.degrees_of(1.6) == math.inf
