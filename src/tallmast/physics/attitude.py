"""Where something is seen from an antenna that looks somewhere: bearings, elevations, and an antenna's own frame.

Bearings run clockwise from north, azimuths in an antenna's own frame clockwise from its front as seen from above, elevations
up from the horizon or from its own equator. An antenna looks to an azimuth, is tilted up from the horizon, and rolled about
its own axis clockwise as seen from behind; an aircraft the same by heading, pitch and bank (ISO 1151-1). All in degrees.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from .decibels import Floats
from .geodesy import SEMI_MAJOR_M, distance_and_bearing


def sight(
    latitude_deg: float,
    longitude_deg: float,
    height_m: float,
    there_latitude_deg: ArrayLike,
    there_longitude_deg: ArrayLike,
    there_height_m: ArrayLike,
) -> tuple[Floats, Floats, Floats]:
    """(slant distance m, bearing, elevation) of points [n] from one, heights above one and the same level.

    The ground falls away by d²/2R (a sphere: below 1 cm of the ellipsoid up to 10 km); rays are straight, since within the
    few kilometres of a flight refraction lifts by less than 0.01°.
    """
    ground, bearing = distance_and_bearing(latitude_deg, longitude_deg, there_latitude_deg, there_longitude_deg)
    rise = np.asarray(there_height_m, dtype=float) - height_m - ground**2 / (2.0 * SEMI_MAJOR_M)
    return np.hypot(ground, rise), bearing, np.degrees(np.arctan2(rise, np.maximum(ground, 1e-9)))


def pointing(azimuth_deg: ArrayLike, elevation_deg: ArrayLike) -> Floats:
    """Unit vectors (front, right, up) of directions: the shape of both, broadcast, and a last axis of 3."""
    a, e = np.broadcast_arrays(np.radians(azimuth_deg), np.radians(elevation_deg))
    level = np.cos(e)
    return np.stack((level * np.cos(a), level * np.sin(a), np.sin(e)), axis=-1)


def directions(vectors: ArrayLike) -> tuple[Floats, Floats]:
    """(azimuth 0…360, elevation) of vectors (front, right, up) [..., 3], of any length."""
    v = np.asarray(vectors, dtype=float)
    azimuth = np.degrees(np.arctan2(v[..., 1], v[..., 0])) % 360.0
    level = np.hypot(v[..., 0], v[..., 1])
    return np.where(azimuth >= 360.0, 0.0, azimuth), np.degrees(np.arctan2(v[..., 2], level))


def axes(azimuth_deg: ArrayLike, tilt_deg: ArrayLike = 0.0, roll_deg: ArrayLike = 0.0) -> Floats:
    """Its own front, right and up as rows, in (north, east, up): the shape of all three, broadcast, and 3 × 3."""
    a, t, r = np.broadcast_arrays(*(np.radians(v) for v in (azimuth_deg, tilt_deg, roll_deg)))
    ca, sa, ct, st, cr, sr = np.cos(a), np.sin(a), np.cos(t), np.sin(t), np.cos(r), np.sin(r)
    flat = np.zeros_like(ca)
    front = np.stack((ct * ca, ct * sa, st), axis=-1)
    right = np.stack((-sa, ca, flat), axis=-1)
    up = np.stack((-st * ca, -st * sa, ct), axis=-1)
    # Rolled clockwise as seen from behind its right side sinks, and its top leans to the right.
    rolled = cr[..., None] * right - sr[..., None] * up
    leaning = sr[..., None] * right + cr[..., None] * up
    return np.stack((front, rolled, leaning), axis=-2)


def seen(
    bearing_deg: ArrayLike,
    elevation_deg: ArrayLike,
    azimuth_deg: ArrayLike,
    tilt_deg: ArrayLike = 0.0,
    roll_deg: ArrayLike = 0.0,
) -> tuple[Floats, Floats]:
    """(azimuth 0…360, elevation) in its own frame of directions on the ground's; shapes broadcast."""
    along = pointing(bearing_deg, elevation_deg)  # its "front" is north here
    return directions(np.einsum("...ij,...j->...i", axes(azimuth_deg, tilt_deg, roll_deg), along))
