"""The Levels' view."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout

from tallmast.figures.levels import StaircasePicture
from tallmast.findings.climb import Climb
from tallmast.units import show

from ..parts import Card, Cell, Ledger, figure_cell, label
from ..rung_view import RungView


class LevelsView(RungView):
    rung = "levels"
    acts = ("power and pads", "far end")

    def build(self) -> None:
        self.card, self.view = self.picture("staircasePicture")
        self.box.addWidget(self.card, 1)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.stands_card = Card("What a distance in the reduced test stands for at full power")
        self.stands = Ledger("stands for", self.paper)
        self.stands.picked.connect(self.pick)
        self.stands_card.box.addWidget(self.stands)
        self.stands_card.box.addStretch(1)
        row.addWidget(self.stands_card, 9)
        self.clear_card = Card("Stand clear")
        self.clear_words = label("", "caution", wrap=True)
        self.clear_card.box.addWidget(self.clear_words)
        self.clear_card.box.addStretch(1)
        row.addWidget(self.clear_card, 4)
        self.box.addLayout(row)

    def fill(self, climb: Climb) -> None:
        finding = climb.levels
        self.card.setVisible(bool(finding.steps))
        self.stands_card.setVisible(bool(finding.stands_for) and finding.reduction_db > 0.05)
        self.clear_card.setVisible(finding.clear is not None)
        if not finding.steps:
            return
        self.set_picture(self.card, self.view, StaircasePicture(finding=finding))
        rows = []
        for row in finding.stands_for:
            measured = row.exponent.u > 0
            rows.append(
                [
                    Cell(row.exponent.text, row.exponent if measured else row.ratio, mono=True),
                    Cell(row.named, row.ratio, bold=measured),
                    figure_cell(row.ratio),
                    Cell(f"500 m → {show.distance(500 * row.ratio.value)}", row.ratio, mono=True),
                ]
            )
        self.stands.fill(["Exponent n", "", "Times as far", "Such as"], rows)
        if finding.clear:
            self.clear_words.setText(
                f"Stand {finding.clear.short} clear of {finding.antenna} at full power. {finding.clear.working.meaning} "
                f"Source: {finding.clear.working.source}."
            )
