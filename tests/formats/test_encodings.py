"""What other machines do to text: every reader takes every encoding and line end, and a million lines."""

import numpy as np
import pytest

from tallmast.formats import cut, log, sniff, touchstone
from tallmast.formats import gpx as gpx_format
from tallmast.formats.errors import FormatError

SWEEP = "! measured outdoors, 14 °C\n# MHz S RI R 50\n860 0.1 0.2\n870 0.3 -0.1\n880 0.2 0.05\n"
CUT = "# Gerät 2, 14 °C\nWinkel °;Pegel dB\n" + "".join(f"{a};{-abs(180 - a) / 10:.1f}\n" for a in range(0, 360, 10))
LOG = "time,lat,lon,rssi\n" + "".join(f"{i},{57.9 + i / 1e4:.5f},-11.2,{-60 - i}\n" for i in range(30))
GPX = (
    '<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="57.9" lon="-11.2">'
    "<name>Höhe</name></wpt></gpx>"
)

ENCODINGS = ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"]
ENDS = {"unix": "\n", "windows": "\r\n", "old": "\r"}


def read_sweep(data: bytes) -> np.ndarray:
    return touchstone.read(data, "x.s1p").gamma


def read_cut(data: bytes) -> np.ndarray:
    return cut.read(data, "x.csv").level_db


def read_log(data: bytes) -> np.ndarray:
    return log.read_csv(data, "x.csv").columns["level_dbm"]


READERS = {"touchstone": (SWEEP, read_sweep), "cut": (CUT, read_cut), "log": (LOG, read_log)}


@pytest.mark.parametrize("kind", READERS)
@pytest.mark.parametrize("encoding", ENCODINGS)
@pytest.mark.parametrize("end", ENDS)
def test_every_encoding_and_line_end_reads_alike(kind, encoding, end):
    text, reader = READERS[kind]
    data = text.replace("\n", ENDS[end]).encode(encoding)
    np.testing.assert_array_equal(reader(data), reader(text.encode()))
    assert sniff.kind_of(data, "x.dat") == kind


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16"])
def test_gpx_in_every_encoding(encoding):
    assert gpx_format.read(GPX.encode(encoding), "x.gpx").waypoints[0].name == "Höhe"


@pytest.mark.parametrize("kind", READERS)
def test_half_a_utf16_file_is_told(kind):
    text, reader = READERS[kind]
    with pytest.raises(FormatError):
        reader(text.encode("utf-16")[:-1] + b"\xd8")


@pytest.mark.parametrize("kind", READERS)
@pytest.mark.parametrize("data", [b"", b"  \n\n", b"\0\1\2\3\4\5\6\7" * 50, b"\xff\xd8\xff\xe0" + bytes(100)])
def test_empty_and_binary_are_told(kind, data):
    _, reader = READERS[kind]
    with pytest.raises(FormatError, match=r"x\."):
        reader(data)


def test_a_log_of_a_million_lines():
    n = 1_000_000
    lat = 57.9 + np.arange(n) * 1e-7
    data = ("lat,lon,rssi\n" + "\n".join(f"{v:.7f},-11.2,-{60 + i % 50}" for i, v in enumerate(lat))).encode()
    read = log.read_csv(data, "long.csv")
    assert len(read.columns["level_dbm"]) == n
    np.testing.assert_allclose(read.columns["latitude_deg"][[0, -1]], lat[[0, -1]], atol=1e-7)


def test_a_wrong_word_far_down_a_long_log_is_named_by_its_line():
    rows = [f"57.9{i % 10},-11.2,-{60 + i % 50}" for i in range(400_000)]
    rows[350_000] = "57.9,-11.2,loud"
    data = ("lat,lon,rssi\n" + "\n".join(rows)).encode()
    with pytest.raises(FormatError, match="“loud”") as caught:
        log.read_csv(data, "long.csv")
    assert caught.value.line == 350_002


def test_a_cut_of_a_million_lines():
    n = 1_000_000
    angles = np.arange(n) * 360.0 / n
    data = ("angle,dB\n" + "\n".join(f"{a:.4f},{-a / 36:.3f}" for a in angles)).encode()
    assert len(cut.read(data, "long.csv").level_db) == n


def test_blanks_after_separators_and_comments_between_lines():
    data = b"lat, lon, rssi\n# a note\n57.9, -11.2, -60\n57.91, -11.2, -61 # gust\n57.92, -11.2, -62\n"
    read = log.read_csv(data, "x.csv")
    assert read.columns["level_dbm"].tolist() == [-60, -61, -62]


def test_a_track_of_a_million_lines():
    n = 100_000
    points = "".join(
        f'<trkpt\nlat="{57.9 + i * 1e-7:.7f}"\nlon="-11.2">\n<ele>4</ele>\n<extensions>\n<level>\n{-60 - i % 50}\n'
        "</level>\n</extensions>\n</trkpt>\n"
        for i in range(n)
    )
    start = '<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>\n'
    read = gpx_format.read(f"{start}{points}</trkseg></trk></gpx>\n".encode(), "long.gpx")
    assert read.track is not None
    assert len(read.track.columns["latitude_deg"]) == n
    assert read.track.columns["latitude_deg"][-1] == pytest.approx(57.9 + (n - 1) * 1e-7, abs=1e-9)
    assert read.track.columns["level_dbm"][[0, -1]].tolist() == [-60, -109]
