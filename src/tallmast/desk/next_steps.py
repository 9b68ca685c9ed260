"""Which acts a rung offers, the one that makes sense now first: by what is in the notebook and what is not."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from tallmast.findings.climb import Climb
from tallmast.notebook.records import Reading, Sweep


def offered(rung: str, acts: Sequence[str], climb: Climb) -> list[str]:
    """Names of acts for the buttons of a rung: its own, after whatever has to come first."""
    first = FIRST[rung](climb)
    left = [act for act in acts if act not in first]
    if rung == "verdict" and climb.verdict.standing.mark == "nothing":
        left = []  # there is nothing to report
    return [*first, *left]


def _shelf(climb: Climb) -> list[str]:
    evidence = climb.evidence
    if evidence.question is None:
        return ["ask question"]
    return ["add claim"] if len(evidence.antennas) > 1 and not climb.shelf.headline else ["add antenna"]


def _bench(climb: Climb) -> list[str]:
    evidence = climb.evidence
    if not evidence.antennas:
        return ["add antenna"]
    # Whoever never swept may have no analyzer: a meter, or a file from somebody who has one, comes first.
    return [] if evidence.all(Sweep) else ["meter reading", "bring in"]


def _levels(climb: Climb) -> list[str]:
    evidence = climb.evidence
    if evidence.home_end is None:
        return ["power and pads"]
    return ["far end"] if evidence.far_end is None else []


def _pattern(climb: Climb) -> list[str]:
    return [] if climb.evidence.antennas else ["add antenna"]


def _field(climb: Climb) -> list[str]:
    evidence = climb.evidence
    if not evidence.antennas:
        return ["add antenna"]
    if len(evidence.places) < 2:
        return ["place"]
    if not evidence.runs:
        return ["run"]
    return [] if climb.field.samples or evidence.all(Reading) else ["reading"]


def _link(climb: Climb) -> list[str]:
    evidence = climb.evidence
    if evidence.home_end is None:
        return ["power and pads"]
    if evidence.far_end is None:
        return ["far end"]
    return ["place"] if len(evidence.places) < 2 else ["what if"]


def _verdict(climb: Climb) -> list[str]:
    if climb.verdict.standing.mark != "nothing":
        return []
    evidence = climb.evidence
    if evidence.question is None:
        return ["ask question"]
    if len(evidence.antennas) < 2:
        return ["add antenna"]
    return [*_bench(climb)[:1], *_field(climb)[:1]]


FIRST: dict[str, Callable[[Climb], list[str]]] = {
    "shelf": _shelf,
    "bench": _bench,
    "levels": _levels,
    "pattern": _pattern,
    "field": _field,
    "link": _link,
    "verdict": _verdict,
}
"""By rung, what has to come first now."""

WAYS: dict[str, tuple[tuple[str, str], ...]] = {
    "shelf": (
        ("ask question", "Say what is to be settled, and in which band"),
        ("add antenna", "Put each antenna on the shelf: its name is enough"),
        ("add claim", "Write what its leaflet promises: it is held against physics"),
    ),
    "bench": (
        ("meter reading", "Type what an SWR meter or a power meter shows"),
        ("bring in", "Drop a sweep from any analyzer: Touchstone or CSV"),
        ("analyzer", "Sweep with an analyzer, or learn it on the practice bench"),
    ),
    "levels": (
        ("power and pads", "Say with which power the test is made, and through which pads"),
        ("add piece", "Put pads, cables and preamps into the drawer"),
        ("display run", "Step a display through known pads: its bars become decibels"),
    ),
    "pattern": (
        ("turn", "Turn it on the spot and type what is heard: 21, 27, 24, 9"),
        ("run", "Fly or walk round it with a logger: note the run, drop the log"),
        ("bring in", "Drop a table of angle and level: dB, or relative field"),
    ),
    "field": (
        ("place", "Add the places: home, and where it is to be heard"),
        ("calls", "Call from a few places with each antenna, by single keys"),
        ("bring in", "Drop a logger’s track, a recording in time, or notes from a spreadsheet"),
    ),
    "link": (
        ("power and pads", "Say what is sent"),
        ("far end", "Say what the far end takes, and its antenna"),
        ("place", "Add the place to be reached"),
    ),
    "verdict": (
        ("meter reading", "Note what a meter shows on each antenna"),
        ("run", "Note a run with each, on the real path"),
        ("bring in", "Drop what was measured: sweeps, cuts, logs"),
    ),
}
"""By rung, two or three ways to feed it while it is empty: act, and what that is in plain words."""
