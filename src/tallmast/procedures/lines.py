"""What a procedure needs of the line to an analyzer; the desk has the one that is real."""

from __future__ import annotations

from typing import Protocol

from tallmast.instruments.driver import Maker, RawSweep, SweepPlan


class Sweeper(Protocol):
    """An analyzer on its line, sweeping elsewhere."""

    @property
    def going(self) -> bool: ...

    @property
    def rate(self) -> float:
        """Sweeps a second, lately."""

    def go(self) -> None: ...

    def pause(self) -> None: ...

    def plan(self, plan: SweepPlan) -> None: ...

    def take(self) -> tuple[RawSweep, float] | None:
        """The newest sweep, and when it began (by `time.monotonic`)."""


class Lines(Protocol):
    """Opens lines; what comes over the one in use is told to the procedure's `arrived`, `connected`, `fault`, `recovered`."""

    def open(self, maker: Maker, address: str, plan: SweepPlan) -> Sweeper: ...

    def close(self) -> None:
        """Let go of the one in use."""

    def end(self) -> None:
        """Let go of all, and wait for them."""
