"""One sweep brought to the antenna's connector, with its uncertainty, and what it says of the band."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Question, Sweep
from tallmast.physics import reflection, resonance
from tallmast.physics.constants import SPEED_OF_LIGHT
from tallmast.physics.decibels import Floats, amplitude_ratio
from tallmast.physics.resonance import Resonance
from tallmast.physics.statistics import bounded_factor
from tallmast.units import show

from ..figure import Figure, Working
from . import plane
from .swr import swr_figure, swr_interval
from .trust import CalibrationReading

WINDOW_LIMITS = (1.5, 2.0, 3.0)


class SweepReading(Frozen):
    """One sweep brought to the antenna's connector and read."""

    sweep: Sweep
    state: str
    frequency_hz: Floats
    gamma: NDArray[np.complex128]
    u: Floats
    """Standard uncertainty of |Γ|."""
    bounded: Floats
    """Share of its square that residual directivity has, a vector that is no longer than it is."""
    swr: Floats
    swr_low: Floats
    swr_high: Floats
    """90 % interval, point by point."""
    resonance: Figure | None
    """MHz; None where it lies outside the sweep."""
    u_resonance_alone_hz: float
    """Of its standard uncertainty what is new in every sweep; the rest is common to all of one calibration."""
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
    model: Resonance | None = None
    """The resonance fitted to the whole sweep, where that was asked for and found."""
    unqualified: str = ""
    """Why it can't be trusted as it stands; empty if it can."""
    apart: str = ""
    """Why it can't be compared with the newest sweep; empty if it can."""

    @property
    def resonance_hz(self) -> float | None:
        return None if self.resonance is None else self.resonance.value * 1e6


def _swr_working(
    sweep: Sweep,
    drift: float,
    directivity_db: float,
    at_hz: float,
    measured: float,
    at_antenna: float,
    half: float,
    loss_db: float,
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
        f"|Γ| = {at_antenna:.3f} ± {half:.3f} (90 %)",
    ]
    grown = float(amplitude_ratio(2 * there))
    delta = float(amplitude_ratio(-directivity_db))
    parts = [
        (f"directivity left, {directivity_db:.3g} dB", f"{delta * grown / np.sqrt(2):.3f}"),
        (f"cable loss, u = {cable.loss_u_db:g} dB", f"{at_antenna * np.log(10) / 20 * 2 * cable.loss_u_db:.3f}"),
        ("noise", f"{sweep.noise * grown:.3f}"),
        ("terms that drifted", f"{drift / np.sqrt(2.0) * np.sqrt(1.0 + measured**2 + measured**4) * grown:.3f}"),
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


FACTOR_SHARE, SEEN_SHARE = 0.01, 0.002
"""Standard uncertainty of a cable's electrical length: by a velocity factor as printed, and where the cable itself was swept."""
UNCALIBRATED_S = 0.05e-9
"""Standard uncertainty of the two-way delay to an analyzer's own port, where nobody calibrated it: some 7 mm of connector."""
TUNED_BY = {
    "reactance": (
        "where X passes zero, by the points about it",
        "It resonates there; where R is not 50 Ω the best match lies beside it.",
    ),
    "circle": (
        "by the circle of a series resonance behind a delay: the sweep is not referred to its connector",
        "Calibrate at its connector, or note the cable, and it is read off the reactance.",
    ),
    "match": ("the best match: X can’t be read here", "Its resonance lies near, by so much as R and Q leave open."),
}


def _tuning(
    sweep: Sweep, f: Floats, gamma: NDArray[np.complex128], residual: float, calibrated: bool
) -> tuple[Figure | None, float]:
    """Where it resonates, MHz, and what of its u is new in every sweep, Hz; None where that
    is outside the sweep. `residual`: length of the vector left over, as it looks from there."""
    cable = sweep.cable
    delay = 2.0 * cable.length_m / (cable.velocity_factor * SPEED_OF_LIGHT)
    share = FACTOR_SHARE if cable.root_db is None else SEEN_SHARE
    raw = not calibrated and bool(sweep.taken_at) and sweep.raw_sha256 is None
    u_plane = float(np.hypot(share * delay, UNCALIBRATED_S if raw else 0.0))
    seen = gamma if sweep.phase_known else np.abs(gamma)
    found = resonance.tuned(f, seen, residual, delay + resonance.TURNS_S, u_plane)
    if found is None:
        return None, 0.0
    # Open and short hold a calibrated Γ at ±1, so the load leaves over δ·(1 − Γ²) (Rytting 1998).
    most = found.most_hz * (1.0 - found.gamma**2 if calibrated else 1.0)
    shared, u = most / np.sqrt(2.0), float(np.sqrt(found.u_noise_hz**2 + most**2 / 2.0 + found.u_more_hz**2))
    how, meaning = TUNED_BY[found.by]
    more = "the plane of reference" if found.by == "reactance" else "how R goes with frequency"
    working = Working(
        (f"f₀ = {show.frequency(found.f_hz, 2)}, {how}",),
        tuple(
            (words, f"{part / 1e6:.3f} MHz")
            for words, part in (
                ("directivity left", shared),
                (more, found.u_more_hz),
                ("scatter of the points", found.u_noise_hz),
            )
            if part > 0.01 * u
        ),
        "X = 0 of a series resonance (Pozar §6.1); a vector δ moves it by δ/|d Im Γ/df| at most, however it turns",
        meaning,
    )
    bounded = float((shared / u) ** 2) if u > 0 else 0.0
    alone = found.u_noise_hz
    return Figure("resonance", found.f_hz / 1e6, u / 1e6, "MHz", working, bounded=bounded), alone


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
    cable, directivity, drift = sweep.cable, sweep.directivity_db, 0.0
    if calibration is not None:
        measured, directivity = calibration.corrected(f, measured), calibration.load_db
        drift = calibration.drift_until(sweep.taken_at)
    gamma = plane.at_antenna(cable, f, measured)
    magnitude = np.abs(gamma)
    u, bounded = plane.uncertainty(cable, f, magnitude, directivity, sweep.noise, drift)
    swr = reflection.swr(magnitude)
    low, high = swr_interval(magnitude, u, bounded)
    covers = bool(f[0] <= question.band_low_hz * (1 + 1e-9) and f[-1] >= question.band_high_hz * (1 - 1e-9))

    def figure(name: str, hz: float) -> Figure:
        m, m_raw, du = value_at(f, magnitude, hz), value_at(f, np.abs(measured), hz), value_at(f, u, hz)
        loss = float(reflection.mismatch_loss_db(m))
        share = value_at(f, bounded, hz)
        half = float(bounded_factor(share)) * du
        return swr_figure(name, m, du, share, _swr_working(sweep, drift, directivity, hz, m_raw, m, half, loss))

    worst = None
    if covers:
        inside = (f > question.band_low_hz) & (f < question.band_high_hz)
        points = np.concatenate(([question.band_low_hz], f[inside], [question.band_high_hz]))
        worst_hz = float(points[int(np.argmax(np.interp(points, f, magnitude)))])
        worst = figure("SWR, worst in band", worst_hz)
    m = value_at(f, magnitude, at_hz)
    mismatch = float(reflection.mismatch_loss_db(m))
    spread = float(reflection.mismatch_loss_db(min(m + value_at(f, u, at_hz), 0.99))) - mismatch
    at_hz = float(np.clip(at_hz, f[0], f[-1]))
    loss = float(plane.loss_db(cable, np.array([at_hz]))[0])
    left = float(np.hypot(amplitude_ratio(-directivity), drift) * amplitude_ratio(2 * loss))
    tuning = _tuning(sweep, f, gamma, left, calibration is not None)
    model = None
    if with_model and sweep.phase_known:
        model = resonance.fit(f, gamma, left)
    g = complex(value_at(f, gamma.real, at_hz), value_at(f, gamma.imag, at_hz))
    return SweepReading(
        sweep,
        state,
        f,
        gamma,
        u,
        bounded,
        swr,
        low,
        high,
        *tuning,
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
