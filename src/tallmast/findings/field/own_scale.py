"""What is better where decibels can't be told: by grades, by what a display shows, by heard or not; of any factor."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Reading
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change
from tallmast.physics.ordinal import Better, better, shift_of_chance
from tallmast.physics.statistics import mean
from tallmast.units import show
from tallmast.units.shown import SCALES

from ..figure import Figure, Working
from .contrasts import Contrast
from .matching import Block, Set, changes_of, matched
from .recorded import STRETCH, Noted
from .runs import RunRow, Tried
from .settings import level_words, setting_of, sides
from .spread import LEAST_OWN, squares_of_runs
from .tracks import GROUND, STEPS

HEARD = "heard"
USUAL_SHARE = 0.2
"""What a whole run is usually off by, as a share of the scatter between spots: 0.5 dB beside 2.5 dB, as levels have it."""
SHARE_OF_MEANS = 0.9
"""The same where each spot is a mean over a stretch: that evens out how the spots scatter, and not what a run is off by."""
ENOUGH_CELLS = 6
"""Cells in common from which on the readings' own straying is told well enough to be taken off the runs'."""
FEW_SPOTS = 3
"""Fewer places than this, and one more is asked for."""

Cell = tuple[str, str]
"""A place and the end that listened."""
Values = dict[Cell, list[float]]


class _Run(Set):
    """A run on one scale, and what was noted in each cell, more being better."""

    values: Values


def scale_of(reading: Reading, stepped: Iterable[str]) -> tuple[str, float] | None:
    """(scale, value) of a reading that tells no decibels; None of one that does, or of one that says nothing."""
    if reading.shown is not None and reading.receiver not in stepped:
        return (reading.scale, reading.shown) if reading.scale else None
    if reading.readability is not None:
        return "readability", float(reading.readability)
    if not reading.heard:
        return "", 0.0
    return (HEARD, 1.0) if reading.level_dbm is None and reading.shown is None else None


def _noted(
    evidence: Evidence, rows: Sequence[RunRow], stepped: Iterable[str], far_off: Collection[str]
) -> dict[str, dict[str, Values]]:
    """What was noted by scale, run and cell. What was not heard is the worst of whatever scale its run has."""
    found = {
        row.run.id: [(r, scale_of(r, stepped)) for r in evidence.readings(row.run.id) if r.place_id not in far_off]
        for row in rows
    }
    scales = list(dict.fromkeys(told[0] for run in found.values() for _, told in run if told is not None and told[0]))
    if len(scales) > 1 and HEARD in scales:
        scales.remove(HEARD)  # heard, without saying how well, is no grade
    out: dict[str, dict[str, Values]] = {}
    for scale in scales:
        for run_id, told_of in found.items():
            lost = -math.inf if not SCALES[scale].more_is_better else 0.0
            for reading, told in told_of:
                if told is None or told[0] not in (scale, "") or (scale == "dropouts" and not told[0]):
                    continue
                sign = 1.0 if SCALES[scale].more_is_better else -1.0
                value = sign * told[1] if told[0] else lost
                cell = out.setdefault(scale, {}).setdefault(run_id, {}).setdefault((reading.place_id, reading.end), [])
                cell.append(value)
    return {scale: runs for scale, runs in out.items() if any(v for run in runs.values() for v in run.values())}


def own_contrasts(
    evidence: Evidence,
    rows: Sequence[RunRow],
    tried: Mapping[str, Tried],
    names: Mapping[Tried, str],
    stepped: Iterable[str],
    far_off: Collection[str] = (),
    recorded: Noted | None = None,
) -> list[Contrast]:
    """Of every factor that changed between runs, the better level first, on every scale that was noted; `stepped`: receivers
    whose displays tell decibels; `far_off`: places that were heard over the sky."""
    base = {row.run.number: row for row in rows}
    out = []
    every = _noted(evidence, rows, list(stepped), far_off)
    for scale, runs_of in (recorded or {}).items():
        sign = 1.0 if SCALES[scale].more_is_better else -1.0
        for run_id, cells in runs_of.items():
            there = every.setdefault(scale, {}).setdefault(run_id, {})
            for cell, values in cells.items():
                there.setdefault(cell, []).extend(sign * v for v in values)
    for scale, noted in every.items():
        runs = [
            _Run(row.run.number, setting_of(row, base[row.baseline], tried[row.run.id]), noted[row.run.id])
            for row in rows
            if row.run.id in noted
        ]
        found = (_contrast(runs, change, names, scale, evidence) for change in changes_of(runs))
        out += [contrast for contrast in found if contrast is not None]
    return out


def _contrast(
    runs: Sequence[_Run], change: Change, names: Mapping[Tried, str], scale: str, evidence: Evidence
) -> Contrast | None:
    changes, blocks = matched(runs, change)
    by_block = [_cells(block) for block in blocks]
    cells = [cell for of in by_block for cell in of]
    spots = list(dict.fromkeys(place for place, _, _ in cells))
    if not spots:
        return None
    alone = len(spots) == 1
    units = _by_run(blocks) if alone else cells
    each = _each(cells)
    off = _run_off(blocks, each)
    shift = 0.0 if alone else shift_of_chance(each.tolist(), off.u)
    found = better(
        [a for _, a, _ in units], [b for _, _, b in units], spots=[unit for unit, _, _ in units], u_runs=shift
    )
    if found is None:
        return None
    size = _size(scale, each, off, blocks, alone)
    turned = found.chance < 0.5
    if turned:
        changes = tuple(Change(c.factor, c.since, c.to) for c in changes)
        found, size = found.turned(), size and _turned(size)
    both = sides(changes, names)
    where = spot_words(evidence, spots[0]) if alone else ""
    inside = () if alone else tuple(_inside(blocks, by_block, turned, both, scale, names))
    # Blocks disagree where one tells them apart and another tells that it is the other way, or alike.
    edges = [figure.interval for _, figure in inside]
    apart = bool(edges) and max(low for low, _ in edges) > min(high for _, high in edges)
    return Contrast(
        changes,
        _figure(found, both, scale, where, shift),
        sum(len(block.to) + len(block.since) for block in blocks),
        len(spots),
        inside,
        "disagrees" if apart else "holds" if inside else "open",
        len(changes) > 1,
        scale,
        size,
        where,
    )


_Cells = list[tuple[str, list[float], list[float]]]
"""Place or stretch, values of the one, values of the other."""


def _cells(block: Block[_Run]) -> _Cells:
    out: _Cells = []
    for cell in dict.fromkeys(c for run in block.to for c in run.values):
        a, b = ([v for run in side for v in run.values.get(cell, [])] for side in (block.to, block.since))
        if a and b:
            out.append((cell[0], a, b))
    return out


def _inside(
    blocks: Sequence[Block[_Run]],
    by_block: Sequence[_Cells],
    turned: bool,
    names: tuple[str, str],
    scale: str,
    names_of: Mapping[Tried, str],
) -> Iterable[tuple[str, Figure]]:
    """The same in each block, where there are several that say anything."""
    if sum(bool(cells) for cells in by_block) < 2:
        return
    for block, cells in zip(blocks, by_block, strict=True):
        each = _each(cells)
        shift = shift_of_chance(each.tolist(), _run_off([block], each).u)
        spots = [spot for spot, _, _ in cells]
        found = better([a for _, a, _ in cells], [b for _, _, b in cells], spots=spots, u_runs=shift)
        if found is not None:
            label = ", ".join(_short(change, names_of) for change in block.apart)
            yield label, _figure(found.turned() if turned else found, names, scale, "", shift)


def _short(change: Change, names: Mapping[Tried, str]) -> str:
    """A level of a block, short: an antenna by its name, what anybody understands without its factor without it."""
    plain = change.factor in ("mode", "day", "weather", "path", "listener", "place", "channel")
    return change.to if plain else level_words(change, change.to, names)


def spot_words(evidence: Evidence, spot: str) -> str:
    """A place by its name, or a stretch of recordings."""
    if spot.startswith(GROUND):
        return f"stretch {int(spot.removeprefix(GROUND)) + 1} of {STEPS}"
    return spot.removeprefix(STRETCH) if spot.startswith(STRETCH) else evidence.title(spot)


def _by_run(blocks: Sequence[Block[_Run]]) -> _Cells:
    """At a single spot the runs are what was repeated: one of each against one of the other, in their order."""
    out = []
    for block in blocks:
        for a, b in zip(block.to, block.since, strict=False):
            both = [[v for values in run.values.values() for v in values] for run in (a, b)]
            out.append((f"{a.number}", both[0], both[1]))
    return out


class _RunOff(Frozen):
    """What whole runs are off by: standard uncertainty of the difference of the two sides, degrees of freedom; assumed where
    no run was repeated."""

    u: float
    degrees: float
    assumed: bool


def _run_off(blocks: Sequence[Block[_Run]], each: Floats) -> _RunOff:
    """By repeats of a setting, over the cells that they have in common; where none was repeated, a usual share of the scatter
    between spots."""
    squares, degrees = 0.0, 0
    for side in (side for block in blocks for side in (block.to, block.since)):
        common = [cell for cell in side[0].values if all(cell in run.values for run in side)]
        means = np.array([[mean(run.values[cell]) for cell in common] for run in side])
        means = means[:, np.isfinite(means).all(axis=0)] if means.size else means
        if len(side) > 1 and means.size:
            seen, own = squares_of_runs(means)
            squares += max(seen - own, LEAST_OWN * seen) if means.shape[1] >= ENOUGH_CELLS else seen
            degrees += len(side) - 1
    counts = [sum(len(block.to) for block in blocks), sum(len(block.since) for block in blocks)]
    share = math.sqrt(math.fsum(1.0 / n for n in counts))
    if degrees:
        return _RunOff(math.sqrt(squares / degrees) * share, float(degrees), False)
    averaged = all(cell[0].startswith((GROUND, STRETCH)) for block in blocks for cell in block.to[0].values)
    share_of = SHARE_OF_MEANS if averaged else USUAL_SHARE
    usual = share_of * float(each.std(ddof=1)) if len(each) > 1 else 0.0
    return _RunOff(usual * share, math.inf, True)


def _size(scale: str, each: Floats, off: _RunOff, blocks: Sequence[Block[_Run]], alone: bool) -> Figure | None:
    """How much better, in the scale's own unit; None where a difference of it means nothing, or too little is known."""
    if not SCALES[scale].countable:
        return None
    unit = SCALES[scale].unit
    if alone:
        sides_ = [[_mean(run) for b in blocks for run in b.to], [_mean(run) for b in blocks for run in b.since]]
        degrees = float(sum(len(side) - 1 for side in sides_))
        if degrees < 1 or not np.isfinite(np.concatenate(sides_)).all():
            return None
        means = [float(np.mean(side)) for side in sides_]
        squares = math.fsum((v - m) ** 2 for side, m in zip(sides_, means, strict=True) for v in side)
        u = math.sqrt(squares / degrees * math.fsum(1.0 / len(side) for side in sides_))
        parts: tuple[tuple[str, str], ...]
        value, parts = means[0] - means[1], (("scatter of repeated runs", f"{u:.2g} {unit}"),)
    else:
        if len(each) < FEW_SPOTS:
            return None
        value, u_spot = float(each.mean()), float(each.std(ddof=1)) / math.sqrt(len(each))
        u = math.hypot(u_spot, off.u)
        below = u_spot**4 / (len(each) - 1) + (off.u**4 / off.degrees if math.isfinite(off.degrees) else 0.0)
        degrees = u**4 / below if below > 0 else math.inf
        how = "run to run, assumed: none was repeated" if off.assumed else "run to run"
        parts = (("scatter between spots", f"{u_spot:.2g} {unit}"), (how, f"{off.u:.2g} {unit}"))
    working = Working(
        (f"mean difference {value:.2g} {unit}",),
        parts,
        "mean of differences at the same spot; Student's t by Welch and Satterthwaite, JCGM 100 §G.4",
        "In the scale's own unit: what it would be on another display is not known.",
    )
    return Figure("by how much", value, u, unit, working, degrees)


def _mean(run: _Run) -> float:
    return float(np.mean([v for values in run.values.values() for v in values]))


def _each(cells: _Cells) -> Floats:
    """Difference of the means at each spot; where one of them was not heard at all it has no number."""
    by_spot: dict[str, list[float]] = {}
    for place, a, b in cells:
        by_spot.setdefault(place, []).append(mean(a) - mean(b))
    each = np.array([mean(v) for v in by_spot.values()])
    return np.asarray(each[np.isfinite(each)])


def _turned(figure: Figure) -> Figure:
    return Figure(figure.name, -figure.value, figure.u, figure.unit, figure.working, figure.degrees)


def _figure(found: Better, names: tuple[str, str], scale: str, alone: str, u_runs: float) -> Figure:
    counted = show.count(found.cells, "pair of runs", "pairs of runs") if alone else show.count(found.cells, "spot")
    where = (
        f"{counted} at {alone} alone" if alone else f"{counted} at which both were noted; both ends of one count as one"
    )
    told = "heard or not" if scale == HEARD else scale
    return Figure(
        f"{names[0]} better than {names[1]} by {told}",
        100.0 * found.chance,
        100.0 * (found.high - found.low) / 3.29,
        "%",
        Working(
            (
                where,
                "a reading of one against one of the other: better 1, alike ½, worse 0",
                f"mean {show.percent(found.chance)}, of which alike {show.percent(found.ties)}",
            ),
            (
                (f"as few as {counted}, all in all", f"{show.percent(found.low)} to {show.percent(found.high)}"),
                *([("runs that are off at every spot alike", show.percent(u_runs))] if u_runs >= 0.005 else []),
            ),
            "Mann and Whitney within places; Jeffreys’ interval for a share (Brown, Cai and DasGupta 2001)",
            "How often the one would be better than the other at a spot like these. Readings of one spot count as one.",
        ),
        low=100.0 * found.low,
        high=100.0 * found.high,
        digits=0,
    )
