"""Directivity: by integration of all that was flown or of two whole cuts, else by its beams; and the efficiency that a gain then tells."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from tallmast.physics import aperture, lobe, pattern
from tallmast.physics.decibels import Floats
from tallmast.units import show

from ..figure import Figure, Working
from .cut import CutReading
from .flown import Flown

TWO_CUTS_U_DB = 0.2
"""Standard uncertainty of a directivity by two cuts, beyond what two ways of filling the corners between them leave apart."""
WHOLE = 24
"""Angles of a cut that is integrated."""
LEAST_TOLD = 0.6
"""Share of the upper half of the sphere that has to be told for it to be integrated."""
BELOW_U_DB = 0.5
"""Standard uncertainty by what goes below the horizon, which nobody flew: taken for as much as above."""
UNTOLD_SHARE = 0.3
"""Standard uncertainty of the power toward what was not flown, as a share of what is taken for it."""
READ_HIGH, TOP_SHARE = 0.5, 0.5
"""Of the standard uncertainty of one direction: so much too high the strongest of several that are nearly alike is read, and so
much is left of it when they are taken together."""
LEAST_KNOWN = 0.25
"""A beamwidth that is known no better than to this share of it, as a standard uncertainty, is not reckoned with."""
INTEGRATED = "directivity by integration"
BY_DEFINITION = "D = 4π·U max / ∮ U dΩ"
BELOW_GAIN = "Directivity: losses and mismatch are not in it, so the gain is a little less."


def _even(cut: CutReading) -> tuple[Floats, Floats]:
    """The cut without the scatter of its samples, against its peak."""
    return cut.angle_deg, np.asarray(lobe.smooth(cut.angle_deg, cut.level_db, cut.angle_deg).level_db)


@lru_cache(maxsize=16)  # while an antenna's cuts stand, what is worked out from them stands
def _by_two_cuts(azimuth: CutReading, elevation: CutReading) -> Figure:
    """Summed over the sphere, the corners between both cuts filled in two ways: their mean, and what they leave apart."""
    around, over = _even(azimuth), _even(elevation)
    at_front, up_front = (float(pattern.level_at(*cut, np.zeros(1))[0]) for cut in (around, over))
    summed = pattern.directivity_db(pattern.from_two_cuts(around, over), -up_front)
    lower = (around[0], around[1] + up_front - at_front)
    crossed = pattern.directivity_db(pattern.about_front(lower, over), max(0.0, up_front - at_front))
    value, corners = 0.5 * (summed + crossed), 0.5 * abs(summed - crossed)
    parts = {
        "two cuts stand for all directions": TWO_CUTS_U_DB,
        "corners between both": 0.4 * corners,
        "peak of the azimuth cut": azimuth.peak.u,
        "peak of the elevation cut": elevation.peak.u,
    }
    lines = (
        f"{BY_DEFINITION}, all directions from both cuts",
        f"losses of both added  {show.decibel(summed, 2, 'dBi')}",
        f"from one over to the other about the front  {show.decibel(crossed, 2, 'dBi')}",
        f"  their mean {show.decibel(value, 2, 'dBi')}",
    )
    return _figure(value, parts, lines)


def _figure(value: float, parts: dict[str, float], lines: tuple[str, ...]) -> Figure:
    told = tuple((name, show.decibel(u, 2)) for name, u in parts.items() if u > 0)
    working = Working(lines, told, "Balanis, Antenna Theory, §2.6; IEEE Std 149-2021 §12.4", BELOW_GAIN)
    return Figure(INTEGRATED, value, math.hypot(*parts.values()), "dBi", working)


def by_hemisphere(flown: Flown) -> Figure | None:
    """Summed over the upper half of the sphere as it was flown, as much taken to go below; None where too little of it was flown."""
    grid = flown.grid
    above = np.arange(2.5, 90.0, 5.0)
    own = np.isfinite(grid.level_db)
    level = np.full((len(grid.azimuth_deg), len(above)), np.nan)
    there = np.zeros(level.shape, dtype=bool)
    for k, ring in enumerate(np.abs(grid.elevation_deg[None, :] - above[:, None])):
        near = np.flatnonzero(ring <= 2.6)
        there[:, k] = own[:, near].any(axis=1)
    for m in range(len(level)):  # what was not flown is as what was flown next to it, up or down
        if own[m].any():
            level[m] = np.interp(above, grid.elevation_deg[own[m]], grid.level_db[m][own[m]])
    shade = np.broadcast_to(np.cos(np.radians(above)), level.shape)
    told = float((shade * there).sum() / shade.sum())
    if told < LEAST_TOLD or not np.isfinite(level).any():
        return None
    power = 10.0 ** (level / 10.0)
    power = np.where(np.isnan(power), np.nanmean(power, axis=0), power)
    total = float((power * shade).sum())
    untold = float((power * shade)[~there].sum()) / total
    per_db = 10.0 / math.log(10.0)
    top_u = float(grid.u_db[np.unravel_index(np.nanargmax(grid.level_db), grid.level_db.shape)])
    value = -10.0 * math.log10(total / shade.sum()) - READ_HIGH * top_u
    parts = {
        "as much below the horizon as above": BELOW_U_DB,
        "what was not flown": per_db * UNTOLD_SHARE * untold,
        "its strongest direction": TOP_SHARE * top_u,
    }
    lines = (
        f"{BY_DEFINITION}, {show.percent(told)} of the upper half flown",
        f"  = {show.decibel(value, 2, 'dBi')}, what the strongest of many is read high taken off: {show.decibel(READ_HIGH * top_u, 2)}",
    )
    return _figure(value, parts, lines)


def _width(cut: CutReading) -> tuple[float, float] | None:
    """(beamwidth °, its standard uncertainty as a share), 360 all round; None where the cut does not tell its beam, or hardly."""
    if cut.beamwidth is None:
        return (360.0, 0.0) if cut.gap_deg <= pattern.WIDEST_GAP_DEG else None
    low, high = cut.beamwidth.interval
    share = (high - low) / 3.29 / cut.beamwidth.value
    return (cut.beamwidth.value, share) if share < LEAST_KNOWN and not cut.beamwidth.bound else None


def _by_beams(planes: dict[str, CutReading]) -> Figure | None:
    told = {plane: _width(cut) for plane, cut in planes.items()}
    azimuth, elevation = told["azimuth"], told["elevation"]
    if azimuth is None or elevation is None or azimuth[0] == elevation[0] == 360.0:
        return None
    value = aperture.beam_directivity_dbi(azimuth[0], elevation[0])
    rule = 1.5 if 360.0 in (azimuth[0], elevation[0]) else 1.0
    widths = 10.0 / math.log(10.0) * math.hypot(azimuth[1], elevation[1])
    parts = (("the constant: 26 000 to 41 253 in the books", rule), ("both beamwidths", widths))
    working = Working(
        ("D ≈ 32 400 / (θ·φ)", f"  = 32 400 / ({azimuth[0]:.0f} × {elevation[0]:.0f})"),
        tuple((name, show.decibel(u, 1)) for name, u in parts if u > 0),
        "Stutzman and Thiele, Antenna Theory and Design, §5.3",
        BELOW_GAIN,
    )
    return Figure("directivity from its beams", value, math.hypot(rule, widths), "dBi", working)


def directivity(readings: Sequence[CutReading], flown: Flown | None) -> Figure | None:
    """The best known: by integration of what was flown or of two whole cuts, else from the beams of both planes."""
    planes = {r.plane: r for r in readings}
    told = [by_hemisphere(flown)] if flown is not None else []
    if set(planes) == {"azimuth", "elevation"}:
        if all(r.gap_deg <= pattern.WIDEST_GAP_DEG and len(r.angle_deg) >= WHOLE for r in planes.values()):
            told.append(_by_two_cuts(planes["azimuth"], planes["elevation"]))
        else:
            told.append(_by_beams(planes))
    return min((figure for figure in told if figure is not None), key=lambda figure: figure.u, default=None)


def efficiency(gain: Figure, directivity: Figure) -> Figure:
    """Gain less directivity: what is lost in the antenna, mismatch included, dB; at most nothing."""
    value, u = gain.value - directivity.value, math.hypot(gain.u, directivity.u)
    working = Working(
        (f"G − D = {show.fixed(gain.value, 1)} − {show.fixed(directivity.value, 1)}",),
        (("gain", show.decibel(gain.u, 2)), ("directivity", show.decibel(directivity.u, 2))),
        "IEEE Std 145-2013: radiation efficiency; the mismatch in it",
        f"Of what is sent into it {show.percent(min(10.0 ** (value / 10.0), 1.0))} leaves it, more or less.",
    )
    return Figure("efficiency", value, u, "dB", working)
