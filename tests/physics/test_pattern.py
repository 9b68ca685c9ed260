"""Cuts of known shape, read."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import pattern

ANGLE = np.arange(0.0, 360.0, 2.0)


def beam(width_deg: float, at_deg: float) -> np.ndarray:
    """A Gaussian beam over a −20 dB floor: 3 dB down at half its width."""
    off = (ANGLE - at_deg + 180) % 360 - 180
    return np.maximum(-12.0 * (off / width_deg) ** 2, -20.0)


@given(st.floats(10, 120), st.floats(0, 359))
def test_the_width_of_a_gaussian_beam_wherever_it_points(width, at):
    found = pattern.beamwidth_deg(ANGLE, beam(width, at))
    assert found is not None
    assert found[0] == pytest.approx(width, rel=0.05, abs=0.8)


def test_an_omni_has_no_beamwidth():
    assert pattern.beamwidth_deg(ANGLE, np.sin(np.radians(ANGLE))) is None


def test_sidelobes_and_nulls_of_a_three_lobed_cut():
    off = (ANGLE + 180) % 360 - 180
    level = np.maximum.reduce(
        [
            -12 * (off / 40) ** 2,
            -11 - 12 * ((off - 70) / 25) ** 2,
            -15 - 12 * ((off + 80) / 25) ** 2,
            np.full_like(off, -35),
        ]
    )
    lobes = pattern.sidelobes(ANGLE, level)
    assert [round(lobe.angle_deg) for lobe in lobes[:2]] == [70, 280]
    assert lobes[0].below_peak_db == pytest.approx(11)
    assert all(lobe.below_peak_db >= 10 for lobe in pattern.nulls(ANGLE, level))
    assert pattern.nulls(ANGLE, level)[0].below_peak_db == pytest.approx(35)


def test_a_wiggle_is_not_a_lobe():
    random = np.random.default_rng(3)
    assert pattern.sidelobes(ANGLE, beam(60, 0) + random.normal(0, 0.15, len(ANGLE))) == []


def test_a_turn_is_tidied():
    angle, level = pattern.tidy_turn([-90, 0, 90, 180, 360], [1, 2, 3, 4, 4])
    assert angle.tolist() == [0, 90, 180, 270]
    assert level.tolist() == [3, 3, 4, 1]


def test_gaps_are_known():
    assert pattern.largest_gap_deg(np.array([0.0, 10, 20, 300])) == 280
