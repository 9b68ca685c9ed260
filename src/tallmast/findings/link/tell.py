"""Link: does the physics agree with the field, and how far does it reach."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Neighbour
from tallmast.physics import propagation
from tallmast.physics.decibels import Floats, dbm_from_watt
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..aims import Aims
from ..far import far_end_of
from ..field import FieldFinding
from ..field.group import Group
from ..field.path import PathFit
from ..field.runs import Tried
from ..field.samples import RunSamples, by_cell
from ..figure import Check, Figure, Finding, Standing, Working, parts_of
from ..gain import GainEvidence
from ..rails import MOST_MARGIN_DB, exponent_trouble
from .beyond import Beyond, beyond_of
from .both_ways import both_ways_words
from .how_far import HowFar, equal_bands_words, how_far, options_of
from .margin import ASSUMED_SCATTER_DB, RECKONED, Ask, Margin, fixed_budget, margin_of
from .shared_band import Shared, Toward, shared_band, shared_checks
from .terrain import Profile, along, heights_of
from .way import steady_checks, taken_figure, way_checks
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


@dataclass(frozen=True, eq=False, repr=False)
class LinkFinding(Finding):
    margins: tuple[Margin, ...] = ()
    focus: Antenna | None = None
    distance_m: float | None = None
    at_power_w: float = 0.0
    at_pad_db: float = 0.0
    """Settings for which the picture is drawn: those of the compared runs."""
    predicted: tuple[Floats, Floats, Floats, Floats] | None = None
    """Distances; free-space level of the focus; half-width of the fan; plane-earth level."""
    fitted: tuple[Floats, Floats] | None = None
    points: tuple[Floats, Floats] | None = None
    """Distance and level of each place that the focus was heard at."""
    sensitivity_dbm: float = -110.0
    residual: Figure | None = None
    budget: Figure | None = None
    how_far: HowFar | None = None
    """Of the antenna in focus, with what is tried."""
    worth: tuple[Worth, ...] = ()
    """What would add to the margin of the antenna in focus."""
    shared: tuple[Shared, ...] = ()
    """Every other sender on the band, as each end hears it."""
    scatter_db: float = ASSUMED_SCATTER_DB
    profile: Profile | None = None
    """The way to the place to be reached."""
    taken: Figure | None = None
    """What it takes over free space."""
    path: Beyond | None = None
    """The path beyond the places measured, by all models."""


def _none_told(antenna: Antenna, off_deg: float) -> None:
    """No pattern is known."""


def find(
    evidence: Evidence,
    aims: Aims,
    gains: dict[str, GainEvidence],
    field: FieldFinding,
    pattern: Toward = _none_told,
    others_hz: Sequence[float] = (),
) -> LinkFinding:
    """The Link's finding, told of the antenna in focus; `pattern` reads an antenna’s own, `others_hz` are the
    question’s other bands."""
    question, near, far = evidence.question, evidence.home_end, far_end_of(evidence, gains)
    missing = []
    if question is None or not evidence.antennas:
        missing.append("a question with antennas")
    full_w = near.most_w if near is not None else None
    if full_w is None:
        missing.append("power and pads (rung 3)")
    if far is None:
        missing.append("the far end: its antenna and sensitivity")
    distance = field.wanted_distance_m()
    group = field.main
    if distance is None and field.places:
        distance = max(p.distance.value for p in field.places)
    if distance is None:
        missing.append("a place to reach, with its position")
    if question is None or near is None or full_w is None or far is None or distance is None or missing:
        return LinkFinding(
            "The budget can't be drawn up yet.",
            f"Link answers: does the physics agree, and how far does it reach? Still wanted: {show.join(missing)}.",
            Standing("nothing", "no budget yet"),
        )
    heights = (field.home.height_m if field.home else 2.0, field.wanted.height_m if field.wanted else 2.0)
    wanted = field.wanted
    profile = along(
        evidence,
        heights_of(evidence),
        field.home,
        wanted,
        distance,
        question.centre_hz,
        wanted.id if wanted else None,
        vertical=far.polarization != "horizontal",
    )
    bearings = [
        float(np.median(s.at_distance.bearing_deg))
        for s in field.samples
        if group and s.run.id in group.run_ids and len(s.at_distance.bearing_deg)
    ]
    toward = field.wanted_bearing_deg()
    path = beyond_of(group.fit if group else None, profile, [b for b in bearings if math.isfinite(b)], toward)
    ask = Ask(evidence, near, far, gains, group, distance, full_w, 0.0, heights, profile, path)
    margins = tuple(margin_of(ask, antenna) for antenna in evidence.antennas)
    focus = evidence.antenna(aims.focus_id) or evidence.antennas[0]
    margin = next(m for m in margins if m.antenna.id == focus.id)
    places = [
        (p.place.name, p.distance.value) for p in field.places if field.home is None or p.place.id != field.home.id
    ]
    tested = (group.power_w or near.power_w, group.pad_db) if group else (near.power_w, 0.0)
    options = list(options_of(aims.options, full_w, *tested, heights[0]))
    far_off = how_far(ask, margin, options, sorted(places, key=lambda one: one[1]))
    fit = group.fit if group else None
    at_power, at_pad = (group.power_w or near.power_w or full_w, group.pad_db) if group else (full_w, 0.0)
    total, lines = fixed_budget(evidence, near, far, focus, gains[focus.id].working_value(), at_power, at_pad)
    base, base_u = float(total.nominal_value), float(total.std_dev)
    scatter = fit.scatter_db if fit else ASSUMED_SCATTER_DB
    samples = _samples(field, group, focus)
    nearest = min((float(s.distance_m.min()) for s in samples), default=100.0)
    d = np.geomspace(max(min(nearest, distance / 3), 10.0), max(distance * 1.3, 100.0), 120)
    free = base - propagation.free_space_loss_db(d, question.centre_hz)
    home_h, far_h = (max(h, 0.5) for h in heights)
    earth = base - propagation.plane_earth_loss_db(d, home_h, far_h, question.centre_hz)
    fan = np.full_like(d, coverage_factor(math.inf) * math.hypot(base_u, scatter))
    fitted = residual = None
    tried = group.walked(focus.id) if group else None
    if fit and tried is not None:
        if not exponent_trouble(fit.exponent):
            fitted = (d, fit.at_1km_dbm[tried] - 10 * fit.exponent.value * np.log10(d / 1000.0))
        shared_u = group.shared_u_db if group else 0.0
        residual = _residual(fit, tried, base, math.hypot(base_u, shared_u), question.centre_hz)
    sentence, detail = _words(margin, margins, residual, distance, field)
    if path is not None and distance > path.farthest_m and margin.basis not in RECKONED:
        detail += _would_narrow(margin, path, distance)
    worth = worth_of(ask, margin, margins)
    detail = " ".join(filter(None, (detail, both_ways_words(ask, margin), dear_words(margin, worth))))
    by_id = {place.id: place for place in evidence.places}
    bearing = field.wanted_bearing_deg()
    shared = shared_band(ask, margin, evidence.all(Neighbour), by_id, field.home, wanted, bearing, pattern)
    detail = " ".join((detail, *equal_bands_words(question.centre_hz, others_hz, full_w)))
    return LinkFinding(
        sentence,
        detail,
        _standing(residual),
        (
            *_checks(evidence, margin, residual, fit, field, margins),
            *way_checks(profile),
            *steady_checks(profile, margin.figure),
            *shared_checks(shared, far.name),
        ),
        margin.figure,
        margins,
        focus,
        distance,
        at_power,
        at_pad,
        (d, free, fan, earth),
        fitted,
        _points(samples),
        far.sensitivity_dbm,
        residual,
        _free_space(total, lines, distance, question.centre_hz),
        far_off,
        worth,
        shared,
        scatter,
        profile,
        taken_figure(profile),
        path,
    )


def _would_narrow(margin: Margin, path: Beyond, distance_m: float) -> str:
    """What of the ± a run farther out would take away; nothing where that is little."""
    u = float(path.over_mean(distance_m)[1][0])
    if u < 0.6 * margin.figure.u:
        return ""
    farther = min(math.sqrt(path.farthest_m * distance_m), distance_m)
    return (
        f" Most of the ± is how the path goes on beyond {show.distance(path.farthest_m)}: "
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


def _standing(residual: Figure | None) -> Standing:
    if residual is None:
        return Standing("some", "budget, no field yet")
    low, high = residual.interval
    if not low <= 0 <= high:
        return Standing("disagreement", f"off by {show.decibel(abs(residual.value))}")
    if residual.half > TELLS_FIT_DB:
        return Standing("some", "too wide to tell")
    return Standing("done", f"fits {show.decibel(abs(residual.value))}")


def _residual(fit: PathFit, tried: Tried, base: float, base_u: float, frequency_hz: float) -> Figure:
    middle = 1000.0 * 10 ** (-fit.x_mean / 10.0)
    value, u, _ = fit.level(tried, middle)
    predicted = base - float(propagation.free_space_loss_db(middle, frequency_hz))
    gap = value - predicted
    return Figure(
        "field against free space",
        gap,
        math.hypot(u, base_u),
        "dB",
        Working(
            (
                f"at {show.distance(middle)}, the middle of the places",
                f"measured   {show.decibel(value, unit='dBm')}",
                f"free space {show.decibel(predicted, unit='dBm')}",
                f"difference {show.plus(gap, 1)} dB",
            ),
            (("budget", show.decibel(base_u, 2)), ("field", show.decibel(u, 2))),
            "Rec. ITU-R P.525",
            "What no open path explains: cable, polarization, a blocked Fresnel zone, a wrong pad.",
        ),
    )


def _words(
    margin: Margin, margins: tuple[Margin, ...], residual: Figure | None, distance_m: float, field: FieldFinding
) -> tuple[str, str]:
    name = margin.antenna.name
    where = field.wanted.name if field.wanted else show.distance(distance_m)
    low, high = margin.figure.interval
    times = show.chance_in_words(margin.chance)
    if low > 0:
        sentence = f"{name} reaches {where} with {margin.figure.text} to spare, {times}."
    elif high < 0:
        sentence = (
            f"{name} does not reach {where}: {show.plus_minus(-margin.figure.value, margin.figure.half, 'dB')} short."
        )
    else:
        sentence = f"{name} may or may not reach {where}: margin {margin.figure.text}, heard {times}."
    if margin.basis in RECKONED:
        run = "The runs do not tell the path yet" if field.samples else "No field run yet"
        detail = f"{run}: {RECKONED_WORDS[margin.basis]}"
    elif residual is None:
        detail = f"{name} was not run; this is by its gain on the path that the others measured."
    else:
        a, b = residual.interval
        if a <= 0 <= b:
            detail = f"Midway along the runs the field fits free space within {show.decibel(abs(residual.value))}."
        elif residual.value < 0:
            detail = f"The field is {show.plus_minus(-residual.value, residual.half, 'dB')} weaker than free space: look at cable, polarization and the first Fresnel zone."
        else:
            detail = f"The field is {show.plus_minus(residual.value, residual.half, 'dB')} stronger than free space: check the pad, the power and the far end’s gain."
    if margin.figure.value > MOST_MARGIN_DB:
        detail += " So much to spare asks for a second look at power, pads and sensitivity."
    if margin.reach is None:
        return sentence, f"{detail} How far it would reach can’t be told: {margin.no_reach}."
    detail += f" Range at full power {margin.reach.text}"
    detail += ", where the radio horizon ends it." if "horizon at these" in margin.reach.working.meaning else "."
    return sentence, detail


def _checks(
    evidence: Evidence,
    margin: Margin,
    residual: Figure | None,
    fit: PathFit | None,
    field: FieldFinding,
    margins: tuple[Margin, ...],
) -> list[Check]:
    checks = []
    if residual is not None:
        low, high = residual.interval
        fits = low <= 0 <= high
        words = (
            f"fits free space within {show.decibel(abs(residual.value))}"
            if fits
            else f"{show.plus(residual.value, 1)} dB against free space"
        )
        if fits and residual.half > TELLS_FIT_DB:
            words = f"too wide to tell from free space: {residual.text}"
            checks.append(Check("open", words, residual, "More runs, or a budget better known, would narrow it."))
        else:
            checks.append(Check("holds" if fits else "disagrees", words, residual))
    if fit is not None and exponent_trouble(fit.exponent):
        why = f"{show.upper_first(exponent_trouble(fit.exponent))}."
        checks.append(Check("open", "no range from these places", None, why))
    elif fit is not None:
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
