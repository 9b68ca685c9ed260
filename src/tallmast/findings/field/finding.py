"""What the Field’s evidence comes to."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import cached_property

from tallmast.frozen import Frozen, field
from tallmast.notebook.records import Place, Reading

from ..figure import Figure, Finding
from .calls import Calls
from .contrasts import Contrast
from .ends import Ends
from .fixes import PlaceFix
from .ground import OverGround
from .group import Group
from .laid import Aligned
from .runs import RunRow, Tried
from .samples import RunSamples
from .trace import Trace
from .tracks import Walk


class PlaceReading(Frozen):
    """Reports from both ends at one place, for one run: every attempt, none hides another."""

    place: Place
    run: RunRow
    home: tuple[Reading, ...]
    away: tuple[Reading, ...]


class Reach(Frozen):
    """How far an antenna was heard in a run, and whether that is a range or only 'at least'."""

    row: RunRow
    furthest: Figure
    lost_m: float | None
    gaps: tuple[float, ...] = ()
    """Distances where it was not heard, and was again beyond, m."""
    luck: tuple[float, ...] = ()
    """Distances where it was heard once in a while, in fewer than half of the attempts, m."""


class FieldFinding(Finding):
    rows: tuple[RunRow, ...] = ()
    places: tuple[PlaceFix, ...] = ()
    samples: tuple[RunSamples, ...] = ()
    reports: tuple[PlaceReading, ...] = ()
    groups: tuple[Group, ...] = ()
    reaches: tuple[Reach, ...] = ()
    home: Place | None = None
    wanted: Place | None = None
    walks: tuple[Walk, ...] = ()
    own: tuple[Contrast, ...] = ()
    """On scales of their own, the better level first: grades, displays, heard or not."""
    reached: tuple[Contrast, ...] = ()
    """By how far it was heard, the farther level first."""
    calls: Calls | None = None
    """Place by antenna and mode, where anything but levels was noted."""
    names: dict[Tried, str] = field(default_factory=dict)
    """Of whatever made a run."""
    ends: Ends | None = None
    traces: tuple[Trace, ...] = ()
    """Recordings in time, each quantity of each."""
    laid: Aligned | None = None
    """Those of the quantity that most was recorded of, over each other."""
    ground: OverGround | None = None
    """The two antennas that are spoken of over the same ground."""

    @cached_property
    def along_the_way(self) -> bool:
        """Whether a level was heard at a known distance."""
        return any(s.at_distance.heard.any() for s in self.samples)

    @cached_property
    def contrasts(self) -> tuple[Contrast, ...]:
        """On every scale: in decibels over the main group's places, the better level first, then the others."""
        levels = self.main.contrasts if self.main else ()
        return _once((*_ahead(levels), *self.own, *self.reached))

    @cached_property
    def apart(self) -> tuple[tuple[str, Contrast], ...]:
        """(manner, contrast) in decibels of the runs of other manners than the main group's: other places, another path."""
        others = (group for group in self.groups if group is not self.main)
        return tuple((group.manner, c) for group in others for c in _once(_ahead(group.contrasts)))

    @property
    def main(self) -> Group | None:
        """The group with most runs that has a path fit, else the largest."""
        fitted = [g for g in self.groups if g.fit]
        return max(fitted or self.groups, key=lambda g: len(g.run_ids), default=None)

    def wanted_bearing_deg(self) -> float | None:
        return next((p.bearing_deg for p in self.places if self.wanted and p.place.id == self.wanted.id), None)

    def wanted_distance_m(self) -> float | None:
        return next((p.distance.value for p in self.places if self.wanted and p.place.id == self.wanted.id), None)


def _ahead(contrasts: Iterable[Contrast]) -> tuple[Contrast, ...]:
    return tuple(c for c in contrasts if c.figure.value >= 0)


def _once(contrasts: Sequence[Contrast]) -> tuple[Contrast, ...]:
    """What was changed together is told from each of the things that were; once is enough."""
    return tuple({(c.scale, c.key): c for c in reversed(contrasts)}.values())[::-1]
