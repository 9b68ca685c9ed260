"""Every cut, what was read off it toward places, and polarization as it was measured."""

from __future__ import annotations

from tallmast.physics.pattern import WIDEST_GAP_DEG
from tallmast.units import show

from ..pattern import PatternFinding
from ..pattern.samples import Way
from ..table import Cell, Row, Table, antenna, figure, soft

WAYS: dict[Way, str] = {"cut": "a file", "turn": "turned on the spot", "flight": "flown round"}


def cuts(finding: PatternFinding) -> Table:
    """Every cut, and what was read off it."""
    rows = []
    for row in finding.antennas:
        for cut in row.cuts:
            height = cut.of.at_elevation_deg
            up = "" if height is None else f", at {show.elevation(height)}"
            held = f", {cut.of.held}" if cut.of.held else ""
            cells = (
                antenna(row.antenna),
                Cell(f"{cut.plane}{up}"),
                soft(f"{WAYS[cut.of.way]}{held}"),
                figure(cut.beamwidth, "not told" if cut.coarse or cut.gap_deg > WIDEST_GAP_DEG else "all round"),
                figure(cut.front_to_back, "not told", headed=True),
                figure(cut.sidelobe, "not told" if cut.coarse else "none seen", headed=True),
                figure(cut.sector, "not told", headed=True),
                figure(row.substitution if cut.of.absolute else None, "not shown"),
            )
            rows.append(Row(cells, cut.of.record, row.antenna.id))
    heads = ("Antenna", "Plane", "By", "Beam", "Front to back, dB", "Sidelobe, dB", "In sector, dB", "Gain there")
    return Table("cuts", "Every cut", heads, tuple(rows))


def towards(finding: PatternFinding) -> Table:
    """What each antenna gives toward the places and the bearing that were named."""
    rows = [
        Row(
            (
                antenna(one.antenna),
                Cell(toward.name or "the direction wanted"),
                Cell(show.bearing(toward.bearing_deg), number=True),
                Cell(show.bearing(toward.from_front_deg), number=True),
                figure(toward.level, "not told", headed=True),
            ),
            None,
            one.antenna.id,
        )
        for one in finding.antennas
        for toward in one.toward
    ]
    heads = ("Antenna", "Toward", "Bearing", "From its front", "Against its peak, dB")
    return Table("towards", "Toward what was named", heads, tuple(rows))


def polarized(finding: PatternFinding) -> Table:
    """Polarization, as it was measured."""
    rows = []
    for one in finding.antennas:
        for read in one.polarization:
            sense = "not told" if read.right is None else "right-hand" if read.right else "left-hand"
            cells = (
                antenna(one.antenna),
                Cell(one.antenna.state_name(read.state_id)),
                figure(read.axial_ratio, "not told"),
                figure(read.tilt, "not told"),
                Cell(sense, tone="soft" if read.right is None else ""),
            )
            rows.append(Row(cells, read.record, one.antenna.id))
    heads = ("Antenna", "State", "Axial ratio", "Major axis from upright", "Sense")
    return Table("polarized", "Polarization, as measured", heads, tuple(rows))
