"""The Field's finding in words."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Place
from tallmast.units import show

from ..aims import Aims
from ..figure import Figure, Standing
from ..rails import exponent_trouble
from .calls import calls_of
from .checks import ceiling_checks, checks_of, contrast_checks, order_checks, pose_checks, s_unit_checks, walk_checks
from .decision import decision_of
from .ends import ends_checks, ends_of
from .finding import FieldFinding, PlaceReading
from .fixes import PlaceFix, fixes_of, origin_of
from .ground import over_ground
from .group import Group, group_of
from .laid import aligned
from .mistakes import mistake_checks
from .model.contrasts import DECIBELS
from .model.weighed import Gathered, day_notes, weigh
from .reaches import lost_words, reach_of
from .recorded import merged, noted_of, recorded_checks, traces_of
from .runs import RunRow, Tried, tried, what_changed
from .samples import gather
from .tracks import noted_on_the_way, track_checks, walks
from .words import contrast_words, dying_words, elsewhere_words, seen_words, settling_words, spoken_of

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding


def find(
    evidence: Evidence,
    aims: Aims,
    displays: Mapping[str, DisplayFinding] | None = None,
    before: FieldFinding | None = None,
) -> FieldFinding:
    """The Field's finding, told of the antenna in focus against the best of the others. `before`: as it was one note ago."""
    if not evidence.places and not evidence.runs:
        return FieldFinding(
            "No places yet.",
            "The Field answers: which antenna is heard better on the real path, and how far? Call from a few places with "
            "each, or add a place and a run. Add a place by its name, its distance or its coordinates.",
            Standing("nothing", "no places yet"),
        )
    home = evidence.home or next((p for p in evidence.places if p.position is not None), None)
    origin, fixes = origin_of(evidence, home), fixes_of(evidence, home)
    rows = what_changed(evidence)
    what = {row.run.id: tried(evidence, row.run) for row in rows}
    traces = traces_of(evidence, what)
    samples = gather(evidence, origin, fixes, displays, traces)
    names = _names_tried(evidence, list(what.values()))
    groups = []
    for manner in dict.fromkeys(row.run.manner for row in rows):
        group = group_of([row for row in rows if row.run.manner == manner], samples, names)
        if group:
            groups.append(group)
    reaches = [r for row in rows if (r := reach_of(row, evidence, samples.get(row.run.id), fixes))]
    in_time = merged(noted_of(traces), noted_on_the_way(evidence, origin, displays or {}))
    day = Gathered(evidence, rows, what, names, fixes, samples, displays or {}, in_time)
    weighed = weigh(day_notes(day), before.weighed if before is not None else None)
    calls = calls_of(evidence, rows, what, names, fixes, displays or {})
    draft = FieldFinding(
        "",
        "",
        Standing("nothing", ""),
        rows=rows,
        places=tuple(fixes.values()),
        samples=tuple(samples.values()),
        reports=_reports(evidence, rows),
        groups=tuple(groups),
        reaches=tuple(reaches),
        home=home,
        wanted=evidence.wanted or _farthest(fixes.values()),
        walks=walks(evidence, origin),
        weighed=weighed,
        calls=calls,
        names=names,
        ends=ends_of(evidence, fixes),
        traces=traces,
        laid=aligned(traces),
    )
    draft = replace(
        draft, ground=over_ground(draft.main, spoken_of(draft.contrasts, aims.focus_id), rows, draft.samples, names)
    )
    sentence, detail, headline = _sentence(draft, evidence, aims)
    checks = (
        checks_of(draft)
        + contrast_checks(draft)
        + order_checks(evidence, draft)
        + mistake_checks(evidence, draft)
        + ends_checks(draft.ends)
        + recorded_checks(traces)
        + ceiling_checks(evidence, draft, displays or {})
        + s_unit_checks(evidence, draft)
        + walk_checks(draft)
        + pose_checks(draft)
        + track_checks(evidence, displays or {})
    )
    out = [row for row in rows if row.verdict == "several things"]
    if not rows:
        standing = Standing("some", f"{show.count(len(evidence.places), 'place')}, no run")
    else:
        words = f"{len(rows)} run{'s' if len(rows) != 1 else ''}" + (f", {len(out)} mixed" if out else "")
        standing = Standing("disagreement" if out else "done" if draft.contrasts else "some", words)
    return replace(draft, sentence=sentence, detail=detail, standing=standing, checks=tuple(checks), headline=headline)


def _farthest(fixes: Iterable[PlaceFix]) -> Place | None:
    """What is to be reached where nobody said: whoever reaches that reaches the others too."""
    known = [fix for fix in fixes if not fix.by_sky]
    return max(known, key=lambda fix: fix.distance.value).place if known else None


def _reports(evidence: Evidence, rows: tuple[RunRow, ...]) -> tuple[PlaceReading, ...]:
    out = []
    for row in rows:
        for place_id, here in evidence.readings_by_place(row.run.id).items():
            place = evidence.place(place_id)
            if place is None:
                continue
            home, away = (tuple(r for r in here if r.end == end) for end in ("home", "away"))
            out.append(PlaceReading(place, row, home, away))
    return tuple(out)


def _names(evidence: Evidence) -> dict[str, str]:
    """Of every antenna that made a run, one that was taken out of the notebook since among them."""
    made = {run.antenna_id: "an antenna taken out" for run in evidence.runs}
    return made | {a.id: a.name for a in evidence.antennas}


def _names_tried(evidence: Evidence, tried: Sequence[Tried]) -> dict[Tried, str]:
    """What the runs tried, by name; the present states last."""
    names, present = _names(evidence), {a.id: a.state.id for a in evidence.antennas}
    every = list(dict.fromkeys(tried))
    every.sort(key=lambda one: present.get(one[0]) == one[1])
    out = {}
    for antenna_id, state_id in every:
        antenna = evidence.antenna(antenna_id)
        other = antenna is not None and present[antenna_id] != state_id
        out[antenna_id, state_id] = names[antenna_id] + (
            f", {antenna.state_name(state_id)}" if antenna and other else ""
        )
    return out


def _sentence(field: FieldFinding, evidence: Evidence, aims: Aims) -> tuple[str, str, Figure | None]:
    names = _names(evidence)
    rows = field.rows
    if not rows:
        return (
            f"{show.upper_first(show.count(len(evidence.places), 'place'))} and no run yet.",
            "Start a run: one antenna, one set of factors. Change one thing at a time.",
            field.places[0].distance if field.places else None,
        )
    detail = _left_out_words(field)
    told = spoken_of(field.contrasts, aims.focus_id)
    if told is not None:
        sentence = contrast_words(told, field.names)
        more = (
            dying_words(field.dying, told, field.names),
            settling_words(told, field.settled_by(told), field.names),
            elsewhere_words(told),
            seen_words(told),
            detail,
            _path_words(field.main) if field.main is not None and told.scale == DECIBELS else "",
        )
        return sentence, " ".join(filter(None, more)), told.figure
    if field.reaches:
        best = max(field.reaches, key=lambda r: r.furthest.value)
        name = names.get(best.row.run.antenna_id, "The antenna")
        if best.furthest.bound:
            sentence = f"{name} was heard to at least {show.distance(best.furthest.value)}."
        else:
            sentence = f"{name} was heard to {show.distance(best.furthest.value)} and {lost_words(best.furthest.value, best.lost_m)}."
        if len(names) > 1 and len({row.run.antenna_id for row in rows}) < 2:
            detail = detail or "Run another antenna over the same places, nothing else changed, to compare them."
        return sentence, detail or best.furthest.working.meaning, best.furthest
    what = f"{show.upper_first(show.count(len(rows), 'run'))}, nothing heard yet."
    return (
        what,
        detail or "Call from a few places, type readings, or drop a logger’s file or a recording on the window.",
        None,
    )


def _left_out_words(field: FieldFinding) -> str:
    """Of runs that changed several things against their baseline: whether the other runs part them."""
    out = [row for row in field.rows if row.verdict == "several things"]
    if not out:
        return ""
    decision = decision_of(field)
    as_one = decision is None or any(len(line.contrast.changes) > 1 for line in decision.lines)
    if len(out) > 1:
        tail = "what those did together is told as one" if as_one else "the other runs part what each did"
        return f"Runs {show.join([str(row.run.number) for row in out])} changed several things at once; {tail}."
    changed = show.join(list(out[0].changed))
    tail = (
        "what they did together is told as one" if as_one else "with the other runs each is told apart, with a wider ±"
    )
    return f"Run {out[0].run.number} changed {changed} together: alone it says nothing about any one of them; {tail}."


def _path_words(group: Group) -> str:
    if group.fit is None:
        return ""
    trouble = exponent_trouble(group.fit.exponent)
    if trouble:
        return f"{show.upper_first(trouble)}, so no range can be told from them."
    return f"The level falls with distance to the power {group.fit.exponent.text}; a place strays {show.decibel(group.fit.scatter_db)} from the line."
