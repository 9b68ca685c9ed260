"""The Shelf's view."""

from __future__ import annotations

from tallmast.figures.shelf import ShelfPicture
from tallmast.findings.climb import Climb
from tallmast.findings.tables import shelf as tables

from ..parts import Card, Ledger
from ..rung_view import RungView
from .photo import PhotoCard


class ShelfView(RungView):
    rung = "shelf"
    acts = ("add antenna", "add claim", "new state", "add piece")

    def build(self) -> None:
        self.card, self.view = self.picture("shelfPicture")
        self.box.addWidget(self.card, 1)
        self.claims_card = Card()
        self.claims = Ledger("claims", self.paper)
        self.claims.picked.connect(self.pick)
        self.claims.opened_row.connect(self.frame_.open_record)
        self.claims_card.box.addWidget(self.claims)
        self.box.addWidget(self.claims_card)
        self.antennas_card = Card()
        self.antennas = Ledger("antennas", self.paper)
        self.antennas.picked.connect(self.pick)
        self.antennas.opened_row.connect(self.frame_.open_record)
        self.antennas_card.box.addWidget(self.antennas)
        self.box.addWidget(self.antennas_card)
        self.pieces_card = Card()
        self.pieces = Ledger("adapters and cables", self.paper)
        self.pieces.opened_row.connect(self.frame_.open_record)
        self.pieces_card.box.addWidget(self.pieces)
        self.box.addWidget(self.pieces_card)
        self.photo_card = PhotoCard(self.session, self.paper.scale)
        self.box.addWidget(self.photo_card)

    def fill(self, climb: Climb) -> None:
        self.photo_card.show_of(self.session.focus_antenna)
        finding = climb.shelf
        self.set_picture(self.card, self.view, ShelfPicture(finding=finding))
        self.card.setVisible(bool(finding.rows))
        self.show_table(self.claims_card, self.claims, tables.claims(finding))
        self.show_table(self.antennas_card, self.antennas, tables.antennas(finding))
        self.show_table(self.pieces_card, self.pieces, tables.pieces(finding))
