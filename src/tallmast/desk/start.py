"""What is shown when no notebook is open."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from .parts import Flow, button, clear_layout, label

if TYPE_CHECKING:
    from .window import Window


class StartPage(QWidget):
    """New, open, demo, and the notebooks opened last."""

    def __init__(self, window: Window) -> None:
        super().__init__()
        self.setObjectName("page")
        self.window_ = window
        box = QVBoxLayout(self)
        box.setContentsMargins(60, 60, 60, 60)
        box.setSpacing(12)
        box.addWidget(label("Which antenna, how sure, and by how much?", "sentence", wrap=True))
        box.addWidget(
            label(
                "One notebook settles one question. Everything you write, measure or drop in it is kept at once.",
                "detail",
                wrap=True,
            )
        )
        acts = Flow()
        acts.add(button("New notebook  Ctrl+N", window.ask_new, first=True))
        acts.add(button("Open a notebook  Ctrl+O", window.ask_open))
        acts.add(button("Look at the demo", window.open_demo))
        box.addWidget(acts)
        self.recent_title = label("Opened last", "cardTitle")
        box.addWidget(self.recent_title)
        self.recent = QVBoxLayout()
        box.addLayout(self.recent)
        box.addStretch(1)

    def show_recent(self, paths: list[Path]) -> None:
        clear_layout(self.recent)
        self.recent_title.setVisible(bool(paths))
        for path in paths:
            part = button(f"{path.stem}    {path.parent}", lambda p=path: self.window_.open_notebook(p), name="plain")  # type: ignore[misc]
            part.setAccessibleName(f"Open {path.stem}")
            self.recent.addWidget(part, 0, Qt.AlignmentFlag.AlignLeft)
