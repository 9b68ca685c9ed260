"""Gain from cuts: against a reference on the same range, and from the beams of two planes."""

from __future__ import annotations

import math

from tallmast.physics import aperture
from tallmast.units import show

from ..figure import Figure, Working, named, parts_of
from .cut import CutReading

RECONNECT_U_DB = 0.1
"""Standard uncertainty of a level after an antenna was put onto the range: connector, cable and post, as new."""


def substitution_gain(reading: CutReading, references: list[CutReading]) -> Figure | None:
    """Gain against a reference antenna measured absolutely in the same session and plane."""
    if not reading.of.absolute:
        return None
    same = [
        r
        for r in references
        if r.of.session == reading.of.session and r.of.absolute and r.antenna.id != reading.antenna.id
    ]
    if not same:
        return None
    mine = [r for r in same if r.plane == reading.plane]
    reference = (mine or same)[-1]
    known = reference.antenna.known_gain_dbi
    assert known is not None
    a = named(reading.peak.value, reading.peak.u, f"level of {reading.antenna.name}")
    b = named(reference.peak.value, reference.peak.u, f"level of {reference.antenna.name}")
    g = named(known, reference.antenna.known_gain_u_db, f"gain of {reference.antenna.name}")
    gain = a - b + g + named(0.0, math.sqrt(2.0) * RECONNECT_U_DB, "both put on anew")
    # Welch-Satterthwaite (JCGM 100 §G.4): only what was told by scatter has few degrees.
    below = sum(peak.u**4 / peak.degrees for peak in (reading.peak, reference.peak))
    return Figure(
        "gain on the range",
        float(gain.nominal_value),
        float(gain.std_dev),
        "dBi",
        Working(
            (
                "G = level − level of reference + G reference",
                f"  = {show.fixed(reading.peak.value, 1)} − ({show.fixed(reference.peak.value, 1)}) + {show.fixed(known, 2)}",
                f"  = {show.decibel(gain.nominal_value, unit='dBi')}",
            ),
            parts_of(gain, "dB"),
            f"substitution against {reference.antenna.name}, IEEE Std 149-2021 (gain-transfer method)",
            "Same transmitter, same distance, same settings: only the antenna changed.",
        ),
        float(gain.std_dev) ** 4 / below if below > 0 else math.inf,
    )


def beams_gain(readings: list[CutReading]) -> Figure | None:
    """Directivity from the two planes' beams; needs both."""
    planes = {r.plane: r for r in readings}
    if set(planes) != {"azimuth", "elevation"}:
        return None
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
