"""What the Field’s evidence comes to."""

from __future__ import annotations

from functools import cached_property

from tallmast.frozen import Frozen, field
from tallmast.notebook.records import Place, Reading

from ..figure import Figure, Finding
from .calls import Calls
from .ends import Ends
from .fixes import PlaceFix
from .ground import OverGround
from .group import Group
from .laid import Aligned
from .model.contrasts import DECIBELS, Contrast
from .model.mistakes import Judged
from .model.planner import Step
from .model.weighed import Weighed, settled_by
from .runs import ANTENNA, RunRow, Tried
from .samples import RunSamples
from .settings import level_of_tried, tried_of
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
    weighed: Weighed | None = None
    """All notes of the day at once."""
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

    @property
    def judged(self) -> Judged | None:
        """The day, and what may have gone wrong in it."""
        return self.weighed.judged if self.weighed is not None else None

    @property
    def contrasts(self) -> tuple[Contrast, ...]:
        """Of every factor, the better level first in each; antennas before other things."""
        return self.weighed.contrasts if self.weighed is not None else ()

    @property
    def dying(self) -> tuple[Contrast, ...]:
        """The same of how often recordings drop out, and of how long they are usable: not of the level."""
        return self.weighed.dying if self.weighed is not None else ()

    @cached_property
    def along_the_way(self) -> bool:
        """Whether a level was heard at a known distance."""
        return any(s.at_distance.heard.any() for s in self.samples)

    def settled_by(self, contrast: Contrast) -> Step | None:
        """What would settle a contrast the quickest."""
        return settled_by(self.judged, contrast) if self.judged is not None else None

    def of_antennas(self, antenna_a: str, antenna_b: str) -> Contrast | None:
        """Two antennas against each other, nothing else changed with them; the states that were run last."""
        both = {antenna_a, antenna_b}
        found = (
            c
            for c in self.contrasts
            if c.change.factor == ANTENNA
            and len(c.changes) == 1
            and {tried_of(c.change.to)[0], tried_of(c.change.since)[0]} == both
        )
        order = {level_of_tried(tried): i for i, tried in enumerate(self.names)}
        return max(found, key=lambda c: order.get(c.change.to, -1) + order.get(c.change.since, -1), default=None)

    def difference(self, antenna_a: str, antenna_b: str) -> Figure | None:
        """A over B, dB; None where no notes tell them apart from all else."""
        contrast = self.of_antennas(antenna_a, antenna_b)
        if contrast is None:
            return None
        figure = contrast.figure
        return figure if tried_of(contrast.change.to)[0] == antenna_a else figure.turned()

    def difference_by(self, manner: str, antenna_a: str, antenna_b: str) -> Figure | None:
        """The same by the runs of one manner alone, as levels have it."""
        contrast = self.of_antennas(antenna_a, antenna_b)
        if contrast is None or contrast.scale != DECIBELS:
            return None
        whole = {manner: contrast.figure} if contrast.manners == (manner,) else {}
        figure = (dict(contrast.by_manner) or whole).get(manner)
        if figure is None:
            return None
        return figure if tried_of(contrast.change.to)[0] == antenna_a else figure.turned()

    @property
    def main(self) -> Group | None:
        """The group with most runs that has a path fit, else the largest."""
        fitted = [g for g in self.groups if g.fit]
        return max(fitted or self.groups, key=lambda g: len(g.run_ids), default=None)

    def wanted_bearing_deg(self) -> float | None:
        return next((p.bearing_deg for p in self.places if self.wanted and p.place.id == self.wanted.id), None)

    def wanted_distance_m(self) -> float | None:
        return next((p.distance.value for p in self.places if self.wanted and p.place.id == self.wanted.id), None)
