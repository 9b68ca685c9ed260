"""The seven rungs, each resting on what is below."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import ClassVar, TypeVar

from msgspec.structs import replace

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import (
    Antenna,
    CableSweep,
    Calibration,
    Claim,
    Comparison,
    Craft,
    Cut,
    Design,
    DisplayRun,
    DistanceNote,
    FarEnd,
    Fixture,
    GainTable,
    HomeEnd,
    Log,
    MeterReading,
    PadCheck,
    Piece,
    Place,
    Qualification,
    Question,
    Radio,
    Reading,
    Record,
    Recording,
    Run,
    StandardCheck,
    Sweep,
    Turn,
)
from tallmast.units import show

from . import bench, field, gain, levels, link, pattern, shelf, verdict, way
from .aims import Aims
from .bench.bands import BandBench, by_band
from .cautions import Situation, cautions
from .figure import Check, Figure, Finding, Standing
from .levels.compare import Compared, all_compared
from .levels.display import DisplayFinding, read_displays
from .levels.pieces import Drawer, InDrawer
from .pattern import Mounted
from .range_gain import RangeGainReading, find_range_gains
from .verdict import ClaimFate

F = TypeVar("F", bound=Finding)
R = TypeVar("R")

RUNGS = ("shelf", "bench", "levels", "pattern", "field", "link", "verdict")


RESTS_ON: dict[str, tuple[type[Record], ...]] = {
    "shelf": (Question, Antenna, Claim, Piece, PadCheck, HomeEnd, Radio, Run),
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
        Piece,
        PadCheck,
        HomeEnd,
    ),
    "cuts": (Question, Antenna, Cut),
    "directions": (
        Question,
        Antenna,
        Claim,
        Cut,
        Turn,
        Run,
        Log,
        Place,
        HomeEnd,
        FarEnd,
        Radio,
        DisplayRun,
        Craft,
        Recording,
        Design,
        GainTable,
        Piece,
        PadCheck,
    ),
    "heard": (
        Question,
        Antenna,
        Place,
        DistanceNote,
        Run,
        Reading,
        Log,
        DisplayRun,
        Piece,
        HomeEnd,
        FarEnd,
        Radio,
        Recording,
    ),
    "drawer": (Question, Piece, PadCheck),
    "displays": (DisplayRun,),
    "compared": (Comparison,),
}
"""The kinds of record that a rung near the ground, or a part of one, is worked out from: while none of them has changed, its finding
stands. The rungs above rest on these."""


RESTS_UPON: dict[str, tuple[str, ...]] = {
    "field": ("pattern",),
    "levels": ("pattern", "field"),
    "link": ("pattern", "field"),
    "verdict": ("shelf", "bench", "pattern", "field", "levels", "link"),
}
"""Rungs that another one is worked out from: it says so where one of them fails."""
FAULT = "Please report it with the last act on the tape."


class Climb:
    """All findings from one evidence; each is worked out once, when first asked for.

    `before`, the climb that this one follows, lends the findings of rungs whose records are the same still.
    """

    fails_loudly: ClassVar[bool] = False
    """Set by the tests: a finding that raises is to be seen there, not told politely."""

    def __init__(self, evidence: Evidence, aims: Aims, before: Climb | None = None) -> None:
        self.aims = aims
        self.whole = evidence
        """All of it, whatever band is looked at."""
        self._gone: set[str] = set()
        """What could not be worked out."""
        self._heard_before: field.FieldFinding | None = before.__dict__.get("heard") if before is not None else None
        """As it was, from which the day’s weighing starts."""
        self._way_before: way.Way | None = None
        """As it was, where most of it is the same still."""
        if before is not None and before.aims == aims and not before._gone:
            for rung, kinds in RESTS_ON.items():
                known = before.__dict__.get(rung)
                if known is not None and self.whole.same(before.whole, kinds):
                    self.__dict__[rung] = known
            if self.whole.same(before.whole, way.RESTS_ON):
                self._way_before = before.__dict__.get("way")

    @cached_property
    def evidence(self) -> Evidence:
        """As it is of the band that is looked at."""
        return self.whole.in_band(self.aims.band)

    def _safely(self, rung: str, find: Callable[[], R], empty: Callable[[str, str, Standing], R]) -> R:
        """A rung's finding, or one that says that it could not be worked out: no rung takes another down."""
        try:
            found = find()
            gone = [name for name in RESTS_UPON.get(rung, ()) if name in self._gone]
            return self._without(found, gone) if gone and isinstance(found, Finding) else found
        except Exception:
            if self.fails_loudly:
                raise
            import logging  # 5 ms of a start, for what hardly ever comes

            logging.getLogger(__name__).exception("the finding of %s could not be worked out", rung)
            self._gone.add(rung)
            return empty(
                "This rung could not be worked out: a fault of the program, not of your notebook.",
                f"Everything is kept; rungs that rest on it say so. {FAULT}",
                Standing("disagreement", "not worked out"),
            )

    @staticmethod
    def _without(found: R, gone: Sequence[str]) -> R:
        """A finding that says which of those it rests on could not be worked out: it may be another for that."""
        assert isinstance(found, Finding)
        rungs = show.join([show.upper_first(name) for name in gone])
        check = Check("disagrees", f"{rungs} could not be worked out, so this is without it", None, FAULT)
        return replace(found, checks=(check, *found.checks), detail=f"{rungs} could not be worked out. {found.detail}")

    @cached_property
    def shelf(self) -> shelf.ShelfFinding:
        return self._safely(
            "shelf", lambda: shelf.find(self.evidence, self.aims, self.drawer, self._other_bands), shelf.ShelfFinding
        )

    @property
    def _other_numbers(self) -> list[int]:
        """Of the question's bands but the one that is looked at."""
        question = self.whole.question
        return [i for i in range(len(question.bands)) if i != self.aims.band] if question is not None else []

    @property
    def _other_bands(self) -> list[Evidence]:
        return [self.whole.in_band(number) for number in self._other_numbers]

    @cached_property
    def bench(self) -> bench.BenchFinding:
        return self._safely("bench", lambda: bench.find(self.evidence, self.aims), bench.BenchFinding)

    @cached_property
    def cuts(self) -> dict[str, pattern.ReadSamples]:
        return pattern.find_cuts(self.evidence)

    @cached_property
    def directions(self) -> pattern.PatternFinding:
        """The Pattern without what was measured on a range, which rests on the Bench too."""
        return self._safely(
            "pattern", lambda: pattern.find(self.evidence, self.aims, self.displays, self.cuts), pattern.PatternFinding
        )

    @cached_property
    def pattern(self) -> pattern.PatternFinding:
        return self._safely(
            "pattern", lambda: pattern.with_ranges(self.directions, self.range_gains, self.aims), pattern.PatternFinding
        )

    @cached_property
    def heard(self) -> field.FieldFinding:
        """The Field without what the Pattern knows of both ends."""
        return self._safely(
            "field", lambda: field.find(self.evidence, self.aims, self.displays, self._heard_before), field.FieldFinding
        )

    @cached_property
    def field(self) -> field.FieldFinding:
        ran = {run.antenna_id for run in self.evidence.runs}
        return self._with_ends("field", self.heard, ran)

    def _with_ends(self, rung: str, found: F, ids: set[str], aimed: bool = False) -> F:
        """A finding with what stands between both ends beside the path: crossed waves, opposite senses, a beam past its target."""
        patterns = self.directions.antennas

        def ends() -> F:
            checks = pattern.ends_checks(self.evidence, patterns, ids)
            if aimed:
                checks += [c for p in patterns if p.antenna.id in ids for c in pattern.aimed_checks(self.evidence, p)]
            return replace(found, checks=(*found.checks, *checks)) if checks else found

        return self._safely(rung, ends, type(found))

    @cached_property
    def drawer(self) -> tuple[InDrawer, ...]:
        question = self.evidence.question
        return Drawer(self.evidence, question.centre_hz).all() if question else ()

    @cached_property
    def displays(self) -> dict[str, DisplayFinding]:
        return read_displays(self.whole)

    @cached_property
    def compared(self) -> tuple[Compared, ...]:
        return all_compared(self.whole)

    @cached_property
    def range_gains(self) -> tuple[RangeGainReading, ...]:
        return find_range_gains(self.measured, self.bench)

    @cached_property
    def measured(self) -> Evidence:
        """With each antenna's sense and axial ratio as they were measured, where they were."""
        known = {p.antenna.id: pattern.as_measured(p.antenna, p.polarization) for p in self.directions.antennas}
        return self.evidence.with_records({i: a for i, a in known.items() if a != self.evidence.antenna(i)})

    @cached_property
    def gains(self) -> dict[str, gain.GainEvidence]:
        return gain.gather(self.measured, self.shelf, self.pattern, self.field, self.range_gains)

    @cached_property
    def radiated(self) -> levels.Radiated | None:
        """At full power, and how far to stand away: rungs warn of it whose findings rest on no link."""
        return self._safely("levels", lambda: levels.radiated(self.evidence, self.aims, self.gains), lambda *_: None)

    @property
    def clear(self) -> Figure | None:
        """How far to stand away from home's antenna, by the limit chosen."""
        home = self.radiated.home if self.radiated is not None else None
        return home.clear if home is not None else None

    def cautions(self, rung: str) -> tuple[str, ...]:
        """What to mind on a rung before anybody sends, flies, climbs or cuts."""
        reworked = rung == "bench" and any(one.advice for one in self.bench.antennas)
        return cautions(Situation(rung, self.evidence, reworked), lambda: self.radiated)

    @cached_property
    def levels(self) -> levels.LevelsFinding:
        return self._safely(
            "levels",
            lambda: levels.find(
                self.evidence,
                self.aims,
                self.gains,
                self.field,
                self.way,
                self.mounted,
                self.displays,
                self.compared,
                self.radiated,
            ),
            levels.LevelsFinding,
        )

    @property
    def _others_hz(self) -> list[float]:
        """Middles of the question's bands but the one that is looked at."""
        bands = self.whole.question.bands if self.whole.question is not None else ()
        return [0.5 * (b.low_hz + b.high_hz) for i, b in enumerate(bands) if i != self.aims.band]

    @cached_property
    def mounted(self) -> dict[str, Mounted]:
        """Every antenna as it stands on its mast, by id."""
        far = self.evidence.far_end
        there = far.antenna_id if far is not None else ""
        known = self.directions.antennas
        return {
            p.antenna.id: pattern.mounted(self.evidence, p, "away" if p.antenna.id == there else "home") for p in known
        }

    @cached_property
    def way(self) -> way.Way | None:
        """What lies between both ends, as Levels and Link have it."""
        return way.between(self.evidence, self.field, self._way_before)

    @cached_property
    def link(self) -> link.LinkFinding:
        found = self._safely(
            "link",
            lambda: link.find(
                self.measured, self.aims, self.gains, self.field, self.way, self.mounted, self._others_hz
            ),
            link.LinkFinding,
        )
        focus = self.aims.focus_id or next((a.id for a in self.evidence.antennas), "")
        return self._with_ends("link", found, {focus}, aimed=True) if found.standing.mark != "nothing" else found

    @cached_property
    def verdict(self) -> verdict.VerdictFinding:
        below = (self.shelf, self.bench, self.pattern, self.field, self.link)
        return self._safely(
            "verdict",
            lambda: verdict.find(self.evidence, *below, self.gains, self.claims, self.compared, self.bands),
            verdict.VerdictFinding,
        )

    @cached_property
    def claims(self) -> tuple[ClaimFate, ...]:
        """What became of every claim, each in the band it was made for; those of one antenna together."""
        fates = list(self._claims_here)
        for number in self._other_numbers:
            known = {fate.claim.id for fate in fates}
            if any(claim.id not in known for claim in self.whole.in_band(number).all(Claim)):
                other = Climb(self.whole, replace(self.aims, band=number))
                fates += [fate for fate in other._claims_here if fate.claim.id not in known]
        order = {antenna.id: i for i, antenna in enumerate(self.evidence.antennas)}
        return tuple(sorted(fates, key=lambda fate: order[fate.antenna.id]))

    @cached_property
    def _claims_here(self) -> tuple[ClaimFate, ...]:
        below = (self.shelf, self.bench, self.pattern, self.field, self.link)
        return verdict.judge_claims(self.evidence, *below, self.gains, self.compared)

    @cached_property
    def bands(self) -> tuple[BandBench, ...]:
        """The match of every antenna in every band; none where the question has but one."""
        question = self.whole.question
        if question is None or not question.further:
            return ()
        return by_band(self.whole, self.aims)

    def ready(self, rung: str) -> None:
        """Work out all that the picture, the sentence and the caution of one rung are made from."""
        self.of(rung)
        _ = self.cautions(rung), self.bands

    def of(self, rung: str) -> Finding:
        """The finding of a rung by its name."""
        finding: Finding = getattr(self, rung)
        return finding
