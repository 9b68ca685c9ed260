"""Spoken reports alone: which whip is heard better at the same spot, and where that can't be told."""

import pytest

from .build import Book

SPOTS = {"ford": 800, "barn": 1500, "chapel": 2400, "ridge": 3100}


@pytest.fixture
def lane():
    book = Book()
    book.home(1000)
    for name, metres in SPOTS.items():
        book.place(name, metres)
    return book, book.antenna("Stock"), book.antenna("Long")


def call(book: Book, antenna, number: int, grades) -> None:
    run = book.run(antenna, number)
    for spot, grade in zip(SPOTS, grades, strict=False):
        if grade is not None:
            book.reading(run, spot, heard=grade > 0, readability=grade or None)


def test_better_at_every_spot_is_said_with_its_interval_and_by_the_verdict(lane):
    book, stock, long_ = lane
    for number, (antenna, grades) in enumerate(
        ((stock, (4, 3, 1, 0)), (long_, (5, 4, 3, 2)), (long_, (5, 5, 3, 1)), (stock, (4, 3, 2, 0))), 1
    ):
        call(book, antenna, number, grades)
    climb = book.climb()
    sentence = climb.field.sentence
    assert sentence.startswith("Long is heard better than Stock at the same spot, 100 (") and sentence.endswith(
        "of the time."
    )
    assert climb.verdict.sentence == sentence
    low, high = climb.field.headline.interval
    assert 50 < low < 100 == high


def test_alike_is_a_result(lane):
    book, stock, long_ = lane
    for number, (antenna, grades) in enumerate(((stock, (4, 3, 2, 1)), (long_, (4, 4, 2, 0))), 1):
        call(book, antenna, number, grades)
    assert "can’t be told apart" in book.climb().field.sentence


def test_one_spot_never_wins_a_verdict(lane):
    book, stock, long_ = lane
    call(book, stock, 1, (1,))
    call(book, long_, 2, (5,))
    sentence = book.climb().field.sentence
    assert "can’t be told apart" in sentence and "graded at one spot only" in sentence


def test_levels_speak_before_grades(lane):
    book, stock, long_ = lane
    for number, (antenna, level) in enumerate(((stock, -90), (long_, -86), (long_, -86.2), (stock, -90.3)), 1):
        run = book.run(antenna, number)
        for spot in SPOTS:
            book.reading(run, spot, level_dbm=level, readability=4)
    assert "dB" in book.climb().field.sentence


def test_heard_without_saying_how_well_is_no_grade(lane):
    book, stock, long_ = lane
    for number, antenna in enumerate((stock, long_), 1):
        run = book.run(antenna, number)
        book.reading(run, "ford", heard=True)
        book.reading(run, "ridge", heard=False)
    assert not book.climb().field.graded
