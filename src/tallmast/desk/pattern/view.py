"""The Pattern's view."""

from __future__ import annotations

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from tallmast.figures.pattern import PolarPicture
from tallmast.findings.climb import Climb
from tallmast.findings.tables.pattern import cuts

from ..parts import label
from ..rung_view import RungView

PLANES = ("azimuth", "elevation")
BOTH_FROM = 1080
"""Pixels from which on both planes stand side by side."""


class PatternView(RungView):
    rung = "pattern"
    acts = ("turn", "run", "bring in", "ask question")

    def build(self) -> None:
        self._has_other = False
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
        self.beside_card, self.beside = self.picture("besidePicture")
        """The other plane, where the window is wide enough for both."""
        self.pictures = QWidget()
        both = QHBoxLayout(self.pictures)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(8)
        both.addWidget(self.card, 1)
        both.addWidget(self.beside_card, 1)
        self.box.addWidget(self.pictures, 1)
        self.cuts = self.table("cuts")

    def _show_beside(self) -> None:
        self.beside_card.setVisible(self._has_other and self.viewport().width() >= BOTH_FROM * self.paper.scale)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._show_beside()
        super().resizeEvent(event)

    def _turn(self, plane: str) -> None:
        self.plane = plane
        if self.session.climb:
            self.show_climb(self.session.climb)

    def fill(self, climb: Climb) -> None:
        finding = climb.pattern
        any_cut = any(a.cuts for a in finding.antennas)
        self.pictures.setVisible(any_cut)
        self.cuts.setVisible(any_cut)
        if not any_cut:
            return
        spoken = finding.focus.spoken if finding.focus is not None else None
        plane = self.plane or (spoken.plane if spoken is not None else PLANES[0])
        for name, part in zip(PLANES, self.group.buttons(), strict=True):
            part.setChecked(name == plane)
        self.set_picture(self.card, self.view, PolarPicture(finding=finding, plane=plane))
        other = next(p for p in PLANES if p != plane)
        self._has_other = any(c.plane == other for a in finding.antennas for c in a.cuts)
        self.set_picture(self.beside_card, self.beside, PolarPicture(finding=finding, plane=other))
        self._show_beside()
        self.cuts.show_table(cuts(finding))
