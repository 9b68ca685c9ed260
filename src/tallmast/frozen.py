"""What is worked out once and handed on: a class of fields that nobody changes.

As `dataclasses` has it, made by msgspec, of which the records are read as well: a frozen dataclass writes and compiles its methods
when its module comes, 1.4 ms each, and of two hundred of them somebody waits at every start.
"""

from typing import dataclass_transform

from msgspec import Struct, field

__all__ = ["Frozen", "field"]


@dataclass_transform(frozen_default=True, eq_default=False, field_specifiers=(field,))
class Frozen(Struct, frozen=True, eq=False, dict=True):
    """The same only as itself; `class Point(Frozen, eq=True)` is the same as another with equal fields. May keep a `cached_property`."""
