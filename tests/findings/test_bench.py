"""The Bench: SWR with its interval, meters, trim advice, and what can't be compared."""

import numpy as np
import pytest

from tallmast.notebook.records import Cable, State
from tallmast.physics.reflection import gamma_from_impedance, through_cable

from .build import Book

F = np.linspace(840e6, 900e6, 601)


def resonator(f0: float, q: float = 15, r: float = 48):
    return gamma_from_impedance(r * (1 + 1j * q * (F / f0 - f0 / F)))


def test_the_cable_is_taken_out():
    book = Book()
    a = book.antenna("A")
    seen = through_cable(np.full(len(F), 0.5 + 0j), F, 1.0, 2.0, 0.66)
    book.sweep(a, seen, F, cable=Cable(loss_db=1.0, length_m=2.0), directivity_db=40)
    reading = book.climb(a).bench.focus.sweep
    assert reading.at.value == pytest.approx(3.0, abs=1e-6)
    assert np.allclose(reading.gamma, 0.5)


def test_near_a_match_only_at_most_is_claimed():
    book = Book()
    a = book.antenna("A")
    book.sweep(a, 0.005, F, directivity_db=30)
    worst = book.climb(a).bench.focus.worst
    assert worst.bound == "at most"
    # √(0.005² + 0.0316² + 2·0.005·0.0316·cos 18°) = 0.0364, which nine in ten phases stay under: SWR 1.08.
    assert worst.text == "at most 1.08"


@pytest.mark.parametrize(("gamma", "mark"), [(0.05, "holds"), (0.20, "open"), (0.35, "fails")])
def test_a_limit_holds_or_fails_only_when_the_whole_interval_says_so(gamma, mark):
    book = Book(swr_limit=1.5)
    a = book.antenna("A")
    book.claim(a, "swr", 1.5)
    book.sweep(a, gamma, F, directivity_db=30)
    focus = book.climb(a).bench.focus
    assert focus.limit_mark == mark
    assert focus.claims[0].mark == mark


def test_swr_intervals_cover_the_truth():
    random = np.random.default_rng(7)
    covered = 0
    n = 500
    for _ in range(n):
        true = 0.3 * np.exp(1j * random.uniform(0, 6.28))
        error = 10 ** (-30 / 20) * np.exp(1j * random.uniform(0, 6.28)) + random.normal(0, 0.02, 2) @ [1, 1j]
        book = Book()
        a = book.antenna("A")
        book.sweep(a, true + error, F[::100], directivity_db=30, noise=0.02)
        low, high = book.climb(a).bench.focus.sweep.at.interval
        covered += low <= 1.3 / 0.7 <= high
    assert 0.85 <= covered / n <= 0.97  # the directivity's share has no tails, so a little over 90 %


def test_low_resonance_gets_a_trim_with_half_first():
    book = Book()
    a = book.antenna("A", cut_part_m=0.084)
    book.sweep(a, resonator(860e6, q=25), F)
    focus = book.climb(a).bench.focus
    # 84 mm · 9/869 = 0.870 mm.
    assert focus.trim.value == pytest.approx(0.870, abs=0.01)
    # A tenth of that, and half a part in a thousand of 84 mm: √(0.087² + 0.042²) = 0.097 mm.
    assert focus.trim.u == pytest.approx(0.097, abs=0.002)
    assert [text for _, text in focus.trim.working.parts] == ["0.09 mm", "0.04 mm"]
    assert "half of it first" in focus.advice
    assert "resonates 9.0 ± 1.1 MHz low" in book.climb(a).bench.sentence


def test_high_resonance_can_t_be_trimmed():
    book = Book()
    a = book.antenna("A", cut_part_m=0.084)
    book.sweep(a, resonator(880e6, q=25), F)
    assert "sleeve" in book.climb(a).bench.focus.advice
    assert book.climb(a).bench.focus.trim.value < 0


def test_a_resonance_in_place_with_the_wrong_resistance_is_matched_not_trimmed():
    book = Book()
    a = book.antenna("A", cut_part_m=0.084)
    book.sweep(a, resonator(869e6, r=120), F)
    assert "match it rather than trim" in book.climb(a).bench.focus.advice


def test_following_the_advice_brings_it_into_the_band():
    """Cut half, sweep, cut what is then advised: constant length × frequency."""
    length, f0 = 0.084, 852e6
    product = length * f0
    for _ in range(2):
        book = Book()
        a = book.antenna("A", cut_part_m=length)
        book.sweep(a, resonator(product / length), F)
        cut = book.climb(a).bench.focus.trim.value / 1e3
        length -= cut / 2 if length == 0.084 else cut
    assert product / length == pytest.approx(869e6, rel=1e-4)


def test_meter_and_analyzer():
    book = Book()
    a = book.antenna("A")
    book.sweep(a, 0.2, F, directivity_db=38)
    book.meter(a, 1.52)
    book.meter(a, 2.4)
    book.meter(a, 1.5, mhz=500)
    marks = [m.mark for m in book.climb(a).bench.focus.meters]
    assert marks == ["holds", "disagrees", "open"]
    assert book.climb(a).bench.standing.words == "a meter disagrees"


def test_meter_alone_can_judge_the_limit():
    book = Book()
    a = book.antenna("A")
    for mhz in (868, 870):
        book.meter(a, 1.1, mhz)
    bench = book.climb(a).bench
    assert bench.focus.limit_mark == "holds"
    assert "By meter only" in bench.detail


@pytest.mark.parametrize(
    ("read", "words"),
    [
        ((2.1, 1.7, 1.3, 1.4, 1.6), "Best of five frequencies: 869 MHz, SWR 1.30 (1.19 to 1.41). By meter only"),
        (
            (1.2, 1.5, 1.9, 2.2, 2.6),
            "It is best at 868 MHz, the lowest that was read, SWR 1.20 (1.10 to 1.30): long for this band, unless",
        ),
        (
            (2.6, 2.2, 1.9, 1.5, 1.2),
            "It is best at 870 MHz, the highest that was read, SWR 1.20 (1.10 to 1.30): short for this band, unless",
        ),
        ((1.32, 1.31, 1.30, 1.31, 1.33), "By meter only"),
        ((1.3, 2.0), "By meter only"),
    ],
)
def test_a_meter_across_the_band_tells_where_it_is_lowest(read, words):
    """A twentieth of a reading is the meter's own error, the same at every frequency: a third of it is how it repeats."""
    book = Book()
    a = book.antenna("A")
    for swr, mhz in zip(read, np.linspace(868, 870, len(read)), strict=True):
        book.meter(a, swr, mhz=mhz)
    assert book.climb(a).bench.detail.startswith(words)


def test_only_the_newest_readings_about_the_band_on_one_fixture_are_held_together():
    book = Book()
    a = book.antenna("A")
    for swr, mhz in ((3.0, 869), (2.1, 868), (1.3, 869), (2.0, 870), (1.05, 433)):
        book.meter(a, swr, mhz=mhz)
    assert book.climb(a).bench.detail.startswith("Best of three frequencies: 869 MHz, SWR 1.30")
    book.meter(a, 1.2, mhz=868.5, fixture="roof")
    assert book.climb(a).bench.detail.startswith("By meter only"), "one on the roof is held against none on the plate"


def test_measurements_belong_to_a_state():
    book = Book()
    a = book.antenna("A")
    book.sweep(a, 0.5, F)
    trimmed = a.revised(states=[*a.states, State(id="t", name="trimmed")])
    book.add(trimmed)
    book.sweep(trimmed, 0.05, F)
    focus = book.climb(trimmed).bench.focus
    assert focus.sweep.state == "trimmed"
    assert [e.state for e in focus.earlier] == ["as received"]


def test_two_fixtures_can_t_be_compared():
    book = Book()
    a = book.antenna("A")
    book.sweep(a, 0.1, F, fixture="Plate A")
    book.sweep(a, 0.2, F, fixture="Car roof")
    assert "Car roof and Plate A" in book.climb(a).bench.focus.not_comparable


def test_a_sweep_that_misses_the_band_says_so():
    book = Book()
    a = book.antenna("A")
    book.sweep(a, 0.1, np.linspace(400e6, 500e6, 51))
    bench = book.climb(a).bench
    assert "not over the whole of 868–870 MHz" in bench.sentence
    assert bench.focus.worst is None
