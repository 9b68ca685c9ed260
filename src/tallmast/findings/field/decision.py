"""The decision in one picture's worth: every contrast on one scale, with what lies within it and what is alike."""

from __future__ import annotations

from tallmast.frozen import Frozen
from tallmast.units import show

from ..figure import Figure
from .contrasts import DECIBELS, REACH, Contrast
from .finding import FieldFinding
from .recorded import WHOLE
from .runs import ANTENNA
from .settings import sides, tried_of
from .words import ALIKE_DB, most_told

MOST_LINES = 9


class Line(Frozen):
    """One contrast."""

    better: str
    other: str
    contrast: Contrast
    antenna_id: str
    """Of the better one, where antennas are compared."""
    remark: str
    """Alike, and within what; at one place alone; told as one."""

    @property
    def figure(self) -> Figure:
        return self.contrast.figure


class Decision(Frozen):
    """Contrasts on one scale, the better first in each."""

    title: str
    scale: str
    neutral: float
    """The value that says alike."""
    alike: float
    """How far from it two are called alike; 0 where there is no such width."""
    lines: tuple[Line, ...]
    left: int
    """Contrasts that found no room: they stand in the table."""


def decision_of(finding: FieldFinding) -> Decision | None:
    """On the scale that the field's sentence speaks in; None where nothing was compared."""
    every = finding.contrasts
    levels = [c for c in every if c.scale == DECIBELS]
    told = any(c.change.factor == ANTENNA and len(c.changes) == 1 for c in levels)
    chosen = levels if told else [c for c in every if c.scale == most_told(every)[0].scale] if every else []
    if not chosen:
        return None
    # Antennas first, the farthest apart last: what is nearly alike is what one looks for.
    chosen.sort(key=lambda c: (len(c.changes) > 1, c.change.factor != ANTENNA, c.figure.value))
    scale = chosen[0].scale
    title = {
        DECIBELS: "By how much the one is better than the other over the same places, dB",
        REACH: "How many times as far the one was heard as the other",
    }.get(scale, "How often the one is better than the other at the same spot, %")
    lines = tuple(_line(c, finding) for c in chosen[:MOST_LINES])
    alike = ALIKE_DB if scale == DECIBELS else 0.0
    return Decision(title, scale, chosen[0].neutral, alike, lines, max(len(chosen) - MOST_LINES, 0))


def _line(contrast: Contrast, finding: FieldFinding) -> Line:
    better, other = sides(contrast.changes, finding.names)
    first = contrast.change
    antenna_id = tried_of(first.to)[0] if first.factor == ANTENNA else ""
    return Line(better, other, contrast, antenna_id, _remark(contrast))


def _remark(contrast: Contrast) -> str:
    if contrast.told_by_block and contrast.scale != DECIBELS:
        return "differs by block"
    if contrast.alike:
        low, high = contrast.figure.interval
        within = max(-low, high)
        close = contrast.scale == DECIBELS and within <= ALIKE_DB
        if contrast.size is not None:
            return f"not told apart, {contrast.size.text}"
        return f"alike within {show.decibel(within)}" if close else "not told apart"
    if len(contrast.changes) > 1:
        return "told as one"
    if contrast.agree == "disagrees":
        return "out and back differ" if contrast.by_leg else "blocks disagree"
    if contrast.size is not None and not contrast.alone:
        return f"by {contrast.size.text}"
    if contrast.alone == WHOLE:
        return "over whole recordings"
    return f"at {contrast.alone} alone" if contrast.alone else ""
