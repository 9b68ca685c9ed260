"""Mistakes of the trade, each named in a check, and their clean twins, which raise none."""

import numpy as np
import pytest

from tallmast.findings.levels.compare import compare
from tallmast.notebook.records import At, CableSweep, Comparison, DisplayRun, Fixture, Piece, ReadingsInTurn
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
    assert "not known: 3.01 ± 0.25 dB if" in found.check.text and "6.0 ± 0.5 dB if a field" in found.check.text
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
    from tallmast.notebook.records import Cable

    # 0.03·√869·1.2 = 1.06 dB.
    assert "swept through Blue lead, 1.1 dB, which is not taken out" in alarms(lead_book("plate A, blue lead"))
    assert alarms(lead_book("plate A")) == []
    assert alarms(lead_book("plate A, blue lead", cable=Cable(loss_db=1.06, length_m=1.2))) == []


def test_a_lead_between_the_antenna_and_its_mate_counts_too():
    def bench(loss, **more):
        book = Book()
        book.add(Piece(id="p", name="Patch lead", type="cable", loss_db=loss, **more))
        a = book.antenna("A", through=["p"])
        book.sweep(a, GOOD, F)
        return alarms(book.climb(a).bench)

    assert bench(1.4) == ["swept through Patch lead, 1.4 dB, which is not taken out"]
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
