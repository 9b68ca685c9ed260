"""Everything that is known of one antenna's pattern."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import AROUND, Antenna, Design, Turn
from tallmast.physics.pattern import WIDEST_GAP_DEG

from ..figure import Figure
from .by_levels import gain_by_levels
from .cut import CutReading, read_cut
from .directivity import directivity
from .ellipse import PolarizationReading, gather_polarization, together
from .flown import Flown
from .gain import cross_polar, substitution_gain
from .held import HeldOtherwise, held_otherwise
from .named import Toward, read_off
from .samples import OwnTurn, Samples, of_cut, of_turn

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding
    from ..range_gain import RangeGainReading
    from .design import AgainstDesign
    from .own_flown import OwnFlown


FINE_DEG = 20.0
"""A beam of an ordinary antenna is seen well in steps up to this."""
ON_HORIZON_DEG = 10.0
"""A turn flown so far off the horizon at most is one round it."""


class AntennaPattern(Frozen):
    antenna: Antenna
    cuts: tuple[CutReading, ...]
    """In decibels: of files, of turns on the spot, of flights."""
    substitution: Figure | None
    """Gain against a reference antenna on the same range, dBi."""
    directivity: Figure | None
    """Directivity that the beamwidths suggest, dBi."""
    own: tuple[OwnTurn, ...] = ()
    """Turns on a scale of their own."""
    own_flown: tuple[OwnFlown, ...] = ()
    """What was flown round it on a scale of its own."""
    polarization: tuple[PolarizationReading, ...] = ()
    flown: Flown | None = None
    """Of the state flown last."""
    toward: tuple[Toward, ...] = ()
    held: tuple[HeldOtherwise, ...] = ()
    """What holding it otherwise did: a side covered, a reflector on."""
    by_levels: Figure | None = None
    """Gain by the levels that were flown, where all is known of what was sent and what it was read with."""
    designs: tuple[AgainstDesign, ...] = ()
    """Its cuts that are spoken of, each against the design brought in last."""
    ranges: tuple[RangeGainReading, ...] = ()
    """Gain as it was measured on a range."""

    @property
    def anything(self) -> bool:
        return bool(self.cuts or self.own or self.own_flown or self.polarization or self.flown)

    @property
    def cross_polar(self) -> Figure | None:
        """How far under its peak the wrong way round is there, of a co- and a cross-polar cut of one session."""
        for crossed in reversed([c for c in self.cuts if c.of.crossed and c.of.absolute]):
            co = next((c for c in reversed(self.cuts) if not c.of.crossed and _together(c.of, crossed.of)), None)
            if co is not None:
                return cross_polar(co, crossed)
        return None

    @property
    def polarized(self) -> PolarizationReading | None:
        """What all that was measured of its polarization says."""
        return together(self.antenna, self.polarization)

    @property
    def spoken(self) -> CutReading | None:
        """The cut that is spoken of: round the horizon, else up and over."""
        return self.cut("azimuth") or self.cut("elevation")

    def cut(self, plane: str) -> CutReading | None:
        """Of the antenna as it is now, where there is one, the finest kind, all round rather than not, in fine steps, and on the
        horizon rather than over it, the newest of those."""
        mine = [c for c in self.cuts if c.plane == plane and not c.of.crossed]
        now = self.antenna.state.id

        def rank(c: CutReading) -> tuple[bool, ...]:
            level = c.of.at_elevation_deg is None or abs(c.of.at_elevation_deg) <= ON_HORIZON_DEG
            all_round = c.gap_deg <= WIDEST_GAP_DEG
            return c.of.state_id == now, not c.coarse, all_round, all_round and c.gap_deg <= FINE_DEG, level

        ranked = [((*rank(c), i), c) for i, c in enumerate(mine)]
        return max(ranked, key=lambda pair: pair[0])[1] if ranked else None


def _together(one: Samples, other: Samples) -> bool:
    """Whether levels of two cuts can be held against each other."""
    same = (one.plane, one.session, one.state_id) == (other.plane, other.session, other.state_id)
    return one.absolute and other.absolute and same


class ReadSamples(Frozen):
    """Samples by direction and what was read from them: nothing, where they go round no antenna."""

    samples: Samples
    reading: CutReading | None


def _read(samples: Samples, sector: tuple[float, float]) -> ReadSamples:
    goes_round = samples.plane in AROUND and len(samples.angle_deg) >= 2
    return ReadSamples(samples, read_cut(samples, sector) if goes_round else None)


def read_cuts(evidence: Evidence, sector: tuple[float, float]) -> dict[str, ReadSamples]:
    """Every cut that was kept, by its id."""
    cuts = [(antenna, cut) for antenna in evidence.antennas for cut in evidence.cuts(antenna.id)]
    return {cut.id: _read(of_cut(evidence, cut, antenna), sector) for antenna, cut in cuts}


def _not_cuts(
    evidence: Evidence, antenna: Antenna, displays: Mapping[str, DisplayFinding], flown: tuple[Flown, ...]
) -> tuple[list[Samples], list[OwnTurn]]:
    """What was read by direction of one antenna and is no cut: in decibels, and on scales of their own."""
    told: list[Samples] = []
    own: list[OwnTurn] = []
    for turn in evidence.all(Turn):
        if turn.antenna_id == antenna.id:
            found = of_turn(turn, antenna, displays)
            if isinstance(found, OwnTurn):
                own.append(found)
            else:
                told.append(found)
    for one in flown:
        told += [s for s in (one.turn, one.climb) if s is not None]
    return told, own


def read_antennas(
    evidence: Evidence,
    sector: tuple[float, float],
    displays: Mapping[str, DisplayFinding],
    flown: tuple[Flown, ...],
    cuts: Mapping[str, ReadSamples] | None = None,
    own_flown: tuple[OwnFlown, ...] = (),
) -> tuple[AntennaPattern, ...]:
    """Of every antenna on the shelf; `cuts` as they were read before, where they were."""
    cuts = read_cuts(evidence, sector) if cuts is None else cuts
    read: dict[str, list[CutReading]] = {}
    polarized: dict[str, tuple[PolarizationReading, ...]] = {}
    own: dict[str, list[OwnTurn]] = {}
    for antenna in evidence.antennas:
        mine = tuple(f for f in flown if f.antenna.id == antenna.id)
        told, own[antenna.id] = _not_cuts(evidence, antenna, displays, mine)
        by_direction = [*(cuts[cut.id] for cut in evidence.cuts(antenna.id)), *(_read(s, sector) for s in told)]
        read[antenna.id] = [one.reading for one in by_direction if one.reading is not None]
        polarized[antenna.id] = gather_polarization([one.samples for one in by_direction])
    known = [r for a in evidence.antennas if a.known_gain_dbi is not None for r in read[a.id]]
    references = [r for r in known if not r.of.crossed]
    out = []
    for antenna in evidence.antennas:
        readings = read[antenna.id]
        gains = [g for r in readings if not r.of.crossed and (g := substitution_gain(r, references))]
        last = next((f for f in reversed(flown) if f.antenna.id == antenna.id), None)
        made = AntennaPattern(
            antenna,
            tuple(readings),
            gains[0] if gains else None,
            directivity([r for r in readings if not r.coarse and not r.of.crossed], last),
            tuple(own[antenna.id]),
            tuple(one for one in own_flown if one.antenna.id == antenna.id),
            polarized[antenna.id],
            last,
            held=held_otherwise(antenna, [r.of for r in readings], own[antenna.id]),
        )
        toward = read_off(evidence, made.cut("azimuth"))
        out.append(replace(made, toward=toward, designs=_designs(evidence, made), by_levels=_by_levels(evidence, made)))
    return tuple(out)


def _designs(evidence: Evidence, made: AntennaPattern) -> tuple[AgainstDesign, ...]:
    design = next((d for d in reversed(evidence.all(Design)) if d.antenna_id == made.antenna.id), None)
    if design is None:
        return ()
    from .design import against

    cuts = [cut for plane in AROUND if (cut := made.cut(plane)) is not None and not cut.coarse]
    return tuple(found for cut in cuts if (found := against(evidence, design, cut)) is not None)


def _by_levels(evidence: Evidence, made: AntennaPattern) -> Figure | None:
    turn = next((c for c in reversed(made.cuts) if c.of.way == "flight" and c.plane == "azimuth"), None)
    if made.flown is None or turn is None or turn.of.state_id != made.antenna.state.id:
        return None
    return gain_by_levels(evidence, made.flown, turn.peak)
