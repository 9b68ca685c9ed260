"""The Link's view."""

from __future__ import annotations

from tallmast.figures.link import FanPicture
from tallmast.findings.climb import Climb
from tallmast.findings.tables.link import margins
from tallmast.units import show

from ..rung_view import RungView


class LinkView(RungView):
    rung = "link"
    acts = ("far end", "what if", "power and pads")

    def build(self) -> None:
        self.card, self.view = self.picture("fanPicture")
        self.box.addWidget(self.card, 1)
        self.margins = self.table("margins")

    def fill(self, climb: Climb) -> None:
        finding = climb.link
        self.card.setVisible(finding.predicted is not None)
        self.margins.setVisible(bool(finding.margins))
        if finding.predicted is None:
            return
        wanted = climb.field.wanted
        self.set_picture(self.card, self.view, FanPicture(finding=finding, wanted=wanted.name if wanted else ""))
        where = wanted.name if wanted else show.distance(finding.distance_m or 0)
        self.margins.show_table(margins(finding, where, climb.aims), "")
