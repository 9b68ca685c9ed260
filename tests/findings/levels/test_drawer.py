"""The pad solver against exhaustive search, and pads for a distance and for an input by hand."""

import itertools
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tallmast.findings.levels import drawer as solver
from tallmast.findings.levels.pieces import Drawer, cable_loss_per_m, feed_loss
from tallmast.notebook.records import At, Connector, PadCheck, Piece, Placed

from ..build import Book

PLUG, JACK = (Connector(family="SMA", body=b, contact=c) for b, c in (("plug", "pin"), ("jack", "socket")))


def pad(name: str, loss: float, rating: float | None = 0.5, first=JACK, second=PLUG, **more) -> Piece:
    more.setdefault("type", "pad")
    return Piece(id=name, name=name, loss_db=loss, loss_u_db=0.0, rating_w=rating, first=first, second=second, **more)


def drawer(*pieces: Piece) -> Drawer:
    book = Book()
    for piece in pieces:
        book.add(piece)
    return Drawer(book.evidence, 869e6)


def exhaustive(pieces: list[Piece], wanted: float, power: float, most: int) -> float | None:
    """Least |error| over every ordered choice, every setting and every way round: nothing clever."""
    best = None
    for count in range(most + 1):
        for order in itertools.permutations(pieces, count):
            settings_ = [
                [k * p.step_db for k in range(int(p.largest_db / p.step_db) + 1)]
                if p.type == "step attenuator"
                else [0.0]
                for p in order
            ]
            for setting in itertools.product(*settings_):
                losses = [p.loss_db + s for p, s in zip(order, setting, strict=True)]
                level, fine = power, True
                for p, loss in zip(order, losses, strict=True):
                    after = level * 10 ** (-loss / 10)
                    fine &= p.rating_w is None or level - after <= p.rating_w
                    level = after
                if not fine or not any(_fits(order, turns) for turns in itertools.product((0, 1), repeat=count)):
                    continue
                error = abs(sum(losses) - wanted)
                best = error if best is None else min(best, error)
    return best


def _fits(order, turns) -> bool:
    ends = [(p.first, p.second) if t else (p.second, p.first) for p, t in zip(order, turns, strict=True)]
    return all(a[1].body != b[0].body and a[1].family == b[0].family for a, b in itertools.pairwise(ends))


@st.composite
def drawers(draw):
    ends = st.sampled_from([(JACK, PLUG), (PLUG, JACK), (JACK, JACK), (PLUG, PLUG)])
    pieces = [
        pad(
            f"p{i}",
            draw(st.sampled_from([1.0, 2.0, 3.0, 6.1, 10.0, 20.0])),
            draw(st.sampled_from([0.1, 0.5, 2.0])),
            *draw(ends),
        )
        for i in range(draw(st.integers(1, 4)))
    ]
    if draw(st.booleans()):
        pieces.append(
            pad(
                "box",
                1.0,
                0.5,
                *draw(ends),
                type="step attenuator",
                largest_db=draw(st.sampled_from([7.0, 15.0])),
                step_db=1.0,
            )
        )
    return pieces


@settings(max_examples=60)
@given(drawers(), st.floats(0.0, 40.0), st.sampled_from([0.001, 0.3, 1.0, 3.0]))
def test_nothing_is_nearer_than_what_the_solver_finds(pieces, wanted, power):
    found, why = solver.nearest(drawer(*pieces), wanted, power)
    best = exhaustive(pieces, wanted, power, solver.MOST_PIECES)
    assert best is not None  # nothing at all can always be built
    assert found and not why
    assert abs(found[0].off_db) == pytest.approx(best, abs=1e-9)
    for stack in found:
        for part in stack.laid:
            assert part.dissipated_w <= part.piece.rating_w + 1e-12


def test_two_step_attenuators_together():
    boxes = [pad(f"box {i}", 0.5, None, type="step attenuator", largest_db=10.0, step_db=1.0) for i in (1, 2)]
    found, _ = solver.nearest(drawer(*boxes), 18.2, 0.001)
    assert abs(found[0].off_db) == pytest.approx(exhaustive(boxes, 18.2, 0.001, 4))


def test_the_sturdy_pad_goes_first():
    found, _ = solver.nearest(drawer(pad("weak", 10.0, 0.5), pad("sturdy", 10.0, 5.0)), 20.0, 4.0)
    assert [part.piece.name for part in found[0].laid] == ["sturdy", "weak"]
    # 4 W: 3.6 W stay in the first, 0.36 W in the second.
    assert [round(part.dissipated_w, 2) for part in found[0].laid] == [3.6, 0.36]


def test_a_pad_is_turned_round_where_that_makes_it_mate():
    found, _ = solver.nearest(
        drawer(pad("a", 3.0, first=PLUG, second=JACK), pad("b", 6.0, first=PLUG, second=JACK)), 9.0, 0.01
    )
    assert not any(part.turned for part in found[0].laid)
    found, _ = solver.nearest(
        drawer(pad("a", 3.0, first=PLUG, second=JACK), pad("b", 6.0, first=JACK, second=PLUG)), 9.0, 0.01
    )
    assert sorted(part.turned for part in found[0].laid) == [False, True]
    assert "turned round" in found[0].words


def test_why_nothing_can_be_built_is_told():
    _, why = solver.nearest(drawer(pad("weak", 10.0, 0.1)), 10.0, 5.0, at_least=True)
    assert why == "a pad would be over its rating"
    _, why = solver.nearest(drawer(pad("a", 10.0)), 30.0, 0.001, at_least=True)
    assert why == "nothing in the drawer takes that much"
    _, why = solver.nearest(
        drawer(pad("a", 10.0, None, JACK, JACK), pad("b", 10.0, None, JACK, JACK)), 20.0, 0.001, at_least=True
    )
    assert why == "connectors don’t mate"


def test_to_protect_it_is_never_less_than_wanted():
    found, _ = solver.nearest(drawer(pad("a", 3.0), pad("b", 6.0), pad("c", 10.0)), 9.5, 0.001, at_least=True)
    assert found[0].loss_db == 10.0


def test_pads_outside_their_frequency_stay_in_the_drawer():
    found, _ = solver.nearest(drawer(pad("a", 10.0, top_hz=500e6), pad("b", 20.0)), 10.0, 0.001)
    assert all(part.piece.name != "a" for stack in found for part in stack.laid)


def test_the_pad_that_makes_it_fail_at_400_m_for_several_exponents():
    """Measured −80 dBm at 1 km, sensitivity −100: at 400 m there are 20 + 10·n·log₁₀(2.5) dB to take away."""
    rows = solver.pad_for_distance(
        400.0,
        -80.0,
        1000.0,
        1.0,
        0.0,
        -100.0,
        0.5,
        869e6,
        [(2.0, 0.0, "free space"), (4.0, 0.0, "plane earth"), (3.0, 0.2, "measured")],
    )
    assert [r.pad.value for r in rows] == pytest.approx([20 + 7.959, 20 + 15.918, 20 + 11.938], abs=1e-3)
    assert rows[2].pad.u == pytest.approx(math.hypot(1.0, 0.5, 10 * 0.2 * math.log10(2.5)))


def test_without_a_measurement_it_starts_from_free_space_at_100_m():
    (row,) = solver.pad_for_distance(1000.0, None, 0.0, 3.0, 14.0, -100.0, 1.0, 869e6, [(2.0, 0.0, "free space")])
    # 20 log₁₀(4π·1000·869e6/c) = 91.23 dB.
    assert row.pad.value == pytest.approx(14 - 91.23 + 100, abs=0.01)


def test_an_input_is_protected_against_the_upper_end_of_the_doubt():
    assert solver.pad_for_input(-10.0, 2.0, -25.0).value == pytest.approx(15 + 3.29)
    assert solver.pad_for_input(-60.0, 2.0, -25.0).value == 0.0


class TestPieces:
    def test_a_cables_curve_by_its_two_parts(self):
        """a√f + bf through 6 dB and 20 dB at 100 and 1000 MHz, 100 m: a = 0.5657 and b = 0.00344 by Cramer's rule."""
        curve = [At(frequency_hz=100e6, loss_db=0.06, u_db=0.001), At(frequency_hz=1e9, loss_db=0.20, u_db=0.001)]
        a = (0.06 * 1000 - 0.20 * 100) / (10 * 1000 - math.sqrt(1000) * 100)
        b = (10 * 0.20 - math.sqrt(1000) * 0.06) / (10 * 1000 - math.sqrt(1000) * 100)
        loss, u = cable_loss_per_m(curve, 869e6)
        assert loss == pytest.approx(a * math.sqrt(869) + b * 869) and u == pytest.approx(0.001)

    def test_one_point_goes_with_the_root(self):
        assert cable_loss_per_m([At(frequency_hz=100e6, loss_db=0.1)], 400e6)[0] == pytest.approx(0.2)

    def test_a_check_counts_before_the_lid_near_its_frequency_only(self):
        book = Book()
        book.add(pad("a", 10.0, tolerance_db=0.3))
        book.series["s"] = {
            "inside": [0.0, 1.0, 0.0, 1.0, 0.0],
            "level_dbm": [-3.0, -13.2, -3.0, -13.2, -3.0],
            "minute": [0.0, 1.0, 2.0, 3.0, 4.0],
        }
        book.add(PadCheck(piece_id="a", frequency_hz=869e6, series_id="s"))
        near, far = Drawer(book.evidence, 900e6), Drawer(book.evidence, 150e6)
        assert near.taken(near.pieces["a"]).loss_db == pytest.approx(10.2)
        assert near.taken(near.pieces["a"]).basis == "measured"
        assert (far.taken(far.pieces["a"]).loss_db, far.taken(far.pieces["a"]).rectangle_db) == (10.0, 0.3)

    def test_a_filter_takes_more_beyond_its_band(self):
        piece = Piece(id="f", name="f", type="filter", loss_db=1.0, low_hz=860e6, top_hz=880e6, stop_db=40.0)
        made = drawer(piece)
        assert made.taken(piece).loss_db == 1.0
        assert made.taken(piece, frequency_hz=160e6).loss_db == 41.0

    def test_sums_keep_what_is_for_the_test_apart_from_the_line(self):
        preamp = Piece(id="amp", name="amp", type="preamp", gain_db=15.0)
        cable = Piece(id="c", name="c", type="cable", loss_db=1.0)
        box = pad("box", 1.0, type="step attenuator", largest_db=30.0)
        made = drawer(preamp, cable, box, pad("a", 10.0))
        placed = [Placed(piece_id=i, setting_db=12.0 if i == "box" else 0.0) for i in ("amp", "c", "box", "a", "gone")]
        sums = feed_loss(made, placed)
        assert (sums.pad_db, sums.line_db) == (23.0, 1.0)


def test_what_protects_an_input_in_a_field():
    """1 V/m at 869 MHz in 2.15 dBi: AF = 20 log₁₀(9.73/(0.345·1.281)) = 26.9 dB/m, so −13.9 dBm; with 2.5 dB of doubt
    11.4 of them are −11.4, and −25 is kept by 13.6 dB."""
    figure = solver.protect_figure(drawer(pad("a", 10.0), pad("b", 3.0), pad("c", 20.0)), 1.0, 869e6, 2.15, -25.0)
    assert figure.value == 20.0
    assert "needed 13.6 dB" in "\n".join(figure.working.lines)


def test_where_nothing_protects_it_is_said():
    figure = solver.protect_figure(drawer(pad("a", 3.0)), 1.0, 869e6, 2.15, -25.0)
    assert figure.name == "wanted, and not to be had"
    assert "nothing in the drawer takes that much" in figure.working.lines[-1]
