"""The resonance by model: known circuits found again, windows by hand, and the bound of smallness."""

import numpy as np
import pytest

from tallmast.physics import resonance
from tallmast.physics.reflection import gamma_from_impedance, swr, usable_windows

F = np.linspace(840e6, 900e6, 401)


@pytest.mark.parametrize(("f0", "r", "q"), [(868.9e6, 45, 13), (861.7e6, 60, 17), (883e6, 44, 21), (866e6, 58, 6)])
def test_a_series_resonance_is_found_again(f0, r, q):
    found = resonance.fit(F, resonance.series_gamma(F, f0, r, q, 0.05e-9))
    assert found.f0_hz == pytest.approx(f0, rel=1e-6)
    assert found.resistance_ohm == pytest.approx(r, rel=1e-4)
    assert found.q == pytest.approx(q, rel=1e-3)
    assert found.delay_s == pytest.approx(0.05e-9, abs=1e-13)


@pytest.mark.parametrize(("noise_sd", "common_size", "least", "most"), [(0.02, 0.0, 0.85, 0.95), (0.0, 0.02, 0.9, 1.0)])
def test_its_uncertainty_holds_the_truth(noise_sd, common_size, least, most):
    """Noise nine times in ten; a vector of unknown phase has no tails, so it is held more often."""
    random = np.random.default_rng(11)
    inside = 0
    n = 300
    for _ in range(n):
        common = common_size * np.exp(1j * random.uniform(0, 2 * np.pi))
        noise = noise_sd * (random.normal(size=len(F)) + 1j * random.normal(size=len(F)))
        g = resonance.series_gamma(F, 866e6, 48, 14) + common + noise
        found = resonance.fit(F, g, common_size)
        inside += abs(found.f0_hz - 866e6) < 1.645 * found.u_f0_hz
    assert least <= inside / n <= most


def test_no_resonance_in_the_sweep_is_none():
    assert resonance.fit(F, resonance.series_gamma(F, 1000e6, 50, 20)) is None
    assert resonance.fit(F, 0.3 * np.exp(1j * F / 1e6)) is None
    assert resonance.fit(F[:5], resonance.series_gamma(F[:5], 840e6, 50, 20)) is None


@pytest.mark.parametrize("limit", [1.5, 2.0, 3.0])
@pytest.mark.parametrize("r", [35.0, 50.0, 70.0])
def test_the_window_by_the_model_is_that_of_the_curve(limit, r):
    wide = np.linspace(700e6, 1050e6, 20001)
    model = resonance.Resonance(869e6, r, 14, 0, 0, 0, 0, 0)
    found = model.window_hz(limit)
    curve = usable_windows(wide, swr(np.abs(model.gamma(wide))), limit)
    if not curve:
        assert found is None
    else:
        assert found == pytest.approx(curve[0], rel=1e-5)


def test_bandwidth_by_hand():
    # Q = 20, SWR 2: (s − 1)/(Q·√s) = 1/(20·√2) = 3.536 % (Yaghjian and Best 2005, eq. 87).
    low, high = resonance.Resonance(869e6, 50, 20, 0, 0, 0, 0, 0).window_hz(2.0)
    assert (high - low) / 869e6 == pytest.approx(0.035355, abs=1e-5)


def test_the_least_q_by_hand():
    # ka = 0.5: 8 + 2 = 10. At 869 MHz k = 18.213/m, so a = 27.453 mm.
    assert resonance.least_q(0.027453, 869e6) == pytest.approx(10.0, abs=0.01)
    assert resonance.least_q(0.01, 869e6) > resonance.least_q(0.02, 869e6)


def test_the_resonance_is_where_the_reactance_passes_zero_and_not_the_best_match():
    """R = 20 Ω·(f/f₀)², Q = 15: the least |Γ| lies p·f₀·(1 − Z₀²/R²)/(8Q²) = 2·869·(1 − 6.25)/1800 = −5.1 MHz from it, to first order."""
    f0 = 869e6
    x = F / f0 - f0 / F
    g = gamma_from_impedance(20.0 * ((F / f0) ** 2 + 15j * x))
    best = F[np.argmin(np.abs(g))]
    assert best - f0 == pytest.approx(5.1e6, abs=1.0e6)
    found = resonance.tuned(F, g, 0.01)
    assert (found.by, found.f_hz) == ("reactance", pytest.approx(f0, abs=0.05e6))
    # A vector δ moves it by δ/s: s = |dΓ/df| = 2Z₀·x′/(R + Z₀)² with x′ = 2QR/f₀ is 1.409e-8/Hz.
    assert found.most_hz == pytest.approx(0.01 / 1.409e-8, rel=0.03)
    sized = resonance.tuned(F, np.abs(g), 0.01)
    assert sized.by == "match" and abs(sized.f_hz - f0) < 2 * sized.u_hz, "without phase its ± holds what R may do"


@pytest.mark.parametrize("delay_s", [0.4e-9, 1.3e-9, 5e-9])
def test_a_lead_that_nobody_noted_is_seen_by_its_turn(delay_s):
    """Read as it is, X passes zero elsewhere: then the circle behind a delay tells, with a ± that holds the truth."""
    g = resonance.series_gamma(F, 869e6, 27, 14, delay_s)
    found = resonance.tuned(F, g, 0.005)
    assert found.by == "circle" and abs(found.f_hz - 869e6) < 1.645 * found.u_hz


def test_a_plane_in_doubt_widens_it_and_one_that_is_lost_is_done_without():
    g = resonance.series_gamma(F, 869e6, 27, 14)
    near, lost = (resonance.tuned(F, g, 0.005, u_plane_s=u) for u in (0.03e-9, 1e-9))
    exact = resonance.tuned(F, g, 0.005)
    assert near.by == "reactance" and near.u_hz > 1.5 * exact.u_hz
    assert lost.by == "circle" and abs(lost.f_hz - 869e6) < 1.645 * lost.u_hz


def test_the_slopes_of_the_search_are_those_of_its_model():
    search = resonance._search(F, resonance.series_gamma(F, 869e6, 33, 14, 0.3e-9))
    p = np.array([0.03, 3.7, 2.4, 0.2])
    by_difference = np.stack([(search.left(p + h) - search.left(p - h)) / 2e-6 for h in 1e-6 * np.eye(4)], axis=1)
    assert search.slopes(p) == pytest.approx(by_difference, rel=1e-5, abs=1e-7)
