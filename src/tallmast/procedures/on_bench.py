"""What the parts of the Bench's procedure ask of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from tallmast.instruments.driver import RawSweep, SweepPlan
from tallmast.notebook.records import Antenna, Calibration

from .keeping import Setting
from .procedure import Workplace


class OnBench(Protocol):
    """An analyzer on its line, and the notebook it is read for."""

    place: Workplace
    plan: SweepPlan
    on_ask: Callable[[str], object]

    @property
    def practising(self) -> bool:
        """Whether the practice bench is what is measured."""

    @property
    def setting(self) -> Setting:
        """Under what a sweep is taken now."""

    @property
    def calibration(self) -> Calibration | None:
        """The one in use."""

    @property
    def calibrated(self) -> str:
        """In words, what calibration there is of what is swept."""

    def tell(self, said: str | None = None, todo: str | None = None) -> None: ...

    def remind(self) -> None:
        """Say again what a calibration on its way waits for."""

    def refresh(self) -> None: ...

    def antenna(self) -> Antenna | None:
        """The one in focus; told where there is none."""

    def with_fresh(self, act: Callable[[RawSweep], object]) -> None:
        """Do something with the first sweep that begins from now on."""
