"""Gain by the levels that were flown: what was read less what was sent, with the path and the carrier's own gain given back."""

from __future__ import annotations

import math

from tallmast.notebook.evidence import Evidence
from tallmast.physics.propagation import free_space_loss_db
from tallmast.units import show

from ..figure import Figure, Working
from .carried import carried_gain_dbi
from .flown import Flown

FLOWN_U_DB = 0.55
"""Standard uncertainty of the level at the peak by what the ground adds to it, over all that was flown."""


def _between(evidence: Evidence, frequency_hz: float) -> tuple[float, float]:
    """(dB, standard uncertainty) of what lies between both radios and their antennas, beside the pads that stand with the run."""
    from ..levels.pieces import Drawer, feed_loss, loss_of  # here: Levels rests on gains, and gains on this

    drawer, home, far = Drawer(evidence, frequency_hz), evidence.home_end, evidence.far_end
    lost, u = loss_of(drawer, far) if far is not None else (0.0, 0.0)
    if home is not None:
        line = feed_loss(drawer, home.placed)
        lost, u = lost + home.cable_loss_db + line.line_db, math.hypot(u, home.cable_u_db, line.line_u_db)
    return lost, u


def gain_by_levels(evidence: Evidence, flown: Flown, peak: Figure) -> Figure | None:
    """Gain by the levels that were flown: what was read less what was sent, free space and the carrier's gain given back.

    `peak`: the level at its peak on the footing of the flight's cells. None where power, the carrier's gain or dBm are missing.
    """
    runs = [t.run for t in flown.tracks]
    question = evidence.question
    frequency_hz = runs[-1].channel_hz or (question.centre_hz if question else None)
    dbm = all(t.log.read_on == "level in dBm" for t in flown.tracks)
    if frequency_hz is None or not dbm or any(r.power_w is None for r in runs) or flown.exponent != 2.0:
        return None
    known = carried_gain_dbi(evidence, runs[-1], frequency_hz)
    if known is None:
        return None
    gain, gain_u, by = known
    home = evidence.home_end
    lost, lost_u = _between(evidence, frequency_hz)
    power_u = home.power_u_db if home is not None else 0.3
    free = float(free_space_loss_db(1.0, frequency_hz))
    value = peak.value + flown.mean_db + free - gain + lost
    parts = {
        "level at its peak": peak.u,
        "what was sent": power_u,
        by: gain_u,
        "cables and pieces": lost_u,
        "what the ground adds": FLOWN_U_DB,
    }
    u = math.sqrt(sum(v**2 for v in parts.values()))
    lines = (
        f"level at its peak, path given back {show.decibel(peak.value + flown.mean_db + free, 1)} over what was sent",
        f"less {show.decibel(gain, 1, 'dBi')} of {by}",
        f"G = {show.decibel(value, 1, 'dBi')}",
    )
    told = tuple(
        (words, show.decibel(v, 2)) for words, v in sorted(parts.items(), key=lambda part: -part[1]) if v > 0.01
    )
    meaning = "Gain as it is had in use: match and polarization of both ends are in it."
    return Figure(
        "gain by levels flown", value, u, "dBi", Working(lines, told, "Friis; Rec. ITU-R P.525", meaning), peak.degrees
    )
