"""Noise against published values: kTB, Friis' cascade, Rec. ITU-R P.372."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import noise
from tallmast.physics.noise import Stage


def test_thermal_noise():
    # k·290 K·1 Hz = 4.0039·10⁻²¹ W = −173.975 dBm (CODATA k); 12.5 kHz: 40.97 dB more.
    assert noise.thermal_dbm(1.0) == pytest.approx(-173.975, abs=1e-3)
    assert noise.thermal_dbm(12.5e3) == pytest.approx(-133.006, abs=1e-3)


def test_noise_temperature():
    # Pozar, Microwave Engineering, §10.1: F = 2 (3.01 dB) is T₀; 75 K is 1.0 dB (10 log 1.2586).
    assert noise.temperature_of_figure(3.0103) == pytest.approx(290.0, abs=0.01)
    assert noise.figure_of_temperature(75.0) == pytest.approx(0.999, abs=0.001)


def test_pozars_receiver():
    """Pozar, Microwave Engineering, 4th ed., example 10.2: amplifier 10 dB with NF 2 dB, filter of 1 dB loss, mixer with
    3 dB loss and NF 4 dB: F = 1.58 + 0.26/10 + 1.51/7.94 = 1.80, 2.55 dB."""
    stages = [Stage("amplifier", 10.0, 2.0), Stage.loss("filter", 1.0), Stage("mixer", -3.0, 4.0)]
    assert noise.cascade_figure_db(stages) == pytest.approx(2.55, abs=0.01)


def test_a_loss_before_everything_adds_to_the_figure():
    assert noise.cascade_figure_db([Stage.loss("feeder", 3.0), Stage("radio", 0.0, 6.0)]) == pytest.approx(9.0)


def test_a_preamp_at_the_mast_beats_one_at_the_radio():
    preamp, feeder, radio = Stage("preamp", 18.0, 0.8), Stage.loss("feeder", 3.0), Stage("radio", 0.0, 6.0)
    at_mast = noise.cascade_figure_db([preamp, feeder, radio])
    at_radio = noise.cascade_figure_db([feeder, preamp, radio])
    # By hand: 1.2023 + 0.9953/63.10 + 2.9811/(63.10·0.5012) = 1.3123, 1.180 dB;
    # and 1.9953 + 0.2023/0.5012 + 2.9811/(0.5012·63.10) = 2.4932, 3.968 dB.
    assert at_mast == pytest.approx(1.180, abs=0.002)
    assert at_radio == pytest.approx(3.968, abs=0.005)


@pytest.mark.parametrize(
    ("surroundings", "mhz", "figure"),
    [
        ("city", 10.0, 49.1),
        ("residential", 10.0, 44.8),
        ("rural", 10.0, 39.5),
        ("quiet rural", 10.0, 25.0),
        ("galactic", 10.0, 29.0),
        ("city", 145.0, 16.93),
        ("rural", 3.0, 53.98),
    ],
)
def test_external_noise_of_the_recommendation(surroundings, mhz, figure):
    """Rec. ITU-R P.372, Part 6, Table 1: F_am = c − d·log₁₀ f; at 10 MHz it is c − d."""
    assert noise.external_figure_db(surroundings, mhz * 1e6) == pytest.approx(figure, abs=0.01)


@pytest.mark.parametrize(
    ("surroundings", "mhz"), [("city", 869.0), ("quiet rural", 145.0), ("galactic", 0.1), ("galactic", 9.0)]
)
def test_beyond_the_table_nothing_is_made_up(surroundings, mhz):
    with pytest.raises(ValueError, match=r"P\.372 gives"):
        noise.external_figure_db(surroundings, mhz * 1e6)


def test_the_figure_of_a_sensitivity():
    # 12.5 kHz, NF 6 dB, 10 dB: −133.006 + 16 = −117.006 dBm, 0.316 µV in 50 Ω.
    assert noise.figure_of_sensitivity_db(-117.006, 12.5e3, 10.0) == pytest.approx(6.0, abs=0.001)


@given(st.lists(st.tuples(st.floats(-6, 30), st.floats(0, 12)), min_size=1, max_size=6))
def test_no_cascade_is_quieter_than_its_first_stage(pairs):
    stages = [Stage("s", gain, max(figure, -gain)) for gain, figure in pairs]
    assert noise.cascade_figure_db(stages) >= stages[0].noise_figure_db - 1e-9


@given(st.floats(0.01, 30))
def test_figure_and_temperature_undo_each_other(figure):
    assert noise.figure_of_temperature(noise.temperature_of_figure(figure)) == pytest.approx(figure, rel=1e-9)


def test_how_far_one_place_may_lie_from_the_median_by_hand():
    """Rec. ITU-R P.372 Table 2, residential: deciles 10.6 and 5.3 dB over time, 5.8 over places: √(½(10.6² + 5.3²) + 5.8²)/1.2816 = 7.95."""
    assert noise.external_u_db("residential") == pytest.approx(7.95, abs=0.01)
