"""Tables of findings: what the ledgers on the desk and the report show alike."""

from __future__ import annotations

from typing import Any, Literal

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna, Record

from .figure import Figure, Mark

Tone = Literal["", "soft", "holds", "fails", "disagrees"]
TONES: dict[Mark, Tone] = {"holds": "holds", "fails": "fails", "disagrees": "disagrees", "open": "soft"}
"""How the words of a mark are meant."""


class Cell(Frozen):
    """Words, and how they are meant; whoever shows them finds the ink."""

    text: str
    payload: Any = None
    """What a pick of it means: a figure with its working, a place."""
    mark: Mark | None = None
    """Stands before the words."""
    tone: Tone = ""
    strong: bool = False
    number: bool = False
    slot: int | None = None
    """Of the antenna whose colour the words wear."""


class Row(Frozen):
    cells: tuple[Cell, ...]
    record: Record | None = None
    """What the row is of, to be opened."""
    antenna_id: str = ""


class Table(Frozen):
    """`key` names it; a table without rows is not shown."""

    key: str
    title: str
    heads: tuple[str, ...]
    rows: tuple[Row, ...]


def antenna(of: Antenna, strong: bool = True) -> Cell:
    """An antenna's name in its colour."""
    return Cell(of.name, slot=of.slot, strong=strong)


def figure(of: Figure | None, missing: str, short: bool = False, headed: bool = False) -> Cell:
    """A number with its ±, to be picked for its working; or what it means that there is none. `headed`: its unit stands in
    the column's head."""
    if of is None:
        return Cell(missing, tone="soft")
    text = of.short if short else of.text
    return Cell(text.removesuffix(f" {of.unit}") if headed else text, of, number=True)


def soft(text: str) -> Cell:
    """Words that stand back; a dash for none."""
    return Cell(text or "–", tone="soft")
