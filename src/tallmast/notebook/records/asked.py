"""How the fields of a record are asked for: sheets, the finder and the description of the format follow from it.

A field is `attribute: Annotated[type, Asked("What it is", QUANTITY, "10 mW")] = default`. What a sheet alone can know
(a cross-check of two fields, a value carried over from the record before) stands beside the rung's sheets.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin, get_type_hints

from msgspec import NODEFAULT, Meta, structs

from tallmast.frozen import Frozen
from tallmast.units.quantity import WORDS, Quantity

from .base import Part


class Asked(Frozen, eq=True):
    """The words of a field, how its quantity is written, and an example."""

    words: str
    quantity: Quantity = WORDS
    hint: str = ""
    only: tuple[str, tuple[Any, ...]] | None = None
    """(attribute, its values): asked only while one of them is chosen."""
    choices: Mapping[Any, str] | None = None
    """Words of the values that can be chosen; of a `Literal` the values themselves, where left out."""
    of: str = ""
    """Kind of record that this is the id of."""
    none: str = ""
    """Words for none of them."""
    offered: Any = None
    """What stands in a new record's sheet, where that is not the default."""
    needed: bool = False
    """To be written even where the record has a default."""
    key: str = ""
    """Of the field in its sheet, where its attribute's name would not do."""
    joins: tuple[str, ...] = ()
    """Further attributes that are written in one with this one: the value is then a tuple."""
    seldom: bool | tuple[str, tuple[Any, ...]] = False
    """Folded away in a sheet; or so unless one of (attribute, its values) is chosen."""
    correcting: bool = False
    """Only asked of a record that was kept before."""


class AskedField(Frozen, eq=True):
    """A field of a kind of record with all that is declared of it."""

    attribute: str
    asked: Asked
    default: Any
    """What an empty field means; None where the field is needed or may stay unknown."""
    needed: bool
    choices: tuple[tuple[Any, str], ...]
    part: type[Part] | None
    """The class of a part that has a sheet's fields of its own."""
    above: float | None
    least: float | None
    most: float | None

    @property
    def key(self) -> str:
        return self.asked.key or key_of(self.attribute)


UNITS = re.compile(r"_(hz|w|db|dbm|dbi|m|s|kg|k|deg|ohm|id|v_per_m)$")


def key_of(attribute: str) -> str:
    """The name of a field in a sheet: its attribute without the unit."""
    return UNITS.sub("", attribute)


def _bare(hint: Any) -> tuple[Any, list[Any]]:
    """A type without `Annotated` and `None`, and what was annotated on the way."""
    marks: list[Any] = []
    while True:
        if get_origin(hint) is Annotated:
            marks += hint.__metadata__
            hint = hint.__origin__
        elif get_origin(hint) in (Union, UnionType) and type(None) in get_args(hint):
            rest = [a for a in get_args(hint) if a is not type(None)]
            if len(rest) != 1:
                return hint, marks
            hint = rest[0]
        else:
            return hint, marks


@lru_cache(maxsize=128)
def asked_of(model: type[Part]) -> tuple[AskedField, ...]:
    """The fields of a class that are asked for, in the order in which they are declared."""
    hints = get_type_hints(model, include_extras=True)
    out = []
    for field in structs.fields(model):
        if field.name not in hints:
            continue
        plain, marks = _bare(hints[field.name])
        asked = next((m for m in marks if isinstance(m, Asked)), None)
        if asked is None:
            continue
        default = field.default if field.default is not NODEFAULT else None
        if default is None and field.default_factory is not NODEFAULT:
            default = field.default_factory()
        needed = asked.needed or (field.default is NODEFAULT and field.default_factory is NODEFAULT)
        choices: tuple[tuple[Any, str], ...] = ()
        if asked.choices is not None:
            choices = tuple(asked.choices.items())
        elif get_origin(plain) is Literal:
            choices = tuple((value, str(value)) for value in get_args(plain))
        limits = [m for m in marks if isinstance(m, Meta)]
        out.append(
            AskedField(
                field.name,
                asked,
                default,
                needed,
                choices,
                plain if isinstance(plain, type) and issubclass(plain, Part) else None,
                next((m.gt for m in limits if m.gt is not None), None),
                next((m.ge for m in limits if m.ge is not None), None),
                next((m.le for m in limits if m.le is not None), None),
            )
        )
    return tuple(out)
