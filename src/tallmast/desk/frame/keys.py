"""Single keys: a few are the same everywhere, every other belongs to the rung in front and may mean something else on the next.

The keys of acts that are the same everywhere stand with the acts (`acts.Act.key`).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from tallmast.findings.climb import RUNGS

from .act import Act

BY_RUNG: dict[str, dict[str, str]] = {
    "shelf": {"C": "add claim", "S": "new state", "D": "add piece"},
    "bench": {
        "B": "analyzer",
        "M": "meter reading",
        "S": "new state",
        "I": "bring in",
        "+": "zoom in",
        "-": "zoom out",
        "0": "whole",
    },
    "levels": {
        "P": "power and pads",
        "E": "far end",
        "D": "add piece",
        "R": "radio",
        "F": "find pads",
        "Z": "verify pad",
        "X": "display run",
        "K": "try steps",
        "J": "noise",
        "N": "emitter",
        "Y": "comparison",
        "H": "field strength",
        "U": "in units",
    },
    "pattern": {
        "N": "turn",
        "K": "turn keys",
        "R": "run",
        "G": "range gain",
        "B": "turntable",
        "C": "craft",
        "I": "bring in",
    },
    "field": {"R": "run", "N": "reading", "C": "calls", "G": "live", "L": "place", "I": "bring in"},
    "link": {
        "E": "far end",
        "B": "obstacle",
        "G": "conditions",
        "N": "neighbour",
        "K": "trial",
        "P": "power and pads",
        "I": "what if",
        "L": "place",
        "M": "map",
        "C": "over another",
        "+": "closer",
        "-": "wider",
        "F": "save map",
    },
    "verdict": {"R": "report", "E": "bundle"},
}
"""By rung the act of each key."""


def act_of(key: str, rung: str) -> str | None:
    """The act that a single key does on a rung; None for one that does nothing there."""
    return BY_RUNG[rung].get(key.upper())


def key_of(act: str, rung: str) -> str:
    """The key of an act on a rung; empty where it has none there."""
    return next((key for key, name in BY_RUNG[rung].items() if name == act), "")


def elsewhere(key: str) -> list[tuple[str, str]]:
    """(rung, act) of every rung on which a key does something."""
    return [(rung, BY_RUNG[rung][key.upper()]) for rung in RUNGS if key.upper() in BY_RUNG[rung]]


def where(act: str) -> str:
    """Where which key does an act: `M on the Bench`; empty where none does."""
    keys: dict[str, list[str]] = {}
    for rung in RUNGS:
        key = key_of(act, rung)
        if key:
            keys.setdefault(key, []).append(rung.capitalize())
    return ", ".join(f"{key} on {' and '.join(rungs)}" for key, rungs in keys.items())


ON_A_PICTURE = [
    ("← →", "step through its numbers"),
    ("Enter", "show the working"),
    ("Shift ← →", "along the sweep"),
    ("Shift ↑ ↓", "move a step of the staircase"),
    ("Ctrl wheel", "show less or more"),
]


def shared(acts: Iterable[Act]) -> list[tuple[str, str]]:
    """Keys and chords that are the same on every rung."""
    return [(act.key.replace("Return", "⏎"), act.plain) for act in acts if act.key and act.menu != "Climb"]


def card(
    rung: str, words: Mapping[str, str], shared: Sequence[tuple[str, str]], panel: Sequence[tuple[str, str]]
) -> dict[str, list[tuple[str, str]]]:
    """The key card's columns, the rung in front first, with the keys of the panel that it can open: title → (key, words)."""

    def of(one: str) -> list[tuple[str, str]]:
        return [(key, words[act]) for key, act in BY_RUNG[one].items()]

    singles = [("1–7", "climb to a rung"), *((key, what) for key, what in shared if len(key) == 1)]
    chords = [(key, what) for key, what in shared if len(key) > 1]
    others = [(key, f"{one.capitalize()}: {what}") for one in RUNGS if one != rung for key, what in of(one)]
    return {
        f"Here, on {rung.capitalize()}": [*of(rung), *panel, *ON_A_PICTURE],
        "Everywhere": singles + chords,
        "On other rungs": others,
    }
