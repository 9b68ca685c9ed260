"""The worlds, one module a rung; importing this registers every quantity."""

from . import (
    bench,
    beyond,
    covered,
    designs,
    field,
    heard,
    levels,
    link,
    orbits,
    pattern,
    polarization,
    ranges,
    recorded,
    tracks,
    turned,
    ways,
)

__all__ = [
    "bench",
    "beyond",
    "covered",
    "designs",
    "field",
    "heard",
    "levels",
    "link",
    "orbits",
    "pattern",
    "polarization",
    "ranges",
    "recorded",
    "tracks",
    "turned",
    "ways",
]
