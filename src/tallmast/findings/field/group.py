"""Runs of one manner: what their levels say of every factor, and of the path."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats

from ..figure import Figure
from . import outliers
from .contrasts import Compared, Contrast, with_legs
from .outliers import Outlier
from .path import PathFit, fit
from .runs import ANTENNA, FactorKind, RunRow, Tried
from .samples import HOME_END, Cells, RunSamples, by_cell
from .settings import level_of_tried, sides, steps_db, tried_of
from .spread import Drift, RunSpread
from .steps import Step, steps_of
from .tracks import LEGS


class Group(Frozen):
    """Runs of one manner that can be compared, and what they say."""

    manner: str
    spread: RunSpread
    fit: PathFit | None
    contrasts: tuple[Contrast, ...]
    """Of every factor, between every two of its levels that the runs tell apart, alone or with what changed with them."""
    power_w: float | None
    """Of the baseline, for which the levels stand; None where nobody noted it."""
    pad_db: float
    run_ids: tuple[str, ...]
    names: dict[Tried, str]
    """The antenna's, with its state where that is not its present one."""
    shared_u_db: float = 0.0
    """Of all its levels alike, by the zero of a display: it cancels in differences and stays in every level."""
    unit_u: float = 0.0
    """Relative standard uncertainty of its decibels alike: of S units that nobody stepped."""
    drift: Drift | None = None
    steps: tuple[Step, ...] = ()
    outlier: Outlier | None = None

    @cached_property
    def differences(self) -> dict[tuple[Tried, Tried], Figure]:
        """(A, B), each an antenna in a state, told apart with nothing else changed → A over B, dB."""
        return {
            (tried_of(c.change.to), tried_of(c.change.since)): c.figure
            for c in self.contrasts
            if c.change.factor == ANTENNA and len(c.changes) == 1
        }

    def u_place_db(self, pair: tuple[Tried, Tried]) -> float:
        """What more runs over the same places would leave open of a pair's difference."""
        wanted = tuple(level_of_tried(one) for one in pair)
        found = (c for c in self.contrasts if (c.change.to, c.change.since) == wanted and len(c.changes) == 1)
        return next((c.u_place_db for c in found), 0.0)

    def tried(self, antenna_id: str) -> Tried | None:
        """What stands for an antenna here: its present state, where that was run, else the one that was run last."""
        return next((t for t in reversed(self.names) if t[0] == antenna_id), None)

    def walked(self, antenna_id: str) -> Tried | None:
        """What stands for an antenna in the path as fitted; None where it made no run that is in it, or the zero of what the
        levels were read on is not known."""
        tried = self.tried(antenna_id)
        known = self.fit is not None and math.isfinite(self.shared_u_db)
        return tried if self.fit is not None and known and tried in self.fit.at_1km_dbm else None

    def best_pair(self) -> tuple[Tried, Tried] | None:
        """The best of all against the one that comes next to it; None where nothing can be compared."""
        nearest: dict[Tried, tuple[Tried, Tried]] = {}
        for pair in sorted(self.differences, key=lambda pair: -self.differences[pair].value):
            nearest[pair[0]] = pair
        best = max(nearest.values(), key=lambda pair: self.differences[pair].value, default=None)
        # Each may beat another in a ring, by a few places; then it is told of the one that is ahead.
        return (best[1], best[0]) if best and self.differences[best].value < 0 else best

    def pair_of(self, focus_id: str) -> tuple[Tried, Tried] | None:
        """The pair to speak of: the focus against the best of the others, better one first; where there is no other, against
        itself in another state. Where the focus made no run, the best of all."""
        mine = self.tried(focus_id)
        own = [pair for pair in self.differences if pair[0] == mine]
        pairs = [pair for pair in own if pair[1][0] != focus_id] or own
        if not pairs:
            return self.best_pair()
        nearest = min(pairs, key=lambda pair: self.differences[pair].value)
        return nearest if self.differences[nearest].value >= 0 else (nearest[1], nearest[0])

    def difference(self, antenna_a: str, antenna_b: str) -> Figure | None:
        """A over B by what stands for each of them, dB."""
        a, b = self.tried(antenna_a), self.tried(antenna_b)
        return self.differences.get((a, b)) if a and b else None


def _setting(row: RunRow, base: RunRow, tried: Tried) -> dict[str, str]:
    """Its levels as they count; what somebody said does nothing is as the baseline has it."""
    return (base if row.verdict == "taken in" else row).setting | {ANTENNA: level_of_tried(tried)}


def _without(cells: Cells, power: Floats, pads: Floats) -> Cells:
    """With known steps of power and pads taken out; what home hears the far end sends, so home's power is not in it."""
    if not (power.any() or pads.any()):
        return cells
    away = cells.numbers > -HOME_END
    level = cells.level_dbm - pads[:, None] - np.where(away, power[:, None], 0.0)
    return replace(cells, level_dbm=level, floor_dbm=cells.floor_dbm - power - pads)


def group_of(
    rows: list[RunRow], samples: dict[str, RunSamples], names: dict[Tried, str], pads: Sequence[float] = ()
) -> Group | None:
    """What the runs of one manner say; None where none of them heard a level. `names` of all that was tried anywhere;
    `pads`: attenuations, dB, that somebody could have left out."""
    mine = [row for row in rows if row.run.id in samples and samples[row.run.id].heard.any()]
    base = next((row for row in rows if row.verdict == "baseline"), rows[0])
    alike = [row for row in mine if row.same_in_db]
    if not alike:
        return None
    raw, (power, pads_db) = by_cell([samples[row.run.id] for row in mine]), steps_db(mine, base)
    cells, steps = _without(raw, power, pads_db), power + pads_db
    settings = [_setting(row, base, samples[row.run.id].tried) for row in mine]
    compared = Compared(cells, settings, base.kinds, steps)
    told = with_legs(
        list(_contrasts(compared, names)),
        _on_legs([samples[row.run.id] for row in mine], settings, base.kinds, power, pads_db, names),
    )
    same = [i for i, row in enumerate(mine) if row.same_in_db]
    fitted = cells.only(np.asarray(cells.visited[same].any(axis=0)), same)
    here = {samples[row.run.id].tried for row in mine}
    mine_named = {tried: name for tried, name in names.items() if tried in here}
    return Group(
        base.run.manner,
        compared.spread,
        fit(fitted, compared.spread),
        tuple(told),
        base.run.power_w,
        base.run.pad_db,
        tuple(row.run.id for row in alike),
        mine_named,
        max(samples[row.run.id].shared_u_db for row in alike),
        cells.unit_u,
        compared.drift,
        steps_of(raw, compared, settings, steps),
        outliers.find(compared, pads),
    )


def _on_legs(
    samples: Sequence[RunSamples],
    settings: Sequence[dict[str, str]],
    kinds: Mapping[str, FactorKind],
    power: Floats,
    pads: Floats,
    names: dict[Tried, str],
) -> dict[str, list[Contrast]]:
    """The contrasts on the way out, and on the way back, where most runs turned."""
    turned = [i for i, s in enumerate(samples) if s.leg.max(initial=0) == max(LEGS)]
    if len(turned) < 2 or 2 * len(turned) <= len(samples):
        return {}
    out = {}
    for leg, name in LEGS.items():
        cells = _without(by_cell([samples[i].on_leg(leg) for i in turned]), power[turned], pads[turned])
        compared = Compared(cells, [settings[i] for i in turned], kinds, (power + pads)[turned])
        out[name] = list(_contrasts(compared, names))
    return out


def _contrasts(compared: Compared, names: dict[Tried, str]) -> Iterable[Contrast]:
    """Every two levels of every factor, both ways round."""
    for factor in compared.design.factors:
        for change in compared.changes_of(factor):
            yield from compared.both_ways(change, lambda changes: sides(changes, names))
