"""Match and resonance against published and hand-worked values."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import reflection as r
from tallmast.physics.statistics import bounded_factor

magnitudes = st.floats(0.0, 0.97)


# Return loss, SWR and mismatch loss as tabulated in Pozar, Microwave Engineering, 4th ed., appendix of any analyzer
# maker's chart: RL 9.54 dB ↔ SWR 2.00 ↔ |Γ| 1/3 ↔ mismatch loss 0.512 dB; RL 20 dB ↔ SWR 1.222 ↔ 0.044 dB.
@pytest.mark.parametrize(
    ("gamma", "swr", "return_loss", "mismatch"),
    [(1 / 3, 2.0, 9.542, 0.5115), (0.1, 1.2222, 20.0, 0.04365), (0.2, 1.5, 13.979, 0.1773), (0.5, 3.0, 6.0206, 1.2494)],
)
def test_match_figures_agree_with_the_table(gamma, swr, return_loss, mismatch):
    assert r.swr(gamma) == pytest.approx(swr, rel=1e-4)
    assert r.return_loss_db(gamma) == pytest.approx(return_loss, abs=1e-3)
    assert r.mismatch_loss_db(gamma) == pytest.approx(mismatch, abs=1e-3)


@given(magnitudes)
def test_swr_and_gamma_go_round(gamma):
    assert r.gamma_from_swr(r.swr(gamma)) == pytest.approx(gamma, abs=1e-9)


@given(magnitudes, magnitudes)
def test_swr_climbs_with_gamma(a, b):
    low, high = sorted((a, b))
    assert r.swr(low) <= r.swr(high)


@given(st.floats(1, 500), st.floats(-500, 500))
def test_impedance_and_gamma_go_round(resistance, reactance):
    z = complex(resistance, reactance)
    assert complex(r.impedance(r.gamma_from_impedance(z))) == pytest.approx(z, rel=1e-6)


def test_total_reflection_stays_finite():
    assert r.swr(1.0) == pytest.approx(r.SWR_CEILING)
    assert np.isfinite(r.impedance(1.0 + 0j))
    assert np.isfinite(r.mismatch_loss_db(1.0))


def test_meter_powers():
    # A quarter of the amplitude back: Pr/Pf = 1/16, SWR (1+1/4)/(1−1/4) = 5/3.
    assert r.swr_from_powers(16.0, 1.0) == pytest.approx(5 / 3)


def test_a_lossy_cable_makes_a_short_look_matched():
    # Hand-worked: 3 dB one way leaves |Γ| = 10^(−6/20) = 0.501 of a short, which reads SWR 3.01.
    seen = r.through_cable([-1.0 + 0j], [1e8], 3.0, 1.0, 0.66)
    assert abs(seen[0]) == pytest.approx(0.5012, abs=1e-4)


def test_a_quarter_wave_turns_an_open_into_a_short():
    # A quarter wavelength of lossless line at 75 MHz, v = 1, is 0.99931 m: Γ goes round by half a turn.
    seen = r.through_cable([1.0 + 0j], [75e6], 0.0, 299_792_458.0 / 75e6 / 4, 1.0)
    assert complex(seen[0]) == pytest.approx(-1.0, abs=1e-9)


@given(st.floats(0, 0.9), st.floats(0, 6.28), st.floats(0, 3), st.floats(0, 20))
def test_the_cable_comes_off_again(magnitude, phase, loss, length):
    gamma = magnitude * np.exp(1j * phase)
    seen = r.through_cable([gamma], [868e6], loss, length, 0.66)
    assert complex(r.without_cable(seen, [868e6], loss, length, 0.66)[0]) == pytest.approx(gamma, abs=1e-9)


def test_directivity_alone_gives_its_share():
    # 40 dB leaves a vector of 0.01, whose part along Γ is 0.01/√2 = 0.00707.
    u, bounded = r.gamma_uncertainty(0.2, 40.0, 0.0, 0.0, 0.0)
    assert u == pytest.approx(0.00707, abs=1e-5)
    assert bounded == 1.0
    # A noise of the same size halves the bounded share.
    assert r.gamma_uncertainty(0.2, 40.0, 0.01 / np.sqrt(2), 0.0, 0.0)[1] == pytest.approx(0.5)


def test_residual_directivity_interval_covers_the_truth():
    random = np.random.default_rng(1)
    true = 0.2
    seen = np.abs(true + 10 ** (-30 / 20) * np.exp(1j * random.uniform(0, 2 * np.pi, 5000)))
    u, bounded = r.gamma_uncertainty(seen, 30.0, 0.0, 0.0, 0.0)
    covered = np.mean(np.abs(seen - true) <= bounded_factor(bounded) * u)
    assert 0.88 <= covered <= 0.92


def test_windows_and_resonance_of_a_known_resonator():
    # Series resonator R = 50, Q = 20 at 100 MHz: SWR 2 where |X|/R = 1/√2, so Q·2Δf/f₀ ≈ 0.7071, Δf = ±1.768 MHz.
    f = np.linspace(90e6, 110e6, 4001)
    gamma = r.gamma_from_impedance(50 * (1 + 20j * (f / 100e6 - 100e6 / f)))
    (low, high), *rest = r.usable_windows(f, r.swr(np.abs(gamma)), 2.0)
    assert not rest
    assert high - low == pytest.approx(3.536e6, rel=0.01)
    assert r.resonance_hz(f, gamma) == pytest.approx(100e6, rel=1e-6)


def test_resonance_outside_the_sweep_is_not_guessed():
    f = np.linspace(101e6, 110e6, 101)
    gamma = r.gamma_from_impedance(50 * (1 + 20j * (f / 100e6 - 100e6 / f)))
    assert r.resonance_hz(f, gamma) is None


def test_a_window_that_touches_the_end_stops_there():
    f = np.linspace(1.0, 2.0, 11)
    assert r.usable_windows(f, np.full(11, 1.2), 1.5) == [(1.0, 2.0)]
    assert r.usable_windows(f, np.full(11, 1.8), 1.5) == []


def test_trim_follows_constant_length_times_frequency():
    # 100 mm at 100 MHz must become 95.238 mm at 105 MHz: 4.762 mm off.
    assert r.trim_length(0.100, 100e6, 105e6) == pytest.approx(0.004762, abs=1e-6)
    assert r.trim_length(0.100, 105e6, 100e6) < 0
