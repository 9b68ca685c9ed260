"""Whether an antenna's beam goes where it is wanted, and whether both ends turn their waves alike."""

from __future__ import annotations

import math

import numpy as np

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna
from tallmast.physics.attitude import sight
from tallmast.units import show

from ..figure import Check, Figure, Working
from ..polarization import loss_between
from .antenna import AntennaPattern
from .ellipse import as_measured
from .mounted import branch_of
from .named import toward
from .whole import known_wave

LOST_DB = 3.0
"""Half of the power: less lost by pointing is not named."""
CROSSED_DB = 10.0
"""From this loss on both ends are called crossed, or of opposite senses."""
OVER = "A beam that is tilted flies over what is low, and past what lies beside: turn it, or tilt it back."


def elevation_of_wanted(evidence: Evidence) -> float | None:
    """At which elevation the place to be reached is seen from home, degrees; None where either has no coordinates."""
    home, wanted = evidence.home, evidence.wanted
    if home is None or wanted is None or home.position is None or wanted.position is None:
        return None
    _, _, elevation = sight(*home.position, home.height_m, *wanted.position, wanted.height_m)
    return float(elevation)


def aimed_checks(evidence: Evidence, one: AntennaPattern) -> list[Check]:
    """A beam that points over, under or past the place to be reached, by what the cut loses there."""
    out = []
    branch, wanted = branch_of(evidence, one.antenna.id), evidence.wanted
    if wanted is None:
        return []
    elevation, cut = elevation_of_wanted(evidence), one.cut("elevation")
    if branch is not None and branch.tilt_deg is not None and elevation is not None and cut is not None:
        off = elevation - branch.tilt_deg
        level = toward(cut, off % 360.0)
        if level is not None and -level.value > LOST_DB and not level.bound:
            way = "over" if off < 0 else "under"
            lost = show.plus_minus(-level.value, level.half, "dB")
            out.append(Check("disagrees", f"beam {abs(off):.0f}° {way} {wanted.name}: {lost} lost", level, OVER))
    for direction in one.toward:
        if direction.name == wanted.name and -direction.level.value > LOST_DB and not direction.level.bound:
            past = abs((direction.from_front_deg + 180.0) % 360.0 - 180.0)
            lost = show.plus_minus(-direction.level.value, direction.level.half, "dB")
            out.append(Check("disagrees", f"beam {past:.0f}° past {wanted.name}: {lost} lost", direction.level, OVER))
    return out


def ends_checks(evidence: Evidence, patterns: tuple[AntennaPattern, ...], ids: set[str]) -> list[Check]:
    """Antennas that are crossed with what the far end has, or turn their waves the other way, as noted or as measured."""
    far = evidence.far_end
    if far is None:
        return []
    by_id = {p.antenna.id: p for p in patterns}
    there: Antenna | None = evidence.antenna(far.antenna_id)
    kind, ratio = far.polarization, far.axial_ratio_db
    if there is not None:
        measured = as_measured(there, by_id[there.id].polarization) if there.id in by_id else there
        kind, ratio = measured.polarization, measured.axial_ratio_db
    out = []
    for one in patterns:
        if one.antenna.id not in ids or (there is not None and one.antenna.id == there.id):
            continue
        mine = as_measured(one.antenna, one.polarization)
        if "unknown" in (mine.polarization, kind):
            continue
        loss = loss_between(mine.polarization, mine.axial_ratio_db, kind, ratio)
        if loss.value < CROSSED_DB:
            continue
        opposite = "circular" in mine.polarization and "circular" in kind
        how = "turn opposite ways" if opposite else "are crossed"
        ends = f"{mine.name} ({mine.polarization}) and the far end ({kind})"
        why = (
            "A reflection turns the sense over, which may hide it near things; in the open it is lost."
            if opposite
            else "Turn one of them by 90°."
        )
        out.append(Check("disagrees", f"{ends} {how}: {loss.text} lost", loss, why))
    return out


OVERHEAD_DEG, FLAT_DBI = 45.0, 4.0
"""How high an omni is looked at from below, and from which gain on that is worth saying."""


def belief_checks(evidence: Evidence, one: AntennaPattern) -> list[Check]:
    """What is often believed otherwise, each with its number, where it comes up: an omni's gain is taken from overhead."""
    cut, antenna = one.cut("azimuth"), one.antenna
    omni = antenna.type in ("collinear", "whip") or (cut is not None and not cut.coarse and cut.ripple is not None)
    known = known_wave(one, evidence)
    gain, up = (10.0 * math.log10(float(known.wave.gain(np.zeros(1), np.array([e]))[0])) for e in (0.0, OVERHEAD_DEG))
    if not omni or gain < FLAT_DBI:
        return []
    u = math.hypot(known.u_db, 0.5)
    working = Working(
        (f"{show.decibel(gain, 1, 'dBi')} on the horizon, {known.by}",), (("its pattern", show.decibel(u, 1)),)
    )
    figure = Figure("against the horizon, 45° up", up - gain, u, "dB", working)
    text = f"45° up it gives {show.decibel(gain - up, 0)} less than on the horizon"
    return [
        Check(
            "open",
            text,
            figure,
            "More gain of an omni is taken from above and below: it flattens, and is darker overhead.",
        )
    ]
