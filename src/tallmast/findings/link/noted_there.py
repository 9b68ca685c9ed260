"""What was noted at the place to be reached binds its margin: where it was lost it can't have 20 dB to spare."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna
from tallmast.physics.decibels import dbm_from_watt
from tallmast.physics.nested_laplace import Marginal

from ..field.model.contrasts import plain_figure
from ..field.model.kinds import LOST_BELOW_ONE
from ..field.model.noted import HEARD, Spot
from ..field.runs import ANTENNA
from ..field.settings import tried_of
from ..figure import Figure, Working

if TYPE_CHECKING:
    from .budget import Ask


TAILS, TAILS_THERE = 4.0, 1.0
"""Degrees of freedom of what was reckoned: fewest where it was tried at that very place, which goes before any budget."""


class NotedThere(Frozen):
    """The margin by the day's notes alone, at the power and pads asked for."""

    place: Marginal
    usual: Marginal
    """At any other place as far off."""
    tails: float
    """Degrees of freedom that what was reckoned has beside it."""


def noted_there(ask: Ask, antenna: Antenna, reckoned: bool) -> NotedThere | None:
    """None where the antenna made no run, or nobody noted at the place whether it was enough; of a path that was `reckoned`, not measured,
    what was heard or lost at other distances counts too."""
    judged, wanted = ask.field.judged, ask.field.wanted
    if judged is None or wanted is None:
        return None
    day = judged.day
    mine = [i for i in day.model.order if tried_of(day.model.runs[i].levels.get(ANTENNA, " "))[0] == antenna.id]
    told = [n for n in day.model.said if n.end == "away" and n.kind in (HEARD, *LOST_BELOW_ONE)]
    there = [n for n in told if n.spot.key.endswith(f" {wanted.id}")]
    if not mine or not (there or (reckoned and any(n.spot.distance_m > 0.0 for n in told))):
        return None
    note = next((n for n in reversed(there) if n.run in mine), there[-1]) if there else None
    run = note.run if note is not None and note.run in mine else mine[-1]
    manner, toward = day.model.runs[run].manner, ask.toward_deg if ask.toward_deg is not None else math.nan
    spot = note.spot if note is not None else Spot(f"{manner} {wanted.id}", ask.distance_m, toward)
    more = _more_db(ask, run)
    usual = day.margin(run, "away", Spot("as far off", ask.distance_m, toward), more)
    return NotedThere(day.margin(run, "away", spot, more), usual, TAILS_THERE if there else TAILS)


def _more_db(ask: Ask, run: int) -> float:
    """From what was sent in a run to what is asked for."""
    made = ask.field.rows[run].run
    power_w = made.power_w or ask.near.power_w or ask.power_w
    return dbm_from_watt(ask.power_w) - dbm_from_watt(power_w) + made.pad_db - ask.pad_db


def bound_by(noted: NotedThere, median: Figure, here: Figure) -> tuple[Figure, Figure, float]:
    """The margin of the median and of the place, both as reckoned, with what was noted; and the chance that it is enough there."""
    there = _product(noted.place, here, noted.tails)
    bound = _bound(here, noted.place, there, "At this one place, with what was heard and lost; fading left out.")
    return (
        _bound(median, noted.usual, _product(noted.usual, median, noted.tails), median.working.meaning),
        bound,
        float(there.chance_above(0.0)),
    )


def _product(told: Marginal, figure: Figure, tails: float) -> Marginal:
    """Of both densities, that of what was reckoned with the tails of a t distribution: what was noted goes before a budget that is far
    off."""
    z = (told.at - figure.value) / figure.u
    density = told.density * (1.0 + z**2 / tails) ** (-0.5 * (tails + 1.0))
    return Marginal.of(told.at, density) if density.sum() > 0.0 else told


def _bound(figure: Figure, told: Marginal, both: Marginal, meaning: str) -> Figure:
    known, plain = figure.working, plain_figure(figure.name, both)
    lines = (*known.lines, f"by what was heard and lost alone {plain_figure('', told).text}")
    working = Working(lines, known.parts, known.source, meaning)
    return Figure(figure.name, plain.value, plain.u, "dB", working, low=plain.low, high=plain.high)
