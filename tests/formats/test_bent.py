"""Readers on files that are odd, bent or made to be slow."""

import time

import numpy as np
import pytest

from tallmast.formats import gpx as gpx_format
from tallmast.formats import log, sweep_table, table, text, touchstone
from tallmast.formats.errors import FormatError
from tallmast.formats.sniff import kind_of

from . import mutated


def test_a_few_hundred_bent_files_raise_nothing_but_format_errors(capsys):
    assert mutated.main(250, seed=7) == 0, capsys.readouterr().out


def test_bent_rasters_and_spreadsheets_raise_nothing_but_format_errors(capsys):
    assert mutated.main_native(60, seed=7) == 0, capsys.readouterr().out


@pytest.mark.parametrize(
    ("start", "what"),
    [
        (b"\0\0\0\x20ftypisom\0\0\2\0isomiso2", "a video"),
        (b"\0\0\0\x14ftypqt  \0\0\2\0", "a video"),
        (b"\x1aE\xdf\xa3\x9fB\x86\x81\1", "a video"),
        (b"RIFF\x24\0\1\0AVI LIST", "a video"),
        (b"G\x40\0" + b"\xff" * 185 + b"G\x40\1" + b"\xff" * 185 + b"G\x40\2", "a video"),
        (b"\0\0\0\x20ftypM4A \0\0\2\0", "a sound recording"),
        (b"RIFF\x24\0\1\0WAVEfmt ", "a sound recording"),
        (b"OggS\0\2", "a sound recording"),
        (b"fLaC\0\0", "a sound recording"),
        (b"ID3\4\0", "a sound recording"),
    ],
)
def test_a_recording_is_told_as_what_it_is(start, what):
    with pytest.raises(FormatError, match=f"{what}, not text.*Write down what it shows"):
        kind_of(start + bytes(range(256)) * 20, "walk")


def test_a_file_of_zeros_is_not_called_empty(tmp_path):
    path = tmp_path / "sweep.s1p"
    path.write_bytes(b"\0" * 2000)
    with pytest.raises(FormatError, match=r"nothing in it but zeros.*copy it again"):
        text.load(path)


def test_a_header_alone_is_told():
    for row in mutated.FORMATS.values():
        if row.roles:
            with pytest.raises(FormatError):
                row.read(b"#, Hz , MA R 50, 1-30T", "a.s3p", None)


def test_numbers_beyond_any_are_told(tmp_path):
    for line in (b"1e999 0.1 0.2", b"868 1e999 0.2", b"868 0.1 -1e999"):
        data = b"# MHz S RI R 50\n867 0.1 0.1\n" + line + b"\n869 0.1 0.1\n870 0.1 0.1\n"
        with pytest.raises(FormatError, match=r"not finite|above 10 THz"):
            touchstone.read(data, "a.s1p")
    with pytest.raises(FormatError):
        touchstone.read(b"# MHz S RI R 1e999\n867 0.1 0.1\n868 0.1 0.1\n869 0.1 0.1\n", "a.s1p")


@pytest.mark.parametrize(
    "point", ['lat="x" lon="1"', 'lat="95" lon="1"', 'lat="1e999" lon="1"', 'lat="nan" lon="1"', ""]
)
def test_a_point_without_a_position_is_told_with_its_line(point):
    data = f'<gpx>\n<trk><trkseg>\n<trkpt lat="57.9" lon="-11.2"/>\n<trkpt {point}/>\n</trkseg></trk></gpx>'
    with pytest.raises(FormatError) as told:
        gpx_format.read(data.encode(), "t.gpx")
    assert told.value.line == 4


@pytest.mark.parametrize("read", [touchstone.read, table.read, kind_of])
def test_a_line_of_digits_takes_no_time(read):
    began = time.monotonic()
    head = b"# MHz S RI R 50\n" if read is touchstone.read else b""
    with pytest.raises(FormatError):
        read(head + b"1" * 400_000 + b"\n", "x.csv")
    assert time.monotonic() - began < 1.0


@pytest.mark.parametrize("gap", ["\n", "# a remark\n", "! a remark\n", "// a remark\n", "   \n", "\t\n\n"])
def test_line_numbers_are_those_of_the_file(gap):
    text = "frequency MHz;SWR\n860;1.5\n" + gap + "861;1.4\n" + gap + "862;0.7\n863;1.2\n"
    wrong = text.split("\n").index("862;0.7") + 1
    with pytest.raises(FormatError) as told:
        sweep_table.read(text.encode(), "x.csv")
    assert told.value.line == wrong
    bad = text.replace("862;0.7", "862;odd")
    with pytest.raises(FormatError) as told:
        sweep_table.read(bad.encode(), "x.csv")
    assert told.value.line == wrong


def test_a_comma_inside_quotes_shifts_no_column():
    text = 'frequency MHz,"SWR, at 21 C",temperature\n' + "".join(f"{860 + i},1.{20 + i},21\n" for i in range(5))
    read = sweep_table.read(text.encode(), "x.csv")
    assert read.mapping.first == "SWR, at 21 C"
    assert abs(read.reflection.gamma[0]) == pytest.approx(0.2 / 2.2)


@pytest.mark.parametrize(
    ("header", "row"),
    [
        ("frequency MHz,SWR", "1e308,1.2"),
        ("time,lat,lon,rssi", "inf,57.9,-11.2,-80"),
        ("time,lat,lon,rssi,alt", "1,57.9,-11.2,-80,1e30"),
        ("time,lat,lon,rssi", "1,57.9,-11.2,-1e31"),
        ("frequency MHz,gain dBi", "1e308,2"),
    ],
)
def test_values_that_can_t_be_are_refused_with_their_line(header, row):
    from tallmast.formats import gain_table

    good = {"time": "5,57.9,-11.2,-80" + (",3" if "alt" in header else ""), "freq": "860,1.2"}[header[:4]]
    text = f"{header}\n{good}\n{row}\n{good}\n{good}\n"
    reader = log.read_csv if header.startswith("time") else gain_table.read if "gain" in header else sweep_table.read
    with pytest.raises(FormatError) as told:
        reader(text.encode(), "x.csv")
    assert told.value.line == 3


def gpx(points: str) -> bytes:
    return f'<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{points}</trkseg></trk></gpx>'.encode()


def test_a_track_keeps_its_times_where_one_is_missing():
    one = '<trkpt lat="57.9" lon="-11.2"><time>2026-05-01T10:00:0%dZ</time></trkpt>'
    read = gpx_format.read(gpx(one % 1 + '<trkpt lat="57.9" lon="-11.2"></trkpt>' + one % 3), "t.gpx").track
    assert np.isfinite(read.columns["time_s"]).tolist() == [True, False, True]
    assert "one point of 3 has no time" in read.notes


def test_tracks_made_to_be_slow_are_refused():
    began = time.monotonic()
    with pytest.raises(FormatError, match="deeper than any track"):
        gpx_format.read(gpx("<a>" * 5000 + "</a>" * 5000), "t.gpx")
    with pytest.raises(FormatError, match="neither a track nor waypoints"):
        gpx_format.read(b"<gpx>" + b"<a/>" * 200_000 + b"</gpx>", "t.gpx")
    assert time.monotonic() - began < 2.0


def test_a_bare_sweep_without_a_header_is_no_log():
    text = "".join(f"{868e6 + 1e5 * i:.0f} 0.1{i} -0.2{i}\n" for i in range(9))
    assert kind_of(text.encode(), "x.txt") == "sweep table"
    assert sweep_table.read(text.encode(), "x.txt").reflection.gamma[1] == pytest.approx(0.11 - 0.21j)


def test_a_port_of_many_can_be_chosen():
    rows = b"".join(b"%d %s\n" % (100 + i, b" ".join(b"0.%d 0" % (k + 1) for k in range(9))) for i in range(4))
    data = b"# MHz S RI R 50\n" + rows
    assert touchstone.read(data, "x.s3p", 3).gamma[0] == pytest.approx(0.9)
    assert touchstone.read(data, "x.s3p").ports == 3
    with pytest.raises(FormatError, match="there is no port 4"):
        touchstone.read(data, "x.s3p", 4)


def test_messages_stay_short_and_are_our_own():
    with pytest.raises(FormatError) as told:
        log.read_csv(
            (
                ",".join(f"some very long column name {i}" for i in range(300)) + "\n" + ",".join("1" * 300) + "\n"
            ).encode(),
            "x" * 300 + ".csv",
        )
    assert len(str(told.value)) < 600


@pytest.mark.parametrize("word", ["Number of Ports", "Number of Frequencies"])
def test_a_count_of_thousands_of_digits_is_told_like_any_other(word):
    text = f"[Version] 2.0\n# Hz S RI R 50\n[{word}] {'1' * 5000}\n[Network Data]\n1 0 0\n2 0 0\n3 0 0\n"
    with pytest.raises(FormatError, match=r"ports|frequencies") as told:
        touchstone.read(text.encode(), "x.s1p")
    assert len(str(told.value)) < 300
