"""The whole story by keys: from an empty notebook to a report, then killed and opened again."""

import time
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QFileDialog

from tallmast.demo import truth as so
from tallmast.formats import touchstone
from tallmast.notebook.store import Notebook
from tallmast.physics.geodesy import destination
from tallmast.physics.reflection import gamma_from_impedance

from .hands import Hands

QUAY = so.QUAY


class Stalls:
    """The longest that the event loop was kept from running, ms; and the most of it that was this thread's own work.

    The two differ by what it waited for: the disk, another thread, or a host that gave the processor to others.
    """

    def __init__(self, every_ms: int = 5) -> None:
        self.longest = 0.0
        self.own = 0.0
        self._last = time.perf_counter()
        self._worked = time.thread_time()
        self._timer = QTimer()
        self._timer.setInterval(every_ms)
        self._timer.timeout.connect(self._tick)
        self._timer.start()

    def _tick(self) -> None:
        now, worked = time.perf_counter(), time.thread_time()
        self.longest = max(self.longest, (now - self._last) * 1000)
        self.own = max(self.own, (worked - self._worked) * 1000)
        self._last, self._worked = now, worked


@pytest.fixture
def files(tmp_path: Path) -> dict[str, Path]:
    f = np.linspace(840e6, 900e6, 121)
    gamma = gamma_from_impedance(48 * (1 + 20j * (f / 852e6 - 852e6 / f)))
    (tmp_path / "whip.s1p").write_text(touchstone.write(f, gamma))
    angles = np.arange(0, 360, 10)
    level = np.maximum(-12 * (((angles + 180) % 360 - 180) / 70) ** 2, -18)
    (tmp_path / "cut.csv").write_text(
        "Winkel;Pegel dB\n" + "\n".join(f"{a};{v:.1f}".replace(".", ",") for a, v in zip(angles, level, strict=True))
    )
    random = np.random.default_rng(5)
    for name, gain in (("log-a", 6.0), ("log-b", 2.0)):
        rows = ["time,lat,lon,rssi"]
        for i, d in enumerate(np.arange(100, 1500, 10)):
            lat, lon = destination(*QUAY, 37.0, float(d))
            shade = np.random.default_rng(int(d)).normal(0, 2)
            rows.append(
                f"{i},{lat:.6f},{lon:.6f},{-60 + gain - 27 * np.log10(d / 100) + shade + random.normal(0, 1):.1f}"
            )
        (tmp_path / f"{name}.csv").write_text("\n".join(rows))
    return {p.stem: p for p in tmp_path.iterdir()}


def test_from_question_to_report_by_keys_alone(window, qtbot, files, tmp_path, monkeypatch):
    hands = Hands(qtbot, window)
    qtbot.waitUntil(lambda: len(window.views) == 7)  # the window made itself ready, as it does before a hand comes
    stalls = Stalls()
    path = tmp_path / "mine.tallmast"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    hands.chord("n")
    hands.sheet_opens()
    hands.fill({"text": "Which whip reaches the far rock?", "band": "868-870 MHz", "swr_limit": "1:1.5"})
    hands.keep()
    assert "Add the antennas" in hands.sentence

    # Two antennas, one with a claim that its size forbids.
    hands.write(
        "a", {"name": "Long Whip", "type": "whip", "polarization": "vertical", "length": "500mm", "cut_part": "170 mm"}
    )
    hands.write("a", {"name": "Stub", "type": "whip", "polarization": "vertical", "length": "3 in"})
    hands.write("c", {"antenna": "Stub", "quantity": "gain", "value": "9 dBi", "read_in": "the box"})
    assert "Stub can't have 9 dBi" in hands.sentence

    # A wrong quantity is told where it stands, and nothing is lost.
    hands.press_on("shelf", "c")
    hands.fill({"quantity": "swr", "value": "good"})
    hands.press(Qt.Key.Key_Return)
    assert window.sheet is not None
    assert "Expected an SWR" in window.sheet.trouble.text()
    hands.fill({"value": "1.5"})
    hands.keep()

    # A sweep is dropped and brought in with Enter.
    hands.press(",")
    hands.settle()
    assert window.session.focus_antenna.name == "Long Whip"
    hands.drop(files["whip"])
    hands.sheet_opens()
    hands.fill({"loss": "0.3 dB", "length": "1 m", "directivity": "38 dB"})
    hands.keep()
    assert window.rung == "bench"
    assert "Long Whip resonates" in hands.sentence and "low" in hands.sentence
    assert "trim" in window.views["bench"].detail.text()

    # Two meter readings of the other, the second opened by Ctrl+Enter.
    hands.press_on("bench", "m")
    hands.fill({"antenna": "Stub", "frequency": "868", "swr": "1.3"})
    hands.press(Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    hands.sheet_opens()
    hands.fill({"antenna": "Stub", "frequency": "870", "swr": "1:1.4"})
    hands.keep()
    hands.press(".")
    hands.settle()
    assert "Stub holds SWR 1.5" in hands.sentence or "Stub reads SWR 1.40" in hands.sentence

    # Power, pads, far end.
    hands.press("3")
    hands.write(
        "p", {"power": "10mW", "pads": "10 dB 2 W + 6 dB", "cable_loss": "0.5", "full_power": "25 mW", "duty": "10 %"}
    )
    assert "at full power expect" in hands.sentence
    hands.write("e", {"name": "rock", "sensitivity": "-112dBm", "gain": "2.15 dBi"})

    # A cut dropped.
    hands.drop(files["cut"])
    hands.sheet_opens()
    hands.keep()
    assert window.rung == "pattern"
    assert "beam of 7" in hands.sentence

    # Places by coordinates in two notations, one with a wrong typed distance.
    hands.press("5")
    hands.write("l", {"name": "Quay", "position": "57.9, -11.2", "height": "6 m", "part": "where the antennas"})
    lat, lon = destination(*QUAY, 37, 2500)
    hands.write(
        "l", {"name": "Far Rock", "position": f"{lat:.5f}, {lon:.5f}", "part": "to be reached", "typed": "4 km"}
    )
    assert any("fixes say 2.5 km" in tag for tag in tags(window))

    # Runs with logs, one each; the second carries its factors over from the first.
    hands.press(",")
    hands.settle()
    for stem, antenna in (("log-a", "Long Whip"), ("log-b", "Stub")):
        hands.write("r", {"antenna": antenna, "manner": "boat"} if stem == "log-a" else {"antenna": antenna}, "run")
        hands.drop(files[stem])
        hands.sheet_opens()
        hands.keep()
    assert "Long Whip looks better than Stub by" in hands.sentence
    assert "would settle it" in window.views["field"].detail.text()

    # Readings typed at a place from both ends, and by single keys in a live run.
    hands.write("n", {"what": "-97 dBm", "place": "Far Rock", "end": "far end"}, "reading")
    hands.press_on("field", "g")
    assert window.views["field"].live.isVisible()
    hands.press("4")
    hands.press("E")
    hands.press("N")
    hands.press(Qt.Key.Key_Escape)
    hands.settle()
    spoken = [r.as_typed for r in window.session.evidence.readings(window.session.evidence.runs[-1].id)]
    assert spoken == ["−97.0 dBm", "4 of 5", "not heard"]

    # Budget, verdict, report, bundle.
    hands.press("6")
    assert "Far Rock" in hands.sentence
    hands.press_on("link", "i")
    hands.fill({"powers": "100 mW"})
    hands.keep()
    assert window.session.climb.link.how_far.rows[0].option.power_w == 0.1
    assert window.views["link"].card.heading.text().startswith("How far Long Whip reaches.")
    hands.press("7")
    assert hands.sentence.startswith("Put Long Whip on Quay: it reaches Far Rock")
    assert window.mast.lamp
    report = tmp_path / "report.html"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(report), ""))
    hands.chord("r")
    hands.settle()
    assert "Put Long Whip on Quay" in report.read_text()
    bundle = tmp_path / "data.zip"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(bundle), ""))
    hands.chord("e")
    hands.settle()
    assert "sweeps/long-whip-as-received.s1p" in zipfile.ZipFile(bundle).namelist()
    assert hands.trouble == ""

    # Undo and redo by keys.
    entries = len(window.session.notebook.tape)
    hands.chord("z")
    hands.settle()
    assert window.session.notebook.tape[-1].manner == "undo"
    hands.chord("z", Qt.KeyboardModifier.ShiftModifier)
    hands.settle()
    assert len(window.session.notebook.tape) == entries + 2
    print(f"longest stall {stalls.longest:.0f} ms, own work {stalls.own:.0f} ms")

    # Opened again, as after a plug was pulled (the file as it lies, without a goodbye).
    tape = [act.label for act in window.session.notebook.tape]
    window.session.close()
    again = Notebook.open(path)
    assert [act.label for act in again.tape] == tape
    again.close()


def tags(window) -> list[str]:
    return [tag.text() for tag in window.views[window.rung].tags.parts]


def test_the_demo_is_followed_over_seven_rungs(window, qtbot, demo_copy):
    hands = Hands(qtbot, window)
    assert window.open_notebook(demo_copy)
    hands.settle()
    expected = {
        "1": "Flat Panel can't have 11 dBi",
        "2": "Shed Yagi holds SWR 1.5",
        "3": "The test radiates",
        "4": "Shed Yagi has a beam",
        "5": "Shed Yagi is better than Corkscrew by",
        "6": "Shed Yagi may or may not reach Outer Stack",
        "7": "Shed Yagi is the best bet for Outer Stack",
    }
    for key, words in expected.items():
        hands.press(key)
        QApplication.processEvents()
        assert words in hands.sentence
        view = window.views[window.rung]
        assert window.side.working.figure is not None, f"rung {key} has no working"
        pictures = [
            v for v in view.findChildren(type(view.view) if hasattr(view, "view") else type(view.map)) if v.isVisible()
        ]
        assert pictures and all(p.picture is not None for p in pictures)
        view.grab()
        assert any(p.picture.spots for p in pictures), f"nothing to pick on rung {key}"
