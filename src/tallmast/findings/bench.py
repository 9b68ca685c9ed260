"""Bench: is it matched, where, and can the reading be believed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Claim, MeterReading, Question, Sweep
from tallmast.physics import reflection
from tallmast.physics.decibels import Floats, amplitude_ratio
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from .aims import Aims
from .figure import Check, Figure, Finding, Mark, Standing, Working

WINDOW_LIMITS = (1.5, 2.0, 3.0)
NORMAL_90 = coverage_factor(float("inf"))


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
    impedance_ohm: complex
    return_loss_db: float
    mismatch_loss_db: float
    mismatch_loss_u_db: float


@dataclass(frozen=True, eq=False, repr=False)
class MeterJudgement:
    """A meter reading held against the analyzer at the same frequency and state."""

    reading: MeterReading
    figure: Figure
    analyzer: Figure | None
    mark: Mark
    words: str


@dataclass(frozen=True, eq=False, repr=False)
class AntennaBench:
    """All that the bench says of one antenna."""

    antenna: Antenna
    sweep: SweepReading | None
    earlier: tuple[SweepReading, ...]
    meters: tuple[MeterJudgement, ...]
    worst: Figure | None
    """Worst SWR in the band by the best source there is."""
    limit_mark: Mark
    claim: Claim | None
    claim_mark: Mark
    trim: Figure | None
    """Cut off each part, m; negative: too short by that much."""
    advice: str
    not_comparable: str
    """Why its sweeps can't be compared with each other; empty if they can."""


@dataclass(frozen=True, eq=False, repr=False)
class BenchFinding(Finding):
    antennas: tuple[AntennaBench, ...] = ()
    focus: AntennaBench | None = None
    band_hz: tuple[float, float] = (0.0, 0.0)
    limit: float = 1.5
    at_hz: float = 0.0


def swr_interval(magnitude: Floats, u: Floats) -> tuple[Floats, Floats]:
    """90 % interval of SWR from |Γ| and its standard uncertainty; the lower end stops at 1."""
    low = reflection.swr(np.maximum(magnitude - NORMAL_90 * u, 0.0))
    return low, reflection.swr(magnitude + NORMAL_90 * u)


def swr_figure(name: str, magnitude: float, u: float, working: Working) -> Figure:
    """An SWR with its lopsided interval; one-sided where the bench can't tell it from a perfect match."""
    low, high = swr_interval(np.array([magnitude]), np.array([u]))
    value = float(reflection.swr(magnitude))
    bound: Literal["", "at most"] = "at most" if magnitude < NORMAL_90 * u else ""
    return Figure(name, value, u, "", working, low=float(low[0]), high=float(high[0]), bound=bound)


def judge_limit(figure: Figure, limit: float) -> Mark:
    """At or under a limit: holds or fails only when the whole interval says so."""
    low, high = figure.interval
    return "holds" if high <= limit else "fails" if low > limit else "open"


def _swr_working(sweep: Sweep, at_hz: float, measured: float, at_antenna: float, u: float, loss_db: float) -> Working:
    cable = sweep.cable
    ratio = float(reflection.swr(at_antenna))
    lines = [f"Γ measured  {measured:.3f} at {show.frequency(at_hz)}"]
    if cable.loss_db:
        lines += [
            f"cable       {show.decibel(cable.loss_db, 2)} each way, {show.length(cable.length_m)}",
            f"Γ antenna = Γ·10^(2·{cable.loss_db:.2f}/20) = {at_antenna:.3f}",
        ]
    lines += [
        "SWR = (1+|Γ|)/(1−|Γ|)",
        f"    = {1 + at_antenna:.3f} / {1 - at_antenna:.3f} = {show.swr(ratio)}",
        f"|Γ| = {at_antenna:.3f} ± {NORMAL_90 * u:.3f} (90 %)",
    ]
    grown = float(amplitude_ratio(2 * cable.loss_db))
    delta = float(amplitude_ratio(-sweep.directivity_db))
    parts = [
        (f"directivity left, {sweep.directivity_db:g} dB", f"{delta * grown / np.sqrt(2):.3f}"),
        (f"cable loss, u = {cable.loss_u_db:g} dB", f"{at_antenna * np.log(10) / 20 * 2 * cable.loss_u_db:.3f}"),
        ("noise", f"{sweep.noise * grown:.3f}"),
    ]
    meaning = (
        f"{show.upper_first(show.percent(at_antenna**2))} of the power comes back. "
        f"That costs {show.decibel(loss_db, 2)}. A good match alone doesn't make a good antenna: a dummy load has 1.0."
    )
    return Working(
        tuple(lines),
        tuple(part for part in parts if float(part[1]) > 0),
        "Pozar, Microwave Engineering, §2.3; residual directivity as a vector of unknown phase",
        meaning,
    )


def _at(reading_f: Floats, values: Floats, frequency_hz: float) -> float:
    return float(np.interp(frequency_hz, reading_f, values))


def read_sweep(evidence: Evidence, sweep: Sweep, state: str, question: Question, at_hz: float) -> SweepReading:
    """A sweep with its cable taken out, its uncertainty, and what it says of the band."""
    series = evidence.series(sweep.series_id)
    f = np.asarray(series["frequency_hz"])
    measured = np.asarray(series["re"]) + 1j * np.asarray(series["im"])
    cable = sweep.cable
    gamma = reflection.without_cable(measured, f, cable.loss_db, cable.length_m, cable.velocity_factor)
    magnitude = np.abs(gamma)
    u = reflection.gamma_uncertainty(magnitude, sweep.directivity_db, sweep.noise, cable.loss_db, cable.loss_u_db)
    swr = reflection.swr(magnitude)
    low, high = swr_interval(magnitude, u)
    covers = bool(f[0] <= question.band_low_hz * (1 + 1e-9) and f[-1] >= question.band_high_hz * (1 - 1e-9))

    def figure(name: str, hz: float) -> Figure:
        m, m_raw, du = _at(f, magnitude, hz), _at(f, np.abs(measured), hz), _at(f, u, hz)
        loss = float(reflection.mismatch_loss_db(m))
        return swr_figure(name, m, du, _swr_working(sweep, hz, m_raw, m, du, loss))

    worst = None
    if covers:
        inside = (f > question.band_low_hz) & (f < question.band_high_hz)
        points = np.concatenate(([question.band_low_hz], f[inside], [question.band_high_hz]))
        worst_hz = float(points[int(np.argmax(np.interp(points, f, magnitude)))])
        worst = figure("SWR, worst in band", worst_hz)
    at_hz = float(np.clip(at_hz, f[0], f[-1]))
    m = _at(f, magnitude, at_hz)
    mismatch = float(reflection.mismatch_loss_db(m))
    spread = float(reflection.mismatch_loss_db(min(m + _at(f, u, at_hz), 0.99))) - mismatch
    g = complex(_at(f, gamma.real, at_hz), _at(f, gamma.imag, at_hz))
    return SweepReading(
        sweep,
        state,
        f,
        gamma,
        u,
        swr,
        low,
        high,
        reflection.resonance_hz(f, gamma),
        {limit: reflection.usable_windows(f, swr, limit) for limit in WINDOW_LIMITS},
        covers,
        worst,
        at_hz,
        figure("SWR", at_hz),
        complex(reflection.impedance(g)),
        float(reflection.return_loss_db(m)),
        mismatch,
        spread,
    )


def _meter_figure(reading: MeterReading) -> Figure:
    u = reading.relative_u * reading.swr
    lines = [f"meter reads {reading.swr:.2f} at {show.frequency(reading.frequency_hz)}"]
    if reading.forward_w and reading.reflected_w is not None:
        lines = [
            "SWR = (1+√(Pr/Pf)) / (1−√(Pr/Pf))",
            f"Pf {show.power(reading.forward_w)}, Pr {show.power(reading.reflected_w or 1e-12)}",
        ]
    return Figure(
        "SWR by meter",
        reading.swr,
        u,
        "",
        Working(
            tuple(lines),
            ((f"meter, {reading.relative_u * 100:g} % of reading", f"{u:.2f}"),),
            "the meter's stated accuracy, as a standard uncertainty",
            "An inline meter sees what the cable hides as well: beyond a lossy cable it reads better than the antenna is.",
        ),
        low=max(1.0, reading.swr - NORMAL_90 * u),
        high=reading.swr + NORMAL_90 * u,
        digits=2,
    )


def judge_meter(reading: MeterReading, sweep: SweepReading | None) -> MeterJudgement:
    """Meter against analyzer: within their combined uncertainty (90 %) or not."""
    figure = _meter_figure(reading)
    where = show.frequency(reading.frequency_hz)
    inside = sweep is not None and sweep.frequency_hz[0] <= reading.frequency_hz <= sweep.frequency_hz[-1]
    if sweep is None or not inside or sweep.sweep.state_id != reading.state_id:
        return MeterJudgement(reading, figure, None, "open", f"no sweep to hold it against at {where}")
    m = _at(sweep.frequency_hz, np.abs(sweep.gamma), reading.frequency_hz)
    u = _at(sweep.frequency_hz, sweep.u, reading.frequency_hz)
    analyzer = swr_figure("SWR by analyzer", m, u, sweep.at.working)
    # dSWR/d|Γ| = 2/(1−|Γ|)²: the analyzer's doubt in SWR, so that both can be added.
    u_swr = u * 2.0 / (1.0 - min(m, 0.95)) ** 2
    apart = reading.swr - analyzer.value
    allowed = NORMAL_90 * float(np.hypot(figure.u, u_swr))
    if abs(apart) <= allowed:
        return MeterJudgement(reading, figure, analyzer, "holds", f"meter agrees within {abs(apart):.2f} at {where}")
    words = f"meter reads {show.swr(reading.swr)}, analyzer {show.swr(analyzer.value)} at {where}"
    return MeterJudgement(reading, figure, analyzer, "disagrees", words)


def trim_figure(antenna: Antenna, reading: SweepReading, question: Question) -> Figure | None:
    """How much to cut off each part to bring the resonance to the band's centre."""
    if antenna.cut_part_m is None or reading.resonance_hz is None:
        return None
    wanted, found, part = question.centre_hz, reading.resonance_hz, antenna.cut_part_m
    cut = reflection.trim_length(part, found, wanted)
    u = abs(cut) * 0.1 + part * 0.0005
    working = Working(
        (
            "ΔL = L·(f wanted − f found)/f wanted",
            f"L = {show.length(part)}",
            f"f found  {show.frequency(found, 2)}, wanted {show.frequency(wanted, 2)}",
            f"ΔL = {show.small_length(cut)} off each part",
        ),
        (
            ("end effects, other elements (10 %)", f"{abs(cut) * 100:.2f} mm"),
            ("reading the resonance", f"{part * 0.5:.2f} mm"),
        ),
        "length × frequency stays constant; the workshop rule ΔL ≈ −L·Δf/f",
        "A low resonance means electrically long. Cut half of it, sweep, then the rest: wire can't be put back.",
    )
    return Figure("trim", cut * 1e3, u * 1e3, "mm", working, digits=1)


def _advise(antenna: Antenna, reading: SweepReading, question: Question, mark: Mark, trim: Figure | None) -> str:
    if mark == "holds":
        return ""
    if reading.resonance_hz is None:
        end = "below" if np.argmin(reading.swr) == 0 else "above"
        return f"best match lies {end} the sweep: sweep wider"
    off = reading.resonance_hz - question.centre_hz
    if abs(off) < 0.001 * question.centre_hz:
        ohm = reflection.impedance(np.interp(reading.resonance_hz, reading.frequency_hz, reading.gamma)).real
        return f"resonance is in place; R is {float(ohm):.0f} Ω there, so match it rather than trim"
    if trim is not None and trim.value > 0:
        return f"trim {trim.short} off each part, half of it first"
    if trim is not None:
        return f"too short by {show.fixed(-trim.value, 1)} mm each part: lengthen it, or sleeve it"
    if off < 0:
        return f"resonates {show.frequency(-off, 1)} low, electrically long: shorten a little at a time"
    return f"resonates {show.frequency(off, 1)} high, electrically short: lengthen it, or sleeve it"


def _read_antenna(evidence: Evidence, antenna: Antenna, question: Question, at_hz: float) -> AntennaBench:
    sweeps = evidence.sweeps(antenna.id)
    readings = [read_sweep(evidence, s, antenna.state_name(s.state_id), question, at_hz) for s in sweeps]
    current = [r for r in readings if r.sweep.state_id == antenna.state.id]
    latest = (current or readings)[-1] if readings else None
    by_state = {r.sweep.state_id: r for r in readings}
    meters = tuple(judge_meter(m, by_state.get(m.state_id)) for m in evidence.meter_readings(antenna.id))
    worst = latest.worst if latest else None
    if worst is None:
        now = [m for m in meters if m.reading.state_id == antenna.state.id]
        inside = [
            m for m in now if question.band_low_hz * 0.999 <= m.reading.frequency_hz <= question.band_high_hz * 1.001
        ]
        worst = max((m.figure for m in inside), key=lambda figure: figure.value, default=None)
    mark: Mark = judge_limit(worst, question.swr_limit) if worst else "open"
    claim = next((c for c in evidence.claims(antenna.id) if c.quantity == "swr"), None)
    claim_mark: Mark = judge_limit(worst, claim.value) if claim and worst else "open"
    trim = trim_figure(antenna, latest, question) if latest else None
    advice = _advise(antenna, latest, question, mark, trim) if latest else ""
    fixtures = sorted({r.sweep.fixture for r in current if r.sweep.fixture})
    apart = f"{show.join(fixtures)} are different fixtures or seatings" if len(fixtures) > 1 else ""
    earlier = tuple(r for r in readings if r is not latest)
    return AntennaBench(antenna, latest, earlier, meters, worst, mark, claim, claim_mark, trim, advice, apart)


def _sentence(bench: AntennaBench, question: Question) -> tuple[str, str]:
    name, limit = bench.antenna.name, f"{question.swr_limit:g}"
    band = show.band(question.band_low_hz, question.band_high_hz)
    reading, worst = bench.sweep, bench.worst
    if worst is None:
        if reading is not None:
            return (
                f"{name} was swept, but not over the whole of {band}.",
                f"The sweep runs from {show.band(float(reading.frequency_hz[0]), float(reading.frequency_hz[-1]))}.",
            )
        return (
            f"{name} has not been measured in {band} yet.",
            "Drop a Touchstone file on the window, or type a meter reading.",
        )
    if bench.limit_mark == "holds":
        first = f"{name} holds SWR {limit} over {band}: worst {worst.text}."
    elif bench.limit_mark == "fails":
        first = f"{name} misses SWR {limit} in {band}: worst {worst.text}."
    else:
        first = f"{name} may or may not hold SWR {limit} in {band}: worst {worst.text}."
    if bench.advice and reading is not None and reading.resonance_hz is not None:
        off = reading.resonance_hz - question.centre_hz
        if abs(off) >= 0.001 * question.centre_hz:
            way = "low" if off < 0 else "high"
            first = (
                f"{name} resonates {show.frequency(abs(off), 1)} {way}: worst SWR in band {worst.text}, limit {limit}."
            )
    if reading is None:
        return first, "By meter only: a sweep would show where it resonates and how far its window reaches."
    detail = (
        f"State: {reading.state}. At {show.frequency(reading.at_hz)} {show.percent(10 ** (-reading.return_loss_db / 10))} of the power comes "
        f"back, costing {show.decibel(reading.mismatch_loss_db, 2)}."
    )
    if bench.advice:
        detail += f" Advice: {bench.advice}."
    return first, detail


def find(evidence: Evidence, aims: Aims) -> BenchFinding:
    """The Bench's finding, told of the antenna in focus."""
    question = evidence.question
    if question is None or not evidence.antennas:
        return BenchFinding(
            "Nothing to measure yet.",
            "The Bench answers: is it matched, where, and can the reading be believed? Put an antenna on the Shelf first.",
            Standing("nothing", "nothing swept yet"),
        )
    at_hz = aims.at_hz or question.centre_hz
    benches = tuple(_read_antenna(evidence, antenna, question, at_hz) for antenna in evidence.antennas)
    measured = [b for b in benches if b.worst is not None or b.sweep is not None]
    focus = next((b for b in benches if b.antenna.id == aims.focus_id), measured[0] if measured else benches[0])
    checks: list[Check] = []
    if focus.worst:
        words = {"holds": "holds", "fails": "fails", "open": "not shown yet", "disagrees": "disagrees"}[
            focus.limit_mark
        ]
        checks.append(Check(focus.limit_mark, f"SWR {question.swr_limit:g} in band {words}", focus.worst))
    if focus.claim:
        checks.append(
            Check(
                focus.claim_mark,
                f"claim SWR ≤ {focus.claim.value:g}",
                focus.worst,
                "What was claimed, held against the worst in band.",
            )
        )
    for meter in focus.meters:
        if meter.mark != "open":
            checks.append(Check(meter.mark, meter.words, meter.figure))
    if focus.not_comparable:
        checks.append(Check("disagrees", "some sweeps can't be compared", None, focus.not_comparable + "."))
    swept = sum(b.worst is not None for b in benches)
    quarrel = any(m.mark == "disagrees" for b in benches for m in b.meters)
    if not measured:
        standing = Standing("nothing", "nothing swept yet")
    elif quarrel:
        standing = Standing("disagreement", "a meter disagrees")
    elif swept == len(benches):
        words = {1: "it is measured", 2: "both measured"}.get(swept, f"all {swept} measured")
        standing = Standing("done", words)
    else:
        standing = Standing("some", f"{swept} of {len(benches)} measured")
    sentence, detail = _sentence(focus, question)
    return BenchFinding(
        sentence,
        detail,
        standing,
        tuple(checks),
        focus.worst or (focus.sweep.at if focus.sweep else None),
        benches,
        focus,
        (question.band_low_hz, question.band_high_hz),
        question.swr_limit,
        at_hz,
    )
