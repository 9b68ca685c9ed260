"""Runs that differ in one thing, where nothing can be taken out by sums: on scales of their own, and by how far they went."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import TypeVar

from tallmast.physics.design import Change

from .group import level_of_tried
from .runs import ANTENNA, RunRow
from .samples import Tried

MANNER = "manner"


@dataclass(frozen=True, eq=False, repr=False)
class Set:
    """A run as it was set up."""

    number: int
    setting: dict[str, str]


S = TypeVar("S", bound=Set)


def setting_of(row: RunRow, base: RunRow, tried: Tried) -> dict[str, str]:
    """All its levels: on a scale of its own nothing is known of what a step of power does."""
    levels = (base if row.verdict == "taken in" else row).factors
    return {**levels, ANTENNA: level_of_tried(tried), MANNER: row.run.manner}


def changes_of(runs: Sequence[Set]) -> list[Change]:
    """From each level of a factor that differs to every later one."""
    out = []
    for factor in runs[0].setting if runs else ():
        levels = list(dict.fromkeys(run.setting[factor] for run in runs))
        out += [Change(factor, to, since) for since, to in combinations(levels, 2)]
    return out


def matched(runs: Sequence[S], change: Change) -> tuple[tuple[Change, ...], list[tuple[list[S], list[S]]]]:
    """The change with the fewest others that were made with it, and the runs of either level, block by block."""
    pairs: dict[tuple[Change, ...], list[tuple[S, S]]] = {}
    for a in (r for r in runs if r.setting[change.factor] == change.to):
        for b in (r for r in runs if r.setting[change.factor] == change.since):
            others = tuple(
                Change(f, a.setting[f], b.setting[f])
                for f in a.setting
                if f != change.factor and a.setting[f] != b.setting[f]
            )
            pairs.setdefault(others, []).append((a, b))
    if not pairs:
        return (), []
    with_it = min(pairs, key=lambda others: (len(others), -len(pairs[others])))
    blocks: dict[tuple[str, ...], tuple[list[S], list[S]]] = {}
    for a, b in pairs[with_it]:
        block = blocks.setdefault(tuple(v for f, v in a.setting.items() if f != change.factor), ([], []))
        for run, side in ((a, block[0]), (b, block[1])):
            if run not in side:
                side.append(run)
    return (change, *with_it), list(blocks.values())
