"""The match of every antenna in every band of the question."""

from __future__ import annotations

from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Band
from tallmast.units import show

from ..aims import Aims
from ..figure import Figure, Mark
from .tell import find


class InBand(Frozen):
    """One antenna in one band."""

    antenna: Antenna
    worst: Figure | None
    mark: Mark
    where: str
    """At which frequency it was read, where no sweep covers the band."""
    claim: str
    """What became of its claimed SWR there; empty: none was claimed."""


class BandBench(Frozen):
    band: Band
    number: int
    antennas: tuple[InBand, ...]


def by_band(evidence: Evidence, aims: Aims) -> tuple[BandBench, ...]:
    """Of a question of several bands; in each its own readings and its own limit."""
    question = evidence.question
    if question is None:
        return ()
    out = []
    for number, band in enumerate(question.bands):
        found = find(evidence.in_band(number), replace(aims, band=number))
        rows = []
        for one in found.antennas:
            claims = [c for c in one.claims if c.claim.quantity == "swr"]
            claim = f"claimed {claims[0].claim.value:g}: {WORDS[claims[0].mark]}" if claims else ""
            where = f" at {show.frequency(one.by_meter.at_hz)}" if one.by_meter is not None else ""
            rows.append(InBand(one.antenna, one.worst, one.limit_mark, where, claim))
        out.append(BandBench(band, number, tuple(rows)))
    return tuple(out)


WORDS: dict[Mark, str] = {"holds": "holds", "fails": "fails", "open": "not shown yet", "disagrees": "disagrees"}
