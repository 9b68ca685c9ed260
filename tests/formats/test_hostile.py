"""Files that were made, or broken, so that reading them would never end or take all memory: each is told in a moment, and by what."""

import contextlib
import io
import struct
import time
import zipfile

import pytest

from tallmast.formats import gpx as gpx_format
from tallmast.formats.apart import Reader
from tallmast.formats.arrived import load_all
from tallmast.formats.errors import FormatError

SOON_S = 30.0
"""On a slow machine, the reader's own start in it."""


def told(path) -> str:
    began = time.monotonic()
    with pytest.raises(FormatError) as error:
        found = load_all(path)
        raise next(one for one in found if isinstance(one, Exception))
    assert time.monotonic() - began < SOON_S
    return str(error.value)


def test_an_ascii_grid_cut_off(tmp_path):
    path = tmp_path / "cut.asc"
    path.write_text("ncols 40000\nnrows 40000\nxllcorner -11.3\nyllcorner 57.8\ncellsize 0.00001\n" + "1 " * 80)
    assert "it is cut off" in told(path)


@pytest.mark.parametrize("order", ["<", ">"])
def test_a_tiff_of_sixteen_thousand_bands(tmp_path, order):
    mark = b"II*\0" if order == "<" else b"MM\0*"
    tags = [
        (256, 4, 1, 8),
        (257, 4, 1, 8),
        (258, 3, 1, 16),
        (262, 3, 1, 1),
        (273, 4, 1, 200),
        (277, 3, 1, 16385),
        (278, 4, 1, 8),
    ]
    body = b"".join(
        struct.pack(f"{order}HHI", tag, kind, count)
        + (struct.pack(f"{order}HH", value, 0) if kind == 3 else struct.pack(f"{order}I", value))
        for tag, kind, count, value in tags
    )
    path = tmp_path / "bands.tif"
    path.write_bytes(mark + struct.pack(f"{order}IH", 8, len(tags)) + body + b"\0" * 340)
    assert "16385 bands" in told(path)


def ods(rows: str) -> bytes:
    out = io.BytesIO()
    spaces = " ".join(
        f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in ("office", "table", "text")
    )
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr(
            "content.xml",
            f'<office:document-content {spaces}><office:body><office:spreadsheet><table:table table:name="s">{rows}'
            "</table:table></office:spreadsheet></office:body></office:document-content>",
        )
    return out.getvalue()


CELL = '<table:table-cell office:value-type="float" office:value="1"/>'


@pytest.mark.parametrize(
    "rows",
    [
        f'<table:table-row table:number-rows-repeated="2000000000">{CELL}</table:table-row>',
        f'<table:table-row table:number-rows-repeated="3000000">{CELL * 2}</table:table-row>' * 40,
        f'<table:table-row table:number-rows-repeated="4000000000"><table:table-cell/></table:table-row><table:table-row>{CELL}</table:table-row>',
        f'<table:table-row>{CELL}<table:table-cell table:number-columns-repeated="900000000" office:value-type="float" office:value="2"/></table:table-row>',
    ],
)
def test_rows_repeated_by_the_million(tmp_path, rows):
    path = tmp_path / "many.ods"
    path.write_bytes(ods(rows))
    assert "five million cells" in told(path)


def test_rows_that_are_blank_to_the_end_are_no_rows(tmp_path):
    path = tmp_path / "blank.ods"
    head = "<table:table-row><table:table-cell><text:p>angle</text:p></table:table-cell><table:table-cell><text:p>level dB</text:p></table:table-cell></table:table-row>"
    rows = "".join(
        f'<table:table-row><table:table-cell office:value-type="float" office:value="{30 * k}"/>'
        f'<table:table-cell office:value-type="float" office:value="-{k}"/></table:table-row>'
        for k in range(12)
    )
    path.write_bytes(
        ods(head + rows + '<table:table-row table:number-rows-repeated="1048000"><table:table-cell/></table:table-row>')
    )
    (one,) = load_all(path)
    assert one.kind == "cut" and len(one.read.angle_deg) == 12


def test_a_row_numbered_in_the_billions(tmp_path):
    import openpyxl

    book = openpyxl.Workbook()
    book.active["A1"] = 1
    book.active["A2"] = 2
    out = io.BytesIO()
    book.save(out)
    path = tmp_path / "far.xlsx"
    with zipfile.ZipFile(out) as archive, zipfile.ZipFile(path, "w") as made:
        for name in archive.namelist():
            data = archive.read(name)
            made.writestr(
                name, data.replace(b'<row r="2"', b'<row r="2000000000"').replace(b'r="A2"', b'r="A2000000000"')
            )
    began = time.monotonic()
    with contextlib.suppress(FormatError):
        load_all(path)
    assert time.monotonic() - began < SOON_S


def test_two_hundred_megabytes_in_one_line(tmp_path):
    path = tmp_path / "line.csv"
    path.write_bytes(b"lat,lon,rssi\n" + b"57.9," * 8_000_000)
    assert "line 2: a line of it is longer than a megabyte" in told(path)


def test_what_outlives_the_checks_is_ended_by_the_readers_limits(tmp_path):
    """Whatever comes through: two million points, in a reader that may take a second."""
    point = '<trkpt lat="57.9" lon="-11.2"><ele>1</ele></trkpt>\n'
    data = f'<gpx version="1.1"><trk><trkseg>{point * 400_000}</trkseg></trk></gpx>'.encode()
    short = Reader(most_s=0.5)
    with pytest.raises(FormatError, match=r"took longer than 0\.5 s"):
        short.call("long.gpx", gpx_format.read, data, "long.gpx")
    small = Reader(most_bytes=150_000_000)
    with pytest.raises(FormatError, match=r"more than 0\.15 GB of memory|no reader stands"):
        small.call("long.gpx", gpx_format.read, data * 4, "long.gpx")
    for one in (short, small):
        one.close()
