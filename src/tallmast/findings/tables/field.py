"""What changed between runs, reports from both ends, differences over the same places, and where the places are."""

from __future__ import annotations

import math

from tallmast.notebook.records import Reading
from tallmast.units import show
from tallmast.units.shown import SCALES

from ..field import FieldFinding
from ..field.finding import Reach
from ..field.model.contrasts import Contrast
from ..field.runs import ANTENNA, RunRow
from ..field.settings import sides
from ..field.trace import LEVEL, Stretch, Trace
from ..figure import Mark
from ..table import TONES, Cell, Row, Table, soft


def runs(finding: FieldFinding) -> Table:
    """Every run against the baseline of its manner. What is the same in all needs no column: it is said once, in the title."""
    every = finding.rows[0].factors if finding.rows else ()
    values = {f: {row.factors[f] for row in finding.rows} for f in every}
    factors = [f for f in every if f == ANTENNA or len(values[f]) > 1]
    same = [f"{f} {next(iter(values[f]))}" for f in every if f not in factors and values[f] - {""}]
    alike = f"; alike in all: {', '.join(same)}" if same and len(finding.rows) > 1 else ""
    reach = {r.row.run.id: r for r in finding.reaches}
    return Table(
        "runs",
        f"What changed between runs, against the baseline of each manner{alike}",
        ("Run", "Manner", *(show.upper_first(f) for f in factors), "Can be compared", "Heard to"),
        tuple(Row(_run_cells(row, factors, reach.get(row.run.id)), row.run) for row in finding.rows),
    )


def _run_cells(row: RunRow, factors: list[str], reach: Reach | None) -> tuple[Cell, ...]:
    several = row.verdict == "several things"
    cells = [Cell(str(row.run.number), number=True), soft(row.run.manner)]
    for factor in factors:
        changed = factor in row.changed
        cells.append(Cell(row.factors[factor] or "–", tone="" if row.factors[factor] else "soft", strong=changed))
    mark: Mark = "fails" if several else "open" if row.verdict == "baseline" or not row.compared else "holds"
    if row.verdict == "baseline":
        cells.append(soft("baseline"))
    else:
        cells.append(Cell(row.words, None, mark, TONES[mark], several))
    if reach is None:
        cells.append(soft(""))
    else:
        text = show.distance(reach.furthest.value)
        cells.append(Cell(f"at least {text}" if reach.furthest.bound else text, reach.furthest, number=True))
    return tuple(cells)


def reports(finding: FieldFinding) -> Table:
    """What each end said of a run at a place."""
    places = {p.place.id: p for p in finding.places}
    rows = []
    for report in finding.reports:
        every = (*report.away, *report.home)
        said = [", ".join(_as_said(reading) for reading in end) for end in (report.away, report.home)]
        cells = (
            Cell(f"run {report.run.run.number}, {report.run.antenna}"),
            Cell(report.place.name, places.get(report.place.id)),
            *(Cell(words, number=True) if words else soft("") for words in said),
            soft("; ".join(dict.fromkeys(e.note for e in every if e.note))),
        )
        rows.append(Row(cells, every[-1]))
    return Table(
        "reports", "Reports from both ends", ("Run", "At", "Far end heard", "Home end heard", "Note"), tuple(rows)
    )


def _as_said(reading: Reading) -> str:
    return reading.as_typed or ("heard" if reading.heard else "not heard")


def contrasts(finding: FieldFinding) -> Table:
    """What every change did, the better first: alone, or with what was changed together with it."""
    every = [*finding.contrasts, *finding.dying]
    columns: list[tuple[str, list[Cell]]] = [
        (
            "The better against the other",
            [Cell(" against ".join(sides(c.changes, finding.names)), c.figure) for c in every],
        ),
        ("Difference", [_difference(c) for c in every]),
        ("Chance of better", [soft(show.certainty(c.likely)) for c in every]),
        ("How far", [Cell(c.farther.text if c.farther else "", c.farther, number=True) for c in every]),
        ("As read", [soft("; ".join(f"{s.scale}: {s.words}" for s in c.seen)) for c in every]),
        ("Runs", [Cell(str(c.runs), number=True) for c in every]),
        ("Places", [Cell(str(c.places) if c.places else "–", number=True) for c in every]),
        ("By part", [soft(_parts(c)) for c in every]),
        ("Mind", [soft(_remark(c)) for c in every]),
    ]
    # A column that says nothing of any of them is left out.
    there = [(head, cells) for head, cells in columns if any(cell.text not in ("", "–") for cell in cells)]
    told = tuple(Row(cells) for cells in zip(*(cells for _, cells in there), strict=True))
    return Table("contrasts", "What every change did", tuple(head for head, _ in there), told)


def _parts(contrast: Contrast) -> str:
    """Where they differ by block; by each kind of reading, by each manner."""
    manners = contrast.by_manner if len(contrast.by_manner) > 1 else ()
    parts = (*(contrast.blocks if contrast.differ else ()), *contrast.by_kind, *manners)
    return "; ".join(f"{name or 'not noted'}: {figure.text}" for name, figure in parts)


def _difference(contrast: Contrast) -> Cell:
    return Cell(contrast.figure.text, contrast.figure, None, "soft" if contrast.open else "", number=True)


def _remark(contrast: Contrast) -> str:
    if len(contrast.changes) > 1:
        return f"{show.join([c.factor for c in contrast.changes])} changed together"
    return f"at {contrast.alone} alone" if contrast.alone else ""


def stretches(finding: FieldFinding) -> Table:
    """Recordings by their stretches: the mean, how much was usable, and what dropped out."""
    rows = []
    for trace in finding.traces:
        unit = "dBm" if trace.read_on == LEVEL else SCALES[trace.read_on].unit
        for stretch in trace.stretches:
            u = stretch.usable
            mean = "nothing read" if math.isnan(stretch.mean) else f"{show.fixed(stretch.mean, 1)} {unit}"
            dropped = ""
            if u is not None:
                longest = f", the longest {show.fixed(u.longest_s, 1)} s" if len(u.dropouts_s) > 1 else ""
                dropped = f"{len(u.dropouts_s)}: {show.fixed(u.lost_s, 1)} s{longest}" if u.dropouts_s else "none"
            cells = (
                Cell(f"run {trace.run.number}, {finding.names.get(trace.tried, '?')}{_heard_at(trace)}"),
                soft(stretch.name),
                Cell(f"{show.fixed(stretch.to_s - stretch.from_s, 0)} s", number=True),
                Cell(mean, number=True),
                Cell(show.percent(u.share) if u is not None else "not said", number=True),
                Cell(dropped, number=True),
                soft(_dying(stretch)),
            )
            rows.append(Row(cells, trace.recording))
    heads = ("Run", "Stretch", "Takes", "Mean", "Usable", "Dropouts", "From usual to lost, and back")
    return Table("stretches", "Recordings, stretch by stretch", heads, tuple(rows))


def _dying(stretch: Stretch) -> str:
    how = stretch.dying
    if how is None or (how.warning_s is None and how.recovery_s is None):
        return ""
    ways = ["–" if s is None else f"{show.fixed(s, 1)} s" for s in (how.warning_s, how.recovery_s)]
    return f"{ways[0]}, {ways[1]}"


def _heard_at(trace: Trace) -> str:
    end = f", {trace.end} end" if trace.end != trace.recording.end else ""
    return end + (f", {trace.branch}" if trace.branch else "")


def places(finding: FieldFinding) -> Table:
    """Where the places are, seen from home."""
    rows = [
        Row(
            (
                Cell(p.place.name, p),
                Cell(show.distance(p.distance.value), p.distance, number=True),
                Cell("–" if p.bearing_deg is None else show.bearing(p.bearing_deg), number=True),
                Cell(show.distance(p.typed_m) if p.typed_m else "–", number=True),
            ),
            p.place,
        )
        for p in finding.places
    ]
    return Table("places", "Places", ("Place", "Distance", "Bearing", "Note as typed"), tuple(rows))
