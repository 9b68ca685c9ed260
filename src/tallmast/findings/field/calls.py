"""What was noted at each place with each antenna, in each mode: the grid of calls."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Place, Reading
from tallmast.units import show
from tallmast.units.shown import SCALES

from .fixes import PlaceFix
from .model.noted import HEARD
from .runs import RunRow, Tried


def scale_of(reading: Reading, stepped: Iterable[str]) -> tuple[str, float] | None:
    """(scale, value) of a reading that tells no decibels; None of one that does, or of one that says nothing."""
    if reading.shown is not None and reading.receiver not in stepped:
        return (reading.scale, reading.shown) if reading.scale else None
    if reading.readability is not None:
        return "readability", float(reading.readability)
    if not reading.heard:
        return "", 0.0
    return (HEARD, 1.0) if reading.level_dbm is None and reading.shown is None else None


class Attempt(Frozen):
    """One attempt: how good it was, from 0, not heard, to 1; None: heard, and nobody said how well."""

    reading: Reading
    share: float | None
    words: str


class Column(Frozen):
    tried: Tried
    antenna: str
    block: str
    """Mode, day, listener, where they differ."""


class Calls(Frozen):
    """Places by antennas and blocks, every attempt, none hides another."""

    scale: str
    places: tuple[tuple[Place, str], ...]
    """Nearest first, each with its distance in words."""
    columns: tuple[Column, ...]
    cells: Mapping[tuple[int, int], tuple[Attempt, ...]]
    """(place, column) → attempts in their order."""


def share_at(calls: Calls, place_id: str, antenna_id: str) -> float | None:
    """How good it was at a place with an antenna, in the mean of all attempts, from 0, not heard, to 1; None: nobody said."""
    row = next((i for i, (place, _) in enumerate(calls.places) if place.id == place_id), None)
    mine = [k for k, column in enumerate(calls.columns) if column.tried[0] == antenna_id]
    told = [a.share for k in mine for a in calls.cells.get((row or 0, k), ()) if a.share is not None]
    return sum(told) / len(told) if row is not None and told else None


def calls_of(
    evidence: Evidence,
    rows: Sequence[RunRow],
    tried: Mapping[str, Tried],
    names: Mapping[Tried, str],
    fixes: Mapping[str, PlaceFix],
    stepped: Iterable[str],
) -> Calls | None:
    """Of the scale that most was noted on; None where nothing was but levels."""
    stepped = list(stepped)
    noted = [(row, reading, scale_of(reading, stepped)) for row in rows for reading in evidence.readings(row.run.id)]
    told = [scale[0] for _, _, scale in noted if scale is not None and scale[0]]
    if not told:
        return None
    graded = [scale for scale in told if scale != HEARD] or told
    scale = max(dict.fromkeys(graded), key=graded.count)
    most = max((s[1] for _, _, s in noted if s is not None and s[0] == scale), default=1.0)
    varying = [
        name
        for name, kind in (rows[0].kinds.items() if rows else ())
        if kind == "block" and name != "place" and len({row.factors[name] for row in rows}) > 1
    ]
    key_of = {
        row.run.id: (tried[row.run.id], ", ".join(row.factors[name] for name in varying if row.factors[name]))
        for row in rows
    }
    places: dict[str, Place] = {}
    columns: dict[tuple[Tried, str], Column] = {}
    found: dict[tuple[str, tuple[Tried, str]], list[Attempt]] = {}
    for row, reading, on in noted:
        place = evidence.place(reading.place_id)
        if place is None or (on is None and reading.heard):
            continue
        key = key_of[row.run.id]
        columns.setdefault(key, Column(key[0], names[key[0]], key[1]))
        places.setdefault(place.id, place)
        found.setdefault((place.id, key), []).append(_attempt(reading, on, scale, most))
    far = sorted(places, key=lambda p: fixes[p].distance.value if p in fixes else float("inf"))
    in_turn = {what: i for i, what in enumerate(names)}
    order = sorted(columns, key=lambda key: (in_turn[key[0]], key[1]))
    at_row, at_column = ({key: i for i, key in enumerate(keys)} for keys in (far, order))
    return Calls(
        scale,
        tuple((places[p], show.distance(fixes[p].distance.value) if p in fixes else "") for p in far),
        tuple(columns[key] for key in order),
        {(at_row[place_id], at_column[key]): tuple(attempts) for (place_id, key), attempts in found.items()},
    )


def _attempt(reading: Reading, on: tuple[str, float] | None, scale: str, most: float) -> Attempt:
    words = reading.as_typed or ("heard" if reading.heard else "not heard")
    if not reading.heard:
        return Attempt(reading, 0.0, words)
    if on is None or on[0] != scale or scale == HEARD:
        return Attempt(reading, 1.0 if scale == HEARD else None, words)
    if SCALES[scale].more_is_better:
        share = on[1] / (5.0 if scale in ("readability", "picture grade") else most or 1.0)
    else:
        share = 1.0 - 0.9 * on[1] / (most or 1.0)
    return Attempt(reading, min(max(share, 0.05), 1.0), words)
