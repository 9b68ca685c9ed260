"""What was read in turn, on the Bench or at one place."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.units import show

from ..levels.compare import Compared
from .finding import Answer


def in_turn(compared: Sequence[Compared]) -> Answer | None:
    """What was read in turn, in one sentence; None where nothing was."""
    newest = list({c.comparison.what.lower(): c for c in compared}.values())
    if not newest:
        return None
    told = []
    for c in newest:
        low, high = c.difference.interval
        none = "no difference told, " if low <= 0 <= high else ""
        told.append(f"{c.comparison.what}: {c.difference.name} {none}{c.difference.text}")
    left = [c.check.text for c in newest if c.check is not None and c.check.mark != "holds"]
    detail = (
        f"Mind: {'; '.join(left)}."
        if left
        else "Read in turn at one place: it says nothing of another place or direction."
    )
    return Answer(f"{show.upper_first('; '.join(told))}.", detail, newest[-1].difference)
