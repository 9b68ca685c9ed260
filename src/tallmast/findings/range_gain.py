"""Gain on a range: against a reference in turn, of two that are alike, of three without any reference; each with its table of ±."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Comparison, RangeGain
from tallmast.physics import gain_range, reflection
from tallmast.physics.constants import wavelength
from tallmast.units import show

from .figure import Check, Figure, Working, named, parts_of
from .levels.compare import average_db, compare
from .polarization import loss_between

if TYPE_CHECKING:
    from .bench import BenchFinding

UNMOVED_SHARE = 0.4
"""Reflected over direct field, where nothing was moved to see it: 8 dB down. Grass to wet clay sends 0.2 to 0.7 of a grazing ray back
(Rec. ITU-R P.527), antennas that look along the ground take a part of it off."""
UNMOVED_DB = -20.0 * math.log10(UNMOVED_SHARE)
REFLECTED_OF_TWO, REFLECTED_OF_PAIRS = 0.28, 0.55
"""Of what the ground does to one level, what it does to a gain: two in turn on the same post see nearly the same second ray, their
middles some centimetres apart, and the three levels of three pairs come in by half each, one of them the other way."""
RECONNECT_U_DB = 0.1
UNKNOWN_GAMMA = 0.2
"""|Γ| of an antenna that was never swept: SWR 1.5."""
LEVEL_U_DB = 0.1
"""Linearity of what it was read on, over the few decibels between two antennas."""
SOURCE = "IEEE Std 149-2021: gain transfer §12.3, two and three antennas §12.2; its parts of uncertainty §15"
PARTS = {
    "scatter": "levels: scatter and drift",
    "linear": "linearity of what it was read on",
    "reference": "gain of the reference",
    "mismatch": "mismatch, phases unknown",
    "reflection": "reflections of ground and site",
    "near": "distance against 2D²/λ",
    "distance": "distance between both",
    "sent": "what was sent",
    "aim": "aiming",
    "polarization": "polarization",
    "connect": "connectors put on anew",
}
"""The parts of the standard's table, by key."""


class RangeGainReading(Frozen):
    """The gain of one antenna by one measurement."""

    record: RangeGain
    antenna: Antenna
    gain: Figure
    budget: tuple[tuple[str, float], ...]
    """(part, standard uncertainty dB) in the order of the standard's table; what does not come in is not in it."""
    checks: tuple[Check, ...]
    needs_reference: bool

    @property
    def way(self) -> str:
        return self.record.way


def _size_m(antenna: Antenna) -> float:
    face = math.hypot(antenna.face_width_m or 0.0, antenna.face_height_m or 0.0)
    return max(face, antenna.length_m or 0.0)


def _gamma(bench: BenchFinding, antenna_id: str, frequency_hz: float) -> tuple[float, bool]:
    """(|Γ| at the frequency, whether it was measured)."""
    for one in bench.antennas:
        if one.antenna.id == antenna_id and one.sweep is not None:
            f, g = one.sweep.frequency_hz, np.abs(one.sweep.gamma)
            if f.min() <= frequency_hz <= f.max():
                return float(np.interp(frequency_hz, f, g)), True
    return UNKNOWN_GAMMA, False


def _levels(record: RangeGain, label: str) -> Figure | None:
    """Mean level of one connection, with the scatter of its readings and of its repeats."""
    spells = [np.array(s.values) for s in record.readings if s.label == label]
    if not spells:
        return None
    means = [average_db(spell, "mean of power") for spell in spells]
    value = float(np.mean([m for m, _ in means]))
    within = math.sqrt(sum(u**2 for _, u in means)) / len(means)
    apart = float(np.std([m for m, _ in means], ddof=1)) / math.sqrt(len(means)) if len(means) > 1 else 0.0
    # One reading alone, or a connection that was never made again, is taken for 0.3 dB.
    u = max(within if any(len(s) > 1 for s in spells) else 0.3, apart, 0.05)
    degrees = sum(len(s) for s in spells) - 1.0
    return Figure(f"level of {label}", value, u, "dBm", degrees=max(degrees, 2.0))


class _Table:
    """The named parts of a gain's uncertainty, as they come in."""

    def __init__(self) -> None:
        self.parts: dict[str, float] = {}

    def add(self, key: str, u_db: float) -> None:
        if u_db > 0:
            self.parts[key] = math.hypot(self.parts.get(key, 0.0), u_db)

    @property
    def rows(self) -> tuple[tuple[str, float], ...]:
        return tuple((PARTS[key], self.parts[key]) for key in PARTS if key in self.parts)


def _common(
    table: _Table, record: RangeGain, frequency_hz: float, antennas: list[Antenna], share: float
) -> list[Check]:
    """What site and distance add, `share`: how many levels come into the gain, as √Σ weight²; and what of it is amiss."""
    checks = []
    if len(record.moved) >= 4:
        reflected = gain_range.reflected_share(record.moved)
        down = -20.0 * math.log10(max(reflected, 1e-4))
        ripple = float(np.ptp(record.moved))
        # The readings are spread over the ripple: their mean is off by what so few of them leave.
        text = f"moved, it ripples by {show.decibel(ripple)}: reflected {show.fixed(down, 0)} dB down"
        mark = "holds" if ripple < 1.0 else "open"
        why = "Ground or site sends a second ray. Higher, over rough ground, or a nearer distance make it smaller."
        checks.append(Check(mark, text, None, why))  # type: ignore[arg-type]
    else:
        reflected = UNMOVED_SHARE
        why = "Move one antenna slowly up by a wavelength or two, or nearer, and note the levels: the ripple tells what the ground adds."
        checks.append(Check("open", f"reflections not looked for: {UNMOVED_DB:.0f} dB down assumed", None, why))
    table.add("reflection", share * gain_range.reflection_u_db(reflected))
    if record.distance_m is not None:
        size = max(_size_m(a) for a in antennas)
        far = max(2.0 * size**2 / wavelength(frequency_hz), 2.0 * wavelength(frequency_hz))
        if size > 0:
            table.add("near", gain_range.nearness_u_db(record.distance_m, far))
        if record.distance_m < far:
            why = f"2D²/λ, and two wavelengths at least, is {show.length(far)} here; nearer the gain comes out low."
            checks.append(Check("fails", f"{show.length(record.distance_m)} is nearer than the far field", None, why))
    return checks


def _aim(table: _Table, record: RangeGain, gain_dbi: float) -> None:
    """A beam aimed some degrees off reads low: 12·(off/width)² dB, its width from its gain."""
    width = math.sqrt(32_400.0 / 10.0 ** (max(gain_dbi, 0.0) / 10.0))
    table.add("aim", 12.0 * (record.aim_u_deg / width) ** 2)


def _substitution(
    record: RangeGain, antennas: Mapping[str, Antenna], bench: BenchFinding, f: float
) -> RangeGainReading | None:
    antenna, reference = antennas.get(record.antenna_id), antennas.get(record.second_id)
    if antenna is None or reference is None or reference.known_gain_dbi is None:
        return None
    spells = [s.revised(label="R" if s.label == "B" else s.label) for s in record.readings]
    compared = compare(Comparison(what="gain", spells=spells, unit="dBm"))
    if compared is None or {s.label for s in spells} != {"A", "R"}:
        return None
    difference = compared.difference
    # Which of the two is told over the other goes by which was read first.
    over = difference.value if spells[0].label == "R" else -difference.value
    table = _Table()
    table.add("scatter", difference.u)
    table.add("linear", LEVEL_U_DB)
    table.add("reference", reference.known_gain_u_db)
    table.add("connect", math.sqrt(2.0) * RECONNECT_U_DB)
    source = float(reflection.gamma_from_swr(record.range_swr))
    (mine, swept), (theirs, swept_too) = (_gamma(bench, a.id, f) for a in (antenna, reference))
    table.add("mismatch", math.hypot(*(gain_range.mismatch_u_db(source, g) for g in (mine, theirs))))
    checks = _common(table, record, f, [antenna, reference], REFLECTED_OF_TWO)
    lost = loss_between(antenna.polarization, antenna.axial_ratio_db, reference.polarization, reference.axial_ratio_db)
    back = 0.0
    if "unknown" not in (antenna.polarization, reference.polarization) and lost.value > 0.05:
        back = lost.value
        table.add("polarization", lost.u)
    value = over + reference.known_gain_dbi + back
    _aim(table, record, value)
    own, of_reference = (float(reflection.mismatch_loss_db(g)) for g in (mine, theirs))
    lines = [
        f"A − R = {show.plus(over, 2)} dB, drift {compared.drift_words}",
        f"G R  {show.fixed(reference.known_gain_dbi, 2)} dBi",
        *([f"polarization, given back {show.decibel(back)}"] if back else []),
        f"G = {show.decibel(value, 2, 'dBi')}, as it is matched",
        f"matched, {show.decibel(value + own, 2, 'dBi')}: its own mismatch takes {show.decibel(own, 2)}",
    ]
    if of_reference > 0.05:
        lines.append(f"the reference's mismatch of {show.decibel(of_reference, 2)} is taken to be in its known gain")
    if not (swept and swept_too):
        checks.append(
            Check(
                "open",
                "match not measured: SWR 1.5 assumed",
                None,
                "Sweep both on the Bench: the ± of mismatch follows.",
            )
        )
    if (
        not [s for s in record.readings if s.label == "R"][1:]
        and not [s for s in record.readings if s.label == "A"][1:]
    ):
        checks.append(
            Check(
                "open",
                "drift not told: return to the first",
                None,
                "A, R, A, R: what drifts in between is then taken out.",
            )
        )
    return _reading(record, antenna, value, table, lines, checks, True, difference.degrees)


def _reading(
    record: RangeGain,
    antenna: Antenna,
    value: float,
    table: _Table,
    lines: list[str],
    checks: list[Check],
    needs_reference: bool,
    degrees: float,
) -> RangeGainReading:
    total = sum((named(0.0, u, PARTS[key]) for key, u in table.parts.items()), named(value, 0.0, "rest"))
    u = float(total.std_dev)
    scatter = table.parts.get("scatter", 0.0)
    few = degrees * (u / scatter) ** 4 if scatter > 0 else math.inf
    working = Working(
        tuple(lines), parts_of(total, "dB"), SOURCE, "Gain toward its front, in its own polarization, as it is matched."
    )
    figure = Figure(f"gain by {record.way}", value, u, "dBi", working, few)
    return RangeGainReading(record, antenna, figure, table.rows, tuple(checks), needs_reference)


def _pair_sum(
    record: RangeGain, label: str, one: Antenna, other: Antenna, f: float, table: _Table, share: float
) -> tuple[float, float, str] | None:
    """(G₁ + G₂ dBi, degrees, line) of two that look at each other; adds what its level's uncertainty brings by `share`."""
    level = _levels(record, label)
    assert record.sent_dbm is not None and record.distance_m is not None
    if level is None:
        return None
    lost = loss_between(one.polarization, one.axial_ratio_db, other.polarization, other.axial_ratio_db)
    known = "unknown" not in (one.polarization, other.polarization)
    table.add("scatter", share * level.u)
    table.add("connect", share * math.sqrt(2.0) * RECONNECT_U_DB)
    if known:
        table.add("polarization", share * lost.u)
    both = gain_range.sum_of_gains_db(level.value, record.sent_dbm, record.distance_m, f, lost.value if known else 0.0)
    return (
        both,
        level.degrees,
        f"{label}: {show.decibel(level.value, 2, 'dBm')}, together {show.decibel(both, 2, 'dBi')}",
    )


def _without_reference(
    record: RangeGain, antennas: Mapping[str, Antenna], bench: BenchFinding, f: float
) -> list[RangeGainReading]:
    """Of two that are alike, or of three; none where a pair, what was sent or the distance is missing."""
    two = record.way == "two antennas"
    ids = {"A": record.antenna_id, **({} if two else {"B": record.second_id, "C": record.third_id})}
    known = {letter: antennas[i] for letter, i in ids.items() if i in antennas}
    if len(known) < len(ids) or record.sent_dbm is None or record.distance_m is None:
        return []
    labels = {"AA": ("A", "A")} if two else {"AB": ("A", "B"), "AC": ("A", "C"), "BC": ("B", "C")}
    table = _Table()
    sums, lines, few = {}, [], math.inf
    for label, (one, other) in labels.items():
        # Each sum comes into a gain by half; one level read off by a decibel moves it by half of that.
        got = _pair_sum(record, label, known[one], known[other], f, table, 0.5)
        if got is None:
            return []
        sums[label], degrees, line = got
        lines.append(line)
        few = min(few, degrees)
    share = 0.5 * math.sqrt(len(labels))
    # What was sent, the distance and the linearity are the same in every sum: half of one of them is left.
    table.add("sent", 0.5 * record.sent_u_db)
    table.add("linear", 0.5 * LEVEL_U_DB)
    table.add("distance", 0.5 * 20.0 / math.log(10.0) * record.distance_u_m / record.distance_m)
    source = float(reflection.gamma_from_swr(record.range_swr))
    gammas = [_gamma(bench, a.id, f)[0] for a in known.values()]
    table.add("mismatch", share * math.sqrt(2.0) * gain_range.mismatch_u_db(source, float(np.mean(gammas))))
    checks = _common(table, record, f, list(known.values()), REFLECTED_OF_PAIRS)
    if two:
        values = {"A": 0.5 * sums["AA"]}
        lines.append("G = half of both together: two that are alike")
    else:
        values = dict(zip("ABC", gain_range.of_three(sums["AB"], sums["AC"], sums["BC"]), strict=True))
        lines.append("G A = (AB + AC − BC)/2, and so round")
    out = []
    for letter, antenna in known.items():
        mine = _Table()
        mine.parts = dict(table.parts)
        _aim(mine, record, values[letter])
        told = [*lines, f"G = {show.decibel(values[letter], 2, 'dBi')}, as it is matched"]
        out.append(_reading(record, antenna, values[letter], mine, told, checks, False, few))
    return out


def find_range_gains(evidence: Evidence, bench: BenchFinding) -> tuple[RangeGainReading, ...]:
    """Of every measurement on a range, in the order in which they were taken."""
    question = evidence.question
    antennas = {a.id: a for a in evidence.antennas}
    out: list[RangeGainReading] = []
    for record in evidence.all(RangeGain):
        f = record.frequency_hz or (question.centre_hz if question else None)
        if f is None:
            continue
        if record.way == "substitution":
            found = _substitution(record, antennas, bench, f)
            out += [found] if found is not None else []
        else:
            out += _without_reference(record, antennas, bench, f)
    return tuple(out)
