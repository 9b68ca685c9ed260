"""Trimming: how much to cut, from the formula and then from what the antenna itself did."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna, Question
from tallmast.physics import reflection
from tallmast.units import show

from ..figure import Figure, Mark, Working
from .match import propose
from .reading import SweepReading

MEASURING_A_CUT_M = 0.05e-3
"""Standard uncertainty of a cut, by calliper."""


class OwnSlope(Frozen):
    """How far an antenna's own resonance moved for what was cut off it, Hz/m of each part."""

    hz_per_m: float
    u_hz_per_m: float
    from_state: str
    to_state: str
    cut_m: float
    moved_hz: float


def own_slope(antenna: Antenna, readings: Sequence[SweepReading]) -> OwnSlope | None:
    """From the newest two states, with sweeps that can be compared, between which a known length was cut."""
    total, cut_at = 0.0, {}
    for state in antenna.states:
        total += state.cut_m
        cut_at[state.id] = total
    newest: dict[str, SweepReading] = {}
    for reading in readings:
        if reading.resonance_hz is not None and not reading.apart and not reading.sweep.hand_near:
            newest[reading.sweep.state_id] = reading
    ladder = [newest[state.id] for state in antenna.states if state.id in newest]
    if len(ladder) < 2:
        return None
    last = ladder[-1]
    for before in reversed(ladder[:-1]):
        cut = cut_at[last.sweep.state_id] - cut_at[before.sweep.state_id]
        if cut <= 0 or before.resonance_hz is None or last.resonance_hz is None:
            continue
        moved = last.resonance_hz - before.resonance_hz
        if moved <= 0:
            return None
        # What the calibration left over shifts both alike: only what is new in each sweep counts against their difference.
        u = float(np.hypot(before.u_resonance_alone_hz, last.u_resonance_alone_hz)) / cut
        slope = moved / cut
        u = float(np.hypot(u, slope * MEASURING_A_CUT_M / cut))
        return OwnSlope(slope, u, before.state, last.state, cut, moved)
    return None


def part_to_cut_m(antenna: Antenna) -> float | None:
    """As noted; else a whip is cut as a whole, and each half of a dipole."""
    if antenna.cut_part_m is not None or antenna.length_m is None:
        return antenna.cut_part_m
    return {"whip": antenna.length_m, "dipole": antenna.length_m / 2.0}.get(antenna.type)


def trim_figure(
    antenna: Antenna, reading: SweepReading, question: Question, slope: OwnSlope | None = None
) -> Figure | None:
    """How much to cut off each part to bring the resonance to the band's centre.

    By what the antenna itself did at its last cut where that is known, else by the formula, good to some 10 %.
    """
    if reading.resonance_hz is None:
        return None
    wanted, found = question.centre_hz, reading.resonance_hz
    if slope is not None:
        cut = (wanted - found) / slope.hz_per_m
        u_slope = abs(cut) * slope.u_hz_per_m / slope.hz_per_m
        u_reading = (reading.resonance.u * 1e6 if reading.resonance else 0.0) / slope.hz_per_m
        per_mm = slope.hz_per_m / 1e9
        working = Working(
            (
                f"{slope.from_state} → {slope.to_state}: {show.small_length(slope.cut_m)} cut,",
                f"    {show.frequency(slope.moved_hz, 2)} up: {per_mm:.2f} MHz a millimetre",
                f"f found  {show.frequency(found, 2)}, wanted {show.frequency(wanted, 2)}",
                f"ΔL = {show.frequency(abs(wanted - found), 2)} / {per_mm:.2f} MHz/mm = {show.small_length(cut)}",
            ),
            (("its own slope", f"{u_slope * 1e3:.2f} mm"), ("reading the resonance", f"{u_reading * 1e3:.2f} mm")),
            "the antenna’s own cut before: what the formula leaves out is in it",
            "Measured on this antenna, so ends and other elements are allowed for. Measure what you cut.",
        )
        return Figure("trim", cut * 1e3, float(np.hypot(u_slope, u_reading)) * 1e3, "mm", working, digits=2)
    part = part_to_cut_m(antenna)
    if part is None:
        return None
    cut = reflection.trim_length(part, found, wanted)
    u = float(np.hypot(cut * 0.1, part * 0.0005))
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


def could_pass(trim: Figure, reading: SweepReading, question: Question) -> bool:
    """Whether the whole cut, at the far end of its uncertainty, would carry the resonance over the top of the band."""
    if reading.resonance_hz is None or trim.value <= 0:
        return False
    per_mm = (question.centre_hz - reading.resonance_hz) / trim.value
    return reading.resonance_hz + per_mm * trim.interval[1] > question.band_high_hz


def off_by(reading: SweepReading, off_hz: float) -> str:
    """How far from where it is wanted it resonates, with what its resonance leaves open."""
    if reading.resonance is None:
        return show.width(abs(off_hz))
    return show.plus_minus(abs(off_hz) / 1e6, reading.resonance.half, "MHz")


def is_off(reading: SweepReading, question: Question) -> bool:
    """Whether it resonates beside the band's centre, surely: by more than its own ± leaves open, and than anybody would trim for."""
    if reading.resonance is None:
        return False
    low, high = (edge * 1e6 for edge in reading.resonance.interval)
    off = (reading.resonance_hz or 0.0) - question.centre_hz
    return not low <= question.centre_hz <= high and abs(off) >= LEAST_OFF * question.centre_hz


LEAST_OFF = 0.001
"""Share of the frequency: nobody trims for less."""


def ohm_at_resonance(reading: SweepReading) -> float | None:
    """R where X is zero; None where the sweep holds no phase, or the plane of its reference is not known there."""
    found = reading.resonance_hz
    if found is None or not reading.sweep.phase_known:
        return None
    at = complex(
        np.interp(found, reading.frequency_hz, reading.gamma.real),
        np.interp(found, reading.frequency_hz, reading.gamma.imag),
    )
    ohm = complex(reflection.impedance(at))
    return float(ohm.real) if abs(ohm.imag) < 0.2 * abs(ohm.real) else None


def _match_words(reading: SweepReading, question: Question) -> str:
    """How to match it, where its resistance is what is off."""
    ohm = ohm_at_resonance(reading)
    if ohm is None:
        return "a calibrated sweep with phase would tell how to match it"
    best = next(iter(propose(reading, question)), None)
    return f"R is {ohm:.0f} Ω there, so match it rather than trim" + (f", by a {best.match.name}" if best else "")


def _resistance_is_off(reading: SweepReading, question: Question) -> bool:
    """Whether it would miss the limit though it were in place: by its resistance alone."""
    ohm = ohm_at_resonance(reading)
    return ohm is not None and max(ohm / 50.0, 50.0 / max(ohm, 1e-3)) > question.swr_limit


def advise(
    reading: SweepReading, question: Question, mark: Mark, trim: Figure | None, slope: OwnSlope | None = None
) -> str:
    """What to do next about the match, as the tail of a sentence; empty where nothing needs doing. Nothing is cut for a shift that its
    own ± does not bear out."""
    if mark == "holds":
        found = reading.resonance_hz
        if found is None or trim is None or trim.interval[0] <= 0 or found >= question.band_low_hz:
            return ""
        how = "as its last cut showed" if slope is not None else "half of it first"
        return f"it holds as it is; {trim.text} more off each part, {how}, would bring its resonance into the band"
    if reading.resonance_hz is None:
        end = "below" if np.argmin(reading.swr) == 0 else "above"
        return f"best match lies {end} the sweep: sweep wider"
    if not is_off(reading, question):
        assert reading.resonance is not None
        within = show.width(max(abs(edge * 1e6 - question.centre_hz) for edge in reading.resonance.interval))
        if mark == "open" and not _resistance_is_off(reading, question):
            return f"resonance is in place within {within}: a better calibration would tell whether it holds"
        return f"resonance is in place within {within}; {_match_words(reading, question)}"
    off = reading.resonance_hz - question.centre_hz
    also = (
        f", then match it: R is {ohm_at_resonance(reading) or 0.0:.0f} Ω"
        if _resistance_is_off(reading, question)
        else ""
    )
    if trim is not None and trim.value > 0:
        if slope is None:
            return f"trim {trim.short} off each part, half of it first{also}"
        if could_pass(trim, reading, question):
            return f"trim {trim.text} off each part; take two thirds first, all of it could pass the band{also}"
        return f"trim {trim.text} off each part, as its last cut showed{also}"
    if trim is not None:
        return f"too short by {show.fixed(-trim.value, 1)} mm each part: lengthen it, or sleeve it{also}"
    if off < 0:
        return f"resonates {off_by(reading, off)} low, electrically long: shorten a little at a time{also}"
    return f"resonates {off_by(reading, off)} high, electrically short: lengthen it, or sleeve it{also}"
