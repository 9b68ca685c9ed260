"""What flew away, in words: what was lost where and why, and the checks of it."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Log
from tallmast.units import show

from ..figure import Check
from ..way.words import TAKES_DB, what_stands
from .aloft import Aloft, Moment, Tracker

OFF_BEAM_DB = 1.0
"""Less by the beam is not spoken of."""


def off_beam_words(at: Moment) -> str:
    """`6° under the beam, 4.0 dB`; nothing where the beam takes little or its tilt is not noted."""
    if at.beam_db is None or at.off_beam_deg is None or -at.beam_db[0] < OFF_BEAM_DB:
        return ""
    side = "under" if at.off_beam_deg < 0 else "over"
    return f"{abs(at.off_beam_deg):.0f}° {side} the beam, {show.decibel(-at.beam_db[0])}"


def way_words(at: Moment) -> str:
    """`behind the ridge at 1.8 km, 9 ± 4 dB`; nothing where the way takes little."""
    way = at.way
    if way is None or way.tightest is None or way.over_db < TAKES_DB:
        return ""
    taken = next(loss.text for loss in way.losses if loss.kind == "ground")
    how = "behind" if way.tightest.clearance_m < 0 else "grazing"
    return f"{how} {what_stands(way, way.tightest)} at {show.distance(way.tightest.distance_m)}, {taken}"


def aloft_words(found: Sequence[Aloft]) -> str:
    """`Run 3: picture was lost at 3.2 km (6° under the beam, 4 dB); control at 4.3 km (behind the ridge …).` of the newest flight."""
    if not found:
        return ""
    last = found[-1]
    lost = [one for one in last.links if one.spells]
    if not lost:
        words = show.join([one.name for one in last.links])
        return f"Run {last.run.number}: {words} held to {show.distance(max(one.farthest_m for one in last.links))}."
    parts: list[str] = []
    told = ""
    for one in lost:
        at = one.spells[0].lost
        # The beam is much the same for all of them, what stands in the way is not.
        why = [words for words in ("" if parts else off_beam_words(at), way_words(at)) if words and words != told]
        told = way_words(at)
        where = f"{one.name} {'' if parts else 'was lost '}at {show.distance(at.distance_m)}"
        parts.append(where + (f" ({', '.join(why)})" if why else ""))
    parts += [f"{one.name} held" for one in last.links if not one.spells]
    return f"Run {last.run.number}: {'; '.join(parts)}.{_tracker_words(last.tracker)}"


def _tracker_words(found: Tracker | None) -> str:
    if found is None:
        return ""
    lag = f"{found.lag_s:.1f} s" if found.lag_s < 60 else "more than a minute"
    return (
        f" A tracker may lag by {lag} on the quickest of the way, {show.fixed(found.rate_deg_s, 1)}° a second, before half the power is "
        f"lost; left standing where it loses its target it gives {show.decibel(-found.stuck_db, 0)} less in the worst tenth of the rest."
    )


FLYING = "Fly within sight, clear of people, as your rules ask; set the failsafe before you go, and keep the way back in the battery."


def aloft_checks(found: Sequence[Aloft]) -> list[Check]:
    """What was lost by the beam or the ground, and control that goes before the picture; of the newest flight."""
    out: list[Check] = []
    for last in found[-1:]:
        lost = [one for one in last.links if one.spells]
        for one in lost[:1]:
            at = one.spells[0].lost
            for words in (off_beam_words(at), way_words(at)):
                if words:
                    text = f"run {last.run.number}: {one.name} lost {words}"
                    out.append(
                        Check(
                            "disagrees",
                            text,
                            None,
                            "Tilt the beam to where it flies, or fly higher where the ground allows.",
                        )
                    )
        order = [one.name.lower() for one in lost]
        control = next((i for i, name in enumerate(order) if "control" in name or name.startswith("rc")), None)
        if control == 0 and len(last.links) > 1:
            out.append(Check("fails", f"run {last.run.number}: control was lost first", None, FLYING))
        elif control is not None:
            where = show.distance(lost[control].spells[0].lost.distance_m)
            out.append(Check("open", f"run {last.run.number}: control was lost too, at {where}", None, FLYING))
    return out


def limits_checks(evidence: Evidence, found: Sequence[Aloft]) -> list[Check]:
    """Readings below which a link is of no use, noted of a log of which nothing is told by them."""
    out, told = [], {one.log.id for one in found}
    for log in evidence.all(Log):
        more = log.lost[1 + len(log.beside) :]
        if log.lost and log.id not in told:
            why = "That takes a run that was flown, heights in its log, and a position of the place it was flown from."
            out.append(Check("open", f"log {log.source}: where its links were lost can’t be told", None, why))
        elif more:
            names = show.join([one.name for one in more])
            why = "Say at the log which column it is, in the order in which they are named."
            out.append(Check("open", f"log {log.source} has no column for {names}", None, why))
    return out
