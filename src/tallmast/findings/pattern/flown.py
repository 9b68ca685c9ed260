"""A pattern from flying, driving or walking round an antenna with a logger: the path taken out, cuts and the whole of it."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Log, Run
from tallmast.physics.around import Cells, Shape, gather, shape
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import median, percentile

from .direction_map import DirectionMap
from .named import COMPASS_U_DEG
from .passes import (
    LEAST_TURN_DEG,
    MERIDIAN_DEG,
    RING_DEG,
    STRETCH_DEG,
    best_meridian,
    best_ring,
    between_passes,
    by_angle,
    distinct,
    goes_round,
    legs_of,
    pass_u_db,
    wandered_rad2,
)
from .samples import ProbeDoubt, Samples
from .track import ROUND, Track, read_track, way_round

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding

FINEST_DEG, COARSEST_DEG = 1.5, 6.0
FEWEST_CELLS = 24
LEAST_RISE_DEG = 15.0
"""Of elevation: less, and no turn, is a way out, and no pattern."""
MOST_ASIDE_DB = 3.0
"""So much of what a turn at one height would read may be left open by having climbed meanwhile."""
PRIOR_EXPONENT, PRIOR_U = 2.6, 0.6
"""Of the path on the ground, before anything was read: between free space and clutter."""
GRID_DEG = 5.0
STEPS_DB = (-3.0, -6.0, -10.0, -15.0, -20.0)
"""From one shade of all directions to the next."""
HEIGHT_SHARE = 0.5
"""A barometer's height is so much better than a fix."""
GROUND_SHARE = 0.4
"""Reflected over direct field by ground of which nothing was noted: meadow to wet clay, at the angles of a flight round a mast."""
UNNOTED_SHARE, LEAN_U_DEG = 0.75, 7.0
"""Standard uncertainty of how much an upright probe loses toward steep directions, where nobody noted its pattern, and of how upright it
hangs, in degrees, where nobody logged that."""
Floats2 = NDArray[np.float64]


class Grid(Frozen):
    """Levels over azimuth [m] and elevation [k], dB against the strongest told; NaN where there is nothing to tell."""

    azimuth_deg: Floats
    elevation_deg: Floats
    level_db: Floats2
    u_db: Floats2


class Flown(Frozen):
    """All that was flown round one antenna in one state."""

    antenna: Antenna
    state_id: str
    tracks: tuple[Track, ...]
    cells: Cells
    """Level with the path taken out, dB, of every run on the same footing."""
    shape: Shape
    pitch_deg: float
    exponent: float
    exponent_u: float
    """Of the path that was taken out; 2 and 0 where it was free space."""
    mean_db: float
    """What was taken off every level: mean level less what was sent, with the path given back."""
    runs_off_db: tuple[float, ...]
    """What each run stood off the others in the same directions."""

    @property
    def pointing_noted(self) -> bool:
        return all(track.pointing.noted for track in self.tracks)

    @property
    def log_distance(self) -> float:
        """Mean of log₁₀ of the distance in metres."""
        return float(np.mean(np.concatenate([np.log10(t.distance_m[t.counts]) for t in self.tracks])))

    @property
    def fix_u_deg(self) -> float:
        """Standard uncertainty of a direction by the fixes."""
        return max(
            math.degrees(t.log.fix_u_m / max(median(t.distance_m[t.counts]), 1.0))
            for t in self.tracks
            if t.counts.any()
        )

    @property
    def clock_u_deg(self) -> float:
        """Standard uncertainty of a direction by two clocks that were laid over each other."""
        out = 0.0
        for track in self.tracks:
            if track.laid is not None:
                turn = np.abs((np.diff(track.azimuth_deg) + 180.0) % 360.0 - 180.0)
                seconds = np.diff(track.time_s) if track.time_s is not None else np.ones(len(turn))
                out = max(out, track.laid.u_s * median(turn / np.maximum(seconds, 1e-3)))
        return out

    @property
    def rejected(self) -> dict[str, int]:
        out: dict[str, int] = {}
        for track in self.tracks:
            for key, n in track.rejected.items():
                out[key] = out.get(key, 0) + n
        return out

    def level(self, azimuth_deg: Floats, elevation_deg: Floats) -> tuple[Floats, Floats]:
        """(level dB, standard uncertainty dB) in directions [m]; NaN where there is none to tell. A direction that the fixes turn
        is off by as much as it is steep there."""
        level, u = self.shape.level(azimuth_deg, elevation_deg)
        along, up = self.shape.steep(elevation_deg)
        by_fix = self.fix_left_deg * np.hypot(along, HEIGHT_SHARE * up)
        return level, np.hypot(u, by_fix)

    @property
    def fix_left_deg(self) -> float:
        """What the fixes turn a direction by, in the mean over passes: a fix wanders slowly, all of it is in every pass, and
        passes differ by as much again."""
        return self.fix_u_deg * math.sqrt(0.5 + 0.5 / max(len(set(self.cells.leg.tolist())), 1))

    @cached_property
    def grid(self) -> Grid:
        azimuth = np.arange(0.0, 360.0, GRID_DEG)
        low, high = (
            np.floor(self.cells.elevation_deg.min() / GRID_DEG),
            np.ceil(self.cells.elevation_deg.max() / GRID_DEG),
        )
        elevation = np.arange(low, high + 0.5) * GRID_DEG
        at, up = np.meshgrid(azimuth, elevation, indexing="ij")
        level, u = self.level(at.ravel(), np.clip(up.ravel(), -90.0, 90.0))
        top = float(np.nanmax(level)) if np.isfinite(level).any() else 0.0
        return Grid(azimuth, elevation, (level - top).reshape(at.shape), u.reshape(at.shape))

    @property
    def map(self) -> DirectionMap:
        grid = self.grid
        steps = GRID_DEG, GRID_DEG
        columns = grid.azimuth_deg, grid.elevation_deg, grid.level_db
        return DirectionMap(self.antenna, *columns, steps, STEPS_DB, "dB", True, self.tracks, self.pointing_noted)

    @cached_property
    def pass_u_db(self) -> float:
        return pass_u_db(self.cells, self.shape)

    @cached_property
    def ground_u_db(self) -> float:
        """Standard uncertainty of a level by a ray off the ground that stays the same in every pass: where distance and height wander
        it shows in the scatter, where the same round is flown again and again it looks like the pattern."""
        told = [t for t in self.tracks if t.ground_rad is not None]
        if not told:
            return 0.0
        columns, by_fix = [], 0.0
        for number, track in enumerate(told):
            assert track.ground_rad is not None
            keep = track.counts & np.isfinite(track.ground_rad)
            leg = legs_of(track.azimuth_deg[keep], track.elevation_deg[keep]) + 1000 * number
            columns.append((track.azimuth_deg[keep], leg, track.ground_rad[keep]))
            by_fix = max(by_fix, 0.5 * (track.ground_rad_per_m * track.log.fix_u_m) ** 2)
        azimuth, leg, phase = (np.concatenate(parts) for parts in zip(*columns, strict=True))
        wandered = wandered_rad2((azimuth / STRETCH_DEG).astype(np.int64), leg, phase)
        # What the fixes alone make of it is no wandering: half of a fix stays through a flight, half goes from pass to pass.
        steady = math.exp(-0.5 * max(wandered - by_fix, 0.0))
        return steady * 20.0 / math.log(10.0) * GROUND_SHARE / math.sqrt(2.0)

    def probe_doubt(self, plane: str) -> ProbeDoubt | None:
        """Of a climb: the probe is seen from ever farther below. Round at one height it is seen alike."""
        if plane != "elevation":
            return None
        taken_out = all(track.carried for track in self.tracks)
        logged = all(track.attitude_logged for track in self.tracks)
        doubt = ProbeDoubt(0.0 if taken_out else UNNOTED_SHARE, 0.0 if logged else LEAN_U_DEG)
        return doubt if doubt.share or doubt.lean_deg else None

    def _slow_u_db(self, angle_deg: Floats, level_db: Floats, leg: NDArray[np.int64], fix_deg: float) -> float:
        """By the fixes, 20·log₁₀ of a distance that is off; by an exponent that is not known; and by passes that differ over
        whole stretches: what the ground adds, and air and battery."""
        far = np.concatenate([np.log10(t.distance_m[t.counts]) for t in self.tracks])
        by_path = 10.0 * self.exponent_u * float(far.std())
        # Half of it stays through a flight; what wanders from pass to pass is seen between them.
        by_fix = math.sqrt(0.5) * math.radians(fix_deg) * 10.0 / math.log(10.0) * self.exponent
        return math.hypot(by_fix, by_path, between_passes(angle_deg, level_db, leg, self.pitch_deg, self.pass_u_db))

    def _samples(
        self,
        plane: str,
        angle_deg: Floats,
        level_db: Floats,
        leg: NDArray[np.int64],
        height: float | None,
        aside_db: float = 0.0,
    ) -> Samples:
        n_legs = max(len(set(leg.tolist())), 1)
        angle, level = by_angle(angle_deg, level_db, self.pitch_deg)
        # Of a climb at one bearing a fix is off by the same all the way up: half of that stays in a difference.
        share = 1.0 if plane == "azimuth" else HEIGHT_SHARE
        # A fix wanders slowly: all of it is in every pass, and passes differ by as much again.
        fix_deg = self.fix_u_deg * math.sqrt(0.5 + 0.5 / n_legs)
        return Samples(
            record=self.tracks[0].log,
            antenna=self.antenna,
            state_id=self.state_id,
            plane=plane,
            way="flight",
            angle_deg=angle,
            level_db=level,
            level_u_db=0.0,
            slow_u_db=math.hypot(self._slow_u_db(angle_deg, level_db, leg, fix_deg * share), aside_db),
            source=", ".join(dict.fromkeys(t.log.source for t in self.tracks if t.log.source)),
            alike=self.shape.alike,
            angle_u_deg=math.hypot(fix_deg * share, self.clock_u_deg),
            far_u_db=self.ground_u_db if plane == "azimuth" else 0.0,
            front_u_deg=COMPASS_U_DEG if self.pointing_noted else 0.0,
            probe=self.probe_doubt(plane),
            at_elevation_deg=height,
            front_bearing_deg=self.tracks[-1].pointing.azimuth_deg,
        )

    @cached_property
    def turn(self) -> Samples | None:
        """Round the antenna, at the elevation at which it was flown round best; None where it never was."""
        height = best_ring(self.cells)
        if height is None:
            return None
        off = np.abs(self.cells.elevation_deg - height)
        height = float(np.mean(self.cells.elevation_deg[off <= RING_DEG]))
        ring = self.cells.where(off <= RING_DEG)
        level, aside = self._as_at(ring, ring.azimuth_deg, np.full(len(ring.level_db), height))
        there = np.isfinite(level)
        if aside > MOST_ASIDE_DB or not goes_round(ring.azimuth_deg[there]):
            return None
        return self._samples("azimuth", ring.azimuth_deg[there], level[there], ring.leg[there], height, aside)

    def _as_at(self, cells: Cells, azimuth_deg: Floats, elevation_deg: Floats) -> tuple[Floats, float]:
        """(levels of cells as they would be in directions near by [n], NaN where that can't be told; what that leaves open, dB):
        somebody who climbs as he goes round reads every direction at another height."""
        here = self.shape.middle(cells.azimuth_deg, cells.elevation_deg)
        there, _, bent, aside = self.shape.parts(azimuth_deg, elevation_deg)
        # Most of how it bends is the same here and there.
        known = np.hypot(aside, 0.5 * bent)[np.isfinite(here + there)]
        return cells.level_db + there - here, math.sqrt(float(np.mean(known**2))) if len(known) else math.inf

    @cached_property
    def climb(self) -> Samples | None:
        """Up and over at the azimuth at which most elevations were flown; None where they are too few."""
        azimuth = best_meridian(self.cells)
        if azimuth is None:
            return None
        off = (self.cells.azimuth_deg - azimuth + 180.0) % 360.0 - 180.0
        ahead, behind = np.abs(off) <= MERIDIAN_DEG, np.abs(off) >= 180.0 - MERIDIAN_DEG
        angle = np.concatenate((self.cells.elevation_deg[ahead], 180.0 - self.cells.elevation_deg[behind]))
        level = np.concatenate((self.cells.level_db[ahead], self.cells.level_db[behind]))
        leg = np.concatenate((self.cells.leg[ahead], self.cells.leg[behind]))
        return self._samples("elevation", angle % 360.0, level, leg, None)


def _exponent(tracks: Sequence[Track]) -> tuple[float, float]:
    """(n, u) of the path: 2 where it was flown, or was in the air; on the ground what one direction at different distances tells,
    and the usual where that is little."""
    if all(track.run.manner == "flight" or track.in_the_air for track in tracks):
        return 2.0, 0.0
    far = np.concatenate([np.log10(t.distance_m[t.counts]) for t in tracks])
    level = np.concatenate([t.level_db[t.counts] for t in tracks])
    cell = np.concatenate([(t.azimuth_deg[t.counts] / 15.0).astype(int) + 24 * i for i, t in enumerate(tracks)])
    count = np.maximum(np.bincount(cell), 1)
    x = far - (np.bincount(cell, far) / count)[cell]
    y = level - (np.bincount(cell, level) / count)[cell]
    spread = float(x @ x)
    if spread < 1e-6:
        return PRIOR_EXPONENT, PRIOR_U
    slope = -float(x @ y) / spread / 10.0
    left = y + 10.0 * slope * x
    # Neighbours on the ground are alike: a tenth of them say something of their own.
    u = math.sqrt(float(left @ left) / max(len(y) - len(count) - 1, 1) / spread * 10.0) / 10.0
    weight, prior = 1.0 / max(u, 1e-3) ** 2, 1.0 / PRIOR_U**2
    return (weight * slope + prior * PRIOR_EXPONENT) / (weight + prior), math.sqrt(1.0 / (weight + prior))


def _pitch(tracks: Sequence[Track]) -> float:
    steps = []
    for track in tracks:
        a, e = track.azimuth_deg[track.counts], track.elevation_deg[track.counts]
        if len(a) > 1:
            turn = (np.diff(a) + 180.0) % 360.0 - 180.0
            steps.append(median(np.hypot(turn * np.cos(np.radians(e[1:])), np.diff(e))))
    return float(np.clip(1.2 * max(steps, default=COARSEST_DEG), FINEST_DEG, COARSEST_DEG))


def _on_one_footing(cells: Cells, run: NDArray[np.int64]) -> tuple[Floats, Floats]:
    """(levels with each run's own offset taken out, the offsets): what runs were stronger by in the same directions (cells of
    10°), in the mean of all runs none."""
    level = cells.level_db.copy()
    off = np.zeros(int(run.max(initial=0)) + 1)
    coarse = (cells.azimuth_deg / 10.0).astype(np.int64) + 36 * ((cells.elevation_deg + 90.0) / 10.0).astype(np.int64)
    _, coarse = np.unique(coarse, return_inverse=True)
    count, of_run = np.bincount(coarse), np.maximum(np.bincount(run), 1)
    for _ in range(12 if len(off) > 1 else 0):
        place = np.bincount(coarse, level) / count
        step = np.bincount(run, level - place[coarse]) / of_run
        step -= step.mean()
        off += step
        level -= step[run]
    return np.asarray(level), off


def _sent_db(run: Run) -> float:
    """What was sent, as far as it was noted: runs of which it was not are taken to have sent alike."""
    return (10.0 * math.log10(run.power_w * 1e3) if run.power_w else 0.0) - run.pad_db


def _flown(antenna: Antenna, state_id: str, tracks: Sequence[Track]) -> Flown | None:
    """None where it went round too little of it to tell a pattern."""
    if sum(int(t.counts.sum()) for t in tracks) < FEWEST_CELLS:
        return None
    exponent, exponent_u = _exponent(tracks)
    pitch = _pitch(tracks)
    columns, first = [], 0
    for number, track in enumerate(tracks):
        one = track.where(track.counts)
        if not len(one.level_db):
            continue
        level = one.level_db + 10.0 * exponent * np.log10(one.distance_m) - _sent_db(one.run)
        leg = legs_of(one.azimuth_deg, one.elevation_deg) + first
        first = int(leg[-1]) + 1
        columns.append((gather(one.azimuth_deg, one.elevation_deg, level, leg, pitch), number))
    joined = [np.concatenate(parts) for parts in zip(*(cells.columns for cells, _ in columns), strict=True)]
    run = np.concatenate([np.full(len(cells.level_db), i) for i, (cells, _) in enumerate(columns)])
    cells = Cells(*joined)
    turned = 10.0 * distinct(cells.azimuth_deg / 10.0)
    rise = float(np.ptp(cells.elevation_deg)) if len(cells.elevation_deg) else 0.0
    if len(cells.level_db) < FEWEST_CELLS or (turned < LEAST_TURN_DEG and rise < LEAST_RISE_DEG):
        return None
    level, off = _on_one_footing(cells, run)
    mean = float(level.mean())
    cells = Cells(cells.azimuth_deg, cells.elevation_deg, level - mean, cells.count, cells.leg)
    return Flown(
        antenna, state_id, tuple(tracks), cells, shape(cells), pitch, exponent, exponent_u, mean, tuple(off.tolist())
    )


def _best_known(tracks: list[Track]) -> list[Track]:
    """Those of which it is known where the antenna looked, and how high they were, where there are any: others would put levels
    into directions that they do not belong to."""
    tracks = [track for track in tracks if track.pointing.noted] or tracks
    return [track for track in tracks if track.heights != "none"] or tracks


def goes_round_antenna(evidence: Evidence, logs: Sequence[tuple[Run, Log]]) -> bool:
    """Whether logs together go round enough of an antenna to tell a pattern: a way out and back is not read any further."""
    ways = [way for run, log in logs if (way := way_round(evidence, run, log)) is not None]
    if not ways:
        return False
    bearing, above = (np.concatenate(parts) for parts in zip(*ways, strict=True))
    if not len(bearing):
        return False
    # Of something that flew off, only the first moments were high up.
    rise = percentile(above, 90.0) - percentile(above, 10.0)
    return 10.0 * distinct(bearing / 10.0) >= LEAST_TURN_DEG or rise >= LEAST_RISE_DEG


def gather_flown(evidence: Evidence, displays: Mapping[str, DisplayFinding]) -> tuple[Flown, ...]:
    """What was flown round each antenna in each state."""
    question = evidence.question
    logged: dict[tuple[str, str], list[tuple[Run, Log]]] = {}
    for run in evidence.runs:
        antenna = evidence.antenna(run.antenna_id)
        if antenna is not None and run.manner in ROUND and (run.channel_hz or question is not None):
            of_antenna = logged.setdefault((antenna.id, run.state_id or antenna.state.id), [])
            of_antenna += [(run, log) for log in evidence.logs(run.id)]
    tracks: dict[tuple[str, str], list[Track]] = {}
    for key, logs in logged.items():
        if not goes_round_antenna(evidence, logs):
            continue
        antenna = evidence.antenna(key[0])
        assert antenna is not None
        for run, log in logs:
            frequency_hz = run.channel_hz or (question.centre_hz if question is not None else 0.0)
            track = read_track(evidence, run, log, antenna, frequency_hz, displays)
            if track is not None:
                tracks.setdefault(key, []).append(track)
    out = []
    for (antenna_id, state_id), all_ in tracks.items():
        mine = _best_known(all_)
        antenna = evidence.antenna(antenna_id)
        assert antenna is not None
        found = _flown(antenna, state_id, mine)
        if found is not None:
            out.append(found)
    return tuple(out)
