"""Meter against analyzer: within their combined doubt, or a finding."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tallmast.notebook.records import MeterReading
from tallmast.units import show

from ..figure import Figure, Mark, Working
from .reading import SweepReading, value_at
from .swr import NORMAL_90, swr_figure


@dataclass(frozen=True, eq=False, repr=False)
class MeterJudgement:
    """A meter reading held against the analyzer at the same frequency and state."""

    reading: MeterReading
    figure: Figure
    analyzer: Figure | None
    mark: Mark
    words: str


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


def judge_meter(reading: MeterReading, sweep: SweepReading | None) -> MeterJudgement:
    """Meter against analyzer: within their combined uncertainty (90 %) or not."""
    figure = _meter_figure(reading)
    where = show.frequency(reading.frequency_hz)
    inside = sweep is not None and sweep.frequency_hz[0] <= reading.frequency_hz <= sweep.frequency_hz[-1]
    if sweep is None or not inside or sweep.sweep.state_id != reading.state_id:
        return MeterJudgement(reading, figure, None, "open", f"no sweep to hold it against at {where}")
    m = value_at(sweep.frequency_hz, np.abs(sweep.gamma), reading.frequency_hz)
    u = value_at(sweep.frequency_hz, sweep.u, reading.frequency_hz)
    analyzer = swr_figure("SWR by analyzer", m, u, sweep.at.working)
    # dSWR/d|Γ| = 2/(1−|Γ|)²: the analyzer's doubt in SWR, so that both can be added.
    u_swr = u * 2.0 / (1.0 - min(m, 0.95)) ** 2
    apart = reading.swr - analyzer.value
    allowed = NORMAL_90 * float(np.hypot(figure.u, u_swr))
    if abs(apart) <= allowed:
        return MeterJudgement(reading, figure, analyzer, "holds", f"meter agrees within {abs(apart):.2f} at {where}")
    words = f"meter reads {show.swr(reading.swr)}, analyzer {show.swr(analyzer.value)} at {where}"
    return MeterJudgement(reading, figure, analyzer, "disagrees", words)
