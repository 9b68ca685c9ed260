"""What one act writes, and how it stands on the tape."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Literal

import numpy as np

from tallmast.frozen import Frozen, field

from .evidence import Series
from .records import Record, new_id


class Act(Frozen, eq=True):
    """One entry of the tape."""

    number: int
    at: str
    label: str
    manner: Literal["do", "undo", "redo"] = "do"
    reverses: int | None = None
    reason: str | None = None


class RawFile(Frozen, eq=True):
    """Bytes as they came in."""

    name: str
    data: bytes

    @cached_property
    def sha256(self) -> str:
        return hashlib.sha256(self.data).hexdigest()


class Entry(Frozen, eq=True):
    """All that one act writes."""

    label: str
    records: Sequence[Record] = ()
    remove: Sequence[Record] = ()
    raw: Sequence[RawFile] = ()
    series: Mapping[str, Series] = field(default_factory=dict)
    reason: str | None = None


def new_series(columns: Series) -> tuple[str, dict[str, Series]]:
    """An id for columns of equal length, and the mapping that `Entry.series` takes."""
    series_id = new_id()
    return series_id, {series_id: columns}


def pack_series(columns: Series) -> tuple[str, int, memoryview]:
    names = list(columns)
    data = np.stack([np.asarray(columns[name], dtype="<f8") for name in names])
    return json.dumps(names), int(data.shape[1]), data.data


def unpack_series(columns: str, count: int, data: bytes) -> Series:
    """The columns of a `series` row: float64, little-endian, one whole column after the other. Raises `ValueError`."""
    names = json.loads(columns)
    if not isinstance(names, list) or not names or not all(isinstance(name, str) for name in names):
        raise ValueError("no columns")
    if not isinstance(count, int) or count < 0 or not isinstance(data, bytes) or len(data) != 8 * count * len(names):
        raise ValueError("columns of another length than they say")
    block = np.frombuffer(data, dtype="<f8").reshape(len(names), count)
    return dict(zip(names, block, strict=True))


def act_of(row: tuple[object, ...]) -> tuple[Act, bool]:
    """One row of the tape, and whether all of it reads: an entry whose label is lost is still one, and others refer to it."""
    number, at, label, manner, reverses, reason = row
    whole = (
        isinstance(at, str)
        and isinstance(label, str)
        and manner in ("do", "undo", "redo")
        and isinstance(reverses, int | None)
        and isinstance(reason, str | None)
    )
    act = Act(
        int(str(number)),
        at if isinstance(at, str) else "",
        label if isinstance(label, str) else "entry whose label can’t be read",
        manner if manner in ("undo", "redo") and isinstance(reverses, int) else "do",
        reverses if isinstance(reverses, int) else None,
        reason if isinstance(reason, str) else None,
    )
    return act, whole
