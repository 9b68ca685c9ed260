"""The polarization ellipse: values worked by hand and from the books."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.ellipse import of_phases, of_senses, rotated


def levels(psi, ratio_db, tilt, top=-40.0):
    minor = 10 ** (-ratio_db / 10)
    off = np.radians(psi - tilt)
    return top + 10 * np.log10(np.cos(off) ** 2 + minor * np.sin(off) ** 2)


@given(st.floats(0.3, 25), st.floats(0, 179), st.sampled_from([15.0, 22.5, 30.0]))
def test_a_clean_turn_gives_axial_ratio_and_tilt_back(ratio, tilt, step):
    psi = np.arange(0, 360, step)
    found = rotated(psi, levels(psi, ratio, tilt))
    assert found.axial_ratio_db == pytest.approx(ratio, abs=0.05)
    assert (found.tilt_deg - tilt + 90) % 180 - 90 == pytest.approx(0, abs=0.5)


def test_a_floor_makes_it_rounder_and_is_taken_out():
    # 12 dB with a floor 20 dB under the maximum: the minimum reads 10^(−1.2) + 10^(−2) = 0.0731 against 1.01: 11.4 dB.
    psi = np.arange(0, 180, 15.0)
    power = 10 ** (levels(psi, 12.0, 30.0, 0.0) / 10) + 0.01
    read = 10 * np.log10(power)
    assert rotated(psi, read).axial_ratio_db == pytest.approx(11.4, abs=0.05)
    assert rotated(psi, read, floor_db=-20.0).axial_ratio_db == pytest.approx(12.0, abs=0.05)


def test_a_minimum_at_the_floor_is_only_at_least():
    random = np.random.default_rng(5)
    psi = np.arange(0, 360, 15.0)
    power = 10 ** (levels(psi, 35.0, 80.0, 0.0) / 10) + 0.02
    found = rotated(psi, 10 * np.log10(power) + random.normal(0, 0.5, len(psi)), floor_db=10 * np.log10(0.02))
    assert found.high_db == float("inf")
    assert 14 < found.low_db < 36


def test_three_angles_or_all_on_one_side_tell_no_ellipse():
    assert rotated([0, 60, 120], [-40, -41, -42]) is None
    assert rotated([0, 180, 90, 270], [-40, -40, -42, -42]) is None
    assert rotated([0, 1, 2, 3, 4], [-40, -40, -40, -40, -40]) is None


@pytest.mark.parametrize(
    ("upright", "across", "phase", "ratio", "tilt", "right"),
    [
        (0, 0, -90, 0.0, None, True),  # equal and a quarter behind: right-hand circular
        (0, 0, 90, 0.0, None, False),
        (0, -6.0206, -90, 6.02, 0, True),  # half the field at a right angle: the ratio of the axes is two
        (0, 0, -45, 7.66, 45, True),  # Born and Wolf: tan χ = tan 22.5° = 0.4142
        (0, 0, -0.001, 60.0, 45, True),  # slant linear
    ],
)
def test_ellipses_from_two_phases(upright, across, phase, ratio, tilt, right):
    got = of_phases(upright, across, phase)
    assert got[0] == pytest.approx(ratio, abs=0.02) and got[2] is right
    if tilt is not None:
        assert got[1] == pytest.approx(tilt, abs=0.01)


@pytest.mark.parametrize(("apart", "ratio"), [(0, 60.0), (15.0, 3.122), (25.0, 0.977), (20.0, 1.743), (9.542, 6.02)])
def test_cross_polarization_and_axial_ratio(apart, ratio):
    # (ρ+1)/(ρ−1): 20 dB apart, ρ = 10: 11/9 = 1.743 dB; 9.54 dB, ρ = 3: 4/2 = 6.02 dB.
    assert of_senses(apart) == pytest.approx(ratio, abs=0.01)
