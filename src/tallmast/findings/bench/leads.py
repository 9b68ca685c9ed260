"""Leads that are in a reading: what they hide, and whether a sweep was taken through one that the notebook knows."""

from __future__ import annotations

import numpy as np

from tallmast.physics import reflection, resonance
from tallmast.physics.constants import SPEED_OF_LIGHT
from tallmast.units import show

from . import plane
from .cables import CableReading
from .reading import SweepReading

LOSSY_DB = 0.2
"""From which loss on a lead changes what is read through it."""
SAME_TURN = 0.15
"""Share of a lead's delay to which a sweep turns as the lead would have it turn."""
FITS = 0.06
"""What a resonance behind the lead may leave over, in |Γ|."""


def swr_through(swr: float, loss_db: float) -> float:
    """What an SWR reads at the near end of a line, one-way loss in dB."""
    return float(reflection.swr(reflection.gamma_from_swr(swr) * 10 ** (-2 * loss_db / 20)))


def behind_words(swr: float, loss_db: float) -> str:
    """What an SWR that was read through a lead is behind it; empty where that is nothing else, or beyond telling."""
    grown = float(reflection.gamma_from_swr(swr)) * 10 ** (2 * loss_db / 20)
    if grown >= 0.95:
        return f": SWR {show.swr(swr)} may be anything behind it"
    behind = float(reflection.swr(grown))
    return f": SWR {show.swr(swr)} is {show.swr(behind)} behind it" if behind - swr >= 0.05 else ""


def left_in(reading: SweepReading, lead: CableReading) -> bool:
    """Whether a sweep was taken through a lead: with the lead taken out it is a resonance at its plane, and before it was not."""
    cable = lead.cable()
    if cable is None or not reading.sweep.phase_known or lead.fit is None:
        return False
    f = reading.frequency_hz
    behind = plane.at_antenna(cable, f, reading.gamma)
    if float(np.percentile(np.abs(behind), 95.0)) > 1.08:
        return False
    found = resonance.fit(f, behind)
    delay = cable.length_m / (cable.velocity_factor * SPEED_OF_LIGHT)
    return found is not None and found.scatter <= FITS and abs(found.delay_s) <= SAME_TURN * delay
