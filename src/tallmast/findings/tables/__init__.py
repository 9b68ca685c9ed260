"""The tables of each rung, one module a rung."""

from . import bench, field, levels, link, pattern, shelf, verdict

__all__ = ["bench", "field", "levels", "link", "pattern", "shelf", "verdict"]
