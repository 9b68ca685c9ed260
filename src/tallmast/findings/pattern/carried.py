"""The carrier's own antenna: what its pattern and its attitude put into a reading, and its gain."""

from __future__ import annotations

import numpy as np

from tallmast.notebook.evidence import Evidence, Series
from tallmast.notebook.records import Antenna, Cut, GainTable, Run
from tallmast.physics.attitude import axes, directions, pointing
from tallmast.physics.decibels import Floats
from tallmast.physics.pattern import from_two_cuts, tidy_turn

from ..field.runs import branches_of
from .samples import of_cut

BEYOND_U_DB = 1.0
"""Added to the uncertainty of a gain table where the frequency lies outside it."""


def carried_antenna(evidence: Evidence, run: Run) -> Antenna | None:
    """What moved in a run, where it is on the shelf."""
    far = evidence.far_end
    return evidence.antenna(run.far_antenna_id or (far.antenna_id if far is not None else ""))


def _cut(evidence: Evidence, antenna: Antenna, plane: str) -> tuple[Floats, Floats] | None:
    """Its newest cut in a plane, against its peak."""
    mine: list[Cut] = [c for c in evidence.cuts(antenna.id) if c.plane == plane]
    if not mine:
        return None
    samples = of_cut(evidence, mine[-1], antenna)
    angle, level = tidy_turn(samples.angle_deg, samples.level_db)
    return angle, np.asarray(level - level.max())


def own_pattern_db(
    evidence: Evidence, run: Run, series: Series, bearing_deg: Floats, above_deg: Floats
) -> tuple[Floats, str] | None:
    """(what its own pattern gave toward the antenna, dB [n], how that is known); None where it has no cut, or nobody logged how it
    was turned and its cut is round the horizon alone."""
    antenna = carried_antenna(evidence, run)
    if antenna is None:
        return None
    azimuth, elevation = (_cut(evidence, antenna, plane) for plane in ("azimuth", "elevation"))
    if azimuth is None and elevation is None:
        return None
    branch = next((b for b in branches_of(evidence, run) if b.end == "away" and b.antenna_id == antenna.id), None)
    mount = axes(
        *((branch.azimuth_deg or 0.0, branch.tilt_deg or 0.0, branch.roll_deg or 0.0) if branch else (0.0, 0.0, 0.0))
    )
    n = len(bearing_deg)
    logged = [series.get(name) for name in ("heading_deg", "pitch_deg", "roll_deg")]
    if logged[0] is None:
        if elevation is None:
            return None
        # Its nose is taken to look at the antenna: up and down is all that can be taken out.
        heading, azimuth = bearing_deg + 180.0, None
        words = f"{antenna.name}’s own pattern taken out by its height alone: no heading was logged"
    else:
        heading = np.nan_to_num(np.asarray(logged[0], dtype=float))
        words = f"{antenna.name}’s own pattern taken out by its logged attitude"
    pitch, roll = (np.zeros(n) if v is None else np.nan_to_num(np.asarray(v, dtype=float)) for v in logged[1:])
    frame = np.einsum("ij,njk->nik", mount, axes(heading, pitch, roll))
    back = pointing(bearing_deg + 180.0, -above_deg)
    own = directions(np.einsum("nij,nj->ni", frame, back))
    return from_two_cuts(azimuth, elevation)(*own), words


def carried_gain_dbi(evidence: Evidence, run: Run, frequency_hz: float) -> tuple[float, float, str] | None:
    """(gain dBi, standard uncertainty, by what) of what moved: by its gain table over frequency, as a known reference, or as the far end
    has it noted; None where nothing is known."""
    antenna, far = carried_antenna(evidence, run), evidence.far_end
    if antenna is not None:
        tables = [t for t in evidence.all(GainTable) if t.antenna_id == antenna.id]
        if tables:
            series = evidence.series(tables[-1].series_id)
            f = np.log(series["frequency_hz"])
            at = np.log(frequency_hz)
            gain, u = (float(np.interp(at, f, series[name])) for name in ("gain_dbi", "u_db"))
            return gain, u + (0.0 if f[0] <= at <= f[-1] else BEYOND_U_DB), f"{antenna.name}’s gain table"
        if antenna.known_gain_dbi is not None:
            return antenna.known_gain_dbi, antenna.known_gain_u_db, f"{antenna.name}’s known gain"
        return None
    if far is not None:
        return far.gain_dbi, far.gain_u_db, "the far end as noted"
    return None
