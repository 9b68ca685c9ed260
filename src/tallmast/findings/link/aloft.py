"""What flew away from an antenna: where picture, telemetry and control were each lost and back, what the beam and the ground took there, and
what a tracker may lag."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence, Series
from tallmast.notebook.records import Log, Place, Run
from tallmast.physics.attitude import sight
from tallmast.physics.decibels import Floats
from tallmast.physics.geodesy import distance_and_bearing

from ..pattern import Mounted
from ..pattern.track import heights_of, pointing_of
from ..way.heights import Heights, height_at
from ..way.profile import Profile
from ..way.terrain import along

WINDOW_S, LEAST_ROWS = 2.0, 5
"""So long most of what arrives has to be of no use for a link to be called lost, and of use to be called back."""
NEAREST_M = 50.0
HALF_POWER_DB = -3.0
QUICK = 95.0
"""Per cent of the way on which a tracker has to turn no quicker."""
WORST_TENTH = 10.0
MOST_EVENTS = 4
ALONG_DEG = 20.0
FLOWN = ("flight",)


class Moment(Frozen):
    """Where it was when something was lost, or back."""

    row: int
    distance_m: float
    bearing_deg: float
    above_deg: float
    """Elevation, as seen from the antenna."""
    off_beam_deg: float | None
    """Over (or, below zero, under) where the antenna is tilted to; None where its tilt is not noted."""
    beam_db: tuple[float, float] | None
    """(what the antenna gives there against its peak, u) dB; None of one that is not known."""
    way: Profile | None
    """The ground between; None where nothing is noted of it."""


class Spell(Frozen):
    """A link lost, and back or not."""

    lost: Moment
    back: Moment | None


class Carried(Frozen):
    """One of the links that flew."""

    name: str
    below: float | None
    """Of no use below it; None: only where nothing arrived."""
    spells: tuple[Spell, ...]
    farthest_m: float
    """That it was of use at."""


class Tracker(Frozen):
    """What turning a beam after what flies asks for."""

    half_deg: float
    """Off its front the antenna has lost half of its power."""
    rate_deg_s: float
    lag_s: float
    """So late it may be on the quickest part of the way before half the power is lost."""
    stuck_db: float
    """Against its peak, in the worst tenth of the rest, were it left standing where it lost its target."""


class Aloft(Frozen):
    """One flight away from an antenna."""

    run: Run
    log: Log
    links: tuple[Carried, ...]
    """In the order in which they were lost, those that held last."""
    tracker: Tracker | None
    ground_m: Floats
    """Of every row, from the antenna; the heights over the ground at it, `up_m`; both [row]."""
    up_m: Floats
    antenna_m: float
    """Over the ground at it."""
    tilt_deg: float | None
    half_up_deg: float | None
    """Over and under where it is tilted the antenna has lost half of its power; None of one that looks up and down alike."""
    way: Profile | None
    """Toward the farthest point; None where nothing is noted of the ground."""


class _Way(Frozen):
    """A flight seen from the antenna, all [row]."""

    ground_m: Floats
    bearing_deg: Floats
    above_deg: Floats
    up_m: Floats
    """Over the ground at the antenna."""
    latitude_deg: Floats
    longitude_deg: Floats
    time_s: Floats | None


def _seen(evidence: Evidence, run: Run, log: Log, series: Series) -> tuple[Place, _Way] | None:
    place = evidence.place(run.place_id) or evidence.home
    height, _, _ = heights_of(log, series)
    if place is None or place.position is None or height is None:
        return None
    own = run.height_m if run.height_m is not None else place.height_m
    latitude, longitude = series["latitude_deg"], series["longitude_deg"]
    slant, bearing, above = sight(*place.position, own, latitude, longitude, height)
    time = series.get("time_s")
    known = time if time is not None and np.isfinite(time).all() else None
    ground = slant * np.cos(np.radians(above))
    return place.revised(height_m=own), _Way(ground, bearing, above, height, latitude, longitude, known)


def _of_no_use(values: Floats, below: float | None) -> NDArray[np.bool_]:
    bad = ~np.isfinite(values)
    return bad if below is None else np.asarray(bad | (np.nan_to_num(values, nan=-math.inf) < below))


def _mostly(bad: NDArray[np.bool_], time_s: Floats | None) -> NDArray[np.bool_]:
    """Whether most of the rows about each are bad, so that one packet makes no loss."""
    step = float(np.median(np.diff(time_s))) if time_s is not None and len(time_s) > 1 else 0.0
    rows = max(round(WINDOW_S / step) if step > 0 else LEAST_ROWS, LEAST_ROWS)
    rows = min(rows, max(len(bad) // 4, 1))
    total = np.cumsum(np.concatenate(([0], bad.astype(int))))
    at = np.arange(len(bad))
    low, high = np.maximum(at - rows // 2, 0), np.minimum(at - rows // 2 + rows, len(bad))
    return np.asarray((total[high] - total[low]) > 0.5 * (high - low))


def _spells(lost: NDArray[np.bool_]) -> Iterator[tuple[int, int | None]]:
    """(first row lost, first row back or None) of each spell."""
    edges = np.flatnonzero(np.diff(np.concatenate(([0], lost.astype(int), [0]))))
    for first, end in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        yield first, end if end < len(lost) else None


class _Looker:
    """Says of a row what the antenna and the ground make of it."""

    def __init__(
        self,
        evidence: Evidence,
        home: Place,
        run: Run,
        way: _Way,
        mounted: Mounted | None,
        heights: Sequence[Heights],
        hz: float,
    ) -> None:
        self.evidence, self.home, self.way, self.heights, self.hz = evidence, home, way, heights, hz
        held = pointing_of(evidence, run)
        self.mounted = mounted
        if mounted is not None and held.noted:
            self.mounted = replace(mounted, looks_deg=held.azimuth_deg)
        if self.mounted is not None and held.tilt_deg:
            self.mounted = replace(self.mounted, tilt_deg=held.tilt_deg)

    def moment(self, row: int) -> Moment:
        way, one = self.way, self.mounted
        bearing, above = float(way.bearing_deg[row]), float(way.above_deg[row])
        off = above - one.tilt_deg if one is not None and one.tilt_deg is not None else None
        beam = None
        if one is not None:
            level = float(one.level_db(bearing, above, bearing))
            beam = level, float(one.u_db(level))
        return Moment(row, float(way.ground_m[row]), bearing, above, off, beam, self._profile(row))

    def _profile(self, row: int) -> Profile | None:
        """From home to where it was; None where nothing is noted of what lies between."""
        way, far = self.way, float(self.way.ground_m[row])
        if far < NEAREST_M:
            return None
        at = float(way.latitude_deg[row]), float(way.longitude_deg[row])
        ground_home = self._ground(*self.home.position) if self.home.position is not None else 0.0
        over = max(ground_home + float(way.up_m[row]) - self._ground(*at), 0.5)
        there = Place(name="aloft", latitude_deg=at[0], longitude_deg=at[1], height_m=over)
        profile = along(
            self.evidence,
            self.heights,
            self.home,
            there,
            far,
            self.hz,
            wanted=self._wanted_way(float(way.bearing_deg[row])),
        )
        return profile if profile.known else None

    def _wanted_way(self, bearing_deg: float) -> bool:
        """Whether it flew where the place to be reached lies, so that what was typed on the way there stands before it too."""
        wanted = self.evidence.wanted
        if wanted is None or wanted.position is None or self.home.position is None:
            return True
        toward = float(distance_and_bearing(*self.home.position, *wanted.position)[1])
        return abs((bearing_deg - toward + 180.0) % 360.0 - 180.0) < ALONG_DEG

    def _ground(self, latitude_deg: float, longitude_deg: float) -> float:
        found = float(height_at(self.heights, latitude_deg, longitude_deg)) if self.heights else math.nan
        if math.isfinite(found):
            return found
        return self.home.ground_m if self.home.ground_m is not None else 0.0


def _links(log: Log, series: Series) -> list[tuple[str, float | None, Floats]]:
    """(name, of no use below, readings) of the level and of what was logged beside it."""
    columns = [("level_dbm" if "level_dbm" in series else "shown", log.mapping.get("level_dbm", "the level"))]
    columns += [(one.key, one.name) for one in log.beside]
    out = []
    for i, (key, name) in enumerate(columns):
        limit = log.lost[i] if i < len(log.lost) else None
        if key in series:
            out.append((limit.name if limit else name, limit.below if limit else None, np.asarray(series[key])))
    return out


def _carried(name: str, below: float | None, values: Floats, way: _Way, looker: _Looker) -> Carried:
    lost = _mostly(_of_no_use(values, below), way.time_s)
    spells = tuple(
        Spell(looker.moment(first), looker.moment(end) if end is not None else None)
        for first, end in list(_spells(lost))[:MOST_EVENTS]
    )
    held = way.ground_m[~lost]
    return Carried(name, below, spells, float(held.max()) if len(held) else 0.0)


def _tracker(way: _Way, looker: _Looker, first_lost: int | None) -> Tracker | None:
    """None of an antenna that looks all round or stood still, and of a way without times."""
    one = looker.mounted
    if one is None or one.all_round or one.looks_deg is not None or way.time_s is None or len(way.time_s) < 10:
        return None
    turned = np.arange(0.0, 181.0, 0.5)
    past = np.flatnonzero(
        one.level_db(turned, one.tilt_deg or 0.0, 0.0) - one.level_db(0.0, one.tilt_deg or 0.0, 0.0) <= HALF_POWER_DB
    )
    if not len(past):
        return None
    far = way.ground_m > NEAREST_M
    angle = np.degrees(np.unwrap(np.radians(way.bearing_deg)))
    seconds = np.maximum(np.gradient(way.time_s), 1e-3)
    rate = np.abs(np.gradient(angle) / seconds)[far]
    if not len(rate):
        return None
    quick, half = float(np.percentile(rate, QUICK)), float(turned[past[0]])
    since = first_lost if first_lost is not None else int(np.argmax(way.ground_m))
    rest = slice(since, None)
    stuck = replace(one, looks_deg=float(way.bearing_deg[since])).level_db(
        way.bearing_deg[rest], way.above_deg[rest], 0.0
    )
    return Tracker(half, quick, half / max(quick, 1e-6), float(np.percentile(stuck, WORST_TENTH)))


def _half_up(one: Mounted | None) -> float | None:
    if one is None:
        return None
    tilt, turned = one.tilt_deg or 0.0, np.arange(0.0, 60.0, 0.5)
    past = np.flatnonzero(one.level_db(0.0, tilt + turned, 0.0) <= HALF_POWER_DB)
    return float(turned[past[0]]) if len(past) else None


def aloft(evidence: Evidence, mounted: Mapping[str, Mounted], heights: Sequence[Heights]) -> tuple[Aloft, ...]:
    """Every flight whose log has heights and something to be lost, in the order of the runs."""
    question, out = evidence.question, []
    if question is None:
        return ()
    for log in evidence.all(Log):
        run = evidence.get(Run, log.run_id)
        if run is None or run.manner not in FLOWN or not (log.beside or log.lost):
            continue
        series = evidence.series(log.series_id)
        seen = _seen(evidence, run, log, series)
        if seen is None:
            continue
        home, way = seen
        looker = _Looker(evidence, home, run, way, mounted.get(run.antenna_id), heights, question.centre_hz)
        links = [_carried(*link, way, looker) for link in _links(log, series)]
        links.sort(key=lambda one: one.spells[0].lost.row if one.spells else len(way.ground_m))
        first = next((one.spells[0].lost.row for one in links if one.spells), None)
        tilt = looker.mounted.tilt_deg if looker.mounted is not None else None
        far = looker.moment(int(np.argmax(way.ground_m))).way
        out.append(
            Aloft(
                run,
                log,
                tuple(links),
                _tracker(way, looker, first),
                way.ground_m,
                way.up_m,
                home.height_m,
                tilt,
                _half_up(looker.mounted),
                far,
            )
        )
    return tuple(sorted(out, key=lambda one: one.run.number))
