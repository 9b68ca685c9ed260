"""The worlds, one module a rung; importing this registers every quantity."""

from . import bench, levels, pattern, polarization

__all__ = ["bench", "levels", "pattern", "polarization"]
