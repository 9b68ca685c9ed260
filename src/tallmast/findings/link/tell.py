"""Link: does the physics agree with the field, and how far does it reach."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, HomeEnd, Neighbour
from tallmast.physics import propagation
from tallmast.physics.decibels import Floats, dbm_from_watt
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..aims import Aims
from ..far import far_end_of
from ..field import FieldFinding
from ..field.group import Group
from ..field.path import PathFit
from ..field.samples import RunSamples, by_cell
from ..figure import Check, Figure, Finding, Standing, Working, parts_of
from ..gain import GainEvidence
from ..pattern import Mounted
from ..rails import MOST_MARGIN_DB, exponent_trouble
from ..way import Way
from ..way.terrain import heights_of
from ..way.words import steady_checks, taken_figure, way_checks
from .aloft import Aloft, aloft, aloft_checks, aloft_words
from .both_ways import both_ways_words, noise_checks
from .causes import Cause, likeliest, pointed_to
from .coverage import Cover, cover_of
from .how_far import HowFar, equal_bands_words, how_far, options_of
from .margin import ASSUMED_SCATTER_DB, RECKONED, Ask, Margin, fixed_budget, margin_of
from .over_another import OverAnother, over_another
from .residual import Residual, fit_check, fit_words, residual_of, standing_of
from .shared_band import Shared, shared_band, shared_checks
from .trials import Compared, Tried, compared, trial_checks, trial_words, tried
from .worth import Worth, dear_words, worth_of

if TYPE_CHECKING:
    from uncertainties import UFloat

RECKONED_WORDS = {
    "free space only": "this is free space, and a real path takes more.",
    "over the ground": "this is free space less what the way takes as it is noted.",
    "over level ground": "this is over level ground at these heights; what stands on it takes more.",
}
TELLS_FIT_DB = 8.0
"""A comparison with free space that is wider than this says nothing either way."""


OPTIMISM_DB = 6.0
"""More than this promised by free space than by the models is named."""


@dataclass(frozen=True, eq=False, repr=False)
class Drawn:
    """Levels over distance with the settings of the runs that are compared."""

    power_w: float
    pad_db: float
    distance_m: Floats
    free_dbm: Floats
    """Free space, with the half-width of its fan, and plane earth: all [n]."""
    fan_db: Floats
    earth_dbm: Floats
    fitted: tuple[Floats, Floats] | None
    points: tuple[Floats, Floats] | None
    """Distance and level of each place that the focus was heard at."""
    residual: Figure | None
    budget: Figure


@dataclass(frozen=True, eq=False, repr=False)
class LinkFinding(Finding):
    margins: tuple[Margin, ...] = ()
    focus: Antenna | None = None
    drawn: Drawn | None = None
    """None: no budget yet."""
    sensitivity_dbm: float = -110.0
    how_far: HowFar | None = None
    """Of the antenna in focus, with what is tried."""
    worth: tuple[Worth, ...] = ()
    """What would add to the margin of the antenna in focus."""
    shared: tuple[Shared, ...] = ()
    """Every other sender on the band, as each end hears it."""
    way: Way | None = None
    """To the place to be reached."""
    taken: Figure | None = None
    """What it takes over free space."""
    cover: Cover | None = None
    """From which the margin over the ground is worked out."""
    residual: Residual | None = None
    """The field of the antenna in focus against the physics; None where it was not run."""
    causes: tuple[Cause, ...] = ()
    """What would make it so, where they do not fit."""
    flown: tuple[Aloft, ...] = ()
    """What flew away, and where its links were lost."""
    trials: tuple[Tried, ...] = ()
    """What was tried against another sender, and every two of them."""
    pairs: tuple[Compared, ...] = ()
    over: tuple[OverAnother, ...] = ()
    """Every other sender at either end, to be laid over the ground."""


def find(
    evidence: Evidence,
    aims: Aims,
    gains: dict[str, GainEvidence],
    field: FieldFinding,
    way: Way | None,
    mounted: Mapping[str, Mounted],
    others_hz: Sequence[float] = (),
) -> LinkFinding:
    """The Link's finding, told of the antenna in focus; `mounted` says how each stands, `others_hz` are the question’s other bands."""
    question, near, far = evidence.question, evidence.home_end, far_end_of(evidence, gains)
    missing = []
    if question is None or not evidence.antennas:
        missing.append("a question with antennas")
    full_w = near.most_w if near is not None else None
    if full_w is None:
        missing.append("power and pads (rung 3)")
    if far is None:
        missing.append("the far end: its antenna and sensitivity")
    group = field.main
    flown = aloft(evidence, mounted, way.heights if way is not None else heights_of(evidence))
    if way is None:
        missing.append("a place to reach, with its position")
    if question is None or near is None or full_w is None or far is None or way is None or missing:
        return LinkFinding(
            "The budget can't be drawn up yet.",
            " ".join(
                filter(
                    None,
                    (
                        f"Link answers: does the physics agree, and how far does it reach? Still wanted: {show.join(missing)}.",
                        aloft_words(flown),
                    ),
                )
            ),
            Standing("some", "flown, no budget yet") if flown else Standing("nothing", "no budget yet"),
            tuple(aloft_checks(flown)),
            way=way,
            flown=flown,
        )
    tested = _as_run(group, near, full_w)
    options = list(options_of(aims.options, full_w, *tested, way.profile.home_height_m))
    ask = Ask(
        evidence,
        near,
        far,
        gains,
        group,
        way,
        full_w,
        0.0,
        max(o.height_m for o in options),
        mounted,
        field.wanted_bearing_deg(),
    )
    margins = tuple(margin_of(ask, antenna) for antenna in evidence.antennas)
    focus = evidence.antenna(aims.focus_id) or evidence.antennas[0]
    margin = next(m for m in margins if m.antenna.id == focus.id)
    residuals = {a.id: residual_of(ask, a, group, *tested) for a in evidence.antennas}
    mine = residuals.pop(focus.id)
    drawn = _drawn(ask, field, focus, tested, mine)
    pointed = pointed_to(ask, group, mine, [one for one in residuals.values() if one is not None])
    sentence, detail = _words(margin, mine, pointed, way.distance_m, field)
    worth = worth_of(ask, margin, margins)
    trials = tried(ask, focus, margin.falls)
    pairs = compared(trials)
    shared = shared_band(ask, margin, field, pairs)
    cover = cover_of(ask, margin, field.home)
    more = (
        aloft_words(flown),
        trial_words(pairs),
        _would_narrow(margin),
        both_ways_words(ask, margin),
        dear_words(margin, worth),
        *equal_bands_words(question.centre_hz, others_hz, full_w),
    )
    checks = (
        *_checks(evidence, margin, mine, group.fit if group else None, field, margins),
        *way_checks(way.profile),
        *steady_checks(way.profile, margin.there),
        *noise_checks(ask),
        *_free_space_check(ask, margin),
        *shared_checks(shared, evidence.all(Neighbour), far.name),
        *trial_checks(trials, pairs, _breaks_at(shared), focus),
        *aloft_checks(flown),
    )
    return LinkFinding(
        sentence,
        " ".join(filter(None, (detail, *more))),
        standing_of(mine),
        checks,
        margin.there,
        margins,
        focus,
        drawn,
        ask.takes_away.level_dbm,
        how_far(ask, margin, options),
        worth,
        shared,
        way,
        taken_figure(way.profile),
        cover,
        mine,
        pointed,
        flown,
        trials,
        pairs,
        over_another(cover, shared) if cover is not None else (),
    )


def _breaks_at(shared: Sequence[Shared]) -> Figure | None:
    """Where the first neighbour breaks the wanted one at home."""
    return next((one.breaks.at for one in shared if one.breaks is not None), None)


def _as_run(group: Group | None, near: HomeEnd, full_w: float) -> tuple[float, float]:
    """(power, pads) of the runs that are compared; as they would be at full power, where there are none."""
    return (group.power_w or near.power_w or full_w, group.pad_db) if group is not None else (full_w, 0.0)


def _drawn(
    ask: Ask, field: FieldFinding, focus: Antenna, tested: tuple[float, float], residual: Residual | None
) -> Drawn:
    """The budget over distance beside what the field gave, with the settings of the runs."""
    group, way, hz = ask.group, ask.way, ask.frequency_hz
    fit = group.fit if group else None
    total, lines = fixed_budget(ask, focus, *tested)
    base, base_u = float(total.nominal_value), float(total.std_dev)
    scatter = fit.scatter_db if fit else ASSUMED_SCATTER_DB
    samples = _samples(field, group, focus)
    nearest = min((float(s.distance_m.min()) for s in samples), default=100.0)
    distance = way.distance_m
    d = np.geomspace(max(min(nearest, distance / 3), 10.0), max(distance * 1.3, 100.0), 120)
    heights = max(way.profile.home_height_m, 0.5), max(way.profile.away_height_m, 0.5)
    fitted = None
    tried = group.walked(focus.id) if group else None
    if fit and tried is not None and not exponent_trouble(fit.exponent):
        fitted = (d, fit.at_1km_dbm[tried] - 10 * fit.exponent.value * np.log10(d / 1000.0))
    return Drawn(
        *tested,
        d,
        base - propagation.free_space_loss_db(d, hz),
        np.full_like(d, coverage_factor(math.inf) * math.hypot(base_u, scatter)),
        base - propagation.plane_earth_loss_db(d, *heights, hz),
        fitted,
        _points(samples),
        residual.free.level if residual is not None else None,
        _free_space(total, lines, distance, hz),
    )


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


def _would_narrow(margin: Margin) -> str:
    """What of the ± a run farther out would take away; nothing where that is little."""
    way, path = margin.falls.way, margin.falls.way.beyond
    if margin.basis in RECKONED or path is None or way.distance_m <= path.farthest_m:
        return ""
    if path.at_place[1] < 0.6 * margin.figure.u:
        return ""
    farther = math.sqrt(path.farthest_m * way.distance_m)
    return (
        f"Most of the ± is how the path goes on beyond {show.distance(path.farthest_m)}: "
        f"a run out to {show.distance(farther)} or more would narrow it."
    )


def _samples(field: FieldFinding, group: Group | None, antenna: Antenna) -> list[RunSamples]:
    """What was heard of an antenna, in the state that is compared, in the runs of a group."""
    if group is None:
        return []
    tried = group.tried(antenna.id)
    mine = [s.at_distance for s in field.samples if s.run.id in group.run_ids and s.tried == tried]
    return [s for s in mine if len(s.distance_m)]


def _points(samples: list[RunSamples]) -> tuple[Floats, Floats] | None:
    """(distance, level) of each cell, the runs' mean."""
    if not samples:
        return None
    cells = by_cell(samples)
    good = np.isfinite(cells.level_dbm).any(axis=0)
    return cells.distance_m[good], np.nanmean(cells.level_dbm[:, good], axis=0)


def _free_space(total: UFloat, lines: list[str], distance_m: float, frequency_hz: float) -> Figure:
    """The level at the place over an open path, with the settings of the runs."""
    loss = float(propagation.free_space_loss_db(distance_m, frequency_hz))
    level = float(total.nominal_value) - loss
    working = Working(
        (*lines, f"free space {show.fixed(-loss, 1)} dB", f"= {show.decibel(level, unit='dBm')}"),
        parts_of(total, "dB"),
        "Rec. ITU-R P.525; Friis 1946",
        "The most that an open path gives with the settings of the runs.",
    )
    name = f"level at {show.distance(distance_m)} in free space"
    return Figure(name, level, float(total.std_dev), "dBm", working)


def _words(
    margin: Margin, residual: Residual | None, causes: Sequence[Cause], distance_m: float, field: FieldFinding
) -> tuple[str, str]:
    name = margin.antenna.name
    where = field.wanted.name if field.wanted else show.distance(distance_m)
    low, high = margin.there.interval
    times = show.chance_in_words(margin.chance)
    if low > 0:
        sentence = f"{name} reaches {where} with {margin.there.text} to spare, {times}."
    elif high < 0:
        sentence = (
            f"{name} does not reach {where}: {show.plus_minus(-margin.there.value, margin.there.half, 'dB')} short."
        )
    else:
        sentence = f"{name} may or may not reach {where}: margin {margin.there.text}, heard {times}."
    if margin.basis in RECKONED:
        run = "The runs do not tell the path yet" if field.samples else "No field run yet"
        detail = f"{run}: {RECKONED_WORDS[margin.basis]}"
    elif residual is None:
        detail = f"{name} was not run; this is by its gain on the path that the others measured."
    else:
        detail = f"{fit_words(residual)}{likeliest(causes)}"
    if margin.figure.value > MOST_MARGIN_DB:
        detail += " So much to spare asks for a second look at power, pads and sensitivity."
    if margin.ends is None:
        return sentence, f"{detail} How far it would reach can’t be told: {margin.falls.trouble}."
    detail += f" Range at full power {margin.ends.figure.text}"
    detail += ", where the radio horizon ends it." if margin.ends.at_horizon else "."
    return sentence, detail


def _checks(
    evidence: Evidence,
    margin: Margin,
    residual: Residual | None,
    fit: PathFit | None,
    field: FieldFinding,
    margins: tuple[Margin, ...],
) -> list[Check]:
    checks = []
    if residual is not None:
        checks.append(fit_check(residual))
    if fit is not None and exponent_trouble(fit.exponent):
        why = f"{show.upper_first(exponent_trouble(fit.exponent))}."
        checks.append(Check("open", "no range from these places", None, why))
    elif fit is not None and (residual is None or residual.best.falls_alike or not residual.best.at_level):
        low, high = fit.exponent.interval
        mark_words = (
            "falls as in free space" if low <= 2 <= high else f"falls faster than free space, n {fit.exponent.text}"
        )
        if high < 2:
            mark_words = f"falls slower than free space, n {fit.exponent.text}"
        checks.append(Check("holds" if low <= 2 <= high else "open", mark_words, fit.exponent))
    for one in margins:
        if one.figure.value > MOST_MARGIN_DB:
            why = "More than any path leaves: is the power, a pad or the sensitivity noted in another unit?"
            checks.append(
                Check("open", f"{one.antenna.name}: {show.plus(one.figure.value, 0)} dB of margin?", one.figure, why)
            )
            break
    if margin.back is not None:
        checks.append(
            Check("holds" if margin.back.interval[0] > 0 else "open", f"way back {margin.back.text}", margin.back)
        )
    # What was heard at the wanted place, at whatever power, against what the budget says there.
    distance = field.wanted_distance_m()
    for report in field.reports:
        if field.wanted is None or report.place.id != field.wanted.id or report.run.run.antenna_id != margin.antenna.id:
            continue
        near = evidence.home_end
        run = report.run.run
        sent_w, full_w = (run.power_w or near.power_w, near.most_w) if near is not None else (None, None)
        if not report.away or sent_w is None or full_w is None or distance is None:
            continue
        here = margin.figure.value + dbm_from_watt(sent_w) - dbm_from_watt(full_w) - run.pad_db
        # One place strays from the path as a place does, beside what the margin itself leaves open.
        strays = coverage_factor(math.inf) * (fit.scatter_db if fit else ASSUMED_SCATTER_DB)
        half = math.hypot(margin.figure.half, strays)
        expected = f"a margin of {show.plus_minus(here, half, 'dB')} is expected"
        heard = any(reading.heard for reading in report.away)
        if heard and here < -half:
            checks.append(Check("disagrees", f"heard at {report.place.name} though {expected} (run {run.number})"))
        elif not heard and here > half:
            checks.append(Check("disagrees", f"not heard at {report.place.name} though {expected} (run {run.number})"))
    return checks
