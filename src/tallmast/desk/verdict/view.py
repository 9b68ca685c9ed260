"""The Verdict's view."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from tallmast.figures.paper import MARKS
from tallmast.figures.verdict import GainPicture
from tallmast.findings.climb import Climb
from tallmast.units import show

from ..parts import Card, Cell, Ledger, clear_layout, figure_cell, label
from ..rung_view import RungView

CLAIM_WORDS = {"holds": "holds", "fails": "fails", "impossible": "impossible", "open": "not shown yet"}


class VerdictView(RungView):
    rung = "verdict"
    acts = ("report", "bundle")

    def build(self) -> None:
        self.card, self.view = self.picture("gainPicture")
        self.box.addWidget(self.card, 1)
        self.rank_card = Card("Fit for the job")
        self.rank = Ledger("ranking", self.paper)
        self.rank.picked.connect(self.pick)
        self.rank_card.box.addWidget(self.rank)
        self.box.addWidget(self.rank_card)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.claims_card = Card("Claims")
        self.claims = Ledger("claims judged", self.paper)
        self.claims.picked.connect(self.pick)
        self.claims_card.box.addWidget(self.claims)
        self.claims_card.box.addStretch(1)
        row.addWidget(self.claims_card, 3)
        self.change_card = Card("What would change this verdict, cheapest first")
        self.changes = QVBoxLayout()
        self.change_card.box.addLayout(self.changes)
        self.change_card.box.addStretch(1)
        row.addWidget(self.change_card, 2)
        self.box.addLayout(row)

    def fill(self, climb: Climb) -> None:
        finding = climb.verdict
        some = bool(finding.ranked)
        for card in (self.card, self.rank_card, self.change_card):
            card.setVisible(some)
        self.claims_card.setVisible(bool(finding.claims))
        if not some:
            return
        self.set_picture(self.card, self.view, GainPicture(finding=finding))
        rows: list[list[Cell | str]] = []
        for r in finding.ranked:
            if r.antenna.id in self.session.hidden:
                continue
            reference = r.antenna.known_gain_dbi is not None
            best = (
                "reference"
                if reference
                else show.percent(r.chance_of_best)
                if r.chance_of_best is not None
                else "not ranked"
            )
            rows.append(
                [
                    Cell(r.antenna.name, ink=f"slot-{r.antenna.slot}", bold=True),
                    figure_cell(r.margin.figure if r.margin else None, missing="not shown"),
                    Cell(best, mono=not reference),
                    Cell(
                        f"{MARKS[r.match_mark]} {r.match.text if r.match.bound else show.swr(r.match.value)}"
                        if r.match
                        else "– not measured",
                        r.match,
                        mono=True,
                    ),
                    figure_cell(r.weakest, short=True),
                    show.mass(r.antenna.mass_kg) if r.antenna.mass_kg else "–",
                    f"{r.antenna.price:g}" if r.antenna.price is not None else "–",
                    Cell(r.antenna.handling or "–", ink="soft"),
                ]
            )
        where = climb.field.wanted.name if climb.field.wanted else "the place"
        self.rank.fill(
            ["Antenna", f"Margin at {where}", "Chance of best", "Worst SWR", "In sector", "Mass", "Price", "Handling"],
            rows,
        )
        rows = []
        for fate in finding.claims:
            ink = {"holds": "holds", "open": "soft"}.get(fate.mark, "fails")
            rows.append(
                [
                    Cell(fate.antenna.name, ink=f"slot-{fate.antenna.slot}"),
                    Cell(fate.words, fate.figure),
                    Cell(f"{MARKS[fate.mark]} {CLAIM_WORDS[fate.mark]}", fate.figure, ink=ink, bold=True),
                    Cell(fate.against, fate.figure, mono=True),
                ]
            )
        self.claims.fill(["Antenna", "Claim", "", "Measured"], rows)
        clear_layout(self.changes)
        for change in finding.changes or ("Nothing cheap is left to measure.",):
            self.changes.addWidget(label(change, wrap=True))
