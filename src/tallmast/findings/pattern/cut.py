"""One cut: its peak, and everything that is read off it."""

from __future__ import annotations

import math
from functools import cached_property, partial

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna
from tallmast.physics import lobe, pattern
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor, median
from tallmast.units import show

from ..figure import Figure, Working
from . import marks
from .marks import BEYOND_LAST_DB, BEYOND_LAST_DEG, Null, Scatter, source
from .samples import COARSE_DEG, Samples

NOISE_SWING_DB = 1.5
BY_CHANCE = 5.0
"""How many of its standard uncertainties a curve through the samples of an omni swings over a turn, by noise alone."""
FEWEST = 8
"""Directions of a cut that a curve can be laid through."""


class CutReading(Frozen):
    """One cut with its peak at 0 dB and angles from the antenna's own front."""

    of: Samples
    angle_deg: Floats
    level_db: Floats
    peak: Figure
    """Level at the peak as measured, of an omni the mean all round; of use only between absolute cuts of one session."""
    peak_deg: float
    u_top_db: float
    """Standard uncertainty of that peak against other directions of the same cut: what all of them share has no part in it."""
    gap_deg: float
    """The widest stretch that was not read."""
    spread: Scatter
    coarse: bool
    """Read in so few directions that no beam is told, and none is ruled out."""
    front_to_back: Figure | None = None
    """None where the cut does not reach behind its peak."""
    beamwidth: Figure | None = None
    beam_edges_deg: tuple[float, float] | None = None
    sidelobe: Figure | None = None
    sidelobe_deg: float | None = None
    nulls: tuple[Null, ...] = ()
    sector: Figure | None = None
    """Weakest direction in the sector that matters, dB against the peak; None where the cut has no sample there."""
    sector_deg: float | None = None
    sector_best: Figure | None = None
    """Strongest direction in it: where noise comes from there, that counts."""
    sector_best_deg: float | None = None
    ripple: Figure | None = None
    """Of a cut that has no beam."""

    @cached_property
    def line(self) -> tuple[Floats, Floats, Floats]:
        """(angle, level, half of the 90 % interval), each [n] in steps of 2° where the cut tells something, else NaN."""
        angle = np.arange(0.0, 360.0, 2.0)
        told = pattern.covered(self.angle_deg, angle)
        if self.coarse or not told.any():
            nothing = np.full(len(angle), np.nan)
            return angle, nothing, nothing
        curve = lobe.smooth(self.angle_deg, self.level_db, angle)
        # Beyond the last direction that was read a curve may dive: as far as a step it stays by what was read there.
        nearest, off, inside = pattern.nearest(self.angle_deg, angle)
        told &= inside | (off <= BEYOND_LAST_DEG)
        by_last = np.clip(
            curve.level_db, self.level_db[nearest] - BEYOND_LAST_DB, self.level_db[nearest] + BEYOND_LAST_DB
        )
        level = np.where(inside, curve.level_db, by_last)
        random = np.minimum(curve.share, 1.0) * self.spread.random_db
        apart = self.of.between_u_db(angle, self.peak_deg)
        u = np.sqrt(random**2 + self.spread.common_db**2 + self.of.slow_u_db**2 + apart**2)
        half = coverage_factor(self.spread.degrees) * u
        return angle, np.where(told, level, np.nan), np.where(told, half, np.nan)

    @property
    def reading_half_db(self) -> float:
        """Half of the 90 % interval of one direction alone."""
        return coverage_factor(self.spread.degrees) * self.spread.u(1.0)

    @property
    def antenna(self) -> Antenna:
        return self.of.antenna

    @property
    def plane(self) -> str:
        return self.of.plane


def _scatter(of: Samples, seen_db: float, degrees: float) -> Scatter:
    """The samples' own scatter, a stated uncertainty counted as four more of them; what is stated and not seen in the
    scatter is common to the cut, and no averaging takes it away."""
    stated = of.level_u_db
    if len(of.angle_deg) < FEWEST:  # so few scatter about nothing: what is stated or assumed is all there is
        return Scatter(stated, 0.0, 4.0)
    seen_db *= of.grown
    seen = seen_db > 1e-3 * stated  # less is no scatter but arithmetic
    # Of a file's levels what is stated may be an offset, and no scatter: then what is seen says more of it.
    four = min(stated, 2.0 * seen_db) if of.way == "cut" else stated
    random = math.sqrt((degrees * seen_db**2 + 4.0 * four**2) / (degrees + 4.0)) if seen else 0.0
    # A scatter of few samples comes out small by chance: only what it can't be by chance is called common.
    most = random * (1.0 + 1.645 / math.sqrt(2.0 * (degrees + 4.0)))
    return Scatter(random, math.sqrt(max(stated**2 - most**2, 0.0)), degrees + 4.0)


OFFSET_LEFT = 0.1
"""Of what is common to a cut: what a scale that is not quite straight leaves of it in differences."""


def _between_directions(of: Samples, spread: Scatter, u_top: float) -> tuple[Scatter, float]:
    """(scatter, u of the top) as they come into differences of directions: a level of a file that is off is off all round, and cancels.
    What is reflected about a turn on the spot is another in every direction, and does not."""
    if of.way != "cut":
        return spread, u_top
    common = OFFSET_LEFT * spread.common_db
    alone = math.sqrt(max(u_top**2 - spread.common_db**2, 0.0))
    return replace(spread, common_db=common), math.hypot(alone, common)


def read_cut(of: Samples, sector: tuple[float, float]) -> CutReading:
    """Everything that is read from the samples of one cut, turn or flight; two directions at least."""
    angle, level = pattern.tidy_turn(of.angle_deg, of.level_db)
    coarse = len(angle) < FEWEST or median(np.diff(angle)) > COARSE_DEG
    some = angle[:: max(1, len(angle) // 180)]
    curve = lobe.smooth(angle, level, some)
    strongest = float(some[int(np.argmax(curve.level_db))])
    by_chance = of.level_u_db * 0.6 if coarse else curve.scatter_db * of.grown * float(curve.share.mean())
    all_round = not of.lost_deg and float(np.ptp(curve.level_db)) < 3.0 + BY_CHANCE * by_chance
    main = None if all_round or coarse else _main_lobe(angle, level, strongest)
    if main is not None:
        spread = _scatter(of, main.scatter_db, main.degrees)
        top_db, top_deg, u_top = main.top_db, main.top_deg, spread.u(main.u_top_db / max(main.scatter_db, 1e-12))
        how = "the top of the curve through the main lobe"
    else:
        spread = _scatter(of, curve.scatter_db, float(len(angle)))
        top_deg = strongest
        if all_round:
            top_db, u_top = _all_round(level, spread)
            how = "the mean power all round"
        else:
            top_db, u_top = float(np.max(curve.level_db)), spread.u(1.0)
            how = "the strongest sample: too coarse for a curve"
    peak = Figure(
        "level at its peak",
        top_db,
        u_top,
        "dB",
        Working((f"{how}, {show.fixed(top_db, 2)} dB",), (), source("peak")),
        spread.degrees,
    )
    spread, u_top = _between_directions(of, spread, u_top)
    u_top = math.hypot(u_top, of.slow_u_db)
    level = level - top_db
    said = partial(show.direction, plane=of.plane)
    behind = marks.back(of, angle, level, top_deg, u_top, spread, said)
    gap = pattern.largest_gap_deg(angle)
    read = CutReading(
        of, angle, level, peak, top_deg, u_top, front_to_back=behind, gap_deg=gap, spread=spread, coarse=coarse
    )
    if coarse:
        return read
    width, edges = marks.beamwidth(of, angle, level, main, spread, said)
    swing = max(NOISE_SWING_DB, 3 * spread.random_db)
    lobes = pattern.sidelobes(angle, level, swing)
    side, side_deg = marks.sidelobe(of, top_deg, angle, level, lobes, u_top, spread, said) if lobes else (None, None)
    weak, strong = marks.in_sector(of, top_deg, angle, level, sector, u_top, spread, said)
    return replace(
        read,
        beamwidth=width,
        beam_edges_deg=edges,
        sidelobe=side,
        sidelobe_deg=side_deg,
        nulls=marks.nulls(of, top_deg, angle, level, u_top, spread, swing, said),
        sector=weak[0] if weak is not None else None,
        sector_deg=weak[1] if weak is not None else None,
        sector_best=strong[0] if strong is not None else None,
        sector_best_deg=strong[1] if strong is not None else None,
        ripple=_ripple(curve, spread) if main is None else None,
    )


def _main_lobe(angle: Floats, level: Floats, strongest_deg: float) -> lobe.Lobe | None:
    """The strongest lobe. Of two opposite ones that are alike within their scatter, as a dipole has, that towards its front:
    the stronger of two equals is the luckier one."""
    main = lobe.fit(angle, level, strongest_deg)
    if main is None or abs((main.top_deg + 180) % 360 - 180) <= 90:
        return main
    other = lobe.fit(angle, level, main.top_deg + 180.0)
    if other is not None and main.top_db - other.top_db < 2.0 * math.hypot(main.u_top_db, other.u_top_db) + 0.05:
        return other
    return main


def _all_round(level: Floats, spread: Scatter) -> tuple[float, float]:
    """(mean of the power, u), dB; scatter in decibels lifts a mean of power by 0.115·s², which is taken off."""
    power = 10.0 * math.log10(float(np.mean(10.0 ** (level / 10.0))))
    return power - math.log(10.0) / 20.0 * spread.random_db**2, spread.u(1.0 / math.sqrt(len(level)))


def _ripple(curve: lobe.Smooth, spread: Scatter) -> Figure:
    """How uneven an omni is, greatest less least of the smooth curve."""
    u = math.sqrt(2.0) * float(curve.share.mean()) * spread.random_db
    lines = ("greatest less least of the curve through the samples",)
    parts = (("scatter of the samples, at both ends", show.decibel(u, 2)),) if u > 0 else ()
    return Figure("ripple", float(np.ptp(curve.level_db)), u, "dB", Working(lines, parts, source("omnidirectional")))
