"""What a sweep says the moment it arrives: the numbers of the live panel, and the noise between two sweeps."""

from __future__ import annotations

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Cable, Calibration, Fixture, Question
from tallmast.physics import reflection
from tallmast.physics.decibels import Floats
from tallmast.physics.reflection import Complexes
from tallmast.units import show

from ..figure import Working
from . import plane
from .swr import swr_figure
from .trust import CalibrationReading, read_calibration

USUAL_DIRECTIVITY_DB = 30.0
"""Taken for an analyzer without a calibration of ours."""


class LiveReading(Frozen):
    """One live sweep at the antenna: magnitude of Γ over frequency, and the numbers worth saying."""

    frequency_hz: Floats
    magnitude: Floats
    u: Floats
    resonance_hz: float | None
    centre_swr: float
    worst_swr: float | None
    """None where the sweep does not cover the band."""
    words: str


def newest_calibration(evidence: Evidence) -> CalibrationReading | None:
    """The calibration in use: the newest that can be worked out."""
    for calibration in reversed(evidence.all(Calibration)):
        reading = read_calibration(evidence, calibration)
        if reading is not None:
            return reading
    return None


def newest_fixture(evidence: Evidence) -> Fixture | None:
    fixtures = evidence.all(Fixture)
    return fixtures[-1] if fixtures else None


def noise_of(gamma: Complexes) -> float:
    """Standard deviation of each part of Γ from noise, by what third differences along the sweep leave over.

    A curve that turns slowly from point to point has next to none; of noise with standard deviation σ they have √20·σ.
    Their median counts, so that a step or a glitch does not. Too few points (under 8): 0.
    """
    if len(gamma) < 8:
        return 0.0
    third = np.diff(gamma, 3)
    parts = np.abs(np.concatenate((third.real, third.imag)))
    return float(np.median(parts) / 0.6745 / np.sqrt(20.0))


def read_live(
    frequency_hz: Floats,
    measured: Complexes,
    question: Question | None,
    cable: Cable,
    calibration: CalibrationReading | None,
) -> LiveReading:
    """A sweep as it came, corrected where a calibration covers it, cable taken out; fit for thirty times a second."""
    f, directivity = frequency_hz, USUAL_DIRECTIVITY_DB
    if calibration is not None and calibration.covers(f):
        measured, directivity = calibration.corrected(f, measured), calibration.left.value
    gamma = plane.at_antenna(cable, f, measured)
    magnitude = np.abs(gamma)
    u, bounded = plane.uncertainty(cable, f, magnitude, directivity, 0.0)
    resonance = reflection.resonance_hz(f, gamma)
    best = f"best match at {show.frequency(resonance, 1)}" if resonance else "no resonance inside the sweep"
    if question is None:
        return LiveReading(f, magnitude, u, resonance, float(reflection.swr(magnitude.min())), None, best)
    inside = (f >= question.band_low_hz) & (f <= question.band_high_hz)
    centre = float(reflection.swr(np.interp(question.centre_hz, f, magnitude)))
    covers = bool(f[0] <= question.band_low_hz and f[-1] >= question.band_high_hz)
    edges = np.interp([question.band_low_hz, question.band_high_hz], f, magnitude)
    worst = (
        float(reflection.swr(max(float(edges.max()), float(magnitude[inside].max(initial=0.0))))) if covers else None
    )
    at = int(np.argmin(np.abs(f - question.centre_hz)))
    told = float(reflection.gamma_from_swr(worst if worst else centre))
    text = swr_figure("SWR", told, float(u[at]), float(bounded[at]), Working()).text
    where = "in band at worst" if worst else f"at {show.frequency(question.centre_hz)}; the band is not covered"
    words = f"SWR {text} {where}; {best}"
    return LiveReading(f, magnitude, u, resonance, centre, worst, words)
