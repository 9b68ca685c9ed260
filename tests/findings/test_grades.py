"""Spoken reports alone: which whip is heard better at the same spot, and where that can't be told."""

import pytest

from .build import Book, told

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
    assert sentence == "Long is heard better than Stock at 4 of 4 spots; certain (over 99 %)."
    assert climb.verdict.sentence == sentence
    low, high = climb.field.headline.interval
    assert 0.0 < low < high


def test_alike_is_a_result(lane):
    book, stock, long_ = lane
    for number, (antenna, grades) in enumerate(((stock, (4, 3, 2, 1)), (long_, (4, 4, 2, 0))), 1):
        call(book, antenna, number, grades)
    assert "can’t be told apart" in book.climb().field.sentence


def test_one_spot_speaks_of_that_spot_and_asks_for_more(lane):
    book, stock, long_ = lane
    call(book, stock, 1, (1,))
    call(book, long_, 2, (5,))
    field = book.climb().field
    assert field.sentence.startswith("At ford, Long looks better than Stock; probable (")
    assert "would settle it" in field.detail and "At other places: " in field.detail


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
        if antenna is long_:
            book.reading(run, "barn", heard=True, readability=4)
    assert {seen.scale for c in book.climb().field.contrasts for seen in c.seen} <= {"readability", "heard"}


def test_heard_or_not_alone_is_told_by_the_spots(lane):
    book, stock, long_ = lane
    for number, (antenna, heard) in enumerate(((stock, "ford"), (long_, "ford barn chapel")), 1):
        run = book.run(antenna, number)
        for spot in SPOTS:
            book.reading(run, spot, heard=spot in heard)
    (one,) = told(book.climb().field.contrasts, book.climb().field.names).values()
    assert 0.6 < one.chance < 0.99 and one.figure.value > 0.0


@pytest.mark.parametrize(
    ("scale", "of_stock", "of_long", "words"),
    [
        ("bit rate", (20, 12, 6), (31, 25, 14), "gets a higher bit rate than Stock at 3 of 3 spots"),
        ("delay", (40, 80, 200), (30, 60, 90), "has less delay than Stock at 3 of 3 spots"),
        ("dropouts", (3, 6, 12), (0, 1, 3), "drops out less than Stock at 3 of 3 spots"),
    ],
)
def test_what_a_display_shows_is_told_in_its_own_unit_the_right_way_round(lane, scale, of_stock, of_long, words):
    book, stock, long_ = lane
    for number, (antenna, values) in enumerate(((stock, of_stock), (long_, of_long)), 1):
        run = book.run(antenna, number)
        for spot, value in zip(SPOTS, values, strict=False):
            book.reading(run, spot, shown=float(value), scale=scale)
    climb = book.climb()
    assert climb.field.sentence.startswith((f"Long {words}", "Long looks better than Stock at 3 of 3 spots"))
    (one,) = told(climb.field.contrasts, climb.field.names).values()
    assert one.seen[0].mean == pytest.approx(abs(sum(of_long) - sum(of_stock)) / 3)
    assert climb.verdict.sentence == climb.field.sentence


def test_two_modes_are_blocks_and_a_mode_is_told_by_itself(lane):
    """Calls in two modes: the whip within each, the mode with the same whip."""
    book, stock, long_ = lane
    grades = {("Stock", "FM"): (4, 3, 2, 0), ("Long", "FM"): (5, 4, 3, 1), ("Stock", "data"): (5, 4, 3, 2)}
    grades["Long", "data"] = (5, 5, 4, 3)
    for number, ((name, mode), of) in enumerate(grades.items(), 1):
        run = book.run({"Stock": stock, "Long": long_}[name], number, mode=mode)
        for spot, grade in zip(SPOTS, of, strict=True):
            book.reading(run, spot, heard=grade > 0, readability=grade or None)
    field = book.climb().field
    assert ("Long", "Stock") in told(field.contrasts, field.names)
    (mode,) = told(field.contrasts, field.names, "mode").values()
    assert (mode.change.to, mode.change.since) == ("data", "FM") and mode.runs == 4


def test_what_a_known_step_of_power_does_is_not_told_of_the_rate(lane):
    """A quarter of the power and another rate: better by grades although weaker, so the rate brings more than they show."""
    book, stock, _ = lane
    for number, (power, rate, grades) in enumerate(((0.1, "4", (2, 2, 1)), (0.025, "9", (4, 4, 3))), 1):
        run = book.run(stock, number, power_w=power, rate=rate)
        for spot, grade in zip(SPOTS, grades, strict=False):
            book.reading(run, spot, readability=grade)
    field = book.climb().field
    (one,) = field.contrasts
    assert (one.change.factor, one.change.to) == ("rate", "9")
    assert field.sentence.startswith("Rate 9 looks better than rate 4 by ")
    assert one.figure.value == pytest.approx(6.0, abs=2.0), (
        "as much as the power that is missing, and what the grades show"
    )
