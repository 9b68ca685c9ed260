"""The notebook's guarantees: nothing shown is lost, nothing is overwritten, one writer at a time."""

import os
import shutil
import sqlite3
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tallmast.notebook import schema
from tallmast.notebook.entry import Entry, RawFile, new_series
from tallmast.notebook.file import NotebookError
from tallmast.notebook.records import (
    Antenna,
    Calibration,
    Comparison,
    Conditions,
    Craft,
    Cut,
    DisplayRun,
    Fixture,
    Log,
    MeterReading,
    Neighbour,
    Obstacle,
    Piece,
    Place,
    Question,
    Radio,
    RangeGain,
    Reading,
    Sweep,
    Terrain,
    Turn,
    from_json,
)
from tallmast.notebook.rescue import rescue
from tallmast.notebook.store import Notebook

KEPT = Path(__file__).parent / "data" / "format-1.tallmast"


@pytest.fixture
def notebook(tmp_path):
    made = Notebook.create(tmp_path / "n.tallmast")
    yield made
    made.close()


def asked() -> Entry:
    return Entry("Asked", [Question(text="Which?", band_low_hz=868e6, band_high_hz=870e6)])


def _revisions(book, record_id: str) -> list:
    rows = book._db.execute("SELECT kind, body FROM revision WHERE record_id = ? ORDER BY number", (record_id,))
    return [from_json(kind, body) for kind, body in rows]


def names(notebook) -> list[str]:
    return [a.name for a in notebook.evidence().antennas]


class TestWhatAFieldTakes:
    """Checked where a record is kept, whatever made it: a notebook that was written can be read again."""

    @pytest.mark.parametrize(
        ("record", "field"),
        [
            (Place(name="Pole", latitude_deg=91.0, longitude_deg=0.0), "latitude_deg"),
            (Radio(name="Set", power_w=-1.0), "power_w"),
            (Radio(name="Set", noise_figure_db=float("nan")), "noise_figure_db"),
            (Radio(name="Set", sensitivity_dbm=float("-inf")), "sensitivity_dbm"),
            (Antenna(name="None", states=[]), "states"),
            (Antenna(name="Odd", type="balloon"), "type"),
        ],
    )
    def test_what_it_does_not_take_is_refused_with_its_name_and_nothing_is_changed(self, notebook, record, field):
        with pytest.raises(NotebookError, match=f"“Added” was not kept.*{field}"):
            notebook.write(Entry("Added", [Antenna(name="Good"), record]))
        assert not notebook.tape
        assert not notebook.evidence().antennas

    def test_numbers_of_numpy_and_whole_ones_are_kept_as_what_they_say(self, notebook):
        notebook.write(Entry("Added", [Radio(id="r", name="Set", power_w=np.float32(0.5), bandwidth_hz=12_500)]))
        kept = notebook.evidence().get(Radio, "r")
        assert (kept.power_w, kept.bandwidth_hz) == (0.5, 12_500.0)
        assert isinstance(kept.bandwidth_hz, float)

    def test_a_record_cannot_be_changed_in_place(self):
        with pytest.raises(AttributeError):
            Radio(name="Set").name = "Other"  # type: ignore[misc]


class TestWriting:
    def test_what_was_written_is_there_after_opening_again(self, notebook):
        series_id, series = new_series({"x": np.array([1.0, 2.0]), "y": np.array([np.nan, 4.0])})
        raw = RawFile("a.s1p", b"\x00bytes\xff")
        notebook.write(asked())
        notebook.write(Entry("Added", [Antenna(name="One")], raw=[raw], series=series))
        path = notebook.path
        notebook.close()
        again = Notebook.open(path)
        assert not again.read_only
        assert names(again) == ["One"]
        assert [act.label for act in again.tape] == ["Asked", "Added"]
        assert again.raw(raw.sha256) == raw
        np.testing.assert_array_equal(again.evidence().series(series_id)["y"], [np.nan, 4.0])
        again.close()

    def test_undo_and_redo_write_new_revisions_and_survive_a_restart(self, notebook):
        a = Antenna(name="One")
        notebook.write(Entry("Added", [a]))
        notebook.write(Entry("Renamed", [a.revised(name="Two")], reason="misread"))
        assert notebook.undo().reverses == 2
        assert names(notebook) == ["One"]
        path = notebook.path
        notebook.close()
        again = Notebook.open(path)
        assert names(again) == ["One"]
        assert again.redo().manner == "redo"
        assert names(again) == ["Two"]
        again.undo()
        again.undo()
        assert names(again) == []
        assert again.undo() is None
        assert [r.name if r else None for _, r in again.revisions(a.id)] == ["One", "Two", "One", "Two", "One", None]
        again.close()

    def test_a_new_entry_ends_the_chance_to_redo(self, notebook):
        notebook.write(Entry("One", [Antenna(name="One")]))
        notebook.undo()
        notebook.write(Entry("Two", [Antenna(name="Two")]))
        assert notebook.redo() is None
        assert names(notebook) == ["Two"]

    def test_taking_out_keeps_the_life_of_the_record(self, notebook):
        place = Place(name="Rock", latitude_deg=57.9, longitude_deg=-11.2)
        notebook.write(Entry("Place", [place]))
        notebook.write(Entry("Out", remove=[place], reason="not there"))
        assert notebook.evidence().places == []
        assert notebook.tape[-1].reason == "not there"
        notebook.undo()
        assert notebook.evidence().places == [place]

    @given(st.lists(st.sampled_from(["write", "change", "remove", "undo", "redo"]), max_size=25))
    @settings(max_examples=25)
    def test_any_mix_of_acts_reads_back_the_same(self, acts):
        import tempfile

        with tempfile.TemporaryDirectory() as folder:
            book = Notebook.create(Path(folder) / "n.tallmast")
            for i, act in enumerate(acts):
                antennas = book.evidence().antennas
                if act == "write":
                    book.write(Entry("w", [Antenna(name=f"A{i}")]))
                elif act == "change" and antennas:
                    book.write(Entry("c", [antennas[0].revised(name=f"B{i}")]))
                elif act == "remove" and antennas:
                    book.write(Entry("r", remove=[antennas[-1]]))
                elif act == "undo":
                    book.undo()
                elif act == "redo":
                    book.redo()
            before, tape = sorted(names(book)), list(book.tape)
            undoable = book.can_undo
            book.close()
            again = Notebook.open(book.path)
            assert sorted(names(again)) == before
            assert list(again.tape) == tape
            assert again.can_undo == undoable
            again.close()

    def test_rows_can_only_be_added_even_by_another_program(self, notebook):
        notebook.write(asked())
        other = sqlite3.connect(notebook.path)
        for statement in ("DELETE FROM act", "UPDATE revision SET body = NULL", "DELETE FROM revision"):
            with pytest.raises(sqlite3.IntegrityError, match="notebooks only grow"):
                other.execute(statement)
        other.close()

    def test_the_current_view_is_readable_with_any_tool(self, notebook):
        notebook.write(Entry("Added", [Antenna(name="One")]))
        notebook.write(Entry("Gone", remove=notebook.evidence().antennas))
        notebook.write(asked())
        other = sqlite3.connect(notebook.path)
        assert other.execute("SELECT kind FROM current").fetchall() == [("question",)]
        other.close()


class TestTrouble:
    def test_it_never_overwrites(self, notebook):
        with pytest.raises(NotebookError, match="nothing was overwritten"):
            Notebook.create(notebook.path)
        with pytest.raises(NotebookError, match="nothing was overwritten"):
            notebook.save_copy(notebook.path)

    def test_a_full_disk_is_told_and_nothing_is_lost(self, notebook):
        notebook.write(asked())
        pages = notebook._db.execute("PRAGMA page_count").fetchone()[0]
        notebook._db.execute(f"PRAGMA max_page_count = {pages + 2}")
        with pytest.raises(NotebookError, match="disk is full"):
            notebook.write(Entry("Large", [Antenna(name="X")], raw=[RawFile("big", os.urandom(200_000))]))
        assert names(notebook) == []
        notebook._db.execute("PRAGMA max_page_count = 100000")
        notebook.write(Entry("Small", [Antenna(name="Y")]))
        assert names(notebook) == ["Y"]

    def test_a_second_opener_only_looks_and_sees_what_comes(self, notebook):
        notebook.write(asked())
        second = Notebook.open(notebook.path)
        assert "another window" in second.read_only
        with pytest.raises(NotebookError, match="Save a copy"):
            second.write(Entry("No", [Antenna(name="No")]))
        assert second.can_undo is None
        notebook.write(Entry("Added", [Antenna(name="One")]))
        assert second.refresh()
        assert names(second) == ["One"]
        second.close()

    def test_the_lock_goes_with_its_process(self, tmp_path):
        path = tmp_path / "n.tallmast"
        Notebook.create(path).close()
        script = f"from pathlib import Path; from tallmast.notebook.store import Notebook; n = Notebook.open(Path({str(path)!r})); print(n.read_only, flush=True); import time; time.sleep(60)"
        child = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True)
        assert child.stdout.readline().strip() == ""
        mine = Notebook.open(path)
        assert mine.read_only
        mine.close()
        child.kill()
        child.wait()
        mine = Notebook.open(path)
        assert not mine.read_only
        mine.close()

    @pytest.mark.skipif(os.geteuid() == 0, reason="root may write everywhere")
    def test_a_read_only_folder_is_shown_not_written(self, tmp_path):
        folder = tmp_path / "locked"
        folder.mkdir()
        shutil.copy(KEPT, folder / "n.tallmast")
        folder.chmod(0o555)
        try:
            book = Notebook.open(folder / "n.tallmast")
            assert "can't be written" in book.read_only
            assert names(book) == ["Old Whip"]
            book.close()
        finally:
            folder.chmod(0o755)

    def test_no_lock_means_only_shown(self, notebook, monkeypatch):
        notebook.write(asked())
        path = notebook.path
        notebook.close()
        monkeypatch.setattr(os, "access", lambda *_: False)
        book = Notebook.open(path)
        assert book.read_only == "Only shown: the file can't be written."
        assert book.evidence().question is not None
        book.close()

    @pytest.mark.parametrize(
        ("content", "words"),
        [
            (b"", "is empty"),
            (b"just some text, not a notebook at all", "is not a notebook"),
            (b"\x00" * 300, "is not a notebook"),
        ],
    )
    def test_foreign_files_are_refused_untouched(self, tmp_path, content, words):
        path = tmp_path / "x.tallmast"
        path.write_bytes(content)
        with pytest.raises(NotebookError, match=words):
            Notebook.open(path)
        assert path.read_bytes() == content
        assert [p.name for p in tmp_path.iterdir()] == ["x.tallmast"]

    def test_another_programs_database_is_refused_untouched(self, tmp_path):
        path = tmp_path / "x.tallmast"
        db = sqlite3.connect(path)
        db.execute("CREATE TABLE t (x)")
        db.commit()
        db.close()
        before = path.read_bytes()
        with pytest.raises(NotebookError, match="not a notebook"):
            Notebook.open(path)
        assert path.read_bytes() == before

    def test_a_newer_format_is_refused(self, notebook):
        notebook._db.execute(f"PRAGMA user_version = {schema.FORMAT + 1}")
        path = notebook.path
        notebook.close()
        with pytest.raises(NotebookError, match="newer Tall Mast"):
            Notebook.open(path)

    def test_a_missing_file_and_a_folder(self, tmp_path):
        with pytest.raises(NotebookError, match="is not there"):
            Notebook.open(tmp_path / "gone.tallmast")
        with pytest.raises(NotebookError, match="is a folder"):
            Notebook.open(tmp_path)


class TestUpgrade:
    def test_a_kept_file_of_format_1_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT, tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert names(book) == ["Old Whip"]
        assert book.evidence().antennas[0].price == 12.0
        assert book.tape[3].reason == "read the wrong label"
        assert book.can_redo is not None
        assert schema.format_of(book._db) == schema.FORMAT
        np.testing.assert_allclose(book.evidence().series("ser1")["re"], [0.1, 0, 0.1])
        book.write(Entry("New", [Antenna(name="New")]))
        book.close()

    def test_a_kept_file_of_format_2_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-2.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert names(book) == ["Long Whip"]
        assert schema.format_of(book._db) == schema.FORMAT
        sweep = book.evidence().all(Sweep)[0]
        assert (sweep.fixture, sweep.directivity_db, sweep.calibration_id, sweep.reconnection) == (
            "Plate A",
            38.0,
            "",
            1,
        )
        assert [act.manner for act in book.tape] == ["do", "do", "do", "do", "undo", "redo"]
        book.close()

    def test_a_kept_file_of_format_3_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-3.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert schema.format_of(book._db) == schema.FORMAT
        evidence = book.evidence()
        sweep, cable = evidence.all(Sweep)[0], evidence.all(Fixture)[0].cable
        assert (sweep.calibration_id, sweep.taken_in_reason, sweep.phase_known) == (
            "cal",
            "the plate was bolted down",
            True,
        )
        assert (cable.loss_db, cable.length_m, cable.root_db) == (0.4, 1.2, None)
        assert evidence.all(Calibration)[0].standards.name == "ideal"
        assert evidence.all(MeterReading)[0].channel == ""
        book.close()

    def test_a_kept_file_of_format_6_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-6.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert schema.format_of(book._db) == schema.FORMAT
        evidence = book.evidence()
        sweep, run = evidence.all(Sweep)[0], evidence.runs[0]
        assert (sweep.fixture, sweep.reconnection) == ("Plate A", 3), "it had another name"
        assert (run.path, run.mode, run.other, run.read_on) == ("lane", "", {}, "")
        assert evidence.places[1].position == (57.91, -11.2) and evidence.places[1].distance_m is None
        reading = evidence.readings("run")[0]
        assert (reading.as_typed, reading.level_dbm, reading.scale) == ("59", -93.0, "")
        book._db.execute("BEGIN")
        with pytest.raises(sqlite3.Error, match="only grow"):
            book._db.execute("UPDATE revision SET body = NULL")
        book._db.execute("ROLLBACK")
        book.close()

    def test_a_kept_file_of_format_4_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-4.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert schema.format_of(book._db) == schema.FORMAT
        evidence = book.evidence()
        piece, chain, far = evidence.all(Piece)[0], evidence.home_end, evidence.far_end
        assert (piece.name, piece.type, piece.first.family, piece.tolerance_db) == ("elbow", "adapter", "SMA", 0.0)
        assert (chain.pad_db, chain.placed, chain.ground_reflection) == (10.0, [], True)
        assert (far.sensitivity_dbm, far.wanted_db) == (-99.0, 0.0)
        assert evidence.all(Reading)[0].shown is None
        book.close()

    def test_a_kept_file_of_format_5_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-5.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert schema.format_of(book._db) == schema.FORMAT and not book.set_aside
        evidence = book.evidence()
        assert [s.minute for s in evidence.all(Comparison)[0].spells] == [0.0, 4.0]
        assert evidence.all(Radio)[0].power_w == 0.025
        assert evidence.series(evidence.all(DisplayRun)[0].series_id)["shown"].tolist() == [5.0, 3.0, 1.0]
        book.close()

    def test_a_kept_file_of_format_7_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-7.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert schema.format_of(book._db) == schema.FORMAT and not book.set_aside
        home, far = book.evidence().home_end, book.evidence().far_end
        assert (home.power_w, home.cable_loss_db, home.pads) == (0.02, 1.5, []), "it was the chain"
        assert home.sensitivity_dbm == -103.0, "the far end's last word on it"
        assert (far.sensitivity_dbm, far.power_w, far.power_u_db) == (-98.0, 0.02, 0.5)
        (run,) = book.evidence().runs
        assert [b.antenna_id for b in run.branches] == ["omni"], "it stayed on"
        history = [(home.power_w, home.sensitivity_dbm) for home in _revisions(book, "home end")]
        assert history == [(0.01, None), (0.02, -104.0), (0.02, -103.0)]
        book.close()

    def test_a_kept_file_of_format_8_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-8.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert schema.format_of(book._db) == schema.FORMAT and not book.set_aside
        evidence = book.evidence()
        assert evidence.home_end.branches[0].azimuth_deg == 208.0
        (cut,), (log,) = evidence.all(Cut), evidence.all(Log)
        assert (cut.plane, cut.session, cut.component) == ("azimuth", "yard", "")
        assert (log.source, log.heights, log.fix_u_m, log.behind) == ("round.csv", "", 2.5, [])
        assert evidence.series(log.series_id)["height_m"].tolist() == [20.0, 20.0]
        book.close()

    def test_a_kept_file_of_format_9_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-9.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert schema.format_of(book._db) == schema.FORMAT and not book.set_aside
        evidence = book.evidence()
        (cut,), (turn,), (gain,), (craft,) = (evidence.all(kind) for kind in (Cut, Turn, RangeGain, Craft))
        assert (cut.reference_id, evidence.series(cut.series_id)["way"].tolist()[-1]) == ("", -1.0)
        assert [h.at_deg for h in turn.readings] == [0.0, 90.0, 180.0]
        assert ([s.label for s in gain.readings], gain.second_id, craft.antenna_id) == (["A", "R"], "dipole", "dipole")
        book.close()

    def test_a_kept_file_of_format_10_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-10.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert schema.format_of(book._db) == schema.FORMAT and not book.set_aside
        evidence = book.evidence()
        (terrain,), (ridge,), (air,), (other,), (log,) = (
            evidence.all(kind) for kind in (Terrain, Obstacle, Conditions, Neighbour, Log)
        )
        assert (ridge.from_m, air.rain_mm_h, other.distance_m) == (1800.0, 10.0, 800.0)
        assert len(evidence.series(terrain.series_id)["height_m"]) == 9 and evidence.place("stack").ground_m == 3.0
        assert (log.beside, log.lost, log.heights) == ([], [], "ground")
        book.close()

    def test_a_kept_file_of_format_11_opens_with_everything_in_it(self, tmp_path):
        path = Path(shutil.copy(KEPT.with_name("format-11.tallmast"), tmp_path / "old.tallmast"))
        book = Notebook.open(path)
        assert schema.format_of(book._db) == schema.FORMAT and not book.set_aside
        question, (reading,) = book.evidence().question, book.evidence().meter_readings("drift-whip")
        assert (question.asks, question.antenna_id, reading.swr) == ("is it sound", None, 2.7)
        book.close()

    def test_a_failed_upgrade_leaves_the_file_as_it_was(self, tmp_path, monkeypatch):
        path = Path(shutil.copy(KEPT, tmp_path / "old.tallmast"))

        def broken(db):
            db.execute("CREATE TABLE half (x)")
            raise sqlite3.OperationalError("no")

        monkeypatch.setitem(schema.UPGRADES, 2, broken)
        with pytest.raises(NotebookError):
            Notebook.open(path)
        monkeypatch.undo()
        db = sqlite3.connect(path)
        assert schema.format_of(db) == 1
        assert db.execute("SELECT count(*) FROM sqlite_master WHERE name = 'half'").fetchone() == (0,)
        db.close()


class TestRescue:
    def test_a_notebook_with_a_torn_page_is_read_as_far_as_it_goes(self, demo_copy, tmp_path):
        data = bytearray(demo_copy.read_bytes())
        page = 4096 * (len(data) // 4096 // 2)
        data[page : page + 8192] = os.urandom(8192)
        demo_copy.write_bytes(data)
        try:
            Notebook.open(demo_copy).close()
            opened = True
        except NotebookError as error:
            assert error.can_rescue
            assert "was not touched" in str(error)
            opened = False
        saved = rescue(demo_copy)
        assert saved is not None
        assert saved.kept > 20
        assert "Rescued" in saved.sentence
        assert saved.notebook.read_only
        assert saved.notebook.evidence().antennas
        saved.notebook.close()
        assert opened or demo_copy.read_bytes() == bytes(data)

    def test_a_truncated_notebook(self, demo_copy, tmp_path):
        data = demo_copy.read_bytes()[: demo_copy.stat().st_size // 2]
        demo_copy.write_bytes(data)
        with pytest.raises(NotebookError) as caught:
            Notebook.open(demo_copy)
        assert caught.value.can_rescue
        saved = rescue(demo_copy)
        assert saved is None or saved.kept >= 0
        if saved:
            saved.notebook.close()
        assert demo_copy.read_bytes() == data

    def test_nothing_to_rescue_says_none(self, tmp_path):
        path = tmp_path / "junk.tallmast"
        path.write_bytes(os.urandom(5000))
        assert rescue(path) is None


def test_an_entry_that_the_tape_shows_survives_a_power_cut(tmp_path):
    """Every connection that writes waits for the disk: FULL (2) of a log of writes syncs it at each entry
    (https://sqlite.org/pragma.html#pragma_synchronous). OFF or NORMAL could lose what was shown as kept."""
    path = tmp_path / "b.tallmast"
    for notebook in (Notebook.create(path), Notebook.open(path)):
        assert notebook._db.execute("PRAGMA synchronous").fetchone()[0] == 2
        assert notebook._db.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        staging = notebook._again()
        assert staging.execute("PRAGMA synchronous").fetchone()[0] == 2
        staging.close()
        notebook.close()
