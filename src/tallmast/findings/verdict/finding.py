"""What the Verdict comes to."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Claim

from ..bench import BandBench, BenchFinding
from ..field import FieldFinding
from ..figure import Figure, Finding, Mark
from ..gain import GainEvidence
from ..levels.compare import Compared
from ..link import LinkFinding, Margin
from ..pattern import PatternFinding
from ..shelf import ClaimMark, ShelfFinding


class ClaimFate(Frozen):
    """What became of a claim."""

    claim: Claim
    antenna: Antenna
    words: str
    mark: ClaimMark
    against: str
    """What stands against or for it, short."""
    why: str
    figure: Figure | None = None


class Ranked(Frozen):
    """One antenna in the order of merit."""

    antenna: Antenna
    margin: Margin | None
    chance_of_best: float | None
    gain: GainEvidence
    match: Figure | None
    match_mark: Mark
    weakest: Figure | None


class VerdictFinding(Finding):
    ranked: tuple[Ranked, ...] = ()
    claims: tuple[ClaimFate, ...] = ()
    changes: tuple[str, ...] = ()
    """What would change the verdict, cheapest first."""
    lamp: bool = False


class Known(Frozen):
    """Everything that a verdict may rest on."""

    evidence: Evidence
    subject: Antenna | None
    """The antenna that the question is about; None: all of them. What is in focus has no part in a verdict."""
    shelf: ShelfFinding
    bench: BenchFinding
    pattern: PatternFinding
    field: FieldFinding
    link: LinkFinding
    gains: dict[str, GainEvidence]
    compared: Sequence[Compared]
    claims: tuple[ClaimFate, ...]
    ranked: tuple[Ranked, ...]
    rankable: tuple[Margin, ...]
    """Of those that have a place in a ranking."""
    chances: dict[str, float]
    bands: Sequence[BandBench] = ()
    """The match in every band, where there are several."""


class Answer(Frozen, eq=True):
    """The question answered: one sentence, what stands beside it, its figure; `lamp`: it ranks or settles."""

    sentence: str
    detail: str
    headline: Figure | None
    lamp: bool = False
    open: str = ""
    """What is not shown yet, and takes what."""
