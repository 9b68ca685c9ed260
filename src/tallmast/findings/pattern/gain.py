"""Gain from cuts: against a reference on the same range, and from the beams of two planes."""

from __future__ import annotations

import math

from tallmast.notebook.records import Antenna
from tallmast.physics import aperture, lobe, pattern
from tallmast.units import show

from ..figure import Figure, Working, named, parts_of
from .cut import CutReading

INTEGRATED_U_DB = 0.8
"""Standard uncertainty of a directivity by two cuts: the corners between them are not seen."""
WHOLE = 24
"""Angles of a cut that is integrated."""
RECONNECT_U_DB = 0.1
"""Standard uncertainty of a level after an antenna was put onto the range: connector, cable and post, as new."""


def _reference(reading: CutReading, references: list[CutReading]) -> tuple[Antenna, float, float, float] | None:
    """(antenna of known gain, its level, u, degrees) that a cut is held against: what stood in its place while it was cut, else
    the peak of another cut of the same session, of the same plane rather than not."""
    own = reading.of.reference
    if own is not None and own.antenna.known_gain_dbi is not None:
        return own.antenna, own.level_db, own.u_db, math.inf
    same = [
        r
        for r in references
        if r.of.session == reading.of.session and r.of.absolute and r.antenna.id != reading.antenna.id
    ]
    if not same:
        return None
    mine = [r for r in same if r.plane == reading.plane]
    other = (mine or same)[-1]
    return other.antenna, other.peak.value, other.peak.u, other.peak.degrees


def substitution_gain(reading: CutReading, references: list[CutReading]) -> Figure | None:
    """Gain against a reference antenna measured absolutely in the same session and plane."""
    found = _reference(reading, references) if reading.of.absolute else None
    if found is None:
        return None
    reference, level, u, degrees = found
    known = reference.known_gain_dbi
    assert known is not None
    a = named(reading.peak.value, reading.peak.u, f"level of {reading.antenna.name}")
    b = named(level, u, f"level of {reference.name}")
    g = named(known, reference.known_gain_u_db, f"gain of {reference.name}")
    gain = a - b + g + named(0.0, math.sqrt(2.0) * RECONNECT_U_DB, "both put on anew")
    # Welch-Satterthwaite (JCGM 100 §G.4): only what was told by scatter has few degrees.
    below = reading.peak.u**4 / reading.peak.degrees + u**4 / degrees
    return Figure(
        "gain on the range",
        float(gain.nominal_value),
        float(gain.std_dev),
        "dBi",
        Working(
            (
                "G = level − level of reference + G reference",
                f"  = {show.fixed(reading.peak.value, 1)} − ({show.fixed(level, 1)}) + {show.fixed(known, 2)}",
                f"  = {show.decibel(gain.nominal_value, unit='dBi')}",
            ),
            parts_of(gain, "dB"),
            f"substitution against {reference.name}, IEEE Std 149-2021 (gain-transfer method)",
            "Same transmitter, same distance, same settings: only the antenna changed.",
        ),
        float(gain.std_dev) ** 4 / below if below > 0 else math.inf,
    )


def _by_integration(azimuth: CutReading, elevation: CutReading) -> Figure:
    """Directivity from two whole cuts, summed over the sphere."""
    level = pattern.from_two_cuts((azimuth.angle_deg, azimuth.level_db), (elevation.angle_deg, elevation.level_db))
    value = pattern.directivity_db(level)
    u = math.hypot(INTEGRATED_U_DB, azimuth.peak.u, elevation.peak.u)
    working = Working(
        ("D = 4π·U max / ∮ U dΩ, all directions from both cuts", f"  = {show.decibel(value, 2, 'dBi')}"),
        (
            ("two cuts stand for all directions", show.decibel(INTEGRATED_U_DB, 2)),
            ("peak of the azimuth cut", show.decibel(azimuth.peak.u, 2)),
            ("peak of the elevation cut", show.decibel(elevation.peak.u, 2)),
        ),
        "Balanis, Antenna Theory, §2.6; IEEE Std 149-2021 §12.4",
        "Directivity: losses and mismatch are not in it, so the gain is a little less.",
    )
    return Figure("directivity by integration", value, u, "dBi", working)


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


def cross_polar(co: CutReading, crossed: CutReading) -> Figure | None:
    """Cross-polar discrimination at the co-polar peak, dB; None where the crossed cut does not tell it there."""
    if not pattern.covered(crossed.angle_deg, [co.peak_deg]).all():
        return None
    curve = lobe.smooth(crossed.angle_deg, crossed.level_db, [co.peak_deg])
    there = float(curve.level_db[0]) + crossed.peak.value
    u = math.hypot(co.peak.u, crossed.spread.u(float(curve.share[0])), RECONNECT_U_DB)
    working = Working(
        (
            f"co-polar peak {show.fixed(co.peak.value, 1)}",
            f"crossed, at {show.bearing(co.peak_deg)} {show.fixed(there, 1)}",
        ),
        (("both levels", show.decibel(u, 2)),),
        "IEEE Std 145-2013: cross-polar discrimination",
        "What it sends the wrong way round. As good as the far end's own at most.",
    )
    return Figure("cross-polar discrimination", co.peak.value - there, u, "dB", working, co.spread.degrees)


def beams_gain(readings: list[CutReading]) -> Figure | None:
    """Directivity from both planes: by integration where both were cut all round, else from their beams."""
    planes = {r.plane: r for r in readings}
    if set(planes) != {"azimuth", "elevation"}:
        return None
    if all(r.gap_deg <= pattern.WIDEST_GAP_DEG and len(r.angle_deg) >= WHOLE for r in planes.values()):
        return _by_integration(planes["azimuth"], planes["elevation"])
    widths = {plane: (r.beamwidth.value if r.beamwidth else 360.0) for plane, r in planes.items()}
    if all(w >= 360 for w in widths.values()):
        return None
    value = aperture.beam_directivity_dbi(widths["azimuth"], widths["elevation"])
    omni = max(widths.values()) >= 360
    u = 1.5 if omni else 1.0
    return Figure(
        "directivity from its beams",
        value,
        u,
        "dBi",
        Working(
            ("D ≈ 32 400 / (θ·φ)", f"  = 32 400 / ({widths['azimuth']:.0f} × {widths['elevation']:.0f})"),
            (("the constant: 26 000 to 41 253 in the books", show.decibel(u, 1)),),
            "Stutzman and Thiele, Antenna Theory and Design, §5.3",
            "Directivity: losses and mismatch are not in it, so the gain is a little less.",
        ),
    )
