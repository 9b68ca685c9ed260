"""What a report says, in order; no layout."""

from __future__ import annotations

import math
from collections.abc import Iterator

from msgspec.structs import replace

from tallmast.figures.all_directions import AllDirectionsPicture
from tallmast.figures.aloft import AloftPicture
from tallmast.figures.bench import RibbonPicture, SwrPicture
from tallmast.figures.by_elevation import ByElevationPicture
from tallmast.figures.calls import CallsPicture
from tallmast.figures.contrasts import DecisionPicture
from tallmast.figures.coverage import CoveragePicture
from tallmast.figures.ellipse import EllipsePicture
from tallmast.figures.field import DistancePicture, MapPicture
from tallmast.figures.ground import GroundPicture
from tallmast.figures.levels import StaircasePicture
from tallmast.figures.levels_display import DisplayPicture
from tallmast.figures.levels_noise import NoisePicture
from tallmast.figures.link import FanPicture
from tallmast.figures.own_turn import OwnTurnPicture
from tallmast.figures.pairs import PairsPicture, TurnedPicture
from tallmast.figures.paper import MARKS, Paper
from tallmast.figures.pattern import PolarPicture
from tallmast.figures.picture import Picture
from tallmast.figures.profile import ProfilePicture
from tallmast.figures.shelf import ShelfPicture
from tallmast.figures.traces import HowOftenPicture, TracesPicture
from tallmast.figures.verdict import GainPicture
from tallmast.findings import tables
from tallmast.findings.climb import Climb
from tallmast.findings.field.decision import decision_of
from tallmast.findings.figure import Check, Figure
from tallmast.findings.levels import LevelsFinding
from tallmast.findings.table import Cell, Row, Table
from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna
from tallmast.units import show

CELLS = 400
"""Of the map of where it reaches, each way."""


class Chapter(Frozen, eq=True):
    """One rung, told to a reader who was not there."""

    key: str
    title: str
    sentence: str
    detail: str
    checks: tuple[str, ...] = ()
    pictures: tuple[tuple[str, Picture, int, int], ...] = ()
    """(key, picture, width, height)."""
    tables: tuple[Table, ...] = ()
    workings: tuple[tuple[str, Figure], ...] = ()
    """(what it is of, figure): told at the end of the report."""
    cautions: tuple[str, ...] = ()


class Report(Frozen, eq=True):
    title: str
    subtitle: str
    verdict: str
    detail: str
    chapters: tuple[Chapter, ...]
    methods: tuple[str, ...]


def check_words(check: Check) -> str:
    return f"{MARKS[check.mark]} {check.text}"


def _figures(*figures: tuple[str, Figure | None]) -> tuple[tuple[str, Figure], ...]:
    return tuple((owner, f) for owner, f in figures if f is not None)


def _shown(*found: Table) -> tuple[Table, ...]:
    """Tables that have rows."""
    return tuple(table for table in found if table.rows)


def compose(climb: Climb) -> Report:
    """The report of a climb: the verdict first, then what it rests on, rung by rung; empty rungs are left out."""
    evidence = climb.whole
    question = evidence.question
    title = question.text if question else "A question not asked yet"
    parts = [question.campaign] if question and question.campaign else []
    if question:
        parts += [f"{show.band(b.low_hz, b.high_hz)}, SWR limit {b.swr_limit:g}" for b in question.bands]
    chapters = [
        c
        for c in (
            _verdict(climb),
            _shelf(climb),
            _bench(climb),
            _levels(climb),
            _pattern(climb),
            _field(climb),
            _link(climb),
        )
        if c
    ]
    chapters = _with_cautions(climb, chapters)
    verdict = climb.verdict
    methods = (
        "Every ± is the half-width of an interval that holds the true value nine times in ten, given that its stated parts are right.",
        "All that was noted in the field is weighed at once; what was changed together is told together.",
        "A farthest point at which a link still worked is reported as ‘at least’.",
        "Distances are geodesics on WGS 84. Cautions are guidance: licence and local rules decide.",
    )
    return Report(title, " · ".join(parts), verdict.sentence, verdict.detail, tuple(chapters), methods)


def _with_cautions(climb: Climb, chapters: list[Chapter]) -> list[Chapter]:
    """Each with what to mind on its rung; what was said of one before is not said again."""
    said: set[str] = set()
    out = []
    for chapter in chapters:
        fresh = [words for words in climb.cautions(chapter.key) if words not in said]
        said.update(fresh)
        out.append(replace(chapter, cautions=(" ".join(fresh),) if fresh else ()))
    return out


def _verdict(climb: Climb) -> Chapter | None:
    finding = climb.verdict
    if not finding.ranked:
        return None
    where = climb.field.wanted.name if climb.field.wanted else "the place"
    found = [tables.verdict.ranking(finding, where), tables.verdict.claims(finding)]
    if finding.changes:
        rows = tuple(Row((Cell(change),)) for change in finding.changes)
        found.append(Table("changes", "", ("What would change this verdict, cheapest first",), rows))
    picture = GainPicture(finding=finding)
    workings = _figures(
        ("", finding.headline), *((r.antenna.name, r.gain.combined) for r in finding.ranked if r.gain.measured)
    )
    height = 34 + round(88 * max(len(picture.rows()), 1))
    return Chapter(
        "verdict",
        "Verdict",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        (("gain", picture, 760, height),),
        _shown(*found),
        workings,
    )


def _shelf(climb: Climb) -> Chapter | None:
    finding = climb.shelf
    if not finding.rows:
        return None
    return Chapter(
        "shelf",
        "What was tested",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        (("shelf", ShelfPicture(finding=finding), 760, 74 + 58 * len(finding.rows)),),
        _shown(tables.shelf.antennas(finding), tables.shelf.pieces(finding)),
        _figures(*((r.antenna.name, r.limit) for r in finding.rows)),
    )


def _bench(climb: Climb) -> Chapter | None:
    finding = climb.bench
    measured = [b for b in finding.antennas if b.worst or b.sweep]
    if not measured:
        return None
    pictures = []
    if any(b.sweep for b in measured):
        pictures = [
            ("swr", SwrPicture(finding=finding, focus_id=climb.aims.focus_id), 760, 330),
            ("windows", RibbonPicture(finding=finding), 760, 40 + 25 * len(finding.antennas)),
        ]
    return Chapter(
        "bench",
        "Match",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        tuple(pictures),
        _shown(tables.bench.bands(climb.bands), tables.bench.match_of_each(finding), tables.bench.cables(finding)),
        _figures(*((b.antenna.name, b.worst) for b in measured)),
    )


def _levels(climb: Climb) -> Chapter | None:
    finding = climb.levels
    if not finding.steps:
        return None
    return Chapter(
        "levels",
        "Power and pads",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        _level_pictures(finding),
        _shown(
            tables.levels.stands_for(finding),
            tables.levels.clear(finding),
            tables.levels.drawer(finding),
            tables.levels.compared(finding),
        ),
        _figures(
            (finding.antenna, finding.eirp), (finding.antenna, finding.full_eirp), (finding.antenna, finding.clear)
        ),
    )


def _level_pictures(finding: LevelsFinding) -> tuple[tuple[str, Picture, int, int], ...]:
    """The staircase both ways, what would help against the noise, and each display that was stepped."""
    out: list[tuple[str, Picture, int, int]] = [("staircase", StaircasePicture(finding=finding), 760, 330)]
    if finding.back is not None:
        out.append(("staircase-back", StaircasePicture(finding=finding, stairs=finding.back), 760, 330))
    if finding.noise is not None and finding.noise.remedies:
        out.append(("noise", NoisePicture(finding=finding.noise), 760, 330))
    for i, display in enumerate(finding.displays.values(), 1):
        out.append((f"display-{i}", DisplayPicture(finding=display), 760, 320))
    return tuple(out)


def _pattern(climb: Climb) -> Chapter | None:
    finding = climb.pattern
    if finding.standing.mark == "nothing":
        return None
    cuts = [c for a in finding.antennas for c in a.cuts]
    pictures: list[tuple[str, Picture, int, int]] = [
        (plane, PolarPicture(finding=finding, plane=plane, focus_id=climb.aims.focus_id), 760, 430)
        for plane in ("azimuth", "elevation")
        if any(c.plane == plane for c in cuts)
    ]
    if finding.own is not None:
        pictures.append(("own-scale", OwnTurnPicture(turns=finding.own), 760, 400))
    if finding.flown_first:
        pictures.append(("all-directions", AllDirectionsPicture(maps=finding.direction_maps), 760, 360))
    if finding.own_maps:
        pictures.append(("all-directions-own", AllDirectionsPicture(maps=finding.own_maps), 760, 360))
    if finding.side_of_focus is not None:
        pictures.append(("by-elevation", ByElevationPicture(side=finding.side_of_focus), 760, 340))
    for one in finding.antennas:
        if one.polarized is not None:
            pictures.append((f"polarization-{one.antenna.slot}", EllipsePicture(reading=one.polarized), 760, 300))
    if finding.pairs is not None:
        pictures.append(("pairs", PairsPicture(pairs=finding.pairs), 760, 340))
        pictures.append(("bank-and-pitch", TurnedPicture(pairs=finding.pairs), 760, 320))
    return Chapter(
        "pattern",
        "Pattern",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        tuple(pictures),
        _shown(
            tables.pattern.cuts(finding),
            tables.pattern.towards(finding),
            tables.pattern.polarized(finding),
            tables.pattern.range_gains(finding),
            tables.pattern.budget(finding),
            tables.pattern.covered(finding),
            tables.pattern.branches(finding),
        ),
        _figures(
            *((a.antenna.name, a.substitution) for a in finding.antennas),
            *((f"{a.antenna.name}, {r.way}", r.gain) for a in finding.antennas for r in a.ranges),
        ),
    )


def _field(climb: Climb) -> Chapter | None:
    finding = climb.field
    if not finding.rows:
        return None
    group = finding.main
    pictures = _field_pictures(climb, tuple(climb.evidence.antennas))
    return Chapter(
        "field",
        "Field",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        tuple(pictures),
        _shown(
            tables.field.runs(finding),
            tables.field.contrasts(finding),
            tables.field.stretches(finding),
            tables.field.places(finding),
            tables.field.reports(finding),
        ),
        _figures(("", finding.headline), ("", group.fit.exponent if group and group.fit else None)),
    )


def _field_pictures(climb: Climb, antennas: tuple[Antenna, ...]) -> tuple[tuple[str, Picture, int, int], ...]:
    """The decision first, then the grid of calls, the map, and the level along the way, as far as there are any."""
    finding, focus_id, far = climb.field, climb.aims.focus_id, climb.evidence.far_end
    out: list[tuple[str, Picture, int, int]] = []
    decision = decision_of(finding)
    plain = Paper()
    if decision is not None:
        picture = DecisionPicture(decision=decision, antennas=antennas, focus_id=focus_id)
        out.append(("decision", picture, 760, picture.height_for(760, plain)))
    if finding.calls is not None:
        calls = CallsPicture(calls=finding.calls, antennas=antennas, focus_id=focus_id)
        out.append(("calls", calls, 760, calls.height_for(760, plain)))
    laid, ground = finding.laid, finding.ground
    if laid is not None:
        out.append(("traces", TracesPicture(aligned=laid, antennas=antennas, focus_id=focus_id), 760, 340))
        out.append(("how-often", HowOftenPicture(aligned=laid, antennas=antennas, focus_id=focus_id), 760, 300))
    if finding.home is not None or finding.places:
        out.append(("map", MapPicture(finding=finding, focus_id=focus_id, clear=climb.clear), 760, 420))
    if ground is not None:
        out.append(("ground", GroundPicture(ground=ground, antennas=antennas, focus_id=focus_id), 760, 280))
    if finding.along_the_way:
        known = far is not None and finding.main is not None and math.isfinite(finding.main.shared_u_db)
        level = DistancePicture(
            finding=finding,
            antennas=antennas,
            focus_id=focus_id,
            sensitivity_dbm=far.sensitivity_dbm if far and known else None,
        )
        out.append(("distance", level, 760, 340))
    return tuple(out)


def _link(climb: Climb) -> Chapter | None:
    finding = climb.link
    if finding.drawn is None and not finding.flown:
        return None
    wanted, way, drawn = climb.field.wanted, finding.way, finding.drawn
    where = wanted.name if wanted else show.distance(way.distance_m) if way is not None else ""
    return Chapter(
        "link",
        "Link",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        tuple(_link_pictures(climb)),
        _shown(
            tables.link.margins(finding, where),
            tables.link.causes(finding),
            tables.link.flown(finding),
            tables.link.how_far(finding, where),
            tables.link.shared(finding, climb.evidence.far_end.name if climb.evidence.far_end else "far end"),
            tables.link.trials(finding),
            tables.link.worth(finding, where),
            tables.link.on_the_way(finding),
            tables.link.models(finding, where),
        ),
        _figures(("", drawn.budget), ("", drawn.residual)) if drawn is not None else (),
    )


def _link_pictures(climb: Climb) -> Iterator[tuple[str, Picture, int, int]]:
    """The way from the side, what flew, the level over distance, and where on the ground it reaches."""
    finding, field = climb.link, climb.field
    wanted, way = field.wanted, finding.way
    if way is not None and way.profile.known:
        home = climb.field.home.name if climb.field.home else "home"
        yield "way", ProfilePicture(profile=way.profile, home_name=home), 760, 330
    if finding.flown:
        yield "aloft", AloftPicture(flown=finding.flown[-1]), 760, 330
    if finding.drawn is not None:
        fan = FanPicture(finding=finding, focus_id=climb.aims.focus_id, wanted=wanted.name if wanted else "")
        yield "fan", fan, 760, 350
    if finding.cover is not None:
        *_, coverage = finding.cover.grow(cells=CELLS)
        reaches = CoveragePicture(cover=finding.cover, coverage=coverage, field=field, focus_id=climb.aims.focus_id)
        yield "reaches", reaches, 760, reaches.height_for(760, Paper())
