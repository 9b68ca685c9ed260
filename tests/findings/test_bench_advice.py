"""Advice on the bench: networks predicted from a sweep and built on it, and cables read from one end."""

import numpy as np
import pytest

from tallmast.notebook.records import CableSweep
from tallmast.physics import matching
from tallmast.physics.cable import bad_joint_gamma
from tallmast.physics.reflection import gamma_from_impedance, swr, through_cable
from tallmast.physics.resonance import series_gamma

from .build import Book

F = np.linspace(820e6, 920e6, 501)


def proposals(gamma, f=F, **question):
    book = Book(**question)
    a = book.antenna("A")
    book.sweep(a, gamma, f, directivity_db=50)
    return book, book.climb(a).bench


def test_an_antenna_of_120_ohm_gets_every_kind_of_match_best_first():
    _, bench = proposals(series_gamma(F, 869e6, 120, 8))
    names = [m.match.name for m in bench.matches]
    assert "quarter-wave section" in names
    assert {"L network", "L network, stock values", "open stub", "shorted stub"} <= set(names)
    assert names[-2:] == ["harness for two", "harness for four"]
    worst = [m.worst.value for m in bench.matches[:-2]]
    assert worst == sorted(worst)
    assert worst[0] < 1.1 < bench.focus.worst.value


def test_what_is_predicted_is_what_the_network_does():
    """Built and swept again, the antenna with its network reads what was promised."""
    gamma = series_gamma(F, 862e6, 30, 12)
    _, bench = proposals(gamma)
    for m in bench.matches:
        built = m.match.gamma(F, gamma)
        inside = (F >= 868e6) & (F <= 870e6)
        assert float(swr(np.abs(built[inside]).max())) == pytest.approx(m.worst.value, rel=0.01)
        low, high = m.worst.interval
        assert low <= m.worst.value <= high


def test_a_section_for_100_ohm_by_hand():
    _, bench = proposals(gamma_from_impedance(np.full(len(F), 100 + 0j)))
    section = next(m for m in bench.matches if m.match.name == "quarter-wave section")
    # √(50·100) = 70.7 Ω; c·0.66/(4·869 MHz) = 56.9 mm.
    assert section.match.parts == ("70.7 Ω line, 57 mm",)
    assert section.worst.value < 1.01


def test_nothing_is_proposed_while_the_limit_holds_or_the_band_is_not_covered():
    assert proposals(np.full(len(F), 0.05 + 0j))[1].matches == ()
    assert proposals(np.full(len(F), 0.5 + 0j), np.linspace(700e6, 800e6, 501))[1].matches == ()


def test_the_bandwidth_is_that_of_the_curve():
    _, bench = proposals(series_gamma(F, 869e6, 120, 8))
    best = bench.matches[0]
    inside = F[swr(best.magnitude) <= 1.5]
    assert best.bandwidth_hz == pytest.approx(inside[-1] - inside[0], abs=0.5e6)


WIDE = np.linspace(600e6, 1100e6, 801)


def cable_book(gamma, **more):
    book = Book()
    book.antenna("A")
    book.series["c"] = {"frequency_hz": WIDE, "re": gamma.real, "im": gamma.imag}
    book.add(CableSweep(name="blue", series_id="c", **more))
    return book


def lossy(length, far, joint=None):
    loss = 0.012 * np.sqrt(WIDE / 1e6) * length
    if joint is None:
        return through_cable(far, WIDE, loss, length, 0.66)
    near = through_cable(bad_joint_gamma(WIDE, 8.0), WIDE, loss * joint / length, joint, 0.66)
    return near + through_cable(far, WIDE, loss, length, 0.66) * (1 - bad_joint_gamma(WIDE, 8.0)) ** 2


def test_a_good_cable():
    reading = cable_book(lossy(2.0, np.full(len(WIDE), -1.0 + 0j)), far_end="short").climb().bench.cables[0]
    # 0.012·√869·2 = 0.7075 dB.
    assert reading.loss.value == pytest.approx(0.7075, abs=1e-3)
    assert reading.length.value == pytest.approx(2.0, abs=1e-3)
    assert reading.mark == "holds" and reading.steps == ()
    noted = reading.cable()
    assert (noted.loss_db, noted.length_m) == pytest.approx((0.7075, 2.0), abs=6e-4)


def test_a_bad_joint_on_a_loaded_cable_is_a_check_on_the_bench():
    bench = cable_book(lossy(3.0, np.full(len(WIDE), 0.01 + 0j), joint=1.2), far_end="load").climb().bench
    reading = bench.cables[0]
    assert reading.loss is None and reading.cable() is None
    assert min(abs(s.distance_m - 1.2) for s in reading.steps) < 0.03
    assert any(c.mark == "fails" and "something reflects at 1.2" in c.text for c in bench.checks)


def test_a_tape_tells_the_velocity_factor():
    gamma = lossy(2.0, np.full(len(WIDE), -1.0 + 0j))
    reading = cable_book(gamma, far_end="short", velocity_factor=0.7, length_m=2.0).climb().bench.cables[0]
    assert any("velocity factor 0.660" in line for line in reading.length.working.lines)
    assert reading.length.value == 2.0 and reading.mark == "disagrees"
    assert reading.words == "blue: velocity factor 0.66 by its tape of 2 m, not 0.7 as noted"
    assert reading.cable().velocity_factor == pytest.approx(0.66, abs=0.003)
    right = cable_book(gamma, far_end="short", velocity_factor=0.66, length_m=2.0).climb().bench.cables[0]
    assert right.mark == "holds"


def test_a_tape_that_no_velocity_factor_makes_true_is_told():
    gamma = lossy(2.0, np.full(len(WIDE), -1.0 + 0j))
    reading = cable_book(gamma, far_end="short", length_m=4.0).climb().bench.cables[0]
    assert reading.mark == "disagrees" and "no velocity factor makes these one" in reading.words


def test_a_sweep_that_can_t_be_a_cable_is_told():
    reading = cable_book(np.full(len(WIDE), 1.02 + 0j), far_end="open").climb().bench.cables[0]
    assert reading.mark == "open"
    assert "nothing is lost" in reading.words


def test_stock_values_are_told_apart_from_exact_ones():
    exact, stocked = matching.l_matches(30 - 20j, 869e6)[:2]
    assert exact.name != stocked.name
    assert exact.parts != stocked.parts


def in_place(rng):
    """An antenna whose reactance passes zero in the middle of the band, and that misses the limit all the same: its R is off."""
    f0, q = 869e6, rng.uniform(8, 25)
    r0 = rng.uniform(16, 28) if rng.random() < 0.5 else rng.uniform(90, 140)
    x = F / f0 - f0 / F
    gamma = gamma_from_impedance(r0 * ((F / f0) ** 2 + 1j * q * x))
    left = 10 ** (-35 / 20) * np.exp(1j * (rng.uniform(0, 2 * np.pi) + 2 * np.pi * F * rng.uniform(0, 50e-9)))
    return gamma + left


def test_no_antenna_that_is_in_place_is_sent_to_be_cut():
    """R of 16 to 28 or 90 to 140 Ω, and a residual that turns: where R is what is off, that is said, and a match is offered."""
    rng = np.random.default_rng(26)
    advices = []
    for _ in range(60):
        book = Book()
        a = book.antenna("A", type="dipole", cut_part_m=0.082)
        book.sweep(a, in_place(rng), F, directivity_db=35)
        bench = book.climb(a).bench
        advices.append(bench.focus.advice)
        assert bench.focus.limit_mark == "fails"
    # The ± holds nine in ten, so some are seen off though they are not.
    cut = [words for words in advices if words.startswith(("trim", "too short", "resonates"))]
    assert len(cut) <= 9
    assert all("then match it: R is " in words for words in cut), "and even then it is the match that helps"
    matched = [words for words in advices if words.startswith("resonance is in place within ")]
    assert len(matched) == 60 - len(cut)
    assert all("match it rather than trim, by a" in words for words in matched)


def test_a_shift_that_its_own_uncertainty_bears_out_is_trimmed():
    book = Book()
    a = book.antenna("A", type="dipole", cut_part_m=0.082)
    book.sweep(a, series_gamma(F, 851e6, 48, 14), F, directivity_db=35)
    told = book.climb(a).bench
    assert told.focus.advice.startswith("trim 1.7 mm off each part, half of it first")
    assert told.sentence.startswith("A resonates 18.0 ± ") and "match it" not in told.focus.advice
