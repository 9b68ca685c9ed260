"""Tables as instruments and loggers write them: the same numbers, however much is written round them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.formats import cut, layout, log, recording, sniff, table
from tallmast.formats import gpx as gpx_format
from tallmast.formats.errors import FormatError

ABOVE = st.lists(
    st.sampled_from(
        ["Antenna range, west", "Device: box 3", "Started 2026-05-09", "Serial;17", "Frequency, 868", "notes"]
    ),
    max_size=4,
)
NUMBERS = st.lists(
    st.tuples(*[st.floats(-999, 999, allow_nan=False).map(lambda v: round(v, 3))] * 3), min_size=12, max_size=30
)


@given(ABOVE, NUMBERS, st.sampled_from([",", ";", "\t"]), st.booleans(), st.booleans())
def test_what_stands_over_a_table_under_its_names_and_behind_its_numbers_changes_none(above, rows, by, units, behind):
    lines = [*above, by.join(("angle", "level", "power"))]
    if units:
        lines.append(by.join(("deg", "[dB]", "mW")))
    written = ["{}°", "{} dB", "{}mW"] if behind else ["{}"] * 3
    lines += [by.join(form.format(v) for form, v in zip(written, row, strict=True)) for row in rows]
    found = table.read("\n".join(lines).encode(), "x.csv")
    assert np.column_stack(list(found.columns.values())).tolist() == [list(row) for row in rows]
    assert found.above == len(above) and found.first_line == len(above) + 2 + units
    assert [name.split()[0] for name in found.columns] == ["angle", "level", "power"]
    if units or behind:
        assert [name.split()[1] for name in found.columns][1:] == ["dB", "mW"]


def test_a_word_in_the_first_row_is_told_and_the_row_not_taken_for_names():
    with pytest.raises(FormatError, match="line 2: “soon” in column “a” is not a number"):
        table.read(b"a,b\nsoon,2\n3,4\n5,6\n", "x.csv")


def test_names_written_once_more_further_down_drop_nothing_in_silence():
    with pytest.raises(FormatError, match="line 4"):
        table.read(b"a,b\n1,2\n3,4\na,b\n5,6\n7,8\n", "x.csv")


@pytest.mark.parametrize("nothing", ["", "--", "n/a", "-", "?"])
def test_however_it_is_written_that_there_is_no_number_it_is_none(nothing):
    found = table.read(f"a,b\n1,2\n3,{nothing}\n5,6\n".encode(), "x.csv")
    assert np.isnan(found.columns["b"]).tolist() == [False, True, False]


def test_another_unit_further_down_is_told_and_not_taken_for_the_first():
    rows = "\n".join(f"{i},30 Mbit/s" for i in range(300))
    with pytest.raises(FormatError, match="line 302: “900 kbit/s” in column “rate Mbit/s” is not a number"):
        table.read(f"time,rate\n{rows}\n300,900 kbit/s\n".encode(), "x.csv")


@pytest.mark.parametrize(
    ("cell", "value"),
    [
        ("57.9012 N", 57.9012),
        ("S57.5", -57.5),
        ("11.25W", -11.25),
        ("57° 54' 36\" N", 57.91),
        ("11°12.5'W", -(11 + 12.5 / 60)),
        ("0.0 E", 0.0),
    ],
)
def test_positions_by_hemisphere(cell, value):
    assert layout.degrees(cell) == pytest.approx(value)


@pytest.mark.parametrize("cell", ["57.9", "N", "57.9 N E", "57° 75' N", "north", "N S", ""])
def test_what_is_no_position_by_hemisphere(cell):
    assert layout.degrees(cell) is None


def test_west_in_a_longitude_and_watts_in_a_power():
    rows = "\n".join(f"{i},57.9{i:02d} N,11.2{i:02d} W,{-70 - i}" for i in range(20))
    found = log.read_csv(f"time,lat,lon,rssi dBm\n{rows}\n".encode(), "x.csv")
    assert found.columns["longitude_deg"][0] == pytest.approx(-11.2) and found.columns["latitude_deg"][0] > 0
    power = table.read(b"angle,power\n" + b"\n".join(b"%d,%d W" % (i, i + 2) for i in range(9)), "x.csv")
    assert power.columns["power W"][0] == 2.0


def test_rows_before_the_first_fix_are_left_out_and_told():
    for nothing in ("0,0", ",", "0.000000,0.000000", "--,--"):
        rows = "\n".join(f"{i},{nothing if i < 5 else f'57.9{i:02d},-11.2{i:02d}'},{-70 - i}" for i in range(20))
        found = log.read_csv(f"time,lat,lon,rssi dBm\n{rows}\n".encode(), "x.csv")
        assert {len(column) for column in found.columns.values()} == {15} and found.columns["level_dbm"][0] == -75.0
        assert found.notes == ("five rows without a position left out",)
    with pytest.raises(FormatError, match="no row has a position"):
        log.read_csv(b"time,lat,lon,rssi dBm\n1,0,0,-70\n2,0,0,-71\n", "x.csv")


def test_kinds_are_known_under_what_instruments_write_over_them():
    turn = "Antenna range 2\nFrequency 868 MHz\nAngle,Level\n" + "\n".join(
        f"{a},{-40 - abs(a - 180) / 10:.1f}" for a in range(0, 360, 5)
    )
    assert sniff.kind_of(turn.encode(), "x.csv") == "cut" and len(cut.read(turn.encode(), "x.csv").angle_deg) == 72
    rates = "timestamp,throughput\n" + "\n".join(f"2026-05-09 08:00:{i:02d},{30 + i % 4} Mbit/s" for i in range(60))
    found = recording.read(rates.encode(), "x.csv")
    assert found.read_on == {"first": "bit rate"} and found.time_s[-1] == 59.0


class TestScales:
    """What a header says that a column counts is kept on the scale that findings know."""

    def read_as(self, header, cells):
        rows = "\n".join(f"{i},{cell}" for i, cell in enumerate(cells))
        return recording.read(f"time s,{header}\n{rows}\n".encode(), "x.csv")

    def test_losses_are_turned_to_what_came_through(self):
        for header in ("Loss %", "packet loss", "PER %"):
            found = self.read_as(header, [0, 5, 40, 100])
            assert found.read_on == {"first": "packet rate"} and found.values["first"].tolist() == [100, 95, 60, 0]
            assert any("turned to what came through" in note for note in found.notes)
        assert self.read_as("packet loss", [0.0, 0.05, 0.5]).values["first"] == pytest.approx([100, 95, 50])
        assert self.read_as("LQ", [100, 95, 60]).values["first"].tolist() == [100, 95, 60]
        assert self.read_as("link quality", [1.0, 0.95, 0.6]).values["first"] == pytest.approx([100, 95, 60])
        assert self.read_as("lost", [0, 1, 0]).values["first"].tolist() == [100, 0, 100], "packet by packet"
        assert self.read_as("LQ %", [1, 0.5, 1]).values["first"].tolist() == [1, 0.5, 1], "one per cent is one per cent"

    def test_bit_rates_and_delays_in_other_units(self):
        assert self.read_as("throughput kbps", [31000, 900]).values["first"].tolist() == [31.0, 0.9]
        assert self.read_as("bit rate kbit/s", [31000, 900]).values["first"].tolist() == [31.0, 0.9]
        assert self.read_as("bit rate Mbit/s", [31, 30]).values["first"].tolist() == [31, 30]
        assert self.read_as("bit rate", [31, 30]).values["first"].tolist() == [31, 30]
        assert self.read_as("rate bit/s", [31e6, 30e6]).values["first"] == pytest.approx([31, 30])
        assert self.read_as("ping s", [0.028, 0.03]).values["first"] == pytest.approx([28, 30])
        assert self.read_as("ping", [28, 30]).values["first"].tolist() == [28, 30]

    def test_what_is_logged_beside_it_says_nothing_of_what_was_heard(self):
        rows = "\n".join(f"{i},90,{-70 - i % 40},{i * 300},20" for i in range(400))
        found = recording.read(f"time s,battery %,rssi,packet,tx power dBm\n{rows}\n".encode(), "x.csv")
        assert found.read_on == {"first": "level in dBm"}

    def test_a_sender_s_power_is_no_level(self):
        rows = "\n".join(f"{i},57.9{i:02d},-11.2{i:02d},20,{-70 - i}" for i in range(20))
        for other in ("tx power dBm", "noise dBm"):
            found = log.read_csv(f"time,lat,lon,{other},rx level\n{rows}\n".encode(), "x.csv")
            assert found.mapping["level_dbm"] == "rx level"

    def test_s_units_in_readings_and_places_called_s(self):
        steps = "Attenuation,Reading\n" + "\n".join(f"{p} dB,S{9 - p // 6}" for p in range(0, 54, 6))
        assert list(table.read(steps.encode(), "x.csv").columns["Reading S units"]) == list(range(9, 0, -1))
        places = "time s,place,rssi\n" + "\n".join(f"{i},S{i % 4 + 1},{-70 - i}" for i in range(20))
        assert recording.read(places.encode(), "x.csv").read_on == {"first": "level in dBm"}

    def test_a_position_in_one_cell(self):
        rows = "\n".join(f'{i},"57.9{i:02d}, −11.2{i:02d}",{-70 - i}' for i in range(20))
        found = log.read_csv(f"time,GPS,rssi\n{rows}\n".encode(), "x.csv")
        assert found.columns["latitude_deg"][3] == 57.903 and found.columns["longitude_deg"][3] == -11.203
        with pytest.raises(FormatError, match="line 22: “nowhere” in column “GPS” is not a position"):
            log.read_csv(f"time,GPS,rssi\n{rows}\n20,nowhere,-90\n".encode(), "x.csv")

    @pytest.mark.parametrize(
        ("unit", "over_dbm"), [("dBµV", 106.99), ("dBuV", 106.99), ("dBW", -30.0), ("dBmV", 46.99)]
    )
    def test_levels_in_other_units_are_turned_to_dbm(self, unit, over_dbm):
        """0 dBm in 50 Ω is 223.6 mV, 106.99 dBµV."""
        shown = [round(-80 + over_dbm, 2), round(-90 + over_dbm, 2)]
        found = self.read_as(f"level {unit}", shown)
        assert found.read_on == {"first": "level in dBm"}
        assert found.values["first"] == pytest.approx([-80, -90], abs=0.01)
        rows = "\n".join(f"{i},57.9{i:02d},-11.2{i:02d},{shown[0]}" for i in range(20))
        track = log.read_csv(f"time,lat,lon,signal {unit}\n{rows}\n".encode(), "x.csv")
        assert track.columns["level_dbm"] == pytest.approx(-80, abs=0.01) and "turned to dBm" in track.notes[0]

    def test_losses_logged_beside_a_level_are_what_came_through(self):
        rows = "\n".join(f"{i},57.9{i:02d},-11.2{i:02d},{-70 - i},{i} %,{99 - i}" for i in range(20))
        found = log.read_csv(f"time,lat,lon,rssi,loss,LQ\n{rows}\n".encode(), "x.csv")
        assert found.columns["beside_1"][3] == 97.0 and found.columns["beside_2"][3] == 96.0
        assert log.beside_name(found.mapping["beside_1"]) == "loss %, turned to what came through"
        assert log.beside_name(found.mapping["beside_2"]) == "LQ"

    def test_names_joined_by_underscores(self):
        rows = "\n".join(f"{i * 250},57.9{i:02d},-11.2{i:02d},20,{-70 - i},300" for i in range(20))
        found = log.read_csv(f"time_ms,gps_lat,gps_lon,tx_power_dbm,rx_rssi,alt_ft\n{rows}\n".encode(), "x.csv")
        assert found.mapping["level_dbm"] == "rx_rssi" and found.columns["time_s"][1] == 0.25
        assert found.columns["height_m"][0] == pytest.approx(91.44)
        track = recording.read(b"time_ms,packet_loss,batt_%\n0,0,90\n500,5,90\n", "x.csv")
        assert track.time_s[1] == 0.5 and track.values["first"].tolist() == [100.0, 95.0]

    def test_heights_in_feet(self):
        rows = "\n".join(f"{i},57.9{i:02d},-11.2{i:02d},{-70 - i},{300 + i}" for i in range(20))
        for header in ("Altitude (ft)", "alt feet", "AGL ft"):
            found = log.read_csv(f"time,lat,lon,rssi,{header}\n{rows}\n".encode(), "x.csv")
            assert found.columns["height_m"][0] == pytest.approx(91.44)


@pytest.mark.parametrize(
    ("data", "what"),
    [
        (b"PK\x03\x04\x14\x00", "an archive or a document"),
        (b"%PDF-1.7\n", "a PDF"),
        (b'\xef\xbb\xbf{"type": "FeatureCollection"}', "JSON"),
        (b'[{"lat": 57.9}]', "JSON"),
        (b"$GPGGA,080000.00,5754.0000,N\n" * 9, "sentences of a satellite receiver"),
    ],
)
def test_what_is_none_of_our_files_is_named_with_what_to_do(data, what):
    with pytest.raises(FormatError, match=what) as told:
        sniff.kind_of(data, "x.dat")
    assert "CSV" in str(told.value)


def test_a_track_before_its_first_fix():
    points = "".join(
        f'<trkpt lat="{0.0 if i < 3 else 57.9 + i * 1e-4:.4f}" lon="{0.0 if i < 3 else -11.2}">'
        f"<extensions><signal>{-70 - i}</signal></extensions></trkpt>"
        for i in range(20)
    )
    space = 'xmlns="http://www.topografix.com/GPX/1/1"'
    read = gpx_format.read(
        f'<gpx version="1.1" {space}><trk><trkseg>{points}</trkseg></trk></gpx>'.encode(), "t.gpx"
    ).track
    assert read.columns["level_dbm"].tolist() == [-70.0 - i for i in range(3, 20)]
    assert "three points without a position left out" in read.notes
