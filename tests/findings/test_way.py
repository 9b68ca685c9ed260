"""The way to a place: what stands there, what it takes, how much higher would clear it; by a raster or as it was typed."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.findings.aims import Options
from tallmast.findings.way.heights import height_at, heights_of
from tallmast.findings.way.terrain import along
from tallmast.notebook.records import Conditions, Obstacle, Place, Terrain
from tallmast.physics.absorption import fog_water_g_m3, woods_db
from tallmast.physics.constants import wavelength
from tallmast.physics.diffraction import knife_edge_db
from tallmast.physics.propagation import fade_margin_db

from .build import HOME, Book
from .test_link import book

STEP = 0.0005
ROWS = COLUMNS = 201


def high(made: Book, home=20.0, rock=20.0) -> Book:
    """Both antennas so high that level ground takes nothing over 3 km at 869 MHz."""
    made.add(made.records["home"].revised(height_m=home))
    made.add(made.records["rock"].revised(height_m=rock))
    return made


def raster(made: Book, height, shows="ground", holes=None) -> None:
    """Heights over latitude and longitude offsets in cells from home's."""
    row, column = np.meshgrid(np.arange(ROWS) - 100.0, np.arange(COLUMNS) - 100.0, indexing="ij")
    values = np.asarray(height(row, column), dtype=float) * np.ones((ROWS, COLUMNS))
    if holes is not None:
        values[holes(row, column)] = np.nan
    made.series["ground"] = {"height_m": values.ravel()}
    made.add(
        Terrain(
            id="t",
            series_id="ground",
            south_deg=HOME.latitude_deg - 100 * STEP,
            west_deg=HOME.longitude_deg - 100 * STEP,
            step_latitude_deg=STEP,
            step_longitude_deg=STEP,
            columns=COLUMNS,
            shows=shows,
        )
    )


def texts(link):
    return [(c.mark, c.text) for c in link.checks]


class TestTyped:
    def test_the_ground_that_both_ends_stand_on_counts(self):
        """2 m over 900 m and 2 m over 10 m: 892 m and 2 m over the lower ground, √(2·8495 km)·(√892 + √2) = 129 km."""
        made = book(wanted=60_000.0)
        for name, ground in (("home", 900.0), ("rock", 10.0)):
            made.add(made.records[name].revised(height_m=2.0, ground_m=ground))
        link = made.climb().link
        assert link.way.profile.horizon_m == pytest.approx(128.9e3, rel=0.002)
        assert link.way.profile.over_db < 30.0
        for name in ("home", "rock"):
            made.add(made.records[name].revised(ground_m=900.0))
        level = made.climb().link
        assert level.way.profile.horizon_m == pytest.approx(11.7e3, rel=0.01), "a plateau is level"
        assert level.margins[0].there.value < link.margins[0].there.value - 20.0

    def test_of_one_end_alone_the_other_is_asked_for(self):
        made = book(wanted=60_000.0)
        made.add(made.records["home"].revised(height_m=2.0, ground_m=900.0))
        assert ("open", "ground at Rock is not noted: 900 m at the other end may be a hill") in texts(made.climb().link)
        made.add(made.records["rock"].revised(ground_m=900.0))
        assert not any("is not noted" in text for _, text in texts(made.climb().link))

    @given(st.floats(1.0, 400.0), st.floats(0.05, 0.95), st.floats(2_000.0, 150_000.0), st.sampled_from([145e6, 5.8e9]))
    def test_whatever_is_noted_on_the_way_never_makes_it_better(self, height, share, distance, hz):
        home, rock = HOME.revised(height_m=9.0), Place(name="Rock", distance_m=distance, height_m=9.0)
        bare, crossed = Book(), Book()
        crossed.add(Obstacle(name="the crag", from_m=share * distance, height_m=height))
        loss = [along(made.evidence, (), home, rock, distance, hz).loss_db for made in (bare, crossed)]
        assert loss[1] >= loss[0] - 1e-6

    def test_a_ridge_in_the_way_is_named_with_what_it_takes(self):
        made = high(book())
        made.add(Obstacle(name="the crag", from_m=1200.0, height_m=45.0))
        link = made.climb().link
        v = (45 - 20 + 0.13) * np.sqrt(2 * 3000 / (wavelength(869e6) * 1200 * 1800))
        edge = float(knife_edge_db(v))
        # One edge, and half of what P.526-15 (45) adds for real ground, (1 − e^(−J/6))·10 dB: nobody knows how rounded it is.
        assert link.way.profile.over_db == pytest.approx(edge + 5 * (1 - np.exp(-edge / 6)), abs=1.0)
        assert link.way.profile.over_u_db > 2.0
        (found,) = [t for m, t in texts(link) if m == "disagrees"]
        assert found.startswith("the crag in the way at 1.2")
        assert link.margins[0].basis == "over the ground"
        assert "25 m into the ray" in link.checks[-1].why

    def test_home_so_much_higher_clears_it(self):
        made = high(book())
        made.add(Obstacle(name="the crag", from_m=1200.0, height_m=30.0))
        profile = made.climb().link.way.profile
        more = profile.home_higher_m
        assert profile.moved(home_height_m=20.0 + more).tightest.share == pytest.approx(0.6, abs=0.01)
        assert profile.moved(home_height_m=20.0 + 0.9 * more).tightest.share < 0.6
        made.add(Obstacle(name="the wall of rock", from_m=2990.0, height_m=300.0))
        assert made.climb().link.way.profile.home_higher_m is None

    def test_a_low_ridge_is_clear_and_said_so(self):
        made = high(book())
        made.add(Obstacle(name="the dyke", from_m=1200.0, height_m=2.0))
        link = made.climb().link
        assert any(m == "holds" and t.startswith("clear to Rock") for m, t in texts(link))
        assert not [t for m, t in texts(link) if m == "disagrees"]
        assert link.way.profile.loss_db < 0.3

    def test_woods_take_by_their_depth_and_no_more_than_over_them(self):
        made = high(book(), home=3.0, rock=3.0)
        before = made.climb().link.way.profile.over_db
        made.add(Obstacle(what="woods", name="the spinney", from_m=600.0, to_m=700.0, height_m=15.0))
        link = made.climb().link
        (woods,) = [loss for loss in link.way.profile.losses if "trees" in loss.what]
        assert link.way.profile.over_db == pytest.approx(before)
        assert 0 < woods.loss_db <= float(woods_db(108.0, 869e6)) + 0.01
        assert link.way.profile.depth_m == pytest.approx(100.0, abs=10.0)
        assert any(t.endswith("dB") and "trees on the way" in t for _, t in texts(link))

    def test_a_wall_takes_what_was_noted(self):
        made = high(book())
        made.add(Obstacle(what="wall", name="shed wall", from_m=20.0, loss_db=7.0))
        assert made.climb().link.way.profile.loss_db == pytest.approx(7.0, abs=0.2)

    def test_toward_another_place_it_is_not_in_the_way(self):
        made = high(book())
        made.place("Elsewhere", 2500.0, 200.0)
        made.add(Obstacle(name="the crag", toward_id="elsewhere", from_m=1200.0, height_m=45.0))
        assert made.climb().link.way.profile.obstacles == ()

    def test_toward_another_place_it_counts_for_that_place(self):
        """The hut is nearer than the rock, but lies behind a crag of its own."""
        made = high(book(sensitivity_dbm=-90.0))
        made.place("Hut", 2500.0, 200.0, height_m=20.0)
        assert made.climb().link.how_far.rows[0].reached == ("Hut", "Rock")
        made.add(Obstacle(name="the crag", toward_id="hut", from_m=1200.0, height_m=200.0))
        link = made.climb().link
        assert link.how_far.rows[0].reached == ("Rock",) and link.how_far.rows[0].missed == ("Hut",)
        assert link.way.profile.obstacles == ()

    def test_of_a_shorter_way_only_what_stands_on_it_counts(self):
        made = high(book())
        made.add(Obstacle(what="wall", name="far wall", from_m=2500.0, loss_db=9.0))
        profile = made.climb().link.way.profile
        assert profile.ended(2000.0).loss_db == pytest.approx(profile.loss_db - 9.0, abs=0.3)
        assert profile.ended(profile.whole_m) is profile

    def test_beyond_the_place_it_is_not_in_the_way(self):
        made = high(book())
        made.add(Obstacle(name="the crag", from_m=3200.0, height_m=45.0))
        assert made.climb().link.way.profile.obstacles == ()

    def test_fog_is_reckoned_and_is_next_to_nothing(self):
        made = high(book())
        made.add(Conditions(visibility_m=50.0))
        assert fog_water_g_m3(50.0) == pytest.approx(0.5)
        (fog,) = [t for _, t in texts(made.climb().link) if t.startswith("fog")]
        assert fog == "fog takes 0.00 dB"

    @pytest.mark.parametrize(("share", "fade"), [(0.5, 0.0), (0.9, 8.18), (0.99, 18.39)])
    def test_a_share_of_time_takes_what_rayleigh_fading_does(self, share, fade):
        """−10·log₁₀(−ln 0.9 / 0.6931) = 8.18 dB, 18.4 dB for 99 % (Parsons, table of §5.4)."""
        assert fade_margin_db(share) == pytest.approx(fade, abs=0.01)
        made = high(book())
        made.add(Conditions(steady=share))
        link = made.climb().link
        (check,) = [c for c in link.checks if "of the time:" in c.text]
        assert check.figure.value == pytest.approx(link.margins[0].figure.value - fade, abs=0.01)
        assert check.mark == "holds" if share < 0.95 else check.mark in ("holds", "open")

    def test_a_k_below_one_bends_the_earth_into_the_way(self):
        made = high(book(8000.0))
        usual = made.climb().link.way.profile.tightest.clearance_m
        made.add(Conditions(k=0.6))
        before = made.climb().link.way.profile.horizon_m
        assert made.climb().link.way.profile.tightest.clearance_m < usual - 1.0
        assert before == pytest.approx(np.sqrt(2 * 0.6 * 6_371_000) * (np.sqrt(20) + np.sqrt(20)), rel=1e-6)
        assert made.climb().link.margins[0].reach.value * 1e3 <= before


class TestByRaster:
    def test_between_cells_straight(self):
        made = high(book())
        raster(made, lambda row, column: 50 + 2.0 * row - column)
        heights = heights_of(made.evidence)
        at = height_at(heights, HOME.latitude_deg + 10.5 * STEP, HOME.longitude_deg + 3.25 * STEP)
        assert float(at) == pytest.approx(50 + 21 - 3.25)
        assert np.isnan(height_at(heights, HOME.latitude_deg + 1.0, HOME.longitude_deg))

    def test_a_ridge_across_the_way(self):
        made = high(book())
        raster(made, lambda row, column: np.where(np.abs(row - 22) < 3, 60.0, 5.0))
        link = made.climb().link
        profile = link.way.profile
        assert profile.by_raster and profile.one_m == pytest.approx(25.0)
        # 22 cells of 55.7 m north at a bearing of 37°: 1.53 km along.
        assert profile.tightest.distance_m == pytest.approx(22 * STEP * 111_370 / np.cos(np.radians(37.0)), abs=250)
        assert any(m == "disagrees" and t.startswith("the ground in the way") for m, t in texts(link))

    def test_level_land_is_quiet(self):
        made = high(book())
        raster(made, lambda row, column: 5.0)
        assert not [t for m, t in texts(made.climb().link) if m == "disagrees"]

    def test_a_hole_is_bridged_and_told(self):
        made = high(book())
        raster(made, lambda row, column: 5.0, holes=lambda row, column: (row > 15) & (row < 25))
        profile = made.climb().link.way.profile
        assert np.isfinite(profile.ground_m).all() and profile.void_share > 0.1
        assert any("of the way has no height" in t for _, t in texts(made.climb().link))

    def test_off_the_raster_is_told_as_unknown_ground(self):
        made = high(book(3000.0))
        made.add(made.records["rock"].revised(latitude_deg=58.9))
        raster(made, lambda row, column: 5.0)
        assert not made.climb().link.way.profile.by_raster

    def test_a_typed_ridge_stands_on_the_raster(self):
        made = high(book())
        raster(made, lambda row, column: 30.0)
        made.add(Obstacle(name="the crag", from_m=1200.0, height_m=45.0))
        assert made.climb().link.way.profile.top_m.max() == pytest.approx(75.0, abs=1.0)

    def test_a_surface_has_its_woods_and_houses_in_it_already(self):
        """Typed woods lie under the tree-tops that it shows, a typed house adds nothing; on the bare ground both stand on it."""

        def way(shows):
            made = high(book(), home=3.0, rock=3.0)
            raster(made, lambda row, column: np.where((row > 8) & (row < 12), 17.0, 5.0), shows=shows)
            made.add(Obstacle(what="woods", name="wood", from_m=620.0, to_m=820.0, height_m=12.0))
            made.add(Obstacle(what="building", name="house", from_m=2000.0, height_m=30.0))
            return made.climb().link.way.profile

        surface, bare = way("surface"), way("ground")
        assert surface.top_m.max() < 18.0 and bare.top_m.max() == pytest.approx(35.0, abs=1.0)
        inside = np.isfinite(surface.woods_m) & (surface.distance_m > 680) & (surface.distance_m < 760)
        np.testing.assert_allclose(surface.woods_m[inside] - surface.top_m[inside], 12.0, atol=1e-6)
        assert surface.depth_m > 50.0

    def test_a_broken_raster_is_left_out(self):
        made = high(book())
        raster(made, lambda row, column: 5.0)
        made.add(made.records["t"].revised(columns=7000))
        assert made.climb().link.way.profile.known is False


def test_a_place_known_by_distance_alone_has_level_ground():
    made = book()
    home = made.records["home"]
    place = Place(id="far", name="Far", distance_m=4000.0, height_m=3.0)
    profile = along(made.evidence, (), home, place, 4000.0, 869e6)
    assert profile.whole_m == 4000.0 and not profile.known and np.ptp(profile.ground_m) == 0.0


@pytest.mark.parametrize("wanted", [False, True])
@pytest.mark.parametrize("ground", [False, True])
def test_a_place_at_homes_own_position_takes_nothing_down_and_is_named(wanted, ground):
    made = high(book())
    if ground:
        raster(made, lambda row, column: 0.0 * row)
    before = made.climb()
    made.add(Place(id="here", name="Here", latitude_deg=HOME.latitude_deg, longitude_deg=HOME.longitude_deg))
    if wanted:
        made.add(made.records["question"].revised(wanted_place_id="here"))
    climb = made.climb()
    assert ("disagrees", "Here has home’s own position, so no distance") in texts(climb.link)
    if wanted:
        assert climb.link.sentence == "The budget can't be drawn up yet." and "a place to reach" in climb.link.detail
    else:
        assert (climb.link.sentence, climb.verdict.sentence) == (before.link.sentence, before.verdict.sentence)
        assert made.climb(options=Options(powers_w=(0.1,))).link.how_far.rows[0].reached == ("Rock",)
