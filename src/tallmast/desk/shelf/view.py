"""The Shelf's view."""

from __future__ import annotations

from tallmast.figures.paper import MARKS
from tallmast.figures.shelf import ShelfPicture
from tallmast.findings.climb import Climb
from tallmast.findings.connection import end_words
from tallmast.findings.shelf import ShelfFinding
from tallmast.units import show

from ..parts import Card, Cell, Ledger
from ..rung_view import RungView
from .photo import PhotoCard

ON_PAPER = {
    "possible": ("open", "possible", "soft"),
    "doubted": ("disagrees", "more than is known of its kind", "doubt"),
    "impossible": ("fails", "impossible as stated", "fails"),
}
"""Mark, words and ink of a claim before anything was measured."""


class ShelfView(RungView):
    rung = "shelf"
    acts = ("add antenna", "add claim", "new state", "add piece")

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
        self.antennas.picked.connect(self.pick)
        self.antennas.opened_row.connect(self.window_.open_record)
        self.antennas_card.box.addWidget(self.antennas)
        self.box.addWidget(self.antennas_card)
        self.pieces_card = Card("Adapters and cables between: Enter opens one")
        self.pieces = Ledger("adapters and cables", self.paper)
        self.pieces.opened_row.connect(self.window_.open_record)
        self.pieces_card.box.addWidget(self.pieces)
        self.box.addWidget(self.pieces_card)
        self.photo_card = PhotoCard(self.session, self.paper.scale)
        self.box.addWidget(self.photo_card)

    def _fill_pieces(self, finding: ShelfFinding) -> None:
        used = {i: row.antenna.name for row in finding.rows for i in row.antenna.through}
        rows: list[list[Cell | str]] = [
            [
                piece.name,
                f"{end_words(piece.first)} to {end_words(piece.second)}",
                Cell(f"{piece.loss_db:.2f} dB", mono=True),
                Cell(show.power(piece.rating_w) if piece.rating_w else "–", mono=True),
                Cell(used.get(piece.id, "not in use"), ink="soft"),
            ]
            for piece in finding.pieces
        ]
        self.pieces.fill(["Piece", "From, to", "Loss", "Carries", "Used by"], rows, list(finding.pieces))
        self.pieces_card.setVisible(bool(rows))

    def fill(self, climb: Climb) -> None:
        self.photo_card.show_of(self.session.focus_antenna)
        finding = climb.shelf
        self.set_picture(self.card, self.view, ShelfPicture(finding=finding))
        self.card.setVisible(bool(finding.rows))
        rows: list[list[Cell | str]] = []
        records: list[object] = []
        for row in finding.rows:
            for paper in row.claims:
                mark, word, ink = ON_PAPER[paper.standing]
                rows.append(
                    [
                        Cell(row.antenna.name, ink=f"slot-{row.antenna.slot}", bold=True),
                        Cell(paper.words, paper.limit),
                        Cell(f"{MARKS[mark]} {word}", paper.limit, ink=ink),
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
                        connection.loss if connection else None,
                        ink=connection.mark if connection and connection.mark in ("holds", "fails") else "soft",
                    ),
                    Cell(a.handling or "–", ink="soft"),
                ]
            )
            records.append(a)
        self.antennas.fill(["Antenna", "State", "Polarization", "Connector", "Handling"], rows, records)
        self.antennas_card.setVisible(bool(rows))
        self._fill_pieces(finding)
