"""How far with every combination, ended by the horizon; what doubling takes; what is equal in another band."""

import numpy as np
import pytest

from tallmast.findings.aims import Options
from tallmast.findings.link.how_far import doubling_words, equal_bands_words
from tallmast.findings.tables.link import how_far as how_far_table
from tallmast.findings.tables.link import margins as margins_table
from tallmast.notebook.records import Obstacle
from tallmast.physics.propagation import free_space_loss_db, radio_horizon_m

from .test_beyond import HZ, ran
from .test_link import book


def far(made, **tried):
    return made.climb(made.records["a"], options=Options(**tried)).link.how_far


def high(made, home=100.0, rock=100.0):
    for name, height in (("home", home), ("rock", rock)):
        made.add(made.records[name].revised(height_m=height))
    return made


def test_in_free_space_four_times_the_power_is_twice_the_range():
    """And 3.0 dB 0.71 of it; 25 mW through 6.02 dB as far as 6.25 mW."""
    rows = far(high(book(sensitivity_dbm=-85.0)), powers_w=(0.1, 0.4), pads_db=(0.0, 3.0103)).rows
    km = {(r.option.power_w, r.option.pad_db): r.reach.value for r in rows}
    assert km[0.4, 0.0] == pytest.approx(2 * km[0.1, 0.0], rel=0.01)
    assert km[0.1, 3.0103] == pytest.approx(km[0.1, 0.0] / np.sqrt(2), rel=0.01)


def test_the_table_has_the_margin_that_the_sentence_tells():
    link = high(book()).climb().link
    there, (row, *_) = link.margins[0].there, link.how_far.rows
    assert (row.margin.value, row.margin.half) == pytest.approx((there.value, there.half))
    assert there.half > 1.3 * link.margins[0].figure.half


def test_the_range_by_hand():
    # 20 dBm + 2.15 + 85 dBm = 107.15 dB of free space: 10^((107.15 − 32.45 − 20·log 869)/20) = 6.26 km.
    (row,) = far(high(book(sensitivity_dbm=-85.0)), powers_w=(0.1,)).rows
    assert row.reach.value == pytest.approx(6.26, rel=0.02)
    assert row.by_slope_m[2.0] == pytest.approx(6260.0, rel=0.02)


def test_it_ends_at_the_horizon_and_higher_sees_farther():
    rows = far(high(book(sensitivity_dbm=-140.0), 6.0, 2.0), heights_m=(6.0, 30.0)).rows
    for row in rows:
        horizon = radio_horizon_m(row.option.height_m, 2.0) / 1e3
        assert row.reach.value <= horizon + 1e-9
        assert all(d <= horizon * 1e3 + 1e-6 for d in row.by_slope_m.values())
    assert rows[1].reach.value > rows[0].reach.value and rows[1].margin.value > rows[0].margin.value + 6.0


def test_what_the_horizon_ends_is_said_to_end_there_and_is_one_ring():
    made = high(book(sensitivity_dbm=-140.0), 6.0, 2.0)
    found = far(made, powers_w=(0.1, 0.2, 1e-9))
    strong, stronger, weak = found.rows
    assert strong.horizon_ends_it and stronger.horizon_ends_it and not weak.horizon_ends_it
    assert stronger.left_there_db - strong.left_there_db == pytest.approx(3.01, abs=0.01)
    assert strong.range_text != stronger.range_text, "what more of it buys is seen where the range does not show it"
    assert strong.slope_text(2.0) == "the horizon" != weak.slope_text(2.0)
    horizon = radio_horizon_m(6.0, 2.0)
    assert [m for _, m in found.rings] == [pytest.approx(weak.reach.value * 1e3), pytest.approx(horizon)]
    link = made.climb(made.records["a"]).link
    assert link.margins[0].ends.at_horizon and margins_table(link, "Rock").rows[0].cells[4].text.endswith("the horizon")
    table = how_far_table(made.climb(made.records["a"], options=Options(powers_w=(0.1, 1e-9))).link, "Rock")
    assert ["horizon" in row.cells[2].text for row in table.rows] == [True, False]


def test_places_within_reach_are_named():
    made = high(book(sensitivity_dbm=-85.0))
    made.place("Near", 900.0)
    made.place("Yonder", 40_000.0)
    full, quiet = far(made, powers_w=(0.1, 1e-4)).rows
    assert full.reached == ("Near", "Rock") and full.missed == ("Yonder",)
    assert quiet.reached in ((), ("Near",))
    assert set(quiet.missed) >= {"Rock", "Yonder"}


def test_as_it_stands_full_power_and_the_test_are_told():
    made = ran(lambda d: free_space_loss_db(d, HZ))
    rows = far(made).rows
    assert [r.option.power_w for r in rows] == [0.1, 0.01]
    margin = made.climb(made.records["a"]).link.margins[0]
    assert rows[0].margin.value == pytest.approx(margin.figure.value)
    assert rows[0].reach.value == pytest.approx(margin.reach.value, rel=0.02), "two places, one range"
    assert rows[0].margin.value - rows[1].margin.value == pytest.approx(10.0)


def test_gain_counts_as_power_does():
    made = ran(lambda d: free_space_loss_db(d, HZ))
    plain, more = far(made, more_db=(0.0, 3.0)).rows
    assert more.margin.value - plain.margin.value == pytest.approx(3.0)


def test_what_doubling_takes():
    found = far(high(book(sensitivity_dbm=-85.0)))
    assert found.doubling.value == pytest.approx(6.02, abs=0.2)
    assert "4 times the power" in doubling_words(found) and "0.71 of the range" in doubling_words(found)
    ended = far(high(book(sensitivity_dbm=-140.0), 6.0, 2.0))
    assert ended.doubling is None and "raise an antenna" in doubling_words(ended)


def test_a_ridge_is_in_the_range_too():
    made = high(book(sensitivity_dbm=-100.0), 10.0, 10.0)
    before = far(made).rows[0].reach.value
    made.add(Obstacle(name="the crag", from_m=1500.0, height_m=80.0))
    assert far(made).rows[0].reach.value < before


def test_the_same_in_another_band():
    """20·log₁₀(435/870) = −6.02 dB: a quarter of the power."""
    (words,) = equal_bands_words(870e6, [435e6], 0.1)
    assert words.startswith("100 mW at 870 MHz does what 25 mW does at 435 MHz")


def test_another_band_by_the_open_path():
    """20·log₁₀(433/869) = −6.05 dB of loss: 6 dB more, twice as far in free space."""
    made = high(book())
    rows = made.climb(options=Options(powers_w=(0.001,), bands_hz=(433e6,))).link.how_far.rows
    here, lower = rows
    assert here.option.band_hz is None and lower.option.words == "1 mW, 433 MHz"
    assert lower.margin.value - here.margin.value == pytest.approx(6.05, abs=0.01)
    assert lower.by_slope_m[2.0] / here.by_slope_m[2.0] == pytest.approx(869 / 433, rel=0.01)


def test_a_short_way_is_told_in_metres():
    """−40 dBm of sensitivity: 20 + 2.15 + 40 − 31.2 = 30.9 dB under that at 1 m: some 35 m, and with a millionth of it at most 10 m."""
    rows = far(high(book(sensitivity_dbm=-40.0)), powers_w=(0.1, 1e-7)).rows
    assert " m (" in rows[0].reach.text and "0.0" not in rows[0].reach.text
    assert rows[1].reach.text == "at most 10 m"
