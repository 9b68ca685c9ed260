"""The Bench's finding in words: is it matched, where, and can the reading be believed."""

from __future__ import annotations

from dataclasses import dataclass

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Claim, Question
from tallmast.units import show

from ..aims import Aims
from ..figure import Check, Figure, Finding, Mark, Standing
from .meter import MeterJudgement, judge_meter
from .reading import SweepReading, judge_limit, read_sweep
from .trim import advise, trim_figure


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
    advice = advise(antenna, latest, question, mark, trim) if latest else ""
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
