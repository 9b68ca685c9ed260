"""A link as a staircase: levels step by step with the interval of each, and every limit on the way.

`climb` is quick enough to follow a hand: thirty steps with ten thousand draws in less than a frame.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen, field
from tallmast.physics.decibels import watt_from_dbm
from tallmast.physics.statistics import DRAWS, normal_draws, rectangle_draws
from tallmast.units import show

from ..figure import CONFIDENCE, Check, Figure, Mark, Working

Part = Literal["near", "path", "far"]
Direction = Literal["out", "back"]


class Limit(Frozen, eq=True):
    """A level that a step must stay under or over. `hard`: something breaks, or a law does."""

    name: str
    level_dbm: float
    side: Literal["under", "over"]
    where: Literal["before", "after"] = "after"
    hard: bool = False
    u_db: float = 0.0


class Planned(Frozen, eq=True):
    """One step of a link before it is climbed: the change it makes, and how well that is known.

    The first step's change is the transmitter's level. `rectangle_db` is the half-width of a maker's tolerance.
    """

    key: str
    name: str
    change_db: float
    u_db: float = 0.0
    rectangle_db: float = 0.0
    part: Part = "near"
    rating_w: float | None = None
    limits: tuple[Limit, ...] = ()
    least_db: float | None = None
    """Least and most change that a hand may give it; None: it can't be moved."""
    most_db: float | None = None
    grain_db: float = 0.5
    """It moves by so much at a time."""

    @property
    def movable(self) -> bool:
        return self.least_db is not None and self.most_db is not None

    def held(self, change_db: float) -> float:
        """A wanted change, on its grain and within its ends."""
        if self.least_db is None or self.most_db is None:
            return self.change_db
        return min(max(round(change_db / self.grain_db) * self.grain_db, self.least_db), self.most_db)


class Plan(Frozen, eq=True):
    """A link in one direction. `changed`: steps that are tried at another value, by key."""

    direction: Direction
    steps: tuple[Planned, ...]
    duty: float = 1.0
    basis: str = ""
    """Where the path's loss comes from."""
    changed: Mapping[str, float] = field(default_factory=dict)


class Step(Frozen):
    """One step climbed: the level after it, with its 90 % interval."""

    key: str
    name: str
    change_db: float
    level_dbm: float
    u_db: float
    low_dbm: float = math.nan
    high_dbm: float = math.nan
    part: Part = "near"
    dissipated_w: float | None = None
    rating_w: float | None = None
    tried: bool = False

    @property
    def mark(self) -> Mark | None:
        """Whether a pad stays inside its rating; None for what has none."""
        if self.dissipated_w is None or self.rating_w is None:
            return None
        return "holds" if self.dissipated_w <= self.rating_w else "fails"


class LimitMargin(Frozen):
    """A limit as met: how many decibels are left, with their interval; below zero it is broken."""

    limit: Limit
    step: int
    spare_db: float
    low_db: float
    high_db: float

    @property
    def mark(self) -> Mark:
        """Holds with all of its interval, fails with all of it, else in doubt."""
        return "holds" if self.low_db >= 0 else "fails" if self.high_db < 0 else "disagrees"


class Staircase(Frozen):
    plan: Plan
    steps: tuple[Step, ...]
    met: tuple[LimitMargin, ...]
    """Tightest first."""

    @property
    def tightest(self) -> LimitMargin | None:
        return self.met[0] if self.met else None

    @property
    def end(self) -> Figure:
        """The level at the end, with its interval and what it is made of."""
        return self.figure(len(self.steps) - 1)

    def figure(self, at: int) -> Figure:
        """The level after a step."""
        last = self.steps[at]
        lines = [
            f"{s.name[:16]:<16} {show.plus(s.change_db, 1) if i else show.fixed(s.level_dbm, 1)}{'  tried' if s.tried else ''}"
            for i, s in enumerate(self.steps[: at + 1])
        ]
        uncertainties = sorted(
            ((p.name, math.hypot(p.u_db, p.rectangle_db / math.sqrt(3.0))) for p in self.plan.steps[: at + 1]),
            key=lambda row: -row[1],
        )
        beyond = any(step.part == "path" for step in self.steps[: at + 1])
        return Figure(
            f"level after {last.name}",
            last.level_dbm,
            last.u_db,
            "dBm",
            Working(
                (*lines, f"= {show.level(last.level_dbm)}"),
                tuple((name, f"{u:.2f} dB") for name, u in uncertainties if u > 0.01 * last.u_db),
                f"sum in decibels; interval from {DRAWS // 1000} 000 draws, tolerances as rectangles (JCGM 101)",
                f"The path: {self.plan.basis}." if beyond else f"= {show.power(watt_from_dbm(last.level_dbm))}.",
            ),
            low=last.low_dbm,
            high=last.high_dbm,
            digits=1,
        )


def _quantiles(rows: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Ends of the interval that holds nine in ten, row by row."""
    tail = (1.0 - CONFIDENCE) / 2.0
    low, high = int(tail * rows.shape[1]), int((1.0 - tail) * rows.shape[1])
    found = np.partition(rows, (low, high), axis=1)
    return found[:, low].astype(float), found[:, high].astype(float)


def _deviations(steps: Sequence[Planned]) -> np.ndarray:
    """[step, draw]: how far off the level after each step may be. Steps without uncertainty draw nothing."""
    # Seven digits are plenty for a quantile of ten thousand draws, and half the work.
    out = np.zeros((len(steps), DRAWS), dtype=np.float32)
    for i, step in enumerate(steps):
        if i:
            out[i] = out[i - 1]
        if step.u_db:
            out[i] += np.float32(step.u_db) * normal_draws(i)
        if step.rectangle_db:
            out[i] += np.float32(step.rectangle_db) * rectangle_draws(i)
    return out


def climb(plan: Plan) -> Staircase:
    """Levels, intervals and limits of a plan, its tried changes put in."""
    planned = plan.steps
    change = np.array([plan.changed.get(p.key, p.change_db) for p in planned])
    level = np.cumsum(change)
    deviation = _deviations(planned)
    low, high = _quantiles(deviation)
    variance = np.cumsum([p.u_db**2 + p.rectangle_db**2 / 3.0 for p in planned])
    steps, met = [], []
    for i, p in enumerate(planned):
        before = level[i - 1] if i else level[0]
        lost = None
        if p.rating_w is not None and i:
            lost = max(watt_from_dbm(before) - watt_from_dbm(level[i]), 0.0) * plan.duty
            if lost > 0:
                spare = 10.0 * math.log10(p.rating_w / lost)
                met.append(
                    LimitMargin(
                        Limit(f"what {p.name} bears", before + spare, "under", "before", True),
                        i,
                        spare,
                        spare - high[i - 1],
                        spare - low[i - 1],
                    )
                )
        for limit in p.limits:
            at = i if limit.where == "after" or not i else i - 1
            sign = 1.0 if limit.side == "under" else -1.0
            spare = sign * (limit.level_dbm - level[at])
            ends = (spare - sign * high[at], spare - sign * low[at])
            wide = math.hypot((max(ends) - min(ends)) / 2.0, 1.645 * limit.u_db) - (max(ends) - min(ends)) / 2.0
            met.append(LimitMargin(limit, at, spare, min(ends) - wide, max(ends) + wide))
        steps.append(
            Step(
                p.key,
                p.name,
                float(change[i]),
                float(level[i]),
                math.sqrt(variance[i]),
                float(level[i] + low[i]),
                float(level[i] + high[i]),
                p.part,
                lost,
                p.rating_w,
                p.key in plan.changed,
            )
        )
    return Staircase(plan, tuple(steps), tuple(sorted(met, key=lambda m: m.spare_db)))


def with_more_power(met: LimitMargin, more_db: float) -> LimitMargin:
    """The same limit with so much more power arriving."""
    change = more_db if met.limit.side == "over" else -more_db
    return replace(met, spare_db=met.spare_db + change, low_db=met.low_db + change, high_db=met.high_db + change)


def limit_check(met: LimitMargin, in_test: LimitMargin | None = None) -> Check:
    """A limit as a tag; `in_test`: the same as it is in a reduced test, where that differs."""
    words = f"{met.limit.name}: {_spare_words(met)}" + (" at full power" if in_test is not None else "")
    level = met.limit.level_dbm + (-met.spare_db if met.limit.side == "under" else met.spare_db)
    lines = [
        f"limit {show.level(met.limit.level_dbm)}, must stay {met.limit.side} it",
        f"level {show.level(level)}{' at full power' if in_test is not None else ''}",
        f"to spare {show.plus(met.spare_db, 1)} dB",
    ]
    if in_test is not None:
        lines.append(f"in the test {_spare_words(in_test)}")
    working = Working(
        tuple(lines),
        (),
        "levels on the staircase",
        "Below zero the limit is broken. The interval holds nine times in ten.",
    )
    return Check(
        met.mark,
        words,
        Figure(
            f"to spare: {met.limit.name}", met.spare_db, 0.0, "dB", working, low=met.low_db, high=met.high_db, digits=1
        ),
    )


def _spare_words(met: LimitMargin) -> str:
    tail = "to spare" if met.spare_db >= 0 else "short" if met.limit.side == "over" else "over"
    return f"{show.decibel(abs(met.spare_db))} {tail}"
