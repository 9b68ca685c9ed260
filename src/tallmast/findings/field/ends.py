"""Both ends of one path: what powers explain of their difference, and where noise at one of them is left."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Reading
from tallmast.physics.decibels import power_db
from tallmast.physics.statistics import mean, median
from tallmast.units import show
from tallmast.units.read import UnitError
from tallmast.units.spoken import said

from ..figure import Check, Figure, Mark, Working
from .fixes import PlaceFix
from .samples import level_of

NOISY_GRADES = 2.0
"""Grades that one end must hear worse than it does elsewhere, against the other, for noise to be named."""
EXPLAINED_DB = 6.0
"""An end that hears so much weaker there too hears a weaker signal and not a noisier one."""
LEAST_PLACES = 3
S_UNIT_DB = 6.0
"""IARU Region 1 recommendation R.1."""
POWER_U_DB = 1.0
"""Standard uncertainty of what two radios are said to send, against each other."""


class Noisy(Frozen):
    """A place at which one end hears worse than the path explains."""

    place: str
    end: str
    """away, or home."""
    heard: float
    other: float


class Ends(Frozen):
    """Levels at the far end over those at home, dB, what powers make of that, and noise by place."""

    difference: Figure | None
    by_power_db: float | None
    noisy: tuple[Noisy, ...]


class _Both(Frozen, eq=True):
    """At one place, of all runs: the far end over home in grades and in dB, and what each heard."""

    place_id: str
    grades: float | None
    level_db: float | None
    away: float
    home: float
    meters_u_db: float = 0.0
    """Standard uncertainty of `level_db` by what both ends read it on, the same at every place: nobody knows two meters' S9."""


def ends_of(evidence: Evidence, fixes: Mapping[str, PlaceFix]) -> Ends | None:
    """None where no place was noted from both ends in one run."""
    by_place: dict[str, list[list[Reading]]] = {place.id: [] for place in evidence.places}
    for run in evidence.runs:
        for place_id, readings in evidence.readings_by_place(run.id).items():
            by_place.setdefault(place_id, []).append(readings)
    every = (_at(place_id, runs) for place_id, runs in by_place.items() if runs and not _sky(fixes, place_id))
    there = [one for one in every if one is not None]
    if not there:
        return None
    return Ends(_difference(there, _grain_db(evidence)), _by_power(evidence), tuple(_noisy(evidence, fixes, there)))


def _sky(fixes: Mapping[str, PlaceFix], place_id: str) -> bool:
    return place_id in fixes and fixes[place_id].by_sky


def _grade(reading: Reading) -> float | None:
    return float(reading.readability) if reading.readability is not None else 0.0 if not reading.heard else None


def _at(place_id: str, runs: Sequence[Sequence[Reading]]) -> _Both | None:
    """Both ends at one place, by its readings of each run; None where none was noted from both."""
    grades: list[float] = []
    levels: list[float] = []
    meters: list[float] = []
    heard: tuple[list[float], list[float]] = ([], [])
    for mine in runs:
        away, home = ([r for r in mine if r.end == end] for end in ("away", "home"))
        both = [[g for r in end if (g := _grade(r)) is not None] for end in (away, home)]
        if all(both):
            grades.append(mean(both[0]) - mean(both[1]))
            for side, found in zip(heard, both, strict=True):
                side.append(mean(found))
        told = [[t for r in end if (t := level_of(r, {})) is not None] for end in (away, home) if away and home]
        if told and all(told):
            there, here = ([mean(column) for column in zip(*end, strict=True)] for end in told)
            levels.append(there[0] - here[0])
            meters.append(math.hypot(there[2], here[2]))
    if not grades and not levels:
        return None
    means = [float(np.mean(side)) if side else math.nan for side in heard]
    return _Both(
        place_id,
        float(np.mean(grades)) if grades else None,
        float(np.mean(levels)) if levels else None,
        means[0],
        means[1],
        float(np.mean(meters)) if meters else 0.0,
    )


def _grain_db(evidence: Evidence) -> float:
    """What the levels were noted in: S units of 6 dB, where people said them, else whole decibels."""
    for run in evidence.runs:
        for reading in evidence.readings(run.id):
            try:
                if said(reading.as_typed).strength:
                    return S_UNIT_DB
            except UnitError:
                continue
    return 1.0


def _difference(there: Sequence[_Both], step_db: float) -> Figure | None:
    each = np.array([one.level_db for one in there if one.level_db is not None])
    if len(each) < LEAST_PLACES:
        return None
    u = float(each.std(ddof=1)) / math.sqrt(len(each))
    grain = step_db / math.sqrt(12.0) * math.sqrt(2.0 / len(each))
    meters = float(np.mean([one.meters_u_db for one in there if one.level_db is not None]))
    parts = [
        ("scatter between places", show.decibel(u, 2)),
        (f"read in steps of {step_db:g} dB", show.decibel(grain, 2)),
    ]
    if meters:
        parts.append(("two meters, S9 and units of each", show.decibel(meters, 2)))
    # Only the scatter is told by so few places (Welch and Satterthwaite, JCGM 100 §G.4).
    degrees = (len(each) - 1.0) * (math.hypot(u, grain, meters) / u) ** 4 if u > 0 else math.inf
    working = Working(
        (
            f"{show.count(len(each), 'place')} at which both ends told a level",
            f"mean {show.decibel(float(each.mean()))}",
        ),
        tuple(parts),
        "the path is the same both ways (reciprocity)",
        "What is left once powers are taken out is a receiver, a loss at one end, or noise.",
    )
    return Figure("the far end over home", float(each.mean()), math.hypot(u, grain, meters), "dB", working, degrees)


def _by_power(evidence: Evidence) -> float | None:
    """What home sends over what the far end sends, dB; None where either is not noted."""
    far = evidence.far_end
    powers = {run.power_w for run in evidence.runs if run.power_w}
    if far is None or not far.power_w or len(powers) != 1:
        return None
    return float(power_db(powers.pop() / far.power_w))


def _noisy(evidence: Evidence, fixes: Mapping[str, PlaceFix], there: Sequence[_Both]) -> list[Noisy]:
    graded = [one for one in there if one.grades is not None]
    if len(graded) < LEAST_PLACES:
        return []
    usual = median([one.grades or 0.0 for one in graded])
    levels = [one.level_db for one in there if one.level_db is not None]
    usual_db = median(levels) if levels else 0.0
    out = []
    for one in sorted(graded, key=lambda o: fixes[o.place_id].distance.value if o.place_id in fixes else math.inf):
        off = (one.grades or 0.0) - usual
        weaker = (one.level_db - usual_db) * math.copysign(1.0, off) if one.level_db is not None else 0.0
        if abs(off) < NOISY_GRADES or weaker >= EXPLAINED_DB:
            continue
        name = evidence.title(one.place_id)
        pair = (one.away, one.home) if off < 0 else (one.home, one.away)
        out.append(Noisy(name, "away" if off < 0 else "home", *pair))
    return out


def ends_checks(ends: Ends | None) -> list[Check]:
    """What powers explain, and noise with its place."""
    if ends is None:
        return []
    out = []
    if ends.difference is not None:
        d, by_power = ends.difference, ends.by_power_db
        if by_power is None:
            out.append(Check("open", f"the far end hears {d.text} over home: note both powers", d))
        else:
            left = Figure(
                "beyond the powers", d.value - by_power, math.hypot(d.u, POWER_U_DB), "dB", d.working, d.degrees
            )
            low, high = left.interval
            words = f"the far end hears {d.text} over home, the powers make {show.plus(by_power, 0)} dB"
            mark: Mark = "holds" if low <= 0 <= high else "disagrees"
            why = f"Beyond the powers {left.text}: a receiver, a feed, or noise that hides the weak ones."
            out.append(Check(mark, words, left, why if mark == "disagrees" else ""))
    for end in ("away", "home"):
        mine = [n for n in ends.noisy if n.end == end]
        if mine:
            where = show.join([n.place for n in mine])
            who, other = ("the far end", "home") if end == "away" else ("home", "the far end")
            words = f"noise at {who}, at {where}"
            told = "; ".join(f"{n.place}: {who} hears {n.heard:g}, {other} {n.other:g}" for n in mine)
            why = f"{told}. The path is the same both ways, so what is worse at one end only is noise there."
            out.append(Check("open", words, None, why))
    return out
