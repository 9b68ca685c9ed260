"""The seven rungs, each resting on what is below."""

from __future__ import annotations

from functools import cached_property

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import (
    Antenna,
    CableSweep,
    Calibration,
    Chain,
    Claim,
    Cut,
    DisplayRun,
    DistanceNote,
    Fixture,
    Log,
    MeterReading,
    Piece,
    Place,
    Qualification,
    Question,
    Reading,
    Record,
    Run,
    StandardCheck,
    Sweep,
)

from . import bench, field, gain, levels, link, pattern, shelf, verdict
from .aims import Aims
from .figure import Finding
from .levels.display import DisplayFinding, read_displays

RUNGS = ("shelf", "bench", "levels", "pattern", "field", "link", "verdict")


RESTS_ON: dict[str, tuple[type[Record], ...]] = {
    "shelf": (Question, Antenna, Claim, Piece, Chain),
    "bench": (
        Question,
        Antenna,
        Claim,
        Fixture,
        Calibration,
        StandardCheck,
        Qualification,
        CableSweep,
        Sweep,
        MeterReading,
    ),
    "pattern": (Question, Antenna, Claim, Cut),
    "field": (Question, Antenna, Place, DistanceNote, Run, Reading, Log, DisplayRun),
}
"""The kinds of record that a rung near the ground is worked out from: while none of them has changed, its finding
stands. The rungs above rest on these."""


class Climb:
    """All findings from one evidence; each is worked out once, when first asked for.

    `before`, the climb that this one follows, lends the findings of rungs whose records are the same still.
    """

    def __init__(self, evidence: Evidence, aims: Aims, before: Climb | None = None) -> None:
        self.evidence, self.aims = evidence, aims
        if before is not None and before.aims == aims:
            for rung, kinds in RESTS_ON.items():
                known = before.__dict__.get(rung)
                if known is not None and evidence.same(before.evidence, kinds):
                    self.__dict__[rung] = known

    @cached_property
    def shelf(self) -> shelf.ShelfFinding:
        return shelf.find(self.evidence, self.aims)

    @cached_property
    def bench(self) -> bench.BenchFinding:
        return bench.find(self.evidence, self.aims)

    @cached_property
    def pattern(self) -> pattern.PatternFinding:
        return pattern.find(self.evidence, self.aims)

    @cached_property
    def field(self) -> field.FieldFinding:
        return field.find(self.evidence, self.aims, self.displays)

    @cached_property
    def displays(self) -> dict[str, DisplayFinding]:
        return read_displays(self.evidence)

    @cached_property
    def gains(self) -> dict[str, gain.GainEvidence]:
        return gain.gather(self.evidence, self.shelf, self.pattern, self.field)

    @cached_property
    def levels(self) -> levels.LevelsFinding:
        return levels.find(self.evidence, self.aims, self.gains, self.field, self.displays)

    @cached_property
    def link(self) -> link.LinkFinding:
        return link.find(self.evidence, self.aims, self.gains, self.field)

    @cached_property
    def verdict(self) -> verdict.VerdictFinding:
        return verdict.find(
            self.evidence, self.aims, self.shelf, self.bench, self.pattern, self.field, self.link, self.gains
        )

    def of(self, rung: str) -> Finding:
        """The finding of a rung by its name."""
        finding: Finding = getattr(self, rung)
        return finding
