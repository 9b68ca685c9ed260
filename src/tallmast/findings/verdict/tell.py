"""The Verdict's finding."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna

from ..aims import subject
from ..bench import BandBench, BenchFinding
from ..chance import chances_of
from ..field import FieldFinding
from ..figure import Check, Mark, Standing
from ..gain import GainEvidence
from ..levels.compare import Compared
from ..link import RECKONED, LinkFinding, Margin
from ..pattern import PatternFinding
from ..shelf import ShelfFinding
from .answers import answer, unasked
from .finding import Answer, ClaimFate, Known, Ranked, VerdictFinding
from .next import changes_of
from .soundness import candidates_of
from .turns import in_turn


def find(
    evidence: Evidence,
    shelf: ShelfFinding,
    bench: BenchFinding,
    pattern: PatternFinding,
    field: FieldFinding,
    link: LinkFinding,
    gains: dict[str, GainEvidence],
    claims: tuple[ClaimFate, ...] = (),
    compared: Sequence[Compared] = (),
    bands: Sequence[BandBench] = (),
) -> VerdictFinding:
    """The Verdict: as much of it as the evidence allows; `compared`: what was read in turn."""
    candidates = candidates_of(evidence)
    rankable = _rankable(candidates, link, gains)
    chances = chances_of(rankable, field, gains) if len(rankable) > 1 else {}
    ranked = _ranked(evidence, bench, pattern, link, gains, chances)
    known = Known(
        evidence,
        subject(evidence),
        shelf,
        bench,
        pattern,
        field,
        link,
        gains,
        compared,
        claims,
        tuple(ranked),
        tuple(rankable),
        chances,
        bands,
    )
    turns = in_turn(compared)
    if evidence.question is None or not evidence.antennas:
        return _not_asked(known, turns)
    told = answer(known)
    return VerdictFinding(
        told.sentence,
        told.detail,
        _standing(known, len(candidates), turns is not None),
        tuple(_checks(claims, ranked)),
        told.headline,
        known.ranked,
        claims,
        changes_of(known),
        told.lamp,
    )


def _not_asked(known: Known, turns: Answer | None) -> VerdictFinding:
    """Without a question, or an antenna: what was found, and what a question would add."""
    if turns is not None:
        return VerdictFinding(turns.sentence, turns.detail, Standing("some", "read in turn"), headline=turns.headline)
    found = unasked(known)
    if found is not None:
        asked = "Nobody has asked a question yet: with its band, its limit and the place to be reached (Q) more can be said."
        return VerdictFinding(found.sentence, asked, Standing("some", "no question yet"), headline=found.headline)
    return VerdictFinding(
        "No verdict yet.",
        "The Verdict answers the question in one sentence, with its ±. It starts with a question and two antennas.",
        Standing("nothing", "nothing to judge yet"),
    )


def _rankable(candidates: Sequence[Antenna], link: LinkFinding, gains: dict[str, GainEvidence]) -> list[Margin]:
    """An antenna of which nothing is known has a margin on paper, and no place in a ranking."""
    margins = {m.antenna.id: m for m in link.margins}
    mine = [margins[a.id] for a in candidates if a.id in margins]
    shown = [m for m in mine if m.basis == "measured" or not gains[m.antenna.id].guessed]
    placed = [m for m in shown if m.basis not in RECKONED]
    return placed or [m for m in mine if gains[m.antenna.id].combined]


def _ranked(
    evidence: Evidence,
    bench: BenchFinding,
    pattern: PatternFinding,
    link: LinkFinding,
    gains: dict[str, GainEvidence],
    chances: dict[str, float],
) -> list[Ranked]:
    """Every antenna with what is known of it, the greatest margin first, references last."""
    margins = {m.antenna.id: m for m in link.margins}
    out = []
    for antenna in evidence.antennas:
        at_bench = next((b for b in bench.antennas if b.antenna.id == antenna.id), None)
        mine = pattern.of(antenna.id)
        cut = mine.cut("azimuth") or mine.cut("elevation") if mine else None
        out.append(
            Ranked(
                antenna,
                margins.get(antenna.id),
                chances.get(antenna.id),
                gains[antenna.id],
                at_bench.worst if at_bench else None,
                at_bench.limit_mark if at_bench else "open",
                cut.sector if cut else None,
            )
        )
    return sorted(
        out, key=lambda r: (r.antenna.known_gain_dbi is not None, -(r.margin.figure.value if r.margin else -999.0))
    )


def _standing(known: Known, total: int, in_turn: bool) -> Standing:
    """How far the ranking has come; where there is none, what there is instead."""
    placed = len(known.rankable)
    if placed:
        quarrel = any(g.agreement == "disagrees" for g in known.gains.values())
        words = f"all {total} ranked" if placed == total and total > 1 else f"{placed} of {total} ranked"
        return Standing("disagreement" if quarrel else "done", words)
    if known.field.contrasts:
        return Standing("some", "compared, no margin")
    if in_turn or any(f.standing.mark != "nothing" for f in (known.bench, known.pattern, known.field)):
        return Standing("some", "evidence, no ranking")
    return Standing("nothing", "nothing measured yet")


def _checks(claims: tuple[ClaimFate, ...], ranked: list[Ranked]) -> list[Check]:
    checks = []
    for mark, word in (("impossible", "impossible"), ("fails", "fails"), ("holds", "holds"), ("open", "not shown yet")):
        fates = [f for f in claims if f.mark == mark]
        if fates:
            noun = "claim" if len(fates) == 1 else "claims"
            verb = {
                "fails": "fails" if len(fates) == 1 else "fail",
                "holds": "holds" if len(fates) == 1 else "hold",
            }.get(word, word)
            as_mark: Mark = "fails" if mark in ("impossible", "fails") else "holds" if mark == "holds" else "open"
            why = " ".join(f"{f.antenna.name}: {f.words}." for f in fates)
            checks.append(Check(as_mark, f"{len(fates)} {noun} {verb}", fates[0].figure, why))
    for r in ranked:
        if r.gain.agreement == "disagrees":
            checks.append(Check("disagrees", f"{r.antenna.name}: {r.gain.agreement_words}", r.gain.combined))
    return checks
