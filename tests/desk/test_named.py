"""What is written by its name in the notebook: antennas on their ports, and how they were held."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.desk.sheets.named import branches_of, branches_text, placed_of
from tallmast.notebook.records import Antenna, Branch, Piece
from tallmast.units.read import UnitError

SHELF = [Antenna(id="p", name="Patch"), Antenna(id="pl", name="Patch, long"), Antenna(id="w", name="Whip 2")]


def test_ports_ends_and_how_each_was_held():
    text = "left: Patch, covered; right: Whip 2, off; far Patch, long, at 200°, up 16°; B: whip 2, down 5, turned 90°"
    assert branches_of(text, SHELF, ends=True) == [
        Branch(port="left", antenna_id="p", covered=True),
        Branch(port="right", antenna_id="w", connected=False),
        Branch(antenna_id="pl", end="away", azimuth_deg=200.0, tilt_deg=16.0),
        Branch(port="B", antenna_id="w", tilt_deg=-5.0, roll_deg=90.0),
    ]


@pytest.mark.parametrize("text", ["left: Dish", "Patch upside", "Patch, up 100°", "Patchwork", "left:", "Patch, at"])
def test_what_is_none_is_told_with_what_could_be_written(text):
    with pytest.raises(UnitError):
        branches_of(text, SHELF, ends=True)


angles = st.none() | st.integers(-90, 90).map(float)
branches = st.builds(
    Branch,
    antenna_id=st.sampled_from(["p", "pl", "w"]),
    port=st.sampled_from(["", "left", "B", "far left"]),
    end=st.sampled_from(["home", "away"]),
    connected=st.booleans(),
    covered=st.booleans(),
    azimuth_deg=st.none() | st.integers(0, 359).map(float),
    tilt_deg=angles,
    roll_deg=angles,
)


@given(st.lists(branches, max_size=4))
def test_what_is_shown_is_read_as_the_same(made):
    made = [b.revised(port="") if b.port.startswith("far") and b.end == "home" else b for b in made]
    assert branches_of(branches_text(made, SHELF), SHELF, ends=True) == made


def test_a_piece_of_the_longest_name_and_its_setting():
    pieces = [
        Piece(id="a", name="10 dB pad", type="pad"),
        Piece(id="s", name="box", type="step attenuator", largest_db=60),
    ]
    assert [(p.piece_id, p.setting_db) for p in placed_of("10 dB pad; Box 12 dB", pieces)] == [("a", 0.0), ("s", 12.0)]
    with pytest.raises(UnitError, match="can be set"):
        placed_of("10 dB pad 3 dB", pieces)
