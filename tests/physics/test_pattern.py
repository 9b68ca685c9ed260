"""Cuts of known shape, read."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import pattern
from tallmast.physics.pattern import directivity_db, from_two_cuts

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


class TestDirectivity:
    """By integration, against the closed forms of the books."""

    @pytest.mark.parametrize(
        ("level", "expected"),
        [
            # Short dipole and small loop: sin²θ, 1.5: 1.761 dBi (Balanis §4.2, §5.2).
            (lambda a, e: 20 * np.log10(np.maximum(np.cos(np.radians(e)), 1e-6)), 1.761),
            # Half-wave dipole: 1.643: 2.156 dBi (Balanis §4.6).
            (
                lambda a, e: (
                    20
                    * np.log10(
                        np.maximum(
                            np.cos(np.pi / 2 * np.sin(np.radians(e))) / np.maximum(np.cos(np.radians(e)), 1e-9), 1e-6
                        )
                    )
                ),
                2.156,
            ),
            # Two isotropic ones half a wavelength apart, in phase: 2/(1 + sin(kd)/kd) = 2: 3.01 dBi (Kraus §4-2).
            (
                lambda a, e: (
                    20
                    * np.log10(
                        np.maximum(np.abs(np.cos(np.pi / 2 * np.sin(np.radians(a)) * np.cos(np.radians(e)))), 1e-6)
                    )
                ),
                3.010,
            ),
            # cos^4 in power over one half of space: 2(n + 1) = 10: 10 dBi (Stutzman and Thiele §2.8).
            (
                lambda a, e: np.where(
                    np.abs((np.asarray(a) + 180) % 360 - 180) < 90,
                    40 * np.log10(np.maximum(np.cos(np.radians(a)) * np.cos(np.radians(e)), 1e-6)),
                    -120.0,
                ),
                10.0,
            ),
        ],
    )
    def test_closed_forms(self, level, expected):
        assert directivity_db(level, step_deg=1.0) == pytest.approx(expected, abs=0.02)

    def test_two_cuts_of_a_product_give_it_back(self):
        fine = np.arange(0.0, 360.0, 5.0)
        dipole = 20 * np.log10(np.maximum(np.abs(np.cos(np.radians(fine))), 1e-2))
        assert directivity_db(from_two_cuts((fine, np.zeros(72)), (fine, dipole))) == pytest.approx(1.76, abs=0.05)
