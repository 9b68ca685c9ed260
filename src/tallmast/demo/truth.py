"""What is really so on the Harrow Skerries. Findings are tested against it; nothing here is shown to the user."""

from __future__ import annotations

import math

import numpy as np

from tallmast.frozen import Frozen, field
from tallmast.physics.decibels import Floats, amplitude_db, dbm_from_watt
from tallmast.physics.reflection import Complexes, gamma_from_impedance

BAND_HZ = (868e6, 870e6)
CENTRE_HZ = 869e6

QUAY = (57.9000, -11.2000)
"""Open ocean: the archipelago exists nowhere."""

BEARING_DEG = 37.0
PLACES: dict[str, tuple[float, float]] = {
    "Inner Holm": (BEARING_DEG + 0.8, 1_210.0),
    "Kelp Rock": (BEARING_DEG - 0.6, 2_600.0),
    "Ness Head": (96.0, 2_370.0),
    "Outer Stack": (BEARING_DEG, 5_100.0),
}
"""Bearing from the Quay, degrees, and distance, m."""
QUAY_M, BOAT_M = 9.0, 5.0
"""Antennas over the sea: on the Quay's mast and rock, and on the boat's mast, as high as at the Stack."""
UP_M = {"Inner Holm": 6.0, "Kelp Rock": 5.5, "Ness Head": 46.0, "Outer Stack": 5.0}
"""The same at the places, on their rocks."""


class TrueAntenna(Frozen, eq=True):
    """Gain in its own polarization; the match as a series resonance at the feedpoint."""

    gain_dbi: float
    resonance_hz: float
    resistance_ohm: float
    q: float
    polarization_loss_db: float = 0.0
    """Toward the linear far end."""

    def gamma(self, frequency_hz: Floats, resonance_hz: float | None = None) -> Complexes:
        """Γ at the connector: Z = R(1 + jQ(f/f₀ − f₀/f))."""
        f0 = resonance_hz or self.resonance_hz
        x = self.q * (frequency_hz / f0 - f0 / frequency_hz)
        return gamma_from_impedance(self.resistance_ohm * (1 + 1j * x))


class Truth(Frozen, eq=True):
    """One draw of everything that the stated uncertainties leave open."""

    antennas: dict[str, TrueAntenna]
    reflected: float
    """Of the wave by the sea, less than all for its waves."""
    excess_db: float
    """Of the path, over two rays."""
    far_gain_dbi: float
    sensitivity_dbm: float
    power_error_db: float
    pad_db: float
    """Both pads together."""
    pad_10_db: float
    """The 10 dB pad alone."""
    cable_loss_db: float
    shadow_sd_db: float = 2.5
    shadow_length_m: float = 30.0
    run_sd_db: float = 0.5
    fade_sd_db: float = 2.0
    states_hz: tuple[float, float, float] = field(default=(854.2e6, 861.7e6, 868.9e6))
    """The Shed Yagi's resonance as built and after each of two cuts."""

    def eirp_like_dbm(self, name: str, power_w: float, pad_db: float) -> float:
        """Everything but the path: power, pad, cable, both gains, polarization."""
        antenna = self.antennas[name]
        return (
            dbm_from_watt(power_w)
            + self.power_error_db
            - pad_db
            - self.cable_loss_db
            + antenna.gain_dbi
            - antenna.polarization_loss_db
            + self.far_gain_dbi
        )

    def path_loss_db(self, distance_m: Floats | float, other_m: float = BOAT_M) -> Floats:
        """Loss over the sea by two rays, the other end so high over it; the earth falls away under both."""
        d = np.asarray(distance_m, dtype=float)
        lost = d**2 / (8.0 * 4.0 / 3.0 * 6_371_000.0)
        one, other = np.maximum(QUAY_M - lost, 0.5), np.maximum(other_m - lost, 0.5)
        wave = 299_792_458.0 / CENTRE_HZ
        direct, bounced = np.hypot(d, one - other), np.hypot(d, one + other)
        field = 1.0 - self.reflected * direct / bounced * np.exp(-2j * np.pi * (bounced - direct) / wave)
        free = 20.0 * np.log10(4.0 * np.pi * direct / wave)
        return np.asarray(free - 20.0 * np.log10(np.abs(field)) + self.excess_db)

    def exponent_over(self, distance_m: Floats) -> float:
        """That of the straight line in log distance that comes nearest to it over some distances."""
        x = 10.0 * np.log10(distance_m)
        loss = self.path_loss_db(distance_m)
        return float(np.sum((x - x.mean()) * (loss - loss.mean())) / np.sum((x - x.mean()) ** 2))

    def margin_db(self, name: str, power_w: float, place: str) -> float:
        """Median level over sensitivity at a place, no pad."""
        loss = float(self.path_loss_db(PLACES[place][1], UP_M[place]))
        return self.eirp_like_dbm(name, power_w, 0.0) - loss - self.sensitivity_dbm


def draw(random: np.random.Generator) -> Truth:
    """A truth whose hidden parts are drawn within what the notebook states of them."""
    tilt = random.uniform(0, 2 * math.pi)
    antennas = {
        "Shed Yagi": TrueAntenna(10.4, 868.9e6, 45.0, 13.0),
        "Gull Collinear": TrueAntenna(5.6, 871.0e6, 60.0, 17.0),
        "Corkscrew": TrueAntenna(10.2, 866.0e6, 58.0, 3.5, 3.05 + 0.99 * math.cos(tilt)),
        "Flat Panel": TrueAntenna(5.3, 883.0e6, 44.0, 21.0),
        "Check Dipole": TrueAntenna(2.15 + random.normal(0, 0.3), 869.5e6, 62.0, 6.0),
    }
    pad_10 = 10.0 + random.uniform(-0.3, 0.3)
    pads = pad_10 + 6.0 + random.uniform(-0.3, 0.3)
    return Truth(
        antennas=antennas,
        reflected=0.7,
        excess_db=1.0,
        far_gain_dbi=0.0 + random.normal(0, 1.0),
        sensitivity_dbm=-99.0 + random.normal(0, 0.7),
        power_error_db=random.normal(0, 0.3),
        pad_db=pads,
        pad_10_db=pad_10,
        cable_loss_db=1.2 + random.normal(0, 0.1),
    )


def shadowing(truth: Truth, random: np.random.Generator, distance_m: Floats) -> Floats:
    """Slow fading along the path, the same for every run: exponentially correlated (Gudmundson 1991), dB."""
    grid = np.arange(0.0, 3_000.0, 5.0)
    rho = math.exp(-5.0 / truth.shadow_length_m)
    steps = random.normal(0, truth.shadow_sd_db, len(grid))
    out = np.empty(len(grid))
    out[0] = steps[0]
    for i in range(1, len(grid)):
        out[i] = rho * out[i - 1] + math.sqrt(1 - rho**2) * steps[i]
    return np.asarray(np.interp(distance_m, grid, out))


def _array(angle_deg: Floats, elements: int, spacing: float, phase: float, endfire: bool) -> Floats:
    along = np.cos(np.radians(angle_deg)) if endfire else np.sin(np.radians(angle_deg))
    psi = 2 * np.pi * spacing * along + phase
    with np.errstate(invalid="ignore", divide="ignore"):
        factor = np.sin(elements * psi / 2) / (elements * np.sin(psi / 2))
    return np.asarray(np.abs(np.where(np.abs(np.sin(psi / 2)) < 1e-9, 1.0, factor)))


def pattern_db(name: str, plane: str, angle_deg: Floats) -> Floats:
    """The true pattern against its peak, dB, over angles from the antenna's front."""
    rad = np.radians(angle_deg)
    if name == "Shed Yagi":
        phase = -2 * np.pi * 0.17 - 2.94 / 7
        field_ = _array(angle_deg, 7, 0.17, phase, endfire=True)
        if plane == "elevation":
            field_ = field_ * np.abs(np.cos(rad)) ** 0.9
        floor = 0.055
    elif name == "Gull Collinear":
        if plane == "azimuth":
            field_, floor = 1.0 - 0.05 * (1 - np.cos(rad - 0.8)), 0.0
        else:
            field_ = _array(angle_deg, 4, 0.62, 0.0, endfire=False) * np.abs(np.cos(rad))
            floor = 0.03
    elif name == "Corkscrew":
        phase = -2 * np.pi * 0.22 - np.pi / 6
        field_ = _array(angle_deg, 6, 0.22, phase, endfire=True) * np.abs(np.cos(rad / 2)) ** 2
        floor = 0.1
    elif name == "Flat Panel":
        field_ = np.clip(np.cos(rad), 0, None) ** 1.15 + 0.24 * np.clip(-np.cos(rad), 0, None) ** 2
        floor = 0.06
    elif plane == "azimuth":
        field_, floor = 1.0 - 0.01 * (1 - np.cos(rad + 2.0)), 0.0
    else:
        field_, floor = np.abs(np.cos(np.pi / 2 * np.sin(rad)) / np.maximum(np.cos(rad), 1e-3)), 0.03
    magnitude = np.hypot(field_, floor)
    return amplitude_db(magnitude / magnitude.max())
