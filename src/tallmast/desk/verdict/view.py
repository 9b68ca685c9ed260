"""The Verdict's view."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from tallmast.figures.contrasts import DecisionPicture
from tallmast.figures.verdict import GainPicture
from tallmast.findings.climb import Climb
from tallmast.findings.field.decision import decision_of
from tallmast.findings.tables import verdict as tables

from ..parts import Card, clear_layout, label
from ..rung_view import RungView


class VerdictView(RungView):
    rung = "verdict"
    acts = ("report", "bundle")

    def build(self) -> None:
        self.decision_card, self.decision = self.picture("decisionPicture")
        self.box.addWidget(self.decision_card)
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
        shown = [r for r in finding.ranked if r.gain.measured or r.gain.limit or r.gain.claimed_dbi is not None]
        decision = decision_of(climb.field)
        self.change_card.setVisible(some)
        # Who never measured a gain sees what was compared; of antennas of which nothing but that is known no table is made.
        self.card.setVisible(bool(shown))
        # Where no picture grows with the window, the room that is left stays below.
        self.box.setStretch(self.box.count() - 1, 0 if shown else 1)
        self.decision_card.setVisible(some and decision is not None and not any(r.margin for r in finding.ranked))
        self.rank.setVisible(bool(shown) or any(r.match or r.margin for r in finding.ranked))
        self.claims.setVisible(bool(finding.claims))
        if not some:
            return
        if decision is not None:
            picture = DecisionPicture(decision=decision, antennas=tuple(climb.evidence.antennas))
            self.set_picture(self.decision_card, self.decision, picture)
        self.set_picture(self.card, self.view, GainPicture(finding=finding))
        where = climb.field.wanted.name if climb.field.wanted else "the place"
        if not self.rank.isHidden():
            self.rank.show_table(tables.ranking(finding, where), hidden=self.session.hidden)
        self.claims.show_table(tables.claims(finding))
        clear_layout(self.changes)
        for change in finding.changes or ("Nothing cheap is left to measure.",):
            self.changes.addWidget(label(change, wrap=True))
