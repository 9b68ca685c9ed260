"""Ways to match the antenna in focus, each predicted from its measured sweep over all of its frequencies."""

from __future__ import annotations

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import Question
from tallmast.physics import matching, reflection
from tallmast.physics.decibels import Floats
from tallmast.units import show

from ..figure import Figure, Working
from .reading import SweepReading
from .swr import swr_interval


class MatchProposal(Frozen):
    """A network, what it would make of the sweep, and how well that would do in the band."""

    match: matching.Match
    magnitude: Floats
    """|Γ| over the frequencies of the sweep."""
    worst: Figure
    """Worst SWR in the band it would have."""
    bandwidth_hz: float
    """Over which it would keep the limit, about the band; 0: nowhere."""

    @property
    def title(self) -> str:
        return f"{self.match.name}: {', '.join(self.match.parts)}"


def _proposal(match: matching.Match, reading: SweepReading, question: Question, before: float) -> MatchProposal:
    f = reading.frequency_hz
    gamma = match.gamma(f, reading.gamma)
    magnitude = np.abs(gamma)
    inside = (f >= question.band_low_hz) & (f <= question.band_high_hz)
    at = int(np.flatnonzero(inside)[np.argmax(magnitude[inside])])
    # A network that is lossless turns a small uncertainty of the load into one of the same size.
    u = float(reading.u[at])
    low, high = (
        float(edge[0])
        for edge in swr_interval(magnitude[at : at + 1], reading.u[at : at + 1], reading.bounded[at : at + 1])
    )
    windows = reflection.usable_windows(f, reflection.swr(magnitude), question.swr_limit)
    centre = question.centre_hz
    width = next((b - a for a, b in windows if a <= centre <= b), 0.0)
    worst = float(reflection.swr(magnitude[at]))
    working = Working(
        (
            f"{match.name}:",
            *(f"    {part}" for part in match.parts),
            f"SWR, worst in band  {show.swr(before)} → {show.swr(worst)}",
            f"keeps SWR {question.swr_limit:g} over {show.width(width) if width else 'nothing'}",
        ),
        (("the sweep it rests on", f"{u:.3f} in |Γ|"),),
        "Pozar, Microwave Engineering, §5.1–5.2; ideal parts and lines, from the antenna to the radio",
        "Predicted from the measured sweep. Real coils lose a little and leads add length: build it, sweep again.",
    )
    return MatchProposal(
        match,
        magnitude,
        Figure("SWR it would have", worst, u, "", working, low=float(low), high=float(high), digits=2),
        width,
    )


def propose(reading: SweepReading, question: Question) -> tuple[MatchProposal, ...]:
    """Every quarter-wave section, L network and stub that matches at the band's centre, best in the band first.

    Empty where the sweep does not cover the band, or holds no phase. A harness for two and four equal antennas stands at the end: it is no
    match, but what a stack of this antenna would look like.
    """
    if not reading.covers_band or reading.worst is None or not reading.sweep.phase_known:
        return ()
    f = reading.frequency_hz
    if not ((f >= question.band_low_hz) & (f <= question.band_high_hz)).any():
        return ()
    centre = question.centre_hz
    gamma = complex(np.interp(centre, f, reading.gamma.real), np.interp(centre, f, reading.gamma.imag))
    load = complex(reflection.impedance(np.array([gamma]))[0])
    found: list[matching.Match] = []
    section = matching.quarter_wave(load, centre, 0.66)
    if section is not None:
        found.append(section)
    found += matching.l_matches(load, centre)
    found += matching.stubs(load, centre)
    before = reading.worst.value
    best = sorted((_proposal(match, reading, question, before) for match in found), key=lambda p: p.worst.value)
    stacks = [_proposal(matching.harness(count, centre), reading, question, before) for count in (2, 4)]
    return (*best, *stacks)
