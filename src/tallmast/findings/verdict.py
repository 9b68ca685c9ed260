"""Verdict: which antenna, how sure, by how much, and does the maker's claim hold."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Claim
from tallmast.physics.decibels import power_db
from tallmast.physics.propagation import range_ratio
from tallmast.units import show

from .aims import Aims
from .bench import BenchFinding
from .chance import chances_of
from .field import FieldFinding
from .field.words import pair_words
from .figure import Check, Figure, Finding, Mark, Standing
from .gain import GainEvidence
from .levels.compare import Compared
from .link import LinkFinding, Margin
from .pattern import PatternFinding
from .shelf import ClaimMark, ShelfFinding, claim_mark, claim_words, claimed_gain_dbi


@dataclass(frozen=True, eq=False, repr=False)
class ClaimFate:
    """What became of a claim."""

    claim: Claim
    antenna: Antenna
    words: str
    mark: ClaimMark
    against: str
    """What stands against or for it, short."""
    why: str
    figure: Figure | None = None


@dataclass(frozen=True, eq=False, repr=False)
class Ranked:
    """One antenna in the order of merit."""

    antenna: Antenna
    margin: Margin | None
    chance_of_best: float | None
    gain: GainEvidence
    match: Figure | None
    match_mark: Mark
    weakest: Figure | None


@dataclass(frozen=True, eq=False, repr=False)
class VerdictFinding(Finding):
    ranked: tuple[Ranked, ...] = ()
    claims: tuple[ClaimFate, ...] = ()
    changes: tuple[str, ...] = ()
    """What would change the verdict, cheapest first."""
    lamp: bool = False


def judge_claims(
    evidence: Evidence,
    shelf: ShelfFinding,
    bench: BenchFinding,
    pattern: PatternFinding,
    field: FieldFinding,
    link: LinkFinding,
    gains: dict[str, GainEvidence],
) -> tuple[ClaimFate, ...]:
    """Every claim: holds, fails, impossible as stated, or not shown yet."""
    fates = []
    for row in shelf.rows:
        antenna = row.antenna
        at_bench = next((b for b in bench.antennas if b.antenna.id == antenna.id), None)
        for paper in row.claims:
            claim = paper.claim
            mark: Mark = "open"
            figure: Figure | None = None
            why = "Nothing measured speaks to it yet."
            if claim.quantity == "gain":
                figure = gains[antenna.id].combined
                if figure is not None:
                    low, high = figure.interval
                    claimed = claimed_gain_dbi(claim)
                    mark = "fails" if high < claimed else "holds" if low >= claimed - 0.5 else "open"
                    why = f"Measured {figure.text} against {claimed:g} dBi claimed."
            elif judged := next((c for c in at_bench.claims if c.claim.id == claim.id), None) if at_bench else None:
                figure, mark, why = judged.figure, judged.mark, judged.why
            elif claim.quantity == "beamwidth":
                mine = pattern.of(antenna.id)
                cut = mine.cut("azimuth") if mine else None
                if cut and cut.beamwidth:
                    figure = cut.beamwidth
                    low, high = figure.interval
                    slack = 0.1 * claim.value
                    mark = "holds" if low - slack <= claim.value <= high + slack else "fails"
                    why = f"Measured {figure.text}; a tenth of slack is given."
            elif claim.quantity == "range":
                margin = next((m for m in link.margins if m.antenna.id == antenna.id), None)
                reach = margin.reach if margin is not None else None
                fit = field.main.fit if field.main else None
                if margin is not None and margin.basis != "free space only" and reach is None:
                    why = f"How far it reaches can’t be told: {margin.no_reach}."
                if (
                    margin is not None
                    and margin.basis != "free space only"
                    and evidence.chain
                    and reach is not None
                    and fit is not None
                ):
                    full = evidence.chain.full_power_w or evidence.chain.power_w
                    power = claim.at_power_w or full
                    scale = range_ratio(float(power_db(power / full)), fit.exponent.value)
                    low, high = (edge * scale for edge in reach.interval)
                    figure = Figure(
                        "range", reach.value * scale, reach.u * scale, "km", reach.working, low=low, high=high, digits=1
                    )
                    mark = "fails" if high * 1e3 < claim.value else "holds" if low * 1e3 >= claim.value else "open"
                    why = f"On this path {show.power(power)} reaches {figure.text}, {margin.basis}."
            fate = claim_mark(paper.impossible, mark)
            if paper.impossible:
                why = f"{paper.why} {why}" if figure else paper.why
            against = figure.text if figure else "impossible" if paper.impossible else "not shown yet"
            fates.append(ClaimFate(claim, antenna, claim_words(claim), fate, against, why, figure or paper.limit))
    return tuple(fates)


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
) -> VerdictFinding:
    """The Verdict: as much of it as the evidence allows; `compared`: what was read in turn."""
    in_turn = _in_turn(compared)
    if (evidence.question is None or not evidence.antennas) and in_turn is not None:
        return VerdictFinding(*in_turn[:2], Standing("some", "read in turn"), headline=in_turn[2])
    if evidence.question is None or not evidence.antennas:
        return VerdictFinding(
            "No verdict yet.",
            "The Verdict answers the question in one sentence, with its ±. It starts with a question and two antennas.",
            Standing("nothing", "nothing to judge yet"),
        )
    claims = judge_claims(evidence, shelf, bench, pattern, field, link, gains)
    candidates = [a for a in evidence.antennas if a.known_gain_dbi is None] or list(evidence.antennas)
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
    changes = _changes(evidence, ranked, bench, field, gains, chances)
    sentence, detail, headline, lamp = _sentence(evidence, ranked, rankable, chances, bench, field, in_turn)
    if in_turn is not None and headline is not in_turn[2]:
        detail += f" Read in turn, {in_turn[0][:1].lower()}{in_turn[0][1:]}"
    checks = _checks(claims, ranked)
    placed = len(rankable)
    total = len(candidates)
    if not lamp:
        any_evidence = in_turn is not None or any(f.standing.mark != "nothing" for f in (bench, pattern, field))
        standing = Standing(
            "some" if any_evidence else "nothing", "evidence, no ranking" if any_evidence else "nothing measured yet"
        )
    else:
        quarrel = any(g.agreement == "disagrees" for g in gains.values())
        words = f"all {total} ranked" if placed == total and total > 1 else f"{placed} of {total} ranked"
        standing = Standing("disagreement" if quarrel else "done", words)
    return VerdictFinding(
        sentence, detail, standing, tuple(checks), headline, tuple(ranked), claims, tuple(changes), lamp
    )


SURE = 0.9
"""A chance from which on one is spoken of as the best."""


def _in_turn(compared: Sequence[Compared]) -> tuple[str, str, Figure] | None:
    """What was read in turn, in one sentence; None where nothing was."""
    newest = list({c.comparison.what.lower(): c for c in compared}.values())
    if not newest:
        return None
    told = []
    for c in newest:
        low, high = c.difference.interval
        none = "no difference told, " if low <= 0 <= high else ""
        told.append(f"{c.comparison.what}: {c.difference.name} {none}{c.difference.text}")
    left = [c.check.text for c in newest if c.check is not None and c.check.mark != "holds"]
    detail = (
        f"Mind: {'; '.join(left)}."
        if left
        else "Read in turn at one place: it says nothing of another place or direction."
    )
    return f"{show.upper_first('; '.join(told))}.", detail, newest[-1].difference


def _by_margin(
    rankable: list[Margin], chances: dict[str, float], bench: BenchFinding, field: FieldFinding
) -> tuple[str, str, Figure]:
    """The best of those with a margin: does it reach, how sure is it the best, and would a cheaper one do."""
    home = field.home.name if field.home else "the mast"
    wanted = field.wanted.name if field.wanted else "the wanted place"
    best = max(rankable, key=lambda m: m.figure.value)
    name, figure = best.antenna.name, best.figure
    low, high = figure.interval
    times = show.chance_in_words(best.chance)
    if low > 0:
        sentence = f"Put {name} on {home}: it reaches {wanted} with {figure.text} to spare, {times}."
    elif high < 0:
        sentence = f"None of them reaches {wanted} from {home}: {name} comes nearest and is {show.plus_minus(-figure.value, figure.half, 'dB')} short."
        if len(rankable) == 1:
            sentence = f"{name} does not reach {wanted} from {home}: it is {show.plus_minus(-figure.value, figure.half, 'dB')} short."
    else:
        sentence = f"{name} is the best bet for {wanted}, but its margin of {figure.text} leaves it open."
    if len(rankable) > 1:
        chance = chances[best.antenna.id]
        detail = f"Chance that it is the best of the {show.SMALL_COUNTS[len(rankable)] if len(rankable) <= 10 else len(rankable)} there: {show.percent(chance)}."
        second = sorted(rankable, key=lambda m: -m.figure.value)[1]
        if chance > SURE and figure.value - second.figure.value < figure.half:
            detail += " Most of a margin’s ± is the path’s, the same for all of them."
        cheap, dear = second.antenna.price, best.antenna.price
        if second.figure.interval[0] > 0:
            detail += f" {second.antenna.name} would reach too, with {second.figure.text}"
            detail += (
                f", at {cheap:g} instead of {dear:g}."
                if cheap is not None and dear is not None and cheap < dear
                else "."
            )
    else:
        detail = "Only one antenna has been measured over the path; there is nothing to rank it against yet."
    at_bench = next((b for b in bench.antennas if b.antenna.id == best.antenna.id), None)
    if at_bench and at_bench.limit_mark == "fails" and at_bench.worst:
        detail += f" Mind its match: {at_bench.worst.text} in the band."
    return sentence, detail, figure


def _sentence(
    evidence: Evidence,
    ranked: list[Ranked],
    rankable: list[Margin],
    chances: dict[str, float],
    bench: BenchFinding,
    field: FieldFinding,
    in_turn: tuple[str, str, Figure] | None,
) -> tuple[str, str, Figure | None, bool]:
    measured = [r for r in ranked if r.gain.combined and r.antenna.known_gain_dbi is None]
    nothing_else = not (rankable or measured or field.contrasts)
    if in_turn is not None and nothing_else:
        return *in_turn, False
    if rankable:
        return *_by_margin(rankable, chances, bench, field), True
    if measured:
        best_gain = max(measured, key=lambda r: r.gain.combined.value if r.gain.combined else 0.0)
        assert best_gain.gain.combined is not None
        sentence = f"{best_gain.antenna.name} has the most gain of those measured, {best_gain.gain.combined.text}."
        return (
            sentence,
            "Whether that reaches is not shown yet: it takes a far end, a place and a field run.",
            best_gain.gain.combined,
            False,
        )
    group = field.main
    pair = group.best_pair() if group else None
    if group and pair:
        figure = group.differences[pair]
        return (
            pair_words(figure, (group.names[pair[0]], group.names[pair[1]])),
            "Whether that is enough is not shown yet: note the power, the far end and the place to reach.",
            figure,
            False,
        )
    if field.contrasts:
        return (
            field.sentence,
            "How far it goes with your power and pads is not shown yet: note them, the far end and the place to reach.",
            field.headline,
            False,
        )
    matched = [b for b in bench.antennas if b.worst]
    if matched:
        good = [b.antenna.name for b in matched if b.limit_mark == "holds"]
        if good:
            verb = "holds" if len(good) == 1 else "hold"
            first = f"{show.join(good)} {verb} the SWR limit; that alone doesn't make a good antenna."
        else:
            first = "No antenna has been shown to hold the SWR limit yet."
        return (
            first,
            "A dummy load has SWR 1. A field run or a pattern cut says which antenna radiates.",
            matched[0].worst,
            False,
        )
    return (
        "No verdict yet: nothing has been measured.",
        "Start on the Bench or in the Field, whichever you trust.",
        None,
        False,
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


def _changes(
    evidence: Evidence,
    ranked: list[Ranked],
    bench: BenchFinding,
    field: FieldFinding,
    gains: dict[str, GainEvidence],
    chances: dict[str, float],
) -> list[str]:
    """The cheapest next measurements: at the desk, on the bench, then outdoors."""
    out: list[str] = []
    for fix in field.places:
        if fix.typed_m is not None and abs(fix.typed_m - fix.distance.value) > 0.1 * fix.distance.value:
            out.append(
                f"Correct the typed distance of {fix.place.name}: the fixes say {show.distance(fix.distance.value)}."
            )
    for b in bench.antennas:
        if any(m.mark == "disagrees" for m in b.meters):
            out.append(f"Meter and analyzer differ on {b.antenna.name}: read both again on one fixture.")
        if b.worst is None and b.antenna.known_gain_dbi is None:
            out.append(f"Sweep {b.antenna.name}: its match is not known.")
        elif b.limit_mark == "fails" and b.advice:
            out.append(f"{b.antenna.name}: {b.advice}.")
    group = field.main
    for r in ranked:
        if r.antenna.known_gain_dbi is not None:
            continue
        if r.gain.agreement == "disagrees":
            ways = show.join([way for way, _ in r.gain.measured])
            out.append(f"{r.antenna.name}: {ways} disagree. Repeat the cheaper one, nothing else changed.")
        if group and group.fit and group.walked(r.antenna.id) is None:
            out.append(f"{r.antenna.name} was never run over the path: one run would replace a forecast by a reading.")
    taken = sorted(chances.values(), reverse=True)
    if taken and taken[0] < 0.9:
        out.append("The first two are close: one more run of each, in swapped order, would part them.")
    if group and group.spread.assumed and group.differences:
        out.append("No antenna was run twice: repeat one run to see how far repeats differ.")
    if not field.rows and evidence.antennas:
        out.append("No field run yet: same place, path and power, one antenna after the other, then back again.")
    if field.wanted is None:
        out.append("Say which place is to be reached, and give its position.")
    elif field.rows and not any(p.place.id == field.wanted.id and any(r.heard for r in p.away) for p in field.reports):
        out.append(f"Nobody has listened at {field.wanted.name} itself at full power: a visit would test the forecast.")
    return out[:7]
