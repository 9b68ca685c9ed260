"""Both ends of one path: the powers explain a difference, and noise at one end has its place."""

import numpy as np
import pytest

from tallmast.notebook.records import Reading
from tallmast.physics.decibels import S9_U_DB, S_UNIT_U

from .build import Book

SPOTS = {"chapel": 1600.0, "bridge": 3200.0, "mill": 5600.0, "pass": 8000.0}


def driven(away, home, power_w: float = 4.0, far_w: float | None = 1.0, s_away=None, s_home=None) -> Book:
    """Grades, and levels in dBm where given, at four landmarks from both ends."""
    book = Book()
    book.home(1000)
    if far_w is not None:
        book.far(power_w=far_w)
    run = book.run(book.antenna("A"), 1, power_w=power_w)
    for i, (name, metres) in enumerate(SPOTS.items()):
        book.place(name, metres)
        for end, grades, levels in (("away", away, s_away), ("home", home, s_home)):
            level = levels[i] if levels else None
            grade = grades[i]
            book.reading(run, name, end=end, heard=grade > 0, readability=grade or None, level_dbm=level)
    return book


def texts(book: Book) -> list[str]:
    return [c.text for c in book.climb().field.checks]


def test_noise_is_told_with_its_place():
    assert "noise at the far end, at mill" in texts(driven((5, 5, 2, 5), (5, 5, 5, 4)))
    assert "noise at home, at bridge" in texts(driven((5, 5, 5, 4), (5, 2, 5, 4)))


def test_ends_that_hear_alike_raise_nothing():
    assert not [t for t in texts(driven((5, 4, 3, 2), (5, 4, 2, 2))) if "noise" in t]


def test_a_weaker_signal_is_not_noise():
    """The far end hears the mill weaker by 18 dB than home does: that is a signal, not noise."""
    book = driven((5, 5, 2, 4), (5, 5, 5, 4), s_away=(-80, -86, -110, -95), s_home=(-80, -86, -92, -95))
    assert not [t for t in texts(book) if "noise" in t]


@pytest.mark.parametrize(("far_w", "mark"), [(1.0, "holds"), (0.02, "disagrees"), (None, "open")])
def test_what_the_powers_make_is_taken_out(far_w, mark):
    book = driven((5, 5, 5, 5), (5, 5, 5, 5), far_w=far_w, s_away=(-74, -80, -86, -90), s_home=(-80, -86, -93, -95))
    (check,) = [c for c in book.climb().field.checks if c.text.startswith("the far end hears")]
    assert check.mark == mark
    low, high = book.climb().field.ends.difference.interval
    assert low < 6.0 < high


def test_two_meters_in_s_units_are_no_two_receivers_in_dbm():
    """Nobody knows what level either calls S9, nor how large its units are: by 6 dB they are not told apart."""
    s_away, s_home = (-99, -99, -105, -111), (-105, -105, -111, -117)
    book = driven((5, 5, 5, 5), (5, 5, 5, 5), far_w=4.0, s_away=s_away, s_home=s_home)
    (check,) = [c for c in book.climb().field.checks if c.text.startswith("the far end hears")]
    assert check.mark == "disagrees", "in dBm six decibels are six"
    for reading in [r for r in book.records.values() if isinstance(r, Reading)]:
        book.add(reading.revised(as_typed=f"S{9 + (reading.level_dbm + 93) / 6:.0f}"))
    field = book.climb().field
    (check,) = [c for c in field.checks if c.text.startswith("the far end hears")]
    parts = dict(field.ends.difference.working.parts)
    assert check.mark == "holds" and field.ends.difference.value == pytest.approx(6.0)
    below = np.array([[6, 6, 12, 18], [12, 12, 18, 24]])
    u = np.hypot(*np.hypot(S9_U_DB, S_UNIT_U * below)).mean()
    assert parts["two meters, S9 and units of each"] == f"{u:.2f} dB"


def test_one_end_alone_says_nothing():
    book = Book()
    book.home(1000)
    run = book.run(book.antenna("A"), 1)
    book.reading(run, "rock", readability=4)
    assert book.climb().field.ends is None
