"""How far it was heard: two boards walked away from until they are lost, and what that is worth."""

import pytest

from .build import Book


def walked(book: Book, antenna, number: int, good_m: float, lost_m: float | None) -> None:
    run = book.run(antenna, number)
    for at, heard in ((good_m, True), (lost_m, False)):
        if at is not None:
            name = f"{at:g} m"
            book.place(name, at)
            book.reading(run, name, heard=heard)


@pytest.fixture
def boards():
    book = Book()
    book.home(1000)
    return book, book.antenna("Short"), book.antenna("Long")


def reached(book: Book):
    """What is told of how far, where anything is."""
    field = book.climb().field
    return field, next((c for c in field.contrasts if c.farther is not None), None)


def test_two_approaches_with_each_make_a_ratio_with_its_interval(boards):
    book, short, long_ = boards
    for number, (antenna, good, lost) in enumerate(
        ((short, 20, 24), (long_, 60, 70), (long_, 55, 66), (short, 22, 26)), 1
    ):
        walked(book, antenna, number, good, lost)
    field, told = reached(book)
    # √(60·70)·√(55·66) over √(20·24)·√(22·26), the root of it: 2.72 times.
    assert told.farther.value == pytest.approx(2.72, abs=0.02)
    low, high = told.farther.interval
    assert 2.0 < low < 2.72 < high < 3.7
    assert field.sentence.startswith("Long reaches 2.7 times as far (2.") and " as Short; certain" in field.sentence
    assert book.climb().verdict.sentence == field.sentence, "Field and Verdict say the same"


def test_one_approach_with_each_asks_for_a_second(boards):
    book, short, long_ = boards
    walked(book, short, 1, 20, 24)
    walked(book, long_, 2, 60, 70)
    assert any("Walk away once more with each" in c for c in book.climb().verdict.changes)


def test_near_alike_is_not_told_apart(boards):
    book, short, long_ = boards
    for number, (antenna, good, lost) in enumerate(
        ((short, 20, 24), (long_, 21, 25), (long_, 20, 24), (short, 21, 26)), 1
    ):
        walked(book, antenna, number, good, lost)
    _, told = reached(book)
    low, high = told.farther.interval
    assert 0.8 < low < 1.0 < high < 1.25


def test_a_field_that_ended_is_at_least(boards):
    book, short, long_ = boards
    for number, (antenna, good, lost) in enumerate(((short, 20, 24), (long_, 400, None), (short, 22, 26)), 1):
        walked(book, antenna, number, good, lost)
    field, told = reached(book)
    assert told.farther.bound == "at least"
    assert field.sentence.startswith("Long reaches at least ") and " times as far as Short; " in field.sentence


def test_where_neither_was_lost_nothing_is_told_of_the_ratio(boards):
    book, short, long_ = boards
    walked(book, short, 1, 300, None)
    walked(book, long_, 2, 400, None)
    field, told = reached(book)
    assert told is None and "at least" in field.sentence


def test_levels_over_the_same_places_speak_before_distances(boards):
    book, short, long_ = boards
    for number, (antenna, level) in enumerate(((short, -80), (long_, -76), (long_, -76.4), (short, -80.4)), 1):
        run = book.run(antenna, number)
        book.reading(run, "rock", level_dbm=level)
    field, told = reached(book)
    assert told is None and " dB (" in field.sentence
