"""The Shelf's view."""

from __future__ import annotations

from tallmast.figures.paper import MARKS
from tallmast.figures.shelf import ShelfPicture
from tallmast.findings.climb import Climb

from ..parts import Card, Cell, Ledger
from ..rung_view import RungView


class ShelfView(RungView):
    rung = "shelf"
    acts = ("add antenna", "add claim", "new state", "ask question")

    def build(self) -> None:
        self.card, self.view = self.picture("shelfPicture")
        self.box.addWidget(self.card, 1)
        self.claims_card = Card("Claims, on paper only: the Verdict holds them against what was measured")
        self.claims = Ledger("claims", self.paper)
        self.claims.picked.connect(self.pick)
        self.claims.opened_row.connect(self.window_.open_record)
        self.claims_card.box.addWidget(self.claims)
        self.box.addWidget(self.claims_card)
        self.antennas_card = Card("Antennas: Enter opens one")
        self.antennas = Ledger("antennas", self.paper)
        self.antennas.opened_row.connect(self.window_.open_record)
        self.antennas_card.box.addWidget(self.antennas)
        self.box.addWidget(self.antennas_card)

    def fill(self, climb: Climb) -> None:
        finding = climb.shelf
        self.set_picture(self.card, self.view, ShelfPicture(finding=finding))
        self.card.setVisible(bool(finding.rows))
        rows: list[list[Cell | str]] = []
        records: list[object] = []
        for row in finding.rows:
            for paper in row.claims:
                mark = "fails" if paper.impossible else "open"
                word = "impossible as stated" if paper.impossible else "possible"
                rows.append(
                    [
                        Cell(row.antenna.name, ink=f"slot-{row.antenna.slot}", bold=True),
                        Cell(paper.words, paper.limit),
                        Cell(f"{MARKS[mark]} {word}", paper.limit, ink="fails" if paper.impossible else "soft"),
                        Cell(paper.claim.read_in or "not noted", ink="soft"),
                    ]
                )
                records.append(paper.claim)
        self.claims.fill(["Antenna", "Claim", "On paper", "Read in"], rows, records)
        self.claims_card.setVisible(bool(rows))
        rows, records = [], []
        for row in finding.rows:
            a = row.antenna
            connection = row.connection
            rows.append(
                [
                    Cell(a.name, ink=f"slot-{a.slot}", bold=True),
                    a.state.name,
                    a.polarization,
                    Cell(
                        f"{MARKS[connection.mark]} {connection.text}" if connection else "– not noted",
                        ink=connection.mark if connection and connection.mark in ("holds", "fails") else "soft",
                    ),
                    Cell(a.handling or "–", ink="soft"),
                ]
            )
            records.append(a)
        self.antennas.fill(["Antenna", "State", "Polarization", "Connector", "Handling"], rows, records)
        self.antennas_card.setVisible(bool(rows))
