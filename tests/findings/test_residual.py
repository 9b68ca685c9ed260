"""The field against the physics: level and slope both judged, and what a misfit points to, each cause with a twin that lacks it."""

import numpy as np
import pytest

from tallmast.findings.link.causes import step_of
from tallmast.notebook.entry import new_series
from tallmast.notebook.records import Branch, Cut, Piece, Radio
from tallmast.physics.propagation import free_space_loss_db, plane_earth_loss_db

from .test_field import D
from .test_link import book

HZ = 869e6
FREE = 10.0 + 2.15 - free_space_loss_db(D, HZ)
"""What A's runs at 10 mW read in free space."""


def ran(made, level, name="a", first=1, seed=1, scatter=0.8):
    """Two runs over the places, each place its own way."""
    random = np.random.default_rng(seed)
    own = random.normal(0.0, scatter, len(D))
    for number in (first, first + 1):
        made.log(made.run(made.records[name], number, power_w=0.01), D, level + own + random.normal(0, 0.2, len(D)))
    return made


def high(made):
    for place in ("home", "rock"):
        made.add(made.records[place].revised(height_m=60.0))
    return made


def beam(made):
    """Of A, 12·(φ/60)² dB down, 20 at most."""
    angle = np.arange(0.0, 360.0, 10.0)
    off = (angle + 180.0) % 360.0 - 180.0
    key, series = new_series({"angle_deg": angle, "level_db": -np.minimum(12.0 * (off / 60.0) ** 2, 20.0)})
    made.series.update(series)
    made.add(Cut(id="cut", antenna_id="a", state_id=made.records["a"].state.id, series_id=key))


def link_of(made, name="a"):
    return made.climb(made.records[name]).link


def keys(link, but="fails"):
    return [cause.key for cause in link.causes if cause.mark != but]


class TestLevelAndSlope:
    def test_what_fits_points_to_nothing(self):
        link = link_of(ran(high(book()), FREE))
        assert link.residual.best.key == "free" and link.residual.best.fits and link.causes == ()
        assert "fits free space within" in link.detail and link.standing.mark == "done"

    def test_plane_earth_is_told_as_that_and_not_as_a_fault(self):
        level = 10.0 + 2.15 - plane_earth_loss_db(D, 6.0, 2.0, HZ)
        link = link_of(ran(book(), level))
        assert link.residual.best.key in ("plane", "ground") and link.residual.best.fits and link.causes == ()
        assert not link.residual.free.falls_alike

    def test_lines_that_cross_do_not_fit(self):
        """n = 3.5 through the middle of free space: the levels meet, the slopes are 1.5 apart."""
        x = -10.0 * np.log10(D)
        link = link_of(ran(high(book()), FREE + 1.5 * (x - x.mean())))
        best = link.residual.best
        assert best.at_level and not best.falls_alike and not best.fits
        assert best.slope.value == pytest.approx(1.5, abs=0.25)
        assert "Lines that cross do not fit." in link.detail and link.standing.mark == "disagreement"
        assert keys(link) == ["ground"]

    def test_the_ground_as_noted_is_held_against_it_too(self):
        """A ridge between, 60 m over both: the field behind it fits what lies on the way, and not free space."""
        from tallmast.notebook.records import Obstacle

        made = book()
        made.add(Obstacle(name="the crag", from_m=60.0, height_m=25.0))
        taken = np.array([made.climb().link.way.profile.ended(float(d)).loss_db for d in D])
        link = link_of(ran(made, FREE - taken))
        assert link.residual.of("ground").at_level
        assert link.residual.free.level.value < -8.0 and not link.residual.free.fits

    def test_what_stands_on_another_way_than_the_runs_is_not_held_against_them(self):
        """The crag is on the way to the rock; the runs went off to the side of it."""
        from tallmast.notebook.records import Obstacle

        made = book()
        made.add(Obstacle(name="the crag", from_m=60.0, height_m=25.0))
        random = np.random.default_rng(1)
        for number in (1, 2):
            level = FREE + random.normal(0, 0.8, len(D))
            made.log(made.run(made.records["a"], number, power_w=0.01), D, level, bearing_deg=140.0)
        residual = link_of(made).residual
        ground = residual.of("ground")
        assert ground is None or ground.level.value == pytest.approx(residual.free.level.value, abs=6.0)
        assert residual.free.at_level


class TestWhatItPointsTo:
    def test_a_pad_that_nobody_noted(self):
        made = high(book())
        made.antenna("B", known_gain_dbi=2.15, polarization="vertical")
        made.add(Piece(name="ten", type="pad", loss_db=10.0))
        ran(made, FREE - 10.0)
        ran(made, FREE - 10.0, "b", 3, seed=2)
        link = link_of(made)
        assert link.causes[0].key == "pad" and link.causes[0].mark == "holds" and "10 dB" in link.causes[0].words
        assert "A pad of 10 dB that stood in the way" in link.detail
        assert {"cable", "far"} <= set(keys(link)) and "gain" not in keys(link)

    def test_no_pad_of_that_size_no_such_cause(self):
        made = high(book())
        made.add(Piece(name="three", type="pad", loss_db=3.0))
        assert "pad" not in keys(link_of(ran(made, FREE - 10.0)))

    def test_stronger_than_free_space_a_pad_is_noted_and_was_not_there(self):
        made = high(book())
        made.add(Piece(name="ten", type="pad", loss_db=10.0))
        (pad,) = [c for c in link_of(ran(made, FREE + 10.0)).causes if c.key == "pad"]
        assert "was not there" in pad.words
        assert "cable" not in keys(link_of(made))

    def test_only_one_antenna_is_off(self):
        made = high(book())
        made.antenna("B", known_gain_dbi=2.15, polarization="unknown")
        ran(made, FREE)
        ran(made, FREE - 14.0, "b", 3, seed=2)
        link = link_of(made, "b")
        assert "polarization" in keys(link)
        assert not {"cable", "far", "pad"} & set(keys(link))
        assert link_of(made).causes == ()

    def test_a_circle_against_a_line_takes_three_and_no_more(self):
        made = high(book())
        made.antenna("B", known_gain_dbi=2.15, polarization="right circular", axial_ratio_db=1.0)
        made.add(made.records["far end"].revised(polarization="unknown"))
        ran(made, FREE - 14.0, "b", 1)
        (cause,) = [c for c in link_of(made, "b").causes if c.key == "polarization"]
        assert cause.mark == "fails"

    def test_where_it_looked_is_not_noted(self):
        made = high(book())
        beam(made)
        ran(made, FREE - 9.0)
        (cause,) = [c for c in link_of(made).causes if c.key == "pointing"]
        # 12·(φ/60)² = 9 at 52°.
        assert int(cause.words.split("looked: ")[1].split("°")[0]) == pytest.approx(52, abs=4)
        bearing = made.climb().field.wanted_bearing_deg()
        made.add(made.records["home end"].revised(branches=[Branch(antenna_id="a", azimuth_deg=bearing)]))
        assert "pointing" not in keys(link_of(made))

    def test_noted_to_look_aside_it_is_in_the_budget(self):
        made = high(book())
        beam(made)
        ran(made, FREE - 9.0)
        bearing = made.climb().field.wanted_bearing_deg()
        made.add(
            made.records["home end"].revised(branches=[Branch(antenna_id="a", azimuth_deg=(bearing + 52.0) % 360)])
        )
        link = link_of(made)
        assert link.residual.best.at_level
        assert any("pointing" in line for line in link.drawn.budget.working.lines)

    def test_something_stands_there(self):
        made = ran(high(book()), np.where(D > 700.0, FREE - 14.0, FREE))
        cause = link_of(made).causes[0]
        assert cause.key == "stands" and cause.mark == "holds"
        where = float(cause.words.split("from ")[1].split(" m")[0])
        assert where == pytest.approx(700.0, rel=0.15)
        x = -10.0 * np.log10(D)
        assert "stands" not in keys(link_of(ran(high(book()), FREE + 1.5 * (x - x.mean()))))

    def test_the_near_places_are_pressed_down(self):
        made = high(book())
        made.add(Radio(id="r", name="receiver", overload_dbm=float(FREE.max()) - 12.0))
        pressed = np.minimum(FREE, FREE.max() - 12.0)
        assert "overload" in keys(link_of(ran(made, pressed, scatter=0.3)))
        quiet = high(book())
        quiet.add(Radio(id="r", name="receiver", overload_dbm=0.0))
        assert "overload" not in keys(link_of(ran(quiet, pressed, scatter=0.3)))


def test_a_step_is_no_slope_and_a_slope_no_step():
    class Fit:
        place_m = np.geomspace(100.0, 2000.0, 20)
        place_db = np.where(place_m > 600.0, -10.0, 0.0) - 20.0 * np.log10(place_m)

    where, drop = step_of(Fit, -20.0 * np.log10(Fit.place_m))
    assert where == pytest.approx(600.0, rel=0.1) and drop == pytest.approx(10.0)
    Fit.place_db = -35.0 * np.log10(Fit.place_m)
    assert step_of(Fit, -20.0 * np.log10(Fit.place_m)) is None
