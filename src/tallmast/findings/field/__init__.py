"""Field: the distance test, compared by place, with what changed between runs in view.

`runs` tells what changed; `samples` brings levels, distances and cells together; `compare` pairs runs by place;
`path` fits the fall with distance; `tell` puts it into words.
"""

from .tell import FieldFinding, find

__all__ = ["FieldFinding", "find"]
