"""What a few readings of an SWR meter say of a whole band: it holds where it was read, the rest is bounded by physics or left open."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna, AntennaKind, MeterReading, Question
from tallmast.physics import reflection
from tallmast.physics.constants import wavelength
from tallmast.units import show

from ..figure import Check, Figure, Mark
from .meter import MeterJudgement
from .swr import judge_limit

Q_MOST: dict[AntennaKind, float] = {
    "dipole": 15.0,
    "whip": 15.0,
    "helix": 30.0,
    "collinear": 50.0,
    "yagi": 80.0,
    "panel": 80.0,
}
"""No more than this has Q of an ordinary one: thin dipoles and quarter-wave whips by the slope of their reactance, π·Kₐ/(4R) with
Kₐ = 120·(ln(2l/a) − 1) up to l/a = 10⁴ (Jordan and Balmain, Electromagnetic Waves and Radiating Systems, §14.05); the others as
their usual bandwidths have it, Q = (s − 1)/(√s·Δf/f), with room to spare. Of other kinds nothing is taken."""
LEAST_WAVES: dict[AntennaKind, float] = {"dipole": 0.4, "whip": 0.2}
"""In wavelengths: what is shorter is loaded, and its Q is its own."""
EDGE = 0.1
"""Of the width of a band: a reading so near to its edge was taken at it."""
OCTAVE = 1.9
LOAD_SWR = 1.15
"""Under this over an octave nothing radiates."""


class OverBand(Frozen):
    """The worst that was read in a band, and what may lie between and beside the readings."""

    worst: Figure
    at_hz: float
    most_swr: float | None
    """At most anywhere in the band; None: not told."""

    def judged(self, limit: float) -> Mark:
        """Of the whole band: it fails where a reading does, and holds where none can."""
        if judge_limit(self.worst, limit) == "fails":
            return "fails"
        return "holds" if self.most_swr is not None and self.most_swr <= limit else "open"

    def words(self, band: str) -> str:
        """Behind the figure: where it was read, and what is known of the rest."""
        where = f"at {show.frequency(self.at_hz)}"
        if self.most_swr is None:
            return f"{where}; the rest of {band} is not shown"
        return f"{where}, at most {show.swr(self.most_swr)} over {band}"


def q_most(antenna: Antenna, frequency_hz: float) -> float | None:
    """The most that its Q can be by its kind; None where its kind says nothing, or it is shorter than those of it."""
    least = LEAST_WAVES.get(antenna.type)
    if least is not None and antenna.length_m is not None and antenna.length_m < least * wavelength(frequency_hz):
        return None
    if least is not None and antenna.length_m is None:
        return None
    return Q_MOST.get(antenna.type)


def over_band(antenna: Antenna, now: Sequence[MeterJudgement], question: Question) -> OverBand | None:
    """What the readings of its present state say; None where none lies in the band.

    Between two frequencies |Γ| of one resonance is no larger than at the larger of them: |Γ|² has one minimum. Beside a reading it
    grows by Q/f₀ a hertz at most: |dΓ/df| = 4rQ/((1 + r)²·f₀) at resonance, and less beside it.
    """
    low, high = question.band_low_hz, question.band_high_hz
    inside = [m for m in now if low * 0.999 <= m.reading.frequency_hz <= high * 1.001]
    if not inside:
        return None
    worst = max(inside, key=lambda m: m.figure.value)
    about = [m for m in now if 0.8 * low <= m.reading.frequency_hz <= 1.25 * high]
    f = np.array([m.reading.frequency_hz for m in about])
    most = np.array([float(reflection.gamma_from_swr(m.figure.interval[1])) for m in about])
    slack = EDGE * (high - low)
    at = np.linspace(low, high, 61)
    bound = np.full(len(at), np.inf)
    for k, hz in enumerate(at):
        below, above = most[f <= hz + slack], most[f >= hz - slack]
        if len(below) and len(above):
            nearest_below, nearest_above = f[f <= hz + slack].max(), f[f >= hz - slack].min()
            bound[k] = max(most[f == nearest_below].min(), most[f == nearest_above].min())
    q = q_most(antenna, question.centre_hz)
    if q is not None:
        beside = most + q * np.abs(at[:, None] - f) / question.centre_hz
        bound = np.minimum(bound, beside.min(axis=1))
    size = float(bound.max())
    told = float(reflection.swr(size)) if size < 0.95 else None
    return OverBand(worst.figure, worst.reading.frequency_hz, told)


def load_check(readings: Sequence[MeterReading]) -> Check | None:
    """A match that is perfect over an octave: no antenna does that."""
    good = [r.frequency_hz for r in readings if r.swr <= LOAD_SWR]
    bad = [r.frequency_hz for r in readings if r.swr > LOAD_SWR]
    if len(good) < 3 or max(good) < OCTAVE * min(good) or any(min(good) < b < max(good) for b in bad):
        return None
    return _load(min(good), max(good))


def swept_load_check(frequency_hz: np.ndarray, magnitude: np.ndarray) -> Check | None:
    """The same of a sweep."""
    if frequency_hz[-1] < OCTAVE * frequency_hz[0]:
        return None
    if float(np.percentile(magnitude, 95.0)) > float(reflection.gamma_from_swr(LOAD_SWR)):
        return None
    return _load(float(frequency_hz[0]), float(frequency_hz[-1]))


def _load(low_hz: float, high_hz: float) -> Check:
    octaves = math.log2(high_hz / low_hz)
    words = f"SWR under {LOAD_SWR:g} over {show.band(low_hz, high_hz)}: a dummy load, or a lossy line"
    why = f"No antenna is matched so well over {show.fixed(octaves, 1)} octaves: its power goes into heat."
    return Check("disagrees", words, None, why)
