"""The Pattern's view."""

from __future__ import annotations

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton

from tallmast.figures.pattern import PolarPicture
from tallmast.findings.climb import Climb
from tallmast.findings.tables.pattern import cuts

from ..parts import label
from ..rung_view import RungView

PLANES = ("azimuth", "elevation")


class PatternView(RungView):
    rung = "pattern"
    acts = ("bring in", "ask question")

    def build(self) -> None:
        self.plane: str | None = None
        """Chosen by a person; None: that of the cut which is spoken of."""
        self.card, self.view = self.picture("polarPicture")
        row = QHBoxLayout()
        row.addWidget(label("Show", "soft"))
        self.group = QButtonGroup(self)
        for plane in PLANES:
            part = QPushButton(plane)
            part.setObjectName("plain")
            part.setCheckable(True)
            part.clicked.connect(lambda _=False, p=plane: self._turn(p))
            self.group.addButton(part)
            row.addWidget(part)
        row.addStretch(1)
        self.card.box.insertLayout(1, row)
        self.box.addWidget(self.card, 1)
        self.cuts = self.table("cuts")

    def _turn(self, plane: str) -> None:
        self.plane = plane
        if self.session.climb:
            self.show_climb(self.session.climb)

    def fill(self, climb: Climb) -> None:
        finding = climb.pattern
        any_cut = any(a.cuts for a in finding.antennas)
        self.card.setVisible(any_cut)
        self.cuts.setVisible(any_cut)
        if not any_cut:
            return
        spoken = finding.focus.spoken if finding.focus is not None else None
        plane = self.plane or (spoken.cut.plane if spoken is not None else PLANES[0])
        for name, part in zip(PLANES, self.group.buttons(), strict=True):
            part.setChecked(name == plane)
        self.set_picture(self.card, self.view, PolarPicture(finding=finding, plane=plane))
        self.cuts.show_table(cuts(finding))
