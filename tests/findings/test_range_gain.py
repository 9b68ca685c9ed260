"""Gain on a range: worked by hand, its table of ±, what it warns of, and how it comes to the Verdict's axis."""

import numpy as np
import pytest

from tallmast.findings.tables.pattern import budget
from tallmast.notebook.records import RangeGain
from tallmast.notebook.records.lists import in_turn
from tallmast.physics.propagation import free_space_loss_db

from .build import Book

HZ = 869e6


def measured(way: str, readings: str, **more):
    book = Book()
    a = book.antenna("A", **more.pop("antenna", {}))
    book.antenna("R", known_gain_dbi=2.15, known_gain_u_db=0.3)
    book.antenna("C")
    record = RangeGain(
        way=way,
        antenna_id="a",
        second_id="r",
        third_id="c" if way == "three antennas" else "",
        state_id=a.state.id,
        readings=in_turn(readings),
        frequency_hz=HZ,
        **more,
    )
    book.add(record)
    return book.climb(a)


def test_substitution_by_hand_with_drift_taken_out():
    # A reads −40, −39, −38 as it drifts by a decibel a turn, R −46.5 and −45.5 in between: A is 7 dB over R, 9.15 dBi.
    climb = measured("substitution", "A -40 -40; R -46.5 -46.5; A -39 -39; R -45.5 -45.5; A -38 -38")
    (read,) = climb.pattern.of("a").ranges
    assert read.gain.value == pytest.approx(9.15, abs=0.02)
    assert climb.pattern.sentence.startswith("A has 9.2 ± ") and climb.pattern.sentence.endswith("dBi by substitution.")
    assert climb.gains["a"].measured[0][0] == "substitution", "it stands on the Verdict's axis"
    assert not [c for c in read.checks if "drift not told" in c.text]


def test_the_table_of_uncertainty_adds_up_and_is_shown():
    climb = measured("substitution", "A -40; R -46.5; A -40")
    (read,) = climb.pattern.of("a").ranges
    parts = dict(read.budget)
    assert {"gain of the reference", "mismatch, phases unknown", "reflections of ground and site"} <= set(parts)
    assert read.gain.u == pytest.approx(np.sqrt(sum(u**2 for u in parts.values())), rel=1e-3)
    table = budget(climb.pattern)
    assert table.rows[-1].cells[0].text.startswith("together") and len(table.rows) == len(parts) + 1


def test_three_antennas_by_hand():
    # 20 m at 869 MHz: 57.25 dB. Sent 10 dBm: 5, 7 and 9 dBi by the sums 12, 14, 16.
    loss = float(free_space_loss_db(20.0, HZ))
    at = {pair: 10 - loss + both for pair, both in (("AR", 12), ("AC", 14), ("RC", 16))}
    text = f"AB {at['AR']:.4f}; AC {at['AC']:.4f}; BC {at['RC']:.4f}"
    climb = measured("three antennas", text, sent_dbm=10.0, distance_m=20.0)
    gains = {a.antenna.id: a.ranges[0].gain.value for a in climb.pattern.antennas}
    assert gains == pytest.approx({"a": 5.0, "r": 7.0, "c": 9.0}, abs=0.01)
    assert "gain of the reference" not in dict(climb.pattern.of("a").ranges[0].budget)


def test_two_that_are_alike():
    loss = float(free_space_loss_db(20.0, HZ))
    climb = measured("two antennas", f"AA {10 - loss + 16:.4f}", sent_dbm=10.0, distance_m=20.0)
    assert climb.pattern.of("a").ranges[0].gain.value == pytest.approx(8.0, abs=0.01)


def test_too_near_is_named():
    climb = measured("substitution", "A -40; R -46; A -40", distance_m=5.0, antenna={"length_m": 1.5})
    # 2·1.5²/0.345 = 13 m.
    assert "fails" in [c.mark for c in climb.pattern.of("a").ranges[0].checks]


def test_a_ripple_is_seen_when_it_was_moved_and_assumed_when_not():
    still = measured("substitution", "A -40; R -46; A -40").pattern.of("a").ranges[0]
    moved = (
        measured("substitution", "A -40; R -46; A -40", moved=[-40, -41.5, -43, -41, -40.2, -42])
        .pattern.of("a")
        .ranges[0]
    )
    assert "reflections not looked for: 8 dB down assumed" in [c.text for c in still.checks]
    assert any("moved, it ripples by 3.0 dB" in c.text for c in moved.checks)
    seen, assumed = (dict(one.budget)["reflections of ground and site"] for one in (moved, still))
    assert seen < assumed, "what was looked for is known better than what was not"


def test_a_measured_match_takes_the_place_of_an_assumed_one():
    book = Book()
    a, r = book.antenna("A"), book.antenna("R", known_gain_dbi=2.15)
    for antenna in (a, r):
        book.sweep(antenna, 0.05)
    record = RangeGain(antenna_id="a", second_id="r", state_id=a.state.id, readings=in_turn("A -40; R -46; A -40"))
    book.add(record)
    read = book.climb(a).pattern.of("a").ranges[0]
    assert "match not measured: SWR 1.5 assumed" not in [c.text for c in read.checks]
    # |Γ| 0.05 against 0.091 (SWR 1.2): 8.69·0.05·0.091/√2 = 0.028 dB each, 0.04 of both.
    assert dict(read.budget)["mismatch, phases unknown"] == pytest.approx(0.04, abs=0.005)


def test_of_a_circular_one_against_a_linear_reference_three_decibels_are_given_back():
    circular = {"polarization": "right circular", "axial_ratio_db": 0.1}
    book = Book()
    a = book.antenna("A", **circular)
    book.antenna("R", known_gain_dbi=2.15, polarization="vertical")
    book.add(RangeGain(antenna_id="a", second_id="r", state_id=a.state.id, readings=in_turn("A -43; R -46; A -43")))
    assert book.climb(a).pattern.of("a").ranges[0].gain.value == pytest.approx(3 + 2.15 + 3.0, abs=0.15)


@pytest.mark.parametrize("more", [{"sent_dbm": None, "distance_m": 20.0}, {"sent_dbm": 10.0, "distance_m": None}])
def test_without_a_reference_it_takes_what_was_sent_and_the_distance(more):
    assert measured("two antennas", "AA -40", **more).pattern.of("a").ranges == ()
