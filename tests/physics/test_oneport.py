"""One-port error terms: solved, applied, inverted, and the same as scikit-rf finds."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import oneport

F = np.linspace(800e6, 950e6, 51)
TRUE = oneport.ErrorTerms(
    0.03 * np.exp(1j * F / 2e7), 0.05 * np.exp(-1j * F / 3e7), 0.92 * np.exp(-2j * np.pi * F * 4e-9)
)
STANDARDS = [oneport.open_gamma(F, (40e-15,)), oneport.short_gamma(F), oneport.load_gamma(F)]


def test_three_standards_give_the_terms_back():
    found = oneport.solve(STANDARDS, [TRUE.shown(g) for g in STANDARDS])
    for name in ("directivity", "source_match", "tracking"):
        np.testing.assert_allclose(getattr(found, name), getattr(TRUE, name), atol=1e-12)


def test_as_scikit_rf_finds_them():
    import skrf
    from skrf.calibration import OnePort

    frequency = skrf.Frequency.from_f(F, unit="hz")
    networks = [
        [skrf.Network(frequency=frequency, s=g.reshape(-1, 1, 1)) for g in group]
        for group in ([TRUE.shown(g) for g in STANDARDS], STANDARDS)
    ]
    theirs = OnePort(measured=networks[0], ideals=networks[1], is_reciprocal=False)
    theirs.run()
    terms = theirs.coefs
    ours = oneport.solve(STANDARDS, [TRUE.shown(g) for g in STANDARDS])
    np.testing.assert_allclose(ours.directivity, terms["directivity"], atol=1e-12)
    np.testing.assert_allclose(ours.source_match, terms["source match"], atol=1e-12)
    np.testing.assert_allclose(ours.tracking, terms["reflection tracking"], atol=1e-12)
    load = skrf.Network(frequency=frequency, s=TRUE.shown(np.full(51, 0.3 + 0.2j)).reshape(-1, 1, 1))
    np.testing.assert_allclose(
        theirs.apply_cal(load).s[:, 0, 0], ours.corrected(TRUE.shown(np.full(51, 0.3 + 0.2j))), atol=1e-12
    )


@given(st.complex_numbers(max_magnitude=1.0))
def test_correction_undoes_what_the_instrument_does(gamma):
    shown = TRUE.shown(np.full(len(F), gamma))
    np.testing.assert_allclose(TRUE.corrected(shown), gamma, atol=1e-12)


def test_a_fourth_standard_averages_the_noise():
    random = np.random.default_rng(3)
    ideal = [*STANDARDS, np.full(len(F), 0.5j)]
    noise = [0.003 * (random.normal(size=51) + 1j * random.normal(size=51)) for _ in ideal]
    found = oneport.solve(ideal, [TRUE.shown(g) + n for g, n in zip(ideal, noise, strict=True)])
    assert np.abs(found.directivity - TRUE.directivity).max() < 0.02


def test_two_alike_standards_are_refused():
    with pytest.raises(ValueError, match="alike"):
        oneport.solve([STANDARDS[0], STANDARDS[0], STANDARDS[2]], [TRUE.shown(STANDARDS[0])] * 2 + [TRUE.shown(0 * F)])
    with pytest.raises(ValueError, match="three"):
        oneport.solve(STANDARDS[:2], STANDARDS[:2])


def test_an_open_with_fringe_capacitance_turns_by_hand():
    # C = 50 fF at 1 GHz: X = 2π·1e9·50e-15·50 = 0.015708; angle of Γ = −2·atan(X) = −1.8000°.
    gamma = oneport.open_gamma(np.array([1e9]), (50e-15,))
    assert np.degrees(np.angle(gamma[0])) == pytest.approx(-1.8000, abs=2e-4)
    assert abs(gamma[0]) == pytest.approx(1.0)


def test_an_offset_turns_twice_its_delay_and_loses_twice_its_loss():
    # 30 ps one way at 1 GHz: −2·360°·0.03 = −21.6°; 0.1 dB one way: 10^(−0.2/20) = 0.97724.
    gamma = oneport.offset(np.array([1.0 + 0j]), np.array([1e9]), 30e-12, 0.1)
    assert np.degrees(np.angle(gamma[0])) == pytest.approx(-21.6)
    assert abs(gamma[0]) == pytest.approx(0.97724, abs=1e-5)


def test_terms_on_another_grid():
    fine = np.linspace(820e6, 900e6, 333)
    there = TRUE.at(F, fine)
    assert np.abs(there.directivity - 0.03 * np.exp(1j * fine / 2e7)).max() < 1e-4
