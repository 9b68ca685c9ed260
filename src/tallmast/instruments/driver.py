"""What the Bench asks of an instrument, whoever wrote its driver. `docs/drivers.md` has a worked example."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.reflection import Complexes


class InstrumentError(Exception):
    """Something is wrong with an instrument: one sentence that says what, and one that says what to try."""

    def __init__(self, what: str, todo: str) -> None:
        super().__init__(f"{what[:1].upper()}{what[1:]}. {todo}.")
        self.what, self.todo = what, todo


class SweepPlan(Frozen, eq=True):
    """What is to be swept. Raises ValueError for a plan that no analyzer can follow."""

    start_hz: float
    stop_hz: float
    points: int = 401
    averages: int = 1

    def __post_init__(self) -> None:
        if not 0 < self.start_hz < self.stop_hz:
            raise ValueError("a sweep goes from a lower frequency to a higher one")
        if not 2 <= self.points <= 200_001:
            raise ValueError("a sweep has 2 to 200 001 points")
        if not 1 <= self.averages <= 10_000:
            raise ValueError("averages run from 1 to 10 000")

    @property
    def frequency_hz(self) -> Floats:
        return np.linspace(self.start_hz, self.stop_hz, self.points)


class RawSweep(Frozen):
    """One sweep as the instrument gave it: its own Γ, before any calibration of ours."""

    frequency_hz: Floats
    gamma: Complexes
    warmth_k: float | None = None
    """Inner temperature, where the instrument tells it, in K or °C: only its changes count."""


class Analyzer(Protocol):
    """A one-port analyzer. Every method may raise `InstrumentError`, and none blocks for longer than its timeout."""

    def identify(self) -> str:
        """Who it says it is."""
        ...

    def configure(self, plan: SweepPlan) -> None:
        """Get ready to sweep as planned."""
        ...

    def sweep(self) -> RawSweep:
        """Sweep once as configured, and read the result."""
        ...

    def close(self) -> None:
        """Let go of it; never raises."""
        ...


class LevelSource(Protocol):
    """A source of known level at one frequency. Methods may raise `InstrumentError`."""

    def identify(self) -> str: ...

    def set(self, frequency_hz: float, level_dbm: float) -> None:
        """Frequency and level; whether it is on stays as it is."""
        ...

    def switch(self, on: bool) -> None: ...

    def close(self) -> None: ...


class StepAttenuator(Protocol):
    """An attenuator that is set in steps. Methods may raise `InstrumentError`."""

    def identify(self) -> str: ...

    def set(self, attenuation_db: float) -> None: ...

    def close(self) -> None: ...


class PowerMeter(Protocol):
    """A power meter. Methods may raise `InstrumentError`."""

    def identify(self) -> str: ...

    def level_dbm(self, frequency_hz: float) -> float:
        """One reading at a frequency."""
        ...

    def close(self) -> None: ...


class Turntable(Protocol):
    """Something that turns an antenna. Methods may raise `InstrumentError`."""

    def identify(self) -> str: ...

    def turn_to(self, angle_deg: float) -> None:
        """Set off; `moving` tells when it is there."""
        ...

    def angle_deg(self) -> float: ...

    def moving(self) -> bool: ...

    def close(self) -> None: ...


Maker = Callable[[str], Analyzer]
"""Opens an analyzer at an address."""
