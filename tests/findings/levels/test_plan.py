"""The link as planned from shelf, drawer and far end, both ways, and what neighbours put into the receiver."""

import numpy as np
import pytest

from tallmast.findings.levels.exposed import field_figure
from tallmast.notebook.records import Emitter, GainTable, Pad, Piece, Placed, Radio
from tallmast.physics.propagation import free_space_loss_db

from ..build import Book


def link(**far) -> tuple[Book, object]:
    book = Book()
    book.home(2000.0)
    antenna = book.antenna("A", known_gain_dbi=8.0, polarization="vertical")
    book.levels(
        power_w=0.01, sensitivity_dbm=-105.0, cable_loss_db=1.0, pads=[Pad(name="10 dB pad", attenuation_db=10)]
    )
    far.setdefault("gain_dbi", 2.0)
    far.setdefault("power_w", 0.1)
    book.far(**far)
    return book, antenna


def test_out_and_back_by_hand():
    book, a = link()
    climb = book.climb(a)
    levels = climb.levels
    loss = float(free_space_loss_db(levels.ends.path.distance_m, 869e6)) + climb.way.profile.loss_db
    assert levels.out.steps[-1].level_dbm == pytest.approx(10 - 10 - 1 + 8 - loss + 2, abs=1e-6)
    assert levels.back.steps[-1].level_dbm == pytest.approx(20 + 2 - loss + 8 - 1 - 10, abs=1e-6)
    assert [s.key for s in levels.back.steps][:2] == ["far power", "far antenna"]
    assert levels.ends.path.basis.startswith("free space")


def test_a_mast_preamp_is_in_the_way_of_the_receiver_only():
    book, a = link()
    book.add(Piece(id="amp", name="amp", type="preamp", gain_db=15.0, overload_dbm=-30.0))
    book.add(Radio(id="set", name="set", overload_dbm=-25.0, damage_dbm=10.0, noise_figure_db=6.0, bandwidth_hz=50e3))
    book.levels(
        power_w=0.01, sensitivity_dbm=-105.0, placed=[Placed(piece_id="amp"), Placed(piece_id="gone")], radio_id="set"
    )
    levels = book.climb(a).levels
    assert "amp" not in [s.key for s in levels.out.steps]
    assert next(s for s in levels.back.steps if s.key == "amp").change_db == 15.0
    assert {m.limit.name for m in levels.back.met} >= {
        "amp’s overload",
        "home’s overload",
        "what home survives",
        "home’s noise",
        "home’s sensitivity",
    }


def test_limits_are_judged_at_full_power_where_the_test_is_reduced():
    book, a = link(sensitivity_dbm=-95.0)
    levels = book.climb(a).levels
    spare = levels.out.steps[-1].level_dbm + 95.0
    check = next(c for c in levels.checks if c.text.startswith("far end’s sensitivity"))
    assert check.figure.value == pytest.approx(spare + 10.0)
    assert "at full power" in check.text and "in the test" in "".join(check.figure.working.lines)


def test_the_measured_path_serves_an_antenna_that_made_no_run():
    book, a = link()
    b = book.antenna("B", known_gain_dbi=5.0, polarization="vertical")
    d = np.linspace(200, 1900, 80)
    for number in (1, 2):
        book.log(book.run(a, number, pad_db=10.0), d, -40 - 30 * np.log10(d / 100.0))
    with_a, with_b = book.climb(a).levels, book.climb(b).levels
    assert "the runs with A" in with_b.ends.path.basis
    assert with_a.ends.path.loss_db == pytest.approx(with_b.ends.path.loss_db)
    assert with_a.out.steps[-1].level_dbm - with_b.out.steps[-1].level_dbm == pytest.approx(3.0)
    # −40 − 30·log₁₀ 20 at 2 km.
    assert with_a.out.steps[-1].level_dbm == pytest.approx(-79.03, abs=0.1)
    assert with_b.ends.path.u_db > with_a.ends.path.u_db


def test_of_several_that_were_run_the_one_with_most_runs_serves_for_the_path():
    book, a = link()
    b, c = book.antenna("B", polarization="vertical"), book.antenna("C", known_gain_dbi=5.0, polarization="vertical")
    d = np.linspace(200, 1900, 80)
    for number, antenna in enumerate((a, b, b, b), 1):
        book.log(book.run(antenna, number, pad_db=10.0), d, -40 - 30 * np.log10(d / 100.0))
    assert "the runs with B" in book.climb(c).levels.ends.path.basis


def test_what_stands_at_the_receiver_is_drawn_at_the_far_side_of_the_path():
    """On the way out home's pads are before the path, on the way back behind it."""
    book, a = link()
    levels = book.climb(a).levels
    out, back = ({s.key: s.part for s in stairs.steps} for stairs in (levels.out, levels.back))
    assert (out["pad 0"], out["cable"], out["antenna"]) == ("near", "near", "near")
    assert (back["pad 0"], back["cable"], back["antenna"]) == ("far", "far", "far")
    assert out["path"] == back["path"] == "path"


class TestNeighbours:
    def test_by_eirp_and_by_field_and_together(self):
        """20 W at 900 m: √(30·20)/900 = 27.2 mV/m. In 8 dBi at 869 MHz, less 1 and 10 dB."""
        book, a = link()
        book.add(Emitter(name="one", frequency_hz=869e6, eirp_w=20.0, distance_m=900.0))
        levels = book.climb(a).levels
        (seen,) = levels.exposed.seen
        by_hand = 43.01 - float(free_space_loss_db(900.0, 869e6)) + 8 - 11
        assert seen.level.value == pytest.approx(by_hand, abs=0.02)
        book.add(Emitter(name="same again", frequency_hz=869e6, field_v_per_m=0.0272))
        levels = book.climb(a).levels
        assert levels.exposed.total.value == pytest.approx(by_hand + 3.01, abs=0.05)
        assert any(c.text.startswith("neighbours") and c.mark == "open" for c in levels.checks)

    def test_a_filter_keeps_another_band_away_and_a_table_gives_the_gain_there(self):
        book, a = link()
        book.add(Emitter(id="e", name="one", frequency_hz=150e6, eirp_w=20.0, distance_m=900.0))
        far_off = book.climb(a).levels.exposed.seen[0].level
        book.add(Piece(id="f", name="f", type="filter", loss_db=1.0, low_hz=860e6, top_hz=880e6, stop_db=40.0))
        book.levels(
            power_w=0.01,
            cable_loss_db=1.0,
            pads=[Pad(name="10 dB pad", attenuation_db=10)],
            placed=[Placed(piece_id="f")],
        )
        assert far_off.value - book.climb(a).levels.exposed.seen[0].level.value == pytest.approx(41.0)
        book.series["g"] = {
            "frequency_hz": np.array([100e6, 200e6]),
            "gain_dbi": np.array([-10.0, -10.0]),
            "u_db": np.array([1.0, 1.0]),
        }
        book.add(GainTable(antenna_id=a.id, series_id="g"))
        with_table = book.climb(a).levels.exposed.seen[0].level
        assert with_table.value == pytest.approx(far_off.value - 41.0 - 18.0)
        assert with_table.u < far_off.u


def test_field_figures_go_there_and_back():
    there = field_figure("eirp", 1.0, 100.0, 869e6, 2.15, 0.5, "as given")
    again = field_figure("level", there.value, None, 869e6, 2.15, 0.5, "as given")
    assert again.value == pytest.approx(54.76e3, rel=2e-3)
    assert "1 W EIRP at 100 m" in "".join(
        field_figure("field", again.value / 1e6, 100.0, 869e6, 2.15, 0.0, "x").working.lines
    )
    assert there.u == 0.5 and again.u / again.value == pytest.approx(0.0576, rel=1e-2)
