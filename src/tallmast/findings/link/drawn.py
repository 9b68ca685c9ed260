"""Levels over distance with the settings of the runs: what the budget predicts, what the field gave, what is fitted."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna
from tallmast.physics import propagation
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..field import FieldFinding
from ..field.group import Group
from ..field.samples import RunSamples, by_cell
from ..figure import Figure, Working, parts_of
from ..rails import exponent_trouble
from .budget import ASSUMED_SCATTER_DB, Ask, fixed_budget
from .residual import Residual

if TYPE_CHECKING:
    from uncertainties import UFloat


class Drawn(Frozen):
    """Levels over distance with the settings of the runs that are compared."""

    power_w: float
    pad_db: float
    distance_m: Floats
    free_dbm: Floats
    """Free space, with the half-width of its fan, and plane earth: all [n]."""
    fan_db: Floats
    earth_dbm: Floats
    fitted: tuple[Floats, Floats] | None
    points: tuple[Floats, Floats] | None
    """Distance and level of each place that the focus was heard at."""
    residual: Figure | None
    budget: Figure


def draw(
    ask: Ask, field: FieldFinding, focus: Antenna, tested: tuple[float, float], residual: Residual | None
) -> Drawn:
    """The budget over distance beside what the field gave, with the settings of the runs."""
    group, way, hz = ask.group, ask.way, ask.frequency_hz
    fit = group.fit if group else None
    total, lines = fixed_budget(ask, focus, *tested)
    base, base_u = float(total.nominal_value), float(total.std_dev)
    scatter = fit.scatter_db if fit else ASSUMED_SCATTER_DB
    samples = _samples(field, group, focus)
    nearest = min((float(s.distance_m.min()) for s in samples), default=100.0)
    distance = way.distance_m
    d = np.geomspace(max(min(nearest, distance / 3), 10.0), max(distance * 1.3, 100.0), 120)
    heights = max(way.profile.home_height_m, 0.5), max(way.profile.away_height_m, 0.5)
    fitted = None
    tried = group.walked(focus.id) if group else None
    if fit and tried is not None and not exponent_trouble(fit.exponent):
        fitted = (d, fit.at_1km_dbm[tried] - 10 * fit.exponent.value * np.log10(d / 1000.0))
    return Drawn(
        *tested,
        d,
        base - propagation.free_space_loss_db(d, hz),
        np.full_like(d, coverage_factor(math.inf) * math.hypot(base_u, scatter)),
        base - propagation.plane_earth_loss_db(d, *heights, hz),
        fitted,
        _points(samples),
        residual.free.level if residual is not None else None,
        _free_space(total, lines, distance, hz),
    )


def _samples(field: FieldFinding, group: Group | None, antenna: Antenna) -> list[RunSamples]:
    """What was heard of an antenna, in the state that is compared, in the runs of a group."""
    if group is None:
        return []
    tried = group.tried(antenna.id)
    mine = [s.at_distance for s in field.samples if s.run.id in group.run_ids and s.tried == tried]
    return [s for s in mine if len(s.distance_m)]


def _points(samples: list[RunSamples]) -> tuple[Floats, Floats] | None:
    """(distance, level) of each cell, the runs' mean."""
    if not samples:
        return None
    cells = by_cell(samples)
    good = np.isfinite(cells.level_dbm).any(axis=0)
    return cells.distance_m[good], np.nanmean(cells.level_dbm[:, good], axis=0)


def _free_space(total: UFloat, lines: list[str], distance_m: float, frequency_hz: float) -> Figure:
    """The level at the place over an open path, with the settings of the runs."""
    loss = float(propagation.free_space_loss_db(distance_m, frequency_hz))
    level = float(total.nominal_value) - loss
    working = Working(
        (*lines, f"free space {show.fixed(-loss, 1)} dB", f"= {show.decibel(level, unit='dBm')}"),
        parts_of(total, "dB"),
        "Rec. ITU-R P.525; Friis 1946",
        "The most that an open path gives with the settings of the runs.",
    )
    name = f"level at {show.distance(distance_m)} in free space"
    return Figure(name, level, float(total.std_dev), "dBm", working)
