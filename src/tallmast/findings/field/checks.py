"""The Field’s checks: mistakes of the trade by name, and what holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from tallmast.notebook.evidence import Evidence
from tallmast.units import show

from ..figure import Check, Figure
from ..rails import exponent_trouble
from .finding import FieldFinding, Reach
from .samples import at_ceiling

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding


def ceiling_checks(evidence: Evidence, field: FieldFinding, displays: Mapping[str, DisplayFinding]) -> list[Check]:
    """Readings at the end of what they were read on, where two antennas look alike; none where there are none."""
    found = at_ceiling(list(field.samples), evidence, displays)
    if not found:
        return []
    runs = show.join([str(run.number) for run in evidence.runs if run.id in found])
    count = sum(found.values())
    what = "is" if count == 1 else "are"
    words = f"{show.count(count, 'reading')} {what} at the end of the scale (run{'s' if len(found) > 1 else ''} {runs})"
    why = (
        "What it was read on shows no more than this, so there two antennas look equal, whatever they are. "
        "Put a pad in, or compare farther out."
    )
    return [Check("disagrees", words, None, why)]


def walk_checks(field: FieldFinding) -> list[Check]:
    """Logs of positions alone."""
    why = "It says where the run went and nothing of what was heard: bring in the receiver’s own log, or note readings."
    return [
        Check("open", f"run {w.run.number}: no levels in {w.source or 'its track'}", None, why) for w in field.walks
    ]


def checks_of(field: FieldFinding) -> list[Check]:
    checks: list[Check] = []
    for row in field.rows:
        if row.verdict == "several things":
            why = f"{show.upper_first(show.join(list(row.changed)))} differ from run {row.baseline}."
            checks.append(Check("fails", f"run {row.run.number}: {row.words}", None, why))
    for fix in field.places:
        if fix.typed_m is not None and abs(fix.typed_m - fix.distance.value) > max(
            3 * fix.distance.u, 0.02 * fix.distance.value
        ):
            text = (
                f"{fix.place.name}: typed {show.distance(fix.typed_m)}, fixes say {show.distance(fix.distance.value)}"
            )
            checks.append(Check("disagrees", text, fix.distance, "The fixes are taken; the note stays on the tape."))
    if field.main and field.main.fit:
        fit_ = field.main.fit
        trouble = exponent_trouble(fit_.exponent)
        if trouble:
            why = (
                f"{show.upper_first(trouble)}: a place typed wrongly, a reading in another unit, or too little ground."
            )
            checks.append(Check("open", "no range from these places", None, why))
        else:
            checks.append(Check("holds", f"exponent {fit_.exponent.text}", fit_.exponent))
    open_ended = [r for r in field.reaches if r.furthest.bound]
    if open_ended and len(open_ended) == len(field.reaches):
        checks.append(Check("open", "no run was lost: every reach is ‘at least’", open_ended[0].furthest))
    return checks


def change_checks(changes: Sequence[tuple[Reach, Figure]]) -> list[Check]:
    """What one thing that was changed, other than the antenna, did to how far it was heard."""
    out = []
    for one, figure in changes:
        low, high = figure.interval
        alike = low <= 1.0 <= high
        words = f"run {one.row.run.number}, {one.row.changed[0]} changed: {'as far, ' if alike else ''}{figure.text}"
        out.append(Check("open" if alike else "holds", words, figure, figure.working.meaning))
    return out
