"""What people say of a signal, as they write it down."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.units.read import UnitError
from tallmast.units.spoken import GRADES, Said, said, strength_db


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("59", Said(True, 5, "S9")),
        ("5/9", Said(True, 5, "S9")),
        ("5 by 7", Said(True, 5, "S7")),
        ("599", Said(True, 5, "S9")),
        ("R4 S7", Said(True, 4, "S7")),
        ("r4s7", Said(True, 4, "S7")),
        ("59+20", Said(True, 5, "S9+20")),
        ("5/9 plus 10", Said(True, 5, "S9+10")),
        ("4 of 5", Said(True, 4)),
        ("4/5", Said(True, 4)),
        ("3", Said(True, 3)),
        ("Barely!", Said(True, 2)),
        ("loud and clear", Said(True, 5)),
        ("five by nine", Said(True, 5, "S9")),
        ("three one", Said(True, 3, "S1")),
        ("5x9", Said(True, 5, "S9")),
        ("Q4", Said(True, 4)),
        ("no copy", Said(False)),
        ("-", Said(False)),
        ("in the noise", Said(True, 1)),
        ("weak but readable", Said(True, 3)),
        ("strong", Said(True)),
        ("heard", Said(True)),
        ("nothing", Said(False)),
        ("0/0", Said(False)),
    ],
)
def test_reports(text, meant):
    assert said(text) == meant


@pytest.mark.parametrize("text", ["", "97", "6", "69", "-97", "5/0", "S7", "3 bars", "59 dBm", "eleven"])
def test_what_is_none(text):
    with pytest.raises(UnitError):
        said(text)


@given(st.integers(1, 5), st.integers(1, 9), st.sampled_from(["", "/", " ", " by ", " and "]))
def test_readability_and_strength_however_they_are_parted(r, s, between):
    found = said(f"{r}{between}{s}")
    if between == "/" and s == 5:
        assert found == Said(True, r)  # 4/5 is four of five
    else:
        assert found == Said(True, r, f"S{s}")


@given(st.text(max_size=12))
def test_anything_else_is_refused_in_words(text):
    try:
        found = said(text)
    except UnitError:
        return
    assert found.readability is None or found.readability in GRADES


def test_no_word_means_two_grades():
    words = [word for group in GRADES.values() for word in group]
    assert len(words) == len(set(words))


@pytest.mark.parametrize(
    ("text", "db"),
    [("59", 0.0), ("57", -12.0), ("5/9+20", 20.0), ("S7", -12.0), ("s9+10", 10.0), ("s9 +10 dB", 10.0), ("599", 0.0)],
)
def test_strength_over_s9(text, db):
    assert strength_db(text) == db


@pytest.mark.parametrize("text", ["", "4 of 5", "barely", "nothing", "S7+10", "S0", "-97", "S"])
def test_no_strength(text):
    assert strength_db(text) is None
