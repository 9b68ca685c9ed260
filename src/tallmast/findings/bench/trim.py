"""Trimming: how much to cut, from the formula and then from what the antenna itself did."""

from __future__ import annotations

import numpy as np

from tallmast.notebook.records import Antenna, Question
from tallmast.physics import reflection
from tallmast.units import show

from ..figure import Figure, Mark, Working
from .reading import SweepReading


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


def advise(antenna: Antenna, reading: SweepReading, question: Question, mark: Mark, trim: Figure | None) -> str:
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
