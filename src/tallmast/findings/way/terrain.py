"""The ground toward a place, as it was noted and as rasters have it, and what stands on it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Conditions, Obstacle, Place
from tallmast.physics.decibels import Floats

from .heights import Heights, height_at
from .profile import EDGE_SHARE, Profile

POINTS = 400
"""Of a profile, at most; and FEWEST at least."""
FEWEST = 60
LEAST_STEP_M = 5.0
NO_HEIGHTS_U_M = 2.0
"""Standard uncertainty of a typed height, and of ground that is taken to be level."""
BUILDING_M = 15.0
"""How deep a building is that nobody said the depth of."""


def conditions_of(evidence: Evidence) -> Conditions:
    """As noted; the usual air where nobody noted any."""
    noted = evidence.all(Conditions)
    return noted[-1] if noted else Conditions()


def _raised(profile_m: Floats, ground_m: Floats, obstacle: Obstacle) -> Floats:
    """The ground with something standing on it."""
    whole, near = float(profile_m[-1]), obstacle.from_m
    if obstacle.what == "building" or obstacle.to_m is not None:
        far = obstacle.to_m if obstacle.to_m is not None else near + BUILDING_M
        there = (profile_m >= near) & (profile_m <= far)
        if not there.any():
            there[int(np.argmin(np.abs(profile_m - near)))] = True
        return np.where(there, ground_m + obstacle.height_m, ground_m)
    # An edge: highest where it stands, gone a little way off.
    off = np.abs(profile_m - profile_m[int(np.argmin(np.abs(profile_m - near)))]) / (EDGE_SHARE * whole)
    return np.asarray(ground_m + obstacle.height_m * np.maximum(1.0 - off, 0.0))


def _ground(heights: Sequence[Heights], home: Place | None, place: Place | None, n: int) -> tuple[Floats, float | None]:
    """(ground [n] between two places, share of it that no raster has; None where most of it is known by none and it is taken as level,
    as low as the lower end)."""
    ends = [p.ground_m if p is not None else None for p in (home, place)]
    ground = np.full(n, np.nan)
    if heights and home is not None and place is not None and home.position and place.position:
        lat, lon = (np.linspace(a, b, n) for a, b in zip(home.position, place.position, strict=True))
        ground = height_at(heights, lat, lon)
    there = np.isfinite(ground)
    if there.mean() <= 0.5:
        one, other = (e if e is not None else next((o for o in ends if o is not None), 0.0) for e in ends)
        ground[:] = min(one, other)  # whoever stands higher stands on a hill
        ground[0], ground[-1] = one, other
        return ground, None
    ground = np.interp(np.arange(n), np.flatnonzero(there), ground[there])
    for i, end in ((0, ends[0]), (-1, ends[1])):
        ground[i] = end if end is not None else ground[i]
    return ground, float(1.0 - there.mean())


def along(
    evidence: Evidence,
    heights: Sequence[Heights],
    home: Place | None,
    place: Place | None,
    distance_m: float,
    frequency_hz: float,
    vertical: bool = True,
    wanted: bool = True,
) -> Profile:
    """From home to a place, or so far over ground that nobody knows. Typed obstacles stand on what the raster has; what a raster of the
    surface shows already does not stand there twice. `wanted`: whether it is the place to be reached, to which obstacles belong that
    are toward nothing else."""
    n = int(np.clip(distance_m / LEAST_STEP_M, FEWEST, POINTS))
    d = np.linspace(0.0, distance_m, n)
    ground, void = _ground(heights, home, place, n)
    shown = void is not None and heights[0].record.shows == "surface"
    mine = tuple(o for o in evidence.all(Obstacle) if _on_the_way(o, place, wanted, distance_m))
    top, woods = ground.copy(), np.full(n, np.nan)
    for obstacle in mine:
        if obstacle.loss_db is not None or obstacle.what == "wall":
            continue
        raised = _raised(d, ground, obstacle)
        if obstacle.what == "woods":
            there = raised > ground
            # What the raster shows there are the tree-tops: the ground lies under them.
            woods = np.where(there, np.fmax(woods, ground if shown else raised), woods)
            top = np.where(there, top - obstacle.height_m, top) if shown else top
        elif not shown:
            top = np.maximum(top, raised)
    top[0], top[-1] = ground[0], ground[-1]
    return Profile(
        place=place,
        distance_m=d,
        found_m=ground,
        ground_m=np.minimum(ground, top) if shown else ground,
        top_m=top,
        woods_m=woods,
        home_height_m=max(home.height_m if home else 2.0, 0.1),
        away_height_m=max(place.height_m if place else 2.0, 0.1),
        conditions=conditions_of(evidence),
        frequency_hz=frequency_hz,
        obstacles=mine,
        by_raster=void is not None,
        void_share=void or 0.0,
        height_u_m=heights[0].record.u_m if void is not None else NO_HEIGHTS_U_M,
        vertical=vertical,
        noted_ground_m=(home.ground_m if home else None, place.ground_m if place else None),
    )


def _on_the_way(obstacle: Obstacle, place: Place | None, wanted: bool, distance_m: float) -> bool:
    if obstacle.from_m >= distance_m:
        return False
    return (
        obstacle.toward_id == place.id
        if obstacle.toward_id and place is not None
        else wanted and not obstacle.toward_id
    )
