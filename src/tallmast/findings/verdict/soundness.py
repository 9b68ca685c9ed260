"""Whether an antenna is sound: whatever fails of it on any rung first, then what disagrees, then what holds."""

from __future__ import annotations

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna
from tallmast.units import show

from ..field.model.contrasts import Contrast
from ..field.runs import ANTENNA
from ..field.words import antennas_of, contrast_words
from ..figure import Check, Figure
from .finding import Answer, ClaimFate, Known


class Soundness(Frozen):
    """What is to be said of one antenna; `grade`: 0 it fails, 1 it may, 2 nothing speaks against it."""

    grade: int
    sentence: str
    detail: str
    figure: Figure | None
    settled: bool
    """Whether it answers the question."""


def candidates_of(evidence: Evidence) -> list[Antenna]:
    """What is judged: neither the far end's antenna nor, where there are others, a reference."""
    at_far = evidence.far_end.antenna_id if evidence.far_end is not None else ""
    here = [a for a in evidence.antennas if a.id != at_far]
    return [a for a in here if a.known_gain_dbi is None] or here


def by_soundness(known: Known) -> Answer | None:
    """Of the antenna that is asked about; of all, where none is: the worst in the sentence, the others beside it."""
    asked = [known.subject] if known.subject is not None else candidates_of(known.evidence)
    told = sorted((s for a in asked if (s := _of(known, a)) is not None), key=lambda s: s.grade)
    if not told:
        return None
    first, *others = told
    detail = " ".join(filter(None, (first.detail, *(s.sentence for s in others))))
    return Answer(first.sentence, detail, first.figure, lamp=first.settled)


def _of(known: Known, antenna: Antenna) -> Soundness | None:
    """None where nothing is known of it."""
    name = antenna.name
    at_bench = next((b for b in known.bench.antennas if b.antenna.id == antenna.id), None)
    worst = at_bench.worst if at_bench else None
    behind = _behind(known, antenna)
    rungs = (known.bench, known.shelf, known.pattern, known.link)
    checks = [check for rung in rungs for check in rung.faults.get(antenna.id, ())]
    claims = [f"its claim of {f.words} fails: {f.against}" for f in _failed_claims(known, antenna)]
    told = contrast_words(behind, known.field.names) if behind is not None else ""
    match = at_bench.match_words if at_bench is not None and worst is not None else "its match not measured"
    off = at_bench is not None and at_bench.limit_mark == "fails"
    fails = [c for c in checks if c.mark == "fails" and not (off and c.figure is worst)]
    doubts = [c for c in checks if c.mark == "disagrees"]
    rest = [*(f"{show.upper_first(c.text)}." for c in fails), told, *(f"{show.upper_first(c)}." for c in claims)]
    mind = f"Mind: {'; '.join(c.text for c in doubts)}." if doubts else ""
    bands = _in_bands(known, antenna)
    if bands is not None:
        return Soundness(0, bands.sentence, _joined(bands.detail, *rest, mind), bands.headline, True)
    if off and at_bench is not None:
        advice = f" {show.upper_first(at_bench.advice)}." if at_bench.advice else ""
        missed = f"It misses the limit.{advice}"
        return Soundness(0, f"{name} is not sound in this band: {match}.", _joined(missed, *rest, mind), worst, True)
    if fails:
        first = fails[0]
        more = _joined(first.why, *rest[1:], f"{show.upper_first(match)}.", mind)
        return Soundness(0, f"{name} is not sound: {_without(name, first)}.", more, first.figure, True)
    if behind is not None and antennas_of(behind)[0] != antenna.id and not behind.open:
        sentence = f"{name} may not be sound: {match}, and it is heard worse. {told}"
        return Soundness(1, sentence, _joined(*rest[1:], mind), behind.figure, True)
    if claims:
        return Soundness(
            1,
            f"{name} misses what is claimed: {claims[0]}.",
            _joined(f"{show.upper_first(match)}.", *rest[1:], mind),
            worst,
            True,
        )
    quarrels = [c for c in doubts if c.figure is not None and c.figure is not worst]
    if quarrels:
        first = quarrels[0]
        more = _joined(
            first.why,
            f"{show.upper_first(match)}.",
            told,
            f"Mind: {'; '.join(c.text for c in doubts if c is not first)}." if len(doubts) > 1 else "",
        )
        return Soundness(1, f"{name} may not be sound: {_without(name, first)}.", more, first.figure, False)
    if worst is None and behind is None and not mind:
        return None
    if behind is not None and worst is not None:
        return Soundness(2, f"{name} is sound as far as it was measured: {match}. {told}", mind, worst, True)
    alone = (
        "A dummy load has SWR 1: how it is heard beside a check antenna is not shown yet." if worst is not None else ""
    )
    figure = worst or (behind.figure if behind else None)
    return Soundness(2, f"{name} shows no fault so far: {match}.", _joined(mind, alone), figure, False)


def _joined(*parts: str) -> str:
    return " ".join(filter(None, parts))


def _without(name: str, check: Check) -> str:
    """A check's words behind the name of what it is about."""
    return check.text.removeprefix(f"{name}: ")


def _failed_claims(known: Known, antenna: Antenna) -> list[ClaimFate]:
    return [f for f in known.claims if f.antenna.id == antenna.id and f.mark in ("fails", "impossible")]


def _in_bands(known: Known, antenna: Antenna) -> Answer | None:
    """Where there are several bands and it fails in some: in which, by how much, and in which it holds."""
    told = [(b.band, a) for b in known.bands for a in b.antennas if a.antenna.id == antenna.id]
    fails = [(show.band(band.low_hz, band.high_hz), a) for band, a in told if a.mark == "fails"]
    holds = [show.band(band.low_hz, band.high_hz) for band, a in told if a.mark == "holds"]
    if not fails:
        return None
    where = "; ".join(f"in {band} its SWR is {a.worst.text}" for band, a in fails if a.worst)
    tail = f"; it holds in {show.join(holds)}" if holds else ""
    claims = [f"{band}: {a.claim}" for band, a in fails if a.claim]
    return Answer(
        f"{antenna.name} misses the limit: {where}{tail}.",
        "; ".join(claims) + "." if claims else "",
        fails[0][1].worst,
        lamp=True,
    )


def _behind(known: Known, antenna: Antenna) -> Contrast | None:
    """The antenna over a reference; over whichever it was compared with, where it alone is asked about: that one of several is heard
    worse than another is no fault."""
    levels = [c for c in known.field.contrasts if c.change.factor == ANTENNA and len(c.changes) == 1]
    mine = [c for c in levels if antenna.id in antennas_of(c)]
    references = {a.id for a in known.evidence.antennas if a.known_gain_dbi is not None}
    over = [c for c in mine if set(antennas_of(c)) - {antenna.id} <= references]
    return next(iter(over or (mine if known.subject is not None else ())), None)
