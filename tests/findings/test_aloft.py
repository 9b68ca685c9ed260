"""What flew away: which link was lost where, by beam or ground, what a tracker may lag; one packet lost is no loss."""

import numpy as np
import pytest

from tallmast.findings.link.aloft_words import aloft_words
from tallmast.formats import log as logs
from tallmast.notebook.entry import new_series
from tallmast.notebook.records import Beside, Branch, Cut, Log, Lost
from tallmast.notebook.records.lists import lost as read_lost
from tallmast.physics.geodesy import around
from tallmast.units.read import UnitError

from .build import Book

HZ_ROWS = 1.0


def beam_cut(made, plane, wide=20.0):
    angle = np.arange(0.0, 360.0, 5.0)
    off = (angle + 180.0) % 360.0 - 180.0
    key, series = new_series({"angle_deg": angle, "level_db": np.maximum(-12.0 * (off / wide) ** 2, -25.0)})
    made.series.update(series)
    antenna = made.records["array"]
    made.add(Cut(id=plane, antenna_id="array", state_id=antenna.state.id, series_id=key, plane=plane))


def flight(east, north, up, columns, lost=(), tilt=None, cuts=("azimuth", "elevation"), **noted):
    """One log of rows a second apart, of an array at home 6 m up."""
    made = Book()
    made.home(2000.0)
    made.antenna("Array", known_gain_dbi=12.0)
    for plane in cuts:
        beam_cut(made, plane)
    branch = Branch(antenna_id="array", tilt_deg=tilt, **noted)
    run = made.run(made.records["array"], 1, manner="flight", height_m=6.0, branches=[branch])
    latitude, longitude = around(*made.records["home"].position, east, north)
    first, *rest = columns
    series = {
        "latitude_deg": latitude,
        "longitude_deg": longitude,
        "height_m": np.broadcast_to(np.asarray(up, dtype=float), east.shape).copy(),
        "time_s": np.arange(len(east)) / HZ_ROWS,
        "level_dbm": columns[first],
        **{f"beside_{i}": columns[name] for i, name in enumerate(rest, 1)},
    }
    key, kept = new_series(series)
    made.series.update(kept)
    beside = [Beside(key=f"beside_{i}", name=name) for i, name in enumerate(rest, 1)]
    mapping = {"level_dbm": first}
    made.add(Log(run_id=run.id, series_id=key, heights="ground", beside=beside, lost=list(lost), mapping=mapping))
    return made.climb(made.records["array"]).link


OUT = np.arange(100.0, 3000.0, 10.0)
NORTH = np.zeros(len(OUT))


def test_lost_and_back_by_hand():
    level = np.where((OUT > 1500) & (OUT < 2200), -100.0, -70.0)
    link = flight(OUT, NORTH, 100.0, {"picture": level}, [Lost(name="picture", below=-90.0)])
    ((spell,),) = [one.spells for one in link.flown[0].links]
    assert spell.lost.distance_m == pytest.approx(1500.0, abs=40.0)
    assert spell.back.distance_m == pytest.approx(2200.0, abs=40.0)
    assert spell.lost.bearing_deg == pytest.approx(90.0, abs=0.5)
    assert spell.lost.above_deg == pytest.approx(np.degrees(np.arctan2(94.0, 1500.0)), abs=0.2)


def test_a_packet_here_and_there_is_no_loss():
    level = np.full(len(OUT), -70.0)
    level[::9] = np.nan
    link = flight(OUT, NORTH, 100.0, {"picture": level}, [Lost(name="picture", below=-90.0)])
    (one,) = link.flown[0].links
    assert one.spells == () and "held to" in aloft_words(link.flown)


def test_nothing_arrived_is_lost_whatever_the_limit():
    level = np.where(OUT > 2000, np.nan, -70.0)
    link = flight(OUT, NORTH, 100.0, {"picture": level, "control": np.full(len(OUT), 90.0)})
    picture, control = link.flown[0].links
    assert picture.name == "picture" and picture.spells[0].lost.distance_m == pytest.approx(2000.0, abs=40.0)
    assert picture.spells[0].back is None and control.spells == ()
    assert "control held" in aloft_words(link.flown)


def test_limits_are_of_the_columns_in_their_order():
    columns = {"rssi": np.where(OUT > 1000, -95.0, -60.0), "lq": np.where(OUT > 2000, 30.0, 100.0)}
    link = flight(OUT, NORTH, 100.0, columns, [Lost(name="picture", below=-90.0), Lost(name="control", below=50.0)])
    lost = {one.name: one.spells[0].lost.distance_m for one in link.flown[0].links}
    assert lost == {"picture": pytest.approx(1000.0, abs=40.0), "control": pytest.approx(2000.0, abs=40.0)}


def test_under_the_beam_by_its_cut():
    """From 6 m up to 100 m at 1.5 km it is 3.6°; tilted up 16° that is 12.4° under, 12·(12.4/20)² = 4.6 dB."""
    level = np.where(OUT > 1500, -100.0, -70.0)
    lost = [Lost(name="picture", below=-90.0)]
    link = flight(OUT, NORTH, 100.0, {"picture": level}, lost, tilt=16.0)
    at = link.flown[0].links[0].spells[0].lost
    assert at.off_beam_deg == pytest.approx(-12.4, abs=0.2) and -at.beam_db[0] == pytest.approx(4.6, abs=0.4)
    assert "12° under the beam, 4." in link.detail
    assert [c.mark for c in link.checks if "under the beam" in c.text] == ["disagrees"]
    level_one = flight(OUT, NORTH, 100.0, {"picture": level}, lost, tilt=4.0)
    assert not [c for c in level_one.checks if "the beam" in c.text]


def test_what_a_tracker_may_lag():
    """Past at 15 m a second, 200 m abeam: 15/200 rad a second at the nearest, 4.3°; half the power is gone 10° off."""
    east = np.arange(-1200.0, 1200.0, 15.0)
    link = flight(
        east,
        np.full(len(east), 200.0),
        60.0,
        {"picture": np.full(len(east), -70.0)},
        [Lost(name="picture", below=-90.0)],
    )
    tracker = link.flown[0].tracker
    assert tracker.half_deg == pytest.approx(10.0, abs=0.6)
    assert 1.5 < tracker.rate_deg_s < 4.4
    assert tracker.lag_s == pytest.approx(tracker.half_deg / tracker.rate_deg_s)


def test_one_that_was_noted_to_look_somewhere_needs_no_tracker():
    link = flight(
        OUT, NORTH, 100.0, {"picture": np.full(len(OUT), -70.0)}, [Lost(name="picture", below=-90.0)], azimuth_deg=90.0
    )
    assert link.flown[0].tracker is None


def test_a_flight_of_which_nothing_is_to_be_lost_is_left_alone():
    assert flight(OUT, NORTH, 100.0, {"picture": np.full(len(OUT), -70.0)}).flown == ()


@pytest.mark.parametrize(
    ("text", "read"),
    [
        ("picture -92, telemetry -104, control 50", [("picture", -92), ("telemetry", -104), ("control", 50)]),
        ("video: -85 dBm; LQ 50 %", [("video", -85), ("LQ", 50)]),
        ("", []),
    ],
)
def test_limits_as_they_are_typed(text, read):
    assert [(one.name, one.below) for one in read_lost(text)] == read


def test_a_limit_without_a_name_is_refused():
    with pytest.raises(UnitError, match="picture -92"):
        read_lost("-92, -104")


def test_what_was_logged_beside_comes_in_with_it():
    text = "time s,lat,lon,alt m,picture rssi dBm,telemetry dBm,control LQ\n" + "\n".join(
        f"{i},57.9{i:02d},-11.2,50,{-60 - i},{-70 - i},{100 - i}" for i in range(20)
    )
    found = logs.read_csv(text.encode(), "flown.csv")
    assert found.mapping["level_dbm"] == "picture rssi dBm"
    assert (found.mapping["beside_1"], found.mapping["beside_2"]) == ("telemetry dBm", "control LQ")
    assert found.columns["beside_2"][3] == 97.0 and "beside_3" not in found.columns
    plain = logs.read_csv(text.encode(), "flown.csv", {"beside_1": "", "beside_2": ""})
    assert "beside_1" not in plain.columns


def test_a_limit_without_a_column_is_named():
    columns = {"rssi": np.where(OUT > 1000, -95.0, -60.0)}
    link = flight(OUT, NORTH, 100.0, columns, [Lost(name="picture", below=-90.0), Lost(name="control", below=50.0)])
    assert [c.text.split(" has ")[1] for c in link.checks if "no column" in c.text] == ["no column for control"]
    clean = flight(OUT, NORTH, 100.0, columns, [Lost(name="picture", below=-90.0)])
    assert not any("column" in c.text for c in clean.checks)


def test_a_limit_of_a_log_without_heights_is_not_passed_over():
    link = flight(OUT, NORTH, np.nan, {"picture": np.full(len(OUT), -70.0)}, [Lost(name="picture", below=-90.0)])
    assert link.flown == () and any("its links were lost can’t be told" in c.text for c in link.checks)
