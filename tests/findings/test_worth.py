"""What a decibel costs: by the runs where both were run, else by gains; the path's doubt is not in it."""

import numpy as np
import pytest

from tallmast.notebook.records import Piece

from .test_field import D
from .test_link import book


def priced(first=18.0, second=54.0, run_second=True, by=4.0):
    made = book()
    a = made.records["a"].revised(price=first, mass_kg=0.4)
    made.add(a)
    b = made.antenna(
        "B", known_gain_dbi=2.15 + by, known_gain_u_db=0.5, polarization="vertical", price=second, mass_kg=0.6
    )
    random = np.random.default_rng(2)
    for number, one in enumerate((a, b, b, a) if run_second else (a, a), 1):
        level = -60 + (by if one is b else 0.0) - 25 * np.log10(D / 100) + random.normal(0, 1.0, len(D))
        made.log(made.run(one, number, power_w=0.01), D, level)
    return made


def options(made):
    link = made.climb(made.records["a"]).link
    return {one.what: one for one in link.worth}, link


def test_another_antenna_adds_what_the_runs_told():
    found, link = options(priced())
    adds = found["B instead"].adds
    assert adds.value == pytest.approx(4.0, abs=0.8)
    margin = next(m for m in link.margins if m.antenna.name == "B")
    assert adds.half < margin.figure.half, "the path is the same for both"
    assert found["B instead"].price_a_db == pytest.approx(54.0 / adds.value)
    assert "B costs 36 more than A and adds 4" in link.detail


def test_without_runs_by_their_gains():
    found, _ = options(priced(run_second=False))
    adds = found["B instead"].adds
    assert adds.value == pytest.approx(4.0, abs=0.05)
    assert "gains" in adds.working.lines[0]


def test_the_dear_one_that_adds_nothing_is_told_so():
    _, link = options(priced(by=0.0))
    assert "B costs 36 more than A and can’t be told from it within" in link.detail


def test_the_cheap_one_in_focus_and_the_dear_one_the_other_way_round():
    _, link = options(priced(first=54.0, second=18.0, by=-4.0))
    assert "A costs 36 more than B and adds 4" in link.detail


@pytest.mark.parametrize(("first", "second"), [(None, 54.0), (18.0, None), (20.0, 20.0)])
def test_without_two_prices_nothing_is_said_of_money(first, second):
    _, link = options(priced(first, second))
    assert "costs" not in link.detail


def test_cable_height_and_power_are_options_too():
    made = priced()
    made.add(made.records["home end"].revised(cable_loss_db=2.5))
    found, link = options(made)
    assert found["the radio at the antenna, no cable"].adds.value == pytest.approx(2.5)
    assert found["twice the power"].adds.value == pytest.approx(3.01, abs=0.01)
    assert "licence" in found["twice the power"].only
    higher = next(one for what, one in found.items() if "higher" in what and one.end == "home")
    assert higher.adds.value == pytest.approx(
        link.way.profile.over_db - link.way.profile.moved(home_height_m=10.0).over_db, abs=1e-9
    )
    assert "power lines" in higher.only


def test_over_a_clear_way_no_mast_is_advised():
    made = priced()
    for name in ("home", "rock"):
        made.add(made.records[name].revised(height_m=80.0))
    assert not [what for what in options(made)[0] if "higher" in what]


def test_the_one_that_adds_most_is_first():
    _, link = options(priced())
    values = [one.adds.value for one in link.worth]
    assert values == sorted(values, reverse=True)


def test_a_cable_of_the_drawer_that_takes_less():
    made = priced()
    made.add(made.records["home end"].revised(cable_loss_db=4.0))
    made.add(Piece(name="thick coax", type="cable", loss_db=1.5, loss_u_db=0.2))
    made.add(Piece(name="thin coax", type="cable", loss_db=6.0))
    found, _ = options(made)
    assert found["thick coax for the home cable"].adds.value == pytest.approx(2.5)
    assert not [what for what in found if "thin coax" in what]
