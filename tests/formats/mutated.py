"""Files bent at random, over every reader: nothing but a `FormatError` may come of them, and quickly.

`python -m tests.formats.mutated 100000` tries as many, with `native` rasters and spreadsheets; a few hundred are tried with the other
tests.
"""

from __future__ import annotations

import io
import random
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np

from tallmast.formats import table
from tallmast.formats.apart import reader
from tallmast.formats.arrived import Arrived, load_all
from tallmast.formats.errors import FormatError
from tallmast.formats.heights import HeightFile
from tallmast.formats.sniff import FORMATS, kind_of

SLOWEST_S = 2.0
SLOWEST_NATIVE_S = 10.0
"""The start of another reader in it, where one was lost."""

TRACK = "".join(
    f'<trkpt lat="57.9{i}" lon="-11.2{i}"><ele>{i}</ele><time>2026-05-01T10:00:{i:02d}Z</time>'
    f"<extensions><rssi>-{70 + i}</rssi></extensions></trkpt>"
    for i in range(20)
)
SEEDS: dict[str, bytes] = {
    "a.s1p": b"! one\n# MHz S RI R 50\n" + b"".join(b"%d 0.1%d -0.2%d\n" % (800 + i, i, i) for i in range(40)),
    "a.s2p": b"# GHz S DB R 75\n" + b"".join(b"0.%d -20 10 -3 5 -3 5 -18 %d\n" % (400 + i, i) for i in range(30)),
    "a.s3p": b"# Hz S MA R 50\n"
    + b"".join(b"%d 1 2 3 4 5 6\n 1 2 3 4 5 6\n 1 2 3 4 5 6\n" % (1000 + i) for i in range(9)),
    "v2.ts": b"[Version] 2.0\n# Hz S RI R 50\n[Number of Ports] 1\n[Number of Frequencies] 3\n[Network Data]\n1 2e-1 3e-1\n2 0 0\n3 0 0\n[End]\n",
    "sweep.csv": b'frequency MHz,SWR,"at, C"\n' + b"".join(b"%d,1.%d,21\n" % (860 + i, 10 + i) for i in range(30)),
    "log.csv": b"time;lat;lon;rssi;alt\n"
    + b"".join(b"%d;57,9%02d;-11,2%02d;-8%d;3\n" % (i, i, i, i % 10) for i in range(40)),
    "cut.csv": b"# cut\nangle deg\tlevel dB\n" + b"".join(b"%d\t-%d.5\n" % (i * 10, i % 20) for i in range(36)),
    "design.csv": b"theta,phi,gain dB\n" + b"".join(b"%d,%d,-%d\n" % (i % 7 * 30, i * 10, i % 9) for i in range(36)),
    "gain.csv": b"frequency MHz,gain dBi\n" + b"".join(b"%d,2.%d\n" % (100 * i, i) for i in range(1, 12)),
    "steps.csv": b"attenuation dB,bars\n" + b"".join(b"%d,%d\n" % (i, 5 - i // 6) for i in range(30)),
    "rec.csv": b"time s,bit rate Mbit/s,delay ms,rssi\n"
    + b"".join(b"%d.5,%d,%d,-%d\n" % (i, 30 - i % 9, 28 + i % 7, 70 + i % 5) for i in range(40)),
    "clock.csv": b"time,Mbit/s\n" + b"".join(b"12:00:%02d,%d\n" % (i, 30 - i % 9) for i in range(40)),
    "iso.csv": b"Logger 3\nStarted: noon\n\nutc,lat,lon,rssi\ns,deg,deg,dBm\n"
    + b"".join(b"2026-05-01T10:00:%02d.5Z,57.9%02d N,11.2%02d W,-8%d dBm\n" % (i, i, i, i % 10) for i in range(40)),
    "am.csv": b"time;lat;lon;level\n"
    + "".join(f"01.05.2026 9:00:{i:02d} pm;57° {i}' N;11°{i}.5'W;--\n" for i in range(40)).encode(),
    "notes.csv": b'Kept by the warden,,,\n\nPlace,Distance,Antenna,Report\nFord,800 m,Dipole,59\n,,Halo,"57, 55"\nMill,1 km,Halo,-\n',
    "cuts.csv": b"angle;Panel dB;Whip dB\n" + b"".join(b"%d;-%d,5;-9,0\n" % (i * 10, i % 20) for i in range(36)),
    "meter.csv": b"Antenna;Freq (MHz);Forward W;Reflected W\nStub;144;5;0,2\n;145;5;0,1\nWhip;144;5;0,6\n",
    "swr.csv": b"MHz,Stub,Whip\n144,1.8,2.1\n145,1.5,1.3\n146,1.9,1.6\n",
    "grid.csv": b"spot;km;Stub;Whip\nford;0,8;4;5\nmill;1,2;barely;clear\nridge;2,6;-;R4 S7\n",
    "t.gpx": f'<?xml version="1.0"?><gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{TRACK}</trkseg></trk></gpx>'.encode(),
}
TOKENS = (
    b"1e308",
    b"-1e31",
    b"inf",
    b"nan",
    b'"',
    b",",
    b";",
    b"\n\n",
    b"#",
    b"[",
    b"]",
    b"\xff\xfe",
    b"\0",
    b"<a>",
    b"1" * 5000,
    b"-",
    b" dBm",
    b"99:99",
    b"2026-02-30T",
    b"'",
    b"",
)


def bend(random_: random.Random, data: bytes) -> bytes:
    """One to a few changes: bytes, tokens, lines doubled, cut off, moved."""
    out = bytearray(data)
    for _ in range(random_.choice((1, 1, 2, 5, 20))):
        at = random_.randrange(len(out) + 1)
        way = random_.randrange(6)
        if way == 0 and out:
            out[min(at, len(out) - 1)] = random_.randrange(256)
        elif way == 1:
            out[at:at] = random_.choice(TOKENS)
        elif way == 2:
            del out[at : at + random_.randrange(1, 60)]
        elif way == 3:
            out[at:at] = out[max(0, at - random_.randrange(1, 200)) : at]
        elif way == 4:
            end = out.find(b" ", at)
            out[at : max(end, at)] = random_.choice(TOKENS)
        else:
            del out[at:]
    return bytes(out)


def read_all(data: bytes, name: str) -> None:
    """Every reader that could be tried on it."""
    readers = [partial(row.read, data, name, None) for row in FORMATS.values()]
    for read in (partial(kind_of, data, name), partial(table.read, data, name), *readers):
        try:
            read()
        except FormatError as error:
            assert len(str(error)) < 600, str(error)


ROWS = [("angle deg", "level dB"), *((10 * i, -i / 2) for i in range(36))]


def natives(folder: Path) -> dict[str, bytes]:
    """Files that native code or an archive reader opens: rasters and spreadsheets, small ones."""
    import openpyxl
    import rasterio
    from rasterio.transform import from_origin

    place = from_origin(-11.3, 58.0, 0.001, 0.001)
    more: dict[str, dict[str, object]] = {
        "a.tif": {},
        "b.tif": {"compress": "deflate", "tiled": True, "blockxsize": 16, "blockysize": 16},
    }
    for name, options in more.items():
        with rasterio.open(
            folder / name,
            "w",
            driver="GTiff",
            width=40,
            height=30,
            count=1,
            dtype="float32",
            crs="EPSG:4326",
            transform=place,
            **options,
        ) as made:
            made.write(np.arange(1200, dtype="float32").reshape(1, 30, 40))
    grid = "ncols 12\nnrows 10\nxllcorner -11.3\nyllcorner 57.8\ncellsize 0.01\n" + ("7 8 9 10 11 12 " * 2 + "\n") * 10
    (folder / "c.asc").write_text(grid)
    book = openpyxl.Workbook()
    for row in ROWS:
        book.active.append(row)
    book.save(folder / "d.xlsx")
    spaces = " ".join(f'xmlns:{n}="urn:oasis:names:tc:opendocument:xmlns:{n}:1.0"' for n in ("office", "table", "text"))
    cells = "".join(
        "<table:table-row>"
        + "".join(
            f'<table:table-cell office:value-type="float" office:value="{v}"><text:p>{v}</text:p></table:table-cell>'
            for v in row
        )
        + "</table:table-row>"
        for row in ROWS
    )
    with zipfile.ZipFile(folder / "e.ods", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        body = f'<office:body><office:spreadsheet><table:table table:name="s">{cells}</table:table></office:spreadsheet></office:body>'
        archive.writestr("content.xml", f"<office:document-content {spaces}>{body}</office:document-content>")
    return {name: (folder / name).read_bytes() for name in (*more, "c.asc", "d.xlsx", "e.ods")}


def bend_inside(random_: random.Random, data: bytes) -> bytes:
    """What stands in an archive bent, and packed whole again, so that it comes to who reads it."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as archive, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        hit = random_.choice(archive.namelist())
        for name in archive.namelist():
            inside = archive.read(name)
            made.writestr(name, bend(random_, inside) if name == hit else inside)
    return out.getvalue()


def read_native(path: Path) -> None:
    """As the window does: recognised, and of heights those about a place."""
    try:
        for found in load_all(path):
            if isinstance(found, Exception) and not isinstance(found, FormatError):
                raise found
            if isinstance(found, Arrived) and isinstance(found.read, HeightFile):
                reader.call(path.name, HeightFile.around, found.read, 57.95, -11.25, 5000.0, False)
    except FormatError as error:
        assert len(str(error)) < 600, str(error)


def _tried(what: str, count: int, one: Callable[[], None], slowest_s: float, clock: Callable[[], float]) -> int:
    """So many of a kind, each of which may take so long by a clock; 1 where one raised or took longer."""
    uncaught = slow = 0
    for i in range(count):
        began = clock()
        try:
            one()
        except Exception as error:
            uncaught += 1
            print(f"{i}: {type(error).__name__}: {str(error)[:600]}", flush=True)
        slow += clock() - began > slowest_s
    print(f"{count} mutated {what}: {uncaught} uncaught, {slow} over {slowest_s:g} s")
    return 1 if uncaught or slow else 0


def main_native(count: int, seed: int = 1) -> int:
    """Rasters and spreadsheets, through the process apart."""
    random_ = random.Random(seed)
    with tempfile.TemporaryDirectory() as folder:
        seeds = natives(Path(folder))

        def one() -> None:
            name = random_.choice(list(seeds))
            inside = seeds[name].startswith(b"PK") and random_.random() < 0.7
            path = Path(folder) / f"bent{Path(name).suffix}"
            path.write_bytes((bend_inside if inside else bend)(random_, seeds[name]))
            read_native(path)

        return _tried("rasters and spreadsheets", count, one, SLOWEST_NATIVE_S, time.monotonic)


def main(count: int, seed: int = 1) -> int:
    """Files of text."""
    random_ = random.Random(seed)

    def one() -> None:
        name = random_.choice(list(SEEDS))
        data = bend(random_, SEEDS[name])
        try:
            read_all(data, name)
        except Exception as error:
            raise AssertionError(f"{name}: {type(error).__name__} ({error}) of {data[:300]!r}") from error

    return _tried("files", count, one, SLOWEST_S, time.process_time)  # its own work: a machine may pause


if __name__ == "__main__":
    native = "native" in sys.argv
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    sys.exit((main_native if native else main)(*numbers or (2000,)))
