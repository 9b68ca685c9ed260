"""A recording in time without positions: a time column and up to three others, each read on something."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.records import RECORDED_AS, RECORDED_AT, RecordedAs, RecordedAt
from tallmast.units import show

from . import cut, header, log, table, times
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start

Floats = NDArray[np.float64]
TIME = re.compile(r"\btime\b|^t$|^t[ _(\[]|second|\bsecs?\b|elapsed|timestamp|\bzeit\b|^ms$|\bclock\b", re.IGNORECASE)
KEYS: tuple[tuple[str, str], ...] = (
    ("first", "Quantity"),
    ("second", "Another one"),
    ("third", "A third one"),
    ("fourth", "A fourth one"),
    ("fifth", "A fifth one"),
    ("sixth", "A sixth one"),
)
AT: tuple[tuple[RecordedAt, str], ...] = (
    ("left", r"\bleft\b"),
    ("right", r"\bright\b"),
    ("A", r"\b(?:ant(?:enna)?|branch|port|rx)[ _]?(?:a|1)\b|[ _]a\b"),
    ("B", r"\b(?:ant(?:enna)?|branch|port|rx)[ _]?(?:b|2)\b|[ _]b\b"),
    ("home", r"\bhome\b"),
    ("away", r"\b(?:far|remote)\b"),
)
"""What the words of a header say of where a column was heard: at a branch of a receiver, or at an end."""
LONGEST_S = 400 * 86_400.0
MOST_VALUE = 1e12


class RecordingFile(Frozen, eq=True):
    """Seconds from the first row on, and the values of each quantity by its key (NaN: nothing was read)."""

    time_s: Floats
    values: dict[str, Floats]
    read_on: dict[str, RecordedAs]
    taken: dict[str, str]
    heard_at: dict[str, RecordedAt]
    notes: tuple[str, ...] = ()


def _heard_at(name: str) -> RecordedAt:
    return next((at for at, pattern in AT if re.search(pattern, header.plain(name), re.IGNORECASE)), "")


def guess(found: table.Table) -> dict[str, str]:
    """The time by its name, and as many columns as their headers speak for; none that the header does not speak for."""
    names = list(found.columns)
    time = next((n for n in (*names, *found.clocks) if TIME.search(header.plain(n))), "")
    out = {"time": time} if time else {}
    spoken = [(n, said) for n in names if n != time and (said := header.seems(n, found.columns[n])) is not None]
    for (key, _), (name, said) in zip(KEYS, spoken, strict=False):
        out |= {key: name, f"{key} as": said, f"{key} at": _heard_at(name)}
    return out


def read(data: bytes, name: str, columns: Columns | None = None) -> RecordingFile:
    """A recording from delimited text; the time in seconds, milliseconds where its header says so, or as a clock. Raises
    `FormatError`."""
    found = table.read(data, name)
    taken = {k: v for k, v in {**guess(found), **(columns or {})}.items() if v}
    if not taken.get("time"):
        taken["time"] = next((n for n in table.names_of(data, name) if TIME.search(header.plain(n))), "")
    if not taken["time"]:
        raise FormatError(name, "no column is named a time", todo="Say which column it is")
    chosen = {key: taken[key] for key, _ in KEYS if taken.get(key)}
    if not chosen:
        raise FormatError(name, "no column says what was read", todo="Say which column it is, and what it was read on")
    table.there_or_error(name, found, chosen.values())
    time_s, notes = _time(data, name, found, taken["time"])
    read_on: dict[str, RecordedAs] = {}
    values: dict[str, Floats] = {}
    for key, column in chosen.items():
        said = taken.get(f"{key} as") or header.seems(column, found.columns[column])
        if said not in RECORDED_AS:
            raise FormatError(name, f"what “{column}” was read on is not said", todo="Choose what it is")
        read_on[key] = said
        values[key] = found.columns[column]
        rescaled = header.on_scale(column, said, values[key])
        values[key] = rescaled.values
        notes += [rescaled.note] if rescaled.note else []
        low, high = (-250.0, 60.0) if said == "level in dBm" else (-MOST_VALUE, MOST_VALUE)
        what = "level in dBm" if said == "level in dBm" else "reading"
        table.plausible_or_error(name, found, column, values[key], low, high, what)
    if (np.diff(time_s) < 0).any():
        row = int(np.argmax(np.diff(time_s) < 0)) + 1
        raise FormatError(name, "the time goes back", found.line(row), "Is it the time column")
    if len(time_s) < 2 or time_s[-1] <= 0:
        raise FormatError(name, "it takes no time at all", todo="Check the time column")
    missing = sum(int(np.isnan(v).sum()) for v in values.values())
    if missing:
        notes.append(f"{show.count(missing, 'empty reading')}: counted as nothing received")
    heard_at = {key: _where(name, taken.get(f"{key} at")) for key in chosen}
    every = {k: taken.get(k, "") for key, _ in KEYS for k in (key, f"{key} as", f"{key} at")}
    full = every | {"time": taken["time"]} | {f"{k} as": v for k, v in read_on.items()}
    return RecordingFile(time_s, values, read_on, full, heard_at, tuple(notes))


def _where(name: str, said: str | None) -> RecordedAt:
    """As somebody chose it. Raises `FormatError` for what is none of the choices."""
    if not said:
        return ""
    if said not in RECORDED_AT:
        raise FormatError(name, f"“{said}” is no end and no branch", todo="Choose where it was heard")
    return said


def _time(data: bytes, name: str, found: table.Table, column: str) -> tuple[Floats, list[str]]:
    """Seconds from the first row on."""
    if column in found.columns:
        time, taken = times.of_numbers(found.columns[column], column)
    else:
        cells = table.read(data, name, (), column).written
        assert cells is not None
        time, taken = times.of_clocks(cells, column, name, found.line)
    table.finite_or_error(name, found, column, time, "time")
    time = time - time[0]
    if float(np.abs(time).max(initial=0.0)) > LONGEST_S:
        raise FormatError(
            name, f"a recording of {float(np.abs(time).max()) / 86_400:.0f} days", todo="Check the time column"
        )
    return np.ascontiguousarray(time), [taken] if taken else []


def _recognise(start: Start) -> Seen | None:
    """A time, no position, and no angle in the header: a table that says these is a track, or a cut."""
    found = start.table
    if found is None or not found.had_header or not (found.columns or found.clocks):
        return None
    try:
        names = table.names_of(start.data, start.name)
    except FormatError:
        return None
    if len(found.columns) < 2 and len(names) < 2:
        return None
    placed = {"latitude_deg", "longitude_deg"} <= set(log.guess_mapping(found))
    if placed or any(cut.ANGLE.search(n) for n in names):
        return None
    if not any(TIME.search(header.plain(n)) for n in names):
        if len(found.columns) < 2:
            return None
        return Seen(0.1, "a table whose header says nothing that is known here")
    time = next(n for n in names if TIME.search(header.plain(n)))
    spoken = [n for n in found.columns if n != time and header.says(n) is not None]
    return Seen(0.75 if spoken else 0.5, f"a time in “{time}”")


FORMAT = Format(
    "recording",
    "a recording in time",
    _recognise,
    read,
    (
        Role("time", "Time", clock=True),
        *(
            role
            for key, words in KEYS
            for role in (
                Role(key, words, key == "first", seldom=key not in ("first", "second")),
                Role(
                    f"{key} as",
                    "read on",
                    key == "first",
                    {str(k): v for k, v in RECORDED_AS.items()},
                    seldom=key != "first",
                ),
                Role(
                    f"{key} at",
                    "heard at",
                    False,
                    {str(k): v for k, v in RECORDED_AT.items()},
                    "the end said above",
                    seldom=True,
                ),
            )
        ),
    ),
    guess,
    lambda recording: recording.taken,
)
