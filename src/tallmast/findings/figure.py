"""What a finding is made of: figures with their working, checks, and the sentence."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Literal

from msgspec.structs import replace

from tallmast.frozen import Frozen, field
from tallmast.physics.statistics import bounded_factor, coverage_factor
from tallmast.units import show

if TYPE_CHECKING:
    from uncertainties import UFloat

    from tallmast.notebook.records import Antenna

CONFIDENCE = 0.90
"""Every ± shown is the half-width of an interval of this confidence."""

LEAST_KM = 0.995
"""A way that is shorter is told in metres."""

Mark = Literal["holds", "fails", "disagrees", "open"]
"""✓ holds, ✕ fails, ! disagrees, – not shown yet."""


class Working(Frozen):
    """How a number came about, to be read beside it."""

    lines: tuple[str, ...] = ()
    """Formula and values put in."""
    parts: tuple[tuple[str, str], ...] = ()
    """Where the ± comes from: name and standard uncertainty, largest first."""
    source: str = ""
    meaning: str = ""


class Figure(Frozen):
    """A headline number: value, standard uncertainty `u`, unit, degrees of freedom of `u`, working.

    `low` and `high` override the symmetrical 90 % interval where it is lopsided, as for SWR; `bound` says that
    only one side is known.
    """

    name: str
    value: float
    u: float
    unit: str
    working: Working = field(default_factory=Working)
    degrees: float = math.inf
    low: float | None = None
    high: float | None = None
    bound: Literal["", "at most", "at least"] = ""
    digits: int | None = None
    bounded: float = 0.0
    """Share of u² that is the part of a vector of known length and unknown phase: it reaches no farther than that."""

    @property
    def half(self) -> float:
        """Half-width of the 90 % interval."""
        if self.bounded:
            return float(bounded_factor(self.bounded, CONFIDENCE)) * self.u
        return coverage_factor(self.degrees, CONFIDENCE) * self.u

    @property
    def interval(self) -> tuple[float, float]:
        """The 90 % interval."""
        low = self.value - self.half if self.low is None else self.low
        return low, (self.value + self.half if self.high is None else self.high)

    def widened(self, ratio: float, why: str) -> Figure:
        """With a larger uncertainty, and a line of working that says why."""
        working = replace(self.working, lines=(*self.working.lines, why))
        return replace(self, u=self.u * ratio, working=working)

    def turned(self) -> Figure:
        """Of two things, the other over the one."""
        first, _, second = self.name.partition(" over ")
        low, high = (None if edge is None else -edge for edge in (self.high, self.low))
        return replace(self, name=f"{second} over {first}", value=-self.value, low=low, high=high)

    def _as_read(self) -> Figure:
        """Ways over ground in metres where they are short, in feet or miles for a person who reads them so; the figure itself stays."""
        if self.unit == "km" and abs(self.value) < LEAST_KM and not show.imperial():
            low, high = (None if edge is None else edge * 1e3 for edge in (self.low, self.high))
            digits = 0 if abs(self.value) >= 0.01 else 1
            return replace(self, value=self.value * 1e3, u=self.u * 1e3, unit="m", low=low, high=high, digits=digits)
        if not show.imperial() or self.unit not in ("m", "km"):
            return self
        metres = 1.0 if self.unit == "m" else 1000.0
        far = self.value * metres >= 1000 * show.FOOT_M
        factor = metres / (show.MILE_M if far else show.FOOT_M)
        return replace(
            self,
            value=self.value * factor,
            u=self.u * factor,
            unit="mi" if far else "ft",
            low=None if self.low is None else self.low * factor,
            high=None if self.high is None else self.high * factor,
            digits=2 if far else self.digits,
        )

    @property
    def text(self) -> str:
        """`4.6 ± 1.1 dB`, `9 dB (6 to 13)`, `at most 1.12`."""
        return self._as_read()._text()

    def _text(self) -> str:
        tail = f" {self.unit}" if self.unit and self.unit != "°" else self.unit
        low, high = self.interval
        if self.bound:
            edge = high if self.bound == "at most" else low
            if self.unit == "dB" and self.digits is None and abs(edge) >= 10.0:  # whole ones, to the safe side
                whole = math.ceil(edge - 1e-9) if self.bound == "at most" else math.floor(edge + 1e-9)
                return f"{self.bound} {show.fixed(whole, 0)}{tail}"
            return f"{self.bound} {self._fixed(edge)}{tail}"
        if self.low is not None or self.high is not None:
            if self._fixed(low) == self._fixed(high):
                return f"{self._fixed(self.value)}{tail}"
            return f"{self._fixed(self.value)}{tail} ({self._fixed(low)} to {self._fixed(high)})"
        if self.u <= 0:
            return f"{self._fixed(self.value)}{tail}"
        return show.plus_minus(self.value, self.half, self.unit)

    @property
    def short(self) -> str:
        """The value alone with its unit."""
        return self._as_read()._short()

    def _short(self) -> str:
        tail = f" {self.unit}" if self.unit and self.unit != "°" else self.unit
        if self.bound:
            return self._text()
        digits = self.digits if self.digits is not None else min(show.uncertainty_digits(self.half), 2)
        return f"{show.fixed(self.value, digits)}{tail}"

    def _fixed(self, value: float) -> str:
        if self.digits is not None:
            return show.fixed(value, self.digits)
        if self.unit == "" and self.name.startswith("SWR"):
            return show.swr(value)
        return show.fixed(value, 1)


class Check(Frozen):
    """A small tag under the finding: a mark and words, and the figure behind it."""

    mark: Mark
    text: str
    figure: Figure | None = None
    why: str = ""


class Standing(Frozen):
    """How far a rung's evidence has come, in three or four words."""

    mark: Literal["nothing", "some", "done", "disagreement"]
    words: str


class Finding(Frozen):
    """What the evidence of one rung amounts to now. Each rung adds what its picture needs."""

    sentence: str
    detail: str
    standing: Standing
    checks: tuple[Check, ...] = ()
    headline: Figure | None = None
    """The figure that the working panel shows unless another is picked."""


class FindingOfAntennas(Finding, kw_only=True):
    """A finding that is told of one antenna and knows them all."""

    faults: Mapping[str, tuple[Check, ...]] = field(default_factory=dict)
    """What fails or disagrees of each antenna here, by its id, whichever is in focus; what is claimed of it left out."""
    of_each: Mapping[str, tuple[str, Figure | None]] = field(default_factory=dict)
    """The sentence and the figure of each antenna that something is known of, by its id."""

    def said_of(self, antenna: Antenna | None) -> tuple[str, Figure | None]:
        """The sentence and the figure of one antenna, of the first of all where nothing is known of it."""
        mine = self.of_each.get(antenna.id) if antenna is not None else None
        return mine or next(iter(self.of_each.values()), (self.sentence, self.headline))


def against(checks: Iterable[Check]) -> tuple[Check, ...]:
    """Those that speak against what they are about: what fails first, then what disagrees."""
    return tuple(c for mark in ("fails", "disagrees") for c in checks if c.mark == mark)


def named(value: float, u: float, tag: str) -> UFloat:
    """A value whose standard uncertainty keeps its name through sums; one without uncertainty gets a negligible one."""
    from uncertainties import ufloat

    return ufloat(value, max(u, 1e-9), tag=tag)


def parts_of(value: UFloat, unit: str, digits: int = 2) -> tuple[tuple[str, str], ...]:
    """The named parts of an uncertainty, largest first, with those under a hundredth of the whole left out."""
    whole = float(value.std_dev)
    rows = sorted(
        ((str(variable.tag or "rest"), float(u)) for variable, u in value.error_components().items()),
        key=lambda row: -row[1],
    )
    return tuple((name, f"{show.fixed(u, digits)} {unit}".strip()) for name, u in rows if u > 0.01 * whole)
