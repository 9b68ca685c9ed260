"""The day of a notebook, weighed at once, and what it says of every change."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence

from ..finding import FieldFinding
from ..fixes import PlaceFix, origin_of
from ..outliers import pads_known
from ..recorded import Noted, merged, noted_of
from ..runs import RunRow, Tried, tried
from ..samples import RunSamples
from ..tracks import noted_on_the_way
from ..words import ALIKE_DB
from .contrasts import Comparing, Contrast
from .day import day_of
from .mistakes import Judged, judge
from .noted import dying_of_day, notes_of_day, runs_of_day
from .parts import by_kind, by_manner
from .planner import Step, settling

if TYPE_CHECKING:
    from ...levels.display import DisplayFinding


class Gathered(Frozen):
    """What a day is made of."""

    evidence: Evidence
    rows: Sequence[RunRow]
    tried: Mapping[str, Tried]
    names: Mapping[Tried, str]
    fixes: Mapping[str, PlaceFix]
    samples: Mapping[str, RunSamples]
    displays: Mapping[str, DisplayFinding]
    in_time: Noted
    """What recordings and logs say on scales of their own, by stretch."""


class Weighed(Frozen):
    """What the day comes to."""

    judged: Judged
    contrasts: tuple[Contrast, ...] = ()
    dying: tuple[Contrast, ...] = ()
    """The same of how often recordings drop out, and of how long they are usable: not of the level."""


def gathered(evidence: Evidence, field: FieldFinding, displays: Mapping[str, DisplayFinding]) -> Gathered:
    """By what the Field has gathered."""
    what = {row.run.id: tried(evidence, row.run) for row in field.rows}
    fixes = {fix.place.id: fix for fix in field.places}
    samples = {of.run.id: of for of in field.samples}
    in_time = merged(noted_of(field.traces), noted_on_the_way(evidence, origin_of(evidence, field.home), displays))
    return Gathered(evidence, field.rows, what, field.names, fixes, samples, displays, in_time)


def judged_of(of: Gathered, before: Judged | None = None) -> Judged | None:
    """None where nothing was noted. `before`: the day as it was one note ago; what is the same still is not weighed again."""
    runs = runs_of_day(of.rows, of.tried)
    said = notes_of_day(of.evidence, of.rows, of.fixes, of.samples, of.displays, of.in_time)
    pads = pads_known(of.evidence)
    if before is not None:
        model = before.day.model
        if before.pads == pads and model.runs == runs and model.said == said:
            return before
    day = day_of(runs, said, before.day.posterior.mode if before is not None else None)
    return judge(day, pads) if day is not None else None


def weigh(of: Gathered, before: Judged | None = None) -> Weighed | None:
    """Every change, with what each kind of notes and each manner of runs says of it alone; None where nothing was noted."""
    judged = judged_of(of, before)
    if judged is None:
        return None
    titles = {place.id: place.name for place in of.evidence.places}
    comparing = Comparing(judged, of.names, titles)
    plain = comparing.contrasts()
    parts = zip(plain, by_kind(comparing, plain), by_manner(comparing, plain), strict=True)
    contrasts = tuple(replace(c, by_kind=kinds, by_manner=manners) for c, kinds, manners in parts)
    dying: list[Contrast] = []
    for said in dying_of_day(of.rows, of.in_time).values():
        day = day_of(judged.day.model.runs, said)
        if day is not None:
            dying += replace(comparing, judged=Judged(day, [], (), ())).contrasts()
    return Weighed(judged, contrasts, tuple(dying))


def settled_by(judged: Judged, contrast: Contrast) -> Step | None:
    """What would settle a contrast the quickest; None where it is settled, or nothing that could be done would."""
    if contrast.settled or contrast.differ:
        return None
    low, high = contrast.figure.interval
    half = 0.5 * (high - low)
    return settling(judged.day, contrast.changes, contrast.figure.value, half, ALIKE_DB, bool(contrast.alone))
