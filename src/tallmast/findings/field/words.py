"""Contrasts as they are told: the better one first, its number, its ±, what it rests on."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence

from tallmast.units import show
from tallmast.units.shown import SCALES

from ..figure import Figure
from .contrasts import DECIBELS, REACH, Contrast
from .own_scale import FEW_SPOTS, HEARD
from .recorded import HOW_IT_DIES, WHOLE
from .runs import ANTENNA, Tried
from .settings import level_words, sides

ALIKE_DB = 3.0
"""Half the power: two things that are surely closer than this are called alike."""
TRIES = 2
"""Approaches of each before one is called farther without saying that more are needed."""


def pair_words(figure: Figure, names: tuple[str, str]) -> str:
    """The sentence of two antennas' difference, the better one named first."""
    low, high = figure.interval
    if low <= 0 <= high:
        within = max(-low, high)
        if within <= ALIKE_DB:
            return f"{show.upper_first(names[0])} and {names[1]} are alike within {show.decibel(within)} over this path: {figure.text}."
        return f"{show.upper_first(names[0])} and {names[1]} can't be told apart over this path: {figure.text}."
    return f"{show.upper_first(names[0])} beats {names[1]} by {figure.text} over the same path."


def contrast_words(contrast: Contrast, names: Mapping[Tried, str]) -> str:
    """One sentence of a contrast on whatever scale it is."""
    both = sides(contrast.changes, names)
    if contrast.scale == DECIBELS:
        told = _in_decibels(contrast, both)
    elif contrast.scale == REACH:
        told = ratio_words(contrast.figure, both, contrast.cells)
    else:
        told = own_words(contrast, both)
    return told[:-1] + f"; {parting_words(contrast, names)}." if len(contrast.changes) > 1 else told


def parting_words(contrast: Contrast, names: Mapping[Tried, str]) -> str:
    """What was changed together, and the run that would part it."""
    several = show.join([c.factor for c in contrast.changes])
    told = f"{several} changed together, so it is the sum of them"
    if not contrast.parted:
        return told
    first, *others = contrast.changes
    run = [level_words(first, first.to, names), *(level_words(c, c.since, names) for c in others)]
    return f"{told}, and a run with {show.join(run)} would part them"


def _in_decibels(contrast: Contrast, both: tuple[str, str]) -> str:
    if contrast.change.factor == ANTENNA:
        return pair_words(contrast.figure, both)
    low, high = contrast.figure.interval
    first, second = both
    if low <= 0 <= high:
        within = max(-low, high)
        alike = f"are alike within {show.decibel(within)}" if within <= ALIKE_DB else "can’t be told apart"
        return f"{show.upper_first(first)} and {second} {alike}: {contrast.figure.text}."
    ahead = contrast.figure
    if ahead.value < 0:
        return f"{show.upper_first(first)} costs {show.plus_minus(-ahead.value, ahead.half, 'dB')} against {second}."
    return f"{show.upper_first(first)} brings {ahead.text} over {second}."


def own_words(contrast: Contrast, names: tuple[str, str]) -> str:
    """The sentence of a comparison by grades or by what a display shows."""
    figure, scale = contrast.figure, SCALES[contrast.scale]
    where = f"at {contrast.alone} alone" if contrast.alone else "at the same spot"
    few = contrast.cells < FEW_SPOTS
    more = f"; noted at {show.count(contrast.cells, 'spot')} only, {FEW_SPOTS} or more would tell" if few else ""
    if contrast.alone == WHOLE:
        where, more = "over whole recordings", "; marks along them would tell where"
    by = f", by {contrast.size.text}" if contrast.size is not None and contrast.size.value > 0 else ""
    if contrast.told_by_block:
        told = [_in_block(block, f, names, scale.ahead) for block, f in merged_blocks(contrast.blocks)]
        return f"{show.upper_first('; '.join(told))}."
    if contrast.alike:
        return f"{show.upper_first(where)} {names[0]} and {names[1]} can’t be told apart: {names[0]} {scale.ahead} {names[1]} {figure.text} of the time{more}."
    return f"{show.upper_first(names[0])} {scale.ahead} {names[1]} {where}, {figure.text} of the time{by}{more}."


def merged_blocks(blocks: Sequence[tuple[str, Figure]]) -> list[tuple[str, Figure]]:
    """Blocks that say the same and have something in common that none of the others has, as one by that, with the figure of the
    least sure of them."""
    said: dict[int, list[tuple[str, Figure]]] = {}
    for block in blocks:
        low, high = block[1].interval
        said.setdefault((low > 50.0) - (high < 50.0), []).append(block)
    out: list[tuple[str, Figure]] = []
    for outcome, mine in said.items():
        shared = set.intersection(*(set(label.split(", ")) for label, _ in mine))
        others = [set(label.split(", ")) for other, them in said.items() if other != outcome for label, _ in them]
        if len(mine) > 1 and any(shared) and others and not any(shared <= other for other in others):
            label = ", ".join(part for part in mine[0][0].split(", ") if part in shared)
            out.append((label, min((figure for _, figure in mine), key=lambda f: abs(f.value - 50.0))))
        else:
            out += mine
    return out


def _in_block(block: str, figure: Figure, names: tuple[str, str], ahead: str) -> str:
    """What one block says, where they differ."""
    low, high = figure.interval
    where = f"with {block}" if block else "with nothing noted"
    if low <= 50.0 <= high:
        return f"{where} {names[0]} and {names[1]} can’t be told apart, {figure.text}"
    first, second = names if low > 50.0 else (names[1], names[0])
    share = figure.text if low > 50.0 else f"{100 - figure.value:.0f} ({100 - high:.0f} to {100 - low:.0f}) %"
    return f"{where} {first} {ahead} {second} {share} of the time"


def ratio_words(figure: Figure, names: tuple[str, str], tries: int) -> str:
    """The sentence of a ratio; `tries`: approaches of the one that made fewer."""
    low, high = figure.interval
    more = "" if tries >= TRIES else "; a second approach with each would show how far repeats differ"
    if figure.bound:
        told = f"at least {show.fixed(low, 1)} times as far"
    else:
        told = f"{show.fixed(figure.value, 1)} ({show.fixed(low, 1)} to {show.fixed(high, 1)}) times as far"
    if low <= 1.0:
        return f"How far they were heard does not tell {names[0]} from {names[1]}: {names[0]} was heard {told}{more}."
    return f"{show.upper_first(names[0])} was heard {told} as {names[1]}{more}."


def order_words(contrasts: Sequence[Contrast], names: Mapping[Tried, str]) -> str:
    """Three or more, all on one scale and of one factor, in their order, with ties; empty for fewer."""
    alone = {(c.change.to, c.change.since): c for c in contrasts if len(c.changes) == 1}
    levels = list(dict.fromkeys(level for pair in alone for level in pair))
    if len(levels) < 3:
        return ""
    wins = {level: sum(pair[0] == level for pair in alone) for level in levels}
    levels.sort(key=lambda level: -wins[level])
    first = next(iter(alone.values())).change
    told = [level_words(first, levels[0], names)]
    for before, level in itertools.pairwise(levels):
        pair = alone.get((before, level)) or alone.get((level, before))
        tie = " (not told apart from it)" if pair is not None and pair.alike else ""
        told.append(level_words(first, level, names) + tie)
    return f"In order: {', '.join(told)}."


def spoken_of(contrasts: Sequence[Contrast]) -> Contrast | None:
    """The one to speak of, all on one scale and of one factor, the better one first in each: what nothing was better than,
    against the best of the others; of what was told alone, where anything was."""
    alone = [c for c in contrasts if len(c.changes) == 1] or list(contrasts)
    beaten = {c.change.since for c in alone}
    firsts = [c for c in alone if c.change.to not in beaten] or alone
    return min(firsts, key=lambda c: c.figure.value, default=None)


def most_told(contrasts: Sequence[Contrast]) -> list[Contrast]:
    """Those of the factor and scale that tell most: antennas before other things, what was told alone before what was told
    together, how well before how far before whether at all, more spots before fewer."""
    kinds: dict[tuple[str, str], list[Contrast]] = {}
    for c in contrasts:
        kinds.setdefault((c.change.factor, c.scale), []).append(c)

    def weight(kind: tuple[str, str]) -> tuple[bool, bool, int, int]:
        factor, scale = kind
        tells = {HEARD: 0, REACH: 1}.get(scale, 2)
        alone = any(len(c.changes) == 1 for c in kinds[kind])
        return factor == ANTENNA, alone, tells, max(c.cells for c in kinds[kind])

    return kinds[max(kinds, key=weight)] if kinds else []


def alike_and_different(contrasts: Sequence[Contrast], names: Mapping[Tried, str]) -> str:
    """Two that are alike in the mean, and different in how often they are usable, or drop out; else empty."""
    by_pair: dict[frozenset[str], dict[str, Contrast]] = {}
    for contrast in contrasts:
        if len(contrast.changes) == 1:
            key = frozenset((contrast.change.factor, contrast.change.to, contrast.change.since))
            by_pair.setdefault(key, {})[contrast.scale] = contrast
    for told in by_pair.values():
        means = [c for scale, c in told.items() if scale not in HOW_IT_DIES]
        apart = [c for scale, c in told.items() if scale in HOW_IT_DIES and not c.alike]
        if means and apart and all(c.alike for c in means):
            return f"Alike in the mean, and different in this: {contrast_words(apart[0], names)}"
    return ""
