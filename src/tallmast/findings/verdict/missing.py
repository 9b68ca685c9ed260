"""What a question takes still, in its own words: only what is not there."""

from __future__ import annotations

from tallmast.notebook.records import Asking
from tallmast.units import show

from .finding import Known

MISSING: dict[Asking, str] = {
    "which is better": "To tell which is better, run both over the same places, or call from a few spots with each.",
    "does the claim hold": "To tell whether a claim holds, write it on the Shelf and measure what it speaks of.",
    "is it sound": "To tell whether it is sound, measure its match, and run it beside one that is known.",
    "which change helps most": "To tell which change helps, change one thing from run to run over the same places.",
}
"""What is missing, in the words of that question."""
OVER_THE_WAY: dict[Asking, str] = {
    "which reaches": "To tell which reaches",
    "how much power": "To tell how much power it takes",
}
"""Questions that a margin answers: what is missing is what that takes still."""


def _unnoted(known: Known) -> str:
    """What of a margin nobody noted yet, in one breath."""
    wanting = {
        "the power": known.evidence.home_end is None,
        "the far end": known.evidence.far_end is None,
        "the place to reach": known.field.wanted is None,
    }
    return show.join([what for what, wanted in wanting.items() if wanted])


def enough(known: Known) -> str:
    """That a comparison is no margin, and what that takes."""
    unnoted = _unnoted(known)
    return f"Whether that is enough is not shown yet{f': note {unnoted}' if unnoted else ''}."


def missing(asks: Asking, known: Known) -> str:
    """What the question still takes; empty where nothing is known to be missing."""
    if asks not in OVER_THE_WAY:
        return MISSING[asks]
    unnoted = _unnoted(known)
    acts = ([f"note {unnoted}"] if unnoted else []) + ([] if known.evidence.runs else ["run one on the way there"])
    return f"{OVER_THE_WAY[asks]}, {show.join(acts)}." if acts else ""


def reaching(known: Known) -> str:
    """What a margin still takes of who has gain."""
    wanting = {
        "a far end": known.evidence.far_end is None,
        "a place": known.field.wanted is None,
        "a field run": not known.evidence.runs,
    }
    missing = [what for what, wanted in wanting.items() if wanted]
    return f"Whether that reaches is not shown yet{f': it takes {show.join(missing)}' if missing else ''}."
