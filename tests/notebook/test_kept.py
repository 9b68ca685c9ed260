"""Kept, and not kept: files that go away, are bent, are half written, or have several names."""

import json
import os
import shutil
import sqlite3
import time
from pathlib import Path

import numpy as np
import pytest

from tallmast.findings.climb import Climb
from tallmast.notebook import file, schema, store
from tallmast.notebook.entry import Entry, RawFile, new_series
from tallmast.notebook.file import NotebookError
from tallmast.notebook.records import Antenna, Question, Sweep, to_json
from tallmast.notebook.rescue import rescue
from tallmast.notebook.store import Notebook

from . import mutated


@pytest.fixture
def notebook(tmp_path):
    made = Notebook.create(tmp_path / "n.tallmast")
    made.write(Entry("Asked", [Question(text="Which?", band_low_hz=868e6, band_high_hz=870e6)]))
    yield made
    made.close()


def names(notebook):
    return [a.name for a in notebook.evidence().antennas]


def gone(path):
    path.unlink()


def moved(path):
    path.rename(path.with_name("elsewhere.tallmast"))


def replaced(path):
    other = path.with_name("other.tallmast")
    Notebook.create(other).close()
    other.replace(path)


class TestTheFileUnderItsName:
    @pytest.mark.parametrize("how", [gone, moved, replaced])
    def test_nothing_is_acknowledged_into_nothing(self, notebook, how, tmp_path):
        notebook.write(Entry("Added", [Antenna(name="One")]))
        how(notebook.path)
        heard = []
        notebook.on_change.append(heard.append)
        for _ in range(3):
            with pytest.raises(NotebookError, match="while it was open") as told:
                notebook.write(Entry("Added", [Antenna(name="Two")]))
            assert "Ctrl+Shift+S" in str(told.value) or "Save a copy" in str(told.value)
        assert heard == [] and names(notebook) == ["One"]
        # All that was kept is still reachable, and saved elsewhere.
        copy = tmp_path / "saved.tallmast"
        notebook.save_copy(copy)
        again = Notebook.open(copy)
        assert names(again) == ["One"] and len(again.tape) == 2
        again.close()

    def test_staging_and_tidying_write_into_no_other_notebook(self, notebook):
        replaced(notebook.path)
        _series_id, series = new_series({"x": np.arange(3.0)})
        with pytest.raises(NotebookError):
            notebook.stage(Entry("Large", raw=[RawFile("a", b"x" * 100)], series=series))
        notebook._untidy = True
        notebook.tidy()
        other = sqlite3.connect(notebook.path)
        assert other.execute("SELECT count(*) FROM raw").fetchone()[0] == 0
        assert other.execute("SELECT count(*) FROM series").fetchone()[0] == 0

    @pytest.mark.parametrize("link", [os.symlink, os.link])
    def test_a_link_does_not_go_round_the_lock(self, notebook, tmp_path, link):
        other = tmp_path / "sub"
        other.mkdir()
        if link is os.link:
            notebook.close()
            link(notebook.path, other / "b.tallmast")
            first = Notebook.open(notebook.path)
        else:
            link(notebook.path, other / "b.tallmast")
            first = notebook
        second = Notebook.open(other / "b.tallmast")
        assert second.read_only and not first.read_only
        second.close()
        first.close()


class TestBent:
    def fill(self, notebook):
        a = Antenna(id="a", name="One")
        series_id, series = new_series({"frequency_hz": np.arange(3.0), "re": np.zeros(3), "im": np.zeros(3)})
        notebook.write(Entry("Added", [a]))
        notebook.write(Entry("Swept", [Sweep(antenna_id="a", state_id="s", series_id=series_id)], series=series))
        path = notebook.path
        notebook.close()
        db = sqlite3.connect(path)
        for table in schema.APPEND_ONLY:
            for verb in ("update", "delete"):
                db.execute(f"DROP TRIGGER {table}_no_{verb}")
        return path, db

    @pytest.mark.parametrize(
        ("statement", "left"),
        [
            ("UPDATE revision SET body = '[1,2' WHERE kind = 'antenna'", "one antenna"),
            ("UPDATE revision SET body = '[]' WHERE kind = 'antenna'", "one antenna"),
            ("UPDATE revision SET body = 7 WHERE kind = 'antenna'", "one antenna"),
            ("UPDATE revision SET kind = 'ghost' WHERE kind = 'antenna'", "one ghost"),
            ("UPDATE series SET columns = '{}'", "the columns"),
            ("UPDATE series SET count = -4", "the columns"),
            ("UPDATE series SET columns = 'null'", "the columns"),
            ("UPDATE series SET data = 'text'", "the columns"),
            ("DELETE FROM series", "whose columns are missing"),
            ("UPDATE act SET at = 9 WHERE number = 2", ""),
            ("UPDATE act SET manner = 'undo', reverses = 77 WHERE number = 2", ""),
        ],
    )
    def test_what_is_bad_is_set_aside_and_named_and_the_rest_is_shown(self, notebook, statement, left):
        path, db = self.fill(notebook)
        db.execute(statement)
        db.commit()
        db.close()
        again = Notebook.open(path)
        assert again.evidence().question is not None
        assert any(left in words for words in again.set_aside) if left else True
        for act in again.tape:
            assert act.label
        again.changes(), again.revisions("a"), again.can_undo
        again.close()

    def test_a_rowid_of_astronomical_size_does_not_hang_a_rescue(self, notebook, tmp_path):
        path, db = self.fill(notebook)
        db.execute("PRAGMA foreign_keys = OFF")
        db.execute(
            "INSERT INTO revision VALUES (?, 1, 'far', 'antenna', ?)",
            (2**62 - 1, to_json(Antenna(id="far", name="Far"))),
        )
        db.commit()
        db.close()
        began = time.monotonic()
        saved = rescue(path, tmp_path)
        assert time.monotonic() - began < 5
        assert {"One", "Far"} <= set(names(saved.notebook))
        saved.notebook.close()

    def test_a_rescue_can_be_stopped(self, notebook, tmp_path):
        path, db = self.fill(notebook)
        db.close()
        assert rescue(path, tmp_path, stopped=lambda: True) is None

    def test_bent_bytes_and_rows_anywhere_raise_nothing_but_notebook_errors(self, capsys, monkeypatch):
        monkeypatch.setattr(
            Climb, "fails_loudly", False
        )  # a number bent beyond reason may cost its rung, not the window
        assert mutated.main(60, seed=3) == 0, capsys.readouterr().out


def older(tmp_path, demo=None):
    """A notebook of the format before this one."""
    path = tmp_path / "old.tallmast"
    made = Notebook.create(path)
    made.write(Entry("Added", [Antenna(name="One")]))
    made.close()
    db = sqlite3.connect(path)
    db.execute(f"PRAGMA user_version = {schema.FORMAT - 1}")
    db.close()
    return path


class TestUpgrades:
    def test_one_that_fails_half_way_leaves_the_file_to_the_byte(self, tmp_path, monkeypatch):
        path = older(tmp_path)
        before = path.read_bytes()

        def fails(db):
            db.execute("CREATE TABLE half (x)")
            raise sqlite3.OperationalError("made to fail")

        monkeypatch.setitem(schema.UPGRADES, schema.FORMAT, fails)
        with pytest.raises(NotebookError, match="not touched"):
            Notebook.open(path)
        assert path.read_bytes() == before
        assert sorted(p.name for p in tmp_path.iterdir()) == ["old.tallmast"]

    def test_one_that_succeeds_takes_its_place_whole(self, tmp_path):
        path = older(tmp_path)
        made = Notebook.open(path)
        assert names(made) == ["One"] and not made.read_only
        made.write(Entry("More", [Antenna(name="Two")]))
        made.close()
        assert names(Notebook.open(path)) == ["One", "Two"]


def test_a_log_of_writes_left_in_a_read_only_folder_is_read(tmp_path):
    path = tmp_path / "n.tallmast"
    made = Notebook.create(path)
    made.tidy()
    for i in range(5):
        made.write(Entry("Added", [Antenna(name=str(i))]))
    copy = tmp_path / "there"
    copy.mkdir()
    for ending in ("", "-wal"):
        shutil.copyfile(f"{path}{ending}", copy / f"c.tallmast{ending}")
    made.close()
    found = file.with_log(copy / "c.tallmast")
    assert found.execute("SELECT count(*) FROM act").fetchone()[0] == 5
    found.close()
    assert sorted(p.name for p in copy.iterdir()) == ["c.tallmast", "c.tallmast-wal"]


class TestFullDisk:
    def test_opening_says_what_it_is(self, tmp_path, monkeypatch):
        path = tmp_path / "n.tallmast"
        Notebook.create(path).close()
        error = sqlite3.OperationalError("disk I/O error")
        error.sqlite_errorcode = sqlite3.SQLITE_IOERR

        def fails(_):
            raise error

        monkeypatch.setattr(store, "prepare", fails)
        with pytest.raises(NotebookError) as told:
            Notebook.open(path)
        assert not told.value.can_rescue and "damaged" not in str(told.value)
        monkeypatch.setattr(file, "disk_is_full", lambda _: True)
        with pytest.raises(NotebookError, match="the disk is full"):
            Notebook.open(path)

    def test_a_new_notebook_leaves_no_stub_that_blocks_its_name(self, tmp_path, monkeypatch):
        def fails(_):
            raise sqlite3.OperationalError("database or disk is full")

        with monkeypatch.context() as bent:
            bent.setattr(schema, "lay_out", fails)
            with pytest.raises(NotebookError, match=r"the disk is full.*Nothing was left"):
                Notebook.create(tmp_path / "n.tallmast")
        assert list(tmp_path.iterdir()) == []
        Notebook.create(tmp_path / "n.tallmast").close()


def test_series_rows_are_what_they_say():
    with pytest.raises(ValueError):
        store.unpack_series(json.dumps(["a"]), 3, b"\0" * 8)
    with pytest.raises(ValueError):
        store.unpack_series("[]", 0, b"")


def alone(path: Path, tmp_path: Path) -> list[str]:
    """What somebody has who copies the file while it is open, and nothing beside it."""
    copy = tmp_path / f"copy-{len(list(tmp_path.iterdir()))}.tallmast"
    shutil.copyfile(path, copy)
    found = Notebook.open(copy)
    out = names(found)
    found.close()
    return out


class TestTheFileAlone:
    def test_a_new_one_is_a_notebook_from_the_start(self, tmp_path):
        made = Notebook.create(tmp_path / "n.tallmast")
        assert alone(made.path, tmp_path) == []
        made.close()

    def test_holds_what_was_kept_once_it_is_tidied(self, tmp_path):
        made = Notebook.create(tmp_path / "n.tallmast")
        for name in ("One", "Two"):
            made.write(Entry("Added", [Antenna(name=name)]))
            assert made.needs_tidying
            made.tidy()
            assert alone(made.path, tmp_path)[-1] == name
        made.close()

    @pytest.mark.parametrize("tidied", [True, False])
    def test_a_log_of_writes_that_somebody_takes_away_takes_nothing_with_it(self, tmp_path, tidied):
        made = Notebook.create(tmp_path / "n.tallmast")
        made.write(Entry("Added", [Antenna(name="One")]))
        for ending in ("-wal", "-shm"):
            Path(f"{made.path}{ending}").unlink()
        if tidied:
            made.tidy()
            assert alone(made.path, tmp_path) == ["One"]
        _, series = new_series({"x": np.arange(3.0)})
        large = Entry("Two", [Antenna(name="Two")], raw=[RawFile("a", b"x" * 100)], series=series)
        made.stage(large)
        made.write(large)
        made.write(Entry("Added", [Antenna(name="Three")]))
        made.tidy()
        assert alone(made.path, tmp_path) == ["One", "Two", "Three"]
        made.close()
        again = Notebook.open(tmp_path / "n.tallmast")
        assert names(again) == ["One", "Two", "Three"] and len(again.tape) == 3 and not again.set_aside
        again.close()


def test_a_copy_that_was_killed_leaves_nothing_under_its_name(tmp_path, monkeypatch):
    made = Notebook.create(tmp_path / "n.tallmast")
    made.write(Entry("Added", [Antenna(name="One")]))
    copy = tmp_path / "copy.tallmast"

    def killed(self, target):
        raise KeyboardInterrupt

    monkeypatch.setattr(Path, "rename", killed)
    with pytest.raises(KeyboardInterrupt):
        made.save_copy(copy)
    assert not copy.exists()
    monkeypatch.undo()
    made.save_copy(copy)
    assert alone(copy, tmp_path) == ["One"] and not list(tmp_path.glob(".copy*"))
    made.close()
