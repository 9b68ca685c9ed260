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


def distance_and_bearing(
    latitude_a_deg: ArrayLike, longitude_a_deg: ArrayLike, latitude_b_deg: ArrayLike, longitude_b_deg: ArrayLike
) -> tuple[Floats, Floats]:
    """Geodesic distance (m) and starting bearing (degrees from north, 0…360) from A to B.

    Karney's method by way of PROJ (Algorithms for geodesics, J. Geodesy 87, 2013): good to a nanometre, and
    the same distance both ways. Shapes broadcast.
    """
    la, lo, lb, lob = np.broadcast_arrays(latitude_a_deg, longitude_a_deg, latitude_b_deg, longitude_b_deg)
    forward, _, metres = _ellipsoid().inv(*(np.array(v, dtype=float).ravel() for v in (lo, la, lob, lb)))
    shape = la.shape
    return np.asarray(metres, dtype=float).reshape(shape), np.asarray(forward, dtype=float).reshape(shape) % 360.0


def destination(
    latitude_deg: float, longitude_deg: float, bearing_deg: float, distance_m: float
) -> tuple[float, float]:
    """(latitude, longitude) reached from a point along a bearing, degrees."""
    lon, lat, _ = _ellipsoid().fwd(longitude_deg, latitude_deg, bearing_deg, distance_m)
    return float(lat), float(lon)


def local_metres(
    latitude_deg: ArrayLike, longitude_deg: ArrayLike, origin_latitude_deg: float, origin_longitude_deg: float
) -> tuple[Floats, Floats]:
    """East and north of an origin, m: the azimuthal equidistant picture, true in distance and bearing from it."""
    metres, bearing = distance_and_bearing(origin_latitude_deg, origin_longitude_deg, latitude_deg, longitude_deg)
    angle = np.radians(bearing)
    return np.asarray(metres * np.sin(angle)), np.asarray(metres * np.cos(angle))
