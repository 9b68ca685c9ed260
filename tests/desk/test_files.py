"""Notebooks, copies, reports and bundles through the window: what goes well, and what can't be done."""

import html
import os
import zipfile

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from tallmast.notebook.store import Notebook

from .hands import Hands

CTRL_SHIFT = Qt.KeyboardModifier.ShiftModifier


def answering(monkeypatch, name: str, answer) -> None:
    """The system's own file dialog, answered: it can't be driven offscreen."""
    monkeypatch.setattr(QFileDialog, name, lambda *a, **k: answer)


def test_a_copy_holds_the_whole_history_and_is_gone_on_with(hands, monkeypatch, tmp_path):
    before = [act.label for act in hands.window.session.notebook.tape]
    answering(monkeypatch, "getSaveFileName", (str(tmp_path / "copy.tallmast"), ""))
    hands.chord("s", CTRL_SHIFT)
    hands.settle()
    assert hands.window.session.notebook.path.name == "copy.tallmast"
    assert [act.label for act in hands.window.session.notebook.tape] == before
    hands.chord("z")
    hands.settle()
    assert hands.window.session.notebook.tape[-1].manner == "undo"


def test_a_report_speaks_of_the_antenna_that_is_looked_at(hands, monkeypatch, tmp_path):
    """The writer is a process of its own: it is told what is in focus, which band, and what is tried."""
    hands.press(".")
    hands.press(".")
    hands.settle()
    assert hands.window.session.focus_antenna != hands.window.session.evidence.antennas[0]
    said = []
    for rung in "2467":
        hands.press(rung)
        said.append(hands.sentence)
    answering(monkeypatch, "getSaveFileName", (str(tmp_path / "report.html"), ""))
    with hands.qtbot.waitSignal(hands.window.files.written_out, timeout=60_000):
        hands.chord("r")
    text = html.unescape((tmp_path / "report.html").read_text())
    assert all(sentence in text for sentence in said), said


def test_a_copy_overwrites_nothing(hands, monkeypatch, tmp_path):
    (tmp_path / "there.tallmast").write_bytes(b"mine")
    answering(monkeypatch, "getSaveFileName", (str(tmp_path / "there.tallmast"), ""))
    hands.chord("s", CTRL_SHIFT)
    assert "is there already" in hands.trouble
    assert (tmp_path / "there.tallmast").read_bytes() == b"mine"
    assert hands.window.session.notebook.path.name == "demo.tallmast"


def test_a_dialog_that_is_left_does_nothing(hands, monkeypatch):
    path = hands.window.session.notebook.path
    answering(monkeypatch, "getSaveFileName", ("", ""))
    answering(monkeypatch, "getOpenFileName", ("", ""))
    answering(monkeypatch, "getOpenFileNames", ([], ""))
    for letter in ("n", "o", "i", "r", "e"):
        hands.chord(letter)
    hands.chord("s", CTRL_SHIFT)
    assert hands.window.session.notebook.path == path
    assert hands.trouble == ""


def test_files_chosen_in_the_dialog_are_brought_in(hands, monkeypatch, tmp_path):
    (tmp_path / "points.gpx").write_text(
        '<gpx version="1.1" creator="x"><wpt lat="57.93" lon="-11.2"><name>Cairn</name></wpt></gpx>'
    )
    answering(monkeypatch, "getOpenFileNames", ([str(tmp_path / "points.gpx")], ""))
    hands.chord("i")
    hands.qtbot.waitUntil(lambda: any(p.name == "Cairn" for p in hands.window.session.evidence.places), timeout=10_000)


def test_another_notebook_is_opened_and_the_first_let_go(hands, monkeypatch, tmp_path):
    other = Notebook.create(tmp_path / "other.tallmast")
    other.close()
    first = hands.window.session.notebook.path
    answering(monkeypatch, "getOpenFileName", (str(tmp_path / "other.tallmast"), ""))
    hands.chord("o")
    hands.settle()
    assert hands.window.session.notebook.path.name == "other.tallmast"
    assert hands.window.top.question.text_label.text() == "Ask the question"
    again = Notebook.open(first)
    assert not again.read_only
    again.close()


def test_the_list_of_the_last_notebooks_opens_one(hands, tmp_path):
    window = hands.window
    Notebook.create(tmp_path / "other.tallmast").close()
    window.open_notebook(tmp_path / "other.tallmast")
    hands.settle()
    action = next(a for a in window.menus.recent.actions() if a.text() == "demo")
    action.trigger()
    hands.settle()
    assert window.session.notebook.path.stem == "demo"


def test_the_same_notebook_again_changes_nothing(hands):
    climb = hands.window.session.climb
    assert hands.window.open_notebook(hands.window.session.notebook.path)
    assert hands.window.session.climb is climb


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("gone.tallmast", None, "is not there"),
        ("text.tallmast", b"Dear diary", "is not a notebook"),
        ("empty.tallmast", b"", "empty"),
    ],
)
def test_what_is_no_notebook_is_told_and_left_alone(hands, tmp_path, name, data, words):
    path = tmp_path / name
    if data is not None:
        path.write_bytes(data)
    assert not hands.window.open_notebook(path)
    assert words in hands.trouble
    assert hands.window.session.notebook.path.name == "demo.tallmast"
    assert data is None or path.read_bytes() == data


def test_a_notebook_dropped_on_the_window_is_opened(hands, tmp_path):
    Notebook.create(tmp_path / "dropped.tallmast").close()
    hands.drop(tmp_path / "dropped.tallmast")
    hands.settle()
    assert hands.window.session.notebook.path.name == "dropped.tallmast"


def test_a_new_notebook_gets_its_ending_and_refuses_to_overwrite(hands, tmp_path, monkeypatch):
    answering(monkeypatch, "getSaveFileName", (str(tmp_path / "fresh"), ""))
    hands.chord("n")
    hands.sheet_opens()
    assert hands.window.session.notebook.path == tmp_path / "fresh.tallmast"
    hands.press(Qt.Key.Key_Escape)
    hands.chord("n")
    assert "is there already" in hands.trouble


def test_the_bundle_and_what_stops_it(hands, monkeypatch, tmp_path):
    answering(monkeypatch, "getSaveFileName", (str(tmp_path / "data.zip"), ""))
    hands.chord("e")
    hands.settle()
    names = zipfile.ZipFile(tmp_path / "data.zip").namelist()
    assert {name.split(".")[-1] for name in names} >= {"s1p", "csv", "geojson", "gpx", "json"}
    answering(monkeypatch, "getSaveFileName", (str(tmp_path / "no folder" / "data.zip"), ""))
    hands.chord("e")
    hands.settle()
    assert "data.zip" in hands.trouble


def test_a_report_into_nowhere_is_told(hands, monkeypatch, tmp_path):
    answering(monkeypatch, "getSaveFileName", (str(tmp_path / "no folder" / "r.html"), ""))
    with hands.qtbot.waitSignal(hands.window.files.written_out, timeout=30_000) as told:
        hands.chord("r")
    assert told.args == [False]
    assert "r.html" in hands.trouble
    assert "Traceback" not in hands.trouble


def test_every_demo_is_a_fresh_copy(window, qtbot):
    hands = Hands(qtbot, window)
    window.act("demo")
    hands.settle()
    first = window.session.notebook.path
    window.act("demo")
    hands.settle()
    assert window.session.notebook.path != first
    assert window.session.notebook.path.parent == first.parent


def test_a_demo_that_can_t_be_written_is_told(window, qtbot, monkeypatch, tmp_path):
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "file"))
    hands = Hands(qtbot, window)
    window.act("demo")
    assert hands.trouble
    assert window.session.notebook is None


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write everywhere")
def test_a_new_notebook_in_a_read_only_folder_is_told(window, qtbot, tmp_path):
    tmp_path.chmod(0o500)
    assert not window.files.new_notebook(tmp_path / "n.tallmast")
    assert "can't be made" in Hands(qtbot, window).trouble
    tmp_path.chmod(0o700)


def test_a_report_without_an_ending_gets_that_of_the_kind_that_was_chosen(hands, monkeypatch, tmp_path):
    answering(monkeypatch, "getSaveFileName", (str(tmp_path / "for the club 2.4"), "PDF (*.pdf)"))
    with hands.qtbot.waitSignal(hands.window.files.written_out, timeout=60_000) as told:
        hands.chord("r")
    assert told.args == [True]
    assert (tmp_path / "for the club 2.4.pdf").read_bytes().startswith(b"%PDF")
    before = (tmp_path / "for the club 2.4.pdf").stat().st_mtime_ns
    hands.chord("r")  # the dialog did not know the whole name, so it could not ask
    assert "is there already" in hands.trouble
    assert (tmp_path / "for the club 2.4.pdf").stat().st_mtime_ns == before
