"""A pattern from scattered directions: nothing lost in the gathering, a known shape found again, nothing told beyond the readings."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.around import gather, shape

readings = st.lists(
    st.tuples(st.floats(0, 359.9), st.floats(-89, 89), st.floats(-120, 0), st.integers(0, 4)), min_size=1, max_size=60
)


@given(readings, st.sampled_from([1.0, 2.5, 6.0]))
def test_gathering_loses_no_reading_and_moves_none_out_of_its_cell(rows, pitch):
    azimuth, elevation, level, leg = (np.array(column, dtype=float) for column in zip(*rows, strict=True))
    cells = gather(azimuth, elevation, level, leg, pitch)
    assert cells.count.sum() == len(rows)
    assert (cells.count * cells.level_db).sum() == pytest.approx(level.sum(), abs=1e-6)
    assert set(cells.leg) == set(leg.astype(int))
    assert elevation.min() - 1e-6 <= cells.elevation_deg.min() and cells.elevation_deg.max() <= elevation.max() + 1e-6


def test_about_north_readings_are_averaged_about_north():
    cells = gather([359.8, 0.3], [0.0, 0.0], [-10.0, -20.0], [0, 0], 6.0)
    assert all(min(a, 360 - a) < 1 for a in cells.azimuth_deg)


def round_and_up(noise: float, turns: int = 12, n: int = 2400):
    random = np.random.default_rng(3)
    azimuth = np.linspace(0, 360 * turns, n) % 360
    elevation = np.linspace(0, 60, n)
    leg = (np.linspace(0, turns, n)).astype(int)
    return azimuth, elevation, truth(azimuth, elevation) + random.normal(0, noise, n), leg


def truth(azimuth, elevation):
    return 4 * np.cos(np.radians(azimuth)) - (np.asarray(elevation) - 20) ** 2 / 200


def test_a_smooth_shape_is_found_again_within_its_uncertainty():
    found = shape(gather(*round_and_up(0.8), pitch_deg=3.0))
    at, up = np.meshgrid(np.arange(0, 360, 20.0), np.arange(6, 56, 10.0))
    level, u = found.level(at.ravel(), up.ravel())
    off = level - truth(at.ravel(), up.ravel())
    assert np.isfinite(level).all()
    assert 0.8 < np.mean(np.abs(off) < 1.645 * u) <= 1.0
    assert np.median(u) < 0.5


def test_nothing_is_told_where_nothing_was_read():
    found = shape(gather(*round_and_up(0.5), pitch_deg=3.0))
    level, u = found.level([0.0, 90.0, 200.0], [-40.0, 85.0, 89.0])
    assert np.isnan(level).all() and np.isnan(u).all()


def test_more_noise_is_more_uncertain():
    quiet, loud = (shape(gather(*round_and_up(noise), pitch_deg=3.0)) for noise in (0.2, 2.0))
    assert loud.scatter_db > 4 * quiet.scatter_db
    assert loud.level([100.0], [30.0])[1][0] > 2 * quiet.level([100.0], [30.0])[1][0]


def test_a_drift_from_pass_to_pass_is_seen_as_likeness():
    azimuth, elevation, level, leg = round_and_up(0.3)
    slow = np.repeat(np.random.default_rng(4).normal(0, 1.0, 240), 10)
    assert shape(gather(azimuth, elevation, level + slow, leg, 3.0)).alike > 0.3
    assert shape(gather(azimuth, elevation, level, leg, 3.0)).alike < 0.3


def test_three_cells_are_no_shape():
    with pytest.raises(ValueError, match="four"):
        shape(gather([0, 1, 2], [0, 0, 0], [0, 0, 0], [0, 0, 0], 1.0))
