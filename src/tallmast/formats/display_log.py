"""A display stepped elsewhere, as a table: the attenuation that was set, and what was shown."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from . import table
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start
from .table import Table

ATTENUATION = re.compile(r"atten|\bpad\b|\bset\b.*db|db.*\bset\b", re.IGNORECASE)
SHOWN = re.compile(r"shown|display|reading|bars|\bs.?unit|rate|grade|meter|delay|level|value", re.IGNORECASE)


class DisplayFile(Frozen, eq=True):
    """In the order in which they were read."""

    attenuation_db: NDArray[np.float64]
    shown: NDArray[np.float64]
    taken: dict[str, str]
    notes: tuple[str, ...] = ()


def guess(found: Table) -> dict[str, str]:
    """The attenuation is the column so named, and what was shown one of the others."""
    names = list(found.columns)
    attenuation = next((n for n in names if ATTENUATION.search(n)), None)
    rest = [n for n in names if n != attenuation]
    if attenuation is None or not rest:
        return {}
    return {"attenuation": attenuation, "shown": next((n for n in rest if SHOWN.search(n)), rest[0])}


def read(data: bytes, name: str, columns: Columns | None = None) -> DisplayFile:
    """A stepped display from delimited text. A row where nothing was shown (empty) counts as 0. Raises `FormatError`."""
    found = table.read(data, name)
    taken = {**guess(found), **(columns or {})}
    if not {"attenuation", "shown"} <= set(taken):
        raise FormatError(
            name, "no column is named an attenuation", todo="Give it a header such as “attenuation dB, shown”"
        )
    table.there_or_error(name, found, taken.values())
    attenuation, shown = found.columns[taken["attenuation"]], found.columns[taken["shown"]]
    table.finite_or_error(name, found, taken["attenuation"], attenuation, "attenuation")
    if (attenuation < 0).any() or (attenuation > 250).any():
        row = int(np.argmax((attenuation < 0) | (attenuation > 250)))
        raise FormatError(
            name, f"an attenuation of {attenuation[row]:g} dB", found.line(row), "Decibels from 0 to 250 are meant"
        )
    notes = []
    if np.isinf(shown).any():
        table.finite_or_error(name, found, taken["shown"], shown, "reading")
    if np.isnan(shown).any():
        notes.append("empty readings were taken as 0: nothing shown")
        shown = np.nan_to_num(shown, nan=0.0)
    if len(np.unique(attenuation)) < 3:
        raise FormatError(name, "fewer than three different attenuations", todo="Step further")
    return DisplayFile(np.ascontiguousarray(attenuation), np.ascontiguousarray(shown), taken, tuple(notes))


def _recognise(start: Start) -> Seen | None:
    taken = guess(start.table) if start.table is not None else {}
    return Seen(0.8, f"an attenuation in “{taken['attenuation']}”") if taken else None


FORMAT = Format(
    "display",
    "a display that was stepped",
    _recognise,
    read,
    (Role("attenuation", "Attenuation, dB"), Role("shown", "What it showed")),
    guess,
    lambda display: display.taken,
)
