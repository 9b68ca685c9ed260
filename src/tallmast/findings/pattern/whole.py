"""An antenna as a source of waves in every direction: from its cuts where there are any, else from its kind and its claim."""

from __future__ import annotations

import math

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import CIRCULAR, Antenna, Polarization
from tallmast.physics import waves
from tallmast.physics.decibels import Floats
from tallmast.physics.pattern import from_two_cuts
from tallmast.physics.polarization import LINEAR_AXIAL_RATIO_DB
from tallmast.physics.waves import Wave

from .antenna import AntennaPattern
from .cut import CutReading
from .ellipse import as_measured

AXES: dict[Polarization, tuple[float, float, float]] = {
    "vertical": (0.0, 0.0, 1.0),
    "horizontal": (0.0, 1.0, 0.0),
    "slant": (0.0, 0.7071, 0.7071),
    "unknown": (0.0, 0.0, 1.0),
    "right circular": (0.0, 0.0, 1.0),
    "left circular": (0.0, 0.0, 1.0),
}
"""What its field lies along, as mounted; of an ellipse whose major axis nobody measured, as good as any."""
BEAMS = ("yagi", "helix", "panel")
USUAL_DBI: dict[str, float] = {"dipole": 2.15, "whip": 2.15, "yagi": 9.0, "collinear": 5.0, "helix": 10.0, "panel": 9.0}
USUAL_AXIAL_RATIO_DB = 3.0
BOTH_CUTS_U_DB, ONE_CUT_U_DB = 0.3, 1.0
"""Standard uncertainty of a level over many directions, of one cut in both planes, and in one: cuts stand for all directions only
so far."""
KIND_U_DB: dict[str, float] = {"dipole": 0.4, "whip": 1.0, "collinear": 1.5}
"""The same of one that is taken by its kind: what a dipole sends where is known, of a beam hardly more than its front."""
OTHER_KIND_U_DB = 2.5
CLAIM_U_DB = 2.0


class Known(Frozen):
    """An antenna's wave, and how it is known."""

    antenna: Antenna
    wave: Wave
    by: str
    """In words: by its cuts, by its kind."""
    pattern_u_db: float
    """Standard uncertainty of a level off its front; `u_db` with that of its gain."""
    gain_u_db: float

    @property
    def u_db(self) -> float:
        return math.hypot(self.pattern_u_db, self.gain_u_db)


def _gain_dbi(one: AntennaPattern, evidence: Evidence) -> tuple[float, float]:
    """(gain dBi, its standard uncertainty), the best known: measured, known, claimed (no more than 3 dB over what is usual of its
    kind), usual."""
    antenna = one.antenna
    usual = USUAL_DBI.get(antenna.type, 2.15)
    if one.substitution is not None:
        return one.substitution.value, one.substitution.u
    if antenna.known_gain_dbi is not None:
        return antenna.known_gain_dbi, antenna.known_gain_u_db
    claimed = [c.value for c in evidence.claims(antenna.id) if c.quantity == "gain"]
    if claimed:
        return min(claimed[-1], usual + 3.0), CLAIM_U_DB
    return usual, 0.3 if antenna.type == "dipole" else CLAIM_U_DB


def _arrays(cut: CutReading | None) -> tuple[Floats, Floats] | None:
    return None if cut is None else (cut.angle_deg, cut.level_db)


def _cut_gain(azimuth: CutReading | None, elevation: CutReading | None, gain_dbi: float) -> waves.Pattern:
    """All directions from its cuts."""
    level = from_two_cuts(_arrays(azimuth), _arrays(elevation))

    def gain(azimuth_deg: Floats, elevation_deg: Floats) -> Floats:
        return np.asarray(10.0 ** ((gain_dbi + level(azimuth_deg, elevation_deg)) / 10.0))

    return gain


def _all_round(azimuth: CutReading, gain_dbi: float) -> waves.Pattern:
    """Of one that looks all round and was never cut up and down: as flat as its gain asks."""
    doughnut, level = waves.doughnut_gain(gain_dbi), from_two_cuts(_arrays(azimuth), None)

    def gain(azimuth_deg: Floats, elevation_deg: Floats) -> Floats:
        return np.asarray(doughnut(azimuth_deg, elevation_deg) * 10.0 ** (level(azimuth_deg, 0.0) / 10.0))

    return gain


def _kind_gain(antenna: Antenna, gain_dbi: float) -> waves.Pattern:
    if antenna.type in BEAMS and gain_dbi > 4.0:
        return waves.beam_gain(gain_dbi)
    if antenna.type in ("collinear",) or gain_dbi > 2.6:
        return waves.doughnut_gain(gain_dbi)
    lying = AXES[antenna.polarization]

    def dipole(azimuth_deg: Floats, elevation_deg: Floats) -> Floats:
        e, a = np.radians(elevation_deg), np.radians(azimuth_deg)
        along = np.cos(e) * np.sin(a) * lying[1] + np.sin(e) * lying[2]
        return waves.dipole_gain(along)

    if antenna.polarization in CIRCULAR:  # crossed or wound: rounder than any dipole
        return lambda azimuth_deg, elevation_deg: np.full(
            np.broadcast_shapes(np.shape(azimuth_deg), np.shape(elevation_deg)), 10.0 ** (gain_dbi / 10.0) * 0.7
        )
    return dipole


def known_wave(one: AntennaPattern, evidence: Evidence, carried: bool = False) -> Known:
    """As it is known now. Of one that is `carried` its mount says how it lies: in its own frame a linear one stands upright."""
    antenna = as_measured(one.antenna, one.polarization)
    if carried and antenna.polarization not in CIRCULAR:
        antenna = antenna.revised(polarization="vertical")
    gain_dbi, gain_u = _gain_dbi(one, evidence)
    azimuth, elevation = one.cut("azimuth"), one.cut("elevation")
    fine = [c if c is not None and not c.coarse else None for c in (azimuth, elevation)]
    if any(c is not None for c in fine):
        pattern = _cut_gain(fine[0], fine[1], gain_dbi)
        if fine[0] is not None and fine[1] is None and fine[0].beamwidth is None:
            pattern = _all_round(fine[0], gain_dbi)
        both = all(c is not None for c in fine)
        by = "by its cuts in both planes" if both else f"by its {'azimuth' if fine[0] is not None else 'elevation'} cut"
        u = BOTH_CUTS_U_DB if both else ONE_CUT_U_DB
    else:
        pattern, by, u = (
            _kind_gain(antenna, gain_dbi),
            "by its kind alone",
            KIND_U_DB.get(antenna.type, OTHER_KIND_U_DB),
        )
    if antenna.polarization in CIRCULAR:
        ratio = antenna.axial_ratio_db if antenna.axial_ratio_db is not None else USUAL_AXIAL_RATIO_DB
        minor = waves.minor_of(ratio, antenna.polarization == "right circular")
    else:
        minor = waves.minor_of(LINEAR_AXIAL_RATIO_DB, True)
    return Known(antenna, Wave(pattern, AXES[antenna.polarization], minor), by, u, gain_u)
