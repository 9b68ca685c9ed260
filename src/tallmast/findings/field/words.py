"""Contrasts as they are told: the better one first, its number with its interval, how sure it is."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence

from tallmast.units import show
from tallmast.units.shown import SCALES

from ..figure import Figure
from .model.contrasts import ALIKE_DB, DECIBELS, REACH, Contrast
from .model.planner import Step
from .runs import ANTENNA, FAR_ANTENNA, Tried
from .settings import level_words, sides, tried_of

LEANING, SURE = 0.6, 0.95
"""Chances from which on one is said to look better, and to be."""
MOST_BLOCKS = 2


def contrast_words(contrast: Contrast, names: Mapping[Tried, str]) -> str:
    """One sentence of a contrast, whatever it was read on."""
    both = sides(contrast.changes, names)
    told = _told(contrast, both)
    if len(contrast.changes) > 1:
        told = f"{told[:-1]}; {show.join([c.factor for c in contrast.changes])} changed together."
    return told


def parting_words(contrast: Contrast, names: Mapping[Tried, str]) -> str:
    """What was changed together, and the run that would separate it."""
    told = f"{show.join([c.factor for c in contrast.changes])} changed together, so it is the sum of them"
    if not contrast.parted:
        return told
    first, *others = contrast.changes
    run = [level_words(first, first.to, names), *(level_words(c, c.since, names) for c in others)]
    return f"{told}; a run with {show.join(run)} would separate them"


def _told(contrast: Contrast, both: tuple[str, str]) -> str:
    better, other = both
    if contrast.differ:
        return _by_block(contrast, both)
    if contrast.farther is not None:
        return _farther(contrast, contrast.farther, both)
    at = f"at {contrast.alone}" if contrast.alone else ""
    if contrast.alike:
        return f"{_upper(at, better)} and {other} are alike within {show.decibel(contrast.within_db)}."
    if contrast.chance < LEANING:
        return f"{_upper(at, better)} and {other} can’t be told apart yet: {contrast.figure.text}."
    verb = "is better than" if contrast.chance >= SURE else "looks better than"
    sure = show.certainty(contrast.chance)
    if contrast.scale in (DECIBELS, REACH):
        return f"{_upper(at, better)} {verb} {other} by {contrast.figure.text}; {sure}."
    if contrast.chance >= SURE:
        verb = SCALES[contrast.scale].ahead
    seen = next((s for s in contrast.seen if s.scale == contrast.scale), None)
    if seen is None or seen.spots < 2 or contrast.alone:
        return f"{_upper(at, better)} {verb} {other}; {sure}."
    return f"{show.upper_first(better)} {verb} {other} {seen.at}; {sure}."


def _upper(at: str, better: str) -> str:
    return f"{show.upper_first(at)}, {better}" if at else show.upper_first(better)


def _by_block(contrast: Contrast, both: tuple[str, str]) -> str:
    """Where it does one thing here and another there: the two that are farthest apart."""
    ordered = sorted(contrast.blocks, key=lambda block: -block[1].value)
    shown = [ordered[0], ordered[-1]] if len(ordered) > MOST_BLOCKS else ordered
    words = [f"{block or 'not noted'}: {_in_block(figure, both)}" for block, figure in shown]
    return f"{show.upper_first('; '.join(words))}."


def _in_block(figure: Figure, both: tuple[str, str]) -> str:
    low, high = figure.interval
    if low <= 0.0 <= high:
        return "alike" if max(-low, high) <= ALIKE_DB else f"open, {figure.text}"
    name, by = (both[0], figure.value) if low > 0.0 else (both[1], -figure.value)
    return f"{name} by {show.decibel(by)}"


def _farther(contrast: Contrast, figure: Figure, both: tuple[str, str]) -> str:
    low, high = figure.interval
    better, other = both
    if contrast.alike:
        within = max(high, 1.0 / low) - 1.0
        return f"{show.upper_first(better)} and {other} reach alike within {show.percent(within)}."
    if contrast.chance_farther < LEANING:
        return f"How far they reach does not tell {better} from {other} yet: {figure.text}."
    verb = "reaches" if contrast.chance_farther >= SURE else "seems to reach"
    return f"{show.upper_first(better)} {verb} {figure.text} as {other}; {show.certainty(contrast.chance_farther)}."


def elsewhere_words(contrast: Contrast) -> str:
    """What one place says of others; empty where there are more."""
    if not contrast.alone or contrast.chance < LEANING:
        return ""
    return f"At other places: {show.certainty(contrast.elsewhere)}."


def settling_words(contrast: Contrast, step: Step | None, names: Mapping[Tried, str]) -> str:
    """What would settle a comparison; empty where it is settled."""
    if contrast.settled:
        return ""
    a, b = sides(contrast.changes, names)
    if step is None:
        return f"More runs would hardly tell {a} from {b}: take whichever suits otherwise."
    minutes = f"about {show.minutes(step.minutes)}"
    if step.places:
        where = f"{show.count(step.places, 'more place')}"
        return f"{show.upper_first(where)} with each, {minutes}, would settle it."
    order = ", ".join([b, a, a, b][: 2 * step.rounds]) + (", over and over" if step.rounds > 2 else "")
    return f"{show.upper_first(show.count(step.rounds, 'more round'))} ({order}), {minutes}, would settle it."


def dying_words(dying: Sequence[Contrast], told: Contrast, names: Mapping[Tried, str]) -> str:
    """Of two that are not told apart in the mean, that one drops out less, or stays usable longer; else empty."""
    if not told.open:
        return ""
    same = (c for c in dying if {c.change.to, c.change.since} == {told.change.to, told.change.since})
    apart = next((c for c in same if not c.open), None)
    return f"Alike in the mean, and different in this: {contrast_words(apart, names)}" if apart is not None else ""


def seen_words(contrast: Contrast) -> str:
    """What it means on the scale that was read, and in decibels where the sentence is not in those."""
    seen = next((s for s in contrast.seen if s.scale == contrast.scale), None)
    told = []
    if contrast.size is not None and seen is not None and seen.spots > 0:
        told.append(f"{show.upper_first(seen.scale)}: better {seen.at}, by {contrast.size.text}.")
    if contrast.scale not in (DECIBELS, REACH):
        told.append(f"It stands for {contrast.figure.text}; a known step of power would narrow it.")
    elif contrast.farther is not None:
        told.append(f"It stands for {contrast.figure.text}.")
    return " ".join(told)


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
        tie = " (not told apart from it)" if pair is not None and pair.open else ""
        told.append(level_words(first, level, names) + tie)
    return f"In order: {', '.join(told)}."


def spoken_of(contrasts: Sequence[Contrast], focus_id: str = "") -> Contrast | None:
    """The one to speak of: antennas before pairs of them, and those before other things; what was told alone before what was told
    together; the antenna in focus against the best of the others, else what nothing was better than against what comes next."""
    alone = [c for c in contrasts if len(c.changes) == 1]
    worn = [c for c in contrasts if {change.factor for change in c.changes} <= {ANTENNA, FAR_ANTENNA}]
    kinds = (
        [c for c in alone if c.change.factor == ANTENNA],
        [c for c in worn if c.change.factor == ANTENNA],
        alone,
        list(contrasts),
    )
    first = next((kind for kind in kinds if kind), [])
    mine = [c for c in first if c.change.factor == first[0].change.factor]
    of_focus = [c for c in mine if focus_id and focus_id in antennas_of(c)]
    # Against the best of the others: the one that it is least ahead of, or farthest behind.
    own = [c for c in of_focus if len(set(antennas_of(c))) == 2] or of_focus
    if own:
        return min(own, key=lambda c: _ahead(c, focus_id))
    beaten = {c.change.since for c in mine}
    firsts = [c for c in mine if c.change.to not in beaten] or mine
    return min(firsts, key=lambda c: c.figure.value, default=None)


def antennas_of(contrast: Contrast) -> tuple[str, ...]:
    """Ids of the better antenna and the other; none where it is of something else."""
    change = contrast.change
    return (tried_of(change.to)[0], tried_of(change.since)[0]) if change.factor == ANTENNA else ()


def _ahead(contrast: Contrast, focus_id: str) -> float:
    return contrast.figure.value if antennas_of(contrast)[0] == focus_id else -contrast.figure.value
