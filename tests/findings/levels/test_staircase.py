"""The staircase: sums, intervals and limits, against hand-worked chains and the closed form."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from tallmast.findings.levels.staircase import Limit, Plan, Planned, climb, with_more_power
from tallmast.physics.statistics import normal_draws, rectangle_draws


def plan(*steps: Planned, **more) -> Plan:
    return Plan("out", steps, **more)


def test_thirty_steps_add_up():
    steps = [Planned("power", "radio", 10.0)] + [Planned(f"s{i}", f"s{i}", -1.0) for i in range(29)]
    assert [round(s.level_dbm, 9) for s in climb(plan(*steps)).steps] == [10.0 - i for i in range(30)]


@given(st.lists(st.floats(0.05, 3.0), min_size=2, max_size=12))
def test_the_interval_of_normal_steps_is_that_of_the_closed_form(uncertainties):
    steps = [Planned(str(i), str(i), 0.0, u) for i, u in enumerate(uncertainties)]
    end = climb(plan(*steps)).steps[-1]
    wide = 1.6449 * math.hypot(*uncertainties)
    assert end.high_dbm == pytest.approx(wide, rel=0.05)
    assert end.low_dbm == pytest.approx(-wide, rel=0.05)


def test_one_tolerance_is_a_rectangle_and_not_a_bell():
    """90 % of a rectangle of ±0.3 lies within ±0.27; a bell of the same u would reach ±0.285 (JCGM 101 §6.4.2)."""
    end = climb(plan(Planned("power", "radio", 0.0), Planned("pad", "pad", -10.0, 0.0, 0.3))).steps[-1]
    assert (end.low_dbm, end.high_dbm) == pytest.approx((-10.27, -9.73), abs=2e-3)
    assert end.u_db == pytest.approx(0.3 / math.sqrt(3))


def test_draws_are_standard_and_not_alike():
    normal, flat = (np.stack([draws(i) for i in range(30)]) for draws in (normal_draws, rectangle_draws))
    assert np.allclose(normal.mean(axis=1), 0, atol=1e-7) and np.allclose(normal.std(axis=1), 1, atol=2e-3)
    assert np.allclose(flat.std(axis=1), 1 / math.sqrt(3), atol=1e-3)
    alike = np.corrcoef(np.concatenate((normal, flat))) - np.eye(60)
    assert np.abs(alike).max() < 0.05


def test_a_pad_bears_what_it_takes_on_average():
    steps = (Planned("power", "radio", 37.0), Planned("pad", "pad", -10.0, rating_w=0.5))
    met = climb(plan(*steps, duty=0.1)).tightest
    # 5 W into 10 dB leaves 4.51 W in the pad, a tenth of it on average: 0.45 dB under half a watt.
    assert met.spare_db == pytest.approx(10 * math.log10(0.5 / (5.0119 * 0.9 * 0.1)), abs=1e-3)
    assert climb(plan(*steps)).tightest.mark == "fails"


def test_limits_are_met_where_they_stand_and_tightest_comes_first():
    steps = (
        Planned("power", "radio", 10.0, 0.3),
        Planned("path", "5 km", -110.0, 2.0, part="path"),
        Planned(
            "preamp",
            "preamp",
            15.0,
            part="far",
            limits=(Limit("overload", -95.0, "under", "before"), Limit("sensitivity", -88.0, "over")),
        ),
    )
    first, second = climb(plan(*steps)).met
    assert (first.limit.name, round(first.spare_db, 6), first.step) == ("sensitivity", 3.0, 2)
    assert (second.limit.name, round(second.spare_db, 6), second.step) == ("overload", 5.0, 1)
    assert first.mark == "disagrees" and second.mark == "holds"  # ±3.3 dB about 3 and 5
    assert with_more_power(first, 6.0).spare_db == pytest.approx(9.0)
    assert with_more_power(second, 6.0).spare_db == pytest.approx(-1.0)


def test_the_limits_own_doubt_widens_what_is_left():
    steps = (Planned("power", "radio", 0.0, 0.0, limits=(Limit("sensitivity", -5.0, "over", u_db=1.0),)),)
    met = climb(plan(*steps)).tightest
    assert (met.low_db, met.high_db) == pytest.approx((5 - 1.645, 5 + 1.645))


def test_a_step_is_tried_on_its_grain_and_within_its_ends():
    pad = Planned("pad", "pad", -10.0, least_db=-60.0, most_db=0.0, grain_db=1.0)
    assert [pad.held(v) for v in (-12.4, -12.6, 3.0, -99.0)] == [-12.0, -13.0, 0.0, -60.0]
    stairs = climb(plan(Planned("power", "radio", 10.0), pad, changed={"pad": -16.0}))
    assert stairs.steps[-1].level_dbm == -6.0 and stairs.steps[-1].tried
    assert not Planned("x", "fixed", -10.0).movable


@given(st.floats(-60, 0), st.floats(-60, 0))
def test_more_attenuation_never_arrives_stronger(a, b):
    base = plan(Planned("power", "radio", 10.0), Planned("pad", "pad", a), Planned("path", "path", -90.0, 2.0))
    levels = [climb(replace(base, changed={"pad": v})).steps[-1].level_dbm for v in sorted((a, b))]
    assert levels[0] <= levels[1]
