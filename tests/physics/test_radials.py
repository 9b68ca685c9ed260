"""Over the ground along many rays at once: the same as one path at a time, over ground that was made up of hills of all sizes."""

import numpy as np
import pytest
from msgspec.structs import replace

from tallmast.physics.diffraction import EARTH_M, Section, knife_edge_db, off_the_end, smooth_earth_db
from tallmast.physics.radials import Fan, between_laid

STEP_M, HZ = 15.0, 869e6


def hills(points, rays, high_m, seed):
    """Hills of halving size, as ground is, the sea where they go under."""
    random = np.random.default_rng(seed)
    x = np.arange(points)[:, None] * STEP_M
    out = np.zeros((points, rays))
    for k in range(1, 9):
        long = 6000.0 / 2**k
        out += high_m * 2.0 ** (-0.8 * k) * np.sin(2 * np.pi * x / long + random.uniform(0, 2 * np.pi, (1, rays)))
    return np.maximum(out, 0.0).astype(np.float32)


def at(point, ray=0):
    return np.atleast_1d(point), np.full(np.size(point), ray)


def section(fan, ray, end):
    h = fan.height_m[: end + 1, ray].astype(float)
    return Section(fan.distance_m[: end + 1], h, fan.one_m, float(h[-1]) + fan.other_over_m, fan.frequency_hz, fan.k)


@pytest.mark.parametrize("high_m", [0.0, 4.0, 20.0, 120.0])
def test_each_point_is_what_its_own_path_is(high_m):
    h = hills(400, 8, high_m, seed=int(high_m) + 1)
    fan = Fan(STEP_M, h, float(h[0].mean()) + 8.0, 3.0, HZ)
    end, ray = (axis.ravel() for axis in np.meshgrid(np.arange(17, 400, 13), np.arange(8)))
    alone = [section(fan, r, e) for e, r in zip(end, ray, strict=True)]
    one = fan.bullington_db((end, ray)) - [path.bullington_db() for path in alone]
    beside = fan.beside_smooth_db((end, ray)) - [path.beside_smooth_db() for path in alone]
    assert np.percentile(np.abs(one), 95) < 0.4 and np.max(np.abs(one)) < 1.5
    assert np.percentile(np.abs(beside), 95) < 0.6 and np.median(np.abs(beside)) < 0.1


def test_what_heights_are_doubtful_by_is_that_of_each_path():
    fan = Fan(STEP_M, hills(400, 8, 40.0, seed=5), 60.0, 3.0, HZ)
    end, ray = (axis.ravel() for axis in np.meshgrid(np.arange(80, 400, 16), [0, 4]))
    told, alone = fan.by_heights_db((end, ray), 3.0), []
    for e, r in zip(end, ray, strict=True):
        path = section(fan, r, e)
        d = path.distance_m
        own = 3.0 * off_the_end(d) * off_the_end(d[-1] - d)
        one, other = (replace(path, height_m=path.height_m + sign * own).bullington_db() for sign in (1.0, -1.0))
        alone.append(0.5 * (one - other))
    assert np.median(alone) > 0.5  # there is something to tell
    off = np.abs(told - np.array(alone))
    assert np.median(off) < 0.3 and np.percentile(off, 90) < 2.5


def test_neighbours_in_a_raster_are_wrong_alike():
    """Nothing where the antenna stands, 1 − 1/e after 100 m, all of it far off."""
    assert off_the_end([0.0, 100.0, 5000.0]) == pytest.approx([0.0, 1.0 - 1.0 / np.e, 1.0])


def test_one_edge_by_hand():
    """A wall of 30 m halfway between antennas 10 m up, 6 km apart: ν = 20·√(2·6000/(λ·3000·3000)) and the flat ground's bulge."""
    h = np.zeros((401, 1), dtype=np.float32)
    h[200] = 30.0
    fan = Fan(STEP_M, h, 10.0, 10.0, HZ, added=0.0)
    over = 20.0 + 3000.0 * 3000.0 / (2.0 * 4.0 / 3.0 * EARTH_M)
    v = over * np.sqrt(2.0 * 6000.0 / (299_792_458.0 / HZ * 3000.0 * 3000.0))
    assert fan.bullington_db(at(400))[0] == pytest.approx(float(knife_edge_db(v)), abs=0.2)
    assert fan.bullington_db(at(199))[0] == pytest.approx(0.0, abs=0.3)


def test_a_lone_wall_far_out_is_not_lost_between_blocks():
    h = np.zeros((600, 3), dtype=np.float32)
    h[417, 1] = 40.0
    fan = Fan(STEP_M, h, 10.0, 3.0, HZ)
    beside, behind, other = fan.bullington_db((np.full(3, 599), np.arange(3)))
    assert behind > beside + 15.0 and beside == other


def test_over_the_sea_it_is_the_smooth_earth_and_nothing_beside():
    fan = Fan(200.0, np.zeros((300, 2), dtype=np.float32), 12.0, 6.0, HZ)
    every, far = at(np.arange(300)), at(np.arange(100, 297))
    assert np.abs(fan.beside_smooth_db(every)).max() < 1.0
    smooth = smooth_earth_db(fan.distance_m[100:297], 12.0, 6.0, HZ)
    assert between_laid(fan.earth_db, far) == pytest.approx(smooth, rel=0.02, abs=0.3)
    horizon = np.sqrt(2 * 4 / 3 * EARTH_M) * (np.sqrt(12.0) + np.sqrt(6.0))
    assert (fan.behind_horizon[:, 0] == (fan.laid_m[:, 0] > horizon)).mean() > 0.95


def test_laid_between_is_a_straight_line():
    rows = np.arange(0.0, 41.0, 8.0)[:, None] * np.array([1.0, -2.0])
    assert between_laid(rows, at(np.arange(38), 1)) == pytest.approx(-2.0 * np.arange(38.0), abs=1e-4)
