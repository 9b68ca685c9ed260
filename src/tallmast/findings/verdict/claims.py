"""What became of every claim."""

from __future__ import annotations

from tallmast.notebook.evidence import Evidence
from tallmast.physics.decibels import power_db
from tallmast.physics.propagation import range_ratio
from tallmast.units import show

from ..bench import BenchFinding
from ..field import FieldFinding
from ..figure import Figure, Mark
from ..gain import GainEvidence
from ..link import LinkFinding
from ..pattern import PatternFinding
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
                full = evidence.home_end.most_w if evidence.home_end else None
                if margin is not None and margin.basis != "free space only" and reach is None:
                    why = f"How far it reaches can’t be told: {margin.no_reach}."
                if (
                    margin is not None
                    and margin.basis != "free space only"
                    and full
                    and reach is not None
                    and fit is not None
                ):
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
