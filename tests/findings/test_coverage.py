"""The margin over the ground: at the places it is what is told of them, behind a ridge it is less, past a beam too; and it goes out as open
files that others read back."""

import json
from xml.etree import ElementTree as ET

import numpy as np
import pytest

from tallmast.findings.link.cells import Coverage, contours
from tallmast.findings.link.coverage import OTHER_WAY_U_DB
from tallmast.notebook.entry import new_series
from tallmast.notebook.records import Branch, Cut, Neighbour, Obstacle, Terrain
from tallmast.physics.geodesy import around, local_metres
from tallmast.report import maps
from tallmast.report.write import ReportError

from .test_link import book

CELLS = 200


def with_ground(made, height):
    """Heights 4 km about home by (east, north) m."""
    n, reach = 241, 6000.0
    home = made.records["home"]
    middle = np.linspace(-reach, reach, n)
    east, north = np.meshgrid(middle, middle)
    latitude, longitude = around(*home.position, middle, middle)
    key, series = new_series({"height_m": np.asarray(height(east, north), dtype=float).ravel()})
    made.series.update(series)
    south, west = float(latitude[0]), float(longitude[0])
    _, west = (float(v) for v in around(*home.position, -reach, 0.0))
    _, east_deg = (float(v) for v in around(*home.position, reach, 0.0))
    north_deg, _ = (float(v) for v in around(*home.position, 0.0, reach))
    south, _ = (float(v) for v in around(*home.position, 0.0, -reach))
    made.add(
        Terrain(
            id="terrain",
            series_id=key,
            south_deg=south,
            west_deg=west,
            step_latitude_deg=(north_deg - south) / (n - 1),
            step_longitude_deg=(east_deg - west) / (n - 1),
            columns=n,
        )
    )
    return made


def grown(made, antenna="a", reach_m=None):
    climb = made.climb(made.records[antenna])
    cover = climb.link.cover
    *_, last = cover.grow(reach_m, cells=CELLS)
    return climb, cover, last


def level(east, north):
    return np.zeros(np.broadcast_shapes(east.shape, north.shape))


def test_at_the_place_it_is_the_margin_told():
    climb, cover, coverage = grown(with_ground(book(), level))
    margin = climb.link.headline
    (place,) = [p for p in cover.places if p[0] == climb.field.wanted.name]
    assert place[3].value == margin.value
    value, half = coverage.at(place[1], place[2])
    assert value == pytest.approx(margin.value, abs=0.5) and half == pytest.approx(place[3].half, rel=0.05)
    # The one place strays from the median that a map shows.
    assert half < margin.half


def test_behind_a_ridge_there_is_less_and_beside_it_as_before():
    def ridge(east, north):
        return np.where((np.abs(north - 1500.0) < 60.0) & (np.abs(east) < 1500.0), 60.0, 0.0)

    _, _, flat = grown(with_ground(book(), level))
    _, _, hilly = grown(with_ground(book(), ridge), reach_m=flat.reach_m)
    behind, beside = (0.0, 2500.0), (2500.0, 0.0)
    assert hilly.at(*behind)[0] < flat.at(*behind)[0] - 12.0
    assert hilly.at(*behind)[1] > hilly.at(*beside)[1]
    assert hilly.at(*beside)[0] == pytest.approx(flat.at(*beside)[0], abs=0.5)


def test_every_place_is_told_by_its_cell_too():
    def ridge(east, north):
        return 30.0 * np.exp(-(((north + 1000.0) / 200.0) ** 2))

    made = with_ground(book(), ridge)
    made.place("Hut", 2000.0, 180.0)
    made.place("Ford", 1200.0, 80.0)
    _, cover, coverage = grown(made)
    for name, east, north, figure in cover.places:
        assert coverage.at(east, north)[0] == pytest.approx(figure.value, abs=2.0), name


def test_ways_that_the_runs_did_not_go_are_known_less():
    made = run_to(book(), 2500.0)
    *_, coverage = grown(with_ground(made, level))
    value, half = np.transpose([coverage.at(*there) for there in polar(2000.0, 37.0, 52.0, 127.0, 217.0)])
    assert value == pytest.approx(value[0], abs=0.5)
    assert half[0] < half[1] < half[2] == pytest.approx(half[3], rel=0.01)
    assert half[2] == pytest.approx(np.hypot(half[0], 1.645 * OTHER_WAY_U_DB), rel=0.03)
    made.place("Ford", 2000.0, 127.0)
    (ford,) = [place for place in grown(made)[1].places if place[0] == "Ford"]
    assert ford[3].half == pytest.approx(half[2], rel=0.1)


def polar(distance_m, *bearings_deg):
    return [(distance_m * np.sin(b), distance_m * np.cos(b)) for b in np.radians(bearings_deg)]


def run_to(made, far_m):
    """Two runs along the way, so far."""
    d, random = np.arange(150.0, far_m, 25.0), np.random.default_rng(4)
    for number in (1, 2):
        made.log(made.run(made.records["a"], number), d, -60 - 30 * np.log10(d / 100) + random.normal(0, 1, len(d)))
    return made


@pytest.mark.parametrize("far_m", [0.0, 1200.0], ids=["nothing run", "run"])
def test_what_somebody_typed_stands_on_its_own_way_alone(far_m):
    def made_with(*more):
        made = with_ground(book(), level)
        for record in more:
            made.add(record)
        return run_to(made, far_m) if far_m else made

    plain = made_with()
    free = grown(plain)[2]
    for typed in (
        Obstacle(from_m=1500.0, height_m=40.0),
        Obstacle(what="wall", from_m=1500.0, loss_db=12.0),
        Obstacle(what="woods", from_m=1500.0, to_m=1700.0, height_m=12.0),
    ):
        climb, cover, coverage = grown(made_with(typed), reach_m=free.reach_m)
        toward = climb.field.wanted_bearing_deg()
        before, there, past, beside = polar(1000.0, toward) + [
            one for d, b in ((3000.0, toward), (3600.0, toward), (3000.0, toward + 10.0)) for one in polar(d, b)
        ]
        (place,) = [p for p in cover.places if p[0] == climb.field.wanted.name]
        assert coverage.at(*there)[0] == pytest.approx(place[3].value, abs=0.7), typed.what
        assert coverage.at(*there)[0] < free.at(*there)[0] - 3.0
        assert coverage.at(*past)[0] < free.at(*past)[0] - 3.0
        for other in (before, beside):
            assert coverage.at(*other)[0] == pytest.approx(free.at(*other)[0], abs=0.3)
        assert place[3].value == pytest.approx(
            free.at(*there)[0] - cover.margin.falls.stands_db(climb.link.way.profile), abs=0.3
        )
        assert "typed" in cover.typed
    assert not grown(plain)[1].typed


def test_heights_known_worse_make_the_map_wider():
    made = with_ground(book(), lambda east, north: 8.0 * np.exp(-(((north + 1000.0) / 300.0) ** 2)))
    behind, halves = polar(2000.0, 180.0)[0], []
    for u_m in (1.0, 8.0):
        made.add(made.records["terrain"].revised(u_m=u_m))
        halves.append(grown(made)[2].at(*behind)[1])
    assert halves[1] > halves[0] + 2.0


def test_a_beam_past_its_target_is_less_by_its_cut():
    made = book()
    angle = np.arange(0.0, 360.0, 10.0)
    key, series = new_series(
        {"angle_deg": angle, "level_db": -np.minimum(12.0 * (((angle + 180) % 360 - 180) / 60.0) ** 2, 20.0)}
    )
    made.series.update(series)
    made.add(Cut(id="cut", antenna_id="a", state_id=made.records["a"].state.id, series_id=key))
    climb, cover, coverage = grown(made)
    bearing = np.radians(climb.field.wanted_bearing_deg())
    ahead, behind = (coverage.at(1500 * np.sin(bearing + t), 1500 * np.cos(bearing + t))[0] for t in (0.0, np.pi))
    assert ahead - behind == pytest.approx(20.0, abs=1.0)
    assert "looks to" in cover.looks
    made.add(
        made.records["home end"].revised(
            branches=[Branch(antenna_id="a", azimuth_deg=float(np.degrees(bearing) + 90) % 360)]
        )
    )
    turned = grown(made)
    aside = bearing + np.pi / 2
    assert (
        turned[2].at(1500 * np.sin(aside), 1500 * np.cos(aside))[0]
        > turned[2].at(1500 * np.sin(bearing), 1500 * np.cos(bearing))[0] + 10
    )


def test_where_no_height_is_known_nothing_is_told():
    def hole(east, north):
        return np.where((east > 500.0) & (north > 500.0), np.nan, 0.0)

    _, _, coverage = grown(with_ground(book(), hole), reach_m=2000.0)
    assert coverage.at(1500.0, 1500.0) is None and coverage.at(-1500.0, 1500.0) is not None
    assert coverage.at(9000.0, 0.0) is None
    reached, perhaps = coverage.shares
    assert 0.0 <= reached <= 1.0 and reached + perhaps <= 1.0


def test_it_grows_from_coarse_to_fine_and_each_state_stays_as_it_was():
    cover = with_ground(book(), level).climb().link.cover
    states = list(cover.grow(cells=CELLS))
    assert [s.done for s in states] == pytest.approx(np.arange(9) / 8.0)
    assert np.isfinite(states[0].margin_db).all()
    first = states[1].margin_db.copy()
    assert (states[1].margin_db == first).all() and not (states[-1].margin_db == first).all()
    assert np.abs(states[-1].margin_db - states[0].margin_db).mean() < 1.0


def test_without_a_position_there_is_no_map():
    made = book()
    made.add(made.records["home"].revised(latitude_deg=None, longitude_deg=None))
    assert made.climb().link.cover is None


def test_a_line_is_where_the_level_is():
    n, reach = 100, 1000.0
    middle = (np.arange(n) + 0.5) * 2 * reach / n - reach
    east, north = np.meshgrid(middle, -middle)
    (line,) = contours(500.0 - np.hypot(east, north), reach, 0.0)
    assert np.hypot(*line) == pytest.approx(500.0, abs=3.0)


class TestGoingOut:
    def made(self):
        made = with_ground(book(), lambda e, n: np.where(np.abs(n - 1500.0) < 100.0, 50.0, 0.0))
        made.place("Hut & mill", 2000.0, 180.0)
        return grown(made)

    def test_geotiff(self, tmp_path):
        rasterio = pytest.importorskip("rasterio")
        from rasterio.warp import transform

        climb, cover, coverage = self.made()
        path = tmp_path / "map.tif"
        maps.write(cover, coverage, climb.field, path)
        with rasterio.open(path) as back:
            latitude, longitude = around(*cover.home.position, 800.0, 2400.0)
            x, y = transform("EPSG:4326", back.crs, [float(longitude)], [float(latitude)])
            told = [float(v) for v in next(back.sample([(x[0], y[0])]))]
            assert told == pytest.approx(coverage.at(800.0, 2400.0), abs=1e-4)
            assert back.count == 2 and "Margin" in back.tags()["TITLE"]

    def test_geojson(self, tmp_path):
        climb, cover, coverage = self.made()
        path = tmp_path / "map.geojson"
        maps.write(cover, coverage, climb.field, path)
        back = json.loads(path.read_text())
        kinds = {f["properties"]["kind"] for f in back["features"]}
        assert {"place", "line"} <= kinds
        by_name = {f["properties"]["name"]: f for f in back["features"]}
        hut = next(p for p in cover.places if p[0] == "Hut & mill")
        assert by_name["Hut & mill"]["properties"]["margin_db"] == pytest.approx(hut[3].value, abs=0.06)
        lines = [f for f in back["features"] if f["properties"]["name"] == "nothing to spare"]
        line = np.array(max((f["geometry"]["coordinates"] for f in lines), key=len))
        off = np.array([-1.0, 0.0, 1.0]) * coverage.cell_m
        for e, n in zip(*local_metres(line[2:-2:9, 1], line[2:-2:9, 0], *cover.home.position), strict=True):
            about = [coverage.at(float(e) + x, float(n) + y)[0] for x in off for y in off]
            assert min(about) <= 0.0 <= max(about)

    def test_kml(self, tmp_path):
        climb, cover, coverage = self.made()
        path = tmp_path / "map.kml"
        maps.write(cover, coverage, climb.field, path)
        space = {"k": "http://www.opengis.net/kml/2.2"}
        names = [e.text for e in ET.parse(path).getroot().iterfind(".//k:Placemark/k:name", space)]
        assert "Hut & mill" in names and "nothing to spare" in names

    def test_another_ending_is_refused(self, tmp_path):
        climb, cover, coverage = self.made()
        with pytest.raises(ReportError, match=r"\.tif, \.geojson or \.kml"):
            maps.write(cover, coverage, climb.field, tmp_path / "map.png")
        assert not (tmp_path / "map.png").exists()


def test_shares_by_hand():
    margin = np.array([[5.0, -5.0], [0.5, np.nan]], dtype=np.float32)
    coverage = Coverage(10.0, margin, np.full((2, 2), 2.0, dtype=np.float32), [], 1.0)
    assert coverage.shares == pytest.approx((1 / 3, 1 / 3))


class TestOverAnother:
    """Two on one band: heard at home the other is as strong wherever the wanted one goes; out there it is as near as each cell is."""

    def made(self, **other):
        made = with_ground(book(power_w=0.1, hears_dbm=-110.0), level)
        made.place("Hill", 1500.0, 90.0)
        settings = {"place_id": "hill", "power_w": 0.1, "gain_dbi": 2.15, "needed_db": 10.0, **other}
        made.add(Neighbour(id="n", name="the other", **settings))
        climb = made.climb(made.records["a"])
        *_, margin = climb.link.cover.grow(cells=CELLS)
        return climb.link, margin, {over.shared.end: over for over in climb.link.over}

    def test_at_home_it_is_the_margin_moved(self):
        link, margin, over = self.made()
        told = over["home"].of(margin)
        shift = told.margin_db - margin.margin_db
        assert np.ptp(shift) < 1e-3
        at_place = over["home"].shared.over.value - 10.0 - link.headline.value
        assert shift.mean() == pytest.approx(at_place, abs=0.01)
        assert (told.half_db > margin.half_db).all() and "at home" in told.against

    def test_out_there_it_is_least_beside_the_other(self):
        link, margin, over = self.made()
        told = over["away"].of(margin)
        beside, beyond = told.at(1450.0, 0.0)[0], told.at(-1450.0, 0.0)[0]
        # 50 m from the other, or 2.95 km: 20·log₁₀(59) = 35 dB at least.
        assert beyond - beside > 35.0
        place = next(p for p in link.cover.places if p[0] != "Hill")
        at_place = over["away"].shared.over.value - 10.0
        assert told.at(place[1], place[2])[0] == pytest.approx(at_place, abs=1.0)

    def test_a_ridge_between_parts_them(self):
        def ridge(east, north):
            return np.where((np.abs(east - 800.0) < 60.0) & (np.abs(north) < 2500.0), 60.0, 0.0)

        made = with_ground(book(power_w=0.1, hears_dbm=-110.0), ridge)
        made.place("Hill", 1500.0, 90.0)
        made.add(Neighbour(id="n", name="the other", place_id="hill", power_w=0.1, gain_dbi=2.15))
        climb = made.climb(made.records["a"])
        *_, margin = climb.link.cover.grow(cells=CELLS)
        away = next(over for over in climb.link.over if over.shared.end == "away")
        hilly = away.of(margin).at(200.0, 0.0)[0]
        _, flat, over = self.made()
        assert hilly > over["away"].of(flat).at(200.0, 0.0)[0] + 8.0

    def test_nobody_else_nothing_to_be_over(self):
        assert with_ground(book(), level).climb().link.over == ()
