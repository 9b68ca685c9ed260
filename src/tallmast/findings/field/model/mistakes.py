"""Mistakes of the trade as other models of the same notes, each with its odds against that nothing is wrong.

A pad that was left out of a run, or put in twice, moves that run by just its value, at every place and in every kind of reading;
so each is a day of its own, and its evidence says how much likelier the notes are under it. What the design can't part (in A B B A a
pad left out of the second is one put in twice in the fourth) comes out alike and is named together.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Literal

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.physics.design import Change
from tallmast.physics.nested_laplace import Marginal, mixed

from . import priors
from .day import Day, day_of
from .noted import RunOfDay

Kind = Literal["pad left out", "pad in twice", "power of another run", "connector loose"]
SURE = 30.0
"""A mistake is named when the notes are so many times as likely under it; and with it all that are no less likely than that by the same."""
CHANCE, IN_ALL = 0.02, 0.16
"""Of each, before anything was noted, and at most of all together, however many could have been made."""
LEAST_DB = 3.0
"""What moves a run by less can't be told from a run that happened so."""
MOST_TRIED, POINTS = 12, 12
LEAST_ODDS, LOOSE_ODDS = 0.3, 3.0
"""By the day as it was noted: what is less likely than that is not tried as a day of its own; a loose connector, of which nothing in the
notes tells that there was one to be loose, only where they speak for it."""
LOOSE_DB = (15.0, 20.0, 25.0)
"""What a lost connector takes, by the accounts of those who had one."""
MOST_LOG = 500.0
"""Of odds: more is as good as certain."""
NEGLIGIBLE = 0.002
"""A day of so little weight in the mixture is left out of it."""


class Mistake(Frozen, eq=True):
    """What may have gone wrong in one run."""

    kind: Kind
    run: int
    """Its place among the runs."""
    by_db: float
    """What it added to the level of that run against what was noted."""


class Suspected(Frozen):
    """A mistake, the odds of it against that nothing is wrong, and the day as it would be then."""

    mistake: Mistake
    odds: float
    day: Day


class Judged(Frozen):
    """A day with all that may have gone wrong in it."""

    day: Day
    """As it was noted."""
    pads: list[float]
    """Attenuations that somebody could have left out or in, dB."""
    suspected: tuple[Suspected, ...]
    """Those likely enough to be named, the likeliest first."""
    possible: tuple[Suspected, ...]
    """All that were weighed: with two runs a pad left out of one may well be all that the one has over the other, and nothing tells."""

    def _parts(self) -> tuple[list[Day], list[float]]:
        days = [self.day, *(s.day for s in self.possible)]
        each = min(CHANCE, IN_ALL / max(len(self.possible), 1))
        weights = np.array([1.0 - each * len(self.possible), *(each * s.odds for s in self.possible)])
        weights /= weights.sum()
        kept = [(d, w) for d, w in zip(days, weights.tolist(), strict=True) if w > NEGLIGIBLE]
        return [d for d, _ in kept], [w for _, w in kept]

    @property
    def plain(self) -> bool:
        """Whether nothing is likely enough to have gone wrong to count."""
        return len(self._parts()[0]) == 1

    def change(self, changes: Sequence[Change], here: bool = False, scanned: bool = True) -> Marginal:
        """What some changes do, dB, until somebody settles what went wrong: each of it with its chance."""
        days, weights = self._parts()
        told = [d.here(changes, scanned) if here else d.change(changes, scanned) for d in days]
        return mixed(told, weights) if len(told) > 1 else told[0]


def candidates(runs: Sequence[RunOfDay], pads: Iterable[float], runs_said: Iterable[int]) -> list[Mistake]:
    """Every pad that a run is noted with may have been left out, or in twice; every other may have been in; its power may have been
    that of another run."""
    known = sorted({round(p, 1) for p in pads if p >= LEAST_DB})
    powers = {round(r.power_db, 1) for r in runs}
    out: list[Mistake] = []
    for i in runs_said:
        run = runs[i]
        if run.pads_db >= LEAST_DB:
            out += [Mistake("pad left out", i, run.pads_db), Mistake("pad in twice", i, -run.pads_db)]
            out += [Mistake("pad left out", i, p) for p in known if p < run.pads_db - 0.5]
        out += [Mistake("pad in twice", i, -p) for p in known if abs(p - run.pads_db) > 0.5]
        out += [
            Mistake("power of another run", i, p - run.power_db) for p in powers if abs(p - run.power_db) >= LEAST_DB
        ]
        out += [Mistake("connector loose", i, -db) for db in LOOSE_DB]
    return list({(m.run, m.by_db): m for m in reversed(out)}.values())[::-1][: MOST_TRIED * 4]


def judge(day: Day, pads: list[float]) -> Judged:
    """The day with what may have gone wrong in it, if anything is likely enough to be named. Tried first by the day as it was noted; those
    that would explain it are weighed as days of their own."""
    runs, said = day.model.runs, day.model.said
    tried = candidates(runs, pads, sorted({n.run for n in said}))
    rough = _rough_odds(day, tried)
    least = {"connector loose": LOOSE_ODDS}
    likely = sorted((p for p in rough if p[1] > least.get(p[0].kind, LEAST_ODDS)), key=lambda pair: -pair[1])[
        :MOST_TRIED
    ]
    found = []
    for mistake, _ in likely:
        other = day_of(_with(runs, mistake), said, day.posterior.near, POINTS)
        assert other is not None
        odds = math.exp(min(other.posterior.log_evidence - day.posterior.log_evidence, 300.0))
        found.append(Suspected(mistake, odds, other))
    found.sort(key=lambda s: -s.odds)
    named = tuple(s for s in found if s.odds >= found[0].odds / SURE) if found and found[0].odds >= SURE else ()
    return Judged(day, pads, named, tuple(found))


def _rough_odds(day: Day, tried: Sequence[Mistake]) -> list[tuple[Mistake, float]]:
    """The odds of each by what the day as it was noted says of that run's own luck r ~ N(m, v), whose spread is σ: what all notes but
    the prior say of it is e ± s, 1/s² = 1/v − 1/σ², e = m·s²/v, and D added to it is as likely as N(e; D, σ₀² + s²) / N(e; 0, σ² + s²),
    σ₀ what it is usually, where σ has swollen to take the mistake in."""
    notes, points = day.model.notes, day.posterior.points
    latents = {m.run: notes.latents[("run", m.run)] for m in tried if ("run", m.run) in notes.latents}
    if not latents:
        return []
    columns = list(latents.values())
    unit = np.zeros((day.posterior.latents, len(columns)))
    unit[columns, range(len(columns))] = 1.0
    carried = points.modes.matrix.solve(np.repeat(unit[None], len(points.weight), axis=0))
    spread = np.exp(2.0 * points.modes.phi[:, notes.hypers["run"]])
    usual = np.minimum(spread, priors.RUN.median**2)
    out = []
    for mistake in tried:
        if mistake.run not in latents:
            continue
        k = list(latents).index(mistake.run)
        mean, v = points.modes.x[:, columns[k]], carried[:, columns[k], k]
        s2 = 1.0 / np.maximum(1.0 / v - 1.0 / spread, 1e-6)
        e = mean * s2 / v
        log = 0.5 * e**2 / (spread + s2) - 0.5 * (e - mistake.by_db) ** 2 / (usual + s2)
        odds = np.sqrt((spread + s2) / (usual + s2)) * np.exp(np.minimum(log, MOST_LOG))
        out.append((mistake, float(points.weight @ odds)))
    return out


def _with(runs: Sequence[RunOfDay], mistake: Mistake) -> list[RunOfDay]:
    """The runs as they would have been."""
    out = list(runs)
    run = out[mistake.run]
    if mistake.kind == "power of another run":
        out[mistake.run] = replace(run, power_db=run.power_db + mistake.by_db)
    else:
        out[mistake.run] = replace(run, pad_db=run.pad_db + mistake.by_db)
    return out
