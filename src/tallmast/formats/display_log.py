"""A display stepped elsewhere, as a table: the attenuation that was set, and what was shown."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from . import table
from .errors import FormatError
from .table import Table

ATTENUATION = re.compile(r"atten|\bpad\b|\bset\b.*db|db.*\bset\b", re.IGNORECASE)
SHOWN = re.compile(r"shown|display|reading|bars|\bs.?unit|rate|grade|meter|delay|level|value", re.IGNORECASE)


@dataclass(frozen=True)
class DisplayFile:
    """In the order in which they were read."""

    attenuation_db: NDArray[np.float64]
    shown: NDArray[np.float64]
    notes: tuple[str, ...] = ()


def guess(found: Table) -> tuple[str, str] | None:
    """(attenuation, shown) columns; None where no column is named an attenuation."""
    names = list(found.columns)
    attenuation = next((n for n in names if ATTENUATION.search(n)), None)
    rest = [n for n in names if n != attenuation]
    if attenuation is None or not rest:
        return None
    return attenuation, next((n for n in rest if SHOWN.search(n)), rest[0])


def read(data: bytes, name: str) -> DisplayFile:
    """A stepped display from delimited text. A row where nothing was shown (empty) counts as 0. Raises `FormatError`."""
    found = table.read(data, name)
    guessed = guess(found)
    if guessed is None:
        raise FormatError(
            name, "no column is named an attenuation", todo="Give it a header such as “attenuation dB, shown”"
        )
    attenuation, shown = found.columns[guessed[0]], found.columns[guessed[1]]
    table.finite_or_error(name, found, guessed[0], attenuation, "attenuation")
    if (attenuation < 0).any() or (attenuation > 250).any():
        row = int(np.argmax((attenuation < 0) | (attenuation > 250)))
        raise FormatError(
            name, f"an attenuation of {attenuation[row]:g} dB", found.line(row), "Decibels from 0 to 250 are meant"
        )
    notes = []
    if np.isinf(shown).any():
        table.finite_or_error(name, found, guessed[1], shown, "reading")
    if np.isnan(shown).any():
        notes.append("empty readings were taken as 0: nothing shown")
        shown = np.nan_to_num(shown, nan=0.0)
    if len(np.unique(attenuation)) < 3:
        raise FormatError(name, "fewer than three different attenuations", todo="Step further")
    return DisplayFile(np.ascontiguousarray(attenuation), np.ascontiguousarray(shown), tuple(notes))
