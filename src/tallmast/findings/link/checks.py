"""What the Link checks: fit and fall, margins that are too good, the way back, and what was heard at the very place."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from tallmast.notebook.evidence import Evidence
from tallmast.physics.decibels import dbm_from_watt
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..field import FieldFinding
from ..field.path import PathFit
from ..figure import Check
from ..rails import MOST_MARGIN_DB, exponent_trouble
from .budget import RECKONED, Ask
from .margin import Margin
from .residual import Residual, fit_check

OPTIMISM_DB = 6.0
"""More than this promised by free space than by the models is named."""


def link_checks(
    ask: Ask, margin: Margin, margins: Sequence[Margin], residual: Residual | None, field: FieldFinding
) -> list[Check]:
    """In the order in which they matter; whatever does not come up is not said."""
    fit = ask.group.fit if ask.group is not None else None
    out = [*_of_the_fall(fit, residual), *_too_good(margins)]
    if margin.back is not None:
        holds = margin.back.interval[0] > 0
        out.append(Check("holds" if holds else "open", f"way back {margin.back.text}", margin.back))
    return [*out, *_heard_there(ask.evidence, margin, field), *_free_space_check(ask, margin)]


def own_checks(ask: Ask, margin: Margin, residual: Residual | None, field: FieldFinding) -> list[Check]:
    """Of one antenna: whether its field fits the physics, and what was heard at the very place."""
    fits = [fit_check(residual)] if residual is not None else []
    return [*fits, *_heard_there(ask.evidence, margin, field)]


def _of_the_fall(fit: PathFit | None, residual: Residual | None) -> Iterator[Check]:
    if residual is not None:
        yield fit_check(residual)
    if fit is not None and exponent_trouble(fit.exponent):
        why = f"{show.upper_first(exponent_trouble(fit.exponent))}."
        yield Check("open", "no range from these places", None, why)
    elif fit is not None and (residual is None or residual.best.falls_alike or not residual.best.at_level):
        low, high = fit.exponent.interval
        if low <= 2 <= high:
            yield Check("holds", "falls as in free space", fit.exponent)
        else:
            how = "slower" if high < 2 else "faster"
            yield Check("open", f"falls {how} than free space, n {fit.exponent.text}", fit.exponent)


def _too_good(margins: Sequence[Margin]) -> Iterator[Check]:
    one = next((m for m in margins if m.figure.value > MOST_MARGIN_DB), None)
    if one is not None:
        why = "More than any path leaves: is the power, a pad or the sensitivity noted in another unit?"
        yield Check("open", f"{one.antenna.name}: {show.plus(one.figure.value, 0)} dB of margin?", one.figure, why)


def _heard_there(evidence: Evidence, margin: Margin, field: FieldFinding) -> Iterator[Check]:
    """What was heard at the wanted place, at whatever power, against what the budget says there."""
    near, wanted = evidence.home_end, field.wanted
    if near is None or wanted is None or field.wanted_distance_m() is None:
        return
    for report in field.reports:
        run = report.run.run
        sent_w, full_w = run.power_w or near.power_w, near.most_w
        mine = report.place.id == wanted.id and run.antenna_id == margin.antenna.id
        if not mine or not report.away or sent_w is None or full_w is None:
            continue
        here = margin.expected.value + dbm_from_watt(sent_w) - dbm_from_watt(full_w) - run.pad_db
        half = margin.expected.half
        expected = f"a margin of {show.plus_minus(here, half, 'dB')} is expected"
        heard = any(reading.heard for reading in report.away)
        if heard and here < -half:
            yield Check("disagrees", f"heard at {report.place.name} though {expected} (run {run.number})")
        elif not heard and here > half:
            yield Check("disagrees", f"not heard at {report.place.name} though {expected} (run {run.number})")


def _free_space_check(ask: Ask, margin: Margin) -> list[Check]:
    """That the straight line of free space, drawn on from the runs, would promise more than the models of the path bear out."""
    path = margin.falls.way.beyond
    if margin.basis in RECKONED or path is None or ask.distance_m <= path.farthest_m:
        return []
    mean, u = path.at_place
    more = path.by_model(ask.distance_m)["free"] - mean
    if more < max(OPTIMISM_DB, coverage_factor(math.inf) * u):
        return []
    place = ask.way.profile.place
    where = place.name if place is not None else show.distance(ask.distance_m)
    why = "The places that were left out were foretold better by other paths: run farther out, or go by the margin."
    return [
        Check("open", f"free space from the runs on would promise {show.decibel(more, 0)} more at {where}", None, why)
    ]
