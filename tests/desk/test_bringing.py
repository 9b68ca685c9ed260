"""Bringing files in through the window: ports, scales, columns, waypoints, photos, many at once, and stopping."""

import numpy as np
import pytest
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog

from tallmast.formats import sweep_table, touchstone
from tallmast.notebook.records import Cut, GainTable, Log, Place, Recording, Sweep

from .hands import Hands


def newest(hands, model):
    return hands.window.session.evidence.all(model)[-1]


def test_a_two_port_file_asks_for_its_port(hands, tmp_path):
    rows = "".join(f"{f} .1 0 .5 0 .5 0 .4 0\n" for f in (860, 869, 878))
    (tmp_path / "pair.s2p").write_text(f"# MHz S MA R 50\n{rows}")
    hands.drop(tmp_path / "pair.s2p")
    hands.sheet_opens()
    hands.fill({"port": "port 2"})
    hands.keep()
    sweep = newest(hands, Sweep)
    assert sweep.port == 2
    np.testing.assert_allclose(hands.window.session.evidence.series(sweep.series_id)["re"], 0.4)


def test_settings_are_carried_over_from_the_last_sweep(hands, tmp_path):
    f = np.linspace(860e6, 880e6, 11)
    (tmp_path / "a.s1p").write_text(touchstone.write(f, np.full(11, 0.1 + 0j)))
    hands.drop(tmp_path / "a.s1p")
    hands.sheet_opens()
    hands.keep()
    sweep = newest(hands, Sweep)
    assert sweep.cable.loss_db == 0.42
    assert sweep.directivity_db == 38
    assert "seated again" in sweep.fixture
    raw = hands.window.session.notebook.raw(sweep.raw_sha256)
    assert raw.data == (tmp_path / "a.s1p").read_bytes()


def test_many_sweeps_and_one_bad_file_at_once(hands, tmp_path):
    f = np.linspace(860e6, 880e6, 11)
    for i in range(4):
        (tmp_path / f"{i}.s1p").write_text(touchstone.write(f, np.full(11, 0.1 * i + 0j)))
    (tmp_path / "bad.s1p").write_bytes(b"# MHz S RI R 50\n860 x y\n")
    before = len(hands.window.session.evidence.all(Sweep))
    hands.drop(*sorted(tmp_path.glob("*.s1p")))
    hands.sheet_opens()
    assert "bad.s1p, line 2" in hands.trouble
    assert hands.window.sheet.form.title == "Bring in 4 sweeps"
    hands.keep()
    assert len(hands.window.session.evidence.all(Sweep)) == before + 4
    hands.chord("z")
    hands.settle()
    assert len(hands.window.session.evidence.all(Sweep)) == before


def test_a_table_of_a_sweep_whose_columns_are_corrected_by_hand(hands, tmp_path):
    rows = "\n".join(f"{f};{a};{b}" for f, a, b in ((860, 30, 0.2), (865, 60, 0.1), (870, 90, 0.3)))
    (tmp_path / "odd.csv").write_text(f"MHz;magnitude;phase\n{rows.replace('.', ',')}\n")
    hands.drop(tmp_path / "odd.csv")
    hands.sheet_opens()
    assert "|Γ| would be" in hands.window.sheet.note.text(), (
        "an angle can't be a size: the sheet asks for other columns"
    )
    hands.fill({"first": "phase", "second": "magnitude"})
    hands.keep()
    series = hands.window.session.evidence.series(newest(hands, Sweep).series_id)
    np.testing.assert_allclose(np.hypot(series["re"], series["im"]), [0.2, 0.1, 0.3])
    (tmp_path / "odd.csv").write_text(f"MHz;re;im\n{rows.replace('.', ',')}\n".replace("30", "0,5"))
    (tmp_path / "odd.csv").write_text("MHz;SWR;remark\n860;1,5;0\n865;1,2;0\n870;1,9;0\n")
    hands.drop(tmp_path / "odd.csv")
    hands.sheet_opens()
    hands.fill({"meaning": "no phase", "antenna": "Flat Panel"})
    hands.keep()
    sweep = newest(hands, Sweep)
    assert not sweep.phase_known
    assert hands.window.session.evidence.antenna(sweep.antenna_id).name == "Flat Panel"
    assert "impedance nor Q" in hands.window.session.notebook.tape[-1].label


ROWS = "\n".join(f"{i},57.9{i:03d},-11.1{i:03d},{-70 - i * 0.1:.1f}" for i in range(100, 160))


def test_a_table_whose_columns_say_nothing_is_shown_with_its_first_lines_and_remembered(hands, tmp_path):
    """Nothing in it is called a latitude: the person says which column is what, once."""
    (tmp_path / "first.csv").write_text(f"n,northing,easting,heard\n{ROWS}\n")
    hands.drop(tmp_path / "first.csv")
    hands.sheet_opens()
    sheet = hands.window.sheet
    assert sheet.form.excerpt.splitlines()[:2] == ["n,northing,easting,heard", "100,57.9100,-11.1100,-80.0"]
    hands.fill({"kind": "logger"})
    hands.qtbot.waitUntil(lambda: "latitude_deg" in sheet.fields)
    assert not sheet.keep()
    assert "Latitude: choose the column" in sheet.trouble.text()
    hands.fill({"latitude_deg": "northing", "longitude_deg": "easting", "level_dbm": "heard"})
    hands.keep()
    hands.qtbot.waitUntil(lambda: newest(hands, Log).source == "first.csv", timeout=10_000)
    level = hands.window.session.evidence.series(newest(hands, Log).series_id)["level_dbm"]
    assert (len(level), level[0]) == (60, -80.0)
    (tmp_path / "second.csv").write_text(f"n,northing,easting,heard\n{ROWS}\n".replace(",-8", ",-9"))
    hands.drop(tmp_path / "second.csv")
    hands.sheet_opens()
    sheet = hands.window.sheet
    assert "as you chose them the last time" in sheet.note.text()
    assert sheet.fields["latitude_deg"].value() == "northing"
    hands.keep()
    hands.qtbot.waitUntil(lambda: newest(hands, Log).source == "second.csv", timeout=10_000)


def test_a_table_is_brought_in_as_something_else_than_it_looks(hands, tmp_path):
    """A column “deg” that is a phase makes a table look like a cut; who brings it in knows better."""
    rows = "\n".join(f"{f},{0.1 + f / 1e4:.4f},{f % 90}" for f in range(860, 880, 2))
    (tmp_path / "plain.csv").write_text(f"point,size,deg\n{rows}\n")
    hands.drop(tmp_path / "plain.csv")
    hands.sheet_opens()
    sheet = hands.window.sheet
    assert sheet.fields["kind"].value() == "cut"
    hands.fill({"antenna": "Flat Panel"})
    hands.fill({"kind": "sweep as a table"})
    hands.qtbot.waitUntil(lambda: "meaning" in sheet.fields)
    assert sheet.fields["antenna"].value() == "antenna-flat-panel", "what both kinds ask stays as it was chosen"
    hands.fill({"frequency": "point", "unit": "MHz", "meaning": "|Γ| and its angle", "first": "size", "second": "deg"})
    hands.keep()
    sweep = newest(hands, Sweep)
    assert sweep.source == "plain.csv"
    assert sweep.antenna_id == "antenna-flat-panel"
    assert hands.window.session.evidence.series(sweep.series_id)["frequency_hz"][0] == 860e6


def test_a_table_with_a_broken_line_is_told_not_asked_about(hands, tmp_path):
    (tmp_path / "bad.csv").write_text("lat,lon,rssi\n57.9,-11.2,-70\n57.9,-11.2,-71,9,9\n57.9,-11.2,-72\n")
    hands.drop(tmp_path / "bad.csv")
    hands.settle()
    assert "bad.csv, line 3" in hands.trouble
    assert hands.window.sheet is None


def test_a_table_with_two_columns_swapped_is_mended_in_its_sheet(hands, tmp_path):
    (tmp_path / "pair.csv").write_text("MHz,first,second\n860,0.1,0.2\n865,0.3,0.4\n870,0.5,0.6\n")
    hands.drop(tmp_path / "pair.csv")
    hands.sheet_opens()
    hands.fill({"first": "second", "second": "first"})
    hands.keep()
    series = hands.window.session.evidence.series(newest(hands, Sweep).series_id)
    assert series["re"].tolist() == [0.2, 0.4, 0.6]
    assert series["im"].tolist() == [0.1, 0.3, 0.5]


@pytest.mark.parametrize("ending", [".s1p", ".ts", ".csv"])
def test_a_sweep_saved_for_another_program_comes_back_the_same(hands, tmp_path, monkeypatch, ending):
    path = tmp_path / f"out{ending}"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    session = hands.window.session
    sweep = session.evidence.sweeps(session.focus_antenna.id)[-1]
    with hands.qtbot.waitSignal(hands.window.files.written_out):
        hands.window.act("save sweep")
    data = path.read_bytes()
    read = sweep_table.read(data, path.name).reflection if ending == ".csv" else touchstone.read(data, path.name)
    series = session.evidence.series(sweep.series_id)
    np.testing.assert_array_equal(read.gamma, series["re"] + 1j * series["im"])
    np.testing.assert_array_equal(read.frequency_hz, series["frequency_hz"])


def test_a_sweep_is_not_saved_under_an_ending_that_means_nothing(hands, tmp_path):
    session = hands.window.session
    with hands.qtbot.waitSignal(hands.window.files.written_out):
        hands.window.files.save_sweep(session.evidence.all(Sweep)[0], tmp_path / "out.doc")
    assert "written as .s1p, .ts or .csv, not as .doc" in hands.trouble
    assert not (tmp_path / "out.doc").exists()


def test_a_relative_field_cut(hands, tmp_path):
    rows = "\n".join(f"{a} {max(abs(np.cos(np.radians(a))), 0.05):.4f}" for a in range(0, 360, 10))
    (tmp_path / "cut.txt").write_text(rows)
    hands.drop(tmp_path / "cut.txt")
    hands.sheet_opens()
    assert "taken as relative field" in hands.window.sheet.note.text()
    hands.fill({"antenna": "Flat Panel", "plane": "elevation", "absolute": "its own peak"})
    hands.keep()
    cut = newest(hands, Cut)
    assert (cut.antenna_id, cut.plane) == ("antenna-flat-panel", "elevation")
    assert hands.window.session.evidence.series(cut.series_id)["level_db"].max() == pytest.approx(0.0)


def test_a_log_whose_columns_have_other_names_is_corrected_by_hand(hands, tmp_path):
    rows = "\n".join(f"{i},57.9{i:03d},-11.1{i:03d},{-70 - i * 0.1:.1f},{-90 - i * 0.1:.1f}" for i in range(100, 160))
    (tmp_path / "l.csv").write_text(f"t,lat,lon,rssi a,rssi b\n{rows}")
    hands.drop(tmp_path / "l.csv")
    hands.sheet_opens()
    hands.fill({"level_dbm": "rssi b"})
    hands.keep()
    hands.qtbot.waitUntil(lambda: newest(hands, Log).source == "l.csv", timeout=10_000)
    log = newest(hands, Log)
    assert log.mapping["level_dbm"] == "rssi b"
    assert hands.window.session.evidence.series(log.series_id)["level_dbm"][0] == pytest.approx(-100.0)


GPX = """<?xml version="1.0"?><gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">
<wpt lat="57.93" lon="-11.19"><name>Gannet Ledge</name></wpt><wpt lat="57.9" lon="-11.2"><name>Quay</name></wpt>
<trk><trkseg>%s</trkseg></trk></gpx>"""


def test_gpx_brings_new_places_and_a_track(hands, tmp_path):
    points = "".join(
        f'<trkpt lat="{57.901 + i * 1e-4}" lon="-11.199"><cmt>{-70 - i} dBm</cmt></trkpt>' for i in range(20)
    )
    (tmp_path / "t.gpx").write_text(GPX % points)
    before = len(hands.window.session.evidence.places)
    hands.drop(tmp_path / "t.gpx")
    hands.sheet_opens()
    hands.keep()
    places = hands.window.session.evidence.all(Place)
    assert len(places) == before + 1
    assert places[-1].name == "Gannet Ledge"
    assert newest(hands, Log).source == "t.gpx"


def test_a_photo_goes_to_the_antenna_in_focus(hands, tmp_path):
    image = QImage(8, 8, QImage.Format.Format_RGB32)
    image.fill(0)
    image.save(str(tmp_path / "p.png"))
    hands.drop(tmp_path / "p.png")
    hands.qtbot.waitUntil(lambda: hands.window.session.focus_antenna.photo_sha256 is not None, timeout=10_000)
    hands.settle()
    raw = hands.window.session.notebook.raw(hands.window.session.focus_antenna.photo_sha256)
    assert raw.data == (tmp_path / "p.png").read_bytes()
    hands.press("1")
    view = hands.window.views["shelf"]
    hands.qtbot.waitUntil(view.photo_card.isVisible, timeout=10_000)
    assert not view.photo_card.photo.pixmap().isNull()
    hands.press(".")
    hands.settle()
    assert not view.photo_card.isVisible()


def test_a_large_photo_is_opened_once_and_one_beyond_opening_is_told(hands, tmp_path, monkeypatch):
    from tallmast.desk.shelf import photo

    opened = []
    real = photo.shown_image
    monkeypatch.setattr(photo, "shown_image", lambda data, tall: opened.append(len(data)) or real(data, tall))
    image = QImage(4000, 3000, QImage.Format.Format_RGB32)
    image.fill(0x336699)
    image.save(str(tmp_path / "p.jpg"))
    hands.press("1")
    hands.drop(tmp_path / "p.jpg")
    card = hands.window.views["shelf"].photo_card
    hands.qtbot.waitUntil(card.isVisible, timeout=10_000)
    assert card.photo.pixmap().height() <= card.tallest
    assert card.photo.pixmap().width() == pytest.approx(card.photo.pixmap().height() * 4 / 3, abs=2)
    hands.write("a", {"name": "Another one"})
    hands.chord("z")
    hands.settle()
    hands.press(".")
    hands.press(",")
    hands.settle()
    assert len(opened) == 1, "not once more at every act"
    vast = QImage(20_000, 20_000, QImage.Format.Format_Mono)
    vast.fill(0)
    vast.save(str(tmp_path / "vast.png"))
    del vast
    photo.QImageReader.setAllocationLimit(1)
    try:
        hands.drop(tmp_path / "vast.png")
        hands.qtbot.waitUntil(lambda: "20000 × 20000 points" in card.photo.text(), timeout=20_000)
    finally:
        photo.QImageReader.setAllocationLimit(256)
    assert "The file is kept as it came." in card.photo.text()


def test_a_photo_that_is_cut_off_is_told(hands, tmp_path):
    image = QImage(64, 64, QImage.Format.Format_RGB32)
    image.fill(0)
    image.save(str(tmp_path / "p.png"))
    (tmp_path / "cut.png").write_bytes((tmp_path / "p.png").read_bytes()[:60])
    hands.press("1")
    hands.drop(tmp_path / "cut.png")
    card = hands.window.views["shelf"].photo_card
    hands.qtbot.waitUntil(lambda: "may be cut off" in card.photo.text(), timeout=10_000)


def test_a_notebook_dropped_is_opened(hands, demo_file, tmp_path):
    import shutil

    other = shutil.copy(demo_file, tmp_path / "other.tallmast")
    hands.drop(type(demo_file)(other))
    hands.settle()
    assert hands.window.session.notebook.path.name == "other.tallmast"


def test_leaving_one_files_sheet_lets_the_next_one_come(hands, tmp_path):
    rows = "\n".join(f"{a},{-abs(a - 180) / 20:.2f}" for a in range(0, 360, 10))
    for name in ("first.csv", "second.csv"):
        (tmp_path / name).write_text(f"angle,dB\n{rows}\n")
    hands.drop(tmp_path / "first.csv", tmp_path / "second.csv")
    hands.sheet_opens()
    assert hands.window.sheet.form.title == "Bring in first.csv"
    hands.window.sheet.leave()
    hands.qtbot.waitUntil(
        lambda: hands.window.sheet is not None and hands.window.sheet.form.title == "Bring in second.csv",
        timeout=10_000,
    )
    hands.keep()
    assert newest(hands, Cut).source == "second.csv"


@pytest.fixture
def bare(window, qtbot, tmp_path):
    """A window with nothing in it: no notebook, no antenna, no run."""
    return Hands(qtbot, window)


CUT = "angle,dB\n" + "\n".join(f"{a},{-abs(a - 180) / 20:.2f}" for a in range(0, 360, 10))
TRACK = "time,lat,lon,rssi\n" + "\n".join(f"{i},57.9{i:02d},-11.2{i:02d},-{60 + i}" for i in range(30))
HEARD = "time s,Mbit/s\n" + "\n".join(f"{i},{30 - i % 7}" for i in range(40))


def started(bare, monkeypatch, tmp_path):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "mine.tallmast"), ""))


def test_a_file_dropped_on_a_window_without_a_notebook_starts_one_by_name(bare, monkeypatch, tmp_path):
    (tmp_path / "first.csv").write_text(CUT)
    offered = []
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (offered.append(a[2]), ("", ""))[1])
    bare.drop(tmp_path / "first.csv")
    assert bare.window.session.notebook is None and offered[0].endswith("first.tallmast")
    started(bare, monkeypatch, tmp_path)
    bare.drop(tmp_path / "first.csv")
    bare.sheet_opens()
    assert bare.window.session.notebook.path == tmp_path / "mine.tallmast"
    assert bare.window.sheet.form.title == "Bring in first.csv"
    bare.fill({"new antenna": "Barn Loop"})
    bare.keep()
    (antenna,) = bare.window.session.evidence.antennas
    assert antenna.name == "Barn Loop" and newest(bare, Cut).antenna_id == antenna.id
    assert bare.window.session.focus_antenna == antenna
    assert len(bare.window.session.notebook.tape) == 1, "one act: undo takes both"


@pytest.mark.parametrize(
    ("name", "content", "model", "named"),
    [
        ("a.s1p", "# MHz S RI R 50\n860 .1 0\n870 .2 0\n880 .1 0\n", Sweep, "new antenna"),
        ("walk.csv", TRACK, Log, "antenna of the new run"),
        ("heard.csv", HEARD, Recording, "antenna of the new run"),
        ("gain.csv", "frequency MHz,gain dBi\n860,2\n870,2.1\n880,2\n", GainTable, "new antenna"),
    ],
)
def test_whatever_comes_first_is_kept_with_a_new_antenna_or_run_in_place(
    bare, monkeypatch, tmp_path, name, content, model, named
):
    started(bare, monkeypatch, tmp_path)
    (tmp_path / name).write_text(content)
    bare.drop(tmp_path / name)
    bare.sheet_opens()
    assert not bare.window.sheet.keep(), "a new one has a name"
    assert "Shed Yagi" in bare.window.sheet.trouble.text()
    bare.fill({named: "Barn Loop"})
    bare.keep()
    record, evidence = newest(bare, model), bare.window.session.evidence
    if named == "new antenna":
        assert evidence.antenna(record.antenna_id).name == "Barn Loop"
    else:
        (run,) = evidence.runs
        assert record.run_id == run.id and run.number == 1 and run.manner == "walk"
        assert evidence.antenna(run.antenna_id).name == "Barn Loop"
    bare.settle()


def test_a_photo_that_comes_first_is_of_a_new_antenna(bare, monkeypatch, tmp_path):
    started(bare, monkeypatch, tmp_path)
    QImage(8, 8, QImage.Format.Format_RGB32).save(str(tmp_path / "photo.png"))
    bare.drop(tmp_path / "photo.png")
    bare.sheet_opens()
    bare.fill({"new antenna": "Barn Loop"})
    bare.keep()
    (antenna,) = bare.window.session.evidence.antennas
    assert antenna.name == "Barn Loop" and antenna.photo_sha256


def test_a_sheet_that_waited_knows_what_came_meanwhile(bare, monkeypatch, tmp_path):
    """Two cuts dropped together into an empty notebook: the second is of the antenna that the first brought."""
    started(bare, monkeypatch, tmp_path)
    for name in ("first.csv", "second.csv"):
        (tmp_path / name).write_text(CUT)
    bare.drop(tmp_path / "first.csv", tmp_path / "second.csv")
    bare.sheet_opens()
    bare.fill({"new antenna": "Barn Loop"})
    bare.keep()
    bare.qtbot.waitUntil(
        lambda: bare.window.sheet is not None and bare.window.sheet.form.title == "Bring in second.csv", timeout=10_000
    )
    (antenna,) = bare.window.session.evidence.antennas
    assert bare.window.sheet.fields["antenna"].value() == antenna.id
    bare.keep()
    assert {cut.antenna_id for cut in bare.window.session.evidence.all(Cut)} == {antenna.id}


@pytest.fixture
def folder(hands, tmp_path, monkeypatch):
    """A watched folder with one sweep that was there before."""
    made = tmp_path / "analyzer"
    made.mkdir()
    (made / "old.s1p").write_text("# MHz S RI R 50\n860 .1 0\n870 .1 0\n880 .1 0\n")
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: str(made))
    hands.window.act("watch")
    assert hands.window.files.bringing.watching == made
    return made


def test_each_new_sweep_in_a_watched_folder_is_kept_under_the_antenna_in_focus(hands, folder, qtbot):
    before = len(hands.window.session.evidence.all(Sweep))
    for i, name in enumerate(("one.s1p", "two.S1P")):
        (folder / name).write_text("# MHz S RI R 50\n860 .3 0\n870 .2 0\n880 .3 0\n")
        qtbot.waitUntil(lambda n=before + i + 1: len(hands.window.session.evidence.all(Sweep)) == n, timeout=10_000)
    kept = newest(hands, Sweep)
    assert kept.source == "two.S1P"
    assert kept.antenna_id == hands.window.session.focus_antenna.id
    assert "seated again" in kept.fixture, "settings of the sweep before"
    assert hands.window.sheet is None


def test_a_sweep_that_is_written_slowly_is_taken_when_it_is_whole(hands, folder, qtbot):
    before = len(hands.window.session.evidence.all(Sweep))
    with (folder / "slow.s1p").open("w") as file:
        file.write("# MHz S RI R 50\n860 .3 0\n")
        file.flush()
        hands.window.files.bringing._watched._look()
        file.write("870 .2 0\n880 .3 0\n890 .4 0\n")
    qtbot.waitUntil(lambda: len(hands.window.session.evidence.all(Sweep)) == before + 1, timeout=10_000)
    assert len(hands.window.session.evidence.series(newest(hands, Sweep).series_id)["re"]) == 4


def test_what_is_no_sweep_in_a_watched_folder_is_told_and_the_watch_goes_on(hands, folder, qtbot):
    before = len(hands.window.session.evidence.all(Sweep))
    (folder / "note.txt").write_text("nothing for us")
    (folder / "bad.s1p").write_text("# MHz S RI R 50\n860 x\n")
    qtbot.waitUntil(lambda: "bad.s1p, line 2" in hands.trouble, timeout=10_000)
    (folder / "good.s1p").write_text("# MHz S RI R 50\n860 .3 0\n870 .2 0\n880 .3 0\n")
    qtbot.waitUntil(lambda: len(hands.window.session.evidence.all(Sweep)) == before + 1, timeout=10_000)
    hands.window.act("watch")
    assert hands.window.files.bringing.watching is None


def test_stopping_keeps_what_was_read(hands, tmp_path, qtbot):
    """Files read before Stop are still asked about; the rest are left."""
    f = np.linspace(860e6, 880e6, 3001)
    for i in range(60):
        (tmp_path / f"{i:02d}.s1p").write_text(touchstone.write(f, np.full(3001, 0.1 + 0j)))
    hands.drop(*sorted(tmp_path.glob("*.s1p")))
    qtbot.waitUntil(lambda: bool(hands.window.files.bringing._sweeps), timeout=10_000)
    hands.window.tape.stop.click()
    hands.sheet_opens()
    count = int(hands.window.sheet.form.title.split()[-2]) if "sweeps" in hands.window.sheet.form.title else 1
    assert 1 <= count < 60
    assert not hands.window.tape.stop.isVisible()
    hands.keep()
    assert len([s for s in hands.window.session.evidence.all(Sweep) if s.source.endswith(".s1p")]) >= count
