"""What is left over, by antenna."""

from __future__ import annotations

from tallmast.units import show

from ..aims import Aims
from ..link import LinkFinding
from ..table import Cell, Row, Table, antenna, figure

BASES = {"measured": "measured", "by its gain on the measured path": "its gain", "free space only": "free space"}
"""By what a margin was found, in few words."""


def margins(finding: LinkFinding, where: str, aims: Aims) -> Table:
    """Margins at the place to be reached, the largest first; the title says what was asked with what-if."""
    title = f"Left over at {where} at full power, and the range where it runs out"
    if finding.what_if:
        power = show.power(aims.what_if_power_w) if aims.what_if_power_w else "this power"
        title += f". What if {power} through {aims.what_if_pad_db:g} dB: {finding.what_if.text}"
    elif aims.what_if_power_w is not None or aims.what_if_pad_db:
        title += ". What if: how far can’t be told from these places"
    rows = []
    for m in sorted(finding.margins, key=lambda m: -m.figure.value):
        cells = (
            antenna(m.antenna, strong=finding.focus is not None and m.antenna.id == finding.focus.id),
            figure(m.figure, "–"),
            Cell(show.chance_in_words(m.chance), m.figure),
            figure(m.reach, "can’t be told"),
            figure(m.back, "not noted"),
            Cell(BASES[m.basis], m.figure, tone="soft"),
        )
        rows.append(Row(cells, None, m.antenna.id))
    heads = ("Antenna", "Margin", "Heard", "Range", "Way back", "By")
    return Table("margins", title, heads, tuple(rows))
