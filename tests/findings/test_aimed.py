"""Both ends and where the beam goes: crossed waves, opposite senses, a beam over or past its target; on every rung that rests on it."""

import numpy as np
import pytest

from tallmast.notebook.records import Branch, Turn
from tallmast.notebook.records.directions import heard

from .build import Book

ANGLE = np.arange(-90, 90, 3.0)


def book_of(mine: str, theirs: str, **far) -> tuple[Book, object]:
    book = Book()
    book.home(wanted_m=2000)
    a = book.antenna("Panel", polarization=mine, axial_ratio_db=2.0 if "circular" in mine else None)
    book.levels()
    book.far(name="gauge", polarization=theirs, **far)
    run = book.run(a, 1)
    book.place("Near", 300.0)
    book.reading(run, "near", level_dbm=-70.0, as_typed="-70 dBm")
    return book, a


def said(finding) -> list[str]:
    return [c.text for c in finding.checks if c.mark == "disagrees"]


@pytest.mark.parametrize(
    ("mine", "theirs", "words"),
    [("vertical", "horizontal", "are crossed"), ("right circular", "left circular", "turn opposite ways")],
)
def test_crossed_and_opposite_ends_are_said_on_field_and_link(mine, theirs, words):
    book, a = book_of(mine, theirs, axial_ratio_db=2.0 if "circular" in theirs else None)
    climb = book.climb(a)
    for rung in ("field", "link"):
        assert any(words in text for text in said(climb.of(rung))), rung
    book.cut(a, -0.01 * ANGLE**2, ANGLE)
    assert any(words in text for text in said(book.climb(a).pattern))


@pytest.mark.parametrize(
    ("mine", "theirs"), [("vertical", "vertical"), ("right circular", "vertical"), ("unknown", "vertical")]
)
def test_ends_that_agree_or_nobody_knows_raise_nothing(mine, theirs):
    book, a = book_of(mine, theirs)
    assert not [
        t for rung in ("field", "link") for t in said(book.climb(a).of(rung)) if "crossed" in t or "opposite" in t
    ]


def test_a_sense_that_was_measured_takes_the_place_of_the_one_noted():
    book, a = book_of("right circular", "left circular", axial_ratio_db=1.0)
    readings = heard("right -70; left -50")
    book.add(Turn(antenna_id=a.id, state_id=a.state.id, plane="polarization", probe="circular", readings=readings))
    climb = book.climb(a)
    assert not any("opposite" in t for t in said(climb.field)), "it is left-hand after all"
    assert climb.measured.antenna("panel").polarization == "left circular"


def tilted(tilt: float):
    """A beam 30° wide in elevation, tilted up; the place to be reached lies level."""
    book, a = book_of("vertical", "vertical")
    home = book.records["home end"]
    book.add(home.revised(branches=[Branch(antenna_id=a.id, azimuth_deg=37.0, tilt_deg=tilt)]))
    book.cut(a, -12 * (ANGLE / 30) ** 2, ANGLE, plane="elevation", level_u_db=0.2)
    return book.climb(a)


def test_a_beam_tilted_over_its_target_is_named_with_what_it_loses():
    climb = tilted(25.0)
    (text,) = [t for t in said(climb.pattern) if t.startswith("beam 25° over Rock: ")]
    # 12·(25/30)² = 8.3 dB.
    assert 7.5 < float(text.split(": ")[1].split()[0]) < 9.2
    assert any(t.startswith("beam 25° over Rock") for t in said(climb.link))


def test_a_beam_on_its_target_raises_nothing():
    assert not [t for t in said(tilted(4.0).pattern) if t.startswith("beam ")]


def test_a_beam_past_its_target():
    book, a = book_of("vertical", "vertical")
    home = book.records["home end"]
    book.add(home.revised(branches=[Branch(antenna_id=a.id, azimuth_deg=97.0)]))
    angle = np.arange(0, 360, 5.0)
    off = (angle + 180) % 360 - 180
    book.cut(a, np.maximum(-12 * (off / 60) ** 2, -20), angle, level_u_db=0.2)
    # Rock stands at 37°, the front looks to 97°: 60° past, 12 dB.
    (text,) = [t for t in said(book.climb(a).pattern) if t.startswith("beam 60° past Rock: ")]
    assert 11 < float(text.split(": ")[1].split()[0]) < 13


def test_more_gain_of_an_omni_is_darker_overhead_with_its_number():
    book = Book()
    flat = book.antenna("Collinear", type="collinear", known_gain_dbi=8.0)
    book.cut(flat, np.zeros(72), np.arange(0, 360, 5.0))
    (check,) = [c for c in book.climb(flat).pattern.checks if "less than on the horizon" in c.text]
    # A doughnut of 8 dBi is cos^m with m = 23: 23·10·log₁₀(√2) = 35 dB at 45° by the rule, 30 at most.
    assert check.figure.value < -15 and check.mark == "open"
    short = book.antenna("Stub", type="whip")
    book.cut(short, np.zeros(72), np.arange(0, 360, 5.0))
    assert not [c for c in book.climb(short).pattern.checks if "less than on the horizon" in c.text]
