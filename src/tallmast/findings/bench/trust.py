"""Can the reading be believed: the calibration and what it leaves over, the fixture and whether it passed."""

from __future__ import annotations

import math
from datetime import datetime

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Calibration, Fixture, Qualification, Question, StandardCheck, StandardSet, Sweep
from tallmast.physics import oneport
from tallmast.physics.decibels import Floats, amplitude_ratio
from tallmast.physics.reflection import Complexes
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working
from . import plane
from .swr import judge_limit, swr_figure

STANDARDS = ("open", "short", "load")
UNSEEN_DRIFT, LEAST_AGE_H, USUAL_AGE_H = 0.015, 0.3, 0.5
"""What the terms of a small analyzer wander in an hour out of doors, |Γ|, with the root of the time; bending its lead at once counts as
a third of an hour, and an age that nobody noted as half of one. Assumed, until a standard is measured again."""
WARMTH_K = 5.0
"""From this change of inner temperature on a calibration is doubted."""


def seconds_between(earlier: str, later: str) -> float | None:
    """Seconds from one ISO 8601 time to another; None where either is missing or not a time."""
    try:
        return (datetime.fromisoformat(later) - datetime.fromisoformat(earlier)).total_seconds()
    except (ValueError, TypeError):
        return None


def ideal_gamma(standards: StandardSet, which: str, frequency_hz: Floats) -> Complexes:
    """What a standard really reflects."""
    if which == "open":
        gamma, delay = oneport.open_gamma(frequency_hz, standards.open_fringe_f), standards.open_delay_s
    elif which == "short":
        gamma, delay = oneport.short_gamma(frequency_hz), standards.short_delay_s
    else:
        return oneport.load_gamma(frequency_hz, standards.load_ohm)
    return oneport.offset(gamma, frequency_hz, delay, standards.delay_loss_db_at_1ghz if delay else 0.0)


class CalibrationReading(Frozen):
    """A calibration worked out: its terms, what is left of the directivity, and whether it can be trusted."""

    calibration: Calibration
    frequency_hz: Floats
    terms: oneport.ErrorTerms
    left: Figure
    """Residual directivity, dB: how far below full reflection the errors that are left lie."""
    drifted: float | None
    """By how much a standard that was measured again is off, |Γ|; None: none was."""
    mark: Mark
    words: str

    @property
    def left_gamma(self) -> float:
        return float(amplitude_ratio(-self.left.value))

    def drift_until(self, taken_at: str) -> float:
        """By how much its terms may have moved by a time: as a standard showed, else as they usually do by then."""
        if self.drifted is not None:
            return self.drifted
        age = seconds_between(self.calibration.taken_at, taken_at)
        hours = USUAL_AGE_H if age is None else max(age, 0.0) / 3600.0
        return UNSEEN_DRIFT * math.sqrt(LEAST_AGE_H + hours)

    @property
    def load_db(self) -> float:
        """Residual directivity by the load alone, dB, as the standards are stated: what it defines a match to be."""
        return self.calibration.standards.load_return_loss_db

    def corrected(self, frequency_hz: Floats, measured: Complexes) -> Complexes:
        return self.terms.at(self.frequency_hz, frequency_hz).corrected(measured)

    def covers(self, frequency_hz: Floats) -> bool:
        """Whether it was taken over all of a sweep; outside it nothing is known."""
        edge = 1e-6 * float(frequency_hz[-1])
        return bool(self.frequency_hz[0] <= frequency_hz[0] + edge and self.frequency_hz[-1] >= frequency_hz[-1] - edge)


def _column(series: dict[str, Floats], name: str) -> Complexes:
    return np.asarray(series[f"{name}_re"]) + 1j * np.asarray(series[f"{name}_im"])


def _off(
    evidence: Evidence, check: StandardCheck, calibration: Calibration, f: Floats, terms: oneport.ErrorTerms
) -> float:
    """Root mean square of what a standard, measured again, is off by after correction."""
    series = evidence.series(check.series_id)
    grid = np.asarray(series["frequency_hz"])
    shown = np.asarray(series["re"]) + 1j * np.asarray(series["im"])
    corrected = terms.at(f, grid).corrected(shown)
    off = corrected - ideal_gamma(calibration.standards, check.standard, grid)
    return float(np.sqrt(np.mean(np.abs(off) ** 2)))


def read_calibration(evidence: Evidence, calibration: Calibration) -> CalibrationReading | None:
    """The terms from the standards as they are defined now, and what is left; None where they can't be told apart.

    Left over: the load's own reflection (it defines what a match is) and, in quadrature, what the standards measured
    again are off by. Before any check the drift is unknown and said to be.
    """
    series = dict(evidence.series(calibration.series_id))
    f = np.asarray(series["frequency_hz"])
    try:
        terms = oneport.solve(
            [ideal_gamma(calibration.standards, which, f) for which in STANDARDS],
            [_column(series, which) for which in STANDARDS],
        )
    except ValueError:
        return None
    load = float(amplitude_ratio(-calibration.standards.load_return_loss_db))
    checks = [c for c in evidence.all(StandardCheck) if c.calibration_id == calibration.id]
    offs = [(check, _off(evidence, check, calibration, f, terms)) for check in checks]
    worst = max((off for _, off in offs), default=0.0)
    left = float(np.hypot(load, worst))
    lines = [
        f"load, {calibration.standards.load_return_loss_db:g} dB good: |Γ| {load:.4f}",
        *(f"{check.standard} again: off by {off:.4f}" for check, off in offs),
        f"left over √(load² + worst²) = {left:.4f}",
    ]
    value = float(-20 * np.log10(max(left, 1e-4)))
    meaning = (
        "No reading can tell a match from this much reflection."
        if offs
        else "No standard was measured again yet: how far it has drifted is assumed. Measure the load once more."
    )
    figure = Figure(
        "directivity left",
        value,
        0.0,
        "dB",
        Working(tuple(lines), (), "one-port error model; Rytting 1998; the load defines the match", meaning),
        digits=0,
    )
    mark: Mark = "holds"
    words = f"calibrated, {show.fixed(value, 0)} dB left"
    if not offs:
        mark, words = "open", "calibrated, not checked yet"
    elif worst > 0.05:
        mark, words = "fails", f"the calibration has moved: a standard is off by {worst:.2f}"
    return CalibrationReading(calibration, f, terms, figure, worst if offs else None, mark, words)


def why_not_trusted(reading: CalibrationReading, sweep: Sweep) -> str:
    """Why a calibration may not hold for a sweep: its age, or the warmth of the analyzer; empty where it does."""
    c = reading.calibration
    age = seconds_between(c.taken_at, sweep.taken_at)
    if age is not None and age > c.lasts_s:
        return f"the calibration was {age / 60:.0f} min old"
    if c.warmth_k is not None and sweep.warmth_k is not None and abs(sweep.warmth_k - c.warmth_k) > WARMTH_K:
        return f"the analyzer was {abs(sweep.warmth_k - c.warmth_k):.0f} K warmer or colder than when calibrated"
    return ""


class FixtureReading(Frozen):
    """A fixture and how its newest qualification came out."""

    fixture: Fixture
    qualification: Qualification | None
    worst: Figure | None
    mark: Mark
    words: str

    @property
    def check(self) -> Check:
        return Check(self.mark, self.words, self.worst, "A sweep on a fixture that has not passed is marked.")


def qualified_when(reading: FixtureReading, sweep: Sweep) -> str:
    """Why a sweep was not taken on a qualified fixture; empty where it was."""
    q, fixture = reading.qualification, reading.fixture
    if q is None:
        return f"{fixture.name} was never tried with a known load"
    if reading.mark == "fails":
        return f"{fixture.name} did not pass"
    if reading.mark == "disagrees":
        return f"{fixture.name} was not shown to pass"
    if reading.worst is None:
        return f"{fixture.name} was not tried in the band"
    if q.reconnection != sweep.reconnection:
        return f"{fixture.name} was moved since it passed"
    if q.calibration_id != sweep.calibration_id:
        return "another calibration was in use when it passed"
    age = seconds_between(q.taken_at, sweep.taken_at)
    if age is not None and age > fixture.lasts_s:
        return f"it passed {show.fixed(age / 3600, 1)} h before, longer than the {fixture.lasts_s / 3600:g} h you allow"
    return ""


def read_fixture(
    evidence: Evidence, fixture: Fixture, question: Question, calibrations: dict[str, CalibrationReading]
) -> FixtureReading:
    """A fixture by its newest qualification: worst SWR of the known load in the band against its limit."""
    tries = [q for q in evidence.all(Qualification) if q.fixture_id == fixture.id]
    if not tries:
        return FixtureReading(fixture, None, None, "open", f"{fixture.name} not qualified yet")
    q = tries[-1]
    series = evidence.series(q.series_id)
    f = np.asarray(series["frequency_hz"])
    gamma = np.asarray(series["re"]) + 1j * np.asarray(series["im"])
    calibration = calibrations.get(q.calibration_id)
    left = 0.0316
    if calibration is not None:
        gamma, left = calibration.corrected(f, gamma), calibration.left_gamma
    magnitude = np.abs(plane.at_antenna(fixture.cable, f, gamma))
    inside = (f >= question.band_low_hz) & (f <= question.band_high_hz)
    if not inside.any():
        return FixtureReading(fixture, q, None, "open", f"{fixture.name} was not tried in the band")
    worst = float(magnitude[inside].max())
    working = Working(
        (f"{q.tried_with} on {fixture.name}: |Γ| {worst:.3f} at worst", f"limit SWR {fixture.limit:g}"),
        (("directivity left", f"{left / np.sqrt(2):.3f}"),),
        "a known load must read as what it is before anything else is believed",
        "Practitioners refuse to measure on a test bed that does not pass.",
    )
    figure = swr_figure("SWR of the known load", worst, left / float(np.sqrt(2)), 1.0, working)
    now = q.reconnection == fixture.reconnection
    verdict = judge_limit(figure, fixture.limit)
    if verdict == "fails":
        return FixtureReading(
            fixture, q, figure, "fails", f"{fixture.name} did not pass: {q.tried_with} reads {show.swr(figure.value)}"
        )
    if verdict == "open":
        words = f"{fixture.name} may or may not pass: {q.tried_with} reads {figure.text}, limit {fixture.limit:g}"
        return FixtureReading(fixture, q, figure, "disagrees", words)
    if not now:
        return FixtureReading(fixture, q, figure, "open", f"{fixture.name} was moved: qualify it again")
    return FixtureReading(
        fixture, q, figure, "holds", f"{fixture.name} qualified, {q.tried_with} {show.swr(figure.value)}"
    )
