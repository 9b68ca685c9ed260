"""What is read off a cut: beamwidth, back, sidelobes, nulls, the weakest and the strongest direction of a sector; each with its ±."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.physics import lobe, pattern
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor, median
from tallmast.units import show

from ..figure import Figure, Working
from .samples import Samples

NULL_DB = -15.0
"""Under this a dip is taken for a null."""
MOST_NULLS = 4
MOST_OF_BEAM = 0.8
"""Of its own width: a beam that is known no better is none."""
BEAM_SHAPE_U = 0.01
"""Standard uncertainty of a beamwidth from the curve that stands for the beam, as a share of it."""
AT_WORST = "What is lost at worst over the directions that will really be used."
BEYOND_LAST_DEG, BEYOND_LAST_DB = 2.0, 1.0
"""So far past the last direction that was read a curve goes on, and so far off what was read there."""
AT_BEST = "What is heard best of the directions that matter: where they are noisy, that counts."
AT_NULL = "A direction in which it hardly hears and is hardly heard."
NULL_HOW = "local parabolas through the samples"
Said = Callable[[float], str]
"""An angle of a cut in words, as its plane counts it."""


class Scatter(Frozen):
    """What is uncertain of a sample: what averages out over many, and what is common to the cut."""

    random_db: float
    common_db: float
    degrees: float = math.inf
    """Of freedom, what is stated counted in."""

    def u(self, share: float) -> float:
        """Standard uncertainty of a level that rests on several samples; `share`: √Σ weight² of them."""
        return math.hypot(share * self.random_db, self.common_db)


class Null(Frozen):
    """A dip: how deep under the peak, and how wide 3 dB over its bottom; None where a side of it was not read."""

    at_deg: float
    depth: Figure
    width_deg: float | None


def source(what: str) -> str:
    return f"{what}: IEEE Std 145-2013"


def beamwidth(
    of: Samples, angle: Floats, level: Floats, main: lobe.Lobe | None, spread: Scatter, said: Said
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
    if coverage_factor(main.degrees + 4.0 if main is not None else math.inf) * u > MOST_OF_BEAM * w:
        return None, None  # what is all round within its scatter has no beam
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
            source("half-power beamwidth"),
            "Inside it at least half of the greatest power is radiated.",
        ),
        main.degrees + 4.0 if main is not None else math.inf,
    )
    return figure, (left, right)


def steep(angle: Floats, level: Floats, at_deg: float) -> float:
    """How much the level changes with a degree there, dB, over as much as a few samples."""
    reach = max(6.0, 1.5 * median(np.diff(angle)))
    either = pattern.level_at(angle, level, np.array([at_deg - reach, at_deg + reach]))
    return abs(float(either[1] - either[0])) / (2.0 * reach)


def _slope(angle: Floats, level: Floats, at_deg: float) -> float:
    """dB per degree at an angle, from a few degrees either side."""
    either = pattern.level_at(angle, level, np.array([at_deg - 3.0, at_deg + 3.0]))
    return max(abs(float(either[1] - either[0])) / 6.0, 0.02)


def with_reflections(figure: Figure, reflected_db: float, below_db: float) -> Figure:
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


def against_peak(
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


def _lost_behind(level: Floats, top_deg: float, spread: Scatter, said: Said) -> Figure:
    """Nothing was heard just behind: it is weaker there than the weakest that was."""
    value = -float(level.min())
    lines = (f"peak at {said(top_deg)}", f"opposite {said(top_deg + 180)}: nothing heard")
    u = math.hypot(spread.random_db, spread.common_db)
    working = Working(
        lines, (("level of the weakest heard", show.decibel(u, 2)),), source("front-to-back ratio"), BEHIND
    )
    low = value - coverage_factor(spread.degrees, 0.8) * u
    return Figure("front-to-back", value, u, "dB", working, spread.degrees, low=low, bound="at least")


BEHIND = "How much weaker it is just behind its peak."


def back(
    of: Samples, angle: Floats, level: Floats, top_deg: float, u_top: float, spread: Scatter, said: Said
) -> Figure | None:
    lost = [one for one in of.lost_deg if abs((one - top_deg) % 360.0 - 180.0) <= pattern.NEAR_DEG]
    if lost:
        return _lost_behind(level, top_deg, spread, said)
    if not pattern.covered(angle, [top_deg + 180.0]).all():
        return None
    curve = lobe.smooth(angle, level, [top_deg + 180.0])
    opposite, u = float(curve.level_db[0]), spread.u(float(curve.share[0]))
    apart = float(of.between_u_db(top_deg + 180.0, top_deg))
    u = math.hypot(u, of.slow_u_db, of.angle_u_deg * steep(angle, level, top_deg + 180.0), apart)
    lines = (f"peak at {said(top_deg)}", f"opposite {said(top_deg + 180)}: {show.decibel(opposite)}")
    figure = against_peak(
        "front-to-back", -opposite, u_top, u, lines, source("front-to-back ratio"), BEHIND, spread.degrees
    )
    return with_reflections(figure, of.reflected_db, -opposite)


def sidelobe(
    of: Samples,
    top_deg: float,
    angle: Floats,
    level: Floats,
    lobes: list[pattern.Lobe],
    u_top: float,
    spread: Scatter,
    said: Said,
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
    u = math.hypot(u, float(of.between_u_db(at, top_deg)))
    lines = (f"at {said(at)}", f"{show.decibel(value)} against the peak")
    meaning = "Another direction in which it hears and is heard."
    return against_peak(
        "largest sidelobe", value, u_top, u, lines, source("sidelobe level"), meaning, spread.degrees
    ), at


def in_sector(
    of: Samples,
    top_deg: float,
    angle: Floats,
    level: Floats,
    sector: tuple[float, float],
    u_top: float,
    spread: Scatter,
    said: Said,
) -> tuple[tuple[Figure, float] | None, tuple[Figure, float] | None]:
    """((weakest, where), (strongest, where)) in a sector, by a curve as wide as the samples ask; over gaps nothing is read."""
    span = (sector[1] - sector[0]) % 360.0 or 360.0
    step = max(1.0, span / 120.0, min(median(np.diff(angle)) / 2.0, 5.0)) if len(angle) > 1 else 1.0
    at = sector[0] + np.append(np.arange(0.0, span, step), span)
    _, off, between = pattern.nearest(angle, at)
    seen = between | (off <= BEYOND_LAST_DEG)  # a curve is not drawn on past the last sample
    if not seen.any():
        return None, None
    at = at[seen]
    curve = lobe.smooth(angle, level, at)
    low, high = int(np.argmin(curve.level_db)), int(np.argmax(curve.level_db))
    figures = []
    for name, k, meaning in (("weakest", low, AT_WORST), ("strongest", high, AT_BEST)):
        lines = (f"sector {sector[0]:g}° to {sector[1]:g}° from its front", f"{name} at {said(float(at[k]))}")
        u = math.hypot(
            spread.u(float(curve.share[k])),
            of.slow_u_db,
            math.hypot(of.angle_u_deg, of.front_u_deg) * steep(angle, level, float(at[k])),
            float(of.between_u_db(float(at[k]), top_deg)),
        )
        how = "local parabolas through the samples"
        value = float(curve.level_db[k])
        figures.append(against_peak(f"{name} in sector", value, u_top, u, lines, how, meaning, spread.degrees))
    weak, strong = figures
    edge = low in (0, len(at) - 1)
    beside = min(float(curve.level_db[max(low - 3, 0)]), float(curve.level_db[min(low + 3, len(at) - 1)]))
    # A null is narrower than the steps: how deep it goes between two samples is not seen. Nor is what lies in a gap, or
    # where nothing was heard.
    lost = any((one - sector[0]) % 360.0 <= span for one in of.lost_deg)
    if lost or not seen.all() or (weak.value < NULL_DB and (not edge or beside - weak.value > 3.0)):
        weak = replace(weak, bound="at most", high=weak.value + coverage_factor(math.inf, 0.8) * weak.u)
    return (weak, float(at[low] % 360.0)), (strong, float(at[high] % 360.0))


def nulls(
    of: Samples,
    top_deg: float,
    angle: Floats,
    level: Floats,
    u_top: float,
    spread: Scatter,
    swing_db: float,
    said: Said,
) -> tuple[Null, ...]:
    """The deepest dips, by the curve through the samples: one narrower than their steps may go deeper."""
    out = []
    for dip in pattern.nulls(angle, level, least_swing_db=swing_db)[:MOST_NULLS]:
        curve = lobe.smooth(angle, level, [dip.angle_deg])
        value = -float(curve.level_db[0])
        apart = float(of.between_u_db(dip.angle_deg, top_deg))
        u = math.hypot(spread.u(float(curve.share[0])), of.slow_u_db, apart)
        lines = (f"at {said(dip.angle_deg)}",)
        figure = against_peak("depth of a null", value, u_top, u, lines, NULL_HOW, AT_NULL, spread.degrees)
        if -value < NULL_DB:
            # The deepest of several dips is the one that noise made deeper: more than nine in ten is asked of one alone.
            figure = replace(figure, bound="at least", low=value - coverage_factor(math.inf, 0.9) * figure.u)
        out.append(Null(dip.angle_deg, figure, pattern.null_width_deg(angle, level, dip.angle_deg)))
    return tuple(out)
