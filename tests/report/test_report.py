"""The report for somebody else, and the bundle of open files."""

import csv
import io
import json
import re
import subprocess
import sys
import zipfile

import numpy as np
import pytest

from tallmast.findings.aims import Aims
from tallmast.findings.climb import Climb
from tallmast.formats import gpx as gpx_format
from tallmast.formats import log, touchstone
from tallmast.notebook.entry import Entry, RawFile
from tallmast.notebook.records import KINDS, Antenna, CableSweep, Calibration, Qualification, StandardCheck, Sweep
from tallmast.notebook.store import Notebook
from tallmast.report import bundle, naming, write
from tallmast.report.content import compose


@pytest.fixture
def open_demo(demo_copy, qapp):
    notebook = Notebook.open(demo_copy)
    yield notebook, Climb(notebook.evidence(), Aims("antenna-shed-yagi"))
    notebook.close()


def test_html_says_the_verdict_first_and_holds_its_pictures(open_demo, tmp_path):
    _, climb = open_demo
    path = tmp_path / "r.html"
    write.write(climb, path)
    text = path.read_text()
    assert text.index(climb.verdict.sentence) < text.index("<h2>")
    assert text.count("data:image/png;base64,") == 18
    assert re.search(r"Shed Yagi reaches \d+ % of the ground within [\d.]+ km", text)  # under the map
    assert "Licence" in text or "licence" in text
    for chapter in compose(climb).chapters:
        assert chapter.title in text
    assert not re.search(r"\b(nan|None|inf)\b", re.sub(r"base64,[^\"]+", "", text))


def test_pdf_has_pages_and_text(open_demo, tmp_path):
    _, climb = open_demo
    path = tmp_path / "r.pdf"
    write.write(climb, path)
    data = path.read_bytes()
    assert data.startswith(b"%PDF-")
    assert len(data) > 100_000


def test_a_report_of_almost_nothing(qapp, tmp_path):
    from tests.findings.build import Book

    book = Book()
    book.antenna("A & <B>")
    path = tmp_path / "r.html"
    write.write(book.climb(), path)
    text = path.read_text()
    assert "A &amp; &lt;B&gt;" in text
    assert "No verdict yet" in text


def test_what_can_t_be_written_is_told_and_nothing_is_left(open_demo, tmp_path):
    _, climb = open_demo
    with pytest.raises(write.ReportError, match="no such file or directory"):
        write.write(climb, tmp_path / "missing" / "r.html")
    with pytest.raises(write.ReportError, match=r"not as \.docx"):
        write.write(climb, tmp_path / "r.docx")
    assert not list(tmp_path.glob(".r.*"))


def test_the_bundle_is_open_files_that_read_back(open_demo, tmp_path):
    notebook, climb = open_demo
    path = tmp_path / "b.zip"
    bundle.write(climb, notebook, path)
    with zipfile.ZipFile(path) as files:
        names = files.namelist()
        sweep = climb.evidence.all(Sweep)[0]
        series = climb.evidence.series(sweep.series_id)
        back = touchstone.read(files.read("sweeps/shed-yagi-as-built.s1p"), "x.s1p")
        np.testing.assert_array_equal(back.gamma, series["re"] + 1j * series["im"])
        places = json.loads(files.read("places.geojson"))
        assert {f["geometry"]["type"] for f in places["features"]} == {"Point", "LineString"}
        track = gpx_format.read(files.read("logs/run-1.gpx"), "x.gpx").track
        again = log.read_csv(files.read("logs/run-1.csv"), "x.csv")
        np.testing.assert_allclose(track.columns["level_dbm"], again.columns["level_dbm"], atol=0.06)
        records = json.loads(files.read("records.json"))
        assert len(records["antenna"]) == 5
        found = json.loads(files.read("findings.json"))
        best = found["field"]["contrasts"][0]
        assert best["scale"] == "dB" and best["value"]["value"] >= 0 and {"better", "other", "blocks"} <= set(best)
        assert found["verdict"]["sentence"] == climb.verdict.sentence
        low, high = found["verdict"]["headline"]["low_90"], found["verdict"]["headline"]["high_90"]
        assert low < found["verdict"]["headline"]["value"] < high
        assert sum(n.startswith("imported/") for n in names) == 24
        rows = io.TextIOWrapper(files.open("tape.csv")).read().splitlines()
        assert len(rows) == len(notebook.tape) + 1


ODD = ["../../etc/cron", "a\x00b\n.csv", "CON<>|?*.s1p", "…" * 300 + ".s1p", "天線 1.csv", "..", " . ", "=1+1.csv"]


@pytest.mark.parametrize("name", ODD)
def test_an_imported_file_of_any_name_gets_one_that_every_system_takes(name):
    made = naming.file_name(name)
    assert 0 < len(made.encode()) < 240
    assert not re.search(r'[\x00-\x1f<>:"/\\\\|?*]', made)
    assert made not in (".", "..")
    assert made.strip(" .") == made
    if name.endswith((".s1p", ".csv")):
        assert made.endswith(name[-4:])


def test_every_series_and_every_imported_file_is_in_the_bundle(demo_copy, tmp_path, qapp):
    """Whatever kind a record is of: what the read-me promises is there, under the name that records.json gives."""
    notebook = Notebook.open(demo_copy)
    f = np.array([868e6, 869e6])
    shown = {"frequency_hz": f, "re": f * 0 + 0.5, "im": f * 0 - 0.25}
    three = {f"{s}_{part}": f * 0 + v for s, v in (("open", 1), ("short", -1), ("load", 0.0)) for part in ("re", "im")}
    yagi = notebook.evidence().antenna("antenna-shed-yagi")
    notebook.write(
        Entry(
            "=1+1, typed by somebody",
            [
                Calibration(series_id="c", taken_at="2025-01-01T10:00:00"),
                StandardCheck(calibration_id="c", standard="load", series_id="k"),
                Qualification(fixture_id="f", series_id="q"),
                CableSweep(name="../odd: «Kabel»", series_id="l"),
                yagi.revised(name="天線 " + "very " * 60),
            ],
            series={**dict.fromkeys("kql", shown), "c": {"frequency_hz": f, **three}},
            raw=[RawFile("way/points?.gpx", b"<gpx/>")],
        )
    )
    path = tmp_path / "b.zip"
    evidence = notebook.evidence()
    bundle.write(Climb(evidence, Aims("antenna-shed-yagi")), notebook, path)
    with zipfile.ZipFile(path) as files:
        names = files.namelist()
        records = json.loads(files.read("records.json"))
        for kind in (kind for kind, model in KINDS.items() if "series_id" in model.__struct_fields__):
            assert len(records[kind]) == len(evidence.all(KINDS[kind])), kind
            for record in records[kind]:
                rows = files.read(record["file"]).decode().splitlines()
                assert len(rows) - 1 == len(next(iter(evidence.series(record["series_id"]).values())))
        assert files.read("calibration-checks/check-of-the-load.csv").decode() == (
            "frequency_hz,re,im\n868000000.0,0.5,-0.25\n869000000.0,0.5,-0.25\n"
        )
        assert b"<gpx/>" in [files.read(n) for n in names if n.startswith("imported/")]
        raws = {raw.sha256: raw.data for raw in notebook.raw_files() if raw is not None}
        assert sorted(raws.values()) == sorted(files.read(n) for n in names if n.startswith("imported/"))
        assert len(raws) > 20
        assert all(len(name) < 160 and ".." not in name for name in names), max(names, key=len)
        assert "'=1+1, typed by somebody" in files.read("tape.csv").decode()
        assert files.read("tape.csv").decode().count("'=1") == 1
    notebook.close()


def test_a_file_that_can_t_be_read_any_more_is_told_in_the_read_me(demo_copy, monkeypatch, qapp):
    notebook = Notebook.open(demo_copy)
    real = list(notebook.raw_files())
    monkeypatch.setattr(notebook, "raw_files", lambda: [*real, None])
    made = bundle.files(Climb(notebook.evidence(), Aims("antenna-shed-yagi")), notebook)
    assert "One imported file can't be read from the notebook any more." in made["read-me.txt"].decode()
    notebook.close()


def test_from_the_command_line(demo_copy, tmp_path):
    out = tmp_path / "r.html"
    done = subprocess.run(
        [sys.executable, "-m", "tallmast", str(demo_copy), "--report", str(out)],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert "Shed Yagi is the best bet for Outer Stack" in out.read_text()
    bad = subprocess.run(
        [sys.executable, "-m", "tallmast", str(tmp_path / "gone.tallmast"), "--report", str(out)],
        capture_output=True,
        text=True,
        check=False,
    )
    assert bad.returncode == 1
    assert "is not there" in bad.stderr
    assert "Traceback" not in bad.stderr


def test_a_calibrated_sweep_leaves_the_bundle_corrected(tmp_path):
    """Whoever gets the files has no error terms: what they read is what the antenna does."""
    from tests.findings.test_bench_trust import F, Practised

    book = Practised(drift_per_hour=0.0, warm_up=0.0)
    a = book.antenna("Gull Collinear")
    book.swept(a, calibration=book.calibrate())
    notebook = Notebook.create(tmp_path / "n.tallmast")
    bundle.write(book.climb(a), notebook, tmp_path / "b.zip")
    notebook.close()
    with zipfile.ZipFile(tmp_path / "b.zip") as found:
        data = found.read("sweeps/gull-collinear-as-received.s1p")
        cable = json.loads(found.read("records.json"))["calibration"]
    read = touchstone.read(data, "x.s1p")
    np.testing.assert_allclose(read.gamma, book.bench.true_gamma(F), atol=1e-9)
    assert b"corrected by its calibration" in data
    assert len(cable) == 1


def test_what_is_written_has_the_rights_that_the_person_gives(tmp_path, monkeypatch):
    from tallmast.report import write

    monkeypatch.setattr(write, "UMASK", 0o077)
    write.write_whole(tmp_path / "report.html", b"x")
    assert (tmp_path / "report.html").stat().st_mode & 0o777 == 0o600


@pytest.mark.parametrize("text", ["=1+1", "ok\r=1+1", "\r\n=1", "+1", "@x"])
def test_no_cell_of_the_tape_is_a_formula(text):
    from tallmast.report import bundle

    (row,) = csv.reader(io.StringIO(bundle._csv([], [[text]]).partition("\n")[2]))
    assert "\r" not in row[0] and not row[0].startswith(("=", "+", "@"))


def test_imports_of_one_name_are_each_in_the_bundle(tmp_path):
    """Names that differ in case alone are one on most systems; a name that another writes with a NUL stands without it."""
    notebook = Notebook.create(tmp_path / "n.tallmast")
    for name, data in (("a.csv", b"1"), ("A.csv", b"2"), ("a.csv", b"3"), ("a\0.csv", b"4")):
        notebook.write(Entry("in", [Antenna(name="Whip\0 one")], raw=[RawFile(name, data)]))
    climb = Climb(notebook.evidence(), Aims())
    bundle.write(climb, notebook, tmp_path / "b.zip")
    with zipfile.ZipFile(tmp_path / "b.zip") as files:
        names = files.namelist()
        assert len({name.casefold() for name in names}) == len(names) and not any("\0" in name for name in names)
        kept = [files.read(name) for name in names if name.startswith("imported/")]
    assert sorted(kept) == [b"1", b"2", b"3", b"4"]
    notebook.close()
