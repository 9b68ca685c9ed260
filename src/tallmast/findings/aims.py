"""What the person is looking at: choices of the window that a finding needs, but that are no evidence."""

from __future__ import annotations

import msgspec

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna


class Options(Frozen, eq=True):
    """What is tried on the Link: every combination of it is told; empty: as it stands."""

    powers_w: tuple[float, ...] = ()
    pads_db: tuple[float, ...] = ()
    more_db: tuple[float, ...] = ()
    """Gain more, or less, at either end."""
    heights_m: tuple[float, ...] = ()
    """Of the antenna at home."""
    bands_hz: tuple[float, ...] = ()
    """Other bands, with antennas of equal gain."""


class Aims(Frozen, eq=True):
    """The antenna in focus, the frequency read off, and the what-if of the Link rung, and what is
    tried on the staircase."""

    focus_id: str = ""
    band: int = 0
    """Number of the question's band that is looked at."""
    at_hz: float | None = None
    options: Options = Options()
    tried: tuple[tuple[str, float], ...] = ()
    """Steps of the staircase at another value, by key: tried, not kept."""


def as_text(aims: Aims) -> str:
    """As a process of its own is told it."""
    return msgspec.json.encode(aims).decode()


def of_text(text: str) -> Aims:
    """What `as_text` wrote. Raises ValueError where it is no such thing."""
    return msgspec.json.decode(text, type=Aims)


def subject(evidence: Evidence) -> Antenna | None:
    """The antenna that the question is about; None: it is about all of them."""
    question = evidence.question
    return evidence.antenna(question.antenna_id) if question is not None and question.antenna_id else None


def focus(evidence: Evidence, aims: Aims) -> Antenna | None:
    """The antenna in focus; where none is, the one that is asked about, else the first; None without antennas."""
    return evidence.antenna(aims.focus_id) or subject(evidence) or next(iter(evidence.antennas), None)
