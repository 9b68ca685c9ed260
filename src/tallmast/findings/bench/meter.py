"""Meter against analyzer: within their combined uncertainty, or a finding."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import MeterReading
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working
from .reading import SweepReading
from .swr import NORMAL_90, swr_figures
from .trust import seconds_between

LEAST_ACROSS, ABOUT_BANDS = 3, 4.0
"""Frequencies that tell how the SWR goes; and how many widths of a band beside it they may lie."""


class MeterJudgement(Frozen):
    """A meter reading held against the analyzer at the same frequency and state."""

    reading: MeterReading
    figure: Figure
    analyzer: Figure | None
    mark: Mark
    words: str
    told: str
    """The same in few words, beside the reading."""


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


def _power_words(reading: MeterReading) -> str:
    return show.power(reading.power_w) if reading.power_w else "unknown power"


def _change(earlier: MeterReading, later: MeterReading, by: str, why: str) -> Check | None:
    """A change of SWR between two readings of one meter, told where it is more than it repeats; None where it is not.

    The meter's own error is common to both: a third of its stated accuracy is taken for how it repeats.
    """
    u = math.hypot(*(reading.relative_u * reading.swr / 3 for reading in (earlier, later)))
    moved = later.swr - earlier.swr
    if abs(moved) <= NORMAL_90 * u or abs(moved) < 0.05:
        return None
    verb = "falls" if moved < 0 else "rises"
    where = earlier.channel or show.frequency(earlier.frequency_hz)
    words = f"SWR {verb} {show.swr(earlier.swr)} → {show.swr(later.swr)} {by} at {where}"
    working = Working(
        (
            f"{_power_words(earlier)}: SWR {earlier.swr:.2f}",
            f"{_power_words(later)}: SWR {later.swr:.2f}",
            f"change {show.plus(moved, 2)} ± {NORMAL_90 * u:.2f} (90 %)",
        ),
        (("how the meter repeats, a third of its accuracy", f"{u:.3f}"),),
        "the same meter twice: its own error is in both",
        why,
    )
    return Check("disagrees", words, Figure("change of SWR", moved, u, "", working, digits=2), why)


def changes(meters: tuple[MeterJudgement, ...]) -> list[Check]:
    """Whether SWR by meter changes with power, or with time at the same power: neither should be."""
    groups: dict[tuple[str, float, str], list[MeterReading]] = {}
    for m in meters:
        key = (m.reading.state_id, round(m.reading.frequency_hz, -4), m.reading.fixture)
        groups.setdefault(key, []).append(m.reading)
    found = []
    for readings in groups.values():
        powered = sorted((r for r in readings if r.power_w), key=lambda r: r.power_w or 0.0)
        if len(powered) > 1 and (powered[-1].power_w or 0) >= 2 * (powered[0].power_w or 1):
            by = f"from {_power_words(powered[0])} to {_power_words(powered[-1])}"
            why = (
                "Match should not depend on power: a joint, trap or choke warms or arcs, or the meter’s detector is "
                "not true at the smaller power."
            )
            found.append(_change(powered[0], powered[-1], by, why))
        timed = sorted((r for r in readings if r.taken_at), key=lambda r: r.taken_at)
        if len(timed) > 1:
            alike = [
                r for r in timed if abs((r.power_w or 0) - (timed[0].power_w or 0)) <= 0.2 * (timed[0].power_w or 1)
            ]
            apart = seconds_between(alike[0].taken_at, alike[-1].taken_at)
            if len(alike) > 1 and apart and apart > 0:
                by = f"within {apart / 60:.0f} min" if apart >= 60 else f"within {apart:.0f} s"
                why = "Nothing was changed but the clock: something warms, dries or works loose."
                found.append(_change(alike[0], alike[-1], by, why))
    return [check for check in found if check is not None]


def lowest_words(meters: Sequence[MeterJudgement], band_hz: tuple[float, float]) -> str:
    """Where the readings of one state about a band are lowest, by so many frequencies as tell it; empty: they don't. Those on another
    fixture than the newest are left out.

    The meter's own error is common to all: what they differ by is held against a third of it, as it repeats.
    """
    about = ABOUT_BANDS * max(band_hz[1] - band_hz[0], 0.01 * band_hz[1])
    near = [m for m in meters if band_hz[0] - about <= m.reading.frequency_hz <= band_hz[1] + about]
    newest = {round(m.reading.frequency_hz): m for m in near if m.reading.fixture == near[-1].reading.fixture}
    across = [newest[f] for f in sorted(newest)]
    if len(across) < LEAST_ACROSS:
        return ""
    k = min(range(len(across)), key=lambda i: across[i].reading.swr)
    least = across[k].reading

    def higher(other: MeterJudgement) -> bool:
        u = math.hypot(*(r.relative_u * r.swr / 3 for r in (least, other.reading)))
        return other.reading.swr - least.swr > NORMAL_90 * u

    below, above = (any(map(higher, side)) for side in (across[:k], across[k + 1 :]))
    where, told = show.frequency(least.frequency_hz), across[k].figure.text
    if below and above:
        return f"Best of {show.count(len(across), 'frequency', 'frequencies')}: {where}, SWR {told}."
    if above:
        return f"It is best at {where}, the lowest that was read, SWR {told}: long for this band, unless it rises below that."
    if below:
        return f"It is best at {where}, the highest that was read, SWR {told}: short for this band, unless it rises above that."
    return ""


def judge_meters(readings: Sequence[MeterReading], sweeps: Mapping[str, SweepReading]) -> tuple[MeterJudgement, ...]:
    """Each against the analyzer's sweep of its state, where that goes so far."""
    analyzers: dict[str, Figure] = {}
    for state_id, sweep in sweeps.items():
        low, high = float(sweep.frequency_hz[0]), float(sweep.frequency_hz[-1])
        here = [m for m in readings if m.state_id == state_id and low <= m.frequency_hz <= high]
        at = np.array([m.frequency_hz for m in here])
        gamma, u, bounded = (
            np.interp(at, sweep.frequency_hz, v) for v in (np.abs(sweep.gamma), sweep.u, sweep.bounded)
        )
        figures = swr_figures("SWR by analyzer", gamma, u, bounded, sweep.at.working)
        analyzers.update((m.id, figure) for m, figure in zip(here, figures, strict=True))
    return tuple(_judged(m, analyzers.get(m.id)) for m in readings)


def _judged(reading: MeterReading, analyzer: Figure | None) -> MeterJudgement:
    """Meter against analyzer: within their combined uncertainty (90 %) or not."""
    figure = _meter_figure(reading)
    where = show.frequency(reading.frequency_hz)
    if analyzer is None:
        return MeterJudgement(reading, figure, None, "open", f"no sweep to hold it against at {where}", "no sweep")
    apart = reading.swr - analyzer.value
    allowed = NORMAL_90 * math.hypot(figure.u, analyzer.u)
    if abs(apart) <= allowed:
        return MeterJudgement(
            reading,
            figure,
            analyzer,
            "holds",
            f"meter agrees within {abs(apart):.2f} at {where}",
            f"agrees within {abs(apart):.2f}",
        )
    told = f"reads {show.swr(reading.swr)}, analyzer {show.swr(analyzer.value)}"
    return MeterJudgement(reading, figure, analyzer, "disagrees", f"meter {told} at {where}", told)
