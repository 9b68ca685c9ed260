"""Claims on paper, antennas, and what lies between."""

from __future__ import annotations

from tallmast.units import show

from ..connection import end_words
from ..figure import Mark
from ..shelf import ShelfFinding
from ..table import Cell, Row, Table, Tone, antenna, soft

ON_PAPER: dict[str, tuple[Mark, str, Tone]] = {
    "possible": ("open", "possible", "soft"),
    "doubted": ("disagrees", "more than is known of its kind", "disagrees"),
    "impossible": ("fails", "impossible as stated", "fails"),
}
"""Mark, words and tone of a claim before anything was measured."""


def claims(finding: ShelfFinding) -> Table:
    """What is claimed, before anything was measured."""
    rows = []
    for row in finding.rows:
        for paper in row.claims:
            mark, words, tone = ON_PAPER[paper.standing]
            cells = (
                antenna(row.antenna),
                Cell(paper.words, paper.limit),
                Cell(words, paper.limit, mark, tone),
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
        tone: Tone = "holds" if connection and connection.mark == "holds" else "soft"
        if connection and connection.mark == "fails":
            tone = "fails"
        cells = (
            antenna(a),
            Cell(f"{a.type}, {a.made}"),
            Cell(a.state.name),
            Cell(a.polarization),
            Cell(show.length(row.longest_m) if row.longest_m else "not noted", row.limit, number=True),
            Cell(connection.text, connection.loss, connection.mark, tone)
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
                Cell(piece.name),
                Cell(f"{end_words(piece.first)} to {end_words(piece.second)}"),
                Cell(f"{piece.loss_db:.2f} dB", number=True),
                Cell(show.power(piece.rating_w) if piece.rating_w else "–", number=True),
                soft(used.get(piece.id, "not in use")),
            ),
            piece,
        )
        for piece in finding.pieces
    ]
    return Table(
        "pieces", "Adapters and cables between", ("Piece", "From, to", "Loss", "Carries", "Used by"), tuple(rows)
    )
