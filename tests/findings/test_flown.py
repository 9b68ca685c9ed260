"""Patterns from flights and from walks round an antenna: the path taken out, what does not count, and nothing beyond the data."""

import numpy as np
import pytest

from tallmast.findings.pattern.track import far_field_m
from tallmast.notebook.records import Antenna, Branch, HomeEnd, Log, RecordedColumn, Recording, Sector
from tallmast.physics.geodesy import destination
from tallmast.physics.two_rays import both_rays_db

from .build import HOME, Book

FREQUENCY_HZ = 869e6


def beam(azimuth_deg, elevation_deg=0.0, width=60.0, back=-18.0):
    off = (np.asarray(azimuth_deg) + 180) % 360 - 180
    up = (np.asarray(elevation_deg)) / 60.0
    return np.maximum(-12 * (off / width) ** 2, back) - 12 * up**2


def positions(bearing, radius):
    return np.array(
        [
            destination(HOME.latitude_deg, HOME.longitude_deg, float(b) % 360, float(r))
            for b, r in zip(bearing, radius, strict=True)
        ]
    )


class Flight:
    """A flight round the antenna at Quay, 6 m up: levels of a pattern over distance, with some noise."""

    def __init__(self, turns=2, radius=60.0, up=6.0, n=240, noise=0.3, level=beam, seed=1, spread=0.15) -> None:
        random = np.random.default_rng(seed)
        self.bearing = np.linspace(0, 360 * turns, n, endpoint=False)
        self.radius = radius * (1 + spread * np.sin(np.linspace(0, 20, n)))
        self.height = np.broadcast_to(np.asarray(up, dtype=float), (n,)).copy()
        self.points = positions(self.bearing, self.radius)
        slant = np.hypot(self.radius, self.height - 6.0)
        above = np.degrees(np.arctan2(self.height - 6.0, self.radius))
        self.level = -30 - 20 * np.log10(slant) + level(self.bearing, above) + random.normal(0, noise, n)
        self.time = np.arange(n, dtype=float)

    def into(self, book: Book, run, **settings) -> Log:
        key = f"s{len(book.series)}"
        book.series[key] = {
            "latitude_deg": self.points[:, 0],
            "longitude_deg": self.points[:, 1],
            "level_dbm": self.level,
            "height_m": self.height,
            "time_s": self.time,
        }
        return book.add(Log(run_id=run.id, series_id=key, **{"heights": "ground", **settings}))


def flown(flight: Flight, manner="flight", branches=(), **settings):
    book = Book()
    book.home()
    a = book.antenna("Panel", length_m=0.2)
    flight.into(book, book.run(a, 1, manner=manner, height_m=6.0, branches=list(branches)), **settings)
    return book, book.climb(a).pattern


def test_past_the_last_direction_flown_no_level_is_told():
    """Flown from 0° to 216°: the sector from −30° to 30° is read on its right half alone, and never over the peak."""
    _, found = flown(Flight(turns=0.6, n=200), manner="orbit")
    cut = found.of("panel").cut("azimuth")
    assert (cut.sector_best_deg + 2.0) % 360.0 < 33.0 and cut.sector_best.value < 0.5 and cut.sector_best.half < 3.0
    assert cut.sector.bound == "at most"


class TestAround:
    def test_the_path_is_taken_out_and_the_beam_is_read(self):
        _, found = flown(Flight(spread=0.5))
        cut = found.of("panel").cut("azimuth")
        low, high = cut.beamwidth.interval
        assert low < 60 < high and cut.beamwidth.half < 15
        low, high = cut.front_to_back.interval
        assert low < 18 < high
        assert found.sentence.startswith("Panel has a beam of ")

    def test_where_it_looked_turns_the_bearings_into_its_own(self):
        flight = Flight(level=lambda b, e: beam(np.asarray(b) - 208.0, e))
        looked = Branch(antenna_id="panel", azimuth_deg=208.0)
        _, found = flown(flight, branches=[looked])
        assert (found.of("panel").cut("azimuth").peak_deg + 180) % 360 - 180 == pytest.approx(0, abs=4)
        assert "where its front looked was not noted" not in [c.text for c in found.checks]
        _, unsaid = flown(flight)
        assert unsaid.of("panel").cut("azimuth").peak_deg == pytest.approx(208, abs=4)
        assert "where its front looked was not noted" in [c.text for c in unsaid.checks]

    def test_toward_a_town(self):
        book, _ = flown(Flight(n=480, turns=4))
        book.place("Town", 2000.0, 90.0)
        (toward,) = book.climb().pattern.of("panel").toward
        low, high = toward.level.interval
        assert low < -18 < high
        assert toward.words.endswith("down toward Town at 90°") and toward.words.startswith("18 ± ")

    def test_half_a_turn_has_no_front_to_back(self):
        flight = Flight(turns=0.5, n=120, level=lambda b, e: beam(np.asarray(b) - 90.0, e))
        _, found = flown(flight)
        cut = found.of("panel").cut("azimuth")
        assert cut.front_to_back is None and cut.beamwidth is not None
        grid = found.of("panel").flown.grid
        behind = (grid.azimuth_deg > 215) & (grid.azimuth_deg < 325)
        assert np.isnan(grid.level_db[behind]).all(), "where nothing was flown nothing is told"

    def test_a_way_out_and_back_is_no_pattern(self):
        flight = Flight(turns=0.05)
        _, found = flown(flight)
        assert found.of("panel").flown is None and found.sentence == "No pattern yet."

    def test_a_climb_is_an_elevation_cut_told_from_the_horizon(self):
        up = np.concatenate((np.linspace(2, 70, 120), np.linspace(70, 2, 120)))
        flight = Flight(turns=0.02, up=up, spread=0.02, radius=50)
        _, found = flown(flight)
        cut = found.of("panel").cut("elevation")
        assert found.of("panel").cut("azimuth") is None
        from tallmast.findings.pattern.named import toward

        low, high = toward(cut, 30.0).interval
        assert low < float(beam(0, 30) - beam(0, 0)) < high

    def test_on_the_ground_the_path_is_steeper_and_is_found(self):
        flight = Flight(turns=3, n=360, radius=60, spread=0.5, level=lambda b, e: beam(b))
        flight.level -= 14 * np.log10(flight.radius)  # 34·log d in all
        flight.height[:] = 2.0
        _, found = flown(flight, manner="orbit")
        assert found.of("panel").flown.exponent == pytest.approx(3.4, abs=0.2)
        low, high = found.of("panel").cut("azimuth").front_to_back.interval
        assert low < 18 < high

    def test_runs_of_different_power_are_put_on_one_footing(self):
        book, _ = flown(Flight(turns=2, seed=1))
        louder = Flight(turns=2, seed=2)
        louder.level += 9.0
        louder.into(book, book.run(book.records["panel"], 2, manner="flight", height_m=6.0))
        found = book.climb().pattern.of("panel").flown
        assert np.ptp(found.runs_off_db) == pytest.approx(9.0, abs=0.3)
        assert found.shape.scatter_db < 1.0

    def test_in_the_air_the_path_is_free_space_whatever_the_run_is_called(self):
        _, found = flown(Flight(turns=3, n=360, up=30.0, spread=0.5), manner="orbit")
        assert found.of("panel").flown.exponent == 2.0

    def test_a_log_that_tells_less_is_left_out_beside_one_that_tells_more(self):
        """Without heights, or without where it looked, its levels would stand in directions that they do not belong to."""
        looked = Branch(antenna_id="panel", azimuth_deg=90.0)
        flight = Flight(level=lambda b, e: beam(np.asarray(b) - 90.0, e))
        book, _ = flown(flight, branches=[looked])
        flight.into(book, book.run(book.records["panel"], 2, manner="flight", height_m=6.0))
        found = book.climb().pattern.of("panel").flown
        assert [t.run.number for t in found.tracks] == [1] and found.pointing_noted

    def test_a_spiral_steep_up_and_down_tells_nothing_round_and_says_so(self):
        def stack(bearing, elevation):
            return beam(0.0) + 20 * np.log10(np.hypot(np.cos(np.pi * np.sin(np.radians(elevation)) * 2.5), 0.03))

        up = np.linspace(6, 70, 480)
        _, found = flown(Flight(turns=1.5, n=480, up=up, level=stack, spread=0.02))
        mine = found.of("panel")
        assert mine.cut("azimuth") is None and mine.flown.turn is None
        assert "it climbed as it went round: no cut at one height" in [c.text for c in found.checks]
        assert found.sentence.startswith("Panel") and "No pattern" not in found.sentence
        # Where the pattern is even up and down a spiral is as good as a ring.
        _, even = flown(Flight(turns=5, n=480, up=up, level=lambda b, e: beam(b), spread=0.02))
        assert even.of("panel").cut("azimuth").beamwidth.value == pytest.approx(60, abs=8)

    def test_beside_the_way_flown_the_doubt_is_as_large_as_it_is_steep(self):
        def told(tilt):
            _, found = flown(
                Flight(turns=5, n=600, up=np.linspace(6, 70, 600), spread=0.02, level=lambda b, e: -np.abs(e) * tilt)
            )
            grid = found.of("panel").flown.grid
            return float(np.nanmedian(grid.u_db))

        assert told(1.0) > 2.0 * told(0.1)


class TestDirectivity:
    def all_over(self, top=75, **more):
        """Rings at heights up to `top`, of a beam of 60° both ways (and −18 dB round it)."""
        _, found = flown(Flight(turns=12, n=900, up=np.linspace(0, top, 900), spread=0.02, **more))
        return found.of("panel")

    def test_what_was_flown_all_over_is_summed_over_the_sphere(self):
        grid_a, grid_e = np.meshgrid(np.arange(0, 360, 2.0), np.arange(-89, 90, 2.0))
        power, shade = 10 ** (beam(grid_a, grid_e) / 10), np.cos(np.radians(grid_e))
        true = 10 * np.log10(shade.sum() / (power * shade).sum())
        told = self.all_over().directivity
        assert told.name == "directivity by integration"
        assert told.value == pytest.approx(true, abs=0.6)
        assert told.low is None and told.u > 0.5, "what goes below the horizon nobody flew"

    def test_a_low_ring_alone_is_not_summed(self):
        assert self.all_over(top=25).directivity is None


class TestWhatDoesNotCount:
    def reasons(self, flight, **settings):
        _, found = flown(flight, **settings)
        return found.of("panel").flown.rejected if found.of("panel").flown else {}, found

    def test_a_clean_flight_leaves_nothing_out(self):
        rejected, found = self.reasons(Flight())
        assert rejected == {}
        assert not [c for c in found.checks if "left out" in c.text]

    def test_what_was_lost(self):
        flight = Flight()
        flight.level[10:20] = np.nan
        assert self.reasons(flight)[0] == {"lost": 10}

    def test_starting_and_landing(self):
        flight = Flight(up=30.0)
        flight.height[:12] = np.linspace(0, 1.9, 12)
        assert self.reasons(flight, heights="take-off")[0]["take-off"] == 12

    def test_hovering(self):
        flight = Flight()
        flight.points[100:130] = flight.points[100]
        assert 20 <= self.reasons(flight)[0]["hover"] <= 30

    def test_a_fix_that_jumps(self):
        flight = Flight()
        flight.points[50] = positions([flight.bearing[50]], [900.0])[0]
        assert self.reasons(flight)[0] == {"jump": 1}

    def test_so_near_that_the_fix_turns_the_direction(self):
        rejected, _ = self.reasons(Flight(radius=60, spread=0.0), fix_u_m=7.0)
        assert rejected == {}
        flight = Flight(turns=2, radius=60)
        flight.radius[:40] = 20.0
        flight.points = positions(flight.bearing, flight.radius)
        assert self.reasons(flight, fix_u_m=3.0)[0] == {"fix": 40}

    def test_behind_a_house(self):
        rejected, found = self.reasons(Flight(), behind=[Sector(from_deg=100, to_deg=129, name="house")])
        assert set(rejected) == {"behind"} and 18 <= rejected["behind"] <= 22
        (check,) = [c for c in found.checks if "left out" in c.text]
        assert "behind something" in check.why.lower()

    def test_the_far_field_of_a_large_one_begins_farther_out(self):
        # 2·2²/0.345 = 23.2 m; two wavelengths of a small one: 0.69 m.
        assert far_field_m(Antenna(name="a", length_m=2.0), FREQUENCY_HZ) == pytest.approx(23.2, abs=0.1)
        assert far_field_m(Antenna(name="a"), FREQUENCY_HZ) == pytest.approx(0.69, abs=0.01)

    @pytest.mark.parametrize(("first", "counted"), [(0.0, "take-off"), (187.0, "sea")])
    def test_heights_without_a_datum_are_guessed_and_said_so(self, first, counted):
        flight = Flight(up=20.0)
        flight.height[0] = 0.0
        flight.height += first
        _, found = flown(flight, heights="")
        (track,) = found.of("panel").flown.tracks
        assert (track.heights, track.guessed) == (counted, True)
        assert np.median(track.above_deg) == pytest.approx(np.degrees(np.arctan2(14, 60)), abs=1.0)
        assert any(c.text.startswith("heights without a datum") for c in found.checks)

    def test_heights_over_the_sea_that_begin_in_the_air_tell_no_elevation(self):
        flight = Flight(up=200.0)
        flight.height[100] = 190.0
        _, found = flown(flight, heights="sea")
        assert found.of("panel").flown.tracks[0].heights == "sea"
        assert np.abs(found.of("panel").flown.tracks[0].above_deg).max() < 1


class TestSideBySide:
    def test_better_below_and_worse_above(self):
        book = Book()
        book.home()
        single, pair = book.antenna("Single"), book.antenna("Pair")
        for number, antenna in enumerate((single, pair, pair, single), 1):
            # The pair has 3 dB more on the horizon and a beam half as high: alike at 30°.
            def level(b, e, antenna=antenna):
                return 3.0 - 3.0 * (np.asarray(e) / 30.0) ** 2 if antenna is pair else 0.0 * np.asarray(e)

            up = 6 + 60 * np.tan(np.radians(np.linspace(2, 55, 480)))
            Flight(turns=10, n=480, up=up, level=level, seed=number, spread=0.1).into(
                book, book.run(antenna, number, manner="flight", height_m=6.0)
            )
        finding = book.climb(pair).pattern
        (side,) = finding.side_by_side
        low, high = side.crossing.interval
        assert low < 30 < high and side.crossing.half < 12
        assert "Pair is better than Single by " in side.words and "of elevation, and worse above it by" in side.words
        assert side.words in finding.detail

    def test_on_the_ground_at_other_distances_the_path_is_no_difference(self):
        """What each one's own path is fitted with must not make one of them better: found on a drone about a mast."""
        book = Book()
        book.home()
        for number, radius in ((1, 60.0), (2, 75.0)):
            a = book.antenna(f"Stick {number}", length_m=0.2)
            flight = Flight(turns=4, n=480, radius=radius, spread=0.3, level=lambda b, e: np.zeros(len(b)), seed=number)
            flight.height[:] = 2.0
            flight.into(book, book.run(a, number, manner="orbit", height_m=6.0))
        (side,) = book.climb().pattern.side_by_side
        assert abs(side.below.value) < side.below.half < 4.0, side.words

    def test_alike_is_a_result(self):
        book = Book()
        book.home()
        for number, name in enumerate(("One", "Other"), 1):
            antenna = book.antenna(name)
            Flight(turns=4, n=480, up=30.0, level=lambda b, e: 0.0 * np.asarray(b), seed=number).into(
                book, book.run(antenna, number, manner="flight", height_m=6.0)
            )
        (side,) = book.climb().pattern.side_by_side
        assert side.crossing is None and "are alike within" in side.words


class TestTwoLoggers:
    def book(self, begins_s: float, moved_s: float | None = None):
        """Positions by one logger, levels by another that began so much later, five readings a second."""
        flight = Flight(turns=3, n=360, radius=60, noise=0.4, spread=0.3)
        book = Book()
        book.home()
        a = book.antenna("Panel", length_m=0.2)
        run = book.run(a, 1, manner="flight", height_m=6.0)
        time = np.arange(0, 330, 0.2)
        level = np.interp(time + begins_s, flight.time, flight.level)
        book.series["levels"] = {"time_s": time, "first": level}
        column = RecordedColumn(key="first", name="rssi", read_on="level in dBm")
        book.add(Recording(run_id=run.id, series_id="levels", columns=[column], moved_s=moved_s))
        flight.level = np.full(len(flight.level), np.nan)
        flight.into(book, run)
        return book.climb(a).pattern

    def test_clocks_that_differ_are_aligned_and_said_so(self):
        found = self.book(17.0)
        (track,) = found.of("panel").flown.tracks
        assert track.laid.begins_s == pytest.approx(17.0, abs=2 * track.laid.u_s) and track.laid.u_s < 4
        assert any(" s after the track, by what makes the pattern smoothest" in c.text for c in found.checks)
        # Round after round the same way a shift of the clock is a turn of the pattern: its directions say so.
        assert found.of("panel").cut("azimuth").of.angle_u_deg > 3 * track.laid.u_s * 0.9
        low, high = found.of("panel").cut("azimuth").beamwidth.interval
        assert low < 60 < high

    def test_moved_by_hand_they_lie_as_they_were_moved(self):
        found = self.book(17.0, moved_s=40.0)
        assert found.of("panel").flown.tracks[0].laid.by_hand
        assert any("40 s after the track, as they were moved" in c.text for c in found.checks)


def test_headings_of_another_north_are_named():
    flight = Flight(turns=2)
    book = Book()
    book.home()
    a = book.antenna("Panel", length_m=0.2)
    log = flight.into(book, book.run(a, 1, manner="flight", height_m=6.0))
    course = (flight.bearing + 90.0) % 360.0
    book.series[log.series_id]["heading_deg"] = (course + 11.0) % 360.0
    checks = [c.text for c in book.climb(a).pattern.checks]
    assert any(t.startswith("headings stand ") and t.endswith("° off the way flown") for t in checks)
    book.series[log.series_id]["heading_deg"] = course
    assert not any(c.text.startswith("headings stand") for c in book.climb(a).pattern.checks)


class TestCarried:
    def survey(self, **logged):
        """The probe that flies has a beam of its own; its nose looks where it flies, a quarter turn off the antenna."""
        flight = Flight(turns=2, n=360, level=lambda b, e: beam(np.asarray(b) - 208.0, e), up=20.0)
        book = Book()
        book.home()
        a, probe = book.antenna("Panel", length_m=0.2), book.antenna("Probe", known_gain_dbi=3.0, known_gain_u_db=0.5)
        angle = np.arange(0, 360, 5.0)
        own = -6.0 * (1 - np.cos(np.radians(angle - 90.0))) / 2
        book.cut(probe, own, angle)
        book.far(antenna_id="probe", cable_loss_db=0.5)
        book.add(HomeEnd(cable_loss_db=1.0))
        log = flight.into(book, book.run(a, 1, manner="flight", height_m=6.0, power_w=0.01))
        heading = (flight.bearing + 100.0 * np.sin(np.linspace(0, 25, 360))) % 360.0
        toward = (flight.bearing + 180.0 - heading) % 360.0
        flight.level += np.interp(toward, angle, own, period=360)
        book.series[log.series_id]["level_dbm"] = flight.level
        if logged:
            book.series[log.series_id]["heading_deg"] = heading
        return book.climb(a)

    def test_its_own_pattern_is_taken_out_by_its_attitude(self):
        with_, without = self.survey(heading=True).pattern, self.survey().pattern
        off = []
        for found in (with_, without):
            cut = found.of("panel").cut("azimuth")
            off.append(float(np.std(cut.level_db - beam(cut.angle_deg - 208.0))))
        assert off[0] < 0.5 and off[1] > 1.0
        assert any("Probe’s own pattern taken out by its logged attitude" in c.text for c in with_.checks)

    def test_gain_by_the_levels_flown_stands_on_the_verdict_s_axis(self):
        # Sent 10 dBm; read −30 − 20·log d + G: at 1 m −30 = 10 + G + 3 − 31.2 (free space at 1 m, 869 MHz): G = −11.8 dBi.
        climb = self.survey(heading=True)
        figure = climb.pattern.of("panel").by_levels
        low, high = figure.interval
        drop = -12 * (np.degrees(np.arctan2(14, 60)) / 60) ** 2
        # What the cables at both ends took, 1.5 dB, was sent by it none the less.
        assert low < -11.8 + 1.5 + drop < high
        assert "levels flown" in [way for way, _ in climb.gains["panel"].measured]


class TestSecondRay:
    def climbed(self, over: str, frequency_hz: float):
        """A climb at 100 m past an upright whip over wet ground, which sends a second ray."""
        up = np.concatenate((np.linspace(3, 90, 160), np.linspace(90, 3, 160)))
        flight = Flight(
            turns=0.02, n=320, up=up, spread=0.01, radius=100, level=lambda b, e: -0.003 * np.asarray(e) ** 2
        )
        flight.level += both_rays_db(flight.radius, 6.0, up, frequency_hz, "wet ground", True)
        book = Book()
        book.home()
        a = book.antenna("Panel", length_m=0.2, polarization="vertical")
        run = book.run(a, 1, manner="flight", height_m=6.0, over=over, channel_hz=frequency_hz)
        flight.into(book, run)
        found = book.climb(a).pattern
        cut = found.of("panel").cut("elevation")
        inside = cut.angle_deg < 40
        return found, float(np.std(cut.level_db[inside] + 0.003 * cut.angle_deg[inside] ** 2))

    def test_where_heights_tell_its_phase_it_is_taken_out(self):
        with_, off = self.climbed("wet ground", 98e6)
        _, off_without = self.climbed("", 98e6)
        assert off < 0.5 * off_without
        assert "the ray by wet ground is taken out" in [c.text for c in with_.checks]

    def test_where_they_do_not_it_stays_and_is_said(self):
        found, _ = self.climbed("wet ground", 2400e6)
        assert any("heights do not tell its phase" in c.text for c in found.checks)
