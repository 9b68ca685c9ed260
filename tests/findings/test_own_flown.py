"""What was flown round on a display that nobody stepped: a map on its own scale, two on one, and the weakest patch."""

import numpy as np
import pytest

from tallmast.findings.tables import pattern as tables
from tallmast.notebook.records import Log

from .build import Book
from .test_flown import Flight

COUNTS = {"read_on": "level", "receiver": "sounder"}


def counts(decibels):
    """A log detector of 2.4 counts a decibel: what the finding does not know."""
    return 260.0 + 2.4 * decibels


def book_of(**flights) -> Book:
    book = Book()
    book.home()
    for number, (name, flight) in enumerate(flights.items(), 1):
        run = book.run(book.antenna(name), number, manner="flight", height_m=6.0)
        series = book.series[flight.into(book, run, **COUNTS).series_id]
        series["shown"] = np.round(counts(series.pop("level_dbm")))
    return book


def hole(bearing, elevation):
    """All round alike, but for 14 dB less toward 120° to 165°, low down."""
    inside = (np.abs(bearing % 360.0 - 142.0) < 24.0) & (elevation < 25.0)
    return np.where(inside, -14.0, 0.0)


def high_and_low(seed=0, **more):
    """Three turns 12° up, three 45°, at 60 m."""
    up = 6.0 + 60.0 * np.tan(np.radians(np.repeat([12.0, 45.0], 360)))
    return Flight(turns=6, n=720, up=up, spread=0.02, seed=seed, **more)


def test_a_map_on_its_own_scale_names_the_weak_patch():
    found = book_of(Rod=high_and_low(level=hole)).climb().pattern
    assert found.sentence.startswith("Rod, flown round, is best at ") and " dB" not in found.sentence
    patch = found.focus.own_flown[-1].patch
    assert patch.from_deg == pytest.approx(120.0, abs=16.0) and patch.to_deg == pytest.approx(165.0, abs=16.0)
    assert patch.high_deg <= 31.0
    assert "Weakest patch: " in found.detail and found.standing.words == "one pattern of 1"
    assert [c.text for c in found.checks if "no decibels" in c.text]
    (one,) = found.own_maps
    assert np.isfinite(one.value).any() and found.flown_first == ()


def test_two_on_one_scale_stand_beside_each_other_in_the_same_shades():
    found = (
        book_of(Rod=high_and_low(level=hole), Whip=high_and_low(1, level=lambda b, e: 0.0 * b - 4.0)).climb().pattern
    )
    rod, whip = found.own_maps
    assert rod.antenna.name == "Rod" and rod.edges == whip.edges
    assert "Whip shows " in found.detail, "and what the other has where it is weakest"
    assert np.nanmedian(rod.value) > np.nanmedian(whip.value) + 5.0
    assert rod.shade.max() == 5 > whip.shade.max(), "the same shade is the same count"


def test_two_receivers_are_two_scales():
    book = book_of(Rod=high_and_low(level=hole), Whip=high_and_low(1))
    log = book.evidence.all(Log)[1]
    book.add(log.revised(receiver="another"))
    found = book.climb().pattern
    assert len(found.own_maps) == 1 and "Whip shows" not in found.detail


def test_all_round_alike_is_told_alike_and_has_no_patch():
    found = book_of(Rod=Flight(turns=6, n=720, spread=0.01, level=lambda b, e: 0.0 * b)).climb().pattern
    assert found.sentence.startswith("Rod, flown round, is alike all round") and "patch" not in found.detail


def test_what_distance_does_is_taken_out():
    """Round at 100 m and at 300 m: 9.5 dB, 23 counts, which is no pattern."""
    far = np.repeat([100.0, 300.0], 360)
    flight = Flight(turns=6, n=720, radius=far, up=6.0 + 0.2 * far, level=hole, spread=0.02)
    (own,) = book_of(Rod=flight).climb().pattern.focus.own_flown
    assert own.per_decade == pytest.approx(-48.0, rel=0.2)
    assert own.patch is not None and 100.0 < own.patch.from_deg < 135.0


def test_distances_that_hardly_differ_are_no_slope_and_those_that_stay_in_it_are_named():
    """61 m low and 85 m high: what 24 m more did and what the antenna does up there can't be told apart."""
    (own,) = book_of(Rod=high_and_low(level=hole)).climb().pattern.focus.own_flown
    assert own.per_decade == 0.0
    detail = book_of(Rod=high_and_low(level=hole)).climb().pattern.detail
    assert "Distances of 60 m to 86 m are in it" in detail


def test_a_way_out_and_back_is_no_map():
    found = book_of(Rod=Flight(turns=0.1, n=200)).climb().pattern
    assert not found.own_maps and found.sentence == "No pattern yet."


def test_a_stepped_display_makes_a_pattern_of_it_and_no_map_of_counts():
    """The same flight on a display that was stepped is in decibels."""
    book = book_of(Rod=high_and_low(level=hole))
    assert book.climb().pattern.own_maps
    log = book.evidence.all(Log)[0]
    series = book.series[log.series_id]
    series["level_dbm"] = (series.pop("shown") - 260.0) / 2.4
    book.add(log.revised(read_on="level in dBm", receiver=""))
    found = book.climb().pattern
    assert not found.own_maps and found.flown_first and tables.cuts(found).rows
