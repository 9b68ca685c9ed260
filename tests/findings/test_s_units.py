"""S units of a meter that nobody stepped: 6 dB each by the convention, and no more sure than that."""

import numpy as np
import pytest

from tallmast.notebook.records import Reading
from tallmast.physics.decibels import S9_U_DB, S_UNIT_U, s_unit_dbm

from .build import Book

PART = "S units taken for 6 dB each"
A = ("S9", "S8", "S7", "S6", "S5", "S5")
B = ("S6", "S5", "S4", "S3", "S2", "S2")


def called(a=A, b=B, s9=None, pad_db=0.0) -> Book:
    """A B B A at six places; a level in dBm where the band says what S9 is."""
    book = Book()
    book.home()
    places = [book.place(f"p{i}", d) for i, d in enumerate((200.0, 300.0, 450.0, 700.0, 1000.0, 1500.0))]
    antennas = {"A": book.antenna("A"), "B": book.antenna("B")}
    for number, letter in enumerate("ABBA", 1):
        run = book.run(antennas[letter], number, pad_db=pad_db if letter == "B" else 0.0)
        for place, typed in zip(places, a if letter == "A" else b, strict=True):
            units, _, over = typed.removeprefix("S").partition("+")
            level = None if s9 is None else s_unit_dbm(float(units), float(over or 0), s9)
            book.reading(run, place.id, as_typed=typed, level_dbm=level)
    return book


def told(book: Book):
    field = book.climb().field
    return field, field.difference("a", "b")


@pytest.mark.parametrize("s9", [None, -73.0])
def test_three_units_are_eighteen_decibels_as_far_as_a_unit_is_six(s9):
    field, difference = told(called(s9=s9))
    low, high = difference.interval
    assert low < 18.0 < high
    assert difference.value == pytest.approx(18.0, abs=2.5)
    assert difference.u >= 0.8 * S_UNIT_U * 18.0
    assert field.main.fit.exponent.u > S_UNIT_U * field.main.fit.exponent.value
    assert any("The S meter was never stepped" in change for change in called(s9=s9).climb().verdict.changes)
    (check,) = [c for c in field.checks if c.text.startswith(PART)]
    assert check.text.endswith("(runs 1, 2, 3 and 4)") and check.mark == "open" and "Levels, X" in check.why


def test_over_s9_the_marks_are_decibels():
    over = ("S9+40", "S9+30", "S9+20", "S9+20", "S9+10", "S9+10")
    field, difference = told(called(over, ("S9+30", "S9+20", "S9+10", "S9+10", "S9+5", "S9+5")))
    assert difference.u < 2.0
    assert not [c for c in field.checks if c.text.startswith(PART)]


def test_levels_in_dbm_are_as_sure_as_they_were():
    book = called(s9=-73.0)
    for record in [r for r in book.records.values() if isinstance(r, Reading)]:
        book.add(record.revised(as_typed=f"{record.level_dbm:g} dBm"))
    field, difference = told(book)
    assert difference.u < 2.0 and field.main.shared_u_db == 0.0
    assert not any("S meter" in change for change in book.climb().verdict.changes)
    assert not [c for c in field.checks if c.text.startswith(PART)]


def test_a_pad_is_taken_out_in_decibels_and_its_units_are_those_of_what_was_read():
    """B stood six decibels lower by its pad: of the 18 that were read, 12 are B's."""
    _, difference = told(called(s9=-73.0, pad_db=6.0))
    low, high = difference.interval
    assert low < 12.0 < high and difference.u >= 0.8 * S_UNIT_U * 18.0


def test_a_level_by_s_units_leaves_its_s9_open_too():
    field, _ = told(called(s9=-73.0))
    below_s9 = np.array([18.0, 24.0, 30.0, 36.0, 42.0, 42.0])  # B's
    assert field.main.shared_u_db == pytest.approx(np.hypot(S9_U_DB, S_UNIT_U * below_s9).mean())
    field, _ = told(called())
    assert np.isinf(field.main.shared_u_db)
