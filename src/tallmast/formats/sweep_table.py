"""A sweep as a table: a frequency column and what came back, in whichever way it was written; in and out."""

from __future__ import annotations

import re
from typing import Literal

import numpy as np
from msgspec.structs import asdict, replace
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from . import table
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start
from .table import Table
from .touchstone import Reflection

Meaning = Literal[
    "real and imaginary", "magnitude and angle", "dB and angle", "R and X", "Z and angle", "SWR", "dB", "magnitude"
]
MEANINGS: dict[Meaning, str] = {
    "real and imaginary": "real and imaginary part of Γ",
    "magnitude and angle": "|Γ| and its angle",
    "dB and angle": "S11 or return loss in dB, and its angle",
    "R and X": "R and X, in Ω",
    "Z and angle": "|Z| in Ω and its angle",
    "SWR": "SWR, no phase",
    "dB": "S11 or return loss in dB, no phase",
    "magnitude": "|Γ|, no phase",
}
"""What one column or two can mean, in words."""
ALONE: tuple[Meaning, ...] = ("SWR", "dB", "magnitude")
"""These hold no phase: only the size of Γ is known."""
UNITS = {"Hz": 1.0, "kHz": 1e3, "MHz": 1e6, "GHz": 1e9}

FREQUENCY = re.compile(r"freq|^f\b|frequenz|hz\b", re.IGNORECASE)
ANGLE = re.compile(r"angle|phase|deg|°|winkel", re.IGNORECASE)
WANTED: tuple[tuple[Meaning, str, str], ...] = (
    ("real and imaginary", r"\bre(al)?\b|_re$|^re_", r"\bim(ag\w*)?\b|_im$|^im_"),
    ("R and X", r"^(r|rs|resist\w*|re\(z\))\b", r"^(x|xs|react\w*|im\(z\))\b"),
    ("Z and angle", r"\|z\||^z\b|impedance", ANGLE.pattern),
    ("dB and angle", r"db|return.?loss|^rl\b", ANGLE.pattern),
    ("magnitude and angle", r"mag|\|.*\||gamma|abs|lin", ANGLE.pattern),
    ("SWR", r"swr", ""),
    ("dB", r"db|return.?loss|^rl\b", ""),
    ("magnitude", r"mag|\|.*\||gamma|abs|lin|rho", ""),
)
"""Meanings with what their columns are called, in the order in which they are looked for."""


class Mapping(Frozen, eq=True):
    """Which columns hold what. `second` is empty where one column says it all."""

    frequency: str
    unit: str
    meaning: Meaning
    first: str
    second: str = ""


class SweepTable(Frozen, eq=True):
    """A table read as a sweep: Γ, how it was taken, and the columns there were to choose from."""

    reflection: Reflection
    mapping: Mapping
    columns: tuple[str, ...]

    @property
    def phase_known(self) -> bool:
        return self.mapping.meaning not in ALONE


def frequency_unit(name: str, highest: float) -> str:
    """The unit that a header names, else the one in which the highest frequency is a likely one (100 kHz to 100 GHz)."""
    named = re.search(r"(?<![a-z])([kmg]?)hz", name, re.IGNORECASE)
    if named:
        return {"": "Hz", "k": "kHz", "m": "MHz", "g": "GHz"}[named[1].lower()]
    return "Hz" if highest >= 1e6 else "kHz" if highest >= 1e5 else "MHz" if highest >= 100 else "GHz"


def guess(found: Table) -> Mapping | None:
    """How the columns are most likely meant; None where none looks like a frequency."""
    names = list(found.columns)
    if len(names) < 2:
        return None
    frequency = next((name for name in names if FREQUENCY.search(name)), None)
    if frequency is None:
        values = found.columns[names[0]]
        climbs = len(values) > 2 and bool((np.diff(values) > 0).all())
        # Angles end at 360; a first column that climbs beyond any angle is a frequency.
        if found.had_header or not climbs or values[-1] <= 720:
            return None
        frequency = names[0]
    known = found.columns[frequency][np.isfinite(found.columns[frequency])]
    unit = frequency_unit(frequency, float(known.max(initial=0.0)))
    rest = [name for name in names if name != frequency]
    for meaning, one, two in WANTED:
        first = next((name for name in rest if re.search(one, name, re.IGNORECASE)), None)
        second = next((name for name in rest if name != first and two and re.search(two, name, re.IGNORECASE)), None)
        if first is not None and (second is not None or not two):
            return Mapping(frequency, unit, meaning, first, second or "")
    if not found.had_header and len(rest) > 2:
        return None  # a log, more likely
    if len(rest) == 1:
        values = found.columns[rest[0]]
        alone: Meaning = "SWR" if values.min() >= 1 else "dB" if values.max() <= 0 else "magnitude"
        return Mapping(frequency, unit, alone, rest[0])
    if all(found.columns[column].min() >= 1 for column in rest):
        return None  # no parts of Γ: the SWR of several antennas, more likely
    return Mapping(frequency, unit, "real and imaginary", rest[0], rest[1])


def _gamma(name: str, found: Table, mapping: Mapping) -> NDArray[np.complex128]:
    first = found.columns[mapping.first]
    table.finite_or_error(name, found, mapping.first, first, "value")
    if mapping.meaning == "SWR":
        if first.min() < 1:
            row = int(np.argmin(first))
            raise FormatError(name, f"an SWR of {first[row]:g}, below 1", found.line(row), "Choose what the column is")
        return np.asarray((first - 1) / (first + 1) + 0j)
    if mapping.meaning in ("dB", "dB and angle"):
        # Return loss is written positive, S11 negative: no passive thing sends back more than it gets.
        size = np.power(10.0, -np.abs(first) / 20.0)
        if first.min() < -1 and first.max() > 1:
            row = int(np.argmax(first))
            raise FormatError(
                name, "decibels both well above and below zero", found.line(row), "Choose what the column is"
            )
    else:
        size = first
    if mapping.meaning in ("dB", "magnitude"):
        if mapping.meaning == "magnitude" and first.min() < 0:
            row = int(np.argmin(first))
            raise FormatError(name, f"a size of {first[row]:g}, below zero", found.line(row))
        return np.asarray(size + 0j)
    second = found.columns[mapping.second]
    table.finite_or_error(name, found, mapping.second, second, "value")
    if mapping.meaning == "real and imaginary":
        return np.asarray(first + 1j * second)
    if mapping.meaning in ("R and X", "Z and angle"):
        polar = mapping.meaning == "Z and angle"
        z = first * np.exp(1j * np.radians(second)) if polar else first + 1j * second
        return np.asarray((z - 50.0) / (z + 50.0))
    return np.asarray(size * np.exp(1j * np.radians(second)))


def read(data: bytes, name: str, mapping: Mapping | None = None) -> SweepTable:
    """A sweep from delimited text; columns by `mapping`, else as they look.

    Angles are degrees; R and X are turned to Γ at 50 Ω. Lines out of order are sorted, a repeated frequency keeps its
    first line; both are noted. Raises `FormatError`.
    """
    found = table.read(data, name)
    mapping = mapping or guess(found)
    if mapping is None:
        raise FormatError(name, "no column looks like a frequency", todo="Give it a header such as “frequency MHz”")
    pair = mapping.meaning not in ALONE
    if pair and (not mapping.second or mapping.second == mapping.first):
        raise FormatError(
            name, f"{MEANINGS[mapping.meaning]} takes two columns", todo="Choose the second, or a meaning with one"
        )
    mapping = mapping if pair else replace(mapping, second="")
    used = [mapping.frequency, mapping.first, mapping.second] if pair else [mapping.frequency, mapping.first]
    for column in used:
        if column not in found.columns:
            raise FormatError(name, f"there is no column “{column}” of numbers")
    written, unit = found.columns[mapping.frequency], UNITS[mapping.unit]
    table.plausible_or_error(
        name, found, mapping.frequency, written, -np.inf, table.HIGHEST_HZ / unit, f"frequency in {mapping.unit}"
    )
    frequency = written * unit
    table.finite_or_error(name, found, mapping.frequency, frequency, "frequency")
    if (frequency <= 0).any():
        raise FormatError(name, "a frequency of zero or less", found.line(int(np.argmin(frequency))))
    gamma = _gamma(name, found, mapping)
    if np.abs(gamma).max() > 5:
        row = int(np.argmax(np.abs(gamma)))
        raise FormatError(
            name, f"|Γ| would be {abs(gamma[row]):.3g} as {MEANINGS[mapping.meaning]}", found.line(row), "Choose again"
        )
    notes = []
    if (np.diff(frequency) < 0).any():
        notes.append("frequencies were out of order, and were sorted")
    frequency, kept = np.unique(frequency, return_index=True)
    if len(kept) < len(gamma):
        notes.append("repeated frequencies: the first line of each was kept")
    if len(frequency) < 3:
        raise FormatError(name, f"holds only {len(frequency)} frequencies; a sweep needs three or more")
    if mapping.meaning in ALONE:
        notes.append("no phase in it: only the match is read, neither impedance nor Q")
    return SweepTable(Reflection(frequency, gamma[kept], 1, 1, tuple(notes)), mapping, tuple(found.columns))


def write(frequency_hz: NDArray[np.float64], gamma: NDArray[np.complex128]) -> str:
    """A table that `read` reads back to the last digit: Hz, real and imaginary part; SWR beside it for a person."""
    size = np.minimum(np.abs(gamma), 0.999999)
    swr = (1 + size) / (1 - size)
    lines = ["frequency_Hz,gamma_re,gamma_im,swr"]
    lines += [
        f"{f!r},{g.real!r},{g.imag!r},{s:.4f}"
        for f, g, s in zip(frequency_hz.tolist(), gamma.tolist(), swr.tolist(), strict=True)
    ]
    return "\n".join(lines) + "\n"


def _bare(found: Table) -> bool:
    """Three columns without a header, of which the first climbs beyond any angle and the others stay within ±1.5: a sweep
    that lost its head. Positions don't climb so."""
    columns = list(found.columns.values())
    if found.had_header or len(columns) != 3:
        return False
    first, *parts = columns
    climbs = len(first) > 2 and bool((np.diff(first) > 0).all()) and float(first[-1]) > 720
    return climbs and all(bool((np.abs(part) <= 1.5).all()) for part in parts)


def _recognise(start: Start) -> Seen | None:
    if start.table is None:
        return None
    if _bare(start.table):
        return Seen(0.9, "a first column that climbs as frequencies do, and two within ±1.5")
    mapping = guess(start.table)
    return Seen(0.7, f"a frequency in “{mapping.frequency}”") if mapping is not None else None


def _guess(found: Table) -> dict[str, str]:
    mapping = guess(found)
    return asdict(mapping) if mapping is not None else {}


def _read(data: bytes, name: str, columns: Columns | None) -> SweepTable:
    return read(data, name, Mapping(**columns) if columns else None)  # type: ignore[arg-type]


FORMAT = Format(
    "sweep table",
    "a sweep as a table",
    _recognise,
    _read,
    (
        Role("frequency", "Frequency"),
        Role("unit", "in", choices={unit: unit for unit in UNITS}),
        Role("meaning", "It holds", choices=dict(MEANINGS.items())),
        Role("first", "First of these"),
        Role("second", "Second, if there is one", needed=False),
    ),
    _guess,
    lambda sweep: asdict(sweep.mapping),
)
