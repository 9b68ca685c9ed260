"""One sweep brought to the antenna's connector, with its doubt, and what it says of the band."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Question, Sweep
from tallmast.physics import reflection, resonance
from tallmast.physics.decibels import Floats, amplitude_ratio
from tallmast.units import show

from ..figure import Figure, Working
from . import plane
from .swr import NORMAL_90, swr_figure, swr_interval
from .trust import CalibrationReading

WINDOW_LIMITS = (1.5, 2.0, 3.0)


@dataclass(frozen=True, eq=False, repr=False)
class SweepReading:
    """One sweep brought to the antenna's connector and read."""

    sweep: Sweep
    state: str
    frequency_hz: Floats
    gamma: NDArray[np.complex128]
    u: Floats
    """Standard uncertainty of |Γ|."""
    swr: Floats
    swr_low: Floats
    swr_high: Floats
    """90 % interval, point by point."""
    resonance_hz: float | None
    windows: dict[float, list[tuple[float, float]]]
    covers_band: bool
    worst: Figure | None
    """Worst SWR in the band."""
    at_hz: float
    at: Figure
    """SWR at the frequency asked for, `at_hz`."""
    impedance_ohm: complex | None
    """None where the sweep holds no phase."""
    return_loss_db: float
    mismatch_loss_db: float
    mismatch_loss_u_db: float
    directivity_db: float
    """What was left of it: by the calibration where there is one, else as stated."""
    calibration: CalibrationReading | None = None
    model: resonance.Resonance | None = None
    """The resonance fitted to the whole sweep, where that was asked for and found."""
    unqualified: str = ""
    """Why it can't be trusted as it stands; empty if it can."""
    apart: str = ""
    """Why it can't be compared with the newest sweep; empty if it can."""


def _swr_working(
    sweep: Sweep, directivity_db: float, at_hz: float, measured: float, at_antenna: float, u: float, loss_db: float
) -> Working:
    cable, known = sweep.cable, sweep.phase_known
    there = float(plane.loss_db(cable, np.array([at_hz]))[0])
    ratio = float(reflection.swr(at_antenna))
    lines = [f"Γ measured  {measured:.3f} at {show.frequency(at_hz)}"]
    if there:
        lines += [
            f"cable       {show.decibel(there, 2)} each way, {show.length(cable.length_m)}",
            f"Γ antenna = Γ·10^(2·{there:.2f}/20) = {at_antenna:.3f}",
        ]
    lines += [
        "SWR = (1+|Γ|)/(1−|Γ|)",
        f"    = {1 + at_antenna:.3f} / {1 - at_antenna:.3f} = {show.swr(ratio)}",
        f"|Γ| = {at_antenna:.3f} ± {NORMAL_90 * u:.3f} (90 %)",
    ]
    grown = float(amplitude_ratio(2 * there))
    delta = float(amplitude_ratio(-directivity_db))
    parts = [
        (f"directivity left, {directivity_db:.3g} dB", f"{delta * grown / np.sqrt(2):.3f}"),
        (f"cable loss, u = {cable.loss_u_db:g} dB", f"{at_antenna * np.log(10) / 20 * 2 * cable.loss_u_db:.3f}"),
        ("noise", f"{sweep.noise * grown:.3f}"),
    ]
    meaning = (
        f"{show.upper_first(show.percent(at_antenna**2))} of the power comes back. "
        f"That costs {show.decibel(loss_db, 2)}. {'' if known else 'The file held no phase, so this is all it tells. '}A good match alone doesn't make a good antenna: a dummy load has 1.0."
    )
    return Working(
        tuple(lines),
        tuple(part for part in parts if float(part[1]) > 0),
        "Pozar, Microwave Engineering, §2.3; residual directivity as a vector of unknown phase",
        meaning,
    )


def value_at(reading_f: Floats, values: Floats, frequency_hz: float) -> float:
    return float(np.interp(frequency_hz, reading_f, values))


def _resonance(f: Floats, gamma: NDArray[np.complex128], phase_known: bool) -> float | None:
    """Where X goes through zero; of a sweep without phase, where the match is best. None outside the sweep."""
    if phase_known:
        return reflection.resonance_hz(f, gamma)
    best = int(np.argmin(np.abs(gamma)))
    return float(f[best]) if 0 < best < len(f) - 1 else None


def read_sweep(
    evidence: Evidence,
    sweep: Sweep,
    state: str,
    question: Question,
    at_hz: float,
    calibration: CalibrationReading | None = None,
    with_model: bool = False,
) -> SweepReading:
    """A sweep corrected by its calibration, with its cable taken out, its uncertainty, and what it says of the band."""
    series = evidence.series(sweep.series_id)
    f = np.asarray(series["frequency_hz"])
    measured = np.asarray(series["re"]) + 1j * np.asarray(series["im"])
    cable, directivity = sweep.cable, sweep.directivity_db
    if calibration is not None:
        measured, directivity = calibration.corrected(f, measured), calibration.left.value
    gamma = plane.at_antenna(cable, f, measured)
    magnitude = np.abs(gamma)
    u = plane.doubt(cable, f, magnitude, directivity, sweep.noise)
    swr = reflection.swr(magnitude)
    low, high = swr_interval(magnitude, u)
    covers = bool(f[0] <= question.band_low_hz * (1 + 1e-9) and f[-1] >= question.band_high_hz * (1 - 1e-9))

    def figure(name: str, hz: float) -> Figure:
        m, m_raw, du = value_at(f, magnitude, hz), value_at(f, np.abs(measured), hz), value_at(f, u, hz)
        loss = float(reflection.mismatch_loss_db(m))
        return swr_figure(name, m, du, _swr_working(sweep, directivity, hz, m_raw, m, du, loss))

    worst = None
    if covers:
        inside = (f > question.band_low_hz) & (f < question.band_high_hz)
        points = np.concatenate(([question.band_low_hz], f[inside], [question.band_high_hz]))
        worst_hz = float(points[int(np.argmax(np.interp(points, f, magnitude)))])
        worst = figure("SWR, worst in band", worst_hz)
    at_hz = float(np.clip(at_hz, f[0], f[-1]))
    m = value_at(f, magnitude, at_hz)
    mismatch = float(reflection.mismatch_loss_db(m))
    spread = float(reflection.mismatch_loss_db(min(m + value_at(f, u, at_hz), 0.99))) - mismatch
    model = None
    if with_model and sweep.phase_known:
        loss = float(plane.loss_db(cable, np.array([at_hz]))[0])
        model = resonance.fit(f, gamma, float(amplitude_ratio(2 * loss - directivity)))
    g = complex(value_at(f, gamma.real, at_hz), value_at(f, gamma.imag, at_hz))
    return SweepReading(
        sweep,
        state,
        f,
        gamma,
        u,
        swr,
        low,
        high,
        model.f0_hz if model else _resonance(f, gamma, sweep.phase_known),
        {limit: reflection.usable_windows(f, swr, limit) for limit in WINDOW_LIMITS},
        covers,
        worst,
        at_hz,
        figure("SWR", at_hz),
        complex(reflection.impedance(g)) if sweep.phase_known else None,
        float(reflection.return_loss_db(m)),
        mismatch,
        spread,
        directivity,
        calibration,
        model,
    )
