"""Whatever keys are pressed in whatever order, the look keys among them: nothing is raised, and the notebook opens again as it was."""

import random

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from tallmast.notebook.store import Notebook

LOOKS = (Qt.Key.Key_1, Qt.Key.Key_2, Qt.Key.Key_3)
NAMED = (Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Return, Qt.Key.Key_Space, Qt.Key.Key_Down, Qt.Key.Key_Left)
LETTERS = "1234567abcdefghijklmnopqrstuvwxyz"


@pytest.mark.parametrize("seed", [1, 2])
def test_any_keys_in_any_order(hands, monkeypatch, seed):
    for name in ("getOpenFileName", "getSaveFileName", "getOpenFileNames"):
        monkeypatch.setattr(QFileDialog, name, lambda *_, **__: ("", ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_, **__: "")
    monkeypatch.setattr(QMessageBox, "exec", lambda *_: 0)
    monkeypatch.setattr("PySide6.QtWidgets.QDialog.exec", lambda *_: 0)
    rng, path = random.Random(seed), hands.window.session.notebook.path
    looks = 0
    for _ in range(160):
        kind = rng.random()
        if kind < 0.08:
            hands._key(hands.focus, rng.choice(LOOKS), Qt.KeyboardModifier.ControlModifier)
            looks += 1
        elif kind < 0.35:
            hands.press(rng.choice(NAMED))
        else:
            hands.press(rng.choice(LETTERS))
        QApplication.processEvents()
    assert looks > 5
    hands.settle()
    acts = len(hands.window.session.notebook.tape)
    hands.window.close()
    again = Notebook.open(path)
    assert len(again.tape) == acts and not again.set_aside
    again.close()
