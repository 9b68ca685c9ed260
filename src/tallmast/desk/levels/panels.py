"""The panels of the procedures on levels that need more than their keys."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLineEdit

from tallmast.figures.levels_display import DisplayPicture
from tallmast.procedures.stepped_display import SteppedDisplay

from ..picture_view import PictureView
from ..sheets.key_panel import KeyPanel


class SteppedDisplayPanel(KeyPanel[SteppedDisplay]):
    """With a line to write what a display shows, and its curve as it grows."""

    def build(self) -> None:
        self.line = QLineEdit(self)
        self.line.setObjectName("displayReading")
        self.line.setAccessibleName("What the display shows")
        self.line.setMaximumWidth(round(260 * self.paper.scale))
        self.line.returnPressed.connect(self._typed)
        self.line.hide()
        self.box.addWidget(self.line)
        self.view = PictureView(self.paper, "displayRunPicture")
        self.view.setMinimumHeight(round(280 * self.paper.scale))
        self.view.hide()
        self.box.addWidget(self.view, 1)

    def _typed(self) -> None:
        if self.procedure.note_typed(self.line.text()):
            self.line.clear()

    def refresh(self) -> None:
        super().refresh()
        found, by_hand = self.procedure.found, self.procedure.by_hand
        if found is not None:
            self.view.show_picture(DisplayPicture(finding=found))
        self.view.setVisible(found is not None)
        writing = self.line.isVisibleTo(self)
        self.line.setVisible(by_hand)
        if by_hand != writing and self.isVisible():
            self.take_keyboard()

    def take_keyboard(self) -> None:
        (self.line if self.procedure.by_hand else self).setFocus(Qt.FocusReason.OtherFocusReason)
