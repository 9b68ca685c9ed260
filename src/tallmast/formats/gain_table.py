"""A calibrated antenna as a table: frequency, gain (dBi, dBd) or antenna factor (dB/m), and its uncertainty."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.physics.constants import DIPOLE_GAIN_DBI
from tallmast.physics.field_strength import gain_dbi_of_factor

from . import table
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start
from .sweep_table import FREQUENCY, UNITS, frequency_unit
from .table import Table

GAIN = re.compile(r"gain|dbi|dbd|realiz", re.IGNORECASE)
FACTOR = re.compile(r"antenna.?factor|\baf\b|db/m|db\(1/m\)", re.IGNORECASE)
DOUBT = re.compile(r"uncert|±|\bu\b|u_db|doubt|sigma|std", re.IGNORECASE)
USUAL_U_DB = 1.0
"""Where the table gives none."""


class GainFile(Frozen, eq=True):
    """Frequencies ascending; u is a standard uncertainty."""

    frequency_hz: NDArray[np.float64]
    gain_dbi: NDArray[np.float64]
    u_db: NDArray[np.float64]
    taken: dict[str, str]
    notes: tuple[str, ...] = ()


MEANINGS: dict[str, str] = {"dBi": "gain, dBi", "dBd": "gain, dBd", "factor": "antenna factor, dB/m"}


def guess(found: Table) -> dict[str, str]:
    """Frequency, gain or factor, and its uncertainty, by their names; nothing where no column is named a gain."""
    names = list(found.columns)
    frequency = next((n for n in names if FREQUENCY.search(n)), None)
    rest = [n for n in names if n != frequency]
    value = next((n for n in rest if (GAIN.search(n) or FACTOR.search(n)) and not DOUBT.search(n)), None)
    if frequency is None or value is None:
        return {}
    known = found.columns[frequency][np.isfinite(found.columns[frequency])]
    factor, dipoles = FACTOR.search(value) and not GAIN.search(value), re.search(r"dbd", value, re.IGNORECASE)
    return {
        "frequency": frequency,
        "unit": frequency_unit(frequency, float(known.max(initial=0.0))),
        "gain": value,
        "meaning": "factor" if factor else "dBd" if dipoles else "dBi",
        "u": next((n for n in rest if n != value and DOUBT.search(n)), ""),
    }


def read(data: bytes, name: str, columns: Columns | None = None) -> GainFile:
    """A gain table from delimited text. Antenna factors are turned to gain in 50 Ω. Raises `FormatError`."""
    found = table.read(data, name)
    taken = {**guess(found), **(columns or {})}
    if not {"frequency", "gain"} <= set(taken):
        raise FormatError(
            name, "no columns named frequency and gain", todo="Give it a header such as “frequency MHz, gain dBi, u dB”"
        )
    column, value, doubt = taken["frequency"], taken["gain"], taken.get("u", "")
    table.there_or_error(name, found, [c for c in (column, value, doubt) if c])
    as_written = found.columns[column]
    table.finite_or_error(name, found, column, as_written, "frequency")
    taken.setdefault("unit", frequency_unit(column, float(as_written.max())))
    unit = UNITS[taken["unit"]]
    table.plausible_or_error(name, found, column, as_written, -np.inf, table.HIGHEST_HZ / unit, "frequency")
    frequency = as_written * unit
    if (frequency <= 0).any():
        raise FormatError(name, "a frequency of zero or less", found.line(int(np.argmin(frequency))))
    numbers = found.columns[value]
    table.finite_or_error(name, found, value, numbers, "gain")
    notes = []
    meaning = taken.setdefault("meaning", "dBi")
    if meaning == "factor":
        gain = np.array([gain_dbi_of_factor(f, a) for f, a in zip(frequency.tolist(), numbers.tolist(), strict=True)])
        notes.append("antenna factors were turned to gain in 50 Ω")
    elif meaning == "dBd":
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
    return GainFile(frequency, np.asarray(gain[kept]), np.asarray(u[kept]), taken, tuple(notes))


def _recognise(start: Start) -> Seen | None:
    taken = guess(start.table) if start.table is not None else {}
    return Seen(0.75, f"a frequency in “{taken['frequency']}” and a gain in “{taken['gain']}”") if taken else None


FORMAT = Format(
    "gain table",
    "an antenna’s gain over frequency",
    _recognise,
    read,
    (
        Role("frequency", "Frequency"),
        Role("unit", "in", choices={unit: unit for unit in UNITS}),
        Role("gain", "Gain, or antenna factor"),
        Role("meaning", "It is a", choices=MEANINGS),
        Role("u", "Its standard uncertainty, dB", needed=False),
    ),
    guess,
    lambda gains: gains.taken,
)
