"""Asking a finding the same thing in many worlds, and counting how often its interval holds the truth."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field

import numpy as np

from tallmast.findings.figure import Figure

Answer = tuple[Figure | None, float]
"""What was stated (None: that it can't be told) and what is so."""
Campaign = Callable[[np.random.Generator], Iterable[Answer]]

LOW, HIGH = 0.87, 0.93
"""The share of 90 % intervals that should hold the truth."""
MOST_UNTOLD = 0.25
"""A finding that often says 'can't be told' has not earned its coverage."""


@dataclass(frozen=True)
class Quantity:
    """A headline quantity in one kind of world."""

    name: str
    rung: str
    campaign: Campaign
    low: float = LOW
    high: float = HIGH
    """Other bounds only where a reason stands beside them."""
    why: str = ""
    told: bool = True
    """False where the right answer is that it can't be told."""


QUANTITIES: dict[str, Quantity] = {}


def quantity(
    rung: str, name: str, low: float = LOW, high: float = HIGH, why: str = "", told: bool = True
) -> Callable[[Campaign], Campaign]:
    """Marks a function of a random generator as one campaign for a quantity."""

    def keep(campaign: Campaign) -> Campaign:
        QUANTITIES[name] = Quantity(name, rung, campaign, low, high, why, told)
        return campaign

    return keep


@dataclass
class Tally:
    """Of one quantity: how often it held, how far off it was, how wide it was."""

    held: int = 0
    asked: int = 0
    untold: int = 0
    errors: list[float] = field(default_factory=list)
    halves: list[float] = field(default_factory=list)

    def add(self, stated: Figure | None, true: float) -> None:
        if stated is None:
            self.untold += 1
            return
        low, high = stated.interval
        if stated.bound == "at least":
            high = math.inf
        elif stated.bound == "at most":
            low = -math.inf
        self.asked += 1
        self.held += low <= true <= high
        if not stated.bound:
            self.errors.append(stated.value - true)
            self.halves.append((high - low) / 2)

    @property
    def coverage(self) -> float:
        return self.held / self.asked if self.asked else math.nan

    @property
    def bias(self) -> float:
        """Mean of stated minus true; NaN where only bounds were stated."""
        return float(np.mean(self.errors)) if self.errors else math.nan

    @property
    def width(self) -> float:
        """Median half-width."""
        return float(np.median(self.halves)) if self.halves else math.nan

    @property
    def needed(self) -> float:
        """The half-width that would just hold nine errors in ten, for comparison with `width`."""
        return float(np.quantile(np.abs(self.errors), 0.9)) if self.errors else math.nan

    def good(self, asked: Quantity, slack: float = 0.0) -> bool:
        told = self.asked + self.untold
        if not asked.told:
            return self.asked == 0 and self.untold > 0
        return (
            self.asked > 0
            and self.untold <= MOST_UNTOLD * told
            and asked.low - slack <= self.coverage <= asked.high + slack
        )


def run(name: str, campaigns: int, seed: int = 20261) -> Tally:
    """So many campaigns of a quantity, always the same ones for a seed."""
    from . import worlds  # noqa: F401  (every module of worlds registers its quantities)

    tally = Tally()
    asked = QUANTITIES[name]
    for i in range(campaigns):
        rng = np.random.default_rng([seed, i, *name.encode()])
        for stated, true in asked.campaign(rng):
            tally.add(stated, true)
    return tally
