"""Mistakes that the field's notes show, each named in words; and clean twins that raise none."""

import numpy as np
import pytest

from tallmast.findings.field.mistakes import far_beyond_words
from tallmast.findings.tables.field import contrasts as contrasts_table
from tallmast.notebook.records import Branch, State

from .build import Book

SPOTS = {"ford": 400.0, "mill": 900.0, "chapel": 1500.0, "ridge": 2600.0}


@pytest.fixture
def lane():
    book = Book()
    book.home(1000)
    for name, metres in SPOTS.items():
        book.place(name, metres)
    return book, book.antenna("A"), book.antenna("B")


def words(book: Book) -> list[str]:
    return [c.text for c in book.climb().field.checks]


def heard(book: Book, antenna, number: int, told: str, **more) -> None:
    """`H H N -`: heard, not heard, not tried; `HNN`: attempts."""
    run = book.run(antenna, number, **more)
    for spot, attempts in zip(SPOTS, told.split(), strict=False):
        for attempt in attempts.replace("-", ""):
            book.reading(run, spot, heard=attempt == "H")


def test_a_hole_is_not_taken_for_the_end(lane):
    book, a, _ = lane
    heard(book, a, 1, "H N H N")
    field = book.climb().field
    assert (field.reaches[0].furthest.value, field.reaches[0].lost_m) == pytest.approx((1500.0, 2600.0), abs=0.1)
    assert "run 1: not heard at 900 m, and again beyond" in words(book)


def test_one_good_moment_is_no_range(lane):
    book, a, _ = lane
    heard(book, a, 1, "H H HNNN")
    field = book.climb().field
    assert (field.reaches[0].furthest.value, field.reaches[0].lost_m) == pytest.approx((900.0, 1500.0), abs=0.1)
    assert "run 1: heard at 1.5 km once in a while only" in words(book)


def test_half_of_the_attempts_is_heard(lane):
    book, a, _ = lane
    heard(book, a, 1, "H H HN N")
    assert not [t for t in words(book) if "once in a while" in t or "again beyond" in t]
    assert book.climb().field.reaches[0].furthest.value == pytest.approx(1500.0, abs=0.1)


def test_a_contact_over_the_sky_is_kept_apart(lane):
    """A station far over the sea comes in too: it is no reach, no place of the fit, no call of the comparison."""
    book, a, b = lane
    book.place("Over the sea", 1.4e6)
    for number, antenna in ((1, a), (2, b)):
        heard(book, antenna, number, "H H N N")
        book.reading(book.records[f"run{number}"], "over the sea", heard=True, readability=4)
    field = book.climb().field
    assert [t for t in words(book) if t.startswith("Over the sea, 14") and t.endswith("over the sky, kept apart")]
    assert all(r.furthest.value < 2000 for r in field.reaches)
    assert all(c.places <= 4 for c in field.contrasts)


def test_a_far_place_that_nobody_heard_raises_nothing(lane):
    book, a, _ = lane
    book.place("Over the sea", 1.4e6)
    heard(book, a, 1, "H H N N")
    assert not [t for t in words(book) if "sky" in t]


@pytest.mark.parametrize(("level", "named"), [(12.0, True), (-3.0, False), (-80.0, False)])
def test_a_level_above_what_was_sent_is_asked_about(lane, level, named):
    book, a, _ = lane
    run = book.run(a, 1, power_w=0.01)
    book.reading(run, "ford", level_dbm=level)
    assert bool([t for t in words(book) if "is no level that arrives" in t]) == named


def test_a_branch_that_stayed_on_is_named(lane):
    book, a, b = lane
    omni = book.antenna("Omni")
    heard(book, a, 1, "H H N N", branches=[Branch(antenna_id=omni.id)])
    heard(book, b, 2, "H H H N", branches=[Branch(antenna_id=omni.id)])
    assert "Omni stayed on in runs 1 and 2" in words(book)


def test_nothing_is_said_of_a_branch_where_none_stayed_on(lane):
    book, a, b = lane
    heard(book, a, 1, "H H N N")
    heard(book, b, 2, "H H H N")
    assert not [t for t in words(book) if "stayed on" in t]


def test_a_state_that_changed_between_runs_is_told_apart(lane):
    book, a, _ = lane
    heard(book, a, 1, "H H N N")
    bent = book.add(a.revised(states=[*a.states, State(id="bent", name="bent")]))
    heard(book, bent, 2, "H N N N")
    assert [t for t in words(book) if t.startswith("changed between runs, told apart: A")]


def test_another_listener_is_told_with_what_changed(lane):
    """Caught: the listener changed. What he did and what the antenna did can't be told apart."""
    book, a, b = lane
    for number, (antenna, who, grades) in enumerate(
        ((a, "the hut", (4, 3, 2, 1)), (b, "the recorder", (5, 4, 4, 3))), 1
    ):
        run = book.run(antenna, number, listener=who)
        for spot, grade in zip(SPOTS, grades, strict=True):
            book.reading(run, spot, readability=grade)
    assert [t for t in words(book) if t.endswith("antenna and listener changed together")]
    assert "antenna and listener changed together" in book.climb().field.sentence


def test_what_home_heard_is_compared_too_and_its_own_power_is_not_in_it(lane):
    """The antenna under test receives: a run at another power changes nothing of what home hears."""
    book, a, b = lane
    for number, (antenna, power, levels) in enumerate(
        (
            (a, 1.0, (-80, -86, -92, -97)),
            (b, 0.1, (-84, -90, -95, -101)),
            (b, 1.0, (-84, -90, -96, -101)),
            (a, 0.1, (-80, -86, -91, -97)),
        ),
        1,
    ):
        run = book.run(antenna, number, power_w=power)
        for spot, level in zip(SPOTS, levels, strict=True):
            book.reading(run, spot, end="home", level_dbm=float(level))
    field = book.climb().field
    assert field.difference("a", "b").value == pytest.approx(4.0, abs=0.3)
    assert field.main.walked("a") is None, "home's levels make no margin of the far end"


def levels_of_two(lane, flight_db: float) -> Book:
    """A 4 dB over B by boat, so many dB over it in flight; both again in swapped order, a tenth apart."""
    book, a, b = lane
    number = 0
    for manner, over_db in (("boat", 4.0), ("flight", flight_db)):
        for k, antenna in enumerate((a, b, b, a)):
            number += 1
            run = book.run(antenna, number, manner=manner)
            for at, spot in enumerate(SPOTS):
                level = -80.0 - 5.0 * at + (over_db if antenna is a else 0.0) + 0.1 * (k + at % 2)
                book.reading(run, spot, level_dbm=level)
    return book


def test_boat_and_flight_that_say_opposite_things_are_named_and_both_stand_in_the_table(lane):
    book = levels_of_two(lane, -4.0)
    assert "B over A: boat and flight disagree" in words(book)
    table = contrasts_table(book.climb().field)
    (row,) = table.rows
    parts = row.cells[table.heads.index("By part")].text
    boat, flight = (part.split(": ")[1] for part in parts.split("; "))
    assert boat.startswith("−") and not flight.startswith("−"), "B over A: one by boat, the other in flight"


def test_boat_and_flight_that_agree_raise_nothing(lane):
    assert not [text for text in words(levels_of_two(lane, 4.2)) if "disagree" in text]


def rates(book: Book, antenna, number: int, values: str, scale: str = "bit rate") -> None:
    run = book.run(antenna, number)
    for spot, value in zip(SPOTS, values.split(), strict=False):
        book.reading(run, spot, shown=float(value), scale=scale)


def test_a_delay_read_as_a_rate_is_asked_about(lane):
    book, a, b = lane
    for number, antenna, values in ((1, a, "38 31 22"), (2, b, "36 30 25"), (3, b, "180 240 410")):
        rates(book, antenna, number, values)
    assert "run 3: 180 Mbit/s, the others at most 38: another unit?" in words(book)


def test_a_rate_read_as_a_delay_is_asked_about(lane):
    book, a, b = lane
    for number, antenna, values in ((1, a, "180 240"), (2, b, "190 260"), (3, b, "36 31")):
        rates(book, antenna, number, values, "delay")
    assert "run 3: 36 ms, the others at least 180: another unit?" in words(book)


@pytest.mark.parametrize("values", ["8 4 1", "60 52 40", "170 30 22"])
def test_a_link_that_dies_or_is_much_better_is_no_other_unit(lane, values):
    book, a, b = lane
    for number, antenna, told in ((1, a, "38 31 22"), (2, a, "36 30 25"), (3, b, values)):
        rates(book, antenna, number, told)
    assert not [t for t in words(book) if "another unit" in t]


def test_a_run_on_its_side_says_why_it_is_kept_apart():
    distance = np.arange(100.0, 1500.0, 10.0)
    book = Book()
    book.home(3000)
    a, b = book.antenna("A"), book.antenna("B")
    for number, (antenna, roll) in enumerate(((a, None), (a, 90.0), (b, None)), 1):
        branches = [Branch(antenna_id=antenna.id, roll_deg=roll)] if roll else []
        run = book.run(antenna, number, manner="boat", branches=branches)
        book.log(run, distance, -60 - 25 * np.log10(distance / 100) - (8 if roll else 0))
    (told,) = (c for c in book.climb(a).field.checks if "compared as a pose" in c.text)
    assert told.text == "run 2 with the antenna turned 90°: compared as a pose" and "polarization" in told.why


@pytest.mark.parametrize(
    ("hz", "km", "by"),
    [
        (14e6, 9000, "the ionosphere"),
        (50e6, 1700, "sporadic E or by lifted air, as in a duct"),
        (144e6, 3900, "sporadic E"),
        (434e6, 1400, "lifted air, as in a duct"),
        (434e6, 5168, ""),
        (50e6, 12000, ""),
    ],
)
def test_what_carries_so_far(hz, km, by):
    assert far_beyond_words(hz, km * 1e3) == by


def test_what_nothing_carries_so_far_is_asked_about(lane):
    book, a, _ = lane
    book.place("Over the sea", 5.168e6)
    book.reading(book.run(a, 1), "over the sea", heard=True)
    (check,) = [c for c in book.climb().field.checks if c.text.startswith("Over the sea")]
    assert check.mark == "disagrees" and "869 MHz" in check.text and "ionosphere" not in check.figure.name + check.why


@pytest.mark.parametrize(
    ("turn", "said"),
    [
        (lambda lat, lon: (lon, lat), "latitude and longitude swapped"),
        (lambda lat, lon: (lat, -lon), "east and west mistaken"),
        (lambda lat, lon: (-lat, lon), "north and south mistaken"),
    ],
)
@pytest.mark.parametrize("alone", [True, False])
def test_a_position_written_the_other_way_round_is_named(lane, turn, said, alone):
    book = lane[0] if not alone else Book()
    if alone:
        book.home()
    rock = book.place("Rock", 3000.0)
    assert not [t for t in words(book) if "?" in t]
    latitude, longitude = turn(rock.latitude_deg, rock.longitude_deg)
    book.add(rock.revised(latitude_deg=latitude, longitude_deg=longitude))
    (named,) = [c for c in book.climb().field.checks if said in c.text]
    assert named.mark == "disagrees" and named.text.startswith("Rock lies")
    assert named.text in [c.text for c in book.climb().link.checks], "whoever asks how far it reaches reads it too"


def test_a_track_written_the_other_way_round_is_named(lane):
    book, a, _ = lane
    log = book.log(book.run(a, 1), [400.0, 900.0], [-70.0, -80.0])
    assert not [t for t in words(book) if "swapped" in t]
    series = book.series[log.series_id]
    series["latitude_deg"], series["longitude_deg"] = series["longitude_deg"], series["latitude_deg"]
    assert [t for t in words(book) if t.startswith("The track of run 1 lies") and "swapped" in t]
