"""The Bench's finding in words: is it matched, where, and can the reading be believed."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, CableSweep, Calibration, Fixture, HomeEnd, Question, Sweep
from tallmast.units import show

from ..aims import Aims, subject
from ..figure import Check, Figure, FindingOfAntennas, Mark, Standing, Working, against
from ..levels.pieces import Drawer
from .cables import CableReading, read_cable
from .claims import BenchClaim, judge
from .ladder import LadderRung, ladder
from .leads import LOSSY_DB, behind_words, left_in, swr_through
from .match import MatchProposal, propose
from .meter import MeterJudgement, changes, judge_meters, lowest_words
from .over_band import OverBand, load_check, over_band, swept_load_check
from .quality import q_figure
from .reading import SweepReading, read_sweep
from .swr import judge_limit
from .trim import OwnSlope, advise, is_off, off_by, own_slope, trim_figure
from .trust import CalibrationReading, FixtureReading, qualified_when, read_calibration, read_fixture, why_not_trusted

LEAST_LOSS_DB = 0.005
"""From here on a mismatch costs something in two decimals."""
MOST_READ = 24
"""Sweeps of one antenna that are read each time, besides the newest of every state."""


class AntennaBench(Frozen):
    """All that the bench says of one antenna."""

    antenna: Antenna
    sweep: SweepReading | None
    earlier: tuple[SweepReading, ...]
    meters: tuple[MeterJudgement, ...]
    worst: Figure | None
    """Worst SWR in the band by the best source there is."""
    limit_mark: Mark
    claims: tuple[BenchClaim, ...]
    trim: Figure | None
    """Cut off each part, m; negative: too short by that much."""
    advice: str
    not_comparable: str
    """Why its sweeps can't be compared with each other; empty if they can."""
    ladder: tuple[SweepReading, ...] = ()
    """The newest sweep of each earlier state: the way it was trimmed."""
    unread: int = 0
    """Older sweeps of the same states that are kept, and not read here."""
    slope: OwnSlope | None = None
    rungs: tuple[LadderRung, ...] = ()
    """Every state that was swept, oldest first."""
    hand: Figure | None = None
    """How far a hand near moves the resonance, where both were swept."""
    by_meter: OverBand | None = None
    """What the meter's readings say of the band, where no sweep covers it."""

    @property
    def match_words(self) -> str:
        """`SWR 1.34 (1.28 to 1.41) in the band`, or where it was read; empty: not measured."""
        if self.worst is None:
            return ""
        where = f"at {show.frequency(self.by_meter.at_hz)}" if self.by_meter is not None else "in the band"
        return f"SWR {self.worst.text} {where}"


class BenchFinding(FindingOfAntennas):
    antennas: tuple[AntennaBench, ...] = ()
    focus: AntennaBench | None = None
    band_hz: tuple[float, float] = (0.0, 0.0)
    limit: float = 1.5
    at_hz: float = 0.0
    fixtures: tuple[FixtureReading, ...] = ()
    calibrations: tuple[CalibrationReading, ...] = ()
    cables: tuple[CableReading, ...] = ()
    matches: tuple[MatchProposal, ...] = ()
    """Ways to match the antenna in focus, best first; empty while it holds its limit."""


def _seat(sweep: Sweep) -> tuple[str, int]:
    """What must be alike for two sweeps to be comparable."""
    return (sweep.fixture_id or sweep.fixture, sweep.reconnection)


def _apart(sweep: Sweep, newest: Sweep) -> str:
    """Why a sweep can't be compared with the newest; empty if it can, or was taken in with a reason."""
    if sweep.taken_in_reason or newest.taken_in_reason or _seat(sweep) == _seat(newest):
        return ""
    if sweep.fixture_id and sweep.fixture_id == newest.fixture_id:
        return "the fixture was moved in between"
    if not (sweep.fixture or sweep.fixture_id) or not (newest.fixture or newest.fixture_id):
        return "one of the two names no fixture"
    return "taken on another fixture or connection"


def _hand(readings: list[SweepReading]) -> Figure | None:
    """The hand-near test: resonance with a hand near against the newest without, same state and seat."""
    for near in reversed([r for r in readings if r.sweep.hand_near and r.resonance_hz is not None]):
        free = [
            r
            for r in readings
            if not r.sweep.hand_near and r.sweep.state_id == near.sweep.state_id and _seat(r.sweep) == _seat(near.sweep)
        ]
        if free and free[-1].resonance_hz is not None and near.resonance_hz is not None:
            without, shift = free[-1], near.resonance_hz - free[-1].resonance_hz
            each = [(r, r.u_resonance_alone_hz) for r in (without, near)]
            u = float(np.hypot(each[0][1], each[1][1]))
            working = Working(
                (
                    f"without  {show.frequency(without.resonance_hz or 0.0, 2)}, SWR at best {show.swr(float(without.swr.min()))}",
                    f"hand near {show.frequency(near.resonance_hz, 2)}, SWR at best {show.swr(float(near.swr.min()))}",
                ),
                (
                    ("resonance without", f"{each[0][1] / 1e6:.3f} MHz"),
                    ("resonance with the hand", f"{each[1][1] / 1e6:.3f} MHz"),
                ),
                "two sweeps, nothing else changed",
                "A large shift means that the body is part of the antenna: judge it as it will be held.",
            )
            return Figure("shift by a hand near", shift / 1e6, u / 1e6, "MHz", working)
    return None


def _read_antenna(
    evidence: Evidence,
    antenna: Antenna,
    question: Question,
    at_hz: float,
    calibrations: dict[str, CalibrationReading],
    fixtures: dict[str, FixtureReading],
    closely: bool,
) -> AntennaBench:
    sweeps = evidence.sweeps(antenna.id)
    every = []
    newest = {(s.state_id, s.hand_near): s.id for s in sweeps}
    read = {s.id for s in sweeps[-MOST_READ:]} | set(newest.values())
    for s in sweeps:
        if s.id not in read:
            continue
        calibration = calibrations.get(s.calibration_id)
        grid = np.asarray(evidence.series(s.series_id)["frequency_hz"])
        used = calibration if calibration is not None and calibration.covers(grid) else None
        closer = closely and s.id == newest[s.state_id, s.hand_near]
        reading = read_sweep(evidence, s, antenna.state_name(s.state_id), question, at_hz, used, closer)
        why = ""
        if s.calibration_id and used is None:
            why = "its calibration can’t be used over this sweep, so it is read as shown"
        elif used is not None:
            why = why_not_trusted(used, s)
        if s.fixture_id in fixtures:
            why = why or qualified_when(fixtures[s.fixture_id], s)
        free = [x for x in sweeps if not x.hand_near] or sweeps
        every.append(replace(reading, unqualified=why, apart=_apart(s, free[-1])))
    readings = [r for r in every if not r.sweep.hand_near] or every
    current = [r for r in readings if r.sweep.state_id == antenna.state.id]
    latest = (current or readings)[-1] if readings else None
    by_state = {r.sweep.state_id: r for r in readings if not r.apart}
    meters = judge_meters(evidence.meter_readings(antenna.id), by_state)
    now = [m for m in meters if m.reading.state_id == antenna.state.id]
    swept = latest.worst if latest else None
    by_meter = over_band(antenna, now, question) if swept is None else None
    worst = by_meter.worst if by_meter is not None else swept

    def within(limit: float) -> Mark:
        return by_meter.judged(limit) if by_meter is not None else judge_limit(worst, limit) if worst else "open"

    mark = within(question.swr_limit)
    claims = tuple(c for claim in evidence.claims(antenna.id) if (c := judge(claim, latest, worst, within)) is not None)
    slope = own_slope(antenna, readings)
    trim = trim_figure(antenna, latest, question, slope) if latest and is_off(latest, question) else None
    advice = advise(latest, question, mark, trim, slope) if latest else ""
    names = sorted({r.sweep.fixture for r in current if r.sweep.fixture})
    apart = f"{show.join(names)} are different fixtures or connections" if len(names) > 1 else ""
    earlier = tuple(r for r in readings if r is not latest)
    return AntennaBench(
        antenna,
        latest,
        earlier,
        meters,
        worst,
        mark,
        claims,
        trim,
        advice,
        apart,
        tuple(
            r for r in earlier if latest and r.sweep.state_id != latest.sweep.state_id and r.sweep.id in newest.values()
        ),
        len(sweeps) - len(read),
        slope,
        ladder(antenna, readings, question),
        _hand(every),
        by_meter,
    )


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
    if bench.by_meter is not None:
        first = f"{name} reads SWR {worst.text} {bench.by_meter.words(band)}."
        if bench.limit_mark == "holds" and bench.by_meter.most_swr is not None:
            first = f"{name} holds SWR {limit} over {band}: at most {show.swr(bench.by_meter.most_swr)} by its meter readings."
        elif bench.limit_mark == "fails":
            first = f"{name} misses SWR {limit} in {band}: {worst.text} at {show.frequency(bench.by_meter.at_hz)}."
    elif bench.limit_mark == "holds":
        first = f"{name} holds SWR {limit} over {band}: worst {worst.text}."
    elif bench.limit_mark == "fails":
        first = f"{name} misses SWR {limit} in {band}: worst {worst.text}."
    else:
        first = f"{name} may or may not hold SWR {limit} in {band}: worst {worst.text}."
    off_limit = bench.limit_mark != "holds" and reading is not None and reading.resonance_hz is not None
    if bench.advice and off_limit and reading is not None and is_off(reading, question):
        off = (reading.resonance_hz or 0.0) - question.centre_hz
        way = "low" if off < 0 else "high"
        first = f"{name} resonates {off_by(reading, off)} {way}: worst SWR in band {worst.text}, limit {limit}."
    if reading is None:
        now = [m for m in bench.meters if m.reading.state_id == bench.antenna.state.id]
        sweep = "By meter only: a sweep would show where it resonates and how far its window reaches."
        if bench.by_meter is not None and bench.limit_mark == "open":
            sweep = f"Read it at both ends of the band: {show.frequency(question.band_low_hz)} and {show.frequency(question.band_high_hz)}."
        across = lowest_words(now, (question.band_low_hz, question.band_high_hz))
        return first, " ".join(filter(None, (across, sweep)))
    loss = reading.mismatch_loss_db
    cost = show.decibel(loss, 2) if loss >= LEAST_LOSS_DB else "next to nothing"
    detail = (
        f"State: {reading.state}. At {show.frequency(reading.at_hz)} {show.percent(10 ** (-reading.return_loss_db / 10))} of the power comes "
        f"back, costing {cost}."
    )
    if bench.advice:
        detail += f" Advice: {bench.advice}."
    return first, detail


def _lead_checks(evidence: Evidence, bench: AntennaBench, cables: tuple[CableReading, ...]) -> list[Check]:
    """A lead of the notebook that a sweep was taken through, by what was noted of it or by its own turn, and that is not taken out."""
    reading = bench.sweep
    if reading is None or reading.sweep.cable.loss_db or reading.sweep.cable.root_db is not None:
        return []
    fixture = evidence.get(Fixture, reading.sweep.fixture_id)
    noted = f"{reading.sweep.fixture} {fixture.name} {fixture.body}" if fixture else reading.sweep.fixture
    leads: dict[str, float] = {}
    for lead in cables:
        if lead.fit is not None and (lead.sweep.name.lower() in noted.lower() or left_in(reading, lead)):
            leads[lead.sweep.name] = float(lead.fit.loss_db(reading.at_hz))
    drawer = Drawer(evidence, reading.at_hz)
    for piece in drawer.pieces.values():
        if piece.type == "cable" and (piece.id in bench.antenna.through or piece.name.lower() in noted.lower()):
            leads[piece.name] = drawer.taken(piece).loss_db
    out = []
    for name, loss in leads.items():
        if loss >= LOSSY_DB:
            shown = (reading.worst or reading.at).value
            words = f"swept through {name}, {show.decibel(loss)} not taken out{behind_words(shown, loss)}"
            why = "A lossy lead makes every match behind it look better: open the sweep and note its cable."
            out.append(Check("disagrees", words, bench.worst, why))
    return out


def _line_checks(evidence: Evidence, one: AntennaBench) -> list[Check]:
    """A line between radio and antenna, by its pieces: what a meter reads at the radio's end of it is better than the antenna is."""
    if not one.meters:
        return []
    newest = one.meters[-1]
    drawer = Drawer(evidence, newest.reading.frequency_hz)
    station = next(iter(evidence.all(HomeEnd)), None)
    named = {
        p.name: drawer.taken(p).loss_db
        for p in drawer.pieces.values()
        if p.type == "cable" and p.id in one.antenna.through
    }
    if station is not None and not named:
        placed = [p for p, _ in drawer.placed(station.placed) if p.type == "cable"]
        named = {p.name: drawer.taken(p).loss_db for p in placed}
        if station.cable_loss_db and not named:
            named = {"its line": station.cable_loss_db}
    loss = sum(named.values())
    if loss < LOSSY_DB or newest.reading.swr < 1.05:
        return []
    behind = behind_words(newest.reading.swr, loss)
    if not behind:
        return []
    why = "Read it at the antenna’s end, or take the line’s loss out: a lossy line hides a mismatch."
    known = newest.analyzer
    through = swr_through(known.value, loss) if known is not None else 0.0
    if known is not None and abs(through - newest.reading.swr) <= newest.figure.half + 0.1:
        words = f"the meter’s {show.swr(newest.reading.swr)} is the analyzer’s {show.swr(known.value)} through {show.join(list(named))}, {show.decibel(loss)}"
        return [Check("disagrees", words, newest.figure, why)]
    if known is not None and newest.mark == "holds":
        return []
    words = (
        f"read at the radio’s end of {show.join(list(named))}, {show.decibel(loss)}?{behind.replace(': SWR', ' SWR')}"
    )
    return [Check("open", words, newest.figure, why)]


def _fixture_checks(focus: AntennaBench, benches: tuple[AntennaBench, ...]) -> list[Check]:
    """Antennas whose sweeps are not comparable with that of the one in focus."""
    mine = focus.sweep.sweep if focus.sweep else None
    if mine is None or not (mine.fixture or mine.fixture_id):
        return []
    others = [
        b.antenna.name
        for b in benches
        if b is not focus
        and b.sweep
        and (b.sweep.sweep.fixture or b.sweep.sweep.fixture_id)
        and _apart(b.sweep.sweep, mine)
    ]
    if not others:
        return []
    verb = "was" if len(others) == 1 else "were"
    why = "Half of an antenna is what it stands on: sweep both on one fixture, seated once, before their matches are compared."
    return [Check("disagrees", f"{show.join(others)} {verb} swept on another fixture", None, why)]


def _own_checks(
    evidence: Evidence, one: AntennaBench, question: Question, cables: tuple[CableReading, ...]
) -> list[Check]:
    """Of one antenna, that of its limit first; what is claimed of it left out."""
    checks: list[Check] = []
    if one.worst:
        checks.append(
            Check(one.limit_mark, f"SWR {question.swr_limit:g} in band {LIMIT_WORDS[one.limit_mark]}", one.worst)
        )
    checks += [Check(meter.mark, meter.words, meter.figure) for meter in one.meters if meter.mark != "open"]
    checks += changes(one.meters)
    by_meter = load_check([m.reading for m in one.meters if m.reading.state_id == one.antenna.state.id])
    swept = swept_load_check(one.sweep.frequency_hz, np.abs(one.sweep.gamma)) if one.sweep else None
    checks += [check for check in (swept or by_meter,) if check is not None]
    quality = q_figure(one.antenna, one.sweep, question) if one.sweep else None
    if quality is not None:
        checks.append(quality[1])
    if one.sweep and one.sweep.unqualified:
        checks.append(Check("disagrees", "this sweep is in doubt", None, f"{show.upper_first(one.sweep.unqualified)}."))
    if one.hand:
        moved = abs(one.hand.value) > 0.002 * question.centre_hz / 1e6
        words = f"a hand near moves it {one.hand.text}"
        checks.append(Check("disagrees" if moved else "holds", words, one.hand))
    if one.not_comparable:
        checks.append(Check("disagrees", "some sweeps can't be compared", None, one.not_comparable + "."))
    return checks + _lead_checks(evidence, one, cables) + _line_checks(evidence, one)


LIMIT_WORDS: dict[Mark, str] = {"holds": "holds", "fails": "fails", "open": "not shown yet", "disagrees": "disagrees"}


def find(evidence: Evidence, aims: Aims) -> BenchFinding:
    """The Bench's finding, told of the antenna in focus."""
    question = evidence.question
    if question is None or not evidence.antennas:
        first = "Ask the question first (Q)" if question is None else "Put an antenna on the Shelf first (A)"
        return BenchFinding(
            "Nothing to measure yet.",
            f"The Bench answers: is it matched, where, and can the reading be believed? {first}.",
            Standing("nothing", "not measured yet"),
        )
    at_hz = aims.at_hz or question.centre_hz
    calibrations = {
        c.id: reading for c in evidence.all(Calibration) if (reading := read_calibration(evidence, c)) is not None
    }
    fixtures = {f.id: read_fixture(evidence, f, question, calibrations) for f in evidence.all(Fixture)}
    asked = subject(evidence)
    closely = {aims.focus_id} | ({asked.id} if asked is not None else set())
    if question.asks == "is it sound" and asked is None:
        closely |= {a.id for a in evidence.antennas}
    benches = tuple(
        _read_antenna(evidence, a, question, at_hz, calibrations, fixtures, closely=a.id in closely)
        for a in evidence.antennas
    )
    measured = [b for b in benches if b.worst is not None or b.sweep is not None]
    focus = next((b for b in benches if b.antenna.id == aims.focus_id), measured[0] if measured else benches[0])
    cables = tuple(read_cable(evidence, c, question, calibrations) for c in evidence.all(CableSweep))
    own = {one.antenna.id: _own_checks(evidence, one, question, cables) for one in benches}
    claimed = [claim.check for claim in focus.claims if claim.figure is not None]
    limit, rest = own[focus.antenna.id][: bool(focus.worst)], own[focus.antenna.id][bool(focus.worst) :]
    checks = [*limit, *claimed, *rest]
    if fixtures:
        checks.append(list(fixtures.values())[-1].check)
    if calibrations:
        newest = list(calibrations.values())[-1]
        checks.append(Check(newest.mark, newest.words, newest.left))
    checks += [c.check for c in cables if c.mark in ("fails", "disagrees")]
    checks += _fixture_checks(focus, benches)
    matches = propose(focus.sweep, question) if focus.sweep and focus.limit_mark != "holds" else ()
    swept = sum(b.worst is not None for b in benches)
    quarrel = any(m.mark == "disagrees" for b in benches for m in b.meters)
    if not measured:
        standing = Standing("nothing", "not measured yet")
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
        tuple(fixtures.values()),
        tuple(calibrations.values()),
        cables,
        matches,
        faults={antenna_id: against(checks) for antenna_id, checks in own.items()},
        of_each={b.antenna.id: (_sentence(b, question)[0], b.worst) for b in measured},
    )
