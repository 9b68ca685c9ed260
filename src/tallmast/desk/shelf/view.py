"""The Shelf's view."""

from __future__ import annotations

from tallmast.figures.shelf import ShelfPicture
from tallmast.findings.climb import Climb
from tallmast.findings.tables import shelf as tables

from ..rung_view import RungView
from .photo import PhotoCard


class ShelfView(RungView):
    rung = "shelf"
    acts = ("add antenna", "add claim", "new state", "add piece")

    def build(self) -> None:
        self.card, self.view = self.picture("shelfPicture")
        self.box.addWidget(self.card, 1)
        self.claims = self.table("claims")
        self.antennas = self.table("antennas")
        self.pieces = self.table("adapters and cables")
        self.photo_card = PhotoCard(self.session, self.paper.scale)
        self.box.addWidget(self.photo_card)

    def fill(self, climb: Climb) -> None:
        self.photo_card.show_of(self.session.focus_antenna)
        finding = climb.shelf
        self.set_picture(self.card, self.view, ShelfPicture(finding=finding))
        self.card.setVisible(bool(finding.rows))
        self.claims.show_table(tables.claims(finding))
        self.antennas.show_table(tables.antennas(finding))
        self.pieces.show_table(tables.pieces(finding))
