"""Whatever is written, undone, done again and opened again, the notebook is what a simple list of states says it is."""

import tempfile
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from tallmast.notebook import changes
from tallmast.notebook.entry import Entry, RawFile, new_series
from tallmast.notebook.file import NotebookError
from tallmast.notebook.records import Antenna, Place
from tallmast.notebook.store import Notebook

NAMES = st.text(st.characters(codec="utf-8", exclude_characters="\0"), min_size=1, max_size=12)


class History(RuleBasedStateMachine):
    """A notebook beside a model of it: the states of the shelf, and where in them we stand."""

    def __init__(self) -> None:
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.path = Path(self.folder.name) / "h.tallmast"
        self.notebook = Notebook.create(self.path)
        self.states: list[dict[str, str]] = [{}]
        self.at = 0
        self.acts = 0

    def step(self, state: dict[str, str]) -> None:
        self.states = [*self.states[: self.at + 1], state]
        self.at += 1
        self.acts += 1

    @property
    def shelf(self) -> dict[str, str]:
        return self.states[self.at]

    @rule(name=NAMES)
    def add(self, name):
        antenna = Antenna(name=name)
        self.notebook.write(Entry("add", [antenna]))
        self.step({**self.shelf, antenna.id: name})

    @precondition(lambda self: self.shelf)
    @rule(data=st.data(), name=NAMES)
    def rename(self, data, name):
        which = data.draw(st.sampled_from(sorted(self.shelf)))
        antenna = self.notebook.evidence().antenna(which)
        self.notebook.write(Entry("rename", [antenna.revised(name=name)], reason="misread"))
        self.step({**self.shelf, which: name})

    @precondition(lambda self: self.shelf)
    @rule(data=st.data())
    def take_out(self, data):
        which = data.draw(st.sampled_from(sorted(self.shelf)))
        self.notebook.write(Entry("out", remove=[self.notebook.evidence().antenna(which)]))
        self.step({k: v for k, v in self.shelf.items() if k != which})

    @rule()
    def undo(self):
        done = self.notebook.undo()
        assert (done is not None) == (self.at > 0)
        if done:
            self.at -= 1
            self.acts += 1

    @rule()
    def redo(self):
        done = self.notebook.redo()
        assert (done is not None) == (self.at < len(self.states) - 1)
        if done:
            self.at += 1
            self.acts += 1

    @rule()
    def open_again(self):
        self.notebook.close()
        self.notebook = Notebook.open(self.path)
        assert not self.notebook.read_only

    @invariant()
    def the_shelf_is_as_the_model_says(self):
        assert {a.id: a.name for a in self.notebook.evidence().antennas} == self.shelf
        assert [act.number for act in self.notebook.tape] == list(range(1, self.acts + 1))

    def teardown(self):
        self.notebook.close()
        self.folder.cleanup()


History.TestCase.settings = settings(max_examples=40, stateful_step_count=25)
TestHistory = History.TestCase


@pytest.fixture
def notebook(tmp_path):
    made = Notebook.create(tmp_path / "n.tallmast")
    yield made
    made.close()


def test_corrections_know_what_they_corrected(notebook):
    place = Place(name="Rock", latitude_deg=57.9, longitude_deg=-11.2, height_m=2)
    notebook.write(Entry("place", [place]))
    higher = place.revised(height_m=6.0, note="on the tower")
    notebook.write(Entry("higher", [higher]))
    notebook.undo()
    found = notebook.changes()
    assert set(found) == {2, 3}
    assert found[2] == [
        changes.Change(place.id, "height_m", 2.0, 6.0),
        changes.Change(place.id, "note", "", "on the tower"),
    ]
    assert (found[3][0].before, found[3][0].after) == (6.0, 2.0)


def test_taking_out_and_bringing_back_is_no_correction(notebook):
    place = Place(name="Rock", latitude_deg=57.9, longitude_deg=-11.2)
    notebook.write(Entry("place", [place]))
    notebook.write(Entry("out", remove=[place]))
    notebook.undo()
    assert notebook.changes() == {}


class TestLargeEntries:
    def entry(self, size: int = 200_000) -> tuple[Entry, str]:
        series_id, series = new_series({"x": np.arange(1000.0)})
        return Entry("large", [Antenna(name="One")], raw=[RawFile("f", b"x" * size)], series=series), series_id

    def test_staged_bytes_count_for_nothing_until_the_entry_is_written(self, notebook):
        entry, series_id = self.entry()
        notebook.stage(entry)
        assert notebook.tape == []
        assert notebook.evidence().antennas == []
        notebook.write(entry)
        path = notebook.path
        notebook.close()
        again = Notebook.open(path)
        assert again.evidence().series(series_id)["x"][-1] == 999
        assert again.raw(entry.raw[0].sha256) == entry.raw[0]
        again.close()

    def test_staging_is_refused_where_nothing_may_be_written(self, notebook):
        look = Notebook.open(notebook.path)
        with pytest.raises(NotebookError, match="Save a copy"):
            look.stage(self.entry()[0])
        look.close()

    def test_the_same_bytes_twice_are_kept_once(self, notebook):
        one, _ = self.entry()
        two, _ = self.entry()
        notebook.write(one)
        notebook.stage(two)
        notebook.write(two)
        assert notebook._db.execute("SELECT count(*) FROM raw").fetchone()[0] == 1

    def test_tidying_empties_the_log_of_writes_and_changes_nothing(self, notebook):
        assert not notebook.needs_tidying
        for _ in range(3):
            entry, _ = self.entry(2_000_000)
            notebook.write(entry)
        assert notebook.needs_tidying
        before = notebook.path.stat().st_size
        notebook.tidy()
        assert notebook.path.stat().st_size > before
        assert not notebook.needs_tidying
        assert len(notebook.evidence().antennas) == 3
