"""Runs that differ in one thing, where nothing can be taken out by sums: on scales of their own, and by how far they went."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Generic, TypeVar

from tallmast.frozen import Frozen
from tallmast.physics.design import Change, pairs_of

from .runs import ANTENNA


class Set(Frozen):
    """A run as it was set up."""

    number: int
    setting: dict[str, str]


S = TypeVar("S", bound=Set)


def changes_of(runs: Sequence[Set]) -> list[Change]:
    """Between the levels of each factor that differs, in their order: of antennas every two."""
    out = []
    for factor in runs[0].setting if runs else ():
        levels = list(dict.fromkeys(run.setting[factor] for run in runs))
        out += [Change(factor, to, since) for since, to in pairs_of(levels, factor == ANTENNA)]
    return out


class Block(Frozen, Generic[S]):
    """Runs of either level that are the same in all else."""

    apart: tuple[Change, ...]
    """In what this block differs from the others: each factor at its level."""
    to: list[S]
    since: list[S]


def matched(runs: Sequence[S], change: Change) -> tuple[tuple[Change, ...], list[Block[S]]]:
    """The change with the fewest others that were made with it, and the runs of either level, block by block."""
    # By setting: of many runs few differ.
    same: dict[tuple[str, ...], list[S]] = {}
    for run in runs:
        same.setdefault(tuple(run.setting.values()), []).append(run)
    pairs: dict[tuple[Change, ...], list[tuple[list[S], list[S]]]] = {}
    for a in (s for s in same.values() if s[0].setting[change.factor] == change.to):
        for b in (s for s in same.values() if s[0].setting[change.factor] == change.since):
            to, since = a[0].setting, b[0].setting
            others = tuple(Change(f, to[f], since[f]) for f in to if f != change.factor and to[f] != since[f])
            pairs.setdefault(others, []).append((a, b))
    if not pairs:
        return (), []
    with_it = min(pairs, key=lambda others: (len(others), -sum(len(a) * len(b) for a, b in pairs[others])))
    changed = {change.factor, *(other.factor for other in with_it)}
    left = [f for f in runs[0].setting if f not in changed]
    blocks: dict[tuple[str, ...], tuple[list[S], list[S]]] = {}
    for a, b in pairs[with_it]:
        sides = blocks.setdefault(tuple(a[0].setting[f] for f in left), ([], []))
        for some, side in zip((a, b), sides, strict=True):
            side += [run for run in some if run not in side]
    apart = [len({key[i] for key in blocks}) > 1 for i in range(len(next(iter(blocks))))]
    return (change, *with_it), [
        Block(tuple(Change(f, v, v) for f, v, differs in zip(left, key, apart, strict=True) if differs and v), *sides)
        for key, sides in blocks.items()
    ]
