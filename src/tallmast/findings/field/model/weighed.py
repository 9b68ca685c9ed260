"""The day of a notebook, weighed at once, and what it says of every change."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Piece

from ..fixes import PlaceFix
from ..recorded import Noted
from ..runs import RunRow, Tried
from ..samples import RunSamples
from .contrasts import ALIKE_DB, Comparing, Contrast
from .day import day_of
from .mistakes import LEAST_DB, Judged, judge
from .noted import Note, RunOfDay, dying_of_day, notes_of_day, runs_of_day
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


class DayNotes(Frozen, eq=True):
    """All that the weighing of a day rests on."""

    runs: list[RunOfDay]
    said: list[Note]
    pads: list[float]
    """Attenuations that somebody could have left out or in, dB."""
    ends: Mapping[str, list[Note]]
    """By scale, how recordings end: how often they drop out, how long they are usable."""
    names: Mapping[Tried, str]
    titles: Mapping[str, str]
    """Of places, by id."""


class Weighed(Frozen):
    """What the day comes to."""

    notes: DayNotes
    judged: Judged
    contrasts: tuple[Contrast, ...] = ()
    dying: tuple[Contrast, ...] = ()
    """What changes do to how recordings end: not to the level."""


def day_notes(of: Gathered) -> DayNotes:
    """What a day says, in the model's terms."""
    return DayNotes(
        runs_of_day(of.rows, of.tried),
        notes_of_day(of.evidence, of.rows, of.fixes, of.samples, of.displays, of.in_time),
        pads_known(of.evidence),
        dying_of_day(of.rows, of.in_time),
        of.names,
        {place.id: place.name for place in of.evidence.places},
    )


def pads_known(evidence: Evidence) -> list[float]:
    """Every attenuation that somebody could have left out or in: pads of the drawer, of the chain, and of the runs."""
    drawer = [p.loss_db for p in evidence.all(Piece) if p.type == "pad"]
    ends = [end for end in (evidence.home_end, evidence.far_end) if end is not None]
    chain = [pad.attenuation_db for end in ends for pad in end.pads]
    runs = [run.pad_db for run in evidence.runs]
    apart = [abs(a - b) for a in set(runs) for b in set(runs)]
    return sorted({round(p, 1) for p in (*drawer, *chain, *runs, *apart) if p >= LEAST_DB})


def judged_of(of: DayNotes, before: Judged | None = None) -> Judged | None:
    """None where nothing was noted. `before`: the day as it was one note ago: what is the same still is not weighed again. Nothing else of
    it is used, so that the same notes always say the same, whatever stood there before."""
    if before is not None:
        model = before.day.model
        if (before.pads, model.runs, model.said) == (of.pads, of.runs, of.said):
            return before
    day = day_of(of.runs, of.said)
    return judge(day, of.pads) if day is not None else None


def weigh(of: DayNotes, before: Weighed | None = None) -> Weighed | None:
    """Every change, with what each kind of notes and each manner of runs says of it alone; None where nothing was noted. `before`: the
    day as it was one note ago."""
    if before is not None and before.notes == of:
        return before
    judged = judged_of(of, before.judged if before is not None else None)
    if judged is None:
        return None
    comparing = Comparing(judged, of.names, of.titles)
    plain = comparing.contrasts()
    parts = zip(plain, by_kind(comparing, plain), by_manner(comparing, plain), strict=True)
    contrasts = tuple(replace(c, by_kind=kinds, by_manner=manners) for c, kinds, manners in parts)
    dying: list[Contrast] = []
    for said in of.ends.values():
        day = day_of(judged.day.model.runs, said)
        if day is not None:
            dying += replace(comparing, judged=Judged(day, [], (), ())).contrasts()
    return Weighed(of, judged, contrasts, tuple(dying))


def settled_by(judged: Judged, contrast: Contrast) -> Step | None:
    """What would settle a contrast the quickest; None where it is settled, or nothing that could be done would."""
    if contrast.settled or contrast.differ:
        return None
    return settling(judged.day, contrast.changes, contrast.figure, ALIKE_DB, contrast.there)
