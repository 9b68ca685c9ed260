"""Mistakes of the trade, each named in a check, and their clean twins, which raise none."""

import numpy as np
import pytest

from tallmast.findings.levels.compare import compare
from tallmast.notebook.records import (
    At,
    Cable,
    CableSweep,
    Comparison,
    DisplayRun,
    Fixture,
    HomeEnd,
    Piece,
    Placed,
    ReadingsInTurn,
)
from tallmast.physics.resonance import series_gamma

from .build import Book

F = np.linspace(840e6, 900e6, 401)
GOOD = series_gamma(F, 869e6, 48, 14)


def alarms(finding):
    return [c.text for c in finding.checks if c.mark in ("fails", "disagrees")]


def in_turn(unit):
    spells = [
        ReadingsInTurn(label=k, values=v) for k, v in (("off", [2.0, 2.1]), ("on", [4.0, 4.2]), ("off", [2.05, 2.05]))
    ]
    return compare(Comparison(what="reflector", unit=unit, averaging="mean of decibels", spells=spells))


def test_a_meter_of_unknown_unit_is_told_both_ways():
    found = in_turn("unknown")
    assert found.check.mark == "open"
    # 4.1/2.05 = 2: 3.0 dB of power, 6.0 dB of field.
    assert "not known: 3.0 ± 0.4 dB if" in found.check.text and "6.0 ± 0.9 dB if a field" in found.check.text
    low, high = found.difference.interval
    assert low < 3.0 and high > 6.0
    for unit, value in (("mW/m²", 3.0), ("V/m", 6.0)):
        known = in_turn(unit)
        assert known.check is None
        assert known.difference.value == pytest.approx(value, abs=0.1)


def test_minutes_that_nobody_noted_make_no_drift_an_hour():
    found = in_turn("mW/m²")
    assert found.drift_db_per_hour is None
    assert found.drift_words.endswith("from spell to spell, taken out")


def lead_book(fixture, **sweep):
    book = Book()
    a = book.antenna("A")
    f = np.linspace(10e6, 1e9, 401)
    line = -(10 ** (-0.03 * np.sqrt(f / 1e6) * 1.2 / 10)) * np.exp(-4j * np.pi * f * 1.2 / 2e8)
    book.series["c"] = {"frequency_hz": f, "re": line.real, "im": line.imag}
    book.add(CableSweep(name="Blue lead", series_id="c"))
    book.sweep(a, GOOD, F, fixture=fixture, **sweep)
    return book.climb(a).bench


def test_a_lossy_lead_of_the_notebook_that_was_not_taken_out():

    # 0.03·√869·1.2 = 1.06 dB.
    assert alarms(lead_book("plate A, blue lead"))[0].startswith("swept through Blue lead, 1.1 dB not taken out")
    assert alarms(lead_book("plate A")) == []
    assert alarms(lead_book("plate A, blue lead", cable=Cable(loss_db=1.06, length_m=1.2))) == []


def test_a_lead_that_was_swept_and_left_in_is_named_though_nobody_noted_it():
    """SWR 2.5 behind 2.2 dB of 6 m reads 1.7: the sweep turns as the lead has it turn, and is a resonance at its end."""
    f = np.linspace(10e6, 1e9, 401)
    loss = 0.0124 * np.sqrt(f / 1e6) * 6.0
    line = -(10 ** (-loss / 10)) * np.exp(-4j * np.pi * f * 6.0 / 2e8)
    book = Book()
    book.series["c"] = {"frequency_hz": f, "re": line.real, "im": line.imag}
    book.add(CableSweep(name="Shed lead", series_id="c", velocity_factor=2e8 / 299_792_458, length_m=6.0))
    a, b = book.antenna("A"), book.antenna("B")
    there = series_gamma(F, 869e6, 20.0, 14)
    way = 0.0124 * np.sqrt(F / 1e6) * 6.0
    book.sweep(a, there * 10 ** (-way / 10) * np.exp(-4j * np.pi * F * 6.0 / 2e8), F)
    book.sweep(b, there, F)
    told = book.climb(a).bench
    (words,) = (c.text for c in told.checks if "not taken out" in c.text)
    assert words.startswith("swept through Shed lead, 2.2 dB not taken out: SWR 1.7")
    assert float(words.split(" is ")[1].split()[0]) == pytest.approx(2.5, abs=0.25)
    assert not any("not taken out" in c.text for c in book.climb(b).bench.checks), "swept at its connector"


def test_a_meter_at_the_far_side_of_a_lossy_line_is_named_with_the_line():
    """SWR 3.1 (|Γ| 0.512) through 5 dB reads 0.512·10^(−10/20) = 0.162: 1.39."""
    book = Book()
    book.add(Piece(id="p", name="Long line", type="cable", loss_db=5.0))
    a = book.antenna("A", through=["p"])
    book.meter(a, 1.39)
    (check,) = (c for c in book.climb(a).bench.checks if "Long line" in c.text)
    assert (
        check.mark == "open" and check.text == "read at the radio’s end of Long line, 5.0 dB? SWR 1.39 is 3.1 behind it"
    )
    book.add(a.revised(through=[]))
    assert not any("Long line" in c.text for c in book.climb(a).bench.checks)
    book.add(HomeEnd(power_w=1.0, placed=[Placed(piece_id="p")]))
    book.sweep(a, 0.512, F, directivity_db=40)
    book.meter(a, 1.39)
    quarrel = [c.text for c in book.climb(a).bench.checks if "Long line" in c.text]
    assert quarrel == ["the meter’s 1.39 is the analyzer’s 3.1 through Long line, 5.0 dB"]


def test_a_lead_between_the_antenna_and_its_mate_counts_too():
    def bench(loss, **more):
        book = Book()
        book.add(Piece(id="p", name="Patch lead", type="cable", loss_db=loss, **more))
        a = book.antenna("A", through=["p"])
        book.sweep(a, GOOD, F)
        return alarms(book.climb(a).bench)

    (words,) = bench(1.4)
    assert words.startswith("swept through Patch lead, 1.4 dB not taken out")
    assert bench(0.1) == []
    measured = [At(frequency_hz=869e6, loss_db=0.1)]
    assert bench(1.4, measured=measured) == []  # what was measured of it counts, not its lid


@pytest.mark.parametrize(("other", "told"), [("Car roof", True), ("Plate A", False), ("", False)])
def test_antennas_on_different_fixtures(other, told):
    book = Book()
    a, b = book.antenna("A"), book.antenna("B")
    book.sweep(a, GOOD, F, fixture="Plate A")
    book.sweep(b, GOOD, F, fixture=other)
    assert alarms(book.climb(a).bench) == (["B was swept on another fixture"] if told else [])


def test_a_fixture_that_was_moved_between_two_antennas():
    book = Book()
    a, b = book.antenna("A"), book.antenna("B")
    fixture = book.add(Fixture(id="f", name="Plate A"))
    for antenna, reconnection in ((a, 1), (b, 2)):
        book.sweep(antenna, GOOD, F, fixture_id=fixture.id, fixture="Plate A", reconnection=reconnection)
    assert "B was swept on another fixture" in alarms(book.climb(a).bench)


def ends(top):
    """Two antennas 6 dB apart on a meter that shows no more than `top` dBm."""
    book = Book()
    book.home()
    antennas = [book.antenna("A"), book.antenna("B")]
    distance = np.arange(50.0, 1000.0, 20.0)
    random = np.random.default_rng(4)
    for number, which in enumerate((0, 1, 1, 0), 1):
        level = -40 - 6 * which - 25 * np.log10(distance / 50) + random.normal(0, 1, len(distance))
        book.log(book.run(antennas[which], number, manner="walk"), distance, np.minimum(np.round(level, 1), top))
    return alarms(book.climb(antennas[0]).field)


def test_a_level_display_that_ends_makes_antennas_look_alike():
    told = ends(-55.0)
    assert len(told) == 1 and told[0].endswith("are at the end of the scale (runs 1, 2, 3 and 4)")
    assert ends(0.0) == []


@pytest.mark.parametrize(("top", "told"), [(12.0, False), (5.0, True)])
def test_saturated_is_said_only_when_readings_lie_there(top, told):
    book = Book()
    book.home()
    a, b = book.antenna("A"), book.antenna("B")
    steps = np.repeat(np.arange(0.0, 60.0, 2.0), 2)
    book.series["steps"] = {
        "attenuation_db": steps,
        "shown": np.minimum(np.round((60 - steps) / 4.0), top),
        "order": np.arange(len(steps), dtype=float),
    }
    book.add(DisplayRun(receiver="set", scale="bars", series_id="steps", zero_dbm=-50.0))
    for i in range(4):
        book.place(f"p{i}", 300.0 * (i + 1))
    for number, antenna in enumerate((a, b, b, a), 1):
        run = book.run(antenna, number)
        for i in range(4):
            book.reading(run, f"p{i}", receiver="set", shown=min(8.0 - i - (antenna is b), top))
    climb = book.climb(a)
    assert alarms(climb.field) == (["14 readings are at the end of the scale (runs 1, 2, 3 and 4)"] if told else [])
    # That the display has an end is no alarm by itself.
    assert all(c.mark in ("holds", "open") for c in climb.displays["set"].checks)
