"""Cables: loss fitted, length by phase, bad joints found in metres."""

import numpy as np
import pytest

from tallmast.physics import cable
from tallmast.physics.reflection import through_cable

F = np.linspace(600e6, 1100e6, 801)
VELOCITY = 0.66


def loss(f, a=0.012, b=2e-4):
    return a * np.sqrt(f / 1e6) + b * f / 1e6


def shorted(length_m=3.0, f=F, far=-1.0):
    return through_cable(np.full(len(f), far + 0j), f, loss(f), length_m, VELOCITY)


def with_joint(at_m: float, ohm: float, length_m=3.0, f=F, end=0.02):
    """A series resistance at a place, a good load behind: first order and the way through it twice."""
    share = at_m / length_m
    joint = cable.bad_joint_gamma(f, ohm)
    near = through_cable(joint, f, loss(f) * share, at_m, VELOCITY)
    far = through_cable(np.full(len(f), end + 0j), f, loss(f), length_m, VELOCITY) * (1 - joint) ** 2
    return near + far


def test_loss_is_found_from_a_shorted_end():
    fit = cable.fit_loss(F, shorted())
    np.testing.assert_allclose(fit.loss_db(F), loss(F), rtol=1e-9)


def test_ripple_of_a_connector_averages_out_and_is_in_the_doubt():
    fit = cable.fit_loss(F, shorted() + 0.02)
    error = np.abs(fit.loss_db(F) - loss(F))
    assert error.max() < 0.02
    assert (error < 3 * fit.u_db(F)).mean() > 0.9
    assert 0.05 < fit.scatter_db < 0.15


def test_loss_never_comes_out_negative():
    fit = cable.fit_loss(F, through_cable(np.full(len(F), 1.0 + 0j), F, 0.02 * np.sqrt(F / 1e6), 1.0, VELOCITY))
    assert fit.a >= 0 and fit.b >= 0


def test_a_gain_is_no_cable():
    with pytest.raises(ValueError, match="nothing is lost"):
        cable.fit_loss(F, np.full(len(F), 1.05))


@pytest.mark.parametrize("length", [0.5, 1.2, 3.0, 8.0])
def test_length_from_the_phase(length):
    assert cable.electrical_length_m(F, shorted(length), VELOCITY) == pytest.approx(length, rel=1e-6)


@pytest.mark.parametrize("at", [0.7, 1.137, 1.9, 2.4])
@pytest.mark.parametrize("ohm", [3.0, 10.0])
def test_a_bad_joint_is_found_within_3_cm_at_500_mhz(at, ohm):
    found = cable.steps(cable.time_response(F, with_joint(at, ohm), VELOCITY))
    nearest = min(found, key=lambda step: abs(step.distance_m - at))
    assert nearest.distance_m == pytest.approx(at, abs=0.03)
    # 3 Ω in 50 Ω: 3/103 = 0.029, less the way there and back.
    expected = ohm / (ohm + 100) * 10 ** (-2 * loss(850e6) * at / 3.0 / 20)
    assert nearest.magnitude == pytest.approx(expected, rel=0.1)


def test_the_far_end_is_a_step_too():
    found = cable.steps(cable.time_response(F, shorted(3.0), VELOCITY))
    assert len(found) == 1
    assert found[0].distance_m == pytest.approx(3.0, abs=0.02)


def test_uneven_frequencies_are_refused():
    uneven = np.sort(np.random.default_rng(1).uniform(6e8, 1.1e9, 100))
    with pytest.raises(ValueError, match="evenly"):
        cable.time_response(uneven, np.zeros(100), VELOCITY)


def test_a_cable_longer_than_the_sweep_can_tell_looks_short_and_lands_elsewhere_at_0_hz():
    # 201 points from 1 to 500 MHz: Δf 2.495 MHz, c·v/(2Δf) at v = 0.66 is 39.65 m; of 60 m 20.35 m are left.
    f = np.linspace(1e6, 500e6, 201)
    assert cable.longest_m(f, 0.66) == pytest.approx(0.95 * 39.65, abs=0.02)
    line = -np.exp(-4j * np.pi * f * 60.0 / (0.66 * 299_792_458))
    assert cable.electrical_length_m(f, line, 0.66) == pytest.approx(60 - 39.65, abs=0.02)
    # One turn a step too many, and the lowest frequency is 0.4008 steps: 2π·0.4008 away from the π of a short.
    away = cable.phase_at_zero(f, line) - np.pi
    assert abs(np.angle(np.exp(1j * (away + 2 * np.pi * 0.4008)))) < 0.02
    right = -np.exp(-4j * np.pi * f * 30.0 / (0.66 * 299_792_458))
    assert cable.electrical_length_m(f, right, 0.66) == pytest.approx(30.0, rel=1e-5)
    assert abs(cable.phase_at_zero(f, right)) == pytest.approx(np.pi, abs=1e-3)


def test_ripple_that_turns_many_times_leaves_the_loss_well_known():
    f = np.linspace(1e6, 1e9, 801)
    ripple = 0.02 * np.exp(1j * 2 * np.pi * f / 8e6)
    seen = -(10 ** (-0.3 * np.sqrt(f / 1e9) / 10)) * np.exp(-4j * np.pi * f * 12 / 2e8) + ripple
    fit = cable.fit_loss(f, seen)
    off = abs(float(fit.loss_db(869e6)) - 0.3 * np.sqrt(0.869))
    assert off < 3 * float(fit.u_db(869e6)) < 0.02 < fit.scatter_db
