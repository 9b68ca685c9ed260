"""Constants of nature and of the bench."""

from typing import Final

SPEED_OF_LIGHT: Final = 299_792_458.0
"""m/s, exact (SI)."""

BOLTZMANN: Final = 1.380_649e-23
"""J/K, exact (SI)."""

REFERENCE_TEMPERATURE_K: Final = 290.0
"""The noise reference temperature T0, K (IEEE definition of noise factor)."""

SYSTEM_IMPEDANCE: Final = 50.0
"""Ω: what analyzers, meters and pads of this trade are made for."""

DIPOLE_GAIN_DBI: Final = 2.15
"""Gain of a half-wave dipole over isotropic, dB (Rec. ITU-R BS.561: dBi = dBd + 2.15)."""


def wavelength(frequency_hz: float) -> float:
    """Wavelength in free space, m."""
    return SPEED_OF_LIGHT / frequency_hz
