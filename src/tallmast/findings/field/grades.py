"""Which antenna is heard better where only grades are known: readability, or not heard at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import permutations

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Reading
from tallmast.physics.ordinal import Better, better
from tallmast.units import show

from ..figure import Figure, Working
from .runs import RunRow
from .samples import Tried

FEW_CELLS = 3
"""Fewer places than this, and one more is asked for."""

Graded = dict[tuple[Tried, Tried], "ByGrade"]


@dataclass(frozen=True, eq=False, repr=False)
class ByGrade:
    """Chance, %, that one is heard better than the other, over so many spots."""

    chance: Figure
    cells: int


def _score(reading: Reading) -> int | None:
    """Readability, 0 for not heard; None for heard without saying how well."""
    return reading.readability if reading.heard else 0


def graded(evidence: Evidence, rows: Sequence[RunRow], tried: dict[str, Tried], names: dict[Tried, str]) -> Graded:
    """(A, B) → chance in per cent that A is heard better at the same spot, the better one first; over places and ends that
    both were graded at. Empty where nobody gave a readability."""
    heard: dict[Tried, dict[tuple[str, str], list[int]]] = {}
    any_grade = False
    for row in rows:
        if not row.compared:
            continue
        for reading in evidence.readings(row.run.id):
            score = _score(reading)
            if score is not None:
                any_grade |= score > 0
                cell = heard.setdefault(tried[row.run.id], {}).setdefault((reading.place_id, reading.end), [])
                cell.append(score)
    if not any_grade:
        return {}
    out = {}
    for (a, of_a), (b, of_b) in permutations(heard.items(), 2):
        both = [cell for cell in of_a if cell in of_b]
        found = better([of_a[cell] for cell in both], [of_b[cell] for cell in both], spots=[place for place, _ in both])
        if found is not None and found.chance >= 0.5 and (b, a) not in out:
            out[a, b] = ByGrade(_figure(found, (names[a], names[b])), found.cells)
    return out


def _figure(found: Better, names: tuple[str, str]) -> Figure:
    spots = show.count(found.cells, "spot")
    return Figure(
        f"{names[0]} better heard than {names[1]}",
        100.0 * found.chance,
        100.0 * (found.high - found.low) / 3.29,
        "%",
        Working(
            (
                f"{spots} at which both were graded; both ends of one count as one",
                "a reading of one against one of the other: better 1, alike ½, worse 0",
                f"mean {show.percent(found.chance)}, of which alike {show.percent(found.ties)}",
            ),
            ((f"as few as {spots}", f"{show.percent(found.low)} to {show.percent(found.high)}"),),
            "Mann and Whitney within places; Jeffreys’ interval for a share (Brown, Cai and DasGupta 2001)",
            "How often the one would be heard better than the other at a spot like these. Readings of one spot count as one.",
        ),
        low=100.0 * found.low,
        high=100.0 * found.high,
        digits=0,
    )


def grade_words(found: ByGrade, names: tuple[str, str]) -> str:
    """The sentence of a comparison by grades."""
    figure, low = found.chance, found.chance.interval[0]
    few = f"; graded at {show.count(found.cells, 'spot')} only, {FEW_CELLS} or more would tell"
    more = few if found.cells < FEW_CELLS else ""
    if low <= 50.0:
        return f"At the same spot {names[0]} and {names[1]} can’t be told apart: {names[0]} heard better {figure.text} of the time{more}."
    return f"{show.upper_first(names[0])} is heard better than {names[1]} at the same spot, {figure.text} of the time{more}."
