"""The Field’s checks: mistakes of the trade by name, and what holds."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from itertools import combinations
from typing import TYPE_CHECKING

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Reading
from tallmast.units import show

from ..figure import Check, Figure, Working
from ..rails import exponent_trouble
from . import steps
from .finding import FieldFinding
from .model.suspicions import suspicions
from .runs import Tried, tried
from .samples import at_ceiling, by_s_units
from .settings import sides
from .words import parting_words

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding
APART = 1.96
"""Standard deviations: 19 times in 20."""


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


def s_unit_checks(evidence: Evidence, field: FieldFinding) -> list[Check]:
    """Readings in S units of a meter that nobody stepped, where they were made decibels of."""
    told = {run_id for group in field.groups for run_id in group.run_ids}
    runs = [run for run in evidence.runs if run.id in told and any(map(by_s_units, evidence.readings(run.id)))]
    if not runs:
        return []
    words = (
        f"S units taken for 6 dB each (run{'s' if len(runs) > 1 else ''} {show.join([str(r.number) for r in runs])})"
    )
    why = (
        "That is the convention (IARU Region 1 R.1); meters as they are made have units of 3.5 to 7 dB, which the ± allows for. "
        "Step that meter through known attenuation (Levels, X): then its own units count."
    )
    return [Check("open", words, None, why)]


def pose_checks(field: FieldFinding) -> list[Check]:
    """Runs with the antenna held or mounted otherwise than in the rest: why they don't count among them."""
    poses: dict[str, list[int]] = {}
    for row in field.rows:
        if row.factors.get("pose"):
            poses.setdefault(row.factors["pose"], []).append(row.run.number)
    if sum(map(len, poses.values())) >= len(field.rows):
        return []
    why = "Turned or tilted it sends another polarization, and elsewhere: its levels tell of that pose, and don't count for the others."
    out = []
    for pose, runs in poses.items():
        words = f"run{'s' if len(runs) > 1 else ''} {show.join([str(n) for n in runs])} with the antenna {pose}: compared as a pose"
        out.append(Check("open", words, None, why))
    return out


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
        missed = any(not r.heard for one in field.reports for r in (*one.home, *one.away))
        words = "none was lost beyond where it was heard" if missed else "no run was lost"
        checks.append(Check("open", f"{words}: every reach is ‘at least’", open_ended[0].furthest))
    return checks


def contrast_checks(field: FieldFinding) -> list[Check]:
    """What was changed together with something else, legs that differ, mistakes that the notes speak for, known steps, a drift."""
    out = []
    for contrast in field.contrasts:
        both = sides(contrast.changes, field.names)
        if len(contrast.changes) > 1:
            words = f"{both[0]} against {both[1]}: {show.join([c.factor for c in contrast.changes])} changed together"
            why = f"{show.upper_first(parting_words(contrast, field.names))}."
            out.append(Check("open", words, contrast.figure, why))
        if contrast.differ and contrast.by_leg:
            within = "; ".join(f"{block}: {figure.text}" for block, figure in contrast.blocks)
            why = f"{within}. What it does depends on which way one goes."
            out.append(Check("open", f"{both[0]} over {both[1]}: out and back differ", contrast.figure, why))
    out += kinds_checks(field) + manners_checks(field)
    if field.judged is not None:
        out += suspicions(field.judged)
    for group in field.groups:
        out += [steps.check(step) for step in group.steps]
    return out + _drift_checks(field)


def kinds_checks(field: FieldFinding) -> list[Check]:
    """Kinds of notes that say the opposite of each other, each for itself surely."""
    out = []
    for contrast in field.contrasts:
        low = max((figure.interval[0] for _, figure in contrast.by_kind), default=0.0)
        high = min((figure.interval[1] for _, figure in contrast.by_kind), default=0.0)
        if low > 0.0 > high:
            both = sides(contrast.changes, field.names)
            words = f"{both[0]} over {both[1]}: kinds of readings disagree"
            told = "; ".join(f"{kind}: {figure.text}" for kind, figure in contrast.by_kind)
            why = f"{told}. What was read on one of them went by something else than the level: look at its notes."
            out.append(Check("disagrees", words, contrast.figure, why))
    return out


def manners_checks(field: FieldFinding) -> list[Check]:
    """The same change told in two manners, by boat and in flight, farther apart than nineteen times of twenty."""
    out = []
    for contrast in field.contrasts:
        for (manner, one), (other, another) in combinations(contrast.by_manner, 2):
            if abs(one.value - another.value) > APART * math.hypot(one.u, another.u):
                both = sides(contrast.changes, field.names)
                words = f"{both[0]} over {both[1]}: {manner} and {other} disagree"
                why = (
                    f"{manner}: {one.text}; {other}: {another.text}. "
                    "Other places, paths and angles are other answers: go by the manner in which it is to be used."
                )
                out.append(Check("disagrees", words, contrast.figure, why))
    return out


def order_checks(evidence: Evidence, field: FieldFinding) -> list[Check]:
    """Two antennas that were always tried in the same order, at every place or run by run: a drift would look the same."""
    when = _when(evidence, field)
    never: list[tuple[str, str]] = []
    for (a, of_a), (b, of_b) in combinations(when.items(), 2):
        apart = [_mean(of_a[cell]) - _mean(of_b[cell]) for cell in of_a if cell in of_b]
        # In a swapped order neither is earlier in the mean, or now the one is and now the other.
        same = bool(apart) and (all(d < 0 for d in apart) or all(d > 0 for d in apart))
        if same and _in_turn(field, a, b):
            earlier, later = (field.names.get(one, "?") for one in ((a, b) if apart[0] < 0 else (b, a)))
            never.append((earlier, later))
    if not never:
        return []
    why = "A battery that runs down or a path that dries would look the same. Try what came first once more, last."
    if len(never) == 1:
        return [Check("open", f"{never[0][0]} always came before {never[0][1]}", None, why)]
    pairs = "; ".join(f"{earlier} before {later}" for earlier, later in never)
    return [Check("open", f"{show.count(len(never), 'pair')} never swapped in order", None, f"Always {pairs}. {why}")]


Where = tuple[str, str]
"""A place and a block."""


def _when(evidence: Evidence, field: FieldFinding) -> dict[Tried, dict[Where, list[float]]]:
    """By antenna, place and block: when it was tried there, in the order in which things were noted; by a track or a recording, when it ran."""
    noted = {reading.id: float(i) for i, reading in enumerate(evidence.all(Reading))}
    recorded = {t.run.id for t in field.traces} | {s.run.id for s in field.samples}
    tracks = {run_id for run_id in recorded if not evidence.readings(run_id)}
    out: dict[Tried, dict[Where, list[float]]] = {}
    for row in field.rows:
        what = tried(evidence, row.run)
        block = ", ".join([row.run.manner, *(row.factors[n] for n, kind in row.kinds.items() if kind == "block")])
        for reading in evidence.readings(row.run.id):
            out.setdefault(what, {}).setdefault((reading.place_id, block), []).append(noted[reading.id])
        if row.run.id in tracks:
            out.setdefault(what, {}).setdefault(("", block), []).append(float(row.run.number))
    return out


def _in_turn(field: FieldFinding, a: Tried, b: Tried) -> bool:
    """Whether both made more than one run, or took turns over the places: one run of each has some order, and that more are
    wanted is said elsewhere."""
    runs = {
        one: [row for row in field.rows if (row.run.antenna_id, row.run.state_id or one[1]) == one] for one in (a, b)
    }
    planned = any(row.run.plan.startswith("each") for rows in runs.values() for row in rows)
    return planned or all(len(rows) > 1 for rows in runs.values())


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values)


def _drift_checks(field: FieldFinding) -> list[Check]:
    out = []
    for group in field.groups:
        if group.drift is not None and group.drift.told:
            d = group.drift
            working = Working(
                (f"slope of the run means over the order, {show.decibel(d.value_db)} from the first to the last",),
                (("what the effects leave over", show.decibel(d.u_db, 2)),),
                "least squares with the effects of the design; Student's t",
                "A battery, the weather, or whoever listened.",
            )
            figure = Figure("drift over the session", d.value_db, d.u_db, "dB", working, d.degrees)
            why = "From the first run to the last, beside what was changed; it is taken out, with its own ±."
            out.append(Check("open", f"the session drifted by {figure.text}", figure, why))
    return out
