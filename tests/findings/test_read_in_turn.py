"""What was read in turn reaches the verdict: a reflector clipped on and off before a jumping meter is evidence enough."""

import pytest

from tallmast.notebook.records import Comparison
from tallmast.notebook.records.lists import spells

from .build import Book

FRONT = "off 41 44 39 42; on 80 86 78 84; off 43 40 42; on 82 79 85"
BEHIND = "off 30 33 29 31; on 15 17 16 14; off 31 30 32; on 16 15 17"


def turns(what: str, text: str, **more) -> Comparison:
    return Comparison(what=what, spells=spells(text), unit="mW/m²", **more)


def test_with_no_antenna_on_the_shelf_it_is_told_all_the_same():
    book = Book()
    book.add(turns("front", FRONT))
    verdict = book.climb().verdict
    assert verdict.sentence.startswith("Front: on over off ") and verdict.sentence.endswith(" dB.")
    low, high = verdict.headline.interval
    # 82 over 41.6 mW/m², a power: 10·log₁₀ of 1.97.
    assert low < 2.95 < high and high - low < 3
    assert verdict.standing.mark == "some"


def test_both_directions_stand_in_one_sentence_and_the_report():
    book = Book()
    book.antenna("Controller")
    book.add(turns("front", FRONT))
    book.add(turns("behind", BEHIND))
    verdict = book.climb().verdict
    front, behind = verdict.sentence.split("; ")
    assert front.startswith("Front: on over off ") and behind.startswith("behind: on over off −")
    assert "one place" in verdict.detail


def test_a_difference_that_is_none_is_called_so():
    book = Book()
    book.antenna("Controller")
    book.add(turns("radome", "off 40 47 36 44; on 43 37 46 41; off 42 39 45"))
    assert "no difference told" in book.climb().verdict.sentence


def test_a_meter_of_unknown_unit_is_told_both_ways():
    book = Book()
    book.antenna("Controller")
    book.add(Comparison(what="front", spells=spells(FRONT), unit="unknown"))
    verdict = book.climb().verdict
    assert "Mind: " in verdict.detail or "unit" in verdict.sentence + verdict.detail


def test_beside_other_evidence_it_is_told_too():
    book = Book()
    book.home(1000)
    a, b = book.antenna("A"), book.antenna("B")
    for number, (antenna, level) in enumerate(((a, -80), (b, -84), (b, -84.5), (a, -80.5)), 1):
        book.reading(book.run(antenna, number), "rock", level_dbm=level)
    alone = book.climb().verdict.sentence
    book.add(turns("front", FRONT))
    verdict = book.climb().verdict
    assert verdict.sentence == alone
    assert "Read in turn, front: on over off" in verdict.detail


def test_the_newest_of_the_same_name_speaks():
    book = Book()
    book.antenna("Controller")
    book.add(turns("front", BEHIND))
    book.add(turns("Front", FRONT))
    assert book.climb().verdict.headline.value == pytest.approx(2.95, abs=0.4)
    assert ";" not in book.climb().verdict.sentence
