"""The worlds, one module a rung; importing this registers every quantity."""

from . import bench, pattern, polarization

__all__ = ["bench", "pattern", "polarization"]
