"""What the person is looking at: choices of the window that a finding needs, but that are no evidence."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Aims:
    """The antenna in focus, the frequency read off, and the what-if of the Link rung, and what is
    tried on the staircase."""

    focus_id: str = ""
    band: int = 0
    """Number of the question's band that is looked at."""
    at_hz: float | None = None
    what_if_power_w: float | None = None
    what_if_pad_db: float = 0.0
    tried: tuple[tuple[str, float], ...] = ()
    """Steps of the staircase at another value, by key: tried, not kept."""
