"""The report for somebody else, and the bundle of open files."""

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
from tallmast.formats import log, touchstone
from tallmast.notebook.records import Sweep
from tallmast.notebook.store import Notebook
from tallmast.report import bundle, write
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
    assert text.count("data:image/png;base64,") == 13
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
        track = log.read_gpx(files.read("logs/run-1.gpx"), "x.gpx").track
        again = log.read_csv(files.read("logs/run-1.csv"), "x.csv")
        np.testing.assert_allclose(track.columns["level_dbm"], again.columns["level_dbm"], atol=0.06)
        records = json.loads(files.read("records.json"))
        assert len(records["antenna"]) == 5
        found = json.loads(files.read("findings.json"))
        assert found["verdict"]["sentence"] == climb.verdict.sentence
        low, high = found["verdict"]["headline"]["low_90"], found["verdict"]["headline"]["high_90"]
        assert low < found["verdict"]["headline"]["value"] < high
        assert sum(n.startswith("imported/") for n in names) == 24
        rows = io.TextIOWrapper(files.open("tape.csv")).read().splitlines()
        assert len(rows) == len(notebook.tape) + 1


def test_from_the_command_line(demo_copy, tmp_path):
    out = tmp_path / "r.html"
    done = subprocess.run(
        [sys.executable, "-m", "tallmast", str(demo_copy), "--report", str(out)],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert "Put Shed Yagi on Quay" in out.read_text()
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
