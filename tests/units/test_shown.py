"""What displays show, as people write it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.notebook.records.lists import marks, marks_text, own_levels, own_levels_text
from tallmast.units.read import UnitError
from tallmast.units.shown import SCALES, shown, words_of


@pytest.mark.parametrize(
    ("text", "scale", "value"),
    [
        ("3 bars", "bars", 3.0),
        ("1 bar", "bars", 1.0),
        ("3 of 4 bars", "bars", 3.0),
        ("2/5 bars", "bars", 2.0),
        ("31 Mbit/s", "bit rate", 31.0),
        ("12,5 Mbps", "bit rate", 12.5),
        ("28 ms", "delay", 28.0),
        ("64 %", "packet rate", 64.0),
        ("5 % lost", "packet rate", 95.0),
        ("2,5% loss", "packet rate", 97.5),
        ("PER 10 %", "packet rate", 90.0),
        ("120 % lost", "packet rate", None),
        ("900 kbit/s", "bit rate", 0.9),
        ("1.2 Gbps", "bit rate", 1200.0),
        ("grade 3", "picture grade", None),
        ("3 picture", "picture grade", 3.0),
        ("snow", "picture grade", 2.0),
        ("3 in 40 s", "dropouts", 4.5),
        ("2 dropouts in 1 min", "dropouts", 2.0),
        ("0 in 30 s", "dropouts", 0.0),
    ],
)
def test_readings_of_displays(text, scale, value):
    if value is None:
        with pytest.raises(UnitError):
            shown(text)
    else:
        found = shown(text)
        assert (found.scale, found.value) == (scale, pytest.approx(value))


@pytest.mark.parametrize(
    "text", ["101 %", "6 picture", "3 in 0 s", "36", "", "purple", "1e400 ms", "nan bars", "-3 bars", "5 of 4 bars"]
)
def test_what_no_display_shows(text):
    with pytest.raises(UnitError):
        shown(text)


@given(st.sampled_from([s for s in SCALES if SCALES[s].written]), st.floats(0, 5, allow_subnormal=False))
def test_what_is_said_of_a_reading_is_read_back_as_it(scale, value):
    value = round(value, 3)
    words = words_of(scale, value)
    if scale not in ("picture grade", "exposure meter"):
        found = shown(words)
        assert (found.scale, found.value) == (scale, pytest.approx(value, rel=1e-4, abs=1e-9))


@given(st.text(max_size=40))
def test_whatever_is_typed_is_read_or_refused(text):
    for reader in (shown, marks, own_levels):
        try:
            reader(text)
        except UnitError as error:
            assert len(str(error)) < 400


@given(st.lists(st.tuples(st.floats(0, 1e4), st.from_regex(r"[a-z][a-z ]{0,10}[a-z]", fullmatch=True)), max_size=6))
def test_marks_are_read_back_as_they_are_written(made):
    made = list({round(at): (round(at), name) for at, name in made}.values())
    text = "; ".join(f"{at:.1f} s {name}" for at, name in made)
    found = marks(text)
    assert [m.at_s for m in found] == sorted(m.at_s for m in found) and len(found) == len(made)
    again = marks(marks_text(found))
    assert [m.name for m in again] == [m.name for m in found]
    assert [m.at_s for m in again] == pytest.approx([m.at_s for m in found], rel=1e-4)


@pytest.mark.parametrize(
    ("text", "at", "names"),
    [("40 s turn; 1:05 trees", [40.0, 65.0], ["turn", "trees"]), ("5 back; 0 start", [0.0, 5.0], ["start", "back"])],
)
def test_marks_as_people_write_them(text, at, names):
    assert [(m.at_s, m.name) for m in marks(text)] == list(zip(at, names, strict=True))


def test_own_factors_by_their_names():
    made = own_levels("hand: left; Reflector : on")
    assert made == {"hand": "left", "Reflector": "on"} and own_levels(own_levels_text(made)) == made
    for text in ("hand", "hand: ", ": left", "hand: left; HAND: right"):
        with pytest.raises(UnitError):
            own_levels(text)
