"""Gain on a range, worked by hand and against the books."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.gain_range import mismatch_u_db, of_three, reflected_share, reflection_u_db, sum_of_gains_db

gains = st.floats(-5, 30)


def test_three_antennas_by_hand():
    # 10 m at 1 GHz: 52.44 dB of free space. Sent 0 dBm, received −40.44: 12 dBi together; −38.44: 14; −36.44: 16.
    sums = [sum_of_gains_db(p, 0.0, 10.0, 1e9) for p in (-40.44, -38.44, -36.44)]
    assert sums == pytest.approx([12.0, 14.0, 16.0], abs=0.02)
    assert of_three(12.0, 14.0, 16.0) == (5.0, 7.0, 9.0)


@given(gains, gains, gains)
def test_three_sums_give_three_gains_back(a, b, c):
    assert of_three(a + b, a + c, b + c) == pytest.approx((a, b, c), abs=1e-9)


def test_mismatch_of_two_reflections():
    # SWR 1.5 on both sides: |Γ| = 0.2; ±0.35 dB at most, 0.25 dB of standard uncertainty.
    assert mismatch_u_db(0.2, 0.2) == pytest.approx(0.2457, abs=1e-3)


def test_a_ripple_of_2_db_is_a_reflection_19_db_down():
    # k = 10^0.1 = 1.2589: (k−1)/(k+1) = 0.1146, 18.8 dB down, which leaves 0.70 dB of one level.
    share = reflected_share([-40.0, -41.0, -42.0, -41.2, -40.3])
    assert share == pytest.approx(0.1146, abs=1e-4)
    assert reflection_u_db(share) == pytest.approx(0.704, abs=1e-3)
    with pytest.raises(ValueError, match="four"):
        reflected_share(np.zeros(3))
