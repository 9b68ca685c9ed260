"""Link: does the physics agree with the field, and how far does it reach."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Chain, FarEnd
from tallmast.physics import propagation
from tallmast.physics.decibels import Floats, dbm_from_watt
from tallmast.physics.statistics import coverage_factor, normal_cdf
from tallmast.units import show

from .aims import Aims
from .field import FieldFinding
from .field.path import PathFit
from .field.samples import by_cell
from .field.tell import Group
from .figure import Check, Figure, Finding, Standing, Working, named, parts_of
from .gain import GainEvidence
from .levels.pieces import Drawer, feed
from .polarization import loss_between

if TYPE_CHECKING:
    from uncertainties import UFloat

ASSUMED_SCATTER_DB = 6.0
"""Place-to-place scatter taken where no field run has shown it (Rec. ITU-R P.1546 gives 5 to 8 dB over land)."""

PAD_U_DB = 0.2


@dataclass(frozen=True, eq=False, repr=False)
class Margin:
    """What is left over sensitivity at the wanted place at full power, for one antenna."""

    antenna: Antenna
    figure: Figure
    chance: float
    """That a moment at the place is above sensitivity, doubt and scatter together."""
    basis: str
    """'measured', 'by its gain on the measured path', or 'free space only'."""
    reach: Figure
    """Distance at which the median level meets the sensitivity, m."""
    back: Figure | None
    """The way back, from the far end's transmitter to home."""


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
    what_if: Figure | None = None
    scatter_db: float = ASSUMED_SCATTER_DB


def _fixed_budget(
    evidence: Evidence, chain: Chain, far: FarEnd, antenna: Antenna, gain: Figure, power_w: float, pad_db: float
) -> tuple[UFloat, list[str]]:
    """Level before the path, with named doubts: power − pad − cable + both gains − polarization."""
    polarization = loss_between(antenna.polarization, antenna.axial_ratio_db, far.polarization, far.axial_ratio_db)
    assert evidence.question is not None
    drawer = Drawer(evidence, evidence.question.centre_hz)
    home, away = feed(drawer, chain.placed), feed(drawer, far.placed)
    home_db, away_db = chain.cable_loss_db + home.line_db, far.cable_loss_db + away.line_db
    total = (
        named(dbm_from_watt(power_w), chain.power_u_db, "transmitter")
        - named(pad_db, PAD_U_DB if pad_db else 0.0, "pad")
        - named(home_db, math.hypot(chain.cable_loss_u_db, home.line_u_db), "home cable")
        + named(gain.value, gain.u, f"gain of {antenna.name}")
        + named(far.gain_dbi, far.gain_u_db, f"gain of {far.name}")
        - named(away_db, away.line_u_db, "far cable")
        - named(polarization.value, polarization.u, "polarization")
    )
    lines = [
        f"transmitter   {show.fixed(dbm_from_watt(power_w), 1)} dBm",
        *([f"pads          {show.fixed(-pad_db, 1)}"] if pad_db else []),
        f"home cable    {show.fixed(-home_db, 1)}",
        f"{antenna.name[:13]:<13} {show.plus(gain.value, 1)} dBi",
        f"polarization  {show.fixed(-polarization.value, 1)}",
        f"{far.name[:13]:<13} {show.plus(far.gain_dbi, 1)} dBi",
        *([f"far cable     {show.fixed(-away_db, 1)}"] if away_db else []),
    ]
    return total, lines


def _reach(margin: Figure, exponent: Figure, distance_m: float) -> Figure:
    """Where the margin runs out: d·10^(m/10n), with the 90 % interval."""
    n = exponent.value if exponent.value > 0.5 else 2.0
    value = distance_m * propagation.range_ratio(margin.value, n)
    # ln d has du = ln10/10n·√(u_m² + (m·u_n/n)²).
    u = math.log(10) / (10 * n) * math.hypot(margin.half, margin.value * exponent.half / n)
    low, high = value * math.exp(-u), value * math.exp(u)
    working = Working(
        (
            "d = d₀·10^(margin/10n)",
            f"d₀ = {show.distance(distance_m)}, n = {n:.2f}",
            f"margin {margin.text}",
            f"d = {show.distance(value)}",
        ),
        (),
        "the path as fitted, continued",
        "Beyond the farthest place measured this is a forecast: a ridge or the horizon may end it sooner.",
    )
    return Figure("range", value / 1e3, u * value / 1e3, "km", working, low=low / 1e3, high=high / 1e3, digits=1)


def _margin(
    evidence: Evidence,
    chain: Chain,
    far: FarEnd,
    antenna: Antenna,
    gains: dict[str, GainEvidence],
    group: Group | None,
    distance_m: float,
    power_w: float,
    pad_db: float,
) -> Margin:
    """Margin at a distance, by the best basis there is."""
    question = evidence.question
    assert question is not None
    sensitivity = named(far.sensitivity_dbm, far.sensitivity_u_db, "sensitivity")
    fit: PathFit | None = group.fit if group else None
    degrees = math.inf
    if fit is not None and group is not None and antenna.id in fit.at_1km_dbm:
        basis = "measured"
        value, u, degrees = fit.level(antenna.id, distance_m)
        step = dbm_from_watt(power_w) - dbm_from_watt(group.power_w) + group.pad_db - pad_db
        step_u = PAD_U_DB if abs(step) > 0.05 else 0.0
        level = named(value, u, "path as fitted") + named(step, step_u, "pad and power")
        lines = [
            f"fitted at {show.distance(distance_m)}  {show.decibel(value, unit='dBm')}",
            f"less pad, more power  {show.plus(step, 1)} dB",
        ]
        exponent, scatter = fit.exponent, fit.scatter_db
    elif fit is not None and group is not None and fit.at_1km_dbm:
        other_id = max(fit.runs, key=lambda key: fit.runs[key])
        other = evidence.antenna(other_id)
        assert other is not None
        basis = "by its gain on the measured path"
        value, u, degrees = fit.level(other_id, distance_m)
        mine, theirs = gains[antenna.id].working_value(), gains[other_id].working_value()
        p_mine = loss_between(antenna.polarization, antenna.axial_ratio_db, far.polarization, far.axial_ratio_db)
        p_other = loss_between(other.polarization, other.axial_ratio_db, far.polarization, far.axial_ratio_db)
        step = dbm_from_watt(power_w) - dbm_from_watt(group.power_w) + group.pad_db - pad_db
        level = (
            named(value, u, "path as fitted")
            + named(step, PAD_U_DB, "pad and power")
            + named(mine.value, mine.u, f"gain of {antenna.name}")
            - named(theirs.value, theirs.u, f"gain of {other.name}")
            - named(p_mine.value - p_other.value, math.hypot(p_mine.u, p_other.u), "polarization")
        )
        lines = [
            f"{other.name} fitted at {show.distance(distance_m)}  {show.decibel(value, unit='dBm')}",
            f"pad and power  {show.plus(step, 1)} dB",
            f"gain against it  {show.plus(mine.value - theirs.value, 1)} dB",
            f"polarization against it  {show.plus(p_other.value - p_mine.value, 1)} dB",
        ]
        exponent, scatter = fit.exponent, fit.scatter_db
    else:
        basis = "free space only"
        gain = gains[antenna.id].working_value()
        total, lines = _fixed_budget(evidence, chain, far, antenna, gain, power_w, pad_db)
        loss = float(propagation.free_space_loss_db(distance_m, question.centre_hz))
        level = total - named(loss, ASSUMED_SCATTER_DB, "the path, not measured")
        lines = [*lines, f"free space at {show.distance(distance_m)}  {show.fixed(-loss, 1)} dB"]
        exponent, scatter = Figure("exponent", 2.0, 0.0, ""), ASSUMED_SCATTER_DB
    margin = level - sensitivity
    value, u = float(margin.nominal_value), float(margin.std_dev)
    lines += [
        f"level  {show.decibel(float(level.nominal_value), unit='dBm')}",
        f"sensitivity  {show.decibel(far.sensitivity_dbm, unit='dBm')}",
        f"margin = {show.plus(value, 1)} dB",
    ]
    # The fit's few degrees of freedom hold only for its own share of the variance (Welch-Satterthwaite).
    if math.isfinite(degrees) and u > 0:
        fit_u = next((float(c) for v, c in margin.error_components().items() if v.tag == "path as fitted"), 0.0)
        degrees = degrees * (u / fit_u) ** 4 if fit_u > 0 else math.inf
    figure = Figure(
        f"margin of {antenna.name}",
        value,
        u,
        "dB",
        Working(
            tuple(lines),
            parts_of(margin, "dB"),
            {"measured": "the field runs, fitted and continued", "free space only": "Rec. ITU-R P.525, free space"}.get(
                basis, "the field runs of the others, and its gain"
            ),
            "Median level over sensitivity. One place strays from the median by "
            f"{show.decibel(scatter)} (one standard deviation), which the chance allows for.",
        ),
        degrees,
    )
    chance = float(normal_cdf(value / math.hypot(u, scatter)))
    back = None
    if far.power_w and far.home_sensitivity_dbm is not None:
        swap = dbm_from_watt(far.power_w) - dbm_from_watt(power_w) + far.sensitivity_dbm - far.home_sensitivity_dbm
        back = Figure(
            "margin, the way back",
            value + swap + pad_db,
            u,
            "dB",
            Working(
                (
                    f"margin out {show.plus(value, 1)} dB",
                    f"other power {show.plus(dbm_from_watt(far.power_w) - dbm_from_watt(power_w), 1)} dB",
                    f"other receiver {show.plus(far.sensitivity_dbm - far.home_sensitivity_dbm, 1)} dB",
                ),
                (),
                "the path is the same both ways (reciprocity)",
                "A decibel is a decibel both ways, until noise makes the ends differ.",
            ),
            degrees,
        )
    return Margin(antenna, figure, chance, basis, _reach(figure, exponent, distance_m), back)


def find(evidence: Evidence, aims: Aims, gains: dict[str, GainEvidence], field: FieldFinding) -> LinkFinding:
    """The Link's finding, told of the antenna in focus."""
    question, chain, far = evidence.question, evidence.chain, evidence.far_end
    missing = []
    if question is None or not evidence.antennas:
        missing.append("a question with antennas")
    if chain is None:
        missing.append("power and pads (rung 3)")
    if far is None:
        missing.append("the far end: its antenna and sensitivity")
    distance = field.wanted_distance_m()
    group = field.main
    if distance is None and field.places:
        distance = max(p.distance.value for p in field.places)
    if distance is None:
        missing.append("a place to reach, with its position")
    if question is None or chain is None or far is None or distance is None or missing:
        return LinkFinding(
            "The budget can't be drawn up yet.",
            f"Link answers: does the physics agree, and how far does it reach? Still wanted: {show.join(missing)}.",
            Standing("nothing", "no budget yet"),
        )
    power_w = chain.full_power_w or chain.power_w
    margins = tuple(_margin(evidence, chain, far, a, gains, group, distance, power_w, 0.0) for a in evidence.antennas)
    focus = evidence.antenna(aims.focus_id) or evidence.antennas[0]
    margin = next(m for m in margins if m.antenna.id == focus.id)
    what_if = None
    if aims.what_if_power_w is not None or aims.what_if_pad_db:
        changed = _margin(
            evidence, chain, far, focus, gains, group, distance, aims.what_if_power_w or power_w, aims.what_if_pad_db
        )
        what_if = changed.reach
    fit = group.fit if group else None
    at_power, at_pad = (group.power_w, group.pad_db) if group else (power_w, 0.0)
    gain = gains[focus.id].working_value()
    total, lines = _fixed_budget(evidence, chain, far, focus, gain, at_power, at_pad)
    base, base_u = float(total.nominal_value), float(total.std_dev)
    scatter = fit.scatter_db if fit else ASSUMED_SCATTER_DB
    samples = [s for s in field.samples if group and s.run.id in group.run_ids and s.run.antenna_id == focus.id]
    nearest = min((float(s.distance_m.min()) for s in samples), default=100.0)
    d = np.geomspace(max(min(nearest, distance / 3), 10.0), max(distance * 1.3, 100.0), 120)
    free = base - propagation.free_space_loss_db(d, question.centre_hz)
    home_h = max(field.home.height_m if field.home else 2.0, 0.5)
    far_h = max(field.wanted.height_m if field.wanted else 2.0, 0.5)
    earth = base - propagation.plane_earth_loss_db(d, home_h, far_h, question.centre_hz)
    fan = np.full_like(d, coverage_factor(math.inf) * math.hypot(base_u, scatter))
    fitted = points = None
    residual = None
    if fit and focus.id in fit.at_1km_dbm:
        fitted = (d, fit.at_1km_dbm[focus.id] - 10 * fit.exponent.value * np.log10(d / 1000.0))
        residual = _residual(fit, focus, base, base_u, question.centre_hz)
    if samples:
        cells = by_cell(samples)
        good = np.isfinite(cells.level_dbm).any(axis=0)
        points = (cells.distance_m[good], np.nanmean(cells.level_dbm[:, good], axis=0))
    loss = float(propagation.free_space_loss_db(distance, question.centre_hz))
    budget = Figure(
        f"level at {show.distance(distance)} in free space",
        base - loss,
        base_u,
        "dBm",
        Working(
            (*lines, f"free space {show.fixed(-loss, 1)} dB", f"= {show.decibel(base - loss, unit='dBm')}"),
            parts_of(total, "dB"),
            "Rec. ITU-R P.525; Friis 1946",
            "The most that an open path gives with the settings of the runs.",
        ),
    )
    sentence, detail = _words(margin, margins, residual, distance, field)
    checks = _checks(evidence, margin, residual, fit, field, margins)
    if residual is None:
        standing = Standing("some", "budget, no field yet")
    else:
        low, high = residual.interval
        fits = low <= 0 <= high
        standing = Standing(
            "done" if fits else "disagreement", f"{'fits' if fits else 'off by'} {show.decibel(abs(residual.value))}"
        )
    return LinkFinding(
        sentence,
        detail,
        standing,
        tuple(checks),
        margin.figure,
        margins,
        focus,
        distance,
        at_power,
        at_pad,
        (d, free, fan, earth),
        fitted,
        points,
        far.sensitivity_dbm,
        residual,
        budget,
        what_if,
        scatter,
    )


def _residual(fit: PathFit, focus: Antenna, base: float, base_u: float, frequency_hz: float) -> Figure:
    middle = 1000.0 * 10 ** (-fit.x_mean / 10.0)
    value, u, _ = fit.level(focus.id, middle)
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
    if margin.basis == "free space only":
        detail = "No field run yet: this is free space, and a real path takes more."
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
    detail += f" Range at full power {margin.reach.text}"
    horizon = (
        propagation.radio_horizon_m(field.home.height_m, field.wanted.height_m) if field.home and field.wanted else 0.0
    )
    if horizon and margin.reach.value * 1e3 > horizon:
        return (
            sentence,
            f"{detail}, but the radio horizon at these heights is {show.distance(horizon)}: don't count on more.",
        )
    detail += "."
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
        checks.append(Check("holds" if fits else "disagrees", words, residual))
    if fit is not None:
        low, high = fit.exponent.interval
        mark_words = (
            "falls as in free space" if low <= 2 <= high else f"falls faster than free space, n {fit.exponent.text}"
        )
        if high < 2:
            mark_words = f"falls slower than free space, n {fit.exponent.text}"
        checks.append(Check("holds" if low <= 2 <= high else "open", mark_words, fit.exponent))
    if margin.back is not None:
        checks.append(
            Check("holds" if margin.back.interval[0] > 0 else "open", f"way back {margin.back.text}", margin.back)
        )
    # What was heard at the wanted place, at whatever power, against what the budget says there.
    distance = field.wanted_distance_m()
    for report in field.reports:
        if field.wanted is None or report.place.id != field.wanted.id or report.run.run.antenna_id != margin.antenna.id:
            continue
        chain = evidence.chain
        if report.away is None or chain is None or distance is None:
            continue
        run = report.run.run
        here = (
            margin.figure.value
            + dbm_from_watt(run.power_w)
            - dbm_from_watt(chain.full_power_w or chain.power_w)
            - run.pad_db
        )
        doubt = 1.645 * math.hypot(margin.figure.u, fit.scatter_db if fit else ASSUMED_SCATTER_DB)
        if report.away.heard and here < -doubt:
            checks.append(Check("disagrees", f"heard at {report.place.name} against the odds (run {run.number})"))
        elif not report.away.heard and here > doubt:
            checks.append(
                Check(
                    "disagrees",
                    f"not heard at {report.place.name} though {show.plus(here, 0)} dB is expected (run {run.number})",
                )
            )
    return checks
