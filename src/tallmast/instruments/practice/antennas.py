"""Antennas on the practice bench: resonances that can be cut, sleeved, bent, held near."""

from __future__ import annotations

import math

from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.reflection import Complexes
from tallmast.physics.resonance import series_gamma


class PracticeAntenna(Frozen, eq=True):
    """A series resonance whose length decides where it lies. Lengths in m, frequency in Hz."""

    name: str
    resonance_hz: float
    resistance_ohm: float
    q: float
    part_m: float = 0.0
    """Length of the part that is cut; 0: nothing to cut."""
    end_m: float = 0.0
    """What ends, boom and other elements add to that length electrically, or take: what the formula leaves out."""
    needs_plate: bool = False
    """Half of it is the plate it stands on."""
    cut_m: float = 0.0
    sleeved: bool = False
    bent: bool = False

    def cut(self, length_m: float) -> PracticeAntenna:
        """Shorter by so much. Raises ValueError where there is nothing to cut, or not that much."""
        if not 0 < length_m < self.part_m - self.cut_m - 0.001:
            raise ValueError(f"{length_m * 1e3:g} mm can't be cut off it")
        return replace(self, cut_m=self.cut_m + length_m)

    @property
    def f0_hz(self) -> float:
        """Resonance as it is now: (L + e)·f stays constant; a sleeve lowers it by 1.2 %, a bend by 0.4 %."""
        whole = self.part_m + self.end_m
        length = 1.0 if whole <= 0 else (whole - self.cut_m) / whole
        return self.resonance_hz / length * (0.988 if self.sleeved else 1.0) * (0.996 if self.bent else 1.0)

    def gamma(self, frequency_hz: Floats, plate_m: float = 1.0, hand: bool = False) -> Complexes:
        """Γ at its connector, on a square plate of a side, with or without a hand near.

        A plate under half a wave moves the resonance up and the resistance down by a damped ripple of its size; a
        hand adds capacitance (resonance 0.9 % lower) and loss (Q a quarter lower).
        """
        f0, r, q = self.f0_hz, self.resistance_ohm, self.q
        if self.needs_plate:
            waves = plate_m / (299_792_458.0 / f0)
            ripple = math.exp(-2.0 * waves) * math.cos(2 * math.pi * waves)
            f0, r = f0 * (1 + 0.03 * ripple), r * (1 - 0.35 * ripple)
        if hand:
            f0, q, r = f0 * 0.991, q * 0.75, r * 1.08
        return series_gamma(frequency_hz, f0, r, q)


SHELF: tuple[PracticeAntenna, ...] = (
    PracticeAntenna("Shed Yagi", 854.2e6, 45.0, 13.0, part_m=0.084, end_m=-0.0036),
    PracticeAntenna("Gull Collinear", 871.0e6, 60.0, 17.0),
    PracticeAntenna("Corkscrew", 866.0e6, 58.0, 3.5),
    PracticeAntenna("Flat Panel", 883.0e6, 44.0, 21.0),
    PracticeAntenna("Check Dipole", 869.5e6, 62.0, 6.0, needs_plate=True),
)
"""The demo's antennas as they are before anybody trims them."""
