import numpy as np
import pytest
from scipy import special, stats

from tallmast.physics.normal_tails import erfcx, log_between, log_cdf

FAR = np.concatenate([np.linspace(-40, 40, 4001), [-1e3, -1e4, 1e3, 0.0]])


def test_the_distribution_and_its_logarithm_are_scipys():
    assert log_cdf(FAR) == pytest.approx(special.log_ndtr(FAR), rel=1e-7, abs=3e-11)
    assert erfcx(np.abs(FAR)) == pytest.approx(special.erfcx(np.abs(FAR)), rel=1e-11)


@pytest.mark.parametrize(("low", "high"), [(-1.0, 2.0), (9.0, 9.5), (-30.0, -29.0), (35.0, 36.0)])
def test_what_lies_between_is_exact_in_either_tail(low, high):
    a, b = (-high, -low) if low > 0 else (low, high)
    exact = special.log_ndtr(b) + np.log1p(-np.exp(special.log_ndtr(a) - special.log_ndtr(b)))
    assert log_between(low, high) == pytest.approx(exact, rel=1e-10)
    assert log_between(-1.0, 1.0) == pytest.approx(np.log(stats.norm.cdf(1) - stats.norm.cdf(-1)))
