"""What is shown when no notebook is open: ways to begin, the notebooks opened last, and what comes out."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QIcon, QImage, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from tallmast.figures.paper import Paper
from tallmast.findings.climb import Climb

from ..parts import Flow, button, clear_layout, label

if TYPE_CHECKING:
    from ..protocols import Frame
    from .files import Files

SHOWN: tuple[tuple[str, str], ...] = (
    ("verdict", "Which antenna, and by how much: every way its gain was found, on one axis"),
    ("bench", "Is it matched, where, and how far to believe it"),
    ("field", "What was heard on the real path, antenna by antenna"),
)
"""Rungs whose pictures are shown small, and what is said of them."""
WIDE, TALL, SMALL = 620, 400, 300


@lru_cache(maxsize=1)
def _demo() -> Climb:
    """What is found from the demo's campaign: always the same."""
    from tallmast.demo.campaign import evidence
    from tallmast.findings.aims import Aims

    found = evidence()[1]
    return Climb(found, Aims(found.antennas[0].id))


def pictures(paper: Paper) -> list[QImage]:
    """The demo's own pictures for `SHOWN`, painted small. For a worker: the first time a second's work."""
    from tallmast.figures.bench import SwrPicture
    from tallmast.figures.field import DistancePicture
    from tallmast.figures.picture import Picture, render
    from tallmast.figures.verdict import GainPicture

    climb = _demo()
    found, focus = climb.evidence, climb.aims.focus_id
    made: list[Picture] = [
        GainPicture(finding=climb.verdict, focus_id=focus),
        SwrPicture(finding=climb.bench, focus_id=focus),
        DistancePicture(finding=climb.field, antennas=tuple(found.antennas), focus_id=focus),
    ]
    return [render(picture, WIDE, TALL, paper, 1.0) for picture in made]


class StartPage(QWidget):
    """New, open, demo, the notebooks opened last with what each came to, and three pictures of the demo."""

    painted = Signal(object)
    """The pictures of a worker."""

    def __init__(self, frame: Frame, files: Files) -> None:
        super().__init__()
        self.setObjectName("page")
        self.frame_, self.files = frame, files
        self._paths: Sequence[Path] = ()
        box = QVBoxLayout(self)
        box.setContentsMargins(48, 36, 48, 24)
        box.setSpacing(10)
        box.addWidget(label("Which antenna, how sure, and by how much?", "sentence", wrap=True))
        box.addWidget(
            label(
                "One notebook settles one question. Everything you write, measure or drop in it is kept at once.",
                "detail",
                wrap=True,
            )
        )
        acts = Flow()
        acts.add(button("New notebook  Ctrl+N", files.ask_new, first=True))
        acts.add(button("Open a notebook  Ctrl+O", files.ask_open))
        acts.add(button("Look at the demo  D", files.open_demo))
        box.addWidget(acts)
        box.addWidget(
            label(
                "Drop a notebook anywhere to open it. In an open one, drop sweeps, meter readings, pattern cuts, field notes, logs and "
                "tracks (Touchstone, CSV, spreadsheets, GPX), photos.",
                "soft",
                wrap=True,
            )
        )
        self.recent_title = label("Opened last: its number opens it", "cardTitle")
        box.addWidget(self.recent_title)
        self.recent = QVBoxLayout()
        self.recent.setSpacing(2)
        box.addLayout(self.recent)
        box.addStretch(1)
        self.out_title = label("What comes out, from the demo", "cardTitle")
        box.addWidget(self.out_title)
        row = QHBoxLayout()
        row.setSpacing(16)
        self.shown: list[QPushButton] = []
        for rung, words in SHOWN:
            column = QVBoxLayout()
            part = QPushButton()
            part.setObjectName("plain")
            part.setAccessibleName(f"{words}: open the demo there")
            part.setIconSize(QSize(SMALL, round(SMALL * TALL / WIDE)))
            part.clicked.connect(lambda _=False, rung=rung: self._demo_at(rung))
            part.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
            self.shown.append(part)
            column.addWidget(part)
            said: QLabel = label(words, "soft", wrap=True)
            said.setMaximumWidth(SMALL + 20)
            said.setContentsMargins(10, 0, 0, 0)
            said.setAlignment(Qt.AlignmentFlag.AlignTop)
            column.addWidget(said)
            column.addStretch(1)
            row.addLayout(column)
        row.addStretch(1)
        box.addLayout(row)
        self.painted.connect(self._show_pictures)
        self._asked = False

    def _demo_at(self, rung: str) -> None:
        self.files.open_demo()
        self.frame_.climb_to(rung)

    def show_recent(self, paths: Sequence[Path], sentences: Sequence[str]) -> None:
        """Notebooks by their place in the list, with the sentence of each one's verdict as it stood last."""
        clear_layout(self.recent)
        self._paths = paths
        self.recent_title.setVisible(bool(paths))
        for number, (path, sentence) in enumerate(zip(paths, sentences, strict=True), 1):
            words = f"{number}   {path.stem}"
            part = button(words, lambda p=path: self.frame_.open_notebook(p), name="plain")  # type: ignore[misc]
            part.setAccessibleName(f"Open {path.stem}. {sentence}")
            part.setToolTip(str(path))
            self.recent.addWidget(part, 0, Qt.AlignmentFlag.AlignLeft)
            said = label(sentence or "no verdict yet", "soft", wrap=True)
            said.setContentsMargins(38, 0, 0, 4)
            self.recent.addWidget(said)

    def take_key(self, key: str) -> bool:
        """A number opens the notebook that has it, D the demo; whether the key was for this page."""
        if key.lower() == "d":
            self.files.open_demo()
            return True
        if key.isdigit() and 0 < int(key) <= len(self._paths):
            self.frame_.open_notebook(self._paths[int(key) - 1])
            return True
        return False

    def paint_soon(self) -> None:
        """Have the pictures painted on a worker, once."""
        if self._asked:
            return
        self._asked = True
        paper = self.frame_.paper
        self.frame_.session.aside(lambda: pictures(paper), self.painted.emit)

    def _show_pictures(self, images: list[QImage]) -> None:
        for part, image in zip(self.shown, images, strict=True):
            small = image.scaled(
                part.iconSize() * 2, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
            )
            part.setIcon(QIcon(QPixmap.fromImage(small)))
