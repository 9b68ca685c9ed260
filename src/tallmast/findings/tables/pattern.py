"""Every cut, what was read off it toward places, and polarization as it was measured."""

from __future__ import annotations

from tallmast.notebook.records import GAIN_WAYS
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
                Cell(f"{cut.plane}{up}{', crossed' if cut.of.crossed else ''}"),
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


MOST_PAIRS = 12
"""Rows of a shelf full of antennas that anybody reads."""


def covered(finding: PatternFinding) -> Table:
    """Every pair and every antenna alone, over all that is flown: the best first."""
    rows = []
    told = finding.pairs
    if told is not None:
        for one in sorted((*told.pairs, *told.alone), key=lambda c: -c.worst_tenth.value)[:MOST_PAIRS]:
            left = " / ".join(show.fixed(v, 0) for v in one.left) if one.left else "–"
            gone = one.tracker_lost
            cells = [
                Cell(one.name, strong=len(one.antennas) > 1),
                figure(one.worst_tenth, "not told", headed=True),
                Cell(show.fixed(one.median_db, 1), number=True),
                Cell(show.percent(one.holes), number=True),
                figure(one.gain_over_better, "alone", headed=True),
                Cell(show.percent(one.share_of_first) if one.left else "all", number=True),
                Cell(left, number=True),
            ]
            if told.craft.tracked:
                cells.append(figure(gone, "–", headed=True))
            rows.append(Row(tuple(cells)))
    heads = [
        "Antennas",
        "Worst tenth, dB",
        "Median, dB",
        "Holes",
        "The second adds, dB",
        "The first carries",
        "One covered: left, dB",
    ]
    if told is not None and told.craft.tracked:
        heads.append("Tracker lost, dB")
    return Table("covered", "Over every attitude and bearing flown", tuple(heads), tuple(rows))


def branches(finding: PatternFinding) -> Table:
    """Both branches of a receiver, as its own log has them."""
    rows = [
        Row(
            (
                Cell(f"run {one.run.number}"),
                Cell(show.join(list(one.names))),
                figure(one.worst_tenth[0], "not told"),
                figure(one.worst_tenth[1], "not told"),
                figure(one.together, "not told"),
                Cell(show.percent(one.share_of_first), number=True),
                Cell(f"{one.switches / one.minutes:.0f}" if one.minutes > 0.01 else "not told", number=True),
            ),
            one.recordings[0],
        )
        for one in finding.branches
    ]
    heads = (
        "Run",
        "Branches",
        "Worst tenth, the first",
        "The second",
        "The better of both",
        "The first carries",
        "Switches a minute",
    )
    return Table("branches", "Both branches of the receiver", heads, tuple(rows))


def range_gains(finding: PatternFinding) -> Table:
    """Gains as they were measured on a range."""
    rows = [
        Row(
            (
                antenna(one.antenna),
                Cell(GAIN_WAYS[read.record.way].partition(":")[0].partition(" that")[0]),
                figure(read.gain, "not told"),
                Cell(show.length(read.record.distance_m) if read.record.distance_m else "not noted", number=True),
                Cell("; ".join(c.text for c in read.checks) or "–", tone="soft"),
            ),
            read.record,
            one.antenna.id,
        )
        for one in finding.antennas
        for read in one.ranges
    ]
    heads = ("Antenna", "By", "Gain", "Distance", "To mind")
    return Table("range gains", "Gain on a range", heads, tuple(rows))


def budget(finding: PatternFinding) -> Table:
    """Where the ± of each gain on a range comes from, part by part as IEEE Std 149 names them; standard uncertainties in dB."""
    # Of three that were measured together the parts are the same but for the aim: the first speaks for them.
    reads = [read for one in finding.antennas for read in one.ranges if read.antenna.id == read.record.antenna_id]
    parts = list(dict.fromkeys(part for read in reads for part, _ in read.budget))
    rows = [
        Row(
            (
                Cell(part),
                *(
                    Cell(show.fixed(dict(read.budget)[part], 2) if part in dict(read.budget) else "–", number=True)
                    for read in reads
                ),
            )
        )
        for part in parts
    ]
    if reads:
        total = (Cell(show.fixed(read.gain.u, 2), read.gain, number=True, strong=True) for read in reads)
        rows.append(Row((Cell("together, standard uncertainty", strong=True), *total)))
    heads = ("Standard uncertainty, dB", *(f"{read.antenna.name}, {read.way}" for read in reads))
    return Table("budget", "Where the ± of a gain comes from (IEEE Std 149)", heads, tuple(rows))
