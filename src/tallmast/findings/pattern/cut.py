"""One cut: its peak, beam, back, sidelobes, nulls, and the weakest direction of a sector."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property, partial

import numpy as np

from tallmast.notebook.records import Antenna
from tallmast.physics import lobe, pattern
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor, median
from tallmast.units import show

from ..figure import Figure, Working
from .samples import COARSE_DEG, Samples

NOISE_SWING_DB = 1.5
BY_CHANCE = 5.0
"""How many of its standard uncertainties a curve through the samples of an omni swings over a turn, by noise alone."""
FEWEST = 8
"""Directions of a cut that a curve can be laid through."""
NULL_DB = -15.0
"""Under this a dip is taken for a null."""
BEAM_SHAPE_U = 0.01
"""Standard uncertainty of a beamwidth from the curve that stands for the beam, as a share of it."""
Said = Callable[[float], str]
"""An angle of a cut in words, as its plane counts it."""


@dataclass(frozen=True, eq=False, repr=False)
class _Scatter:
    """What is uncertain of a sample: what averages out over many, and what is common to the cut."""

    random_db: float
    common_db: float
    degrees: float = math.inf
    """Of freedom, what is stated counted in."""

    def u(self, share: float) -> float:
        """Standard uncertainty of a level that rests on several samples; `share`: √Σ weight² of them."""
        return math.hypot(share * self.random_db, self.common_db)


@dataclass(frozen=True, eq=False, repr=False)
class CutReading:
    """One cut with its peak at 0 dB and angles from the antenna's own front."""

    of: Samples
    angle_deg: Floats
    level_db: Floats
    peak: Figure
    """Level at the peak as measured, of an omni the mean all round; of use only between absolute cuts of one session."""
    peak_deg: float
    beamwidth: Figure | None
    beam_edges_deg: tuple[float, float] | None
    front_to_back: Figure | None
    """None where the cut does not reach behind its peak."""
    sidelobe: Figure | None
    sidelobe_deg: float | None
    nulls: tuple[pattern.Lobe, ...]
    sector: Figure | None
    """Weakest direction in the sector that matters, dB against the peak; None where the cut has no sample there."""
    sector_deg: float | None
    gap_deg: float
    ripple: Figure | None = None
    """Of a cut that has no beam."""
    spread: _Scatter = field(default_factory=lambda: _Scatter(0.0, 0.0))
    coarse: bool = False
    """Read in so few directions that no beam is told, and none is ruled out."""

    @cached_property
    def line(self) -> tuple[Floats, Floats, Floats]:
        """(angle, level, half of the 90 % interval), each [n] in steps of 2° where the cut tells something, else NaN."""
        angle = np.arange(0.0, 360.0, 2.0)
        told = pattern.covered(self.angle_deg, angle)
        if self.coarse or not told.any():
            nothing = np.full(len(angle), np.nan)
            return angle, nothing, nothing
        curve = lobe.smooth(self.angle_deg, self.level_db, angle)
        random = np.minimum(curve.share, 1.0) * self.spread.random_db
        u = np.sqrt(random**2 + self.spread.common_db**2 + self.of.slow_u_db**2)
        half = coverage_factor(self.spread.degrees) * u
        return angle, np.where(told, curve.level_db, np.nan), np.where(told, half, np.nan)

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


def _source(what: str) -> str:
    return f"{what}: IEEE Std 145-2013"


def _scatter(of: Samples, seen_db: float, degrees: float) -> _Scatter:
    """The samples' own scatter, a stated uncertainty counted as four more of them; what is stated and not seen in the
    scatter is common to the cut, and no averaging takes it away."""
    stated = of.level_u_db
    if len(of.angle_deg) < FEWEST:  # so few scatter about nothing: what is stated or assumed is all there is
        return _Scatter(stated, 0.0, 4.0)
    seen_db *= of.grown
    seen = seen_db > 1e-3 * stated  # less is no scatter but arithmetic
    random = math.sqrt((degrees * seen_db**2 + 4.0 * stated**2) / (degrees + 4.0)) if seen else 0.0
    # A scatter of few samples comes out small by chance: only what it can't be by chance is called common.
    most = random * (1.0 + 1.645 / math.sqrt(2.0 * (degrees + 4.0)))
    return _Scatter(random, math.sqrt(max(stated**2 - most**2, 0.0)), degrees + 4.0)


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
        Working((f"{how}, {show.fixed(top_db, 2)} dB",), (), _source("peak")),
        spread.degrees,
    )
    u_top = math.hypot(u_top, of.slow_u_db)
    level = level - top_db
    said = partial(show.direction, plane=of.plane)
    width, edges = (None, None) if coarse else _beamwidth(of, angle, level, main, spread, said)
    back, side, side_deg = _back(of, angle, level, top_deg, u_top, spread, said), None, None
    swing = max(NOISE_SWING_DB, 3 * spread.random_db)
    lobes = [] if coarse else pattern.sidelobes(angle, level, swing)
    if lobes:
        side, side_deg = _sidelobe(angle, level, lobes, u_top, spread, said)
    weak, weak_deg = (None, None) if coarse else _weakest(of, angle, level, sector, u_top, spread, said)
    return CutReading(
        of,
        angle,
        level,
        peak,
        top_deg,
        width,
        edges,
        back,
        side,
        side_deg,
        () if coarse else tuple(pattern.nulls(angle, level, least_swing_db=swing)[:4]),
        weak,
        weak_deg,
        pattern.largest_gap_deg(angle),
        _ripple(curve, spread) if main is None and not coarse else None,
        spread,
        coarse,
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


def _all_round(level: Floats, spread: _Scatter) -> tuple[float, float]:
    """(mean of the power, u), dB; scatter in decibels lifts a mean of power by 0.115·s², which is taken off."""
    power = 10.0 * math.log10(float(np.mean(10.0 ** (level / 10.0))))
    return power - math.log(10.0) / 20.0 * spread.random_db**2, spread.u(1.0 / math.sqrt(len(level)))


def _ripple(curve: lobe.Smooth, spread: _Scatter) -> Figure:
    """How uneven an omni is, greatest less least of the smooth curve."""
    u = math.sqrt(2.0) * float(curve.share.mean()) * spread.random_db
    lines = ("greatest less least of the curve through the samples",)
    parts = (("scatter of the samples, at both ends", show.decibel(u, 2)),) if u > 0 else ()
    return Figure("ripple", float(np.ptp(curve.level_db)), u, "dB", Working(lines, parts, _source("omnidirectional")))


def _beamwidth(
    of: Samples, angle: Floats, level: Floats, main: lobe.Lobe | None, spread: _Scatter, said: Said
) -> tuple[Figure | None, tuple[float, float] | None]:
    if main is not None and main.width_deg is not None and main.edges_deg is not None:
        left, right = main.edges_deg
        w, slopes = main.width_deg, main.slopes
        by_scatter = main.u_width_deg * spread.random_db / max(main.scatter_db, 1e-12)
        how = "a curve through the main lobe, 3 dB under its top"
    else:
        by_line = pattern.beamwidth_deg(angle, level)
        if by_line is None or (main is None and float(np.ptp(level)) < 6.0):
            return None, None
        w, left, right = by_line
        if not pattern.covered(angle, [left, right]).all():
            return None, None
        slopes = _slope(angle, level, left), _slope(angle, level, right)
        # Too few samples for a curve: the top and each edge are single readings.
        by_scatter = math.sqrt(2.0) * spread.random_db * math.hypot(1 / slopes[0], 1 / slopes[1])
        how = "straight lines between the few samples"
    common = math.hypot(spread.common_db, of.slow_u_db)
    by_common = math.sqrt(2.0) * common * math.hypot(1 / slopes[0], 1 / slopes[1])
    by_shape = BEAM_SHAPE_U * w
    u = math.hypot(by_scatter, by_common, by_shape)
    parts = [
        ("scatter of the samples", by_scatter),
        ("level, beyond their scatter", by_common),
        ("shape of the beam, 1 %", by_shape),
    ]
    figure = Figure(
        "beamwidth",
        w,
        u,
        "°",
        Working(
            (
                how,
                f"left  {said(left)}, {slopes[0]:.2f} dB per degree",
                f"right {said(right)}, {slopes[1]:.2f} dB per degree",
                f"width = {w:.1f}°",
            ),
            tuple((words, f"{part:.1f}°") for words, part in parts if part > 0.02 * u),
            _source("half-power beamwidth"),
            "Inside it at least half of the greatest power is radiated.",
        ),
        main.degrees + 4.0 if main is not None else math.inf,
    )
    return figure, (left, right)


def _steep(angle: Floats, level: Floats, at_deg: float) -> float:
    """How much the level changes with a degree there, dB, over as much as a few samples."""
    reach = max(6.0, 1.5 * median(np.diff(angle)))
    either = pattern.level_at(angle, level, np.array([at_deg - reach, at_deg + reach]))
    return abs(float(either[1] - either[0])) / (2.0 * reach)


def _slope(angle: Floats, level: Floats, at_deg: float) -> float:
    """dB per degree at an angle, from a few degrees either side."""
    either = pattern.level_at(angle, level, np.array([at_deg - 3.0, at_deg + 3.0]))
    return max(abs(float(either[1] - either[0])) / 6.0, 0.02)


def _with_reflections(figure: Figure, reflected_db: float, below_db: float) -> Figure:
    """With what is reflected about the place: in a direction `below_db` under the peak that adds to the field or takes from it, and
    where it is as large as what was read nobody knows how much weaker it is. Lopsided, in the sense of the figure (a ratio counts
    up, a level down)."""
    if not math.isfinite(reflected_db):
        return figure
    field, stray = 10.0 ** (-below_db / 20.0), 10.0 ** (reflected_db / 20.0) / math.sqrt(2.0)
    half = coverage_factor(figure.degrees)
    u = math.hypot(field * figure.u * math.log(10.0) / 20.0, stray)
    strongest, weakest = field + half * u, field - half * u
    least = -20.0 * math.log10(strongest)
    most = -20.0 * math.log10(weakest) if weakest > HIDDEN * field else math.inf
    up = figure.value >= 0 and figure.name == "front-to-back"
    low, high = (least, most) if up else (-most, -least)
    if math.isinf(most):
        return replace(
            figure, low=low if up else None, high=None if up else high, bound="at least" if up else "at most"
        )
    return replace(figure, low=low, high=high)


HIDDEN = 0.15
"""Of what was read: less than this left of a direction's own, and only a bound is told."""


def _against_peak(
    name: str,
    value: float,
    u_top: float,
    u_there: float,
    lines: tuple[str, ...],
    what: str,
    meaning: str,
    degrees: float,
) -> Figure:
    """A level elsewhere against the peak."""
    parts = (("level there", show.decibel(u_there, 2)), ("level at the peak", show.decibel(u_top, 2)))
    return Figure(name, value, math.hypot(u_top, u_there), "dB", Working(lines, parts, what, meaning), degrees)


def _lost_behind(level: Floats, top_deg: float, spread: _Scatter, said: Said) -> Figure:
    """Nothing was heard just behind: it is weaker there than the weakest that was."""
    value = -float(level.min())
    lines = (f"peak at {said(top_deg)}", f"opposite {said(top_deg + 180)}: nothing heard")
    u = math.hypot(spread.random_db, spread.common_db)
    working = Working(
        lines, (("level of the weakest heard", show.decibel(u, 2)),), _source("front-to-back ratio"), BEHIND
    )
    low = value - coverage_factor(spread.degrees, 0.8) * u
    return Figure("front-to-back", value, u, "dB", working, spread.degrees, low=low, bound="at least")


BEHIND = "How much weaker it is just behind its peak."


def _back(
    of: Samples, angle: Floats, level: Floats, top_deg: float, u_top: float, spread: _Scatter, said: Said
) -> Figure | None:
    lost = [one for one in of.lost_deg if abs((one - top_deg) % 360.0 - 180.0) <= pattern.NEAR_DEG]
    if lost:
        return _lost_behind(level, top_deg, spread, said)
    if not pattern.covered(angle, [top_deg + 180.0]).all():
        return None
    curve = lobe.smooth(angle, level, [top_deg + 180.0])
    opposite, u = float(curve.level_db[0]), spread.u(float(curve.share[0]))
    u = math.hypot(u, of.slow_u_db, of.angle_u_deg * _steep(angle, level, top_deg + 180.0))
    lines = (f"peak at {said(top_deg)}", f"opposite {said(top_deg + 180)}: {show.decibel(opposite)}")
    figure = _against_peak(
        "front-to-back", -opposite, u_top, u, lines, _source("front-to-back ratio"), BEHIND, spread.degrees
    )
    return _with_reflections(figure, of.reflected_db, -opposite)


def _sidelobe(
    angle: Floats, level: Floats, lobes: list[pattern.Lobe], u_top: float, spread: _Scatter, said: Said
) -> tuple[Figure, float]:
    """The largest sidelobe by the curve through it; where the next is as large within the scatter, the larger of both."""
    tops = []
    close = lobes[1:2] if lobes[1:] and lobes[1].below_peak_db - lobes[0].below_peak_db < 4.0 * spread.random_db else []
    for one in [*lobes[:1], *close]:
        curve = lobe.fit(angle, level, one.angle_deg, depth_db=3.0)
        near = curve is not None and abs((curve.top_deg - one.angle_deg + 180) % 360 - 180) < 15
        if curve is not None and near:
            share = curve.u_top_db / max(curve.scatter_db, 1e-12) if curve.scatter_db else 0.0
            tops.append((curve.top_db, curve.top_deg, spread.u(min(share, 1.0))))
        else:
            tops.append((-one.below_peak_db, one.angle_deg, spread.u(1.0)))
    value, at, u = max(tops)
    lines = (f"at {said(at)}", f"{show.decibel(value)} against the peak")
    meaning = "Another direction in which it hears and is heard."
    return _against_peak(
        "largest sidelobe", value, u_top, u, lines, _source("sidelobe level"), meaning, spread.degrees
    ), at


def _weakest(
    of: Samples, angle: Floats, level: Floats, sector: tuple[float, float], u_top: float, spread: _Scatter, said: Said
) -> tuple[Figure | None, float | None]:
    """The weakest direction in a sector, by a curve as wide as the samples ask; over gaps nothing is read."""
    span = (sector[1] - sector[0]) % 360.0 or 360.0
    step = max(1.0, span / 120.0, min(median(np.diff(angle)) / 2.0, 5.0)) if len(angle) > 1 else 1.0
    at = sector[0] + np.append(np.arange(0.0, span, step), span)
    seen = pattern.covered(angle, at)
    if not seen.any():
        return None, None
    at = at[seen]
    curve = lobe.smooth(angle, level, at)
    low = int(np.argmin(curve.level_db))
    lines = (f"sector {sector[0]:g}° to {sector[1]:g}° from its front", f"weakest at {said(float(at[low]))}")
    meaning = "What is lost at worst over the directions that will really be used."
    u = math.hypot(
        spread.u(float(curve.share[low])), of.slow_u_db, of.angle_u_deg * _steep(angle, level, float(at[low]))
    )
    value = float(curve.level_db[low])
    how = "local parabolas through the samples"
    figure = _against_peak("weakest in sector", value, u_top, u, lines, how, meaning, spread.degrees)
    edge = low in (0, len(at) - 1)
    beside = min(float(curve.level_db[max(low - 3, 0)]), float(curve.level_db[min(low + 3, len(at) - 1)]))
    # A null is narrower than the steps: how deep it goes between two samples is not seen. Nor is what lies in a gap, or
    # where nothing was heard.
    lost = any((one - sector[0]) % 360.0 <= span for one in of.lost_deg)
    if lost or not seen.all() or (value < NULL_DB and (not edge or beside - value > 3.0)):
        figure = replace(figure, bound="at most", high=value + coverage_factor(math.inf, 0.8) * figure.u)
    return figure, float(at[low] % 360.0)


def toward(reading: CutReading, from_front_deg: float) -> Figure | None:
    """Level in a direction against the peak (of an omni: its mean), dB; None where the cut does not tell it."""
    of = reading.of
    lost = any(abs((one - from_front_deg + 180.0) % 360.0 - 180.0) <= pattern.NEAR_DEG for one in of.lost_deg)
    if not lost and not pattern.covered(reading.angle_deg, [from_front_deg]).all():
        return None
    curve = lobe.smooth(reading.angle_deg, reading.level_db, [from_front_deg])
    value = float(reading.level_db.min()) if lost else float(curve.level_db[0])
    by_aim = of.angle_u_deg * _steep(reading.angle_deg, reading.level_db, from_front_deg)
    u_there = math.hypot(reading.spread.u(1.0 if lost else float(curve.share[0])), of.slow_u_db)
    u_peak = math.hypot(reading.peak.u, of.slow_u_db)
    u = math.hypot(u_there, by_aim, u_peak)
    said = partial(show.direction, plane=of.plane)
    parts = [("level there", u_there), ("level at the peak", u_peak), ("where it was aimed", by_aim)]
    working = Working(
        (f"at {said(from_front_deg)} from its front" + (": nothing heard" if lost else ""),),
        tuple((words, show.decibel(part, 2)) for words, part in parts if part > 0.02 * u),
        "local parabolas through the samples",
        "How much weaker it is there than at its peak.",
    )
    figure = Figure("level there", value, u, "dB", working, reading.spread.degrees)
    if lost:
        return replace(figure, bound="at most", high=value + coverage_factor(math.inf, 0.8) * u)
    return _with_reflections(figure, of.reflected_db, -value)
