"""Lobes by a curve, levels by their neighbours: known shapes, and noise that must not pull them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import lobe

ANGLE = np.arange(0.0, 360.0, 2.0)


def gauss(width: float, at: float = 0.0, angle=ANGLE):
    return -12.041 * ((angle - at + 180) % 360 - 180) ** 2 / width**2


def line_source(width: float, angle=ANGLE):
    """20·log₁₀(sin x/x), 3 dB down at x = 1.3916 (Balanis, table 6.7: 0.443 of λ/L either side)."""
    x = 1.3916 * ((angle + 180) % 360 - 180) / (width / 2)
    return np.maximum(20 * np.log10(np.abs(np.sinc(x / np.pi)) + 1e-9), -60)


@given(st.floats(15, 150), st.floats(0, 359))
def test_a_gaussian_beam_wherever_it_points(width, at):
    found = lobe.fit(ANGLE, gauss(width, at))
    assert found.width_deg == pytest.approx(width, rel=0.012)
    assert abs((found.top_deg - at + 180) % 360 - 180) < 0.05 * width / 15
    assert found.top_db == pytest.approx(0.0, abs=0.06)


@pytest.mark.parametrize("width", [18.0, 30.0, 60.0, 100.0])
def test_an_evenly_fed_line(width):
    found = lobe.fit(ANGLE, line_source(width))
    assert found.width_deg == pytest.approx(width, rel=0.015)
    assert found.top_db == pytest.approx(0.0, abs=0.1)


def test_five_samples_are_the_fewest():
    coarse = np.arange(0.0, 360.0, 10.0)
    assert lobe.fit(coarse, gauss(30, 0, coarse)).width_deg == pytest.approx(30, rel=0.04)
    assert lobe.fit(coarse[::6], gauss(30, 0, coarse[::6])) is None


def test_a_lobe_ends_at_a_gap():
    angle = np.concatenate((np.arange(0.0, 40.0, 2.0), np.arange(200.0, 360.0, 2.0)))
    found = lobe.fit(angle, gauss(60, 0, angle))
    assert found.width_deg == pytest.approx(60, rel=0.02)


def test_stated_uncertainties_are_what_the_fits_do():
    random = np.random.default_rng(7)
    fits = [lobe.fit(ANGLE, gauss(50) + random.normal(0, 0.5, len(ANGLE))) for _ in range(150)]
    tops, widths = np.array([f.top_db for f in fits]), np.array([f.width_deg for f in fits])
    assert np.std(tops) == pytest.approx(np.mean([f.u_top_db for f in fits]), rel=0.25)
    assert np.std(widths) == pytest.approx(np.mean([f.u_width_deg for f in fits]), rel=0.25)
    assert np.mean([f.scatter_db for f in fits]) == pytest.approx(0.5, rel=0.1)


def test_smoothing_follows_what_is_there_and_not_the_noise():
    truth = 3 * np.cos(np.radians(ANGLE)) - 5
    random = np.random.default_rng(3)
    curve = lobe.smooth(ANGLE, truth + random.normal(0, 0.5, len(ANGLE)), ANGLE)
    assert np.sqrt(np.mean((curve.level_db - truth) ** 2)) < 0.25
    sharp = 20 * np.log10(np.abs(np.sin(np.radians(6 * ANGLE + 5))) + 0.05)
    assert np.max(np.abs(lobe.smooth(ANGLE, sharp, ANGLE).level_db - sharp)) < 3.0


def test_uneven_cuts_are_smoothed_alike():
    random = np.random.default_rng(5)
    uneven = np.sort(random.uniform(0, 360, 160))
    truth = 3 * np.cos(np.radians(uneven))
    curve = lobe.smooth(uneven, truth + random.normal(0, 0.4, 160), uneven[::7])
    assert np.sqrt(np.mean((curve.level_db - truth[::7]) ** 2)) < 0.3


def test_an_even_cut_and_one_a_hair_from_even_are_read_alike():
    """The short way for even cuts, whose weights are the same everywhere, is the long way's result."""
    random = np.random.default_rng(8)
    angle = np.arange(0.0, 360.0, 5.0)
    level = -20 * (1 - np.cos(np.radians(angle - 40))) / 2 + random.normal(0, 0.4, len(angle))
    crooked = angle + np.where(np.arange(len(angle)) % 2, 0.02, -0.02)
    at = np.array([0.0, 1.3, 2.5, 38.0, 179.9, 357.6, 361.2, -4.4])
    even, odd = lobe.smooth(angle, level, at), lobe.smooth(crooked, level, at)
    np.testing.assert_allclose(even.level_db, odd.level_db, atol=0.05)
    np.testing.assert_allclose(even.share, odd.share, rtol=0.05)
    np.testing.assert_allclose(lobe.smooth(angle, level, at + 360.0).level_db, even.level_db, atol=1e-9)


def test_a_usual_beams_flanks_bend_from_the_parabola_as_stated():
    """Half-way down by −3·x² in decibels with 3.5 % of the 3 dB in the fourth power: few samples are read through it."""
    half = 20.0
    x = np.arange(-25.0, 26.0, 7.0)
    share = lobe.FLANK
    level = -3.0 * ((1 - share) * (x / half) ** 2 + share * (x / half) ** 4)
    angle = np.concatenate([x % 360, np.arange(60.0, 301.0, 30.0)])
    order = np.argsort(angle)
    whole = np.concatenate([level, np.full(9, -25.0)])
    found = lobe.fit(angle[order], whole[order], 0.0)
    assert found.width_deg == pytest.approx(40.0, rel=0.01)
    assert found.top_db == pytest.approx(0.0, abs=0.03)
