"""Gain from cuts against a reference on the same range, and what a crossed cut says."""

from __future__ import annotations

import math

from tallmast.notebook.records import Antenna
from tallmast.physics import lobe, pattern
from tallmast.units import show

from ..figure import Figure, Working, named, parts_of
from .cut import CutReading

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
