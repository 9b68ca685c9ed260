"""Distances and bearings on the WGS 84 ellipsoid, and a flat map around a point."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike

from .decibels import Floats

if TYPE_CHECKING:
    from pyproj import Geod


@lru_cache(maxsize=1)
def _ellipsoid() -> Geod:
    from pyproj import Geod

    return Geod(ellps="WGS84")


SEMI_MAJOR_M = 6_378_137.0
FLATTENING = 1.0 / 298.257223563
"""WGS 84."""

SHORT_M = 50_000.0
"""Up to here `distance_and_bearing` goes by the chord."""
BLOCK = 8192


def distance_and_bearing(
    latitude_a_deg: ArrayLike, longitude_a_deg: ArrayLike, latitude_b_deg: ArrayLike, longitude_b_deg: ArrayLike
) -> tuple[Floats, Floats]:
    """Geodesic distance (m) and starting bearing (degrees from north, 0…360) from A to B on WGS 84.

    Lines of up to 50 km by the chord between the two points, bent by the ellipsoid's curvature in that direction:
    within 1 cm and 0.001° of the geodesic, a hundred thousand a hundredth of a second, and PROJ need not be loaded.
    If any line is longer, all go by Karney's method through PROJ (Algorithms for geodesics, J. Geodesy 87, 2013).
    The same distance both ways. Shapes broadcast.
    """
    arrays = [np.asarray(v, dtype=float) for v in (latitude_a_deg, longitude_a_deg, latitude_b_deg, longitude_b_deg)]
    metres, bearing = _in_blocks(*arrays)
    if metres.size == 0 or float(np.max(metres)) <= SHORT_M:
        return metres, bearing
    la, lo, lb, lob = np.broadcast_arrays(*arrays)
    forward, _, far = _ellipsoid().inv(*(np.array(v).ravel() for v in (lo, la, lob, lb)))
    shape = la.shape
    return np.asarray(far, dtype=float).reshape(shape), np.asarray(forward, dtype=float).reshape(shape) % 360.0


def _in_blocks(la: Floats, lo: Floats, lb: Floats, lob: Floats) -> tuple[Floats, Floats]:
    """Many lines from one point by the chord, as many at a time as the processor keeps at hand: half the time."""
    if la.ndim or lo.ndim or lb.ndim != 1 or lb.shape != lob.shape or len(lb) <= BLOCK:
        return _by_chord(la, lo, lb, lob)
    metres, bearing = np.empty(len(lb)), np.empty(len(lb))
    for start in range(0, len(lb), BLOCK):
        block = slice(start, start + BLOCK)
        metres[block], bearing[block] = _by_chord(la, lo, lb[block], lob[block])
    return metres, bearing


def _by_chord(la: Floats, lo: Floats, lb: Floats, lob: Floats) -> tuple[Floats, Floats]:
    """Earth-centred coordinates of both ends; the chord seen from A as east, north, up.

    s = c·(1 + c²/24R²) with Euler's radius R of the normal section at A (Torge, Geodesy, §4.1 and §6.2).
    """
    e2 = FLATTENING * (2.0 - FLATTENING)
    phi_a, lam_a, phi_b, lam_b = (np.radians(v) for v in (la, lo, lb, lob))
    sin_a, cos_a, sin_b, cos_b = np.sin(phi_a), np.cos(phi_a), np.sin(phi_b), np.cos(phi_b)
    across_a = SEMI_MAJOR_M / np.sqrt(1.0 - e2 * sin_a**2)
    across_b = SEMI_MAJOR_M / np.sqrt(1.0 - e2 * sin_b**2)
    turn = lam_b - lam_a
    # In the meridian frame of A: x toward its meridian, y east, z along the axis.
    from_axis = across_b * cos_b
    x = from_axis * np.cos(turn) - across_a * cos_a
    y = from_axis * np.sin(turn)
    z = (1.0 - e2) * (across_b * sin_b - across_a * sin_a)
    north = -sin_a * x + cos_a * z
    chord2 = x * x + y * y + z * z
    flat2 = np.maximum(y * y + north * north, 1e-18)
    along_a = across_a * (1.0 - e2) / (1.0 - e2 * sin_a**2)
    curvature = (north * north / along_a + y * y / across_a) / flat2
    metres = np.sqrt(chord2) * (1.0 + chord2 * curvature**2 / 24.0)
    bearing = np.asarray(np.degrees(np.arctan2(y, north)))
    # Of what lies within half a turn, quicker than a remainder; a hair west of north must not come out as 360.
    bearing = np.where(bearing < 0.0, bearing + 360.0, bearing)
    return np.asarray(metres), np.where(bearing >= 360.0, 0.0, bearing)


def destination(
    latitude_deg: float, longitude_deg: float, bearing_deg: float, distance_m: float
) -> tuple[float, float]:
    """(latitude, longitude) reached from a point along a bearing, degrees."""
    lon, lat, _ = _ellipsoid().fwd(longitude_deg, latitude_deg, bearing_deg, distance_m)
    return float(lat), float(lon)


def around(latitude_deg: float, longitude_deg: float, east_m: ArrayLike, north_m: ArrayLike) -> tuple[Floats, Floats]:
    """(latitude, longitude) of points east and north of an origin, shapes broadcast: `local_metres` turned about.

    By the radii of curvature at the origin, to second order (Torge, Geodesy, §4.1): within 2 m up to 30 km and 9 m up to 50, as far
    as 70° from the equator.
    """
    e, n = np.asarray(east_m, dtype=float), np.asarray(north_m, dtype=float)
    e2, phi = FLATTENING * (2.0 - FLATTENING), np.radians(latitude_deg)
    root2 = 1.0 - e2 * np.sin(phi) ** 2
    across = SEMI_MAJOR_M / np.sqrt(root2)
    along = across * (1.0 - e2) / root2
    bent = 1.5 * e2 * np.sin(phi) * np.cos(phi) / (along**2 * root2)
    up = n / along - e**2 * np.tan(phi) / (2.0 * along * across) - bent * n**2
    aside = e / (across * np.cos(phi)) * (1.0 + n * np.tan(phi) / along)
    return np.asarray(latitude_deg + np.degrees(up)), np.asarray(longitude_deg + np.degrees(aside))


def local_metres(
    latitude_deg: ArrayLike, longitude_deg: ArrayLike, origin_latitude_deg: float, origin_longitude_deg: float
) -> tuple[Floats, Floats]:
    """East and north of an origin, m: the azimuthal equidistant picture, true in distance and bearing from it.

    Shapes broadcast; good to a hundred kilometres or so, as a picture.
    """
    metres, bearing = distance_and_bearing(origin_latitude_deg, origin_longitude_deg, latitude_deg, longitude_deg)
    angle = np.radians(bearing)
    return np.asarray(metres * np.sin(angle)), np.asarray(metres * np.cos(angle))
