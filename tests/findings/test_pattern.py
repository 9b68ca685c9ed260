"""The Pattern: reading cuts, and gain by substitution."""

import numpy as np
import pytest

from .build import Book

ANGLE = np.arange(0, 360, 5.0)


def beam(width: float, top: float = 0.0):
    off = (ANGLE + 180) % 360 - 180
    return top + np.maximum(-12 * (off / width) ** 2, -20)


def test_substitution_by_hand():
    # −40.0 against −46.5 of a dipole of 2.15 dBi: 8.65 dBi; u² = 0.4² + 0.4² + 0.3², u = 0.640.
    book = Book()
    a, ref = book.antenna("A"), book.antenna("Ref", known_gain_dbi=2.15, known_gain_u_db=0.3)
    book.cut(a, beam(60, -40.0), absolute=True, session="yard", level_u_db=0.4)
    book.cut(ref, np.full(72, -46.5), absolute=True, session="yard", level_u_db=0.4)
    gain = book.climb(a).pattern.of("a").substitution
    assert gain.value == pytest.approx(8.65)
    assert gain.u == pytest.approx(0.640, abs=1e-3)
    assert {name for name, _ in gain.working.parts} == {"level of A", "level of Ref", "gain of Ref"}


@pytest.mark.parametrize("change", [{"absolute": False}, {"session": "another day"}])
def test_cuts_that_can_t_be_compared_give_no_gain(change):
    book = Book()
    a, ref = book.antenna("A"), book.antenna("Ref", known_gain_dbi=2.15)
    book.cut(a, beam(60), **{"absolute": True, "session": "yard", **change})
    book.cut(ref, np.zeros(72), absolute=True, session="yard")
    assert book.climb(a).pattern.of("a").substitution is None
    assert any("gain not shown" in c.text for c in book.climb(a).pattern.checks)


def test_beam_sentence_and_claim():
    book = Book()
    a = book.antenna("A")
    book.claim(a, "beamwidth", 110)
    book.cut(a, beam(60))
    pattern = book.climb(a).pattern
    assert pattern.focus.cuts[0].beamwidth.value == pytest.approx(60, abs=1)
    assert any(c.mark == "fails" and "110°" in c.text for c in pattern.checks)


def test_directivity_needs_both_planes():
    book = Book()
    a = book.antenna("A")
    book.cut(a, beam(60))
    assert book.climb(a).pattern.of("a").from_beams is None
    book.cut(a, beam(60), plane="elevation")
    # 32 400/3600 = 9: 9.54 dBi.
    assert book.climb(a).pattern.of("a").from_beams.value == pytest.approx(9.54, abs=0.2)


def test_the_sector_of_the_question_is_read():
    book = Book(sector_from_deg=-30, sector_to_deg=30)
    a = book.antenna("A")
    book.cut(a, beam(60))
    assert book.climb(a).pattern.focus.cuts[0].sector.value == pytest.approx(-3.0, abs=0.05)


def test_a_turntable_zero_is_taken_off():
    book = Book()
    a = book.antenna("A")
    book.cut(a, np.roll(beam(60), 18), boresight_deg=90)
    assert book.climb(a).pattern.focus.cuts[0].peak_deg == 0


def test_nothing_yet_teaches():
    book = Book()
    book.antenna("A")
    assert "Drop a CSV" in book.climb().pattern.detail
