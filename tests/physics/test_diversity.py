"""The better of two antennas, against Jakes' two Rayleigh branches and cases worked by hand."""

import numpy as np
import pytest

from tallmast.physics.attitude import axes
from tallmast.physics.diversity import attitudes, pairs, quantile_of_series, received, singles, switches
from tallmast.physics.waves import Wave, dipole_gain, minor_of


def test_two_rayleigh_branches():
    # P(γ < x) = 1 − e⁻ˣ alone: the worst tenth lies at −10·log₁₀(−ln 0.9) = −9.77 dB; (1 − e⁻ˣ)² for the better of two:
    # x = −ln(1 − √0.1) = 0.380: −4.20 dB.
    powers = np.random.default_rng(2).exponential(1.0, (2, 400_000)).astype(np.float32)
    one, other = singles(powers, -10.0)
    (both,) = pairs(powers, -10.0)
    assert one.worst_tenth_db == pytest.approx(-9.77, abs=0.1) and other.worst_tenth_db == pytest.approx(-9.77, abs=0.1)
    assert both.worst_tenth_db == pytest.approx(-4.20, abs=0.05)
    assert both.median_db == pytest.approx(10 * np.log10(-np.log(1 - np.sqrt(0.5))), abs=0.05)
    # Under a tenth of the mean: 1 − e^−0.1 = 9.5 % alone, squared with two.
    assert one.holes == pytest.approx(0.0952, abs=0.003) and both.holes == pytest.approx(0.0952**2, abs=0.001)
    assert both.share_of_one == pytest.approx(0.5, abs=0.005)


def test_both_added_are_never_worse_than_the_better_and_3_db_more_at_most():
    powers = np.random.default_rng(3).exponential(1.0, (2, 50_000)).astype(np.float32)
    (better,), (added,) = pairs(powers, -10.0), pairs(powers, -10.0, mixed=True)
    for name in ("worst_tenth_db", "median_db", "worst_db"):
        assert 0.0 <= getattr(added, name) - getattr(better, name) <= 3.02
    # Maximal-ratio of two: x with 1 − e⁻ˣ(1 + x) = 0.1 is 0.532: −2.74 dB.
    assert added.worst_tenth_db == pytest.approx(-2.74, abs=0.1)


def even(azimuth, elevation):
    return np.ones(np.broadcast_shapes(np.shape(azimuth), np.shape(elevation)))


STANDING = Wave(lambda a, e: dipole_gain(np.sin(np.radians(e))), (0.0, 0.0, 1.0))
UP, LYING, ROUND = Wave(even, (0.0, 0.0, 1.0)), Wave(even, (0.0, 1.0, 0.0)), Wave(even, (0.0, 0.0, 1.0), 1.0)


def heard(receivers, flown, bearings=36):
    bearing = np.arange(bearings) * 360.0 / bearings
    fixed = [(wave, axes(0.0)) for wave in receivers]
    return received(fixed, STANDING, axes(0.0), np.asarray(flown, dtype=float), bearing, np.zeros(bearings))


def test_30_degrees_of_bank_seen_from_behind_cost_1_25_db():
    power = heard([UP], [[0, 0, 0], [0, 0, 30]], bearings=1)[0]
    # Broadside still, since it flies straight away: only the turn of the wave is lost, cos² 30°.
    assert 10 * np.log10(power[0] / power[1]) == pytest.approx(1.25, abs=0.01)


def test_one_upright_and_one_lying_leave_no_hole_that_either_alone_has():
    powers = heard([UP, LYING, ROUND], attitudes(400, 20, 180))
    up, lying, round_ = singles(powers, -15.0)
    best = {(p.one, p.other): p for p in pairs(powers, -15.0)}
    assert best[(0, 1)].worst_tenth_db > max(up.worst_tenth_db, lying.worst_tenth_db) + 3
    assert round_.worst_tenth_db > max(up.worst_tenth_db, lying.worst_tenth_db), (
        "circular loses 3 dB and has no null to turn into"
    )


def test_attitudes_are_spread_evenly():
    every = attitudes(3000, 0, 0, every_way=True)
    # Even over all turns the sine of pitch is even, so that a third lies between ±19.47°.
    assert np.mean(np.abs(every[:, 1]) < 19.47) == pytest.approx(1 / 3, abs=0.01)
    assert np.histogram(every[:, 0], 12, (0, 360))[0].min() > 230
    usual = attitudes(1000, 10, 45)
    assert np.abs(usual[:, 1]).max() <= 10 and np.abs(usual[:, 2]).max() <= 45
    assert np.median(np.abs(usual[:, 2])) < 22.5, "small banks are flown oftener"


def test_switches_are_counted_and_ties_are_none():
    assert switches(np.array([1.0, 2, 0, 0, 3]), np.array([0.0, 1, 5, 0, 1])) == 2


def test_a_tenth_of_a_series_that_is_alike_in_time_is_less_sure():
    random = np.random.default_rng(4)
    white = random.normal(0, 1, 4000)
    slow = np.repeat(random.normal(0, 1, 200), 20)
    (at, low, high, n), (_, slow_low, slow_high, slow_n) = quantile_of_series(white), quantile_of_series(slow)
    assert low < -1.2816 < high and at == pytest.approx(-1.28, abs=0.08)
    assert slow_n < n / 8 and slow_high - slow_low > 2.5 * (high - low)
    with pytest.raises(ValueError, match="ten readings"):
        quantile_of_series(np.zeros(5))


def test_a_circle_is_a_circle():
    assert minor_of(0.0, True) == 1.0 and minor_of(0.0, False) == -1.0
