"""The Verdict's finding."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.notebook.evidence import Evidence

from ..aims import Aims
from ..bench import BandBench, BenchFinding
from ..chance import chances_of
from ..field import FieldFinding
from ..figure import Check, Mark, Standing
from ..gain import GainEvidence
from ..levels.compare import Compared
from ..link import LinkFinding
from ..pattern import PatternFinding
from ..shelf import ShelfFinding
from .answers import answer
from .claims import judge_claims
from .finding import ClaimFate, Known, Ranked, VerdictFinding
from .next import changes_of
from .turns import in_turn


def find(
    evidence: Evidence,
    aims: Aims,
    shelf: ShelfFinding,
    bench: BenchFinding,
    pattern: PatternFinding,
    field: FieldFinding,
    link: LinkFinding,
    gains: dict[str, GainEvidence],
    compared: Sequence[Compared] = (),
    bands: Sequence[BandBench] = (),
) -> VerdictFinding:
    """The Verdict: as much of it as the evidence allows; `compared`: what was read in turn."""
    turns = in_turn(compared)
    if (evidence.question is None or not evidence.antennas) and turns is not None:
        return VerdictFinding(turns.sentence, turns.detail, Standing("some", "read in turn"), headline=turns.headline)
    if evidence.question is None or not evidence.antennas:
        return VerdictFinding(
            "No verdict yet.",
            "The Verdict answers the question in one sentence, with its ±. It starts with a question and two antennas.",
            Standing("nothing", "nothing to judge yet"),
        )
    claims = judge_claims(evidence, shelf, bench, pattern, field, link, gains)
    at_far = evidence.far_end.antenna_id if evidence.far_end is not None else ""
    here = [a for a in evidence.antennas if a.id != at_far]
    candidates = [a for a in here if a.known_gain_dbi is None] or here
    margins = {m.antenna.id: m for m in link.margins}
    # An antenna of which nothing is known has a margin on paper, and no place in a ranking.
    shown = [
        a for a in candidates if a.id in margins and (margins[a.id].basis == "measured" or not gains[a.id].guessed)
    ]
    rankable = [margins[a.id] for a in shown if margins[a.id].basis != "free space only"]
    if not rankable:
        rankable = [margins[a.id] for a in candidates if a.id in margins and gains[a.id].combined]
    chances = chances_of(rankable, field, gains) if len(rankable) > 1 else {}
    ranked = []
    for antenna in evidence.antennas:
        at_bench = next((b for b in bench.antennas if b.antenna.id == antenna.id), None)
        mine = pattern.of(antenna.id)
        cut = mine.cut("azimuth") or mine.cut("elevation") if mine else None
        ranked.append(
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
    ranked.sort(key=lambda r: (r.antenna.known_gain_dbi is not None, -(r.margin.figure.value if r.margin else -999.0)))
    known = Known(
        evidence,
        aims.focus_id,
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
    told = answer(known)
    checks = _checks(claims, ranked)
    placed = len(rankable)
    total = len(candidates)
    if not known.rankable:
        any_evidence = turns is not None or any(f.standing.mark != "nothing" for f in (bench, pattern, field))
        standing = Standing(
            "some" if any_evidence else "nothing", "evidence, no ranking" if any_evidence else "nothing measured yet"
        )
    else:
        quarrel = any(g.agreement == "disagrees" for g in gains.values())
        words = f"all {total} ranked" if placed == total and total > 1 else f"{placed} of {total} ranked"
        standing = Standing("disagreement" if quarrel else "done", words)
    return VerdictFinding(
        told.sentence,
        told.detail,
        standing,
        tuple(checks),
        told.headline,
        known.ranked,
        claims,
        changes_of(known),
        told.lamp,
    )


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
