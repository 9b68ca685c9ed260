"""What every kind of record is built on."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Self
from uuid import uuid4

from msgspec import Meta, Struct, field, json, structs

Positive = Annotated[float, Meta(gt=0)]
NotNegative = Annotated[float, Meta(ge=0)]
Finite = float
"""JSON has no other numbers: what is not finite can't be kept."""


def new_id() -> str:
    return uuid4().hex[:16]


class Part(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Something inside a record."""

    def revised(self, **changes: Any) -> Self:
        """The same with some fields changed."""
        return structs.replace(self, **changes)


class Record(Part, frozen=True, kw_only=True):
    """The base of every kind; `id` stays the same through all revisions."""

    kind: ClassVar[str] = ""
    rung: ClassVar[str] = ""
    """On which it is written; empty where no sheet makes or opens one."""
    series: ClassVar[dict[str, str]] = {}
    """Columns of its series and what they hold, where it has one (`series_id`)."""
    folder: ClassVar[str] = ""
    """Of the bundle, where its columns go; empty where they are written in a way of their own."""
    id: str = field(default_factory=new_id)

    @property
    def title(self) -> str:
        """What a person calls it, for the tape and the finder."""
        return self.kind


def to_json(record: Record) -> str:
    """As it is kept. Raises `ValueError` where a field holds what it can't, with the field's name or the number."""
    kept = json.decode(json.encode(record, enc_hook=_plain), type=type(record))
    if kept != record:  # JSON's only stand-in for a number that is not finite is nothing at all
        fields = (name for name in record.__struct_fields__ if getattr(record, name) != getattr(kept, name))
        raise ValueError(f"{', '.join(fields)} can't be kept: not a finite number")
    return json.encode(kept).decode()


def _plain(value: object) -> object:
    """NumPy's numbers as Python's."""
    item = getattr(value, "item", None)
    if item is None:
        raise ValueError(f"{type(value).__name__} can't be kept")
    return item()
