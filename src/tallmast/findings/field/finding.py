"""What the Field’s evidence comes to."""

from __future__ import annotations

from dataclasses import dataclass, field

from tallmast.notebook.records import Place, Reading

from ..figure import Figure, Finding
from .compare import RunSpread
from .grades import ByGrade
from .path import PathFit
from .runs import RunRow
from .samples import RunSamples, Tried, Walk


@dataclass(frozen=True, eq=False, repr=False)
class PlaceReading:
    """Reports from both ends at one place, for one run: every attempt, none hides another."""

    place: Place
    run: RunRow
    home: tuple[Reading, ...]
    away: tuple[Reading, ...]


@dataclass(frozen=True, eq=False, repr=False)
class PlaceFix:
    place: Place
    distance: Figure
    bearing_deg: float
    typed_m: float | None


@dataclass(frozen=True, eq=False, repr=False)
class Reach:
    """How far an antenna was heard in a run, and whether that is a range or only 'at least'."""

    row: RunRow
    furthest: Figure
    lost_m: float | None


@dataclass(frozen=True, eq=False, repr=False)
class Group:
    """Runs of one manner that can be compared, and what they say."""

    manner: str
    spread: RunSpread
    fit: PathFit | None
    differences: dict[tuple[Tried, Tried], Figure]
    """(A, B), each an antenna in a state → A over B, dB."""
    power_w: float
    pad_db: float
    run_ids: tuple[str, ...]
    names: dict[Tried, str]
    """The antenna's, with its state where that is not its present one."""
    shared_u_db: float = 0.0
    """Of all its levels alike, by the zero of a display: it cancels in differences and stays in every level."""

    def tried(self, antenna_id: str) -> Tried | None:
        """What stands for an antenna here: its present state, where that was run, else the one that was run last."""
        return next((t for t in reversed(self.names) if t[0] == antenna_id), None)

    def walked(self, antenna_id: str) -> Tried | None:
        """What stands for an antenna in the path as fitted; None where it made no run that is in it."""
        tried = self.tried(antenna_id)
        return tried if self.fit is not None and tried in self.fit.at_1km_dbm else None

    def best_pair(self) -> tuple[Tried, Tried] | None:
        """The best of all against the one that comes next to it; None where nothing can be compared."""
        nearest: dict[Tried, tuple[Tried, Tried]] = {}
        for pair in sorted(self.differences, key=lambda pair: -self.differences[pair].value):
            nearest[pair[0]] = pair
        best = max(nearest.values(), key=lambda pair: self.differences[pair].value, default=None)
        # Each may beat another in a ring, by a few places; then it is told of the one that is ahead.
        return (best[1], best[0]) if best and self.differences[best].value < 0 else best

    def difference(self, antenna_a: str, antenna_b: str) -> Figure | None:
        """A over B by what stands for each of them, dB."""
        a, b = self.tried(antenna_a), self.tried(antenna_b)
        return self.differences.get((a, b)) if a and b else None


@dataclass(frozen=True, eq=False, repr=False)
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
    ratios: dict[tuple[Tried, Tried], Figure] = field(default_factory=dict)
    """(A, B) → how many times as far A was heard as B, the farther one first."""
    graded: dict[tuple[Tried, Tried], ByGrade] = field(default_factory=dict)
    """(A, B) → chance, %, that A is heard better at the same spot, by grades; the better one first."""
    names: dict[Tried, str] = field(default_factory=dict)
    """Of whatever made a run."""

    @property
    def main(self) -> Group | None:
        """The group with most runs that has a path fit, else the largest."""
        fitted = [g for g in self.groups if g.fit]
        return max(fitted or self.groups, key=lambda g: len(g.run_ids), default=None)

    def wanted_distance_m(self) -> float | None:
        return next((p.distance.value for p in self.places if self.wanted and p.place.id == self.wanted.id), None)
