"""What may have gone wrong in a day, as the checks that ask about it."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.units import show

from ...figure import Check
from .mistakes import Judged, Mistake
from .noted import RunOfDay


def suspicions(judged: Judged) -> list[Check]:
    """One question: of all that the design can't tell apart, whichever was."""
    if not judged.suspected:
        return []
    runs = judged.day.model.runs
    named = list(dict.fromkeys(_words(one.mistake, runs) for one in judged.suspected))
    why = (
        f"With that the notes are {_times(judged.suspected[0].odds)} as likely as without. Until it is settled the answer counts both. "
        "Look at what lay in the chain, and correct the run if so: nothing is corrected silently."
    )
    return [Check("fails", f"{show.join(named, 'or')}?", None, why)]


def _times(odds: float) -> str:
    return "over 1000 times" if odds > 1000.0 else f"{odds:.0f} times"


def _words(mistake: Mistake, runs: Sequence[RunOfDay]) -> str:
    number, db = runs[mistake.run].number, f"{abs(mistake.by_db):g} dB"
    if mistake.kind == "pad left out":
        return f"{db} pad left out of run {number}"
    if mistake.kind == "pad in twice":
        put_in = "twice in" if runs[mistake.run].pads_db else "left in"
        return f"{db} pad {put_in} run {number}"
    if mistake.kind == "connector loose":
        return f"connector loose in run {number}"
    return f"run {number} sent at another run’s power"
