"""The practice bench itself: what is attached, through which cable, seen by an analyzer with errors that drift."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from tallmast.physics.cable import bad_joint_gamma
from tallmast.physics.decibels import Floats
from tallmast.physics.oneport import ErrorTerms, open_gamma
from tallmast.physics.reflection import Complexes, swr, through_cable

from .antennas import SHELF, PracticeAntenna

STANDARDS = ("open", "short", "load")
FRINGE_F = (49.0e-15,)
"""What the practice open really has."""
LOAD_OHM = 50.4


@dataclass
class Cable:
    """Between the analyzer and what is attached: loss a√f + b·f (dB, MHz), length, one joint that may be bad."""

    length_m: float = 1.2
    velocity_factor: float = 0.66
    a: float = 0.0130
    b: float = 4.0e-5
    joint_m: float | None = None
    joint_ohm: float = 6.0

    def loss_db(self, frequency_hz: Floats) -> Floats:
        f = frequency_hz / 1e6
        return np.asarray((self.a * np.sqrt(f) + self.b * f) * self.length_m / 1.2)

    def seen(self, frequency_hz: Floats, gamma: Complexes) -> Complexes:
        """What is seen of Γ through it. The joint reflects, and what passes it twice is weaker."""
        if self.length_m <= 0:
            return gamma
        loss = self.loss_db(frequency_hz)
        if self.joint_m is None or not 0 < self.joint_m < self.length_m:
            return through_cable(gamma, frequency_hz, loss, self.length_m, self.velocity_factor)
        share = self.joint_m / self.length_m
        behind = through_cable(
            gamma, frequency_hz, loss * (1 - share), self.length_m - self.joint_m, self.velocity_factor
        )
        joint = bad_joint_gamma(frequency_hz, self.joint_ohm)
        # A series resistance between two matched lines: S11 = S22 = g, S21 = 1 − g.
        there = joint + (1 - joint) ** 2 * behind / (1 - joint * behind)
        return through_cable(there, frequency_hz, loss * share, self.joint_m, self.velocity_factor)


@dataclass
class PracticeBench:
    """Everything that the simulated instruments see. Thread-safe: several instruments look at it at once.

    `clock` gives seconds; error terms drift with the time since `switched_on` and with warmth. `noise` is the
    standard deviation of each part of Γ in one sweep; averages make it smaller by their square root.
    """

    clock: Callable[[], float] = time.monotonic
    noise: float = 0.0015
    directivity: float = 0.03
    source_match: float = 0.05
    tracking: float = 0.94
    drift_per_hour: float = 0.004
    warm_up: float = 0.006
    seed: int = 1
    cable: Cable = field(default_factory=lambda: Cable(length_m=0.0))
    load_gamma: complex = (LOAD_OHM - 50.0) / (LOAD_OHM + 50.0)
    """What the practice load really reflects."""
    plate_m: float = 0.35
    hand: bool = False
    calibration_plane: bool = True
    """Standards are attached where the antenna would be, behind the cable."""

    def __post_init__(self) -> None:
        self._lock = threading.RLock()
        self._random = np.random.default_rng(self.seed)
        self.switched_on = self.clock()
        self.antennas: dict[str, PracticeAntenna] = {antenna.name: antenna for antenna in SHELF}
        self.attached = "load"

    # Hands

    def attach(self, what: str) -> None:
        """Screw on a standard or an antenna by its name. Raises ValueError for what is not on the bench."""
        with self._lock:
            name = next((n for n in (*STANDARDS, *self.antennas) if n.lower() == what.strip().lower()), None)
            if name is None:
                raise ValueError(f"there is no {what} on the practice bench")
            self.attached = name

    def change(self, how: Callable[[PracticeAntenna], PracticeAntenna]) -> PracticeAntenna:
        """Do something to the antenna that is attached. Raises ValueError when a standard is."""
        with self._lock:
            antenna = self.antennas.get(self.attached)
            if antenna is None:
                raise ValueError(f"a {self.attached} is attached, not an antenna")
            self.antennas[antenna.name] = made = how(antenna)
            return made

    # What instruments see

    def warmth_k(self) -> float:
        """Inner temperature over the room's: it warms up with a time constant of ten minutes."""
        return 14.0 * (1.0 - math.exp(-(self.clock() - self.switched_on) / 600.0))

    def true_gamma(self, frequency_hz: Floats) -> Complexes:
        """Γ of what is attached, at its own connector."""
        with self._lock:
            if self.attached == "open":
                return open_gamma(frequency_hz, FRINGE_F)
            if self.attached == "short":
                return np.full(frequency_hz.shape, -1.0 + 0j)
            if self.attached == "load":
                return np.full(frequency_hz.shape, self.load_gamma + 0j)
            return self.antennas[self.attached].gamma(frequency_hz, self.plate_m, self.hand)

    def terms(self, frequency_hz: Floats) -> ErrorTerms:
        """The analyzer's error terms at this moment."""
        hours = (self.clock() - self.switched_on) / 3600.0
        drift = self.drift_per_hour * hours + self.warm_up * self.warmth_k() / 14.0
        turn = np.exp(2j * np.pi * frequency_hz * 0.31e-9)
        return ErrorTerms(
            np.asarray(self.directivity * turn + drift * np.exp(1.1j)),
            np.asarray(self.source_match * np.exp(0.7j) * np.conj(turn) + drift * np.exp(-0.4j)),
            np.asarray((self.tracking - drift) * np.exp(-2j * np.pi * frequency_hz * (0.05e-9 + drift * 0.02e-9))),
        )

    def sweep(self, frequency_hz: Floats, averages: int = 1) -> Complexes:
        """What the analyzer shows."""
        with self._lock:
            seen = self.cable.seen(frequency_hz, self.true_gamma(frequency_hz))
            shown = self.terms(frequency_hz).shown(seen)
            if self.noise:
                spread = self.noise / math.sqrt(averages)
                shown = shown + spread * (
                    self._random.normal(size=len(frequency_hz)) + 1j * self._random.normal(size=len(frequency_hz))
                )
            return np.asarray(shown)

    def meter_powers(self, frequency_hz: float, power_w: float) -> tuple[float, float]:
        """(forward, reflected) as an inline meter at the antenna end of nothing shows them: 3 % of reading off."""
        with self._lock:
            magnitude = float(
                np.abs(self.cable.seen(np.array([frequency_hz]), self.true_gamma(np.array([frequency_hz]))))[0]
            )
            wobble = 1.0 + 0.01 * self._random.normal(size=2)
            return power_w * float(wobble[0]), power_w * magnitude**2 * float(wobble[1])

    def true_swr(self, frequency_hz: float) -> float:
        """For tests."""
        return float(swr(np.abs(self.true_gamma(np.array([frequency_hz])))[0]))
