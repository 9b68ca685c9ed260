"""The decision in one picture's worth: every contrast on one axis of decibels, with what is alike."""

from __future__ import annotations

from tallmast.frozen import Frozen
from tallmast.units import show

from ..figure import Figure
from .finding import FieldFinding
from .model.contrasts import ALIKE_DB, DECIBELS, Contrast
from .runs import ANTENNA
from .settings import sides, tried_of

MOST_LINES = 9


class Line(Frozen):
    """One contrast."""

    better: str
    other: str
    contrast: Contrast
    antenna_id: str
    """Of the better one, where antennas are compared."""
    remark: str
    """Alike, and within what; how sure; what was seen."""

    @property
    def figure(self) -> Figure:
        return self.contrast.figure

    @property
    def parts(self) -> tuple[tuple[str, Figure], ...]:
        """Beneath it: block by block where those differ, else by each kind of note alone."""
        return self.contrast.blocks if self.contrast.differ else self.contrast.by_kind


class Decision(Frozen):
    """Contrasts, the better first in each."""

    title: str
    alike_db: float
    """How far from nought two are called alike."""
    lines: tuple[Line, ...]
    left: int
    """Contrasts that found no room: they stand in the table."""


def decision_of(finding: FieldFinding) -> Decision | None:
    """None where nothing was compared."""
    if not finding.contrasts:
        return None
    # Antennas first, the farthest apart last: what is nearly alike is what one looks for.
    chosen = sorted(finding.contrasts, key=lambda c: (len(c.changes) > 1, c.change.factor != ANTENNA, c.figure.value))
    lines = tuple(_line(c, finding) for c in chosen[:MOST_LINES])
    title = "By how much the one is better than the other, dB"
    return Decision(title, ALIKE_DB, lines, max(len(chosen) - MOST_LINES, 0))


def _line(contrast: Contrast, finding: FieldFinding) -> Line:
    better, other = sides(contrast.changes, finding.names)
    first = contrast.change
    antenna_id = tried_of(first.to)[0] if first.factor == ANTENNA else ""
    return Line(better, other, contrast, antenna_id, _remark(contrast))


def _remark(contrast: Contrast) -> str:
    if contrast.differ:
        return "out and back differ" if contrast.by_leg else "differs"
    if contrast.farther is not None:
        return contrast.farther.text
    if contrast.alike:
        return f"alike within {show.decibel(contrast.within_db)}"
    seen = next((s for s in contrast.seen if s.scale == contrast.scale), None)
    if contrast.scale != DECIBELS and seen is not None:
        return f"better {seen.at}"
    if len(contrast.changes) > 1:
        return "changed together"
    return show.certainty(contrast.likely) + (f", at {contrast.alone}" if contrast.alone else "")
