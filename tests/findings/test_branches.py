"""Several antennas at an end, and how they were held: each port is a factor of its own."""

import numpy as np
import pytest

from tallmast.notebook.records import Branch, Pad, Piece, Placed, Radio

from .build import Book
from .test_field import D


@pytest.fixture
def walked():
    book = Book()
    book.home(3000.0)
    a = book.antenna("A", known_gain_dbi=2.15, polarization="vertical")
    b = book.antenna("B", known_gain_dbi=2.15, polarization="vertical")
    return book, a, b


def runs(book, settings) -> None:
    """Each run with branches and how much that does to its level."""
    random = np.random.default_rng(4)
    for number, (antenna, branches, change_db) in enumerate(settings, 1):
        run = book.run(antenna, number, branches=branches)
        book.log(
            run, D, -60 - 25 * np.log10(D / 100) + change_db + random.normal(0, 0.2) + random.normal(0, 0.5, len(D))
        )


def told(book, factor: str) -> dict[tuple[str, str], object]:
    contrasts = book.climb().field.contrasts
    return {(c.change.to, c.change.since): c.figure for c in contrasts if c.change.factor == factor}


def test_a_covered_port_is_told_against_the_same_port_open(walked):
    book, a, b = walked
    both = [Branch(port="left", antenna_id=a.id), Branch(port="right", antenna_id=b.id)]
    left = [both[0].revised(covered=True), both[1]]
    right = [both[0], both[1].revised(covered=True)]
    runs(book, [(a, both, 0.0), (a, left, -6.0), (a, right, -1.0), (a, right, -1.0), (a, left, -6.0), (a, both, 0.0)])
    open_left = told(book, "port left")["on", "covered"]
    assert abs(open_left.value - 6.0) < 0.7 and open_left.interval[0] > 4.0
    open_right = told(book, "port right")["B", "B, covered"]
    assert abs(open_right.value - 1.0) < 0.7


def test_how_the_compared_antenna_was_turned_is_a_factor(walked):
    book, a, _ = walked
    turned = [Branch(antenna_id=a.id, roll_deg=90.0)]
    upright = [Branch(antenna_id=a.id)]
    runs(book, [(a, upright, 0.0), (a, turned, 9.0), (a, turned, 9.0), (a, upright, 0.0)])
    assert abs(told(book, "pose")["turned 90°", "on"].value - 9.0) < 0.7


def test_what_an_end_has_connected_holds_for_every_run_that_says_nothing_else(walked):
    book, a, b = walked
    book.levels(branches=[Branch(port="right", antenna_id=b.id)])
    runs(book, [(a, [], 0.0), (a, [], 0.0)])
    assert "B stayed on in runs 1 and 2" in [c.text for c in book.climb().field.checks]
    row = book.climb().field.rows[0]
    assert row.factors["port right"] == "B"


@pytest.mark.parametrize("held", [{"covered": True}, {"connected": False}])
def test_what_is_covered_or_off_did_not_stay_on(walked, held):
    book, a, b = walked
    runs(book, [(a, [Branch(antenna_id=b.id, **held)], 0.0)])
    assert not [c for c in book.climb().field.checks if "stayed on" in c.text]


def test_pads_at_the_far_end_are_in_the_staircase_and_in_the_budget(walked):
    """A pad left at the gauge takes as much from the margin as one at home; both rungs say so."""
    book, a, _ = walked
    book.levels(power_w=0.1, pads=[])
    book.far(power_w=0.1)
    plain = book.climb(a)
    book.add(Piece(id="six", name="six", type="pad", loss_db=6.0, tolerance_db=0.3))
    book.far(power_w=0.1, placed=[Placed(piece_id="six")], pads=[Pad(name="4 dB pad", attenuation_db=4.0)])
    padded = book.climb(a)
    assert padded.link.margins[0].figure.value == pytest.approx(plain.link.margins[0].figure.value - 10.0)
    assert padded.link.margins[0].figure.u > plain.link.margins[0].figure.u
    last = [climb.levels.out.steps[-1].level_dbm for climb in (plain, padded)]
    assert last[1] == pytest.approx(last[0] - 10.0)


def test_what_home_does_not_say_its_radio_does(walked):
    book, a, _ = walked
    book.add(Radio(id="set", name="set", power_w=0.05, power_u_db=0.8, sensitivity_dbm=-104.0, sensitivity_u_db=2.0))
    book.levels(power_w=None, radio_id="set")
    book.far(power_w=0.1)
    climb = book.climb(a)
    home = climb.evidence.home_end
    assert (home.power_w, home.power_u_db, home.sensitivity_dbm, home.sensitivity_u_db) == (0.05, 0.8, -104.0, 2.0)
    assert climb.levels.back is not None and climb.link.margins[0].back is not None
    book.levels(power_w=0.01, radio_id="set")
    assert book.climb(a).evidence.home_end.power_w == 0.01, "its own word counts before its radio's"


def test_a_home_that_only_listens_has_no_budget_and_says_what_is_wanted(walked):
    book, a, _ = walked
    book.levels(power_w=None, sensitivity_dbm=-120.0)
    book.far(power_w=0.1)
    climb = book.climb(a)
    assert "power and pads" in climb.link.detail and climb.levels.out is None


def test_the_far_end_sends_what_its_radio_does_where_nothing_else_is_noted(walked):
    book, a, _ = walked
    book.levels(power_w=0.1, sensitivity_dbm=-110.0)
    book.add(Radio(id="box", name="box", power_w=0.02, power_u_db=0.4))
    book.far(radio_id="box")
    climb = book.climb(a)
    assert (climb.evidence.far_end.power_w, climb.evidence.far_end.power_u_db) == (0.02, 0.4)
    assert climb.link.margins[0].back is not None and climb.levels.back is not None


def test_one_port_however_it_is_written(walked):
    book, a, b = walked
    for number, port in enumerate(("Left", "left", "LEFT"), 1):
        book.run(a, number, branches=[Branch(port=port, antenna_id=a.id), Branch(port="b", antenna_id=b.id)])
    names = {name for row in book.climb().field.rows for name in row.factors if "port" in name}
    assert names == {"port left", "port B"}
