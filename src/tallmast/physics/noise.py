"""Noise: thermal, of a cascade, from outside; and the sensitivity that is left.

Noise factors and gains are ratios inside and decibels at the edges; T₀ = 290 K (IEEE).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen

from .constants import BOLTZMANN, REFERENCE_TEMPERATURE_K
from .decibels import Floats, dbm_from_watt, power_db, power_ratio

Surroundings = Literal["city", "residential", "rural", "quiet rural", "galactic"]

MAN_MADE: dict[Surroundings, tuple[float, float, float, float]] = {
    "city": (76.8, 27.7, 0.3, 250.0),
    "residential": (72.5, 27.7, 0.3, 250.0),
    "rural": (67.2, 27.7, 0.3, 250.0),
    "quiet rural": (53.6, 28.6, 0.3, 30.0),
    "galactic": (52.0, 23.0, 10.0, 100.0),
}
"""c, d, and the range in MHz of F_am = c − d·log₁₀ f. Rec. ITU-R P.372, Part 6, Table 1 (curves A to E): A, B and C from
0.3 to 250 MHz, D to 30 MHz; E, the sky, where the ionosphere lets it through and no further than it is given."""


def thermal_dbm(bandwidth_hz: float, temperature_k: float = REFERENCE_TEMPERATURE_K) -> float:
    """kTB, dBm: −174 dBm in 1 Hz at 290 K."""
    return dbm_from_watt(BOLTZMANN * temperature_k * bandwidth_hz)


def temperature_of_figure(noise_figure_db: float) -> float:
    """T = T₀·(F − 1), K."""
    return REFERENCE_TEMPERATURE_K * (float(power_ratio(noise_figure_db)) - 1.0)


def figure_of_temperature(temperature_k: float) -> float:
    """NF = 10 log₁₀(1 + T/T₀), dB."""
    return float(power_db(1.0 + temperature_k / REFERENCE_TEMPERATURE_K))


class Stage(Frozen, eq=True):
    """One stage of a receiver: gain (negative: loss) and noise figure, dB. A matched loss at T₀ has NF = its loss."""

    name: str
    gain_db: float
    noise_figure_db: float

    @classmethod
    def loss(cls, name: str, loss_db: float) -> Stage:
        return cls(name, -loss_db, loss_db)


def cascade_figure_db(stages: Sequence[Stage]) -> float:
    """Noise figure of a cascade, dB, from the antenna on: F = F₁ + (F₂−1)/G₁ + (F₃−1)/(G₁G₂) + … (Friis 1944)."""
    return float(power_db(cascade([(stage.gain_db, stage.noise_figure_db) for stage in stages])))


def cascade(stages: Sequence[tuple[ArrayLike, ArrayLike]]) -> Floats:
    """The same of (gain, noise figure) pairs in dB, each of any one shape; the noise factor, a ratio, of that shape."""
    factor, gain = np.asarray(1.0), np.asarray(1.0)
    for gain_db, figure_db in stages:
        factor = factor + (power_ratio(figure_db) - 1.0) / gain
        gain = gain * power_ratio(gain_db)
    return np.asarray(factor)


def external_figure_db(surroundings: Surroundings, frequency_hz: float) -> float:
    """Median F_am, dB over kT₀B, of noise from outside on a short lossless monopole: c − d·log₁₀ f, f in MHz.

    Rec. ITU-R P.372, Part 6. Raises ValueError outside the table's range: it is not carried on beyond its ends.
    """
    c, d, low, high = MAN_MADE[surroundings]
    f = frequency_hz / 1e6
    if not low <= f <= high:
        raise ValueError(f"Rec. ITU-R P.372 gives {surroundings} noise from {low:g} to {high:g} MHz")
    return c - d * math.log10(f)


DECILES: dict[Surroundings, tuple[float, float, float]] = {
    "city": (11.0, 6.7, 8.4),
    "residential": (10.6, 5.3, 5.8),
    "rural": (9.2, 4.6, 6.8),
    "quiet rural": (9.2, 4.6, 6.8),
    "galactic": (2.0, 2.0, 0.0),
}
"""Deviations from the median, dB: upper and lower decile over time, decile over places. Rec. ITU-R P.372, Part 6, Table 2 (A, B, C;
the quiet one as rural) and Figure 6 note on the sky."""
DECILE = 1.2816
"""Standard deviations at which a normal distribution has its upper decile."""


def external_u_db(surroundings: Surroundings) -> float:
    """Standard uncertainty, dB, of the median as what is there at one place and time: both deciles over time and that over places."""
    upper, lower, place = DECILES[surroundings]
    return math.sqrt(0.5 * (upper**2 + lower**2) + place**2) / DECILE


def floor_dbm(system_db: float, bandwidth_hz: float) -> float:
    """Noise in the bandwidth at the antenna's connector, dBm: kT₀B and the operating noise figure."""
    return thermal_dbm(bandwidth_hz) + system_db


def figure_of_sensitivity_db(sensitivity: float, bandwidth_hz: float, snr_db: float) -> float:
    """Noise figure, dB, of a receiver whose sensitivity was measured at a signal generator (at T₀)."""
    return sensitivity - snr_db - thermal_dbm(bandwidth_hz)
