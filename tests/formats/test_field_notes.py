"""Field notes as tables: reports a row, or a column an antenna, as people keep them."""

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.formats import cells, field_notes, log, sniff
from tallmast.formats.errors import FormatError


def read(text: str, **columns: str):
    return field_notes.read(text.encode(), "notes.csv", columns or None)


def kind(text: str) -> str:
    return sniff.kind_of(text.encode(), "notes.csv")


def told(found) -> list[tuple[str, str, str]]:
    return [(n.place, n.antenna, n.heard) for n in found.rows]


class TestOneReportARow:
    def test_with_its_place_antenna_and_factors(self):
        found = read(
            "Date,Place,Antenna,Mode,Report,Heard by,Power,Notes\n"
            "Saturday,Ford,Dipole,FM,59,Ann,5 W,calm\nSunday,Mill,Halo,data,nothing,Bo,1 W,\n"
        )
        assert told(found) == [("Ford", "Dipole", "59"), ("Mill", "Halo", "nothing")]
        first, second = found.rows
        assert first.factors == {"mode": "FM", "day": "Saturday", "listener": "Ann", "power": "5 W"}
        assert (first.remark, second.remark) == ("calm", "") and second.line == 3
        assert found.in_turn and not found.notes

    def test_a_blank_cell_is_that_above_and_a_lone_report_has_no_place(self):
        found = read("place,antenna,report\nford,A,59\n,B,57\nmill,,55\n")
        assert told(found) == [("ford", "A", "59"), ("ford", "B", "57"), ("mill", "B", "55")]
        assert found.notes == ("two blank cells taken from the row above",)
        with pytest.raises(FormatError, match=r"line 2: a report without a place"):
            read("place,antenna,report\n,A,59\nford,B,57\n")

    def test_a_day_or_a_mode_written_once_is_that_of_the_rows_below(self):
        found = read("Day,Mode,Place,Antenna,Report\nSat,FM,ford,A,59\n,,,B,57\nSun,,mill,A,55\n")
        assert [(n.factors["day"], n.factors["mode"]) for n in found.rows] == [
            ("Sat", "FM"),
            ("Sat", "FM"),
            ("Sun", "FM"),
        ]

    def test_a_level_at_each_distance_is_enough(self):
        text = "distance m,level dBm\n100,-60\n200,-69\n400,-77\n"
        assert kind(text) == "field notes"
        first = read(text).rows[0]
        assert (first.place, first.where, first.heard) == ("100 m", "100 m", "-60 dBm")
        assert kind("time s,distance m,level dBm\n0,100,-60\n1,200,-69\n2,400,-77\n") == "recording"

    @pytest.mark.parametrize(
        ("header", "cell", "power"),
        [("Power mW", "10", "10 mW"), ("Power (W)", "5", "5 W"), ("Power", "10 mW", "10 mW")],
    )
    def test_a_power_has_the_unit_of_its_column(self, header, cell, power):
        """Ten milliwatts are no ten watts."""
        found = read(f"place,antenna,report,{header}\nford,A,59,{cell}\nmill,A,57,{cell}\n")
        assert [n.factors["power"] for n in found.rows] == [power] * 2

    def test_what_was_turned_is_said(self):
        assert (
            "“packets lost %” counts losses: turned to what came through"
            in read("place,packets lost %\nford,5\nmill,40\n").notes
        )

    def test_a_name_has_an_end(self):
        with pytest.raises(FormatError, match="line 3: a name of more than 80"):
            read(f"place,report\nford,59\n{'mill' * 30},57\n")

    def test_distances_have_their_unit_in_the_cell_or_in_the_name(self):
        assert [n.where for n in read("place,how far,report\na,800 m,59\nb,2 miles,57\n").rows] == ["800 m", "2 miles"]
        assert [n.where for n in read("place,dist km,report\na,0.8,59\nb,1.2 mi,57\n").rows] == ["0.8 km", "1.2 mi"]
        assert [n.where for n in read("place,lat,lon,report\nf o,57.9,-11.2,59\n").rows] == ["57.9, -11.2"]
        with pytest.raises(FormatError, match="line 2: 800 in “distance” has no unit"):
            read("place,distance,report\nford,800,59\nmill,900,57\n")

    @pytest.mark.parametrize(
        ("header", "cells", "heard", "read_on"),
        [
            ("level dBm", "-97;-101,5", ["-97 dBm", "-101.5 dBm"], ""),
            ("signal", "59;57", ["59", "57"], ""),
            ("S meter", "7;9", ["S7", "S9"], ""),
            ("throughput kbit/s", "900;300", ["0.9 Mbit/s", "0.3 Mbit/s"], ""),
            ("packets lost %", "5;40", ["95 %", "60 %"], ""),
            ("raw counts", "180;140", ["180", "140"], "level"),
            ("report", "4;2", ["4", "2"], ""),
        ],
    )
    def test_a_bare_number_means_what_its_column_says(self, header, cells, heard, read_on):
        rows = "".join(f"p{i};{cell}\n" for i, cell in enumerate(cells.split(";")))
        found = read(f"place;{header}\n{rows}", place="place", heard=header)
        assert [n.heard for n in found.rows] == heard and found.read_on == read_on

    def test_what_somebody_chose_goes_over_what_it_looks_like(self):
        text = "place,first,second\nford,59,3\nmill,57,4\n"
        assert [n.heard for n in read(text, heard="second", **{"read on": "bars"}).rows] == ["3", "4"]
        assert read(text, heard="second", **{"read on": "bars"}).read_on == "bars"
        with pytest.raises(FormatError, match="no column “third”"):
            read(text, heard="third")
        with pytest.raises(FormatError, match="none of what can be chosen"):
            read(text, heard="first", dash="perhaps")

    def test_either_end(self):
        found = read("place,end,report\nford,home,59\nford,mobile,57\nmill,,55\n")
        assert [n.end for n in found.rows] == ["home", "away", ""]
        with pytest.raises(FormatError, match="line 2: “left” is neither end"):
            read("place,end,report\nford,left,59\nmill,home,57\n")


class TestAColumnForEachAntenna:
    TEXT = "spot;km;Stub;Long Whip;crew;weather\nford;0,8;4;5;we;dry\nmill;1,2;-;55;we;dry\ngate;1,9;;barely;we;dry\n"

    def test_each_cell_is_a_report_and_the_rest_is_named(self):
        found = read(self.TEXT)
        assert told(found) == [
            ("ford", "Stub", "4"),
            ("ford", "Long Whip", "5"),
            ("mill", "Long Whip", "55"),
            ("gate", "Long Whip", "barely"),
        ]
        assert [n.where for n in found.rows][:2] == ["0,8 km"] * 2
        assert not found.in_turn and found.rows[0].factors == {"weather": "dry"}
        assert found.notes == ("one dash taken as not tried", "not used: crew")

    def test_a_dash_is_what_it_is_said_to_be(self):
        found = read(self.TEXT, dash="not heard")
        assert ("mill", "Stub", "nothing") in told(found) and len(found.rows) == 5
        assert "one dash taken as nothing heard" in found.notes

    def test_where_no_place_is_named_its_distance_is(self):
        for text in (
            "range,old antenna,new antenna\n100 m,good,clear\n200 m,weak,good\n",
            "km;old;new\n0,1;heard;heard\n0,2;nothing;heard\n",
        ):
            assert kind(text) == "field notes"
        found = read("range,old antenna,new antenna\n100 m,good,clear\n200 m,weak,good\n")
        assert [(n.place, n.where) for n in found.rows][1:3] == [("100 m", "100 m"), ("200 m", "200 m")]
        assert [
            n.place
            for n in read("Distance m,Tag A heard,Tag B heard\n10,9 of 10 heard,h h n\n20,1 of 10 heard,n\n").rows
        ][::2] == ["10 m", "20 m"]

    def test_several_readings_of_a_row_all_count(self):
        found = read("Ant,Spot,Bars,Mbps\nPatch,window,4,31\nWhip,window,3,22\n")
        assert told(found) == [
            ("window", "Patch", "4 bars"),
            ("window", "Patch", "31 Mbit/s"),
            ("window", "Whip", "3 bars"),
            ("window", "Whip", "22 Mbit/s"),
        ]

    def test_an_antenna_is_called_what_is_left_of_its_column(self):
        found = read("Point,Lat,Lon,RSSI Yagi,RSSI Whip (dBm)\n1,57.9,-11.2,-71,-80\n2,57.91,-11.2,-78,-88\n")
        assert told(found) == [
            ("Point 1", "Yagi", "-71 dBm"),
            ("Point 1", "Whip", "-80 dBm"),
            ("Point 2", "Yagi", "-78 dBm"),
            ("Point 2", "Whip", "-88 dBm"),
        ]
        front = read("Where,Front antenna,Back antenna\nshed,-71 dBm,-75 dBm\nbarn,-82,-84\nroad,-93,-97\n")
        assert {n.antenna for n in front.rows} == {"Front antenna", "Back antenna"}

    def test_a_column_for_each_place(self):
        found = read("Antenna,Ford 800 m,Mill,Gate\nDipole,59,57,n/a\nHalo,57,53,nothing\n")
        assert told(found) == [
            ("Ford 800 m", "Dipole", "59"),
            ("Mill", "Dipole", "57"),
            ("Ford 800 m", "Halo", "57"),
            ("Mill", "Halo", "53"),
            ("Gate", "Halo", "nothing"),
        ]
        assert kind("Antenna,Ford 800 m,Mill,Gate\nDipole,59,57,n/a\nHalo,57,53,nothing\n") == "field notes"

    def test_a_column_for_each_attempt_and_what_is_reckoned_from_them_is_none(self):
        text = "Site,Antenna,Try 1,Try 2,Average\nford,A,-71,-73,-72\nford,B,-80,x,-80\n"
        assert told(read(text)) == [("ford", "A", "-71"), ("ford", "A", "-73"), ("ford", "B", "-80")]
        assert read(text).notes == ("not used: Average",) and kind(text) == "field notes"


class TestBothEnds:
    def test_reports_sent_and_received(self):
        """What was sent says what was heard here; what was received, what they heard there."""
        text = "Date,To,Antenna,RST sent,RST rcvd,Power\n9 May,Harbour,Dipole,57,59,5 W\n9 May,Hill,Dipole,53,nothing,5 W\n"
        found = read(text)
        assert [(n.place, n.heard, n.end) for n in found.rows] == [
            ("Harbour", "57", "home"),
            ("Harbour", "59", "away"),
            ("Hill", "53", "home"),
            ("Hill", "nothing", "away"),
        ]
        assert found.rows[0].factors == {"day": "9 May", "power": "5 W"} and kind(text) == "field notes"

    def test_two_columns_of_reports_by_their_ends(self):
        found = read("landmark,home heard,car heard,antenna\nbridge,59,57,A\nhill,5/3,nothing,A\n")
        assert [(n.place, n.heard, n.end) for n in found.rows] == [
            ("bridge", "59", "home"),
            ("bridge", "57", "away"),
            ("hill", "5/3", "home"),
            ("hill", "nothing", "away"),
        ]

    def test_the_other_end_is_the_one_that_is_not_the_rest(self):
        chosen = {"heard": "first", "heard too": "second"}
        found = read("place,first,second\nford,59,57\nmill,57,53\n", **chosen)
        assert [n.end for n in found.rows] == ["", "other", "", "other"]


class TestRecognised:
    @pytest.mark.parametrize(
        "text",
        [
            "Place,Antenna,Report\nFord,Dipole,clear\nMill,Halo,barely\n",
            "location\tRST\nford\t59\nmill\t57\n",
            TestAColumnForEachAntenna.TEXT,
            "Calls\n\nwhere;antenna;heard\nford;A;R4 S7\nmill;B;31 Mbit/s\n",
            "#,Where,What,Antenna\n1,ford,R5 S7,A\n2,mill,R4 S3,B\n3,gate,clear,A\n",
            "Point,Lat,Lon,RSSI Yagi,RSSI Whip\n1,57.9,-11.2,-71,-80\n2,57.91,-11.2,-78,-88\n",
            "Landmark\tHome heard\tCar heard\nbridge\t59\t57\nchurch\t57\t53\n",
        ],
    )
    def test_as_notes(self, text):
        assert kind(text) == "field notes"

    @pytest.mark.parametrize(
        ("text", "other"),
        [
            ("time,lat,lon,rssi,waypoint\n0,57.9,-11.2,-80,3\n1,57.91,-11.2,-81,4\n", "log"),
            ('utc,location,rssi\n10:00:00,"57.9000, -11.2000",-80\n10:00:01,"57.9001, -11.2000",-81\n', "log"),
            ("time s,rssi,delay ms\n0,-80,30\n1,-81,31\n2,-82,30\n", "recording"),
            ("attenuation dB,bars\n0,5\n10,4\n20,3\n", "display"),
            ("angle,level\n0,-1\n90,-3\n180,-8\n270,-3\n", "cut"),
        ],
    )
    def test_what_is_none_stays_what_it_was(self, text, other):
        assert kind(text) == other

    def test_prose_is_no_table(self):
        with pytest.raises(FormatError):
            kind("We went to the ford, and then, in the rain, to the mill.\nIt was cold, and nobody heard us.\n")
        with pytest.raises(FormatError, match="nothing that was heard"):
            read("place,report\nford,\nmill,\n")
        with pytest.raises(FormatError, match="no column says what was heard"):
            read("place,crew\nford,we\nmill,they\n")

    def test_other_readers_still_say_what_is_wrong(self):
        with pytest.raises(FormatError, match="no column for a latitude or a longitude"):
            log.read_csv(b"place,report\nford,59\nmill,57\n", "x.csv")


PLAIN = st.text("abzé059/+-.'\"", min_size=1, max_size=8).filter(lambda w: not w.startswith("//"))
NAMES = st.text("abcdefghijklmnopqrstuvwxyzäøé", min_size=3, max_size=9).filter(
    lambda w: w not in ("nan", "inf", "null", "none")
)


class TestCells:
    @given(st.lists(st.tuples(NAMES, PLAIN, PLAIN), min_size=2, max_size=12), st.sampled_from(",;\t"))
    def test_as_a_spreadsheet_writes_them(self, rows, separator):
        """Whatever is in a cell, it comes back, with the line it stands in."""
        out = io.StringIO()
        writer = csv.writer(out, delimiter=separator, lineterminator="\n")
        writer.writerows([("place", "antenna", "report"), *rows])
        names, found = cells.cells(out.getvalue().encode(), "x.csv", 100)
        assert names == ["place", "antenna", "report"]
        assert found == [(i, [cell.strip() for cell in row]) for i, row in enumerate(rows, 2)]

    def test_a_cell_over_two_lines_and_rows_that_are_short_or_long(self):
        text = b'place,antenna,report\n\n# calm\nford,stub,59\nmill,"long\nwhip",55\ngate,stub\n'
        assert cells.cells(text, "x.csv", 9)[1] == [
            (4, ["ford", "stub", "59"]),
            (6, ["mill", "long whip", "55"]),
            (7, ["gate", "stub", ""]),
        ]
        with pytest.raises(FormatError, match="line 3: a line has more columns"):
            cells.cells(b"place,report\nford,59\nmill,57,11,x\ngate,57\n", "x.csv", 9)
        with pytest.raises(FormatError, match="more than 2 rows"):
            cells.cells(b"place,report\na,59\nb,57\nc,55\n", "x.csv", 2)
