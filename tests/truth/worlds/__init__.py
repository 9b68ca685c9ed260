"""The worlds, one module a rung; importing this registers every quantity."""

from . import bench, polarization

__all__ = ["bench", "polarization"]
