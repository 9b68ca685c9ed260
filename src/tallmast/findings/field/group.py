"""Runs of one manner: what their levels say of the path, of repeats and of known steps."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats

from .path import PathFit, fit
from .runs import RunRow, Tried
from .samples import HOME_END, Cells, RunSamples, by_cell
from .settings import setting_of, steps_db
from .spread import Drift, Levels, RunSpread
from .steps import Step, steps_of


class Group(Frozen):
    """Runs of one manner that can be compared, and what they say."""

    manner: str
    spread: RunSpread
    fit: PathFit | None
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

    def tried(self, antenna_id: str) -> Tried | None:
        """What stands for an antenna here: its present state, where that was run, else the one that was run last."""
        return next((t for t in reversed(self.names) if t[0] == antenna_id), None)

    def walked(self, antenna_id: str) -> Tried | None:
        """What stands for an antenna in the path as fitted; None where it made no run that is in it, or the zero of what the
        levels were read on is not known."""
        tried = self.tried(antenna_id)
        known = self.fit is not None and math.isfinite(self.shared_u_db)
        return tried if self.fit is not None and known and tried in self.fit.at_1km_dbm else None


def _without(cells: Cells, power: Floats, pads: Floats) -> Cells:
    """With known steps of power and pads taken out; what home hears the far end sends, so home's power is not in it."""
    if not (power.any() or pads.any()):
        return cells
    away = cells.numbers > -HOME_END
    level = cells.level_dbm - pads[:, None] - np.where(away, power[:, None], 0.0)
    return replace(cells, level_dbm=level, floor_dbm=cells.floor_dbm - power - pads)


def group_of(rows: list[RunRow], samples: dict[str, RunSamples], names: dict[Tried, str]) -> Group | None:
    """What the runs of one manner say; None where none of them heard a level. `names` of all that was tried anywhere."""
    mine = [row for row in rows if row.run.id in samples and samples[row.run.id].heard.any()]
    base = next((row for row in rows if row.verdict == "baseline"), rows[0])
    alike = [row for row in mine if row.same_in_db]
    if not alike:
        return None
    raw, (power, pads_db) = by_cell([samples[row.run.id] for row in mine]), steps_db(mine, base)
    settings = [setting_of(row, base, samples[row.run.id].tried) for row in mine]
    levels = Levels(_without(raw, power, pads_db), settings, base.kinds)
    same = [i for i, row in enumerate(mine) if row.same_in_db]
    fitted = levels.cells.only(np.asarray(levels.cells.visited[same].any(axis=0)), same)
    here = {samples[row.run.id].tried for row in mine}
    return Group(
        base.run.manner,
        levels.spread,
        fit(fitted, levels.spread),
        base.run.power_w,
        base.run.pad_db,
        tuple(row.run.id for row in alike),
        {tried: name for tried, name in names.items() if tried in here},
        max(samples[row.run.id].shared_u_db for row in alike),
        levels.cells.unit_u,
        levels.drift,
        steps_of(raw, levels, power + pads_db),
    )
