"""The reference plane: from where the analyzer looks to the antenna's connector, by what is known of the cable."""

from __future__ import annotations

import numpy as np

from tallmast.notebook.records import Cable
from tallmast.physics import cable as physics
from tallmast.physics import reflection
from tallmast.physics.decibels import Floats
from tallmast.physics.reflection import Complexes


def loss_db(cable: Cable, frequency_hz: Floats) -> Floats:
    """One-way loss at every frequency: by its fitted curve where there is one, else the same everywhere."""
    if cable.root_db is None:
        return np.full(np.shape(frequency_hz), cable.loss_db)
    return physics.loss_curve_db(frequency_hz, cable.root_db, cable.linear_db)


def at_antenna(cable: Cable, frequency_hz: Floats, seen: Complexes) -> Complexes:
    """Γ at the antenna's connector from Γ at the analyzer's plane."""
    loss = loss_db(cable, frequency_hz)
    return reflection.without_cable(seen, frequency_hz, loss, cable.length_m, cable.velocity_factor)


def uncertainty(
    cable: Cable, frequency_hz: Floats, magnitude: Floats, directivity_db: float, noise: float, drift: float = 0.0
) -> tuple[Floats, Floats]:
    """Standard uncertainty of |Γ| at the antenna's connector, and the bounded share of its square."""
    loss = loss_db(cable, frequency_hz)
    return reflection.gamma_uncertainty(magnitude, directivity_db, noise, loss, cable.loss_u_db, drift)
