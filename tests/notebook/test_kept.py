"""Kept, and not kept: files that go away, are bent, are half written, or have several names."""

import errno
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

    def test_a_link_planted_where_locks_lie_is_not_followed(self, notebook, tmp_path, monkeypatch):
        os.link(notebook.path, tmp_path / "b.tallmast")
        notebook.close()
        (tmp_path / "theirs").mkdir()
        (tmp_path / f"tallmast-locks-{os.getuid()}").symlink_to(tmp_path / "theirs")
        monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
        opened = Notebook.open(notebook.path)
        assert "somebody else" in opened.read_only and list((tmp_path / "theirs").iterdir()) == []
        opened.close()


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
        saved = rescue(path)
        assert time.monotonic() - began < 5
        assert {"One", "Far"} <= set(names(saved.notebook))
        saved.notebook.close()

    def test_a_rescue_can_be_stopped(self, notebook, tmp_path):
        path, db = self.fill(notebook)
        db.close()
        assert rescue(path, stopped=lambda: True) is None

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


def hit(path, numbers):
    """Turn pages of a file to noise, by their numbers."""
    noise = np.random.default_rng(7)
    data = bytearray(path.read_bytes())
    for number in numbers:
        data[(number - 1) * 4096 : number * 4096] = noise.bytes(4096)
    path.write_bytes(data)


class TestRescue:
    def many(self, tmp_path):
        """A notebook in which revisions fill many pages, and an imported file many more; with its table's pages by kind."""
        path = tmp_path / "many.tallmast"
        made = Notebook.create(path)
        for i in range(400):
            made.write(Entry(f"Added {i}", [Antenna(id=f"a{i}", name=f"Whip {i} " + "x" * 300)]))
        made.write(Entry("Brought in", raw=[RawFile("long.csv", bytes(range(256)) * 400)]))
        made.close()
        db = sqlite3.connect(path)
        pages = {
            kind: [
                n for (n,) in db.execute("SELECT pageno FROM dbstat WHERE name = 'revision' AND pagetype = ?", (kind,))
            ]
            for kind in ("leaf", "internal")
        }
        db.close()
        return path, pages

    def test_what_leads_to_the_rows_is_gone_and_every_row_is_read(self, tmp_path):
        path, pages = self.many(tmp_path)
        assert len(pages["internal"]) == 1 and len(pages["leaf"]) > 30
        hit(path, pages["internal"])
        saved = rescue(path)
        assert len(names(saved.notebook)) == 400 and saved.lost == 0 and saved.kept == 401
        (file,) = saved.notebook.raw_files()
        assert file.data == bytes(range(256)) * 400
        saved.notebook.close()

    def test_only_what_was_hit_is_lost_and_counted(self, tmp_path):
        path, pages = self.many(tmp_path)
        hit(path, [*pages["internal"], *pages["leaf"][3:20:4]])
        saved = rescue(path)
        left = len(names(saved.notebook))
        assert 340 < left < 400 and saved.lost == 400 - left
        assert saved.sentence == f"Rescued 401 entries; {saved.lost} could not be read."
        saved.notebook.close()

    @pytest.mark.parametrize("first", [16, 100, 4096])
    def test_a_beginning_turned_to_noise_costs_nothing_but_itself(self, tmp_path, first):
        path, _ = self.many(tmp_path)
        data = bytearray(path.read_bytes())
        data[:first] = b"\xa5" * first
        path.write_bytes(data)
        with pytest.raises(NotebookError) as told:
            Notebook.open(path)
        assert told.value.can_rescue
        saved = rescue(path)
        assert len(names(saved.notebook)) == 400 and saved.lost == 0
        saved.notebook.close()
        assert path.read_bytes() == bytes(data)

    def test_a_file_cut_off_is_read_as_far_as_it_goes_and_said_to_be(self, tmp_path):
        path, _ = self.many(tmp_path)
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 3])
        saved = rescue(path)
        assert len(names(saved.notebook)) > 100
        assert saved.sentence.endswith("The file is cut off: what followed is gone.")
        saved.notebook.close()

    def test_what_is_only_in_the_log_of_writes_is_read(self, tmp_path):
        path = tmp_path / "n.tallmast"
        made = Notebook.create(path)
        made.write(Entry("Added", [Antenna(name="One")], raw=[RawFile("long", b"y" * 9000)]))
        copy = tmp_path / "c.tallmast"
        for ending in ("", "-wal"):
            shutil.copyfile(f"{path}{ending}", f"{copy}{ending}")
        made.close()
        hit(copy, [1])
        saved = rescue(copy)
        assert names(saved.notebook) == ["One"] and [f.data for f in saved.notebook.raw_files()] == [b"y" * 9000]
        saved.notebook.close()

    def test_nothing_of_it_stays_in_any_folder(self, tmp_path, monkeypatch):
        monkeypatch.setenv("TMPDIR", str(tmp_path / "temporary"))
        monkeypatch.setattr("tempfile.tempdir", None)
        (tmp_path / "temporary").mkdir()
        path, pages = self.many(tmp_path)
        hit(path, pages["internal"])
        saved = rescue(path)
        assert sorted(p.name for p in tmp_path.rglob("*")) == ["many.tallmast", "temporary"]
        assert saved.notebook.in_no_file and saved.notebook.read_only
        saved.notebook.save_copy(tmp_path / "saved.tallmast")
        saved.notebook.close()
        again = Notebook.open(tmp_path / "saved.tallmast")
        assert len(names(again)) == 400 and not again.set_aside and again.undo().label == "Brought in"
        again.close()


class TestAnEntryThatCannotBeRead:
    def written(self, notebook, statement):
        for i in range(4):
            notebook.write(Entry(f"Added {i}", [Antenna(id=f"a{i}", name=str(i))]))
        path = notebook.path
        notebook.close()
        db = sqlite3.connect(path)
        for (name,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'").fetchall():
            db.execute(f"DROP TRIGGER {name}")
        db.execute("PRAGMA ignore_check_constraints = ON")
        db.execute(statement)
        db.commit()
        db.close()
        return Notebook.open(path)

    @pytest.mark.parametrize(
        "statement",
        [
            "DELETE FROM act WHERE number = 3",
            "UPDATE act SET label = x'ff' WHERE number = 3",
            "UPDATE act SET label = x'ff' WHERE number = 5",
            "UPDATE act SET manner = 'lost' WHERE number = 5",
            "UPDATE act SET label = CAST(x'41ff42' AS TEXT) WHERE number = 2",
            "UPDATE revision SET body = '{' WHERE record_id = 'a1'",
        ],
    )
    def test_costs_neither_the_next_entry_nor_undo(self, notebook, statement):
        again = self.written(notebook, statement)
        assert again.set_aside
        again.write(Entry("More", [Antenna(id="m", name="more")]))
        assert again.undo().label == "More" and "more" not in names(again)
        count = 0
        while again.undo() is not None:
            count += 1
        assert count >= 4 and names(again) == []
        while again.redo() is not None:
            pass
        assert names(again)[-1:] == ["more"]
        again.close()

    def test_one_byte_that_is_no_letter_costs_that_letter(self, notebook):
        again = self.written(notebook, "UPDATE act SET label = CAST(x'41ff42' AS TEXT) WHERE number = 2")
        assert again.tape[1].label == "A\ufffdB" and again.set_aside == ["a byte that is no letter"]
        again.close()


def test_what_is_undone_and_done_again_keeps_its_place(notebook):
    for name in ("One", "Two"):
        notebook.write(Entry("Added", [Antenna(id=name, name=name)]))
    notebook.write(Entry("Taken out", remove=[notebook.evidence().antennas[0]]))
    notebook.undo()
    assert names(notebook) == ["One", "Two"]
    path = notebook.path
    notebook.close()
    again = Notebook.open(path)
    assert names(again) == ["One", "Two"]
    again.close()


class TestUpgrades:
    def test_what_was_is_kept_and_the_rights_and_every_name_stay(self, tmp_path):
        path = older(tmp_path)
        path.chmod(0o600)
        other = tmp_path / "sub" / "other name.tallmast"
        other.parent.mkdir()
        os.link(path, other)
        made = Notebook.open(path)
        kept = made.kept_before
        assert kept == tmp_path / f"old (format {schema.FORMAT - 1}).tallmast"
        assert path.stat().st_mode & 0o777 == kept.stat().st_mode & 0o777 == 0o600
        made.write(Entry("More", [Antenna(name="Two")]))
        made.close()
        assert path.samefile(other)
        assert [names(Notebook.open(p)) for p in (other, kept)] == [["One", "Two"], ["One"]]

    def test_tried_again_it_keeps_the_old_one_once(self, tmp_path, monkeypatch):
        path = older(tmp_path)

        def full(_):
            raise sqlite3.OperationalError("database or disk is full")

        with monkeypatch.context() as bent:
            bent.setattr(file, "prepare", full)
            for _ in range(2):
                with pytest.raises(
                    NotebookError, match=r"can’t be brought up to date: the disk is full.*Nothing in it was lost"
                ):
                    Notebook.open(path)
        Notebook.open(path).close()
        assert sorted(p.name for p in tmp_path.iterdir()) == [
            f"old (format {schema.FORMAT - 1}).tallmast",
            "old.tallmast",
        ]

    def test_one_left_with_its_log_of_writes_is_upgraded_with_it(self, tmp_path):
        path = older(tmp_path)
        db = sqlite3.connect(path, isolation_level=None)
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("INSERT INTO act VALUES (2, '', 'Late', 'do', NULL, NULL)")
        left = tmp_path / "left.tallmast"
        for ending in ("", "-wal"):
            shutil.copyfile(f"{path}{ending}", f"{left}{ending}")
        db.close()
        made = Notebook.open(left)
        assert [act.label for act in made.tape] == ["Added", "Late"]
        kept = Notebook.open(made.kept_before)
        assert [act.label for act in kept.tape] == ["Added", "Late"]
        kept.close()
        made.close()

    def test_a_newer_one_with_its_log_of_writes_stays_to_the_byte(self, tmp_path):
        path = tmp_path / "n.tallmast"
        made = Notebook.create(path)
        made.write(Entry("Added", [Antenna(name="One")]))
        made._db.execute("PRAGMA user_version = 99")
        copy = tmp_path / "there" / "c.tallmast"
        copy.parent.mkdir()
        for ending in ("", "-wal"):
            shutil.copyfile(f"{path}{ending}", f"{copy}{ending}")
        made.close()
        before = {p.name: p.read_bytes() for p in copy.parent.iterdir()}
        with pytest.raises(NotebookError, match=r"newer.*not touched"):
            Notebook.open(copy)
        assert {p.name: p.read_bytes() for p in copy.parent.iterdir()} == before

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
    def test_no_room_to_look_at_one_that_was_left_in_the_middle_is_told(self, tmp_path, monkeypatch):
        path = tmp_path / "n.tallmast"
        made = Notebook.create(path)
        made.write(Entry("Added", [Antenna(name="One")]))
        left = tmp_path / "left.tallmast"
        for ending in ("", "-wal"):
            shutil.copyfile(f"{path}{ending}", f"{left}{ending}")
        made.close()

        def full(*_):
            raise OSError(errno.ENOSPC, "No space left on device")

        with monkeypatch.context() as bent:
            bent.setattr(file.shutil, "copyfile", full)
            with pytest.raises(NotebookError, match=r"can't be opened now: the disk is full.*not touched") as told:
                Notebook.open(left)
        assert not told.value.can_rescue
        again = Notebook.open(left)
        assert names(again) == ["One"] and not again.read_only
        again.close()

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
