"""A calibrated antenna as a table: frequency, gain (dBi, dBd) or antenna factor (dB/m), and its uncertainty."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tallmast.physics.constants import DIPOLE_GAIN_DBI
from tallmast.physics.field_strength import gain_dbi_of_factor

from . import table
from .errors import FormatError
from .sweep_table import FREQUENCY, UNITS, frequency_unit
from .table import Table

GAIN = re.compile(r"gain|dbi|dbd|realiz", re.IGNORECASE)
FACTOR = re.compile(r"antenna.?factor|\baf\b|db/m|db\(1/m\)", re.IGNORECASE)
DOUBT = re.compile(r"uncert|±|\bu\b|u_db|doubt|sigma|std", re.IGNORECASE)
USUAL_U_DB = 1.0
"""Where the table gives none."""


@dataclass(frozen=True)
class GainFile:
    """Frequencies ascending; u is a standard uncertainty."""

    frequency_hz: NDArray[np.float64]
    gain_dbi: NDArray[np.float64]
    u_db: NDArray[np.float64]
    notes: tuple[str, ...] = ()


def guess(found: Table) -> tuple[str, str, str] | None:
    """(frequency, gain or factor, doubt or '') columns; None where none is named a gain or a factor."""
    names = list(found.columns)
    frequency = next((n for n in names if FREQUENCY.search(n)), None)
    rest = [n for n in names if n != frequency]
    value = next((n for n in rest if (GAIN.search(n) or FACTOR.search(n)) and not DOUBT.search(n)), None)
    if frequency is None or value is None:
        return None
    return frequency, value, next((n for n in rest if n != value and DOUBT.search(n)), "")


def read(data: bytes, name: str) -> GainFile:
    """A gain table from delimited text. Antenna factors are turned to gain in 50 Ω. Raises `FormatError`."""
    found = table.read(data, name)
    guessed = guess(found)
    if guessed is None:
        raise FormatError(
            name, "no columns named frequency and gain", todo="Give it a header such as “frequency MHz, gain dBi, u dB”"
        )
    column, value, doubt = guessed
    as_written = found.columns[column]
    table.finite_or_error(name, found, column, as_written, "frequency")
    unit = UNITS[frequency_unit(column, float(as_written.max()))]
    table.plausible_or_error(name, found, column, as_written, -np.inf, table.HIGHEST_HZ / unit, "frequency")
    frequency = as_written * unit
    if (frequency <= 0).any():
        raise FormatError(name, "a frequency of zero or less", found.line(int(np.argmin(frequency))))
    numbers = found.columns[value]
    table.finite_or_error(name, found, value, numbers, "gain")
    notes = []
    if FACTOR.search(value) and not GAIN.search(value):
        gain = np.array([gain_dbi_of_factor(f, a) for f, a in zip(frequency.tolist(), numbers.tolist(), strict=True)])
        notes.append("antenna factors were turned to gain in 50 Ω")
    elif re.search(r"dbd", value, re.IGNORECASE):
        gain = numbers + DIPOLE_GAIN_DBI
        notes.append("dBd were turned to dBi")
    else:
        gain = numbers
    if (np.abs(gain) > 80).any():
        row = int(np.argmax(np.abs(gain)))
        raise FormatError(
            name, f"a gain of {gain[row]:.0f} dBi", found.line(row), "Is it an antenna factor? Then name the column so"
        )
    if doubt:
        u = np.abs(found.columns[doubt])
        table.finite_or_error(name, found, doubt, u, "uncertainty")
    else:
        u = np.full(len(gain), USUAL_U_DB)
        notes.append(f"no uncertainty in it: u = {USUAL_U_DB:g} dB was taken")
    if (np.diff(frequency) < 0).any():
        notes.append("frequencies were out of order, and were sorted")
    frequency, kept = np.unique(frequency, return_index=True)
    if len(kept) < len(gain):
        notes.append("repeated frequencies: the first line of each was kept")
    return GainFile(frequency, np.asarray(gain[kept]), np.asarray(u[kept]), tuple(notes))
