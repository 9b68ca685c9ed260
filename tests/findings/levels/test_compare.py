"""A B A with drift, averages of fading readings, and more power or not."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.findings.levels.compare import average_db, compare, decibels_of, rule
from tallmast.notebook.records import Comparison, ReadingsInTurn, State

from ..build import Book


def comparison(*spells, **more):
    more.setdefault("averaging", "mean of decibels")
    return Comparison(
        what="x", spells=[ReadingsInTurn(label=k, minute=m, values=list(v)) for k, m, v in spells], **more
    )


@given(st.floats(-20, 20), st.floats(-0.5, 0.5))
def test_a_straight_drift_is_taken_out_whatever_it_is(step, drift):
    rows = [(k, m, [-60 + step * (k == "B") + drift * m] * 3) for k, m in (("A", 0), ("B", 3), ("A", 10))]
    found = compare(comparison(*rows))
    assert found.difference.value == pytest.approx(step, abs=1e-9)
    assert found.drift_db_per_hour == pytest.approx(drift * 60, abs=1e-6)


def test_without_a_return_drift_is_not_told():
    found = compare(comparison(("A", 0, [-60, -61]), ("B", 5, [-57, -58])))
    assert found.drift_db_per_hour is None
    assert "drift not told" in "\n".join(found.difference.working.lines)


def test_intervals_hold_nine_times_in_ten():
    random = np.random.default_rng(5)
    held = 0
    for _ in range(400):
        rows = [
            (k, m, (-60 + 3.0 * (k == "B") + 0.05 * m + random.normal(0, 1, 8)))
            for k, m in zip("ABAB", range(0, 16, 4), strict=True)
        ]
        low, high = compare(comparison(*rows)).difference.interval
        held += low <= 3.0 <= high
    assert 0.85 <= held / 400 <= 0.97


def test_rayleigh_fading_stands_two_and_a_half_decibels_lower_in_the_mean_of_decibels():
    """Mean of ln of an exponential is −γ: 4.343·0.5772 = 2.51 dB (Parsons, The Mobile Radio Propagation Channel, §5)."""
    db = 10 * np.log10(np.random.default_rng(6).exponential(1.0, 200_000))
    power, logs = average_db(db, "mean of power")[0], average_db(db, "mean of decibels")[0]
    assert power == pytest.approx(0.0, abs=0.05)
    assert power - logs == pytest.approx(2.507, abs=0.05)
    assert average_db(db, "highest held")[0] == db.max()


@pytest.mark.parametrize(
    ("unit", "ratio_db"),
    [("V/m", 12.04), ("mV/m", 12.04), ("mW/m²", 6.02), ("µW/cm²", 6.02), ("mW", 6.02), ("µV", 12.04)],
)
def test_four_times_the_reading_is_6_or_12_decibels_by_the_unit(unit, ratio_db):
    assert decibels_of(unit, 4.0) - decibels_of(unit, 1.0) == pytest.approx(ratio_db, abs=5e-3)
    assert f"{round(ratio_db)} dB" in rule(unit)


def test_decibels_are_decibels():
    assert decibels_of("dBµV/m", 43.0) - decibels_of("dBµV/m", 40.0) == pytest.approx(3.0)
    assert decibels_of("dB", 3.0) == 3.0 and decibels_of("V/m", -1.0) is None
    assert rule("dBm") == "dBm is in decibels already"


def power_run(seen):
    rows = [
        (k, m, np.array([-0.1, 0.0, 0.1]) - 70 + seen * (k == "high"))
        for k, m in (("low", 0), ("high", 2), ("low", 4), ("high", 6))
    ]
    return compare(comparison(*rows, set_db=10.0)).check


def test_compression_is_named():
    assert power_run(10.0).mark == "holds" and power_run(10.0).text.startswith("as set")
    assert power_run(6.5).mark == "fails" and power_run(6.5).text == "compressed by 3.5 dB: seen 6.5 dB, set 10.0 dB"
    assert power_run(12.0).mark == "disagrees"


def test_runs_at_two_powers_are_compared_by_place():
    book = Book()
    book.home(2000.0)
    a = book.antenna("A", known_gain_dbi=2.15)
    low, high = book.run(a, 1, power_w=0.01), book.run(a, 2, power_w=0.1)
    for i, metres in enumerate((300, 700, 1200)):
        book.place(f"p{i}", metres)
        book.reading(low, f"p{i}", level_dbm=-70.0 - 10 * i, as_typed="x")
        book.reading(high, f"p{i}", level_dbm=-70.0 - 10 * i + 6.0 + 0.1 * i, as_typed="x")
    (pair,) = book.climb(a).levels.powers
    name, seen, check = pair.name, pair.difference, pair.check
    assert name == "runs 1 and 2" and seen.value == pytest.approx(6.1)
    assert check.text.startswith("compressed by 3.9 dB")
    # A run whose state nobody noted was made in the present one, here as in the Field.
    book.add(low.revised(state_id=""))
    assert len(book.climb(a).levels.powers) == 1
    trimmed = State(name="trimmed")
    book.add(
        a.revised(states=[*a.states, trimmed]), high.revised(state_id=trimmed.id), low.revised(state_id=a.state.id)
    )
    assert not book.climb(a).levels.powers


def test_one_label_alone_is_no_comparison():
    assert compare(comparison(("A", 0, [1]), ("A", 1, [2]))) is None
    assert compare(comparison(("A", 0, [1.0]), ("B", 1, [-2.0]), unit="V/m")) is None
    assert math.isfinite(compare(comparison(("A", 0, [1.0]), ("B", 1, [2.0]), unit="V/m")).difference.u)


def test_what_else_changed_between_two_powers_is_told():
    book = Book()
    book.home(2000.0)
    a = book.antenna("A", known_gain_dbi=2.15)
    low, high = book.run(a, 1, power_w=0.01), book.run(a, 2, power_w=0.1, weather="rain")
    for i, metres in enumerate((300, 700)):
        book.place(f"p{i}", metres)
        book.reading(low, f"p{i}", level_dbm=-70.0, as_typed="x")
        book.reading(high, f"p{i}", level_dbm=-60.0, as_typed="x")
    check = book.climb(a).levels.powers[0].check
    assert (check.mark, check.text) == ("open", "weather changed too: can’t be told")


def test_steady_readings_in_whole_decibels_are_no_better_than_their_steps():
    found = compare(comparison(("A", 0, [-60] * 8), ("B", 3, [-57] * 8), ("A", 6, [-60] * 8)))
    # √2·1 dB/√12 = 0.41 dB, however often the same was shown.
    assert found.difference.u == pytest.approx(0.41, abs=0.03)
    assert any("steps of the display" in name for name, _ in found.difference.working.parts)


def test_readings_alike_in_time_count_for_fewer():
    random = np.random.default_rng(1)
    walk = np.cumsum(random.normal(0, 0.3, 60)) + random.normal(0, 0.05, 60)
    alike = compare(
        comparison(*((k, m, walk[i * 20 : i * 20 + 20]) for i, (k, m) in enumerate(zip("ABA", (0, 3, 6), strict=True))))
    )
    mixed = random.permutation(walk)
    shaken = compare(
        comparison(
            *((k, m, mixed[i * 20 : i * 20 + 20]) for i, (k, m) in enumerate(zip("ABA", (0, 3, 6), strict=True)))
        )
    )
    assert any("alike in time" in name for name, _ in alike.difference.working.parts)
    assert alike.difference.half > shaken.difference.half
