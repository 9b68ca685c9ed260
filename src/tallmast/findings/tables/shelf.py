"""Claims on paper, antennas, and what lies between."""

from __future__ import annotations

from tallmast.units import show

from ..connection import end_words
from ..figure import Mark
from ..shelf import ShelfFinding
from ..table import TONES, Cell, Row, Table, antenna, soft

ON_PAPER: dict[str, tuple[Mark, str]] = {
    "possible": ("open", "possible"),
    "no limit": ("open", "no size noted"),
    "doubted": ("disagrees", "more than is known of its kind"),
    "impossible": ("fails", "impossible as stated"),
}
"""Mark and words of a claim before anything was measured."""


def claims(finding: ShelfFinding) -> Table:
    """What is claimed, before anything was measured."""
    rows = []
    for row in finding.rows:
        for paper in row.every_claim:
            mark, words = ON_PAPER[paper.standing]
            cells = (
                antenna(row.antenna),
                Cell(paper.words, paper.limit),
                Cell(words, paper.limit, mark, TONES[mark]),
                soft(paper.claim.read_in or "not noted"),
            )
            rows.append(Row(cells, paper.claim, row.antenna.id))
    return Table(
        "claims",
        "Claims, on paper only: the Verdict holds them against what was measured",
        ("Antenna", "Claim", "On paper", "Read in"),
        tuple(rows),
    )


def antennas(finding: ShelfFinding) -> Table:
    """What is tested."""
    rows = []
    for row in finding.rows:
        a, connection = row.antenna, row.connection
        cells = (
            antenna(a),
            Cell(f"{a.type}, {a.made}"),
            Cell(a.state.name),
            Cell(a.polarization),
            Cell(show.length(row.longest_m) if row.longest_m else "not noted", row.limit, number=True),
            Cell(connection.text, connection.loss, connection.mark, TONES[connection.mark])
            if connection
            else Cell("not noted", None, "open", "soft"),
            soft(a.handling),
        )
        rows.append(Row(cells, a, a.id))
    return Table(
        "antennas",
        "Antennas",
        ("Antenna", "Kind", "State", "Polarization", "Longest", "Connector", "Handling"),
        tuple(rows),
    )


def pieces(finding: ShelfFinding) -> Table:
    """Adapters and cables, and which antenna uses them."""
    used = {i: row.antenna.name for row in finding.rows for i in row.antenna.through}
    rows = [
        Row(
            (
                Cell(one.piece.name, one.figure),
                Cell(f"{end_words(one.piece.first)} to {end_words(one.piece.second)}")
                if one.piece.first or one.piece.second
                else soft("not noted"),
                Cell(one.words, one.figure, number=True),
                soft(one.taken.basis),
                Cell(show.power(one.piece.rating_w) if one.piece.rating_w else "–", number=True),
                soft(used.get(one.piece.id, "not in use")),
            ),
            one.piece,
        )
        for one in finding.pieces
    ]
    return Table(
        "pieces",
        "Adapters and cables between",
        ("Piece", "From, to", "Takes here", "", "Bears", "Used by"),
        tuple(rows),
    )
