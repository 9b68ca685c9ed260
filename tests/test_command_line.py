"""The command line: what it takes, what it says, and what it leaves with."""

import os
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest
from PySide6.QtGui import QImage

from tallmast import __main__ as command
from tallmast.desk import app
from tallmast.findings.climb import RUNGS


def test_a_report_needs_a_known_ending(capsys):
    with pytest.raises(SystemExit) as left:
        command.main(["--report", "r.docx"])
    assert left.value.code == 2
    assert "ending in .html or .pdf" in capsys.readouterr().err


def test_the_words_reach_the_program(monkeypatch, tmp_path):
    seen = []
    monkeypatch.setattr(app, "run", lambda *a: seen.append(a) or 0)
    assert command.main([str(tmp_path / "n.tallmast"), "--shots", str(tmp_path)]) == 0
    assert seen == [(tmp_path / "n.tallmast", False, tmp_path, None, "")]


def test_a_notebook_that_is_not_there_is_told_and_the_exit_code_says_so(qapp, tmp_path, capsys):
    assert app.run(tmp_path / "gone.tallmast", False, None, tmp_path / "r.html") == 1
    assert "is not there" in capsys.readouterr().err
    assert not (tmp_path / "r.html").exists()


@pytest.fixture
def places(monkeypatch):
    """`--demo` puts the scratch copy's place into the environment; it goes away with the test."""
    for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME"):
        monkeypatch.setenv(name, os.environ[name])


def test_shots_of_every_main_view(qapp, tmp_path, places):
    assert app.run(None, True, tmp_path, None) == 0
    names = {p.stem for p in tmp_path.glob("*.png")}
    assert {f"{i}-{rung}" for i, rung in enumerate(RUNGS, 1)} <= names
    assert len(names) < 20
    for path in tmp_path.glob("*.png"):
        image = QImage(str(path))
        assert (image.width(), image.height()) == (1280, 800)
        # A blank or half-painted window has few colours.
        colours = {image.pixel(x, y) for x in range(0, 1280, 7) for y in range(0, 800, 7)}
        assert len(colours) > 60, path.name


def test_a_report_of_the_demo(qapp, tmp_path, places):
    assert app.run(None, True, None, tmp_path / "r.html") == 0
    assert "Outer Stack" in (tmp_path / "r.html").read_text()


def test_a_fault_nobody_foresaw_is_told_in_the_window(window, capsys):
    tell = app._telling(window)
    try:
        raise KeyError("by hand")
    except KeyError as error:
        tell(KeyError, error, error.__traceback__)
    assert "Something went wrong inside the program (KeyError)" in window.tape.trouble.text()
    assert "Everything on the tape is kept" in window.tape.trouble.text()
    assert "by hand" in capsys.readouterr().err


def test_without_a_screen_one_sentence_and_no_window(monkeypatch, capsys):
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    assert app.run(None, True, None, None) == 1
    assert "no screen" in capsys.readouterr().err


def listens(number: int) -> bool:
    """Whether a process has come to where it hears that it is to end."""
    caught = next(line for line in Path(f"/proc/{number}/status").read_text().splitlines() if line.startswith("SigCgt"))
    return bool(int(caught.split()[1], 16) >> (signal.SIGTERM - 1) & 1)


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
def test_ctrl_c_in_the_terminal_closes_it_and_nothing_is_left_open(tmp_path, number):
    places = {name: str(tmp_path) for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "HOME")}
    environment = {**os.environ, **places, "QT_QPA_PLATFORM": "offscreen"}
    process = subprocess.Popen([sys.executable, "-m", "tallmast", "--demo"], env=environment, stderr=subprocess.PIPE)
    end, pause = time.monotonic() + 60.0, threading.Event()
    while not listens(process.pid) and process.poll() is None and time.monotonic() < end:
        pause.wait(0.05)
    assert list(tmp_path.rglob("*.tallmast-wal")), "the demo is open"
    process.send_signal(number)
    _, said = process.communicate(timeout=30)
    assert process.returncode == 0 and b"Traceback" not in said
    assert not list(tmp_path.rglob("*.tallmast-wal")), "closed as a person would"
