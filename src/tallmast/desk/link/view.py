"""The Link's view."""

from __future__ import annotations

from tallmast.figures.link import FanPicture
from tallmast.findings.climb import Climb
from tallmast.units import show

from ..parts import Card, Cell, Ledger, figure_cell
from ..rung_view import RungView

BASES = {"measured": "measured", "by its gain on the measured path": "its gain", "free space only": "free space"}


class LinkView(RungView):
    rung = "link"
    acts = ("far end", "what if", "power and pads")

    def build(self) -> None:
        self.card, self.view = self.picture("fanPicture")
        self.box.addWidget(self.card, 1)
        self.margins_card = Card("Left over at full power, by antenna")
        self.margins = Ledger("margins", self.paper)
        self.margins.picked.connect(self.pick)
        self.margins_card.box.addWidget(self.margins)
        self.box.addWidget(self.margins_card)

    def fill(self, climb: Climb) -> None:
        finding = climb.link
        self.card.setVisible(finding.predicted is not None)
        self.margins_card.setVisible(bool(finding.margins))
        if finding.predicted is None:
            return
        wanted = climb.field.wanted
        self.set_picture(self.card, self.view, FanPicture(finding=finding, wanted=wanted.name if wanted else ""))
        where = wanted.name if wanted else show.distance(finding.distance_m or 0)
        title = f"Left over at {where} at full power, and the range where it runs out"
        if finding.what_if:
            aims = climb.aims
            power = show.power(aims.what_if_power_w) if aims.what_if_power_w else "this power"
            title += f". What if {power} through {aims.what_if_pad_db:g} dB: {finding.what_if.text}"
        elif climb.aims.what_if_power_w is not None or climb.aims.what_if_pad_db:
            title += ". What if: how far can’t be told from these places"
        self.margins_card.set_title(title)
        rows = []
        for m in sorted(finding.margins, key=lambda m: -m.figure.value):
            rows.append(
                [
                    Cell(m.antenna.name, ink=f"slot-{m.antenna.slot}", bold=m.antenna.id == self.focus_id),
                    figure_cell(m.figure),
                    Cell(show.chance_in_words(m.chance), m.figure),
                    figure_cell(m.reach) if m.reach else "can’t be told",
                    figure_cell(m.back, missing="not noted"),
                    Cell(BASES[m.basis], m.figure, ink="soft"),
                ]
            )
        self.margins.fill(["Antenna", "Margin", "Heard", "Range", "Way back", "By"], rows)
