"""All states of one antenna, oldest first: where each resonated, how wide it was, and what the step to it did."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna, Question
from tallmast.physics import reflection
from tallmast.units import show

from ..figure import Figure, Mark
from .reading import SweepReading
from .swr import judge_limit


class LadderRung(Frozen):
    """One state by its newest sweep."""

    state: str
    reading: SweepReading
    resonance: Figure | None
    window_hz: tuple[float, float] | None
    """The widest window at the question's limit."""
    mark: Mark
    """Whether it held the limit over the band."""
    words: str
    step_words: str
    """What was done to come to it, and how far that moved the resonance; empty for the first."""
    apart: str
    """Why it can't be compared with the newest; empty if it can."""


def ladder(antenna: Antenna, readings: Sequence[SweepReading], question: Question) -> tuple[LadderRung, ...]:
    """A rung for every state that was swept without a hand near."""
    newest = {r.sweep.state_id: r for r in readings if not r.sweep.hand_near}
    rungs: list[LadderRung] = []
    cut = 0.0
    for state in antenna.states:
        cut += state.cut_m
        reading = newest.get(state.id)
        if reading is None:
            continue
        resonance = reading.resonance
        windows = reflection.usable_windows(reading.frequency_hz, reading.swr, question.swr_limit)
        mark: Mark = judge_limit(reading.worst, question.swr_limit) if reading.worst else "open"
        words = f"worst {show.swr(reading.worst.value)}" if reading.worst else "band not covered"
        where = f"{resonance.value:.1f} MHz" if resonance else "resonance outside"
        rungs.append(
            LadderRung(
                state.name,
                reading,
                resonance,
                max(windows, key=lambda w: w[1] - w[0], default=None),
                mark,
                f"{where}, {words}",
                _step(rungs[-1].resonance if rungs else None, resonance, cut),
                reading.apart,
            )
        )
        cut = 0.0
    return tuple(rungs)


def _step(before: Figure | None, now: Figure | None, cut_m: float) -> str:
    """`0.70 mm off, 7.1 MHz up: 10.1 MHz a millimetre`."""
    if before is None or now is None:
        return ""
    moved = now.value - before.value
    way = "up" if moved >= 0 else "down"
    words = f"{abs(moved):.1f} MHz {way}"
    if cut_m <= 0:
        return words
    return f"{show.small_length(cut_m)} off, {words}: {moved / (cut_m * 1e3):.1f} MHz a millimetre"
