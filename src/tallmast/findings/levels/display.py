"""A display turned into decibels: a monotone curve through what it showed under known attenuation."""

from __future__ import annotations

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import DisplayRun
from tallmast.units import show

from ..figure import Check
from .display_curve import Curve, DisplayLevel, fit


class DisplayFinding(Frozen):
    """One receiver's display, the newest run of it."""

    curve: Curve
    sentence: str
    checks: tuple[Check, ...]
    span: tuple[float, float]
    """From where to where it tells levels."""
    middle: DisplayLevel
    """What a reading from the middle of that is worth, as an example."""
    middle_shown: float


def read_displays(evidence: Evidence) -> dict[str, DisplayFinding]:
    """By receiver, in order of first entry; runs that say nothing are left out."""
    out: dict[str, DisplayFinding] = {}
    for run in evidence.all(DisplayRun):
        curve = fit(run, evidence.series(run.series_id))
        if curve is not None:
            out[run.receiver] = told_of(curve)
    return out


def told_of(curve: Curve) -> DisplayFinding:
    """A curve in words, with an example from its middle."""
    low = curve.bottom_db if curve.bottom_db is not None else float(curve.steps.level_db[0])
    high = curve.top_db if curve.top_db is not None else float(curve.steps.level_db[-1])
    shown = curve.shown_at((low + high) / 2)
    if curve.grain:
        shown = round(shown / curve.grain) * curve.grain
    middle = curve.read(shown)
    tail = (
        f", to ±{show.fixed((middle.level.interval[1] - middle.level.interval[0]) / 2, 1)} dB in the middle"
        if middle.state == "told"
        else ""
    )
    sentence = f"{show.upper_first(curve.run.receiver)} tells levels from {show.fixed(low, 0)} to {show.fixed(high, 0)} {curve.unit}{tail}."
    return DisplayFinding(curve, sentence, tuple(_checks(curve)), (low, high), middle, shown)


def _checks(curve: Curve) -> list[Check]:
    out = []
    if curve.top_db is not None:
        words = f"saturated from {show.fixed(curve.top_db, 0)} {curve.unit}"
        out.append(Check("holds", words, None, "Readings from there on are bounds: put a pad in to tell more."))
    else:
        out.append(Check("open", "its top not reached", None, "Step to less attenuation to find where it saturates."))
    if curve.bottom_db is not None:
        words = f"nothing told under {show.fixed(curve.bottom_db, 0)} {curve.unit}"
        out.append(Check("holds", words, None, "Its threshold: below this it shows the same, whatever arrives."))
    else:
        out.append(Check("open", "its threshold not reached", None, "Step to more attenuation to find where it fails."))
    if curve.hysteresis_db is not None:
        out.append(Check("disagrees", f"lags by {curve.hysteresis_db.text}", curve.hysteresis_db))
    return out
