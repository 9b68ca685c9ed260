"""The Shelf: claims against beams and sizes, and connectors."""

import math

import pytest

from tallmast.findings import tables
from tallmast.findings.connection import mating
from tallmast.notebook.records import At, Connector, Piece

from .build import Book


def half(family="SMA", body="plug", contact="pin", ohm=50.0) -> Connector:
    return Connector(family=family, body=body, contact=contact, impedance_ohm=ohm)


def test_a_gain_that_its_own_beam_forbids():
    book = Book()
    panel = book.antenna("Panel")
    book.claim(panel, "gain", 11, reference="dBi")
    book.claim(panel, "beamwidth", 110, second_value=110)
    shelf = book.climb().shelf
    # cosⁿθ that is a half at 55°: n = ln ½/ln cos 55° = 1.247, D = 2(n + 1) = 4.49, 6.53 dBi; 41 253/(110·110) says 5.33.
    assert shelf.rows[0].limit.value == pytest.approx(6.53, abs=0.01)
    assert shelf.sentence == "Panel can't have 11 dBi: the claimed beam allows 6.5 dBi at most."
    assert shelf.standing.mark == "disagreement"


def test_within_a_decibel_of_the_limit_is_not_called_impossible():
    book = Book()
    panel = book.antenna("Panel")
    book.claim(panel, "gain", 7.4, reference="dBi")
    book.claim(panel, "beamwidth", 110, second_value=110)
    assert not any(paper.impossible for paper in book.climb().shelf.rows[0].claims)


def test_dbd_counts_2_15_more():
    book = Book()
    rod = book.antenna("Rod", type="collinear", length_m=0.95)
    book.claim(rod, "gain", 7, reference="dBd")
    assert book.climb().shelf.rows[0].claimed_gain_dbi == pytest.approx(9.15)
    # 2(2.75 + ½) = 6.5, 8.1 dBi all round; 11.1 to one side of a mast.
    assert "Rod’s 7 dBd would be more than is known of its kind" in book.climb().shelf.sentence
    book.claim(rod, "gain", 11, reference="dBd")
    assert "Rod can't have 11 dBd" in book.climb().shelf.sentence


def test_bare_decibels_are_asked_about():
    book = Book()
    book.claim(book.antenna("Rod"), "gain", 7, reference="dB")
    assert any(c.mark == "open" and "dB over what" in c.text for c in book.climb().shelf.checks)


@pytest.mark.parametrize(
    ("one", "other", "mark", "words"),
    [
        (half(), half(body="jack", contact="socket"), "holds", "mate"),
        (half(), half("N", "jack", "socket"), "fails", "don't mate"),
        (half(), half(), "fails", "two plugs"),
        (half(contact="socket"), half(body="jack", contact="socket"), "fails", "connects nothing"),
        (half(), half(body="jack", contact="pin"), "fails", "break each other"),
        (half("N"), half("N", "jack", "socket", 75.0), "disagrees", "50 Ω onto 75 Ω"),
    ],
)
def test_connectors(one, other, mark, words):
    check = mating(one, other)
    assert (check.mark, words in check.text) == (mark, True)
    assert mating(other, one).mark == mark


def test_sentences_for_none_one_and_many():
    empty = Book()
    assert empty.climb().shelf.sentence == "Add the antennas to be compared."
    empty.antenna("A")
    assert empty.climb().shelf.sentence == "One antenna on the shelf; nothing is claimed of it."
    b = empty.antenna("B")
    assert empty.climb().shelf.sentence == "Two antennas on the shelf; nothing is claimed of them."
    empty.claim(b, "swr", 1.5)
    assert empty.climb().shelf.sentence == "Two antennas and one claim, which is possible on paper."


def test_a_gain_that_nothing_limits_is_not_called_possible():
    book = Book()
    stub = book.antenna("Stub")
    book.claim(stub, "gain", 6.0, reference="dBi")
    found = book.climb().shelf
    assert found.sentence == "One antenna, one claim; no size or beam to judge it by."
    assert found.rows[0].claims[0].standing == "no limit" and "no gain limit" in found.detail
    book.claim(stub, "swr", 1.5)
    assert book.climb().shelf.sentence == "One antenna, two claims; no size or beam to judge one gain by."
    book.add(stub.revised(type="dipole", length_m=0.17))
    assert "possible on paper" not in book.climb().shelf.sentence, "6 dBi is too much for it"


JACK, PLUG = half("N", "jack", "socket"), half("N", "plug", "pin")


def piece(book, name, first=PLUG, second=JACK, **more) -> Piece:
    return book.add(Piece(id=name, name=name, first=first, second=second, **more))


def joined(book, *names):
    return book.antenna("Rod", connector=JACK, mate=PLUG, through=list(names))


def test_a_chain_of_pieces_is_checked_end_to_end_and_its_losses_add():
    book = Book()
    piece(book, "elbow", loss_db=0.1, loss_u_db=0.03, rating_w=50.0)
    piece(book, "lead", loss_db=0.5, loss_u_db=0.04, rating_w=20.0)
    joined(book, "elbow", "lead")
    connection = book.climb().shelf.rows[0].connection
    assert (connection.mark, len(connection.joints), connection.rating_w) == ("holds", 3, 20.0)
    assert connection.loss.value == pytest.approx(0.6)
    assert connection.loss.u == pytest.approx(0.05)  # √(0.03² + 0.04²)
    assert connection.text == "connectors mate, 0.60 ± 0.08 dB lost"
    assert any("20 W at most: lead" in line for line in connection.loss.working.lines)


def test_the_shelf_and_levels_say_the_same_of_a_piece():
    """A cable takes what its sheet says at the question's frequency, a lead what was measured of it: on both rungs."""
    book = Book()
    frequency = book.evidence.question.centre_hz
    curve = [At(frequency_hz=frequency, loss_db=0.22, u_db=0.01)]
    piece(book, "coax", type="cable", curve=curve, length_m=5.0, loss_db=0.1, tolerance_db=0.0, loss_u_db=0.0)
    measured = [At(frequency_hz=frequency, loss_db=0.83, u_db=0.04)]
    piece(book, "lead", loss_db=0.5, loss_u_db=0.2, measured=measured)
    piece(book, "mast preamp", type="preamp", gain_db=15.0)
    a = joined(book, "coax", "lead", "mast preamp")
    book.levels()
    climb = book.climb(a)
    on_shelf, on_levels = (
        {row.cells[0].text: [cell.text for cell in row.cells[1 + at : 3 + at]] for row in table.rows}
        for at, table in ((1, tables.shelf.pieces(climb.shelf)), (0, tables.levels.drawer(climb.levels)))
    )
    assert on_shelf == on_levels
    assert on_shelf["coax"] == ["1.20 ± 0.08 dB", "by its curve"]
    assert on_shelf["mast preamp"][0].startswith("gains 15.0")
    loss = climb.shelf.rows[0].connection.loss
    assert loss.value == pytest.approx(0.1 + 5 * 0.22 + 0.83)  # the preamp takes nothing
    assert loss.u == pytest.approx(math.hypot(5 * 0.01, 0.04))


def test_the_joint_that_can_t_mate_is_named():
    book = Book()
    piece(book, "elbow")
    piece(book, "odd lead", first=half("SMA"))
    joined(book, "elbow", "odd lead")
    shelf = book.climb().shelf
    assert shelf.rows[0].connection.mark == "fails"
    assert any(
        "Rod: N and SMA don't mate" in check.text and check.why.startswith("elbow to odd lead")
        for check in shelf.checks
    )


def test_a_piece_beyond_its_frequency_or_its_power_is_told():
    book = Book()
    piece(book, "old lead", top_hz=500e6)
    joined(book, "old lead")
    assert book.climb().shelf.rows[0].connection.text == "old lead is for 500 MHz at most"
    book.add(book.records["old lead"].revised(top_hz=None, rating_w=0.5))
    book.levels(power_w=0.01, full_power_w=5.0)
    connection = book.climb().shelf.rows[0].connection
    assert (connection.mark, connection.text) == ("fails", "old lead carries 500 mW, not 5 W")


def test_a_piece_taken_out_of_the_drawer_leaves_the_chain_without_it():
    book = Book()
    joined(book, "gone")
    connection = book.climb().shelf.rows[0].connection
    assert (connection.mark, connection.loss) == ("holds", None)
