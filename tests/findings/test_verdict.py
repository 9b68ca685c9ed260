"""The Verdict: combining, judging claims, ranking, and what can be said from little."""

import numpy as np
import pytest

from tallmast.findings.figure import Figure
from tallmast.findings.gain import combine
from tallmast.notebook.records import Claim, Comparison, ReadingsInTurn
from tallmast.physics.reflection import gamma_from_impedance

from .build import Book
from .test_field import D
from .test_link import book as linked


def gain(value: float, u: float) -> Figure:
    return Figure("gain", value, u, "dBi")


def test_weighted_mean_by_hand():
    # 10 ± 0.5 and 12 ± 1.0: weights 4 and 1, mean 10.4, u = 1/√5 = 0.447; χ² = 0.16·4 + 2.56 = 3.2, chance 0.074.
    combined, mark, words = combine([("range", gain(10, 0.5)), ("field", gain(12, 1.0))], 0.0)
    assert combined.value == pytest.approx(10.4)
    assert combined.u == pytest.approx(0.4472, abs=1e-4)
    assert (mark, words) == ("holds", "two ways agree")


def test_disagreement_widens_and_is_named():
    combined, mark, words = combine([("range", gain(10, 0.5)), ("field", gain(13, 0.5))], 0.0)
    assert mark == "disagrees" and words in {f"{way} disagrees by 3.0 of its own u" for way in ("range", "field")}
    # Birge: √(χ²/ν) = √18; u = 0.354·4.24 = 1.5.
    assert combined.u == pytest.approx(1.5, abs=1e-3)


def test_a_doubt_common_to_all_does_not_average_out():
    shared = 0.3
    ways = [(str(i), gain(10, (0.2**2 + shared**2) ** 0.5)) for i in range(100)]
    combined, _, _ = combine(ways, shared)
    assert combined.u == pytest.approx((0.02**2 + shared**2) ** 0.5, rel=1e-3)


def test_claims_hold_fail_or_are_not_shown_yet():
    made = Book(swr_limit=1.5)
    a = made.antenna("A")
    ref = made.antenna("Ref", known_gain_dbi=2.15)
    made.claim(a, "gain", 8, reference="dBi")
    made.claim(a, "swr", 1.5)
    made.claim(a, "range", 15_000)
    made.sweep(a, 0.05)
    made.cut(a, np.full(72, -43.0), absolute=True, session="s", level_u_db=0.3)
    made.cut(ref, np.full(72, -43.0), absolute=True, session="s", level_u_db=0.3)
    fates = {f.claim.quantity: f.mark for f in made.climb().verdict.claims}
    assert fates == {"gain": "fails", "swr": "holds", "range": "open"}


@pytest.mark.parametrize(("claimed_mhz", "mark"), [(20, "holds"), (45, "fails")])
def test_a_bandwidth_claim(claimed_mhz, mark):
    # Series resonator, Q 20 at 869 MHz, R 50: SWR 2 over 0.7071·869/20 = 30.7 MHz.
    f = np.linspace(800e6, 940e6, 1401)
    made = Book()
    a = made.antenna("A")
    made.claim(a, "bandwidth", claimed_mhz * 1e6)
    made.sweep(a, gamma_from_impedance(50 * (1 + 20j * (f / 869e6 - 869e6 / f))), f)
    assert made.climb().verdict.claims[0].mark == mark


def test_a_window_cut_off_by_the_sweep_shows_nothing_against_a_claim():
    made = Book()
    a = made.antenna("A")
    made.claim(a, "bandwidth", 100e6)
    made.sweep(a, 0.1, np.linspace(860e6, 880e6, 21))
    assert made.climb().verdict.claims[0].mark == "open"


def test_a_range_claim_is_held_against_the_measured_path():
    made = linked()
    a = made.records["a"]
    for number in (1, 2):
        made.log(made.run(a, number), D, -60 - 35 * np.log10(D / 100))
    made.claim(a, "range", 50_000, at_power_w=0.05)
    fate = made.climb(a).verdict.claims[0]
    assert fate.mark == "fails"
    # Margin 0.1 W at 3 km: −60 − 35·1.477 + 10 + 110 = 8.3 dB; range 3·10^(8.3/35) = 5.2 km; at half the power 0.82 of it.
    assert fate.figure.value == pytest.approx(5.18 * 0.82, rel=0.02)


def test_ranking_and_the_chance_of_being_best():
    made = linked()
    a, b = made.records["a"], made.antenna("B", polarization="vertical")
    made.add(a.revised(known_gain_dbi=None))
    for number, (antenna, gain_) in enumerate(((a, 6), (b, 2), (b, 2.4), (a, 6.4)), 1):
        made.log(made.run(antenna, number), D, -60 + gain_ - 25 * np.log10(D / 100))
    verdict = made.climb(a).verdict
    assert [r.antenna.name for r in verdict.ranked] == ["A", "B"]
    assert verdict.ranked[0].chance_of_best > 0.95
    assert verdict.sentence.startswith("Put A on Quay: it reaches Rock with")
    assert verdict.lamp


def test_the_chance_of_being_best_is_what_the_comparison_leaves_open():
    """Of two it is what the day says of their difference: no surer than the Field's own ±."""
    from scipy.stats import norm

    made = linked()
    a, b = made.records["a"], made.antenna("B", polarization="vertical")
    made.add(a.revised(known_gain_dbi=None))
    wobble = np.random.default_rng(4).normal(0, 1.0, (4, len(D)))
    for number, (antenna, gain_) in enumerate(((a, 4.0), (b, 2.0), (b, 3.0), (a, 5.0)), 1):
        made.log(made.run(antenna, number), D, -60 + gain_ - 25 * np.log10(D / 100) + wobble[number - 1])
    climb = made.climb(a)
    ranked = {r.antenna.name: r for r in climb.verdict.ranked}
    seen = climb.field.difference(a.id, b.id)
    ahead = ranked["A"].margin.figure.value - ranked["B"].margin.figure.value
    assert ranked["A"].chance_of_best == pytest.approx(norm.cdf(ahead / seen.u), abs=1e-6)
    assert ranked["A"].chance_of_best + ranked["B"].chance_of_best == pytest.approx(1.0)
    assert 0.6 < ranked["A"].chance_of_best < 1.0


def test_an_antenna_read_at_one_place_is_not_surely_the_best():
    made = linked()
    a, b = made.records["a"], made.antenna("B", polarization="vertical")
    made.add(a.revised(known_gain_dbi=None))
    for number, (antenna, level) in enumerate(((a, -80.0), (b, -83.0)), 1):
        made.reading(made.run(antenna, number), "rock", level_dbm=level)
    ranked = made.climb(a).verdict.ranked
    assert all(r.chance_of_best is None or r.chance_of_best < 0.95 for r in ranked)


def test_what_can_be_said_from_little():
    made = Book()
    assert made.climb().verdict.sentence == "No verdict yet."
    a = made.antenna("A")
    assert made.climb().verdict.sentence == "No verdict yet: nothing has been measured."
    made.sweep(a, 0.05)
    verdict = made.climb().verdict
    assert verdict.sentence == "A holds the SWR limit; that alone doesn't make a good antenna."
    assert not verdict.lamp
    made.home(500)
    b = made.antenna("B")
    for number, (antenna, level) in enumerate(((a, -60.0), (b, -70.0)), 1):
        made.log(made.run(antenna, number), D, level - 25 * np.log10(D / 100))
    assert made.climb().verdict.sentence.startswith("A is better than B by ")


def test_what_the_field_cannot_tell_apart_the_verdict_does_not_call_better():
    made = Book()
    made.home(500)
    wobble = np.random.default_rng(9).normal(0, 3.0, (4, len(D)))
    pair = made.antenna("A"), made.antenna("B")
    for number, gain_ in enumerate((0.0, 0.3, 0.0, 0.3)):
        made.log(made.run(pair[number % 2], number + 1), D, -60 + gain_ - 25 * np.log10(D / 100) + wobble[number])
    climb = made.climb()
    assert "can’t be told apart" in climb.field.sentence or "are alike within" in climb.field.sentence
    assert climb.verdict.sentence == climb.field.sentence


def test_of_three_the_verdict_tells_the_best_against_the_next():
    made = Book()
    made.home(500)
    for number, (name, gain_) in enumerate((("A", 0.0), ("B", 12.0), ("C", 7.0)), 1):
        made.log(made.run(made.antenna(name), number), D, -60 + gain_ - 25 * np.log10(D / 100))
    assert made.climb().verdict.sentence.startswith("B is better than C by 5.")


def test_none_reaches():
    made = linked(wanted=3000.0, sensitivity_dbm=-60.0)
    a = made.records["a"]
    for number in (1, 2):
        made.log(made.run(a, number), D, -60 - 35 * np.log10(D / 100))
    assert "does not reach Rock" in made.climb(a).verdict.sentence


@pytest.mark.parametrize(("power_w", "mark"), [(0.001, "fails"), (None, "open")])
def test_a_range_claim_at_a_power_wants_the_power_that_it_was_heard_with(power_w, mark):
    book = Book()
    book.home()
    a = book.antenna("A")
    near, far = book.place("Near", 100.0), book.place("Far", 120.0)
    for number in (1, 2):
        run = book.run(a, number, power_w=power_w)
        book.reading(run, near.id, heard=True)
        book.reading(run, far.id, heard=False)
    book.add(Claim(antenna_id=a.id, quantity="range", value=5000.0, at_power_w=0.025))
    (fate,) = book.climb(a).verdict.claims
    assert fate.mark == mark
    assert ("nobody noted" in fate.why) == (power_w is None)


@pytest.mark.parametrize(
    ("claimed", "reference", "mark"), [(6.0, "dB", "holds"), (6.0, "dBi", "open"), (12.0, "dB", "fails")]
)
def test_a_claim_over_nothing_named_is_held_against_another_antenna(claimed, reference, mark):
    """6.6 dB over the other on the path, and no gain of either is known."""
    made, d, rng = linked(), np.linspace(200, 3000, 300), np.random.default_rng(5)
    long, stub = made.antenna("Long"), made.antenna("Stub")
    made.claim(long, "gain", claimed, reference=reference)
    for number, (antenna, more) in enumerate(((long, 6.6), (stub, 0.0), (stub, 0.0), (long, 6.6)), 1):
        run = made.run(antenna, number, power_w=0.1)
        made.log(run, d, -40 - 20 * np.log10(d) + more + rng.normal(0, 0.5, len(d)))
    (fate,) = made.climb().verdict.claims
    assert fate.mark == mark
    assert ("over Stub" in fate.why) == (reference == "dB")


@pytest.mark.parametrize(
    ("labels", "mark"), [(("Stub", "Long"), "holds"), (("Long", "Stub"), "holds"), (("x", "y"), "open")]
)
def test_what_was_read_in_turn_under_its_name_speaks_to_a_claim_too(labels, mark):
    """Long reads 6.6 dB more than Stub, whichever was read first; of labels that name no antenna nothing is said."""
    made = Book()
    made.antenna("Stub")
    long = made.antenna("Long")
    made.claim(long, "gain", 6.0, reference="dB")
    levels = {"Long": -60.0, "Stub": -66.6, "x": -66.6, "y": -60.0}
    spells = [
        ReadingsInTurn(label=label, values=[levels[label] + off for off in (-0.1, 0.0, 0.1)])
        for label in (labels[0], labels[1], labels[0], labels[1])
    ]
    made.add(Comparison(what="at the gate", unit="dBm", spells=spells))
    (fate,) = made.climb().verdict.claims
    assert fate.mark == mark and ("6.6" in fate.against) == (mark == "holds")
