"""Field: the distance test, compared by place, with what changed between runs in view.

`runs` tells what changed; `samples` brings levels, distances and cells together; `compare` pairs runs by place;
`path` fits the fall with distance; `finding` is what comes of it, `checks` its checks, `tell` puts it into words.
"""

from .finding import FieldFinding
from .tell import find

__all__ = ["FieldFinding", "find"]
