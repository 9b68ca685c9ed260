"""Every cut."""

from __future__ import annotations

from ..pattern import PatternFinding
from ..table import Cell, Row, Table, antenna, figure


def cuts(finding: PatternFinding) -> Table:
    """Every cut, and what was read off it."""
    rows = []
    for row in finding.antennas:
        for cut in row.cuts:
            cells = (
                antenna(row.antenna),
                Cell(cut.plane),
                figure(cut.beamwidth, "all round"),
                figure(cut.front_to_back, "not told", headed=True),
                figure(cut.sidelobe, "none seen", headed=True),
                figure(cut.sector, "not told", headed=True),
                figure(row.substitution if cut.of.absolute else None, "not shown"),
            )
            rows.append(Row(cells, cut.of.record, row.antenna.id))
    heads = ("Antenna", "Plane", "Beam", "Front to back, dB", "Sidelobe, dB", "In sector, dB", "Gain there")
    return Table("cuts", "Every cut", heads, tuple(rows))
