"""What a notebook holds: one class a kind of record, one module a rung.

A record is a fact as somebody entered, measured or imported it; nothing computed is kept. SI units, or the
unit in the field's name. Records are frozen: an edit is a new revision with the same `id` (see `store`). A kind declares
all of itself in its class: see `base` and `asked`.
"""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from .base import *  # noqa: F403
from .base import Record
from .bench import *  # noqa: F403
from .directions import *  # noqa: F403
from .field import *  # noqa: F403
from .levels import *  # noqa: F403
from .link import *  # noqa: F403
from .lists import *  # noqa: F403
from .pattern import *  # noqa: F403
from .shelf import *  # noqa: F403
from .stations import *  # noqa: F403

_MODULES = ("shelf", "bench", "levels", "stations", "pattern", "field", "link")


def _kinds(model: type[Record]) -> Iterator[type[Record]]:
    """The classes built on one that are a kind: some only say what several have in common."""
    for other in model.__subclasses__():
        if other.kind:
            yield other
        yield from _kinds(other)


KINDS: dict[str, type[Record]] = {
    model.kind: model
    for model in sorted(_kinds(Record), key=lambda model: _MODULES.index(model.__module__.rpartition(".")[2]))
}
"""Every kind of record there is, from the first rung up."""


def from_json(kind: str, body: str) -> Record:
    """A record as it was kept. Raises `KeyError` for a kind that there is not, `ValueError` for a body that is not one."""
    return msgspec.json.decode(body, type=KINDS[kind])
