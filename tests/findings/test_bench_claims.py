"""What the bench says of claims, of a meter read twice, and of sweeps that hold no phase."""

import numpy as np
import pytest

from tallmast.findings.bench import plane
from tallmast.notebook.records import Cable, Fixture
from tallmast.physics.cable import loss_curve_db
from tallmast.physics.reflection import through_cable
from tallmast.physics.resonance import series_gamma

from .build import Book

F = np.linspace(840e6, 900e6, 1201)


def judged(quantity, value, gamma, f=F, second=None, **sweep):
    book = Book()
    a = book.antenna("A")
    book.claim(a, quantity, value, second_value=second)
    book.sweep(a, gamma, f, directivity_db=40, **sweep)
    return book.climb(a).bench.focus.claims[0]


def width_hz(q: float, s: float, f0: float = 869e6) -> float:
    """Yaghjian and Best 2005, eq. 90: Q·B = (s − 1)/√s for an antenna matched at resonance."""
    return f0 / q * (s - 1) / np.sqrt(s)


@pytest.mark.parametrize(("share", "mark"), [(0.7, "holds"), (1.4, "fails"), (1.0, "open")])
@pytest.mark.parametrize("limit", [1.5, 2.0])
def test_a_bandwidth_claim_is_judged_by_the_whole_interval(share, mark, limit):
    width = width_hz(25.0, limit)
    claim = judged("bandwidth", share * width, series_gamma(F, 869e6, 50.0, 25.0), second=limit)
    assert claim.mark == mark
    low, high = claim.figure.interval
    assert low < width / 1e6 < high
    assert claim.figure.value == pytest.approx(width / 1e6, rel=0.01)


def test_a_bandwidth_without_its_swr_is_taken_at_2_and_said():
    claim = judged("bandwidth", 10e6, series_gamma(F, 869e6, 50.0, 25.0))
    assert claim.why.startswith("At SWR 2, the SWR taken where a claim names none, ")


def test_a_window_that_touches_the_end_of_the_sweep_is_at_least():
    narrow = np.linspace(865e6, 873e6, 201)
    claim = judged("bandwidth", 30e6, series_gamma(narrow, 869e6, 50.0, 10.0), narrow)
    assert (claim.mark, claim.figure.bound) == ("open", "at least")


@pytest.mark.parametrize(
    ("claimed", "mark"),
    [(869e6, "holds"), (872e6, "holds"), (866e6, "holds"), (880e6, "fails"), (858e6, "fails"), (873.3e6, "open")],
)
def test_a_resonance_claim_has_half_a_per_cent_of_slack(claimed, mark):
    claim = judged("resonance", claimed, series_gamma(F, 869e6, 48.0, 25.0))
    assert claim.mark == mark
    assert claim.figure.value == pytest.approx(869.0, abs=0.05)


def test_claims_that_nothing_speaks_to_stay_open():
    book = Book()
    a = book.antenna("A")
    for quantity, value in (("swr", 1.5), ("bandwidth", 1e6), ("resonance", 869e6), ("gain", 3.0)):
        book.claim(a, quantity, value)
    claims = book.climb(a).bench.focus.claims
    assert [(c.claim.quantity, c.mark, c.figure) for c in claims] == [
        ("swr", "open", None),
        ("bandwidth", "open", None),
        ("resonance", "open", None),
    ]
    assert not any("claim" in check.text for check in book.climb(a).bench.checks)


def texts(book, a):
    return [check.text for check in book.climb(a).bench.checks]


def test_an_swr_that_falls_with_power_is_told():
    book = Book()
    a = book.antenna("A")
    book.meter(a, 1.9, power_w=0.4)
    book.meter(a, 1.5, power_w=10.0)
    # u = 0.05/3·√(1.9² + 1.5²) = 0.040; 90 %: 0.066, and it moved by 0.4.
    assert "SWR falls 1.90 → 1.50 from 400 mW to 10 W at 869 MHz" in texts(book, a)


def test_an_swr_that_rises_in_time_at_the_same_power_is_told_and_one_that_repeats_is_not():
    book = Book()
    a = book.antenna("A")
    book.meter(a, 1.30, power_w=5.0, taken_at="2026-05-02T10:00:00+00:00", channel="12")
    book.meter(a, 1.33, power_w=5.0, taken_at="2026-05-02T10:04:00+00:00", channel="12")
    assert not any("SWR rises" in text for text in texts(book, a))
    book.meter(a, 1.60, power_w=5.0, taken_at="2026-05-02T10:10:00+00:00", channel="12")
    assert "SWR rises 1.30 → 1.60 within 10 min at 12" in texts(book, a)


def test_readings_of_two_states_or_frequencies_are_not_held_against_each_other():
    book = Book()
    a = book.antenna("A")
    book.meter(a, 1.9, power_w=0.4)
    book.meter(a, 1.5, mhz=870, power_w=10.0)
    assert not any("SWR falls" in text for text in texts(book, a))


def test_a_sweep_without_phase_tells_the_match_and_nothing_that_needs_phase():
    size = np.abs(series_gamma(F, 862e6, 48.0, 25.0))
    book = Book(swr_limit=1.5)
    a = book.antenna("A", cut_part_m=0.084)
    book.sweep(a, size, F, phase_known=False)
    bench = book.climb(a).bench
    reading = bench.focus.sweep
    assert (reading.impedance_ohm, reading.model) == (None, None)
    assert reading.resonance_hz == pytest.approx(862e6, abs=0.1e6)
    assert bench.matches == ()
    assert bench.focus.trim is not None
    assert reading.at.value == pytest.approx((1 + size[580]) / (1 - size[580]), rel=0.01)
    assert "no phase" in reading.at.working.meaning


def test_a_cable_with_a_curve_is_taken_out_at_every_frequency():
    """A loss that is right at one frequency only is wrong by its root at others."""
    wide = np.linspace(2e6, 450e6, 400)
    curve = Cable(loss_db=1.0, length_m=10.0, root_db=0.05, linear_db=0.001)
    true = series_gamma(wide, 145e6, 60.0, 4.0)
    seen = through_cable(true, wide, loss_curve_db(wide, 0.05, 0.001), 10.0, 0.66)
    np.testing.assert_allclose(plane.at_antenna(curve, wide, seen), true, atol=1e-12)
    flat = curve.revised(root_db=None)
    assert np.abs(np.abs(plane.at_antenna(flat, wide, seen)) - np.abs(true)).max() > 0.05


def test_a_measured_cable_carries_its_curve_into_the_fixture():
    from tallmast.notebook.records import CableSweep

    wide = np.linspace(100e6, 1000e6, 1001)
    seen = through_cable(np.full(1001, -1.0 + 0j), wide, loss_curve_db(wide, 0.02, 0.0006), 3.0, 0.66)
    book = Book()
    book.antenna("A")
    book.add(Fixture(name="Plate A"))
    book.series["c"] = {"frequency_hz": wide, "re": seen.real, "im": seen.imag}
    book.add(CableSweep(name="blue", series_id="c"))
    cable = book.climb().bench.cables[0].cable()
    assert cable.root_db == pytest.approx(0.02, rel=0.01)
    assert cable.linear_db == pytest.approx(0.0006, rel=0.02)
    assert plane.loss_db(cable, np.array([869e6]))[0] == pytest.approx(cable.loss_db, abs=1e-3)


def test_no_finding_of_an_antenna_depends_on_which_one_is_in_focus():
    random = np.random.default_rng(5)
    for _ in range(12):
        book = Book()
        a, b = book.antenna("A"), book.antenna("B")
        f = np.linspace(840e6, 900e6, 401)
        for antenna in (a, b):
            gamma = series_gamma(f, random.uniform(862e6, 876e6), random.uniform(35, 65), 14.0)
            noise = 0.004 * (random.standard_normal(401) + 1j * random.standard_normal(401))
            book.sweep(antenna, gamma + noise, f, directivity_db=35)
            book.claim(antenna, "resonance", 869e6)
            book.claim(antenna, "bandwidth", 25e6, second_value=1.5)
        told = []
        for focus in (a, b):
            bench = book.climb(focus).bench
            told.append(
                [
                    (x.limit_mark, x.worst.interval, x.sweep.resonance.interval, [(c.mark, c.words) for c in x.claims])
                    for x in bench.antennas
                ]
            )
        assert told[0] == told[1]


def test_a_sweep_without_phase_resonates_where_it_matches_best():
    gamma = np.abs(series_gamma(F, 866e6, 40.0, 14.0))
    book = Book()
    a = book.antenna("A")
    book.sweep(a, gamma, F, directivity_db=40, phase_known=False)
    found = book.climb(a).bench.focus.sweep.resonance
    assert found.value == pytest.approx(866.0, abs=0.05)
    # s = |dΓ/df| = 2Q/f₀·2r/(1+r)² with r = 0.8 is 0.01597/MHz. What was left over, turning over 3 ns, moves the least |Γ| by
    # δ(s + Γ₀·2π·3 ns)/(r·s²) = 0.01·(0.01597 + 0.111·0.01885)/(0.8·0.01597²) = 0.886 MHz at most; and R as f⁰ to f²·⁵ by
    # p·f₀(1/r² − 1)/(8Q²), root mean square p = 1.44: 0.448 MHz.
    assert found.u == pytest.approx(np.hypot(0.886 / np.sqrt(2), 0.448), rel=0.03)
    assert found.bounded == pytest.approx(0.66, abs=0.02)
