"""How far it was heard: two boards walked away from until they are lost, and what that is worth."""

import numpy as np
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


def test_two_approaches_with_each_make_a_ratio_with_its_interval(boards):
    book, short, long_ = boards
    for number, (antenna, good, lost) in enumerate(
        ((short, 20, 24), (long_, 60, 70), (long_, 55, 66), (short, 22, 26)), 1
    ):
        walked(book, antenna, number, good, lost)
    climb = book.climb()
    field = climb.field
    figure = field.headline
    # √(60·70)·√(55·66) over √(20·24)·√(22·26), the root of it: 2.72 times.
    assert figure.value == pytest.approx(2.72, abs=0.02)
    low, high = figure.interval
    assert 1.0 < low < 2.72 < high
    assert field.sentence.startswith("Long was heard 2.7 (") and field.sentence.endswith("times as far as Short.")
    assert "dB in free space (n = 2)" in field.detail and "(n = 4)" in field.detail
    assert climb.verdict.sentence == field.sentence, "Field and Verdict say the same"


def test_one_approach_with_each_says_that_a_second_is_wanted(boards):
    book, short, long_ = boards
    walked(book, short, 1, 20, 24)
    walked(book, long_, 2, 60, 70)
    assert "a second approach with each would show how far repeats differ" in book.climb().field.sentence


def test_near_alike_is_not_told_apart(boards):
    book, short, long_ = boards
    for number, (antenna, good, lost) in enumerate(
        ((short, 20, 24), (long_, 21, 25), (long_, 20, 24), (short, 21, 26)), 1
    ):
        walked(book, antenna, number, good, lost)
    assert book.climb().field.sentence.startswith("How far they were heard does not tell ")


def test_a_field_that_ended_is_at_least(boards):
    book, short, long_ = boards
    for number, (antenna, good, lost) in enumerate(((short, 20, 24), (long_, 400, None), (short, 22, 26)), 1):
        walked(book, antenna, number, good, lost)
    field = book.climb().field
    assert field.sentence.startswith("Long was heard at least ") and "times as far as Short" in field.sentence
    assert field.detail.startswith("It stands for at least ")


def test_a_ratio_in_decibels_has_its_interval(boards):
    """10·n·log₁₀ of both edges of the ratio, at n = 2 and 4."""
    book, short, long_ = boards
    for number, (antenna, good, lost) in enumerate(
        ((short, 20, 24), (long_, 60, 70), (long_, 58, 72), (short, 21, 26)), 1
    ):
        walked(book, antenna, number, good, lost)
    field = book.climb().field
    (figure,) = (c.figure for c in field.reached)
    low, high = (10 * np.log10(edge) for edge in figure.interval)
    assert f"{2 * low:.1f} to {2 * high:.1f} dB in free space (n = 2)" in field.detail
    assert f"{4 * low:.1f} to {4 * high:.1f} dB near the ground (n = 4)" in field.detail


def test_two_heard_equally_far_make_one_pair(boards):
    book, short, long_ = boards
    for number, antenna in enumerate((short, long_), 1):
        walked(book, antenna, number, 20, 24)
    field = book.climb().field
    (figure,) = (c.figure for c in field.reached)
    assert figure.value == 1.0
    assert "was heard 1.0 (" in field.sentence


def test_where_neither_was_lost_nothing_is_told_of_the_ratio(boards):
    book, short, long_ = boards
    walked(book, short, 1, 300, None)
    walked(book, long_, 2, 400, None)
    field = book.climb().field
    assert not field.reached and "at least" in field.sentence


def test_levels_over_the_same_places_speak_before_distances(boards):
    book, short, long_ = boards
    for number, (antenna, level) in enumerate(((short, -80), (long_, -76), (long_, -76.4), (short, -80.4)), 1):
        run = book.run(antenna, number)
        book.reading(run, "rock", level_dbm=level)
    field = book.climb().field
    assert "over this path" in field.sentence and field.headline not in [c.figure for c in field.reached]
