"""Matching networks against hand-worked cases, and against themselves: each makes 50 Ω at its frequency."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import matching
from tallmast.physics.reflection import gamma_from_impedance

F0 = 869e6


def test_pozar_example_5_1():
    """Load 200 − j100 Ω to 100 Ω at 500 MHz: 0.92 pF with 38.8 nH, and 46.1 nH with 2.61 pF (Pozar, Example 5.1)."""
    found = matching.l_networks(200 - 100j, 500e6, 100.0)
    values = sorted((a.kind, round(a.value * (1e12 if a.kind == "capacitor" else 1e9), 1), b.kind) for a, b in found)
    assert values == [("capacitor", 0.9, "coil"), ("coil", 46.1, "capacitor")]
    one = next(pair for pair in found if pair[0].kind == "capacitor")
    assert one[0].value == pytest.approx(0.92e-12, rel=0.01)
    assert one[1].value == pytest.approx(38.8e-9, rel=0.01)


def test_pozar_example_5_2():
    """Load 60 − j80 Ω, single shunt stub: d 0.110 λ or 0.260 λ, shorted stub 0.095 λ or 0.405 λ (Pozar, Example 5.2)."""
    wave = 299_792_458.0 * 0.66 / 2e9
    shorted = [m for m in matching.stubs(60 - 80j, 2e9, 0.66) if m.name == "shorted stub"]
    lengths = sorted(
        tuple(round(float(part.split(" mm")[0].split()[-1]) / 1e3 / wave, 2) for part in m.parts) for m in shorted
    )
    assert lengths == [(0.11, pytest.approx(0.095, abs=0.012)), (0.26, pytest.approx(0.405, abs=0.012))]


loads = st.builds(complex, st.floats(3, 900), st.floats(-600, 600))


@given(loads)
def test_every_l_network_makes_50_ohm(load):
    found = matching.l_networks(load, F0)
    assert found or abs(load - 50) < 1 or abs(load.imag) < 1e-6
    for pair in found:
        z = matching.through_parts(pair)(np.array([F0]), np.array([load]))
        assert abs(gamma_from_impedance(z)[0]) < 1e-6
        assert all(part.value > 0 for part in pair)


@given(loads)
def test_every_stub_makes_50_ohm(load):
    found = matching.stubs(load, F0)
    assert len(found) in (2, 4)
    for match in found:
        assert abs(match.gamma([F0], gamma_from_impedance(np.array([load])))[0]) < 1e-5


def test_a_quarter_wave_of_70_7_ohm_makes_50_of_100():
    match = matching.quarter_wave(100 + 0j, F0)
    assert "70.7 Ω" in match.parts[0]
    # c/4f = 86.2 mm in air.
    assert "86 mm" in match.parts[0]
    assert abs(match.gamma([F0], [1 / 3])[0]) < 1e-9
    assert matching.quarter_wave(100 + 30j, F0) is None


@pytest.mark.parametrize("count", [2, 4])
def test_a_harness_keeps_50_ohm(count):
    match = matching.harness(count, F0)
    assert abs(match.gamma([F0], [0.0])[0]) < 1e-9
    assert abs(match.gamma([F0 * 1.1], [0.0])[0]) > 0.01


@given(st.floats(1e-13, 1e-6))
def test_stock_values_are_near_and_on_the_shelf(value):
    found = matching.stock_value(value)
    assert 0.925 < found / value < 1.08
    mantissa = found / 10 ** np.floor(np.log10(found) + 1e-9)
    assert min(abs(mantissa - m) for m in matching.E24) < 1e-6


def test_stock_values_shift_the_match_a_little():
    exact, stocked = matching.l_matches(25 - 40j, F0)[:2]
    load = gamma_from_impedance(np.array([25 - 40j]))
    assert abs(exact.gamma([F0], load)[0]) < 1e-9
    assert 0 < abs(stocked.gamma([F0], load)[0]) < 0.15


def test_a_coil_and_a_capacitor_by_hand():
    """10 nH and 10 pF at 100 MHz: j6.283 Ω and −j159.15 Ω."""
    f = np.array([100e6])
    assert matching.Part("coil", "series", 10e-9).impedance(f)[0] == pytest.approx(6.2832j, rel=1e-4)
    assert matching.Part("capacitor", "shunt", 10e-12).impedance(f)[0] == pytest.approx(-159.155j, rel=1e-4)
    for reactance in (75.0, -75.0):
        part = matching.Part.of_reactance("series", reactance, 869e6)
        assert part.impedance(np.array([869e6]))[0] == pytest.approx(1j * reactance, rel=1e-12)


def test_a_stub_away_from_its_frequency_is_the_line_that_it_is():
    """At 5 % more than its frequency each length is 5 % longer in waves: against chain matrices worked out here."""
    load, f = 60 - 80j, 2e9 * 1.05
    for match in matching.stubs(load, 2e9, 0.66):
        away, stub = (float(part.split(" mm")[0].split()[-1]) / 1e3 for part in match.parts)
        beta = 2 * np.pi * f / (299_792_458.0 * 0.66)
        t = np.tan(beta * away)
        there = 50 * (load + 50j * t) / (50 + 1j * load * t)
        y = 1j * np.tan(beta * stub) / 50 if match.name == "open stub" else 1 / (50j * np.tan(beta * stub))
        z = 1 / (1 / there + y)
        # The words carry whole millimetres: 1 % of a wave.
        assert match.seen(np.array([f]), np.array([load]))[0] == pytest.approx(z, rel=0.35)
        exact = match.seen(np.array([2e9]), np.array([load]))[0]
        assert exact == pytest.approx(50.0, rel=1e-6)
