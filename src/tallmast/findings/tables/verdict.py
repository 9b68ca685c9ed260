"""Fit for the job, and what became of the claims."""

from __future__ import annotations

from tallmast.units import show

from ..figure import Mark
from ..table import TONES, Cell, Row, Table, antenna, figure, soft
from ..verdict import VerdictFinding

FATES: dict[str, tuple[Mark, str]] = {
    "holds": ("holds", "holds"),
    "fails": ("fails", "fails"),
    "impossible": ("fails", "impossible"),
    "open": ("open", "not shown yet"),
}
"""Mark and words of a claim after everything was measured."""


def ranking(finding: VerdictFinding, where: str) -> Table:
    """Every antenna by what is left over at the place to be reached, and what else counts."""
    rows = []
    for r in finding.ranked:
        reference = r.antenna.known_gain_dbi is not None
        best = "not ranked" if r.chance_of_best is None else show.percent(r.chance_of_best)
        match = soft("not measured")
        if r.match is not None:
            match = Cell(r.match.text if r.match.bound else show.swr(r.match.value), r.match, r.match_mark, number=True)
        cells = (
            antenna(r.antenna),
            figure(r.margin.there if r.margin else None, "not shown"),
            Cell("reference" if reference else best, number=not reference),
            figure(r.gain.combined, "not measured"),
            match,
            figure(r.weakest, "–", short=True),
            Cell(show.mass(r.antenna.mass_kg) if r.antenna.mass_kg else "–"),
            Cell(f"{r.antenna.price:g}" if r.antenna.price is not None else "–"),
        )
        rows.append(Row(cells, r.antenna, r.antenna.id))
    heads = ("Antenna", "Margin", "Is best", "Gain", "Worst SWR", "In sector", "Mass", "Price")
    return Table("ranking", f"Fit for the job: what is left over at {where}, and what else counts", heads, tuple(rows))


def claims(finding: VerdictFinding) -> Table:
    """Every claim against what was measured."""
    rows = []
    for fate in finding.claims:
        mark, words = FATES[fate.mark]
        cells = (
            antenna(fate.antenna, strong=False),
            Cell(fate.words, fate.figure),
            Cell(words, fate.figure, mark, TONES[mark], strong=True),
            Cell(fate.against, fate.figure, number=True),
        )
        rows.append(Row(cells, fate.claim, fate.antenna.id))
    return Table("claims judged", "Claims", ("Antenna", "Claim", "", "Measured"), tuple(rows))
