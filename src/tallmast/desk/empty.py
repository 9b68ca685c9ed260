"""An empty rung: two or three ways to feed it, and the ghost of what it will show."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from tallmast.figures.ghosts import GhostPicture
from tallmast.figures.paper import Paper

from .frame import keys
from .next_steps import WAYS
from .parts import Card, button
from .picture_view import PictureView

if TYPE_CHECKING:
    from .protocols import Frame


class EmptyCard(Card):
    """Always at the same place: under the first step. Its lines are the acts, with their keys here."""

    def __init__(self, rung: str, frame: Frame, paper: Paper) -> None:
        super().__init__("Ways to feed this rung")
        for act, words in WAYS[rung]:
            letter = keys.key_of(act, rung) or frame.acts[act].key
            shown = f"{letter}   {words}" if letter else f"{words} ({keys.where(act)})"
            line = button(shown, partial(frame.act, act), name="plain")
            line.setAccessibleName(words)
            self.box.addWidget(line, 0, Qt.AlignmentFlag.AlignLeft)
        self.view = PictureView(paper, f"ghost-{rung}")
        self.view.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.view.show_picture(GhostPicture(rung=rung))
        self.box.addWidget(self.view, 1)
