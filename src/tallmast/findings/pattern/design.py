"""A measured pattern against its design: sound, or a fault at these bearings."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Design
from tallmast.physics.attitude import pointing
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import median
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working
from .cut import CutReading

NEAREST = 4
FARTHEST_DEG = 12.0
"""A design says nothing of a direction farther from all of its own."""
LEAST_DEG = 6.0
"""A fault narrower than this is taken for a reading's."""
SHALLOW_DB = -25.0
"""Where the design lies deeper, standing off it says little: nothing is sent there anyhow."""


class Stretch(Frozen):
    """Directions over which it stands off its design by more than it may, surely."""

    from_deg: float
    to_deg: float
    worst: Figure
    at_deg: float


class AgainstDesign(Frozen):
    """One measured cut against the design, both [n] over the same angles; NaN where either says nothing."""

    design: Design
    cut: CutReading
    angle_deg: Floats
    design_db: Floats
    """On the measured cut's footing."""
    off_db: Floats
    faults: tuple[Stretch, ...]
    largest: Figure
    """The largest deviation, whatever is allowed."""
    told: bool
    """Whether its ± is small enough to tell what is allowed from what is not."""

    @property
    def words(self) -> str:
        allowed = show.decibel(
            self.design.tolerance_db, 0 if self.design.tolerance_db == int(self.design.tolerance_db) else 1
        )
        if self.faults:
            told = [_stretch(fault, self.cut.plane) for fault in self.faults[:3]]
            return f"stands off its design {show.join(told)}"
        if not self.told:
            return f"can't be told from its design within {allowed}: the ± of a level is larger"
        return f"is sound {'all round' if self.cut.plane == 'azimuth' and self.cut.gap_deg <= 30 else 'where it was read'}: within {allowed} of its design"

    @property
    def check(self) -> Check:
        if self.faults:
            worst = self.faults[0]
            off = f"{show.decibel(abs(worst.worst.value))} {'under' if worst.worst.value < 0 else 'over'} its design"
            return Check("fails", f"a fault at {_span(worst, self.cut.plane)}, {off}", worst.worst, f"It {self.words}.")
        mark: Mark = "holds" if self.told else "open"
        return Check(mark, "sound against its design" if self.told else "not told against its design", self.largest)


def _span(fault: Stretch, plane: str) -> str:
    return f"{show.direction(fault.from_deg, plane)} to {show.direction(fault.to_deg, plane)}"


def _stretch(fault: Stretch, plane: str) -> str:
    value, half = fault.worst.value, fault.worst.half
    way = "under" if value < 0 else "over"
    return f"at {_span(fault, plane)}, {show.plus_minus(abs(value), half, 'dB')} {way} it at {show.direction(fault.at_deg, plane)}"


def design_at(evidence: Evidence, design: Design, azimuth_deg: Floats, elevation_deg: Floats) -> Floats:
    """Level of a design in directions [n], dB, by its nearest ones; NaN where it has none near."""
    from scipy.spatial import cKDTree

    series = evidence.series(design.series_id)
    there = pointing(series["azimuth_deg"], series["elevation_deg"])
    near, which = cKDTree(there).query(pointing(azimuth_deg, elevation_deg), min(NEAREST, len(there)))
    near, which = np.atleast_2d(near.T).T, np.atleast_2d(which.T).T
    weight = 1.0 / np.maximum(near, 1e-6) ** 2
    level = (np.asarray(series["level_db"])[which] * weight).sum(axis=1) / weight.sum(axis=1)
    return np.asarray(np.where(near[:, 0] <= 2 * math.sin(math.radians(FARTHEST_DEG) / 2), level, np.nan))


def against(evidence: Evidence, design: Design, cut: CutReading) -> AgainstDesign | None:
    """None where they have no directions in common."""
    angle, level, half = cut.line
    if cut.plane == "azimuth":
        azimuth, elevation = angle, np.full(len(angle), cut.of.at_elevation_deg or 0.0)
    else:
        up = (angle + 90.0) % 360.0 - 90.0  # −90 … 270: beyond 90 it looks backwards
        azimuth, elevation = np.where(up > 90.0, 180.0, 0.0), np.where(up > 90.0, 180.0 - up, up)
    wanted = design_at(evidence, design, azimuth, elevation)
    both = np.isfinite(level) & np.isfinite(wanted)
    if both.sum() < 8:
        return None
    # Neither has a level of its own: in the middle of all directions they are the same, so that a hole in one stays a hole.
    sent = both & (wanted >= wanted[both].max() + SHALLOW_DB)
    footing = median(level[sent] - wanted[sent])
    wanted = wanted + footing
    off = np.where(sent, level - wanted, np.nan)
    sure = sent & (np.abs(np.nan_to_num(off)) - np.nan_to_num(half) > design.tolerance_db)
    faults = tuple(_faults(cut, angle, off, half, sure))
    worst = int(np.nanargmax(np.abs(off)))
    largest = _figure(off, half, worst, cut)
    told = bool(np.nanmedian(half[sent]) <= design.tolerance_db)
    return AgainstDesign(design, cut, angle, np.where(both, wanted, np.nan), off, faults, largest, told)


def _figure(off: Floats, half: Floats, at: int, cut: CutReading) -> Figure:
    u = (
        float(half[at]) / max(cut.reading_half_db / cut.spread.u(1.0), 1e-9)
        if cut.spread.u(1.0) > 0
        else float(half[at]) / 1.645
    )
    working = Working(
        (f"at {show.direction(2.0 * at, cut.plane)}", "both on one footing by the median of their difference"),
        (("level measured there", show.decibel(u, 2)),),
        "IEEE Std 149-2021 §8",
        "How far what is sent stands off what was designed.",
    )
    return Figure("off its design", float(off[at]), max(u, 1e-3), "dB", working, cut.spread.degrees)


def _faults(cut: CutReading, angle: Floats, off: Floats, half: Floats, sure: NDArray[np.bool_]) -> list[Stretch]:
    """Stretches round the turn, the worst first."""
    n = len(angle)
    if not sure.any():
        return []
    start = 0 if sure.all() else int(np.argmin(sure))
    order = (np.arange(n) + start) % n
    edges = np.flatnonzero(np.diff(np.concatenate(([0], sure[order].astype(int), [0]))))
    out = []
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        inside = order[a:b]
        if len(inside) * 360.0 / n < LEAST_DEG:
            continue
        worst = int(inside[int(np.argmax(np.abs(off[inside])))])
        figure = _figure(off, half, worst, cut)
        out.append(Stretch(float(angle[inside[0]]), float(angle[inside[-1]]), figure, float(angle[worst])))
    return sorted(out, key=lambda fault: -abs(fault.worst.value))
