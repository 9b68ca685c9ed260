"""Claims that the bench can judge: SWR, bandwidth, resonance; each by the whole interval."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from tallmast.frozen import Frozen
from tallmast.notebook.records import Claim
from tallmast.physics import reflection
from tallmast.physics.decibels import Floats
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working
from .reading import SweepReading

USUAL_LIMIT = 2.0
"""SWR at which a bandwidth is taken that was claimed without one."""
RESONANCE_SHARE = 0.005
"""A claimed resonance is held to within half a per cent: makers write it as a round number."""


class BenchClaim(Frozen):
    """A claim with what the bench says of it."""

    claim: Claim
    mark: Mark
    figure: Figure | None
    words: str
    why: str

    @property
    def check(self) -> Check:
        return Check(self.mark, self.words, self.figure, self.why)


def _widest(frequency_hz: Floats, swr: Floats, limit: float) -> tuple[float, bool]:
    """Width of the widest window, Hz, and whether it touches an end of the sweep, beyond which it may go on."""
    windows = reflection.usable_windows(frequency_hz, swr, limit)
    low, high = max(windows, key=lambda w: w[1] - w[0], default=(0.0, 0.0))
    return high - low, bool(windows) and (low <= frequency_hz[0] or high >= frequency_hz[-1])


def bandwidth_figure(reading: SweepReading, limit: float) -> Figure:
    """The widest window at an SWR limit, MHz: its interval by the whole band of SWR that each point may have."""
    f = reading.frequency_hz
    value, touches = _widest(f, reading.swr, limit)
    least, least_touches = _widest(f, reading.swr_high, limit)
    most, most_touches = _widest(f, reading.swr_low, limit)
    bound: Literal["", "at least"] = "at least" if touches or least_touches or most_touches else ""
    working = Working(
        (
            f"SWR at or under {limit:g} over {show.width(value) if value else 'nothing'}",
            f"with every point as bad as it may be: {show.frequency(least, 2) if least else 'nothing'}",
            f"with every point as good as it may be: {show.frequency(most, 2)}",
            *(["the window touches the end of the sweep"] if bound else []),
        ),
        (),
        "edges by straight lines between the points of the sweep",
        "Bandwidth means nothing without its SWR: ask at which.",
    )
    u = (most - least) / 2 / 1.645 / 1e6
    return Figure("bandwidth", value / 1e6, u, "MHz", working, low=least / 1e6, high=most / 1e6, bound=bound, digits=1)


def judge(
    claim: Claim, reading: SweepReading | None, worst: Figure | None, within: Callable[[float], Mark]
) -> BenchClaim | None:
    """What the bench says of a claim, `within` whether it holds an SWR over the band; None for one that is not the bench's to judge."""
    unknown = "Nothing measured speaks to it yet."
    if claim.quantity == "swr":
        words = f"claim SWR ≤ {claim.value:g}"
        if worst is None:
            return BenchClaim(claim, "open", None, words, unknown)
        return BenchClaim(claim, within(claim.value), worst, words, f"Worst that was read {worst.text}.")
    if claim.quantity == "bandwidth":
        limit = claim.second_value or USUAL_LIMIT
        words = f"claim {show.frequency(claim.value)} of bandwidth"
        if reading is None:
            return BenchClaim(claim, "open", None, words, unknown)
        figure = bandwidth_figure(reading, limit)
        low, high = figure.interval
        mark: Mark = "open"
        if low * 1e6 >= claim.value:
            mark = "holds"
        elif high * 1e6 < claim.value and not figure.bound:
            mark = "fails"
        taken = "" if claim.second_value else ", the SWR taken where a claim names none"
        return BenchClaim(claim, mark, figure, words, f"At SWR {limit:g}{taken}, {figure.text}.")
    if claim.quantity == "resonance":
        words = f"claim resonance at {show.frequency(claim.value)}"
        found = reading.resonance if reading is not None else None
        if found is None:
            return BenchClaim(claim, "open", None, words, unknown if reading is None else "It lies outside the sweep.")
        slack = RESONANCE_SHARE * claim.value
        low, high = (edge * 1e6 for edge in found.interval)
        inside = low >= claim.value - slack and high <= claim.value + slack
        outside = high < claim.value - slack or low > claim.value + slack
        mark = "holds" if inside else "fails" if outside else "open"
        return BenchClaim(claim, mark, found, words, f"Measured {found.text}; half a per cent of slack is given.")
    return None
