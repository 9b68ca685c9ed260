"""The panel of the turntable: its keys, and the pattern as it comes."""

from __future__ import annotations

from tallmast.figures.turning import TurningPicture
from tallmast.procedures.turning import Turning

from ..picture_view import PictureView
from ..sheets.key_panel import KeyPanel


class TurningPanel(KeyPanel[Turning]):
    def build(self) -> None:
        self.view = PictureView(self.paper, "turningPicture")
        self.view.setMinimumHeight(round(300 * self.paper.scale))
        self.box.addWidget(self.view, 1)

    def refresh(self) -> None:
        super().refresh()
        antenna = self.procedure.place.focus_antenna
        slot = antenna.slot if antenna is not None else 0
        self.view.show_picture(TurningPicture(readings=tuple(self.procedure.readings), slot=slot))
