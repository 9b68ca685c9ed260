"""What a field that does not fit the physics points to: each cause that would do it, tried on what else the notebook has."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import Literal

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import CIRCULAR, Radio
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..field.group import Group
from ..field.model.weighed import pads_known
from ..field.path import PathFit
from ..figure import Mark
from .budget import Ask
from .residual import Against, Key, Residual

CauseKey = Literal["pad", "polarization", "pointing", "gain", "cable", "stands", "overload", "ground", "far"]
STEP_DB, LEAST_PLACES = 5.0, 3
"""From so large a drop on, with so many places before and behind it, something is said to stand there."""
STEP_GAIN = 0.55
"""A step explains it where it leaves at most so much of the squares that a slope leaves."""
NEAR_OVERLOAD_DB = 6.0
USUAL_OVERLOAD_DBM = -35.0
"""Where nobody noted where the receiver overloads, such receivers begin to."""
CROSSED_DB, HALF_CIRCULAR_DB = 20.0, 3.0
Whose = Literal["own", "common", "unknown"]


class Cause(Frozen):
    """One thing that would do it."""

    key: CauseKey
    mark: Mark
    """holds: it would do just this, and what else is known goes with it; open: it may; fails: what else is known speaks against it."""
    words: str
    tell: str
    """What would tell."""


def whose(mine: Residual, others: Sequence[Residual], key: Key) -> Whose:
    """Whether what is off is this antenna's own: the others fit where it does not; or common to all that were run."""
    own, off = mine.of(key), [r.of(key) for r in others]
    known = [one for one in off if one is not None]
    if own is None or not known:
        return "unknown"
    gaps = [own.level.value - one.level.value for one in known]
    u = [math.hypot(own.own_u_db, one.own_u_db) for one in known]
    gap, gap_u = float(np.mean(gaps)), math.hypot(float(np.mean(u)), 0.5)
    k = coverage_factor(math.inf)
    if abs(gap) > k * gap_u and abs(gap) > 0.5 * abs(own.level.value):
        return "own"
    return "common" if abs(gap) + k * gap_u < abs(own.level.value) else "unknown"


def step_of(fit: PathFit, model_db: Floats) -> tuple[float, float] | None:
    """(distance m, drop dB) where the places behind lie lower at once, and no slope says it as well; None where they do not."""
    rest = fit.place_db - (model_db - float(np.mean(model_db)))
    n = len(rest)
    if n < 2 * LEAST_PLACES:
        return None
    x = np.log(fit.place_m) - float(np.mean(np.log(fit.place_m)))
    sloped = rest - rest.mean() - x * float(np.sum(x * rest) / np.sum(x * x))
    best: tuple[float, float, float] | None = None
    for at in range(LEAST_PLACES, n - LEAST_PLACES + 1):
        near, far = rest[:at], rest[at:]
        squares = float(np.sum((near - near.mean()) ** 2) + np.sum((far - far.mean()) ** 2))
        if best is None or squares < best[0]:
            best = (squares, float(math.sqrt(fit.place_m[at - 1] * fit.place_m[at])), float(near.mean() - far.mean()))
    assert best is not None
    squares, where, drop = best
    if drop < STEP_DB or squares > STEP_GAIN * float(np.sum(sloped**2)):
        return None
    return where, drop


def causes_of(
    ask: Ask, mine: Residual, others: Sequence[Residual], fit: PathFit, strongest_dbm: float
) -> tuple[Cause, ...]:
    """What would do it, the likeliest first; nothing where the field fits."""
    best = mine.best
    if best.fits:
        return ()
    made = list(_by_slope(ask, best, fit, strongest_dbm))
    if not best.at_level:
        made += _by_level(ask, mine, whose(mine, others, best.key), len(others))
    order: dict[Mark, int] = {"holds": 0, "open": 1, "disagrees": 1, "fails": 2}
    return tuple(sorted(made, key=lambda one: order[one.mark]))


def _by_slope(ask: Ask, best: Against, fit: PathFit, strongest_dbm: float) -> Iterator[Cause]:
    """What bends a path."""
    step = step_of(fit, best.model_db)
    if step is not None:
        where, drop = step
        noted = [o for o in ask.way.profile.obstacles if abs(o.from_m - where) < 0.25 * where]
        words = f"from {show.distance(where)} on the places lie {show.decibel(drop, 0)} lower at once"
        stands = f", where {noted[0].title} is noted" if noted else ": something stands there, a ridge, a house, woods"
        yield Cause(
            "stands",
            "holds",
            words + stands,
            "Note it on Link (B), or bring heights in: what it takes is then reckoned.",
        )
    radios = [r.overload_dbm for r in ask.evidence.all(Radio) if r.overload_dbm is not None]
    overload = min(radios, default=USUAL_OVERLOAD_DBM)
    if not best.falls_alike and best.slope.value < 0.0 and strongest_dbm > overload - NEAR_OVERLOAD_DB:
        noted_words = "where it overloads" if radios else "where such receivers begin to overload"
        yield Cause(
            "overload",
            "holds" if radios and strongest_dbm > overload else "open",
            f"the strongest places read {show.decibel(strongest_dbm, 0, 'dBm')}, {noted_words}: they are pressed down",
            "Read the near places once more through a pad of 10 dB: all of it must come off.",
        )
    if not best.falls_alike and best.slope.value > 0.0 and step is None and best.key != "plane":
        yield Cause(
            "ground",
            "open",
            f"it falls faster than {best.name}: the ground reflects, or more stands in the way the farther it is",
            "Raise one end by a metre at the farthest place: over reflecting ground it grows stronger.",
        )


def _by_level(ask: Ask, mine: Residual, which: Whose, others: int) -> Iterator[Cause]:
    """What takes or adds the same everywhere."""
    best = mine.best
    off, half, weaker = best.level.value, best.level.half, best.level.value < 0
    yield from _pads(ask, off, half, which)
    if which != "common":
        yield from _of_the_antenna(ask, mine, off, half)
    if which == "own":
        return
    alike = (
        f"all {others + 1} antennas are off alike" if which == "common" and others else "nothing else was run beside it"
    )
    if weaker:
        loss = ask.near.cable_loss_db
        yield Cause(
            "cable",
            "open",
            f"{alike}: the home cable may take more than the {show.decibel(loss)} noted",
            "Sweep the cable with its end open (Bench): half of the return loss is what it takes.",
        )
    yield Cause(
        "far",
        "open",
        f"{alike}: what is sent, or what {ask.far.name} reads, may be {'less' if weaker else 'more'} than noted",
        "Measure what is sent behind a known pad, or step the display through decibels (Levels).",
    )


def _pads(ask: Ask, off: float, half: float, which: Whose) -> Iterator[Cause]:
    fitting = [pad for pad in pads_known(ask.evidence) if abs(abs(off) - pad) <= half]
    if not fitting or which == "own":
        return
    pad = min(fitting, key=lambda one: abs(abs(off) - one))
    there = "stood in the way and is not noted" if off < 0 else "is noted and was not there"
    yield Cause(
        "pad",
        "holds" if half < 0.5 * pad else "open",
        f"a pad of {pad:g} dB that {there} would be just that",
        "Look at what is screwed on, and run once more with it noted.",
    )


def _of_the_antenna(ask: Ask, mine: Residual, off: float, half: float) -> Iterator[Cause]:
    """What only this antenna would have: where it looks, how it is polarized, a gain that is but claimed."""
    antenna, far = mine.antenna, ask.far
    weaker = off < 0
    kinds = antenna.polarization, far.polarization
    if weaker and "unknown" in kinds:
        circular = any(kind in CIRCULAR for kind in kinds)
        takes = HALF_CIRCULAR_DB if circular else CROSSED_DB
        fits = abs(-off - takes) <= max(half, 1.0) if circular else -off <= takes + half
        yield Cause(
            "polarization",
            "open" if fits else "fails",
            f"one end’s polarization is not noted: {'a circle against a line takes 3 dB' if circular else 'crossed ends take up to 20 dB'}",
            "Turn one end by 90° and read again.",
        )
    one = ask.mounted.get(antenna.id)
    if weaker and one is not None and one.looks_deg is None and not one.all_round:
        turned = np.arange(0.0, 181.0, 1.0)
        level = one.level_db(turned, 0.0, 0.0)
        past = np.flatnonzero(level <= off)
        if len(past):
            yield Cause(
                "pointing",
                "open",
                f"nobody noted where {antenna.name} looked: {turned[past[0]]:.0f}° past the place would take it",
                "Turn it slowly at one place and note where it is strongest.",
            )
    gain = ask.gains[antenna.id]
    if gain.combined is None and (gain.claimed_dbi is not None or gain.guessed):
        known = "is as its maker claims" if gain.claimed_dbi is not None else "is a guess"
        yield Cause(
            "gain",
            "open",
            f"the gain of {antenna.name} {known}: {show.decibel(abs(off))} {'less' if weaker else 'more'} would be it",
            "Run a reference antenna over the same places.",
        )


def pointed_to(ask: Ask, group: Group | None, mine: Residual | None, others: Sequence[Residual]) -> tuple[Cause, ...]:
    """The causes for the antenna that is looked at; nothing of one that was not run."""
    if mine is None or group is None or group.fit is None:
        return ()
    levels = [group.fit.at_mean_dbm(tried) + float(group.fit.place_db.max()) for tried in group.fit.at_1km_dbm]
    return causes_of(ask, mine, others, group.fit, max(levels))


def likeliest(found: Sequence[Cause]) -> str:
    """` A pad of 10 dB … would be just that.`: the likeliest, to stand behind a sentence; nothing where there is none."""
    first = next((one for one in found if one.mark != "fails"), None)
    return f" {show.upper_first(first.words)}." if first is not None else ""
