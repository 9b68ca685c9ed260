"""Field strength, antenna factors and what a receiver makes of them, against published and hand-worked values."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import decibels
from tallmast.physics import field_strength as fs


def test_field_of_a_transmitter():
    # Rec. ITU-R P.525: E(mV/m) = 173·√P(kW)/d(km): 1 kW EIRP at 1 km makes 173 mV/m.
    assert fs.field_v_per_m(1000.0, 1000.0) == pytest.approx(0.1732, abs=2e-4)
    assert fs.field_dbuv_per_m(fs.field_v_per_m(1000.0, 1000.0)) == pytest.approx(104.8, abs=0.05)


def test_density_of_a_field():
    # 61 V/m is 10 W/m² (the old level of 2 GHz and above); 27.5 V/m is 2 W/m².
    assert fs.density_w_per_m2(61.4) == pytest.approx(10.0, rel=1e-3)
    assert fs.field_of_density(2.0) == pytest.approx(27.45, abs=0.01)


@pytest.mark.parametrize(("mhz", "dbi"), [(100.0, 2.15), (869.0, 0.0), (2400.0, 9.0)])
def test_antenna_factor_is_the_workshop_formula(mhz, dbi):
    # AF = 20 log(9.73/(λ√G)) in 50 Ω; 100 MHz and a dipole: λ 2.998 m, 20 log(3.2455) − 2.15 = 8.08 dB/m.
    lam, gain = 299.792458 / mhz, 10 ** (dbi / 10)
    assert fs.antenna_factor_db(mhz * 1e6, dbi) == pytest.approx(
        20 * math.log10(9.73 / (lam * math.sqrt(gain))), abs=0.005
    )


def test_antenna_factor_of_a_dipole_by_hand():
    assert fs.antenna_factor_db(100e6, 2.15) == pytest.approx(8.08, abs=0.01)


def test_a_level_follows_from_field_and_factor():
    """Level in dBµV is field in dBµV/m less the factor: two ways to the same dBm."""
    field = 0.01
    direct = fs.received_dbm(field, 869e6, 5.0)
    by_factor = decibels.dbm_from_dbuv(fs.field_dbuv_per_m(field) - fs.antenna_factor_db(869e6, 5.0))
    assert direct == pytest.approx(by_factor, abs=1e-9)


def test_field_and_power_agree_with_friis():
    """1 W EIRP over 100 m at 869 MHz into 0 dBi: 30 dBm less 71.2 dB of free space."""
    from tallmast.physics.propagation import free_space_loss_db

    expected = 30.0 - float(free_space_loss_db(100.0, 869e6))
    assert fs.received_dbm(fs.field_v_per_m(1.0, 100.0), 869e6, 0.0) == pytest.approx(expected, abs=1e-3)


def test_transmitters_add_in_power():
    assert fs.total_dbm([-50.0, -50.0]) == pytest.approx(-46.99, abs=0.01)
    assert fs.total_dbm([-50.0, -80.0]) == pytest.approx(-49.9957, abs=1e-3)


def test_a_gain_table_between_and_beyond_its_points():
    table_hz, table_dbi, u = [100e6, 400e6, 800e6], [0.0, 6.0, 6.0], [0.5, 0.5, 0.5]
    value, doubt = fs.gain_from_table([100e6, 200e6, 600e6, 1600e6, 50e6], table_hz, table_dbi, u)
    np.testing.assert_allclose(value, [0.0, 3.0, 6.0, 6.0, 0.0], atol=1e-9)
    # At a point its own uncertainty; half way on a slope of 6 dB ±3 dB as a rectangle more; flat: none; an octave out: 1 dB.
    np.testing.assert_allclose(doubt[[0, 2]], 0.5, atol=1e-9)
    assert doubt[1] == pytest.approx(math.hypot(0.5, 3 / math.sqrt(3)))
    np.testing.assert_allclose(doubt[[3, 4]], math.hypot(0.5, 1.0))


def test_one_point_is_a_table_too():
    value, doubt = fs.gain_from_table([869e6], [869e6], [4.0], [0.7])
    assert (value[0], doubt[0]) == (4.0, 0.7)


@given(st.floats(1e-7, 1e3), st.floats(1.0, 1e5))
def test_field_and_eirp_undo_each_other(field, distance):
    assert fs.field_v_per_m(fs.eirp_w(field, distance), distance) == pytest.approx(field, rel=1e-9)


@given(st.floats(1e-7, 1e3), st.floats(1e6, 6e9), st.floats(-10, 30))
def test_field_and_level_undo_each_other(field, hz, dbi):
    assert fs.field_of_received(fs.received_dbm(field, hz, dbi), hz, dbi) == pytest.approx(field, rel=1e-9)
    assert fs.gain_dbi_of_factor(hz, fs.antenna_factor_db(hz, dbi)) == pytest.approx(dbi, abs=1e-9)


@given(st.floats(-150, 50), st.sampled_from([50.0, 75.0]))
def test_volts_and_decibels_undo_each_other(dbm, ohm):
    assert decibels.dbm_from_volt(decibels.volt_from_dbm(dbm, ohm), ohm) == pytest.approx(dbm, abs=1e-9)
    assert decibels.dbm_from_dbuv(decibels.dbuv_from_dbm(dbm, ohm), ohm) == pytest.approx(dbm, abs=1e-9)


def test_decibels_over_a_microvolt():
    # 0 dBm is 0.2236 V in 50 Ω, 106.99 dBµV; 108.75 dBµV in 75 Ω.
    assert decibels.dbuv_from_dbm(0.0) == pytest.approx(106.99, abs=0.005)
    assert decibels.dbuv_from_dbm(0.0, 75.0) == pytest.approx(108.75, abs=0.005)


@given(st.floats(-140, 0), st.sampled_from([-73.0, -93.0]))
def test_s_units_undo_each_other(dbm, s9):
    units, over = decibels.s_units_of(dbm, s9)
    assert units <= 9
    assert decibels.s_unit_dbm(units, over, s9) == pytest.approx(dbm, abs=1e-9)
