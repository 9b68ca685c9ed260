"""The session: stale findings dropped, faults told, a second look kept fresh; and the live run."""

import sqlite3
import threading

import numpy as np
import pytest
from PySide6.QtCore import Qt

from tallmast.desk.session import Session
from tallmast.findings.aims import Options
from tallmast.findings.climb import Climb
from tallmast.notebook.entry import Entry, new_series
from tallmast.notebook.records import Antenna, Log, Place, Reading, Run
from tallmast.notebook.store import Notebook

from .hands import Hands


@pytest.fixture
def session(qtbot, demo_copy):
    made = Session()
    made.open(Notebook.open(demo_copy))
    yield made
    made.close()


def test_findings_follow_the_newest_entry_only(session, qtbot):
    seen: list[Climb] = []
    session.found.connect(seen.append)
    for i in range(5):
        session.write(Entry(f"antenna {i}", [Antenna(name=f"Extra {i}", slot=i)]))
    session.settle()
    assert len(seen[-1].evidence.antennas) == 10
    assert seen[-1].evidence.head == session.notebook.head
    heads = [climb.evidence.head for climb in seen]
    assert heads == sorted(heads)


def test_findings_of_an_older_moment_never_show_as_those_of_now(session, qtbot):
    """An act that comes while the one before is worked out: what was worked out for that is not shown any more."""
    session.settle()
    shown: list[tuple[int, int]] = []
    session.found.connect(lambda climb: shown.append((climb.evidence.head, session.notebook.head)))
    for i in range(4):
        session.write(Entry(f"antenna {i}", [Antenna(name=f"Late {i}", slot=i)]))
    session.aim(options=Options(pads_db=(3.0,)))
    session.settle()
    assert shown
    assert all(of == now for of, now in shown)
    assert session.climb.aims.options.pads_db == (3.0,)


def test_closing_and_opening_wait_for_no_finding_and_the_next_ones_come_meanwhile(
    session, qtbot, monkeypatch, tmp_path
):
    """A finding that takes minutes can't be broken off: it is left behind, and nothing of it is shown."""
    session.settle()
    working, go_on = threading.Event(), threading.Event()
    whole = Climb.of

    def slow(self, rung):
        if any(a.name == "Slow" for a in self.whole.antennas):
            working.set()
            go_on.wait(60)
        return whole(self, rung)

    monkeypatch.setattr(Climb, "of", slow)
    shown: list[Climb] = []
    session.write(Entry("antenna", [Antenna(name="Slow")]))
    qtbot.waitUntil(working.is_set, timeout=20_000)
    other = Notebook.create(tmp_path / "other.tallmast")
    other.write(Entry("antenna", [Antenna(name="Quick")]))
    try:
        session.open(other)
        session.found.connect(shown.append)
        session.settle()
        assert [a.name for a in session.climb.evidence.antennas] == ["Quick"] and session.at_work
        session.close()
        assert session.notebook is None and session.at_work
    finally:
        go_on.set()
    qtbot.waitUntil(lambda: not session.at_work, timeout=20_000)
    assert {a.name for climb in shown for a in climb.evidence.antennas} == {"Quick"}


def test_what_was_asked_to_be_written_is_written_though_the_window_closes(session, tmp_path):
    begun, go_on = threading.Event(), threading.Event()

    def write():
        begun.set()
        go_on.wait(20)
        (tmp_path / "bundle.zip").write_bytes(b"whole")

    session.work("Writing", write, lambda result, error: None)
    assert begun.wait(20)
    session.close()
    threading.Timer(0.1, go_on.set).start()
    session.finish_files()
    assert (tmp_path / "bundle.zip").read_bytes() == b"whole"


def test_a_finding_that_breaks_is_told_and_the_notebook_goes_on(session, qtbot, monkeypatch):
    session.settle()
    said: list[str] = []
    session.trouble.connect(said.append)

    def broken(self, rung):
        raise ZeroDivisionError("by hand")

    monkeypatch.setattr(Climb, "of", broken)
    session.refind()
    qtbot.waitUntil(lambda: bool(said), timeout=5000)
    assert "The notebook is safe" in said[0]
    monkeypatch.undo()
    session.write(Entry("antenna", [Antenna(name="After")]))
    session.settle()
    assert any(a.name == "After" for a in session.climb.evidence.antennas)


def test_a_full_disk_is_told_in_the_window_and_what_was_typed_stays(window, qtbot, demo_copy):
    hands = Hands(qtbot, window)
    window.open_notebook(demo_copy)
    hands.settle()
    book = window.session.notebook
    pages = book._db.execute("PRAGMA page_count").fetchone()[0]
    book._db.execute(f"PRAGMA max_page_count = {pages}")
    head = book.head
    for i in range(400):  # fill what room the last page has left
        try:
            book.write(Entry(f"filler {i} " + "x" * 500, [Antenna(name=f"Filler {i}", handling="y" * 2000)]))
        except Exception:
            break
    kept = book.head
    hands.press_on("field", "l")
    hands.fill({"name": "No Room " + "z" * 3000, "position": "57.9 -11.2"})
    hands.press(Qt.Key.Key_Return)
    assert "the disk is full" in hands.trouble
    assert window.sheet is not None
    assert book.head == kept >= head


def test_nothing_to_undo_is_said(session):
    said: list[str] = []
    session.trouble.connect(said.append)
    while session.notebook.can_undo:
        session.undo()
    session.undo()
    assert said == ["Nothing to undo."]


def test_an_undone_demo_is_empty_and_redone_whole(session):
    full = len(session.evidence.antennas), len(session.evidence.runs)
    while session.notebook.can_undo:
        session.undo()
    assert session.evidence.question is None
    while session.notebook.can_redo:
        session.redo()
    assert (len(session.evidence.antennas), len(session.evidence.runs)) == full
    session.settle()
    assert session.climb.verdict.lamp


def test_a_live_run_logs_one_reading_a_key(window, qtbot, demo_copy):
    hands = Hands(qtbot, window)
    window.open_notebook(demo_copy)
    hands.settle()
    hands.press_on("field", "g")
    live = window.views["field"].live
    run_id = live.procedure.cells[0][1]
    before = len(window.session.evidence.readings(run_id))
    for key in ("H", Qt.Key.Key_Space, "N", "E", "3"):
        hands.press(key)
    hands.settle()
    new = window.session.evidence.readings(run_id)[before:]
    assert [(r.end, r.heard, r.readability) for r in new] == [
        ("away", True, None),
        ("away", False, None),
        ("home", True, 3),
    ]
    assert new[0].place_id != new[1].place_id == new[2].place_id
    assert "Kept: " in live.todo.text()
    hands.press(Qt.Key.Key_Escape)
    assert not live.isVisible()
    hands.press("7")
    assert window.rung == "verdict"


def test_what_another_program_sees_is_what_the_tape_shows(session, demo_copy):
    session.write(Entry("place", [Place(name="New", latitude_deg=57.9, longitude_deg=-11.2)]))
    other = sqlite3.connect(demo_copy)
    assert other.execute("SELECT label FROM act ORDER BY number DESC LIMIT 1").fetchone() == ("place",)
    assert other.execute("SELECT count(*) FROM current WHERE kind = 'reading'").fetchone()[0] == len(
        session.evidence.all(Reading)
    )
    other.close()


def _flight(notebook, rows):
    """A run round the first antenna, logged in so many rows."""
    antenna = notebook.evidence().antennas[2]
    home = notebook.evidence().home
    turn = np.linspace(0, 8 * np.pi, rows)
    key, series = new_series(
        {
            "latitude_deg": home.latitude_deg + 60.0 * np.cos(turn) / 111_400.0,
            "longitude_deg": home.longitude_deg + 60.0 * np.sin(turn) / 59_300.0,
            "height_m": 6.0 + 40.0 * np.linspace(0, 1, rows),
            "level_dbm": -70.0 - 10.0 * np.sin(turn) ** 2 + np.random.default_rng(1).normal(0, 1, rows),
            "time_s": np.arange(rows) / 100.0,
        }
    )
    run = Run(number=40, antenna_id=antenna.id, state_id=antenna.state.id, manner="orbit")
    return Entry("Flown", [run, Log(run_id=run.id, series_id=key, heights="ground")], series=series)


def test_the_rung_in_front_is_found_and_painted_before_the_others(window, qtbot, demo_copy):
    hands = Hands(qtbot, window)
    window.open_notebook(demo_copy)
    hands.settle()
    window.climb_to("field")
    hands.settle()
    session, view, seen = window.session, window.views["field"], []
    session.front_found.connect(lambda climb: seen.append((climb, "link" in climb.__dict__, session.settled)))
    painted, painter = [], view.show_climb
    view.show_climb = lambda climb: (painted.append(climb), painter(climb))
    session.write(Entry("higher", [session.evidence.home.revised(height_m=9.0)]))
    hands.settle()
    ((climb, all_found, settled),) = seen
    assert not all_found and not settled
    assert climb is session.climb and "link" in climb.__dict__
    assert painted == [climb] and view.shown is climb  # once, and by what is so


def test_a_notebook_closed_over_a_part_of_its_log_leaves_nothing_under_way(window, qtbot, demo_copy):
    hands = Hands(qtbot, window)
    window.open_notebook(demo_copy)
    hands.settle()
    session = window.session
    with qtbot.waitSignal(session.drafted, timeout=20_000):
        session.write(_flight(session.notebook, 240_000))
    session.close()
    qtbot.waitUntil(lambda: session.settled, timeout=5_000)
    assert session.notebook is None


def test_who_climbs_on_meanwhile_is_not_thrown_back(window, qtbot, demo_copy):
    hands = Hands(qtbot, window)
    window.open_notebook(demo_copy)
    hands.settle()
    window.climb_to("bench")
    hands.settle()
    window.session.write(Entry("another", [Antenna(name="Another")]))
    window.climb_to("shelf")
    hands.settle()
    qtbot.waitUntil(lambda: window.views["shelf"].shown is window.session.climb)
    assert window.stack.currentWidget() is window.views["shelf"]


def test_a_long_log_is_drawn_by_a_part_of_it_while_the_rest_is_read(window, qtbot, demo_copy):
    hands = Hands(qtbot, window)
    window.open_notebook(demo_copy)
    hands.settle()
    window.climb_to("pattern")
    session = window.session
    shown, said = [], []
    session.drafted.connect(lambda climb: shown.append((climb, session.settled)))
    session.busy.connect(said.append)
    painted = []
    view = window.views["pattern"]
    painter = view.show_climb

    def show_climb(climb):
        painted.append(climb)
        painter(climb)

    view.show_climb = show_climb
    session.write(_flight(session.notebook, 240_000))
    hands.settle()
    qtbot.waitUntil(lambda: painted[-1] is session.climb, timeout=20_000)
    ((draft, settled),) = shown
    assert not settled and draft in painted[:-1]
    part, whole = (
        sum(len(t.level_db) for a in c.pattern.flown_first for t in a.flown.tracks) for c in (draft, session.climb)
    )
    assert part == pytest.approx(20_000, rel=0.01) and whole >= 50_000
    assert "Reading all 240 000 rows; so far it shows every 12th" in said and said[-1] == ""
    # What has nothing to do with the log does not begin it again; and what is kept is never the part.
    session.write(Entry("another", [Antenna(name="Another")]))
    hands.settle()
    assert len(shown) == 1
    assert session.climb.whole.longest_log == 240_000
