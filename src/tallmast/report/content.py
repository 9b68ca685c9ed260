"""What a report says, in order; no layout."""

from __future__ import annotations

from dataclasses import dataclass

from tallmast.figures.bench import RibbonPicture, SwrPicture
from tallmast.figures.field import DistancePicture, MapPicture
from tallmast.figures.levels import StaircasePicture
from tallmast.figures.levels_display import DisplayPicture
from tallmast.figures.levels_noise import NoisePicture
from tallmast.figures.link import FanPicture
from tallmast.figures.paper import MARKS
from tallmast.figures.pattern import PolarPicture
from tallmast.figures.picture import Picture
from tallmast.figures.shelf import ShelfPicture
from tallmast.figures.verdict import GainPicture
from tallmast.findings.climb import Climb
from tallmast.findings.figure import Check, Figure
from tallmast.findings.levels import LevelsFinding
from tallmast.units import show


@dataclass(frozen=True)
class Table:
    headers: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Chapter:
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


@dataclass(frozen=True)
class Report:
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


def compose(climb: Climb) -> Report:
    """The report of a climb: the verdict first, then what it rests on, rung by rung; empty rungs are left out."""
    evidence = climb.evidence
    question = evidence.question
    title = question.text if question else "A question not asked yet"
    parts = [question.campaign] if question and question.campaign else []
    if question:
        parts += [show.band(question.band_low_hz, question.band_high_hz), f"SWR limit {question.swr_limit:g}"]
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
    verdict = climb.verdict
    methods = (
        "Every ± is the half-width of an interval that holds the true value nine times in ten, given that its stated parts are right.",
        "Antennas are compared place by place; runs that changed more than one thing are kept and left out of comparisons.",
        "A farthest point at which a link still worked is reported as ‘at least’.",
        "Distances are geodesics on WGS 84. Cautions are guidance: licence and local rules decide.",
    )
    return Report(title, " · ".join(parts), verdict.sentence, verdict.detail, tuple(chapters), methods)


def _verdict(climb: Climb) -> Chapter | None:
    finding = climb.verdict
    if not finding.ranked:
        return None
    where = climb.field.wanted.name if climb.field.wanted else "the place"
    rows = tuple(
        (
            r.antenna.name,
            r.margin.figure.text if r.margin else "not shown",
            "reference"
            if r.antenna.known_gain_dbi is not None
            else show.percent(r.chance_of_best)
            if r.chance_of_best is not None
            else "not ranked",
            r.gain.combined.text if r.gain.combined else "not measured",
            r.match.text if r.match else "not measured",
            f"{r.antenna.price:g}" if r.antenna.price is not None else "not noted",
        )
        for r in finding.ranked
    )
    tables = [Table(("Antenna", f"Margin at {where}", "Chance of best", "Gain", "Worst SWR in band", "Price"), rows)]
    if finding.claims:
        words = {
            "holds": "✓ holds",
            "fails": "✕ fails",
            "impossible": "✕ impossible as stated",
            "open": "– not shown yet",
        }
        tables.append(
            Table(
                ("Antenna", "Claim", "Read in", "Verdict", "Why"),
                tuple(
                    (f.antenna.name, f.words, f.claim.read_in or "not noted", words[f.mark], f.why)
                    for f in finding.claims
                ),
            )
        )
    if finding.changes:
        tables.append(Table(("What would change this verdict, cheapest first",), tuple((c,) for c in finding.changes)))
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
        tuple(tables),
        workings,
    )


def _shelf(climb: Climb) -> Chapter | None:
    finding = climb.shelf
    if not finding.rows:
        return None
    rows = tuple(
        (
            r.antenna.name,
            r.antenna.made,
            r.antenna.type,
            r.antenna.state.name,
            r.antenna.polarization,
            show.length(r.longest_m) if r.longest_m else "not noted",
            r.connection.text if r.connection else "not noted",
            r.antenna.handling or "–",
        )
        for r in finding.rows
    )
    table = Table(("Antenna", "Made", "Kind", "State", "Polarization", "Longest side", "Connector", "Handling"), rows)
    return Chapter(
        "shelf",
        "What was tested",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        (("shelf", ShelfPicture(finding=finding), 760, 74 + 58 * len(finding.rows)),),
        (table,),
        _figures(*((r.antenna.name, r.limit) for r in finding.rows)),
    )


def _bench(climb: Climb) -> Chapter | None:
    finding = climb.bench
    measured = [b for b in finding.antennas if b.worst or b.sweep]
    if not measured:
        return None
    rows = tuple(
        (
            b.antenna.name,
            b.worst.text if b.worst else "not over the whole band",
            show.frequency(b.sweep.resonance_hz, 1) if b.sweep and b.sweep.resonance_hz else "not seen",
            "; ".join(show.band(*(round(e, -4) for e in w)) for w in b.sweep.windows[1.5]) or "none"
            if b.sweep
            else "by meter only",
            "; ".join(m.words for m in b.meters) or "–",
            b.advice or "–",
        )
        for b in measured
    )
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
        (Table(("Antenna", "Worst SWR in band", "Resonance", "SWR under 1.5", "By meter", "Advice"), rows),),
        _figures(*((b.antenna.name, b.worst) for b in measured)),
    )


def _levels(climb: Climb) -> Chapter | None:
    finding = climb.levels
    if not finding.steps:
        return None
    tables = ()
    if finding.reduction_db > 0.05:
        tables = (
            Table(
                ("Exponent", "", "Times as far at full power"),
                tuple((r.exponent.text, r.named, r.ratio.text) for r in finding.stands_for),
            ),
        )  # type: ignore[assignment]
    cautions = (
        (f"Stand {finding.clear.short} clear of {finding.antenna} at full power. {finding.clear.working.meaning}",)
        if finding.clear
        else ()
    )
    return Chapter(
        "levels",
        "Power and pads",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        _level_pictures(finding),
        (*tables, *_level_tables(finding)),
        _figures(
            (finding.antenna, finding.eirp), (finding.antenna, finding.full_eirp), (finding.antenna, finding.clear)
        ),
        cautions,
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


def _level_tables(finding: LevelsFinding) -> tuple[Table, ...]:
    """Pieces as they were found, and what was read in turn."""
    out = []
    measured = [row for row in finding.drawer if row.verified is not None]
    if measured:
        rows = tuple(
            (row.piece.name, row.figure.text, row.verified.against if row.verified else "") for row in measured
        )
        out.append(Table(("Piece, measured", "Takes", "Against its lid"), rows))
    turns: list[tuple[str, ...]] = [
        (
            c.comparison.what,
            f"{c.difference.name}: {c.difference.text}",
            c.comparison.averaging,
            c.check.text if c.check else "",
        )
        for c in finding.compared
    ]
    turns += [(p.name, p.difference.text, "by place", p.check.text) for p in finding.powers]
    if turns:
        out.append(Table(("Read in turn", "Difference", "Averaged", "Against what was set"), tuple(turns)))
    return tuple(out)


def _pattern(climb: Climb) -> Chapter | None:
    finding = climb.pattern
    cuts = [(a, c) for a in finding.antennas for c in a.cuts]
    if not cuts:
        return None
    rows = tuple(
        (
            a.antenna.name,
            c.cut.plane,
            c.beamwidth.text if c.beamwidth else "all round",
            c.front_to_back.text if c.front_to_back else "not told",
            c.sidelobe.text if c.sidelobe else "none seen",
            c.sector.text if c.sector else "not told",
        )
        for a, c in cuts
    )
    pictures = tuple(
        (plane, PolarPicture(finding=finding, plane=plane, focus_id=climb.aims.focus_id), 760, 430)
        for plane in ("azimuth", "elevation")
        if any(c.cut.plane == plane for _, c in cuts)
    )
    return Chapter(
        "pattern",
        "Pattern",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        pictures,
        (Table(("Antenna", "Plane", "Beam", "Front to back", "Largest sidelobe", "Worst in sector"), rows),),
        _figures(*((a.antenna.name, a.substitution) for a in finding.antennas)),
    )


def _field(climb: Climb) -> Chapter | None:
    finding = climb.field
    if finding.home is None or not finding.rows:
        return None
    tables = [
        Table(
            ("Run", "Manner", "Antenna", "Power", "Pad", "Path", "Weather", "Can be compared"),
            tuple(
                (
                    str(r.run.number),
                    r.run.manner,
                    r.antenna,
                    r.factors["power"],
                    r.factors["pad"],
                    r.factors["path"] or "–",
                    r.factors["weather"] or "–",
                    r.words,
                )
                for r in finding.rows
            ),
        )
    ]
    group = finding.main
    if group and group.differences:
        pairs = [(pair, f) for pair, f in group.differences.items() if f.value >= 0]
        tables.append(
            Table(
                ("Over the same places", "Difference"),
                tuple((f"{group.names[a]} over {group.names[b]}", f.text) for (a, b), f in pairs),
            )
        )
    if finding.places:
        tables.append(
            Table(
                ("Place", "Distance", "Bearing", "Note as typed"),
                tuple(
                    (
                        p.place.name,
                        show.distance(p.distance.value),
                        show.bearing(p.bearing_deg),
                        show.distance(p.typed_m) if p.typed_m else "–",
                    )
                    for p in finding.places
                ),
            )
        )
    far = climb.evidence.far_end
    pictures: tuple[tuple[str, Picture, int, int], ...] = (
        ("map", MapPicture(finding=finding, focus_id=climb.aims.focus_id, clear=climb.levels.clear), 760, 420),
    )
    if group:
        pictures += (
            (
                "distance",
                DistancePicture(
                    finding=finding,
                    antennas=tuple(climb.evidence.antennas),
                    focus_id=climb.aims.focus_id,
                    sensitivity_dbm=far.sensitivity_dbm if far else None,
                ),
                760,
                340,
            ),
        )
    return Chapter(
        "field",
        "Field",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        pictures,
        tuple(tables),
        _figures(("", finding.headline), ("", group.fit.exponent if group and group.fit else None)),
    )


def _link(climb: Climb) -> Chapter | None:
    finding = climb.link
    if finding.predicted is None:
        return None
    rows = tuple(
        (
            m.antenna.name,
            m.figure.text,
            show.chance_in_words(m.chance),
            m.reach.text if m.reach else "can’t be told",
            m.back.text if m.back else "not noted",
            m.basis,
        )
        for m in finding.margins
    )
    picture = FanPicture(
        finding=finding, focus_id=climb.aims.focus_id, wanted=climb.field.wanted.name if climb.field.wanted else ""
    )
    return Chapter(
        "link",
        "Link",
        finding.sentence,
        finding.detail,
        tuple(check_words(c) for c in finding.checks),
        (("fan", picture, 760, 350),),
        (Table(("Antenna", "Margin", "Heard", "Range", "Way back", "By"), rows),),
        _figures(("", finding.budget), ("", finding.residual)),
    )
