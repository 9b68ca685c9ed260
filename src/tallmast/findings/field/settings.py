"""How runs were set up: the level of each factor as a key and in words, and what known steps add to the level."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np

from tallmast.physics.decibels import Floats, power_db
from tallmast.physics.design import Change

from .runs import ANTENNA, FAR_ANTENNA, OWN, RunRow, Tried

MANNER = "manner"


def level_of_tried(tried: Tried) -> str:
    """What was tried, as a level of the factor antenna."""
    return " ".join(tried)


def tried_of(level: str) -> Tried:
    antenna_id, _, state_id = level.partition(" ")
    return antenna_id, state_id


def level_words(change: Change, level: str, names: Mapping[Tried, str]) -> str:
    """A level as it is spoken of."""
    if change.factor == ANTENNA:
        return names.get(tried_of(level), "an antenna taken out")
    if change.factor == FAR_ANTENNA:
        return f"{level or 'the antenna as ever'} at the far end"
    factor = change.factor.removeprefix(OWN)
    return f"{factor} {level}" if level else f"no {factor} noted"


def short_words(factor: str, level: str, names: Mapping[Tried, str]) -> str:
    """A level, short: what anybody understands without its factor without it."""
    plain = factor in ("mode", "day", "weather", "path", "listener", "place", "channel", MANNER)
    return level if plain else level_words(Change(factor, level, level), level, names)


def sides(changes: Iterable[Change], names: Mapping[Tried, str]) -> tuple[str, str]:
    """What was changed to, and from, each in one breath."""
    to, since = zip(*((level_words(c, c.to, names), level_words(c, c.since, names)) for c in changes), strict=True)
    return " with ".join((to[0], *to[1:])), " with ".join((since[0], *since[1:]))


def setting_of(row: RunRow, base: RunRow, tried: Tried) -> dict[str, str]:
    """All its levels as they count: what somebody said does nothing is as the baseline has it."""
    levels = (base if row.verdict == "taken in" else row).factors
    return {**{name: levels[name] for name in row.kinds}, ANTENNA: level_of_tried(tried), MANNER: row.run.manner}


def steps_db(rows: Iterable[RunRow], base: RunRow) -> tuple[Floats, Floats]:
    """What power, and what pads, add to the level of each run against the baseline's, dB. Both [run]"""
    at, power, pads = base.run.power_w, [], []
    by_power, by_pads = (base.kinds.get(name) == "known step" for name in ("power", "pad"))
    for r in rows:
        # A power that nobody noted is taken to be the baseline's: nothing says that it was another.
        power.append(float(power_db(r.run.power_w / at)) if r.run.power_w and at and by_power else 0.0)
        pads.append(base.run.pad_db - r.run.pad_db if by_pads else 0.0)
    return np.array(power, dtype=float), np.array(pads, dtype=float)
