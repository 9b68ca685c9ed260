"""What a reduced test stands for, how far to stand away, what was read in turn, displays and the drawer."""

from __future__ import annotations

from tallmast.units import show

from ..levels import LevelsFinding
from ..table import TONES, Cell, Row, Table, figure, soft


def stands_for(finding: LevelsFinding) -> Table:
    """How many times as far full power reaches, by the exponent; none where the test is at full power."""
    rows = []
    for row in finding.stands_for if finding.reduction_db > 0.05 else ():
        measured = row.exponent.u > 0
        cells = (
            Cell(row.exponent.text, row.exponent if measured else row.ratio, number=True),
            Cell(row.named, row.ratio, strong=measured),
            figure(row.ratio, "–"),
            Cell(f"500 m → {show.distance(500 * row.ratio.value)}", row.ratio, number=True),
        )
        rows.append(Row(cells))
    return Table(
        "stands for",
        "What a distance in the reduced test stands for at full power",
        ("Exponent n", "", "Times as far", "Such as"),
        tuple(rows),
    )


def clear(finding: LevelsFinding) -> Table:
    """How far to stand away from everything that sends, by each limit."""
    rows = []
    for sender in finding.senders:
        if sender.near_people:
            words = "no far-field distance: its maker’s exposure statement"
            rows.append(Row((Cell(sender.name), soft(f"{sender.near_people}, {words}"), soft(""), soft(""))))
        for c in sender.clears:
            chosen = sender.clear in (c.with_ground, c.free_space)
            cells = (
                Cell(sender.name),
                Cell(c.words, c.with_ground, strong=chosen),
                figure(c.with_ground, "–"),
                figure(c.free_space, "–"),
            )
            rows.append(Row(cells))
    if finding.side_by_side is not None:
        both = Cell(finding.side_by_side.short, finding.side_by_side, number=True)
        rows.append(Row((Cell("Both ends side by side"), soft("the limit chosen"), both, soft(""))))
    heads = ("Sender", "Limit for the general public", "Ground reflecting", "Free space")
    return Table("clear", "Where people must not stand at full power", heads, tuple(rows))


def compared(finding: LevelsFinding) -> Table:
    """What was read in turn, and two powers of the same antenna over the same places."""
    rows = []
    for c in finding.compared:
        cells = (
            Cell(c.comparison.what, c.difference),
            Cell(f"{c.difference.name} {c.difference.text}", c.difference, number=True),
            soft(c.comparison.averaging),
            Cell(c.drift_words, tone="soft"),
            Cell(c.check.text, c.difference, tone=TONES[c.check.mark]) if c.check else soft(""),
        )
        rows.append(Row(cells, c.comparison))
    for pair in finding.powers:
        cells = (
            Cell(pair.name, pair.difference),
            figure(pair.difference, "–"),
            soft("by place"),
            Cell(""),
            Cell(pair.check.text, pair.difference, tone=TONES[pair.check.mark]),
        )
        rows.append(Row(cells, pair.stronger))
    return Table(
        "compared", "Read in turn", ("What", "Difference", "Averaged", "Drift", "Against what was set"), tuple(rows)
    )


def displays(finding: LevelsFinding) -> Table:
    """Displays that were stepped, and from where to where they tell levels."""
    rows = []
    for found in finding.displays.values():
        curve, (low, high) = found.curve, found.span
        cells = (
            Cell(f"{curve.run.receiver}, {curve.run.scale}", found.middle.level),
            Cell(f"{show.fixed(low, 0)} {curve.unit}", number=True),
            Cell(f"{show.fixed(high, 0)} {curve.unit}", number=True),
            Cell(found.middle.words, found.middle.level, number=True),
            soft(", ".join(check.text for check in found.checks)),
        )
        rows.append(Row(cells, curve.run))
    return Table("displays", "Displays stepped", ("Display", "Tells from", "to", "In the middle", "Seen"), tuple(rows))


def drawer(finding: LevelsFinding) -> Table:
    """Every piece, and what it was found to take."""
    rows = []
    for row in finding.drawer:
        verified = row.verified
        leak = f"; {verified.leak.text}" if verified and verified.leak and verified.leak.mark != "holds" else ""
        cells = (
            Cell(row.piece.name, row.figure),
            Cell(row.words, row.figure, number=True),
            soft(row.taken.basis),
            Cell(show.power(row.piece.rating_w) if row.piece.rating_w else "–", number=True),
            Cell(f"{verified.against}{leak}", verified.loss) if verified else soft("not measured"),
        )
        rows.append(Row(cells, row.piece))
    return Table(
        "drawer",
        "The drawer, at the question’s frequency",
        ("Piece", "Takes here", "", "Bears", "Against its lid"),
        tuple(rows),
    )


def noise(finding: LevelsFinding) -> Table:
    """What it comes to, in words."""
    if finding.noise is None:
        return Table("noise", "Noise", ("What it comes to",), ())
    n = finding.noise
    rows = (
        Cell(n.sentence, n.remedies[0].improvement if n.remedies else None, strong=True),
        Cell(n.detail, n.floor),
        Cell(f"The weakest that does: {n.sensitivity.text}, or a field of {n.folded.text}.", n.folded),
    )
    return Table("noise", "Noise", ("What it comes to",), tuple(Row((cell,)) for cell in rows))
