"""Pattern cuts, logs and GPX: real-looking files, and every way in which they can be wrong."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tallmast.formats import cut, cuts, display_log, gain_table, log, recording, sniff, text
from tallmast.formats import gpx as gpx_format
from tallmast.formats.errors import FormatError

ANGLES = np.arange(0, 360, 10)
LEVELS = -20 + 20 * np.cos(np.radians(ANGLES))


def cut_text(separator=",", decimal=".", header="angle deg,level dB", values=LEVELS) -> bytes:
    lines = [header.replace(",", separator)] if header else []
    lines += [f"{a}{separator}{v:.2f}".replace(".", decimal) for a, v in zip(ANGLES, values, strict=True)]
    return "\n".join(lines).encode()


class TestCut:
    @pytest.mark.parametrize(
        ("separator", "decimal"), [(",", "."), (";", "."), (";", ","), ("\t", "."), ("\t", ","), (" ", ".")]
    )
    @pytest.mark.parametrize("header", ["angle,level_dB", ""])
    def test_separators_decimals_and_headers(self, separator, decimal, header):
        read = cut.read(cut_text(separator, decimal, header), "c.csv")
        np.testing.assert_allclose(read.level_db, LEVELS, atol=0.006)
        np.testing.assert_allclose(read.angle_deg, ANGLES)

    def test_relative_field_becomes_decibels(self):
        field = np.clip(np.cos(np.radians(ANGLES)), 0.05, 1)
        read = cut.read(cut_text(values=field, header="azimuth,relative field"), "c.csv")
        assert read.scale == "relative field"
        assert read.level_db.min() == pytest.approx(-26.02, abs=0.1)

    def test_values_up_to_one_without_a_unit_are_taken_as_field_and_it_is_said(self):
        read = cut.read(cut_text(values=np.linspace(0.1, 1, 36), header=""), "c.csv")
        assert read.scale == "relative field"
        assert "no unit written" in read.notes[0]
        assert cut.read(cut_text(values=np.linspace(0.1, 1, 36), header=""), "c.csv", {"scale": "dB"}).scale == "dB"

    def test_columns_in_the_other_order(self):
        rows = "\n".join(f"{v:.2f};{a}" for a, v in zip(ANGLES, LEVELS, strict=True))
        read = cut.read(f"gain dBi;azimuth\n{rows}".encode(), "c.csv")
        assert read.taken == {"angle": "azimuth", "level": "gain dBi"}

    @pytest.mark.parametrize(
        ("data", "words", "line"),
        [
            (b"angle,dB\n", "no data under it", 1),
            (
                b"angle,dB\n0,1\n10,nan\n" + b"".join(b"%d,1\n" % a for a in range(20, 200, 10)),
                "missing or not finite",
                3,
            ),
            (b"angle,dB\n" + b"".join(b"%d,1\n" % a for a in range(0, 50, 10)), "fewer than eight", None),
            (b"angle\n1\n2\n3\n", "only one column", 2),
            (b"angle,dB\n" + b"".join(b"%d,1\n" % a for a in range(0, 360, 10)) + b"2000,1\n", "2000°", 38),
            (b"angle,dB\n" + b"".join(b"%d,1\n" % a for a in range(0, 360, 10)) + b"5,loud\n", "is not a number", 38),
        ],
    )
    def test_what_is_wrong_is_told(self, data, words, line):
        with pytest.raises(FormatError) as caught:
            cut.read(data, "c.csv")
        assert words in str(caught.value)
        assert caught.value.line == line


LOG_ROWS = [(i * 2, 57.9 + i * 1e-4, -11.2 + i * 1e-4, -70 - i * 0.3) for i in range(60)]


def log_text(header="time,lat,lon,rssi", rows=LOG_ROWS) -> bytes:
    lines = [header] if header else []
    return "\n".join(lines + [",".join(f"{v:.6f}" for v in row) for row in rows]).encode()


class TestLog:
    @pytest.mark.parametrize(
        "header", ["time,lat,lon,rssi", "t,Latitude,Longitude,Signal dBm", "Zeit,Breite,Länge,Pegel level", ""]
    )
    def test_columns_are_guessed(self, header):
        read = log.read_csv(log_text(header), "l.csv")
        np.testing.assert_allclose(read.columns["latitude_deg"], [r[1] for r in LOG_ROWS])
        np.testing.assert_allclose(read.columns["level_dbm"], [r[3] for r in LOG_ROWS], atol=1e-6)

    def test_the_guess_can_be_corrected(self):
        data = log_text("time,lat,lon,x")
        with pytest.raises(FormatError, match="a level was found"):
            log.read_csv(data, "l.csv")
        assert log.read_csv(data, "l.csv", {"level_dbm": "x"}).columns["level_dbm"][0] == -70

    def test_an_empty_level_is_not_heard(self):
        data = log_text().decode().replace("-70.300000", "").encode()
        read = log.read_csv(data, "l.csv")
        assert np.isnan(read.columns["level_dbm"]).sum() == 1
        assert "not heard" in read.notes[0]

    @pytest.mark.parametrize(
        ("old", "new", "words"),
        [
            ("57.900000", "97.9", "is no latitude"),
            ("-11.200000", "inf", "inf is no longitude"),
            ("-70.000000", "700", "no level in dBm"),
            ("-70.000000", "inf", "not finite"),
        ],
    )
    def test_what_is_wrong_is_told_with_its_line(self, old, new, words):
        with pytest.raises(FormatError) as caught:
            log.read_csv(log_text().decode().replace(old, new, 1).encode(), "l.csv")
        assert words in str(caught.value)
        assert caught.value.line == 2

    def test_cells_that_a_quoted_cell_over_two_lines_hides_are_not_dropped_in_silence(self):
        data = b'time;lat;lon;rssi\n0;57.9;"-11.2\n";-70;1\n1;57.9;-11.2;-71\n2;57.9;-11.2;-72\n'
        with pytest.raises(FormatError, match="more columns"):
            log.read_csv(data, "l.csv")

    def test_a_line_with_too_many_columns(self):
        data = log_text() + b"\n1,2,3,4,5,6\n"
        with pytest.raises(FormatError, match="more columns") as caught:
            log.read_csv(data, "l.csv")
        assert caught.value.line == 62


GPX = """<?xml version="1.0"?><gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">
<wpt lat="57.91" lon="-11.19"><name>Rock</name></wpt>
<trk><trkseg>
<trkpt lat="57.90" lon="-11.20"><ele>4</ele><cmt>-71.5 dBm</cmt></trkpt>
<trkpt lat="57.901" lon="-11.199"><ele>4</ele><extensions><rssi>-75</rssi></extensions></trkpt>
<trkpt lat="57.902" lon="-11.198"><ele>5</ele></trkpt>
</trkseg></trk></gpx>"""

BOMB = """<?xml version="1.0"?><!DOCTYPE gpx [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;">]><gpx version="1.1"><wpt lat="1" lon="1"><name>&b;</name></wpt></gpx>"""


class TestGpx:
    def test_waypoints_and_levels(self):
        read = gpx_format.read(GPX.encode(), "t.gpx")
        assert [w.name for w in read.waypoints] == ["Rock"]
        np.testing.assert_array_equal(read.track.columns["level_dbm"], [-71.5, -75, np.nan])
        assert read.track.columns["height_m"].tolist() == [4, 4, 5]

    def test_a_bomb_is_refused(self):
        with pytest.raises(FormatError, match="entities"):
            gpx_format.read(BOMB.encode(), "t.gpx")

    def test_cut_off_xml_names_its_line(self):
        with pytest.raises(FormatError, match="broken or cut off") as caught:
            gpx_format.read(GPX[:300].encode(), "t.gpx")
        assert caught.value.line

    def test_nothing_in_it_and_impossible_positions(self):
        with pytest.raises(FormatError, match="neither a track"):
            gpx_format.read(b"<gpx version='1.1' creator='x'></gpx>", "t.gpx")
        with pytest.raises(FormatError, match="no possible position"):
            gpx_format.read(GPX.replace("57.91", "99").encode(), "t.gpx")


class TestSniff:
    @pytest.mark.parametrize(
        ("data", "name", "kind"),
        [
            (b"# MHz S RI R 50\n860 .1 .1\n", "odd.txt", "touchstone"), (GPX.encode(), "x.csv", "gpx"), (log_text(), "x.s1p.csv", "log"),
            (cut_text(), "x.dat", "cut"), (b"\x89PNG\r\n\x1a\n...", "x.csv", "photo"), (b"SQLite format 3\0", "x", "notebook"),
        ],
    )  # fmt: skip
    def test_by_content_not_by_name(self, data, name, kind):
        assert sniff.kind_of(data, name) == kind

    def test_other_xml_is_refused(self):
        with pytest.raises(FormatError, match="not GPX"):
            sniff.kind_of(b"<html></html>", "x.gpx")


def test_loading_tells_what_is_wrong_with_a_path(tmp_path):
    with pytest.raises(FormatError, match="not there any more"):
        text.load(tmp_path / "gone.csv")
    with pytest.raises(FormatError, match="this is a folder"):
        text.load(tmp_path)
    (tmp_path / "empty").write_bytes(b"")
    with pytest.raises(FormatError, match="empty"):
        text.load(tmp_path / "empty")


@given(st.binary(max_size=400), st.integers(0, 60), st.sampled_from(["cut", "log", "gpx"]))
@settings(max_examples=200)  # the first imports the parser
def test_mutated_files_are_read_or_refused_never_worse(noise, at, kind):
    data = {"cut": cut_text(), "log": log_text(), "gpx": GPX.encode()}[kind]
    data = data[:at] + noise + data[at + len(noise) :]
    reader = {"cut": cut.read, "log": log.read_csv, "gpx": gpx_format.read}[kind]
    for act in (reader, sniff.kind_of):
        try:
            act(data, "x")
        except FormatError as error:
            assert str(error).startswith("x")


class TestGainTable:
    def test_columns_by_their_names_and_units(self):
        read = gain_table.read(b"Freq GHz,Gain dBd,uncertainty\n0.9,4.0,0.5\n0.1,-3,1\n", "g.csv")
        assert read.frequency_hz.tolist() == [1e8, 9e8]
        assert read.gain_dbi.tolist() == [pytest.approx(-0.85), pytest.approx(6.15)]
        assert read.u_db.tolist() == [1.0, 0.5]
        assert len(read.notes) == 2

    def test_antenna_factors_become_gain(self):
        """A half-wave dipole at 300 MHz has AF = 20 log₁₀(9.73/(1·√1.64)) = 17.6 dB/m (CISPR 16-1-6 form)."""
        read = gain_table.read(b"frequency MHz;AF dB/m\n299,79;17,61\n", "g.csv")
        assert read.gain_dbi[0] == pytest.approx(2.15, abs=0.02)

    @pytest.mark.parametrize(
        ("data", "words"),
        [
            (b"a,b\n1,2\n", "no columns named"),
            (b"frequency MHz,gain dBi\n-1,2\n", "zero or less"),
            (b"frequency MHz,gain dBi\n100,nan\n", "line 2"),
            (b"frequency MHz,gain dBi\n100,2\n200,300\n", "line 3"),
            (b"", "the file is empty"),
        ],
    )
    def test_what_is_wrong_is_told_with_its_line(self, data, words):
        with pytest.raises(FormatError, match=words):
            gain_table.read(data, "g.csv")


class TestCuts:
    @staticmethod
    def side_by_side(names: str, form: str = "{a},{one:.1f},{two:.1f}") -> bytes:
        rows = (form.format(a=a, one=-20 - 10 * abs(np.sin(np.radians(a / 2))), two=-24.0) for a in range(0, 360, 15))
        return (f"angle deg,{names}\n" + "\n".join(rows) + "\n").encode()

    def test_each_column_is_a_cut_of_its_antenna(self):
        data = self.side_by_side("Panel dBm,Long Whip (dBm)")
        assert sniff.kind_of(data, "x.csv") == "cuts"
        read = cuts.read(data, "x.csv")
        assert [name for name, _ in read.cuts] == ["Panel", "Long Whip"]
        assert read.cuts[0][1].level_db[12] == -30.0 and set(read.cuts[1][1].level_db) == {-24.0}

    @pytest.mark.parametrize(
        "names", ["level dB,phase", "level,temperature", "gain dB,reference dB", "co dB,cross dB", "V,H", "mean dB,std"]
    )
    def test_what_stands_beside_one_cut_is_no_antenna(self, names):
        assert sniff.kind_of(self.side_by_side(names), "x.csv") == "cut"

    def test_what_is_wrong_is_told(self):
        with pytest.raises(FormatError, match="no column is called by an antenna"):
            cuts.read(self.side_by_side("level,phase"), "x.csv")
        with pytest.raises(FormatError, match="fewer than eight"):
            cuts.read(b"angle,A,B\n0,-1,-2\n90,-3,-2\n180,-5,-2\n", "x.csv")


class TestDisplayLog:
    def test_columns_by_their_names(self):
        read = display_log.read(b"time;attenuation dB;bars\n1;0;5\n2;10;3\n3;20;\n", "d.csv")
        assert read.attenuation_db.tolist() == [0, 10, 20]
        assert read.shown.tolist() == [5, 3, 0]
        assert "empty readings" in read.notes[0]

    @pytest.mark.parametrize(
        ("data", "words"),
        [
            (b"x,y\n1,2\n", "named an attenuation"),
            (b"attenuation,shown\n0,5\n-3,4\n6,3\n", "line 3"),
            (b"attenuation,shown\n0,5\n0,4\n6,3\n", "fewer than three"),
        ],
    )
    def test_what_is_wrong_is_told(self, data, words):
        with pytest.raises(FormatError, match=words):
            display_log.read(data, "d.csv")

    def test_a_hundred_thousand_readings(self):
        rows = "".join(f"{a % 60},{5 - a % 60 // 12}\n" for a in range(100_000))
        assert len(display_log.read(f"attenuation dB,bars\n{rows}".encode(), "d.csv").shown) == 100_000


def test_every_format_says_what_it_sees_the_surest_first():
    data = b"frequency MHz,SWR,attenuation dB\n860,1.2,0\n865,1.3,3\n870,1.4,6\n"
    seen = sniff.seen(data, "x.csv")
    assert [row.kind for row, _ in seen] == ["display", "sweep table", "recording"]
    assert [what.by for _, what in seen] == [
        "an attenuation in “attenuation dB”",
        "a frequency in “frequency MHz”",
        "a table whose header says nothing that is known here",
    ]
    assert [row.kind for row, _ in sniff.seen(b"\x89PNG\r\n\x1a\n\xff\xfe", "x.csv")] == ["photo"]


@pytest.mark.parametrize("row", sniff.TABLES, ids=lambda row: row.kind)
def test_a_table_read_again_by_the_columns_it_was_taken_by_is_the_same(row):
    """What stands in the sheet of a table is how it was read: kept unchanged, it is read so."""
    data = {
        "log": log_text(),
        "sweep table": b"MHz,re,im\n860,.1,.2\n865,.2,.1\n870,.3,.1\n",
        "design": b"theta,phi,gain dB\n" + b"".join(b"%d,%d,-%d\n" % (i % 7 * 30, i * 10, i % 9) for i in range(36)),
        "gain table": b"Freq GHz,Gain dBd,uncertainty\n0.9,4.0,0.5\n0.1,-3,1\n",
        "display": b"attenuation dB,bars\n0,5\n10,3\n20,1\n",
        "recording": b"time ms,Mbit/s,delay ms\n0,31,28\n500,30,29\n1000,,90\n",
        "meter table": b"antenna;MHz;SWR;fixture\nStub;144;1,8;car\nWhip;145;1:1.3;car\n",
        "field notes": b"place;km;antenna;report;end\nford;0,8;A;59;far\nmill;1,2;B;barely;home\n",
        "cut": cut_text(),
        "cuts": b"angle,Panel,Whip\n" + b"".join(b"%d,-%d,-9\n" % (i * 10, i) for i in range(36)),
    }[row.kind]
    first = row.read(data, "x.csv", None)
    taken = row.taken(first)
    assert set(taken) == {role.key for role in row.roles}
    again = row.read(data, "x.csv", {k: v for k, v in taken.items() if v})
    assert row.taken(again) == taken
    for role in (role for role in row.roles if not role.choices):
        with pytest.raises(FormatError, match="there is no column “no such one”"):
            row.read(data, "x.csv", {**{k: v for k, v in taken.items() if v}, role.key: "no such one"})


def test_only_columns_of_its_own_roles_are_taken_from_a_memory():
    gains = sniff.FORMATS["gain table"]
    assert gains.takes({"frequency": "f", "unit": "MHz", "gain": "g", "meaning": "dBi", "u": ""})
    assert not gains.takes({"frequency": "f", "unit": "furlong", "gain": "g"})
    assert not gains.takes({"latitude_deg": "a"})


def test_each_table_is_told_by_its_content():
    assert sniff.kind_of(b"frequency MHz,gain dBi\n100,2\n200,3\n", "x.csv") == "gain table"
    assert sniff.kind_of(b"attenuation dB,shown\n0,5\n2,4\n", "x.csv") == "display"
    assert sniff.kind_of(b"frequency MHz,SWR\n100,2\n200,3\n300,2\n", "x.csv") == "sweep table"


@given(st.binary(max_size=300) | st.text(alphabet="frequncygaidB,;.-0123456789\n ", max_size=300).map(str.encode))
def test_mutated_tables_are_read_or_told(data):
    for reader in (gain_table.read, display_log.read):
        for start in (b"", b"frequency MHz,gain dBi\n", b"attenuation dB,shown\n"):
            try:
                reader(start + data, "x.csv")
            except FormatError as error:
                assert "x.csv" in str(error)


class TestRecordings:
    """A time, no position: readings in time."""

    def test_seconds_milliseconds_and_clocks(self):
        for written, step in (
            (b"time s,Mbit/s\n5,30\n6,31\n8,29\n", 1.0),
            (b"time ms,Mbit/s\n5000,30\n6000,31\n8000,29\n", 1.0),
            (b"time,Mbit/s\n23:59:59,30\n00:00:00,31\n00:00:02,29\n", 1.0),
            (b"timestamp,Mbit/s\n1748000000000,30\n1748000001000,31\n1748000003000,29\n", 1.0),
        ):
            found = recording.read(written, "x.csv")
            assert found.time_s.tolist() == [0.0, step, 3.0 * step]
            assert found.values["first"].tolist() == [30.0, 31.0, 29.0] and found.read_on == {"first": "bit rate"}

    def test_several_quantities_each_by_what_its_header_says(self):
        found = recording.read(b"t;rssi;delay ms;voltage;LQ\n0;-71;28;3,7;99\n1;-72;;3,7;98\n", "x.csv")
        assert found.read_on == {"first": "level in dBm", "second": "delay", "third": "packet rate"}
        assert np.isnan(found.values["second"][1]) and any("nothing received" in n for n in found.notes)
        assert "voltage" not in found.taken.values(), "no column is taken that the header does not speak for"

    def test_branches_and_ends_by_what_the_header_says_and_as_they_are_chosen(self):
        text = (
            b"time s;rssi left dBm;rssi right dBm;ant B dBm;home Mbit/s;LQ\n0;-71;-80;-75;31;99\n1;-72;-81;-76;30;98\n"
        )
        found = recording.read(text, "x.csv")
        assert found.heard_at == {"first": "left", "second": "right", "third": "B", "fourth": "home", "fifth": ""}
        assert found.read_on["fourth"] == "bit rate"
        chosen = recording.read(text, "x.csv", {**found.taken, "first at": "", "fifth at": "away"})
        assert (chosen.heard_at["first"], chosen.heard_at["fifth"]) == ("", "away")
        with pytest.raises(FormatError, match="no end and no branch"):
            recording.read(text, "x.csv", {**found.taken, "first at": "above"})

    def test_it_is_no_cut_and_a_cut_is_no_recording(self):
        assert sniff.kind_of(b"time s,level dBm\n0,-70\n1,-71\n2,-72\n", "x.csv") == "recording"
        assert sniff.kind_of(cut_text(), "x.csv") == "cut"
        assert sniff.kind_of(log_text(), "x.csv") == "log"

    @pytest.mark.parametrize(
        ("text", "what"),
        [
            (b"time s,Mbit/s\n5,30\n4,31\n", "the time goes back"),
            (b"time s,Mbit/s\n5,30\n5,31\n", "no time at all"),
            (b"time s,thing\n0,30\n1,31\n", "no column says what was read"),
            (b"time s,rssi dBm\n0,-70\n1,900\n", "no level in dBm"),
            (b"time,Mbit/s\nnoon,30\nlater,31\n", "no time of day"),
            (b"time s,Mbit/s\n0,30\n9e9,31\n", "days"),
        ],
    )
    def test_what_is_none_is_refused_with_what_is_wrong(self, text, what):
        with pytest.raises(FormatError, match=what):
            recording.read(text, "x.csv")


@pytest.mark.parametrize(
    ("header", "values", "down_db"),
    [
        ("level µV", (40.0, 20.0), 6.02),
        ("E V/m", (0.004, 0.002), 6.02),
        ("volts", (2.0, 1.0), 6.02),
        ("mW", (4.0, 2.0), 3.01),
        ("level dBµV", (40.0, 20.0), 20.0),
        ("level dBm", (-40.0, -60.0), 20.0),
    ],
)
def test_a_cut_in_volts_and_watts_is_told_in_decibels(header, values, down_db):
    """Half the voltage is 6.02 dB less, half the power 3.01 dB."""
    rows = "\n".join(f"{a},{values[0 if a < 180 else 1]}" for a in range(0, 360, 10))
    found = cut.read(f"angle deg,{header}\n{rows}\n".encode(), "x.csv")
    assert np.ptp(found.level_db) == pytest.approx(down_db, abs=0.01)
    assert not any("no unit" in note for note in found.notes)
