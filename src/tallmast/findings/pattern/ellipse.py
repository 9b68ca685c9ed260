"""Polarization as measured: a linear probe turned before the antenna, two phases, or two helices; and which way round it is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Polarization, Record, Turn
from tallmast.physics import ellipse
from tallmast.physics.decibels import Floats
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working
from .samples import Samples

ROTATION = "polarization"
"""The plane in which a linear probe is turned."""
CIRCULAR_UP_TO_DB, LINEAR_FROM_DB = 6.0, 12.0
"""An axial ratio up to the one is called circular, from the other on linear; what lies between is elliptical."""
HELIX_AXIAL_RATIO_DB = 1.7
"""Taken for the two probes of a sense, where nobody said."""
PROBE_AIM_DEG = 2.0
"""How well a probe's angle is known."""
CLEAR_DB = 2.0
"""By so many standard uncertainties one of two has to be stronger to be called so."""
PHASE_U_DEG = 8.0
"""Standard uncertainty of a phase between two probes, where nobody said."""
LEAST_RATIO_U_DB = 0.3
"""Of an axial ratio by two levels and their phase: where it is best neither of them moves it, and both at once do."""
Kind = Literal["circular", "elliptical", "linear"]


class PolarizationReading(Frozen):
    """What one measurement of an antenna's polarization says; each figure None where it does not tell it."""

    record: Record
    antenna: Antenna
    state_id: str
    angle_deg: Floats
    level_db: Floats
    axial_ratio: Figure | None = None
    tilt: Figure | None = None
    right: bool | None = None
    """Whether its sense is right-hand."""
    sense: Figure | None = None
    """By how many decibels one sense is stronger than the other."""
    upright: Figure | None = None
    """By how many decibels it is stronger as it was held than turned by 90°; below zero: weaker."""
    curve: tuple[Floats, Floats] | None = None
    """(angle, level) of what the ellipse means, in steps of 2° over one turn."""

    @property
    def kind(self) -> Kind | None:
        if self.axial_ratio is None:
            return None
        ratio = self.axial_ratio.value
        return "circular" if ratio <= CIRCULAR_UP_TO_DB else "linear" if ratio >= LINEAR_FROM_DB else "elliptical"

    @property
    def words(self) -> str:
        """`right circular, axial ratio 1.8 (1.5 to 2.2) dB`, `linear, tilted 12 ± 3° from upright`."""
        if self.axial_ratio is not None:
            sense = "" if self.right is None or self.kind == "linear" else f"{'right' if self.right else 'left'}-hand "
            where = (
                "" if self.kind == "circular" or self.tilt is None else f", major axis {self.tilt.text} from upright"
            )
            return f"{sense}{self.kind}, axial ratio {self.axial_ratio.text}{where}"
        if self.sense is not None and self.right is not None:
            return f"{'right' if self.right else 'left'}-hand by {self.sense.text}"
        if self.upright is not None:
            value = self.upright
            if abs(value.value) < value.half:
                return f"alike upright and turned by 90°, within {show.fixed(abs(value.value) + value.half, 1)} dB"
            way = "as it was held" if value.value > 0 else "turned by 90°"
            return f"stronger {way} by {show.plus_minus(abs(value.value), value.half, 'dB')}"
        return "not told"


def _axial_ratio(found: ellipse.Ellipse, levels: int, floor: bool) -> Figure:
    lines = (
        f"P = a + b·cos 2(ψ − τ) through {show.count(levels, 'reading')}",
        f"scatter about it {show.decibel(found.scatter_db, 2)}",
        "AR = (a + b)/(a − b)" + (", the floor's power taken out" if floor else ""),
    )
    working = Working(
        lines,
        (("scatter of the readings", show.decibel(found.u_axial_ratio_db, 2)),),
        "IEEE Std 149-2021 §11; Balanis, Antenna Theory, §2.12",
        "How far its wave is from a circle: 0 dB is circular, infinite linear.",
    )
    hidden = math.isinf(found.high_db)
    return Figure(
        "axial ratio",
        found.axial_ratio_db,
        found.u_axial_ratio_db,
        "dB",
        working,
        found.degrees,
        low=found.low_db,
        high=ellipse.MOST_DB if hidden else found.high_db,
        bound="at least" if hidden else "",
    )


def _tilt(found: ellipse.Ellipse) -> Figure | None:
    if found.u_tilt_deg > 25.0:
        return None
    tilt = (found.tilt_deg + 90.0) % 180.0 - 90.0
    working = Working(
        (f"the strongest at {show.bearing(found.tilt_deg)} of the probe",),
        (("scatter of the readings", f"{found.u_tilt_deg:.1f}°"),),
        "IEEE Std 149-2021 §11",
        "The probe's angle at which most is read, clockwise from upright as the antenna sees it.",
    )
    return Figure("tilt of its ellipse", tilt, found.u_tilt_deg, "°", working, found.degrees)


def _difference(name: str, one: float, other: float, u: float, lines: tuple[str, ...], meaning: str) -> Figure:
    working = Working(
        lines, (("one reading outdoors, twice", show.decibel(u, 2)),), "difference of two levels", meaning
    )
    return Figure(name, one - other, math.sqrt(2.0) * u, "dB", working, 4.0)


def of_probe(samples: Samples, turn: Turn | None) -> PolarizationReading:
    """Of a linear probe turned before it: an ellipse from four angles on, which way round from two at a right angle."""
    order = np.argsort(samples.angle_deg, kind="stable")
    angle, level = samples.angle_deg[order], samples.level_db[order]
    floor = turn.floor_dbm if turn is not None and turn.floor_dbm is not None else -math.inf
    found = ellipse.rotated(angle, level, floor, samples.level_u_db, PROBE_AIM_DEG)
    read = PolarizationReading(samples.record, samples.antenna, samples.state_id, angle, level)
    if turn is not None and turn.phase_deg is not None:
        return _by_phases(read, turn.phase_deg, samples.level_u_db, found)
    if found is not None:
        fine = np.arange(0.0, 361.0, 2.0)
        told = _axial_ratio(found, len(level), math.isfinite(floor))
        return replace(read, axial_ratio=told, tilt=_tilt(found), curve=(fine, found.levels(fine)))
    return replace(read, upright=_upright(angle, level, samples.level_u_db))


def _near(angle: Floats, level: Floats, at_deg: float) -> float | None:
    """Mean level within 15° of an angle of the probe, half a turn on the same."""
    near = np.abs((angle - at_deg + 90.0) % 180.0 - 90.0) <= 15.0
    return float(level[near].mean()) if near.any() else None


def _upright(angle: Floats, level: Floats, u: float) -> Figure | None:
    one, other = _near(angle, level, 0.0), _near(angle, level, 90.0)
    if one is None or other is None:
        return None
    lines = (f"as held {show.level(one)}", f"turned by 90° {show.level(other)}")
    return _difference(
        "held against turned", one, other, u, lines, "Which way round it is polarized, whatever its photo shows."
    )


def _by_phases(
    read: PolarizationReading, phase_deg: float, u: float, found: ellipse.Ellipse | None
) -> PolarizationReading:
    one, other = _near(read.angle_deg, read.level_db, 0.0), _near(read.angle_deg, read.level_db, 90.0)
    if one is None or other is None:
        return read
    ratio, tilt, right = ellipse.of_phases(one, other, phase_deg)
    by_levels = 0.5 * abs(np.diff([ellipse.of_phases(one + d, other, phase_deg)[0] for d in (-u, u)])[0])
    by_phase = 0.5 * abs(
        np.diff([ellipse.of_phases(one, other, phase_deg + d)[0] for d in (-PHASE_U_DEG, PHASE_U_DEG)])[0]
    )
    spread = max(math.hypot(math.sqrt(2.0) * float(by_levels), float(by_phase)), LEAST_RATIO_U_DB)
    lines = (
        f"at 0° {show.level(one)}, at 90° {show.level(other)}, its phase {phase_deg:g}°",
        "sin 2χ = sin 2γ · sin δ",
    )
    working = Working(
        lines,
        ((f"levels and a phase to {PHASE_U_DEG:g}°", show.decibel(spread, 2)),),
        "Stutzman, Polarization, §2.6",
        "Sense and ellipse.",
    )
    if found is not None:  # a turn tells the ellipse better than two readings; the phase its sense
        return replace(read, axial_ratio=_axial_ratio(found, len(read.level_db), False), tilt=_tilt(found), right=right)
    figure = Figure(
        "axial ratio", ratio, spread, "dB", working, low=max(ratio - 1.645 * spread, 0.0), high=ratio + 1.645 * spread
    )
    tilted = Figure("tilt of its ellipse", (tilt + 90.0) % 180.0 - 90.0, 10.0, "°", working)
    return replace(read, axial_ratio=figure, tilt=tilted, right=right)


def of_senses(samples: Samples) -> PolarizationReading:
    """Of a right- and a left-hand probe in turn (at `right` and `left`): its sense, and the axial ratio that so much leaves open."""
    angle, level, u = samples.angle_deg, samples.level_db, samples.level_u_db
    read = PolarizationReading(samples.record, samples.antenna, samples.state_id, angle, level)
    right = level[np.abs(angle - 90.0) < 1.0]
    left = level[np.abs(angle - 270.0) < 1.0]
    if not len(right) or not len(left):
        return read
    apart = float(right.mean() - left.mean())
    lines = (f"right-hand {show.level(float(right.mean()))}", f"left-hand {show.level(float(left.mean()))}")
    figure = _difference("one sense over the other", abs(apart), 0.0, u, lines, "Which way its wave turns.")
    if abs(apart) < CLEAR_DB * figure.u:
        return replace(read, sense=figure)
    # The probes are no better than their own axial ratio: what they leave apart at most hides the antenna's own.
    most = 20.0 * math.log10((10 ** (HELIX_AXIAL_RATIO_DB / 20) + 1) / (10 ** (HELIX_AXIAL_RATIO_DB / 20) - 1))
    ratio = ellipse.of_senses(min(abs(apart), most))
    by_levels = [ellipse.of_senses(max(abs(apart) + half, 0.1)) - ratio for half in (figure.half, -figure.half)]
    low, high = (
        ratio + way * math.hypot(off, HELIX_AXIAL_RATIO_DB) for way, off in zip((-1.0, 1.0), by_levels, strict=True)
    )
    low = max(low, 0.0)
    working = Working(
        (*lines, f"(ρ + 1)/(ρ − 1) = {show.decibel(ratio)}"),
        ((f"probes of {HELIX_AXIAL_RATIO_DB:g} dB axial ratio", show.decibel(HELIX_AXIAL_RATIO_DB / 1.645, 2)),),
        "Stutzman, Polarization, §2.5",
        "From two probes: coarse. A linear probe turned tells it better.",
    )
    known = Figure("axial ratio", ratio, (high - low) / 3.29, "dB", working, low=low, high=min(high, ellipse.MOST_DB))
    return replace(read, sense=figure, right=apart > 0, axial_ratio=known if known.u < 4.0 else None)


def read_polarization(samples: Samples) -> PolarizationReading:
    """Whatever was turned, read for polarization."""
    record = samples.record
    if isinstance(record, Turn) and record.probe == "circular":
        return of_senses(samples)
    return of_probe(samples, record if isinstance(record, Turn) else None)


def together(antenna: Antenna, readings: Sequence[PolarizationReading]) -> PolarizationReading | None:
    """What all measurements say of one antenna: of its present state where there are any; the ellipse of the one that tells
    it best, the sense of the last that tells one. None where none tells anything."""
    told = [r for r in readings if r.words != "not told"]
    now = [r for r in told if r.state_id == antenna.state.id]
    mine = now or [r for r in told if r.state_id == told[-1].state_id]
    if not mine:
        return None
    ellipses = [r for r in mine if r.axial_ratio is not None]
    best = min(ellipses, key=_width) if ellipses else mine[-1]
    sense = next((r for r in reversed(mine) if r.right is not None), None)
    if sense is None or sense is best:
        return best
    return replace(best, right=sense.right, sense=sense.sense)


def _width(read: PolarizationReading) -> float:
    assert read.axial_ratio is not None
    low, high = read.axial_ratio.interval
    return high - low


def as_measured(antenna: Antenna, readings: Sequence[PolarizationReading]) -> Antenna:
    """The antenna with its axial ratio, and its sense, as measured of its present state; as noted, where nothing was."""
    read = together(antenna, readings)
    if read is None or read.state_id != antenna.state.id:
        return antenna
    polarization: Polarization = antenna.polarization
    if read.right is not None and (polarization == "unknown" or "circular" in polarization):
        polarization = "right circular" if read.right else "left circular"
    ratio = read.axial_ratio
    known = antenna.axial_ratio_db if ratio is None or ratio.bound else ratio.value
    return antenna.revised(axial_ratio_db=known, polarization=polarization)


def checks_of(antenna: Antenna, readings: Sequence[PolarizationReading], evidence: Evidence) -> list[Check]:
    """Claims of its axial ratio, and what it was noted as, against what was measured of its present state."""
    read = together(antenna, readings)
    if read is None or read.state_id != antenna.state.id:
        return []
    out = _against_noted(antenna, read)
    for claim in evidence.claims(antenna.id):
        if claim.quantity == "axial ratio" and read.axial_ratio is not None:
            out.append(_claim(claim.value, read.axial_ratio))
    return out


def fate_of(claimed_db: float, measured: Figure) -> Mark:
    """Of a claim that the axial ratio is at most so much."""
    low, high = measured.interval
    if low > claimed_db + 0.05:
        return "fails"
    return "holds" if high <= claimed_db + 0.05 or measured.value <= claimed_db else "open"


FATES: dict[Mark, str] = {"fails": "fails", "holds": "holds", "open": "may hold", "disagrees": "disagrees"}


def _claim(claimed_db: float, measured: Figure) -> Check:
    mark = fate_of(claimed_db, measured)
    return Check(mark, f"claimed axial ratio {claimed_db:.1f} dB {FATES[mark]}: measured {measured.text}", measured)


def _against_noted(antenna: Antenna, read: PolarizationReading) -> list[Check]:
    noted = antenna.polarization
    out = []
    if read.right is not None and "circular" in noted and read.right != (noted == "right circular"):
        measured = "right-hand" if read.right else "left-hand"
        why = "The photo or the leaflet has it the wrong way round; both ends of a link must turn alike."
        out.append(Check("disagrees", f"noted {noted}, measured {measured}", read.sense or read.axial_ratio, why))
    if read.upright is not None and noted in ("vertical", "horizontal"):
        value = read.upright
        stronger_held = value.value > value.half
        weaker_held = value.value < -value.half
        # The far end's polarization is taken for vertical unless its own is noted: held as noted, a vertical one is stronger.
        if (noted == "vertical" and weaker_held) or (noted == "horizontal" and stronger_held):
            why = "Turned by 90° it was stronger: it is polarized the other way round, whatever its photo shows."
            out.append(Check("disagrees", f"noted {noted}, but {read.words}", value, why))
        elif stronger_held or weaker_held:
            out.append(Check("holds", f"{noted}: {read.words}", value))
    if read.kind == "linear" and "circular" in noted:
        out.append(Check("disagrees", f"noted {noted}, measured {read.words}", read.axial_ratio))
    return out


def gather_polarization(samples: Sequence[Samples]) -> tuple[PolarizationReading, ...]:
    """Of every sample turned about the line between both ends."""
    return tuple(read_polarization(s) for s in samples if s.plane == ROTATION and len(s.angle_deg) >= 2)
