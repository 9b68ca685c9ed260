"""What was flown round an antenna on a scale that nobody made decibels of: the readings by direction, and its weakest patch."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Log, Run
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import median
from tallmast.units import show
from tallmast.units.shown import SCALES, words_of

from .direction_map import DirectionMap, on_one_scale
from .flown import goes_round_antenna
from .track import ROUND, Track, read_own_track

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding

AZIMUTH_DEG, ELEVATION_DEG = 15.0, 10.0
FEWEST_READINGS, FEWEST_CELLS = 2, 8
WEAK_SHARE = 1.0 / 3.0
"""Of the span of all directions: what lies in the lowest part of it belongs to the weakest patch."""
MOST_OF_MAP = 0.5
"""A patch that covers more is no patch."""
BEYOND_SCATTER = 3.0
LEAST_SPREAD = 0.1
"""Standard deviation of log₁₀ of the distance in one direction, from which on it is told what distance does."""
NAMED_SHARE = 1.25
"""Distances that differ by more are named where they were not taken out."""


class Patch(Frozen):
    """Directions side by side."""

    from_deg: float
    to_deg: float
    low_deg: float
    high_deg: float
    cells: np.ndarray
    """Which of the map [m, k]."""
    worst: float
    median: float


class OwnFlown(Frozen):
    """All that was flown round one antenna in one state on one scale."""

    antenna: Antenna
    state_id: str
    read_on: str
    receiver: str
    tracks: tuple[Track, ...]
    azimuth_deg: Floats
    elevation_deg: Floats
    value: Floats
    """Median of the readings of each cell [m, k], as at `distance_m`; NaN where there are too few."""
    scatter: float
    """Standard deviation of one reading within a cell."""
    per_decade: float
    """What ten times the distance was found to change, and was taken out; 0: nothing."""
    distance_m: float

    @property
    def unit(self) -> str:
        return SCALES[self.read_on].unit

    @property
    def more_is_better(self) -> bool:
        return SCALES[self.read_on].more_is_better

    @property
    def pointing_noted(self) -> bool:
        return all(track.pointing.noted for track in self.tracks)

    @property
    def map(self) -> DirectionMap:
        steps = AZIMUTH_DEG, ELEVATION_DEG
        columns = self.azimuth_deg, self.elevation_deg, self.value
        made = DirectionMap(
            self.antenna, *columns, steps, (), self.unit, self.more_is_better, self.tracks, self.pointing_noted
        )
        return on_one_scale([made])[0]

    @cached_property
    def _good(self) -> Floats:
        return self.value if self.more_is_better else -self.value

    @property
    def best(self) -> float:
        return float(np.nanmax(self.value) if self.more_is_better else np.nanmin(self.value))

    @property
    def worst(self) -> float:
        return float(np.nanmin(self.value) if self.more_is_better else np.nanmax(self.value))

    @property
    def alike(self) -> bool:
        """Whether no direction stands out of the scatter of single readings."""
        return float(np.nanmax(self._good) - np.nanmin(self._good)) < BEYOND_SCATTER * self.scatter

    @cached_property
    def patch(self) -> Patch | None:
        """The weakest directions and their neighbours that are nearly as weak; None where all are alike, or half of all are weak."""
        good = self._good
        if self.alike:
            return None
        low, high = float(np.nanmin(good)), float(np.nanmax(good))
        weak = np.isfinite(good) & (good <= low + WEAK_SHARE * (high - low))
        start = np.unravel_index(int(np.nanargmin(good)), good.shape)
        cells = _joined(weak, (int(start[0]), int(start[1])))
        if cells.sum() > MOST_OF_MAP * np.isfinite(good).sum():
            return None
        across, up = np.flatnonzero(cells.any(axis=1)), np.flatnonzero(cells.any(axis=0))
        first, last = _ends_round(across, len(self.azimuth_deg))
        half = 0.5 * AZIMUTH_DEG, 0.5 * ELEVATION_DEG
        return Patch(
            (float(self.azimuth_deg[first]) - half[0]) % 360.0,
            (float(self.azimuth_deg[last]) + half[0]) % 360.0,
            float(self.elevation_deg[up[0]]) - half[1],
            float(self.elevation_deg[up[-1]]) + half[1],
            cells,
            float(self.value[start]),
            median(self.value[cells]),
        )

    def at(self, patch: Patch) -> float | None:
        """What it shows in a patch of another's map, median; None where it was not read there."""
        in_azimuth = ((self.azimuth_deg - patch.from_deg) % 360.0) <= ((patch.to_deg - patch.from_deg) % 360.0)
        in_elevation = (self.elevation_deg >= patch.low_deg) & (self.elevation_deg <= patch.high_deg)
        there = self.value[np.ix_(in_azimuth, in_elevation)]
        known = there[np.isfinite(there)]
        return median(known) if len(known) else None

    def words_of(self, value: float) -> str:
        """As finely as single readings scatter."""
        return words_of(self.read_on, round(value) if self.scatter >= 0.5 else float(f"{value:.3g}"))

    @property
    def distance_words(self) -> str:
        """What became of the distance; empty where it was the same all round."""
        if self.per_decade:
            return f" Distance is taken out: {show.fixed(abs(self.per_decade), 0)} in ten times of it."
        far = np.concatenate([track.distance_m for track in self.tracks])
        low, high = (float(np.percentile(far, at)) for at in (5.0, 95.0))
        if high < NAMED_SHARE * low:
            return ""
        return f" Distances of {show.distance(low)} to {show.distance(high)} are in it."


def _joined(weak: np.ndarray, start: tuple[int, int]) -> np.ndarray:
    """Of cells [m, k] those that hang together with one, round the azimuth too."""
    found, left = np.zeros(weak.shape, dtype=bool), [start]
    while left:
        i, k = left.pop()
        if not weak[i, k] or found[i, k]:
            continue
        found[i, k] = True
        left += [((i + step) % weak.shape[0], k) for step in (-1, 1)]
        left += [(i, k + step) for step in (-1, 1) if 0 <= k + step < weak.shape[1]]
    return found


def _ends_round(at: np.ndarray, count: int) -> tuple[int, int]:
    """(first, last) of indices on a circle: the widest gap lies outside."""
    gaps = np.diff(np.append(at, at[0] + count))
    widest = int(np.argmax(gaps))
    return int(at[(widest + 1) % len(at)]), int(at[widest])


def gather_own_flown(evidence: Evidence, displays: Mapping[str, DisplayFinding]) -> tuple[OwnFlown, ...]:
    """What was flown round each antenna on a scale of its own, the last of each on each scale."""
    found: dict[tuple[str, str, str, str], list[tuple[Run, Log]]] = {}
    for run in evidence.runs:
        antenna = evidence.antenna(run.antenna_id)
        if antenna is None or run.manner not in ROUND:
            continue
        for log in evidence.logs(run.id):
            if log.read_on in SCALES and log.receiver not in displays and "shown" in evidence.series(log.series_id):
                key = (antenna.id, run.state_id or antenna.state.id, log.read_on, log.receiver)
                found.setdefault(key, []).append((run, log))
    made = (_own_flown(evidence, key, logs) for key, logs in found.items())
    return tuple(one for one in made if one is not None)


def _own_flown(evidence: Evidence, key: tuple[str, str, str, str], logs: Sequence[tuple[Run, Log]]) -> OwnFlown | None:
    antenna, question = evidence.antenna(key[0]), evidence.question
    if antenna is None or not goes_round_antenna(evidence, logs):
        return None
    tracks = []
    for run, log in logs:
        frequency_hz = run.channel_hz or (question.centre_hz if question is not None else 0.0)
        track = read_own_track(evidence, run, log, antenna, frequency_hz) if frequency_hz else None
        if track is not None and track.counts.any():
            tracks.append(track.where(track.counts))
    if not tracks:
        return None
    azimuth, elevation, far, value = (
        np.concatenate([getattr(track, name) for track in tracks])
        for name in ("azimuth_deg", "elevation_deg", "distance_m", "level_db")
    )
    log_far = np.log10(far)
    m, low = round(360.0 / AZIMUTH_DEG), float(np.floor(elevation.min() / ELEVATION_DEG))
    rows = np.round(azimuth / AZIMUTH_DEG).astype(int) % m
    columns = (np.floor(elevation / ELEVATION_DEG) - low).astype(int)
    k = int(columns.max()) + 1
    cell = rows * k + columns
    middle = median(log_far)
    per_decade = _per_decade(cell, log_far, value)
    value = value - per_decade * (log_far - middle)
    grid, scatter = _medians(cell, value, m * k)
    if np.isfinite(grid).sum() < FEWEST_CELLS:
        return None
    return OwnFlown(
        antenna,
        key[1],
        key[2],
        key[3],
        tuple(tracks),
        np.asarray(np.arange(m) * AZIMUTH_DEG, dtype=np.float64),
        np.asarray((low + np.arange(k) + 0.5) * ELEVATION_DEG, dtype=np.float64),
        grid.reshape(m, k),
        scatter,
        per_decade,
        float(10.0**middle),
    )


def _per_decade(cell: np.ndarray, log_far: Floats, value: Floats) -> float:
    """What ten times the distance changes in one and the same direction; nothing where that is not plain."""
    count = np.maximum(np.bincount(cell), 1)
    x = log_far - (np.bincount(cell, log_far) / count)[cell]
    y = value - (np.bincount(cell, value) / count)[cell]
    spread = float(x @ x)
    degrees = len(value) - len(np.unique(cell)) - 1
    if degrees < 8 or spread < len(value) * LEAST_SPREAD**2:
        return 0.0
    slope = float(x @ y) / spread
    left = y - slope * x
    u = math.sqrt(float(left @ left) / degrees / spread)
    return slope if abs(slope) > BEYOND_SCATTER * u else 0.0


def _medians(cell: np.ndarray, value: Floats, cells: int) -> tuple[Floats, float]:
    """(median of each cell [cells], NaN where too few; standard deviation of one reading within a cell)."""
    out, left = np.full(cells, np.nan), []
    order = np.argsort(cell, kind="stable")
    for part in np.split(order, np.flatnonzero(np.diff(cell[order])) + 1):
        if len(part) >= FEWEST_READINGS:
            out[cell[part[0]]] = median(value[part])
            left.append(value[part] - median(value[part]))
    joined = np.concatenate(left) if left else np.zeros(1)
    return out, 1.4826 * median(np.abs(joined))


def own_flown_words(flown: OwnFlown, others: Sequence[OwnFlown]) -> tuple[str, str]:
    """(sentence, detail) of one antenna that was flown round on a scale of its own; `others` on the same scale."""
    name, at = flown.antenna.name, flown.map.best
    assert at is not None
    low, high = flown.words_of(flown.worst), flown.words_of(flown.best)
    own = "On its own scale: which direction is better, not by how many decibels."
    if flown.alike:
        return f"{name}, flown round, is alike all round: {low} to {high}.", own
    sentence = f"{name}, flown round, is best at {_where(flown, *at)}: {high}."
    own = f"At worst {low}; single readings scatter by {show.three(flown.scatter)}. {own}"
    patch = flown.patch
    said = ""
    if patch is not None:
        across = f"{show.bearing(patch.from_deg)} to {show.bearing(patch.to_deg)}"
        across += " from its front" if flown.pointing_noted else ""
        up = f"{show.elevation(patch.low_deg)} to {show.elevation(patch.high_deg)} up"
        said = f"Weakest patch: {across}, {up}, {flown.words_of(patch.median)} in the middle"
        there = [
            f"{one.antenna.name} shows {one.words_of(value)} there"
            for one in others
            if (value := one.at(patch)) is not None
        ]
        said = "; ".join((said, *there)) + ". "
    return sentence, f"{said}{own}{flown.distance_words}"


def _where(flown: OwnFlown, azimuth_deg: float, elevation_deg: float) -> str:
    front = " from its front" if flown.pointing_noted else ""
    return f"{show.bearing(azimuth_deg)}{front}, {show.elevation(elevation_deg)} up"
