"""What became of every claim."""

from __future__ import annotations

import math
from collections.abc import Sequence

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Claim
from tallmast.physics import reach
from tallmast.physics.decibels import power_db
from tallmast.physics.propagation import range_ratio
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..bench import BenchFinding
from ..field import FieldFinding
from ..field.finding import Reach
from ..field.reaches import failed_of
from ..figure import Figure, Mark, Working
from ..gain import GainEvidence
from ..levels.compare import Compared
from ..link import RECKONED, LinkFinding
from ..pattern import PatternFinding, fate_of
from ..shelf import ShelfFinding, claim_mark, claim_words, claimed_gain_dbi
from .finding import ClaimFate


def judge_claims(
    evidence: Evidence,
    shelf: ShelfFinding,
    bench: BenchFinding,
    pattern: PatternFinding,
    field: FieldFinding,
    link: LinkFinding,
    gains: dict[str, GainEvidence],
    compared: Sequence[Compared] = (),
) -> tuple[ClaimFate, ...]:
    """Every claim: holds, fails, impossible as stated, or not shown yet."""
    fates = []
    for row in shelf.rows:
        antenna = row.antenna
        at_bench = next((b for b in bench.antennas if b.antenna.id == antenna.id), None)
        for paper in row.claims:
            claim = paper.claim
            judged = next((c for c in at_bench.claims if c.claim.id == claim.id), None) if at_bench else None
            if claim.quantity == "gain":
                known = gains[antenna.id].combined
                found = (
                    _gain(claim, known)
                    if known is not None
                    else _gain_over_another(claim, antenna, evidence, field, compared)
                )
            elif judged is not None:
                found = (judged.figure, judged.mark, judged.why)
            elif claim.quantity == "beamwidth":
                found = _beamwidth(claim, pattern)
            elif claim.quantity == "axial ratio":
                found = _axial_ratio(claim, pattern)
            elif claim.quantity == "range":
                found = _range(claim, evidence, field, link) or _range_by_reach(claim, evidence, field) or NOTHING
            else:
                found = NOTHING
            figure, mark, why = found
            fate = claim_mark(paper.impossible, mark)
            if paper.impossible:
                why = f"{paper.why} {why}" if figure else paper.why
            against = figure.text if figure else "impossible" if paper.impossible else "not shown yet"
            fates.append(ClaimFate(claim, antenna, claim_words(claim), fate, against, why, figure or paper.limit))
    return tuple(fates)


Found = tuple[Figure | None, Mark, str]
"""What was measured of a claim, what became of it, and why."""
NOTHING: Found = (None, "open", "Nothing measured speaks to it yet.")
GAIN_SLACK_DB = 0.5
"""No maker's gain is meant closer than this."""
RIPPLE_DB = 1.0
"""Standard uncertainty by which a way is lost early, in a dip of the ground's reflection, that at another power is none."""
EXPONENTS = (2.0, 4.0)
"""Between free space and plane earth lies what another power is worth over ground of which no levels were read."""


def _gain(claim: Claim, figure: Figure | None) -> Found:
    if figure is None:
        return NOTHING
    claimed = claimed_gain_dbi(claim)
    return figure, _held(figure, claimed), f"Measured {figure.text} against {claimed:g} dBi claimed."


def _gain_over_another(
    claim: Claim, antenna: Antenna, evidence: Evidence, field: FieldFinding, compared: Sequence[Compared]
) -> Found:
    """A claim over nothing that is named, where no gain is known: by what the antenna has over another one, on the path or read in turn
    under its name."""
    if claim.reference in ("dBi", "dBd"):
        return NOTHING
    others = [other for other in evidence.antennas if other.id != antenna.id]
    over = [field.difference(antenna.id, other.id) for other in others]
    over += [one.over(antenna.name) for one in compared]
    told = [figure for figure in over if figure is not None]
    if not told:
        return NOTHING
    figure = min(told, key=lambda one: one.u)
    words = f"Claimed over nothing that is named; measured, {figure.name}: {figure.text}."
    return figure, _held(figure, claim.value), words


def _held(figure: Figure, claimed: float) -> Mark:
    low, high = figure.interval
    return "fails" if high < claimed else "holds" if low >= claimed - GAIN_SLACK_DB else "open"


def _beamwidth(claim: Claim, pattern: PatternFinding) -> Found:
    """Round the horizon, and up and over where the claim names both and both were cut; the one that fails speaks."""
    mine = pattern.of(claim.antenna_id)
    judged: list[Found] = []
    for plane, claimed in (("azimuth", claim.value), ("elevation", claim.second_value)):
        cut = mine.cut(plane) if mine else None
        if cut is None or cut.beamwidth is None or claimed is None:
            continue
        low, high = cut.beamwidth.interval
        slack = 0.1 * claimed
        mark: Mark = "holds" if low - slack <= claimed <= high + slack else "fails"
        judged.append((cut.beamwidth, mark, f"Measured {cut.beamwidth.text} in {plane}; a tenth of slack is given."))
    return next((found for found in judged if found[1] == "fails"), judged[0] if judged else NOTHING)


def _axial_ratio(claim: Claim, pattern: PatternFinding) -> Found:
    mine = pattern.of(claim.antenna_id)
    read = mine.polarized if mine is not None else None
    if mine is None or read is None or read.axial_ratio is None or read.state_id != mine.antenna.state.id:
        return NOTHING
    return read.axial_ratio, fate_of(claim.value, read.axial_ratio), f"Measured {read.axial_ratio.text} by a probe."


def _range(claim: Claim, evidence: Evidence, field: FieldFinding, link: LinkFinding) -> Found | None:
    """By the margin on the measured path; None where there is none."""
    margin = next((m for m in link.margins if m.antenna.id == claim.antenna_id), None)
    if margin is None or margin.basis in RECKONED:
        return None
    full = evidence.home_end.most_w if evidence.home_end else None
    if not full:
        return None
    power = claim.at_power_w or full
    found = margin.with_more(float(power_db(power / full)))
    if found is None:
        return None, "open", f"How far it reaches can’t be told: {margin.falls.trouble}."
    figure = found.figure
    low, high = figure.interval
    mark: Mark = "fails" if high * 1e3 < claim.value else "holds" if low * 1e3 >= claim.value else "open"
    return figure, mark, f"On this path {show.power(power)} reaches {found.text}, {margin.basis}."


def _range_by_reach(claim: Claim, evidence: Evidence, field: FieldFinding) -> Found | None:
    """By how far it was heard, on the best of its days; at another power or with the pads out by n from 2 to 4."""
    home = evidence.home_end
    by_setting: dict[tuple[str, ...], list[Reach]] = {}
    for one in field.reaches:
        if one.row.run.antenna_id == claim.antenna_id:
            key = (f"{one.row.run.power_w}", f"{one.row.run.pad_db}", one.row.run.manner, *one.row.setting.values())
            by_setting.setdefault(key, []).append(one)
    told = [(runs, reach.distance([failed_of(one) for one in runs])) for runs in by_setting.values()]
    best = max(((runs, d) for runs, d in told if d is not None), key=lambda both: both[1].log10, default=None)
    if best is None:
        return None
    runs, at = best
    run = runs[0].row.run
    if claim.at_power_w and not run.power_w:
        heard = show.distance(10**at.log10)
        why = (
            f"It was heard to {heard}, at a power that nobody noted: note it in the run, to hold it against the claim."
        )
        return None, "open", why
    power = claim.at_power_w or (home.most_w if home else None) or run.power_w
    change = (float(power_db(power / run.power_w)) if power and run.power_w else 0.0) + run.pad_db
    k, ripple = coverage_factor(at.degrees), RIPPLE_DB if change else 0.0
    (low, n_low), (high, n_high) = sorted((range_ratio(change, n), n) for n in EXPONENTS)
    ratios = low, high
    middle = 10**at.log10 / 1e3
    value = middle * math.sqrt(low * high)
    low *= middle / 10 ** (k * math.hypot(at.u, ripple / (10.0 * n_low)))
    high *= middle * 10 ** (k * math.hypot(at.u, ripple / (10.0 * n_high)))
    sent = f" with {show.power(run.power_w)}" if run.power_w else ""
    sent += f" through {run.pad_db:g} dB" if run.pad_db else ""
    best_of = f", the best of {show.count(len(told), 'setting')}" if len(told) > 1 else ""
    to = f" at {show.power(power)}" if power and run.power_w else ""
    lines = (
        f"heard to {show.distance(10**at.log10)}{sent}, {show.count(len(runs), 'run')}{best_of}",
        f"{show.plus(change, 1)} dB{to}{' without pads' if run.pad_db else ''}" if change else "nothing else changed",
        f"times {show.fixed(ratios[0], 2)} to {show.fixed(ratios[1], 2)} for n from 4 to 2",
    )
    source = "log d at which it failed; Rec. ITU-R P.525 (n = 2), plane earth (n = 4)"
    meaning = "A way over other ground ends elsewhere; trees and ridges end it sooner."
    parts = [("run to run, and between good and lost", f"{at.u:.2f} in log₁₀ d")]
    parts += [("dips and crests of the ground’s reflection", show.decibel(ripple))] if ripple else []
    working = Working(lines, tuple(parts), source, meaning)
    figure = Figure(
        "range",
        value,
        value * (10**at.u - 1.0),
        "km",
        working,
        at.degrees,
        bound="at least" if at.bound == "at least" else "",
        low=low,
        high=high,
        digits=2,
    )
    mark: Mark = "holds" if low * 1e3 >= claim.value else "open"
    if not figure.bound and high * 1e3 < claim.value:
        mark = "fails"
    stands = f" at {show.power(power)}" if power and run.power_w else ""
    return (
        figure,
        mark,
        f"By how far it was heard{stands}: {figure.text}, against {show.distance(claim.value)} claimed.",
    )
