"""The Pattern's finding: what is known of every antenna's pattern, and the one in focus in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Craft, Log, Recording
from tallmast.physics.pattern import WIDEST_GAP_DEG
from tallmast.units import show
from tallmast.units.shown import SCALES

from ..aims import Aims
from ..figure import Check, Figure, FindingOfAntennas, Mark, Standing, against
from . import ellipse
from .aimed import aimed_checks, belief_checks, ends_checks
from .antenna import AntennaPattern, ReadSamples, read_antennas, read_cuts
from .cut import CutReading
from .direction_map import DirectionMap, on_one_scale
from .flown import Flown, gather_flown
from .passes import best_ring
from .samples import OwnTurn, Way
from .track import REASONS
from .words import detail_of, directions_alone, own_scale, sentence_of

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding
    from ..range_gain import RangeGainReading
    from .branches import BothBranches
    from .own_flown import OwnFlown
    from .pairs import PairsFinding
    from .side import SideBySide


class PatternFinding(FindingOfAntennas):
    antennas: tuple[AntennaPattern, ...] = ()
    focus: AntennaPattern | None = None
    sector_deg: tuple[float, float] = (-30.0, 30.0)
    side_by_side: tuple[SideBySide, ...] = ()
    pairs: PairsFinding | None = None
    """Which two cover what flies; None where nobody said what flies."""
    branches: tuple[BothBranches, ...] = ()
    """Both branches of a receiver, as it logged them itself."""

    def of(self, antenna_id: str) -> AntennaPattern | None:
        return next((a for a in self.antennas if a.antenna.id == antenna_id), None)

    @property
    def flown_first(self) -> tuple[AntennaPattern, ...]:
        """Those that were flown round, the one in focus first."""
        flown = [a for a in self.antennas if a.flown is not None]
        return tuple(sorted(flown, key=lambda a: a is not self.focus))

    @property
    def direction_maps(self) -> tuple[DirectionMap, ...]:
        """Levels in all directions, of the one in focus and of another."""
        out = []
        for one in self.flown_first[:2]:
            cut = one.spoken
            headline = cut.beamwidth or cut.sector if cut is not None else None
            if one.flown is not None:
                out.append(replace(one.flown.map, headline=headline))
        return tuple(out)

    @property
    def own_maps(self) -> tuple[DirectionMap, ...]:
        """What was flown round on a scale of its own, of the one in focus and of another on the same scale, in the same shades."""
        flown = [a for a in self.antennas if a.own_flown]
        if not flown:
            return ()
        first = next((a for a in flown if a is self.focus), flown[0])
        mine = first.own_flown[-1]
        return on_one_scale([one.map for one in (mine, *_on_its_scale(first, self.antennas)[:1])])

    @property
    def side_of_focus(self) -> SideBySide | None:
        """The one in focus against another; else any two."""
        mine = [s for s in self.side_by_side if self.focus is None or self.focus.antenna.id in (s.one.id, s.other.id)]
        return next(iter(mine or self.side_by_side), None)

    @property
    def own(self) -> tuple[OwnTurn, ...] | None:
        """Turns on the scale that the one in focus was last turned on, or that anything was; each antenna's and manner's last."""
        all_ = [own for a in self.antennas for own in a.own]
        mine = [own for own in all_ if self.focus is None or own.antenna.id == self.focus.antenna.id]
        if not all_:
            return None
        scale = (mine or all_)[-1].turn.read_on
        last = {(o.antenna.id, o.turn.state_id, o.turn.held): o for o in all_ if o.turn.read_on == scale}
        return tuple(last.values())

    def looks_first(self, looks: list[str]) -> list[str]:
        """Ways to look at it, that which is spoken of first."""
        spoken = self.focus.spoken if self.focus is not None else None
        others = "own scale" if self.focus and self.focus.own else "polarization" if self.focus else "pairs"
        first = spoken.plane if spoken is not None else others
        return sorted(looks, key=lambda look: (look != first, looks.index(look)))


def _sector(evidence: Evidence) -> tuple[float, float]:
    question = evidence.question
    return (question.sector_from_deg, question.sector_to_deg) if question else (-30.0, 30.0)


def find_cuts(evidence: Evidence) -> dict[str, ReadSamples]:
    """What is read from each cut: most of the work, and a log or a turn more changes nothing of it."""
    return read_cuts(evidence, _sector(evidence))


def find(
    evidence: Evidence,
    aims: Aims,
    displays: Mapping[str, DisplayFinding] | None = None,
    cuts: Mapping[str, ReadSamples] | None = None,
) -> PatternFinding:
    """The Pattern's finding, told of the antenna in focus."""
    sector = _sector(evidence)
    flown = gather_flown(evidence, displays or {})
    antennas = read_antennas(evidence, sector, displays or {}, flown, cuts, _own_flown(evidence, displays or {}))
    known = [a for a in antennas if a.anything]
    pairs, branches = _pairs(evidence, antennas), _branches(evidence)
    if not known and (pairs is not None or branches):
        return _of_pairs(antennas, sector, pairs, branches)
    if not known:
        return PatternFinding(
            "No pattern yet.",
            "The Pattern answers: where does the gain go, and what is lost over the angles you will use? Turn the antenna "
            "on the spot and note what is heard, fly round it with a logger, or drop a CSV of angle and level.",
            Standing("nothing", "no cuts yet"),
            antennas=antennas,
            sector_deg=sector,
        )
    focus = next((a for a in antennas if a.antenna.id == aims.focus_id), known[0])
    sides = _sides(flown)
    told = {a.antenna.id: _tell(a, evidence, _on_its_scale(a, antennas)) for a in known}
    faults = {key: against([*one[2], *ends_checks(evidence, antennas, {key})]) for key, one in told.items()}
    sentence, detail, own, headline = told.get(focus.antenna.id) or _tell(focus, evidence, ())
    checks = [*own, *_claim_checks(focus, evidence), *ends_checks(evidence, antennas, {focus.antenna.id})]
    mine = [s for s in sides if focus.antenna.id in (s.one.id, s.other.id)]
    paired = [f"{show.upper_first(words)}." for words in _paired(pairs, branches)]
    detail = " ".join(filter(None, (detail, *(f"{show.upper_first(s.words)}." for s in mine[:2]), *paired)))
    standing = _standing(antennas)
    return PatternFinding(
        sentence,
        detail,
        standing,
        tuple(checks),
        headline,
        antennas,
        focus,
        sector,
        sides,
        pairs,
        branches,
        faults=faults,
        of_each={key: (words, figure) for key, (words, _, _, figure) in told.items()},
    )


# What few notebooks have is loaded with the first that has it: a start pays for none of it.


def _pairs(evidence: Evidence, antennas: tuple[AntennaPattern, ...]) -> PairsFinding | None:
    if not evidence.all(Craft):
        return None
    from .pairs import find_pairs

    return find_pairs(evidence, antennas)


def _branches(evidence: Evidence) -> tuple[BothBranches, ...]:
    if not evidence.all(Recording):
        return ()
    from .branches import both_branches

    return both_branches(evidence)


def _own_flown(evidence: Evidence, displays: Mapping[str, DisplayFinding]) -> tuple[OwnFlown, ...]:
    if not any(log.read_on in SCALES for log in evidence.all(Log)):
        return ()
    from .own_flown import gather_own_flown

    return gather_own_flown(evidence, displays)


def _sides(flown: tuple[Flown, ...]) -> tuple[SideBySide, ...]:
    if len(flown) < 2:
        return ()
    from .side import all_side_by_side

    return all_side_by_side(flown)


def _paired(pairs: PairsFinding | None, branches: tuple[BothBranches, ...]) -> list[str]:
    """What was logged of both branches first: it is what was had; then what the patterns foretell."""
    told = [pairs.words, pairs.range_words, pairs.circular_words] if pairs is not None else []
    return [*(b.words for b in branches[-1:]), *filter(None, told)]


def _of_pairs(
    antennas: tuple[AntennaPattern, ...],
    sector: tuple[float, float],
    pairs: PairsFinding | None,
    branches: tuple[BothBranches, ...],
) -> PatternFinding:
    """Where no pattern was read, but what covers what flies can be told from branches or from kinds."""
    first, *rest = _paired(pairs, branches)
    headline = branches[-1].together if branches else pairs.best.worst_tenth if pairs else None
    checks = [Check("open", "patterns by their kind alone", None, BY_KIND)] if pairs is not None else []
    what = "both branches logged" if branches else "pairs by their kind"
    return PatternFinding(
        show.upper_first(f"{first}."),
        " ".join(show.upper_first(f"{words}.") for words in rest),
        Standing("some", what),
        tuple(checks),
        headline,
        antennas,
        None,
        sector,
        (),
        pairs,
        branches,
    )


BY_KIND = "Turn or fly round each antenna: its own pattern then takes the place of what is usual of its kind, and the ± shrinks."


NO_GAIN = "gain not shown by these cuts"


def with_ranges(finding: PatternFinding, ranges: Sequence[RangeGainReading], aims: Aims) -> PatternFinding:
    """With what was measured on a range of each antenna; the sentence is its own where there is no pattern beside it."""
    if not ranges:
        return finding
    antennas = tuple(
        replace(a, ranges=tuple(r for r in ranges if r.antenna.id == a.antenna.id)) for a in finding.antennas
    )
    measured = [a for a in antennas if a.ranges]
    focus = next((a for a in antennas if a.antenna.id == aims.focus_id and a.ranges), measured[0])
    last = focus.ranges[-1]
    told = _by_range(focus)
    faults = {a.antenna.id: (*finding.faults.get(a.antenna.id, ()), *against(a.ranges[-1].checks)) for a in measured}
    of_range = {a.antenna.id: (f"{_by_range(a)}.", a.ranges[-1].gain) for a in measured}
    finding = replace(finding, faults={**finding.faults, **faults}, of_each={**of_range, **finding.of_each})
    checks = list(last.checks)
    if finding.standing.mark == "nothing":
        detail = "Of its pattern nothing was read yet: this is its gain toward its front."
        standing = Standing("some", f"gain of {len(measured)}")
        return replace(
            finding,
            sentence=f"{told}.",
            detail=detail,
            standing=standing,
            checks=tuple(checks),
            headline=last.gain,
            antennas=antennas,
        )
    spoken = finding.focus is not None and any(r.antenna.id == finding.focus.antenna.id for r in ranges)
    kept = [c for c in finding.checks if not (spoken and c.text == NO_GAIN)]
    now = next((a for a in antennas if finding.focus is not None and a.antenna.id == finding.focus.antenna.id), None)
    mine = now.ranges[-1] if now is not None and now.ranges else None
    words = (
        f"{now.antenna.name} has {mine.gain.text} by {mine.way}."
        if now is not None and mine is not None
        else f"{told}."
    )
    detail = " ".join(filter(None, (words, finding.detail)))
    more = list(mine.checks) if mine is not None else []
    return replace(finding, detail=detail, checks=(*kept, *more), antennas=antennas, focus=now or finding.focus)


def _by_range(one: AntennaPattern) -> str:
    return f"{one.antenna.name} has {one.ranges[-1].gain.text} by {one.ranges[-1].way}"


POLARIZED = "Of its pattern nothing was read yet: this is how its wave turns, not where it goes."


def _standing(antennas: tuple[AntennaPattern, ...]) -> Standing:
    known = [a for a in antennas if a.anything]
    n = sum(len(a.cuts) + len(a.own) + len(a.own_flown) for a in antennas)
    missing = len(antennas) - len(known)
    what = show.count(n, "pattern") if n else show.count(sum(len(a.polarization) for a in antennas), "polarization")
    return Standing("some" if missing else "done", f"{what} of {len(known)}")


def _on_its_scale(one: AntennaPattern, antennas: Sequence[AntennaPattern]) -> tuple[OwnFlown, ...]:
    """What was flown round others on the scale on which one was flown round last."""
    if not one.own_flown:
        return ()
    mine = one.own_flown[-1]
    others = (flown for other in antennas if other is not one for flown in other.own_flown)
    return tuple(f for f in others if (f.read_on, f.receiver) == (mine.read_on, mine.receiver))


def _tell(
    focus: AntennaPattern, evidence: Evidence, others: tuple[OwnFlown, ...]
) -> tuple[str, str, list[Check], Figure | None]:
    name, cut = focus.antenna.name, focus.spoken
    polarized = focus.polarized
    checks = ellipse.checks_of(focus.antenna, focus.polarization, evidence)
    more = [f"{one.words}." for one in focus.held]
    more += [f"Polarization: {polarized.words}."] if polarized is not None else []
    if cut is None and focus.own:
        sentence, detail = own_scale(focus.own[-1], name)
        return sentence, " ".join((detail, *more)), [*checks, _no_decibels(focus.own[-1].unit)], None
    if cut is None and focus.own_flown:
        from .own_flown import own_flown_words

        sentence, detail = own_flown_words(focus.own_flown[-1], others)
        return sentence, " ".join((detail, *more)), [*checks, _no_decibels(focus.own_flown[-1].unit)], None
    if cut is None and polarized is not None:
        figure = polarized.axial_ratio or polarized.sense or polarized.upright
        return f"{name} is {polarized.words}.", POLARIZED, checks, figure
    if cut is None and focus.flown is not None:
        sentence, detail = directions_alone(name, focus.flown)
        return sentence, " ".join((detail, *more)), [*checks, *_flown_checks(focus.flown)], None
    if cut is None:
        return (
            f"No pattern of {name} yet.",
            "Turn it and type what is read (N), drop a cut (I), or fly round it.",
            [],
            None,
        )
    gain = focus.substitution
    sentence = sentence_of(name, cut)
    if gain:
        sentence = sentence[:-1] + f", and {gain.text} at its peak."
    detail = " ".join(filter(None, (detail_of(focus, cut), *more)))
    checks += [*(one.check for one in focus.designs), *aimed_checks(evidence, focus), *_checks(focus, cut, evidence)]
    checks += belief_checks(evidence, focus)
    if focus.flown is not None and cut.of.way == "flight":
        checks += _flown_checks(focus.flown)
    return sentence, detail, checks, gain or cut.beamwidth or cut.front_to_back or cut.sector


def _no_decibels(unit: str) -> Check:
    why = (
        "Step that display through known pads (Levels, display run) and the same turn is told in decibels. Twice as far in "
        "the open leaves a quarter of a power, half of a voltage."
    )
    return Check("open", f"{unit} are no decibels", None, why)


OFF_FRONT: dict[Way, str] = {
    "cut": "Squint, or the zero of its angles is not where its front was.",
    "turn": "Squint, or its front was not where it was noted to look.",
    "flight": "Squint, or the compass by which its front was noted was off.",
}
"""Why a peak lies beside the front, by how it was read."""


def _checks(focus: AntennaPattern, cut: CutReading, evidence: Evidence) -> list[Check]:
    checks = []
    if cut.gap_deg > WIDEST_GAP_DEG and not cut.coarse:
        checks.append(Check("open", f"no data over {cut.gap_deg:.0f}°", None, "Nothing is known of the pattern there."))
    if cut.coarse:
        why = "So few directions tell which side is stronger; a beam takes a turn in steps of 30° or less."
        checks.append(Check("open", "no beamwidth from so few directions", None, why))
    off = (cut.peak_deg + 180) % 360 - 180
    noted = cut.of.way != "flight" or focus.flown is None or focus.flown.pointing_noted
    if cut.beamwidth and noted and abs(off) > max(10.0, 0.25 * cut.beamwidth.value):
        why = OFF_FRONT[cut.of.way]
        checks.append(Check("disagrees", f"peak points {show.bearing(abs(off))} off its front", None, why))
    if focus.substitution is None and focus.by_levels is None:
        why = "Cut a reference antenna in the same session, with levels as received, and the gain follows."
        checks.append(Check("open", NO_GAIN, focus.directivity, why))
    return checks


def _claim_checks(focus: AntennaPattern, evidence: Evidence) -> list[Check]:
    """What a cut says of the beamwidth that is claimed."""
    cut, checks = focus.spoken, []
    if cut is None or cut.beamwidth is None:
        return []
    for claim in evidence.claims(focus.antenna.id):
        if claim.quantity == "beamwidth":
            low, high = cut.beamwidth.interval
            # A maker's beamwidth is a figure of equality: it holds within a tenth and our own uncertainty.
            slack = 0.1 * claim.value
            fits = low - slack <= claim.value <= high + slack
            text = f"claim beam {claim.value:g}°: measured {cut.beamwidth.short}"
            checks.append(Check("holds" if fits else "fails", text, cut.beamwidth))
    return checks


def _flown_checks(flown: Flown) -> list[Check]:
    """What a flight leaves open, and what of it does not count."""
    out = []
    if flown.turn is None and best_ring(flown.cells) is not None:
        why = "Round at one height, then at the next: a climb all the while reads every bearing at another elevation."
        out.append(Check("open", "it climbed as it went round: no cut at one height", None, why))
    if flown.rejected:
        n = sum(flown.rejected.values())
        all_ = sum(len(t.level_db) for t in flown.tracks)
        why = "; ".join(f"{REASONS[key]}: {count}" for key, count in flown.rejected.items())
        out.append(Check("open", f"{n} of {all_} readings left out", None, f"{show.upper_first(why)}."))
    if not flown.pointing_noted:
        why = "Say in the run, or at the home end, to which azimuth it looked (“Panel, at 208°”): its angles count from north."
        out.append(Check("open", "where its front looked was not noted", None, why))
    for laid in (t.laid for t in flown.tracks if t.laid is not None):
        begins = f"{abs(laid.begins_s):.0f} s {'after' if laid.begins_s >= 0 else 'before'} the track"
        how = "as they were moved" if laid.by_hand else "by what makes the pattern smoothest"
        why = "The levels are of another logger than the positions. Move them in the recording’s sheet, if they lie wrong."
        mark: Mark = "holds" if laid.sure else "open"
        doubt = "" if laid.sure else ", which hardly stands out"
        out.append(Check(mark, f"levels begin {begins}, {how}{doubt}", None, why))
    for track in flown.tracks[:1]:
        if track.off_course_deg is not None:
            why = "Magnetic north for true north, or a crab in the wind: mind it where headings matter."
            text = f"headings stand {abs(track.off_course_deg):.0f}° off the way flown"
            out.append(Check("open", text, None, why))
    for words in dict.fromkeys(t.rays for t in flown.tracks if t.rays):
        mark = "holds" if words.endswith("is taken out") else "open"
        why = "Two rays over flat ground, reflected by its polarization (Rec. ITU-R P.527)."
        out.append(Check(mark, words, None, why))
    for words in dict.fromkeys(t.carried for t in flown.tracks if t.carried):
        out.append(Check("holds", words, None, "Its cut, as it was turned to the antenna at every reading."))
    datum = {t.heights for t in flown.tracks if t.guessed}
    if datum:
        taken = show.join(["over its take-off" if d == "take-off" else "over the sea" for d in sorted(datum)])
        out.append(Check("open", f"heights without a datum: taken as {taken}", None, "The log's sheet says it."))
    if any(t.heights == "none" for t in flown.tracks):
        out.append(Check("open", "no heights in the log", None, "Elevations are not told; the way is taken as level."))
    return out
