"""The Verdict's view."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from tallmast.figures.verdict import GainPicture
from tallmast.findings.climb import Climb
from tallmast.findings.tables import verdict as tables

from ..parts import Card, clear_layout, label
from ..rung_view import RungView


class VerdictView(RungView):
    rung = "verdict"
    acts = ("report", "bundle")

    def build(self) -> None:
        self.card, self.view = self.picture("gainPicture")
        self.box.addWidget(self.card, 1)
        self.rank = self.table("ranking")
        row = QHBoxLayout()
        row.setSpacing(8)
        self.claims = self.table("claims judged", add=False)
        self.claims.box.addStretch(1)
        row.addWidget(self.claims, 3)
        self.change_card = Card("What would change this verdict, cheapest first")
        self.changes = QVBoxLayout()
        self.change_card.box.addLayout(self.changes)
        self.change_card.box.addStretch(1)
        row.addWidget(self.change_card, 2)
        self.box.addLayout(row)

    def fill(self, climb: Climb) -> None:
        finding = climb.verdict
        some = bool(finding.ranked)
        for card in (self.card, self.rank, self.change_card):
            card.setVisible(some)
        self.claims.setVisible(bool(finding.claims))
        if not some:
            return
        self.set_picture(self.card, self.view, GainPicture(finding=finding))
        where = climb.field.wanted.name if climb.field.wanted else "the place"
        self.rank.show_table(tables.ranking(finding, where), hidden=self.session.hidden)
        self.claims.show_table(tables.claims(finding))
        clear_layout(self.changes)
        for change in finding.changes or ("Nothing cheap is left to measure.",):
            self.changes.addWidget(label(change, wrap=True))
