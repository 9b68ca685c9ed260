"""What an SWR meter showed, as a table: a reading a row, or a column of SWR for each antenna over frequency."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence

from tallmast.frozen import Frozen
from tallmast.units import read as typed
from tallmast.units import show

from . import header, sweep_table, table
from .cells import ANTENNA, Rows, by_names, cells, filled, there_or_error, with_unit
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start
from .layout import NOTHING, number_in

MOST_ROWS = 2_000
NO_PHASE = ("SWR", "dB")
"""Meanings of a sweep's columns that an antenna's may have too."""
HIGHEST_SWR = 30.0
"""In a column that nothing else speaks for."""
GUESSES: tuple[tuple[str, str], ...] = (
    ("with antenna", ANTENNA),
    ("frequency", sweep_table.FREQUENCY.pattern),
    ("forward", r"\bforward\b|\bfwd\b|incident|^pf\b"),
    ("reflected", r"reflected|\brefl?\b|\brev(?:erse)?\b|^pr\b"),
    ("channel", r"channel|\bchan?\b|\bkanal\b"),
    ("on fixture", r"fixture|mount|plate|\bon\b"),
    ("sent", r"power|\bwatts?\b|^p\b"),
)
"""Which column names mean what, tried in this order."""


MERGED = ("with antenna", "frequency", "on fixture", "channel", "sent")


class MeterNote(Frozen, eq=True):
    """One reading, as written: the SWR, or both powers."""

    line: int
    antenna: str
    """Empty: no column says it."""
    frequency_hz: float
    swr: str
    forward: str = ""
    reflected: str = ""
    channel: str = ""
    fixture: str = ""
    sent: str = ""


class MeterTable(Frozen, eq=True):
    """In the order in which they stand."""

    rows: tuple[MeterNote, ...]
    taken: dict[str, str]
    notes: tuple[str, ...] = ()


SWR = re.compile(r"\bv?swr\b|return.?loss|^rl\b|^s11\b", re.IGNORECASE)


def _guessed(names: Iterable[str]) -> dict[str, str]:
    """By the names of the columns; of several that say SWR each is an antenna's."""
    names = list(names)
    taken = by_names(names, GUESSES)
    said = [name for name in names if name not in taken.values() and SWR.search(header.plain(name))]
    return taken | {"swr": said[0]} if len(said) == 1 else taken


def _is_swr(cell: str) -> bool:
    try:
        return typed.swr(cell) <= HIGHEST_SWR
    except typed.UnitError:
        return False


def _antennas(names: Sequence[str], rows: Rows, taken: Mapping[str, str]) -> list[str]:
    """Columns that are nothing else, whose every cell is an SWR or nothing."""
    out = []
    for i, name in enumerate(names):
        other = any(
            re.search(one, name, re.I) for meaning, one, _ in sweep_table.WANTED[:-1] if meaning not in NO_PHASE
        )
        written = [row[i] for _, row in rows[:200] if row[i].lower() not in NOTHING]
        if name not in taken.values() and not other and written and all(map(_is_swr, written)):
            out.append(name)
    return out


def _called(column: str) -> str:
    """Whose SWR a column is: its name without that word."""
    return " ".join(SWR.sub(" ", header.plain(column)).split()).strip("()[]-:, ") or column


def read(data: bytes, name: str, columns: Columns | None = None) -> MeterTable:
    """A meter's readings from delimited text. A blank cell of what was measured, and how, is that of the row above. Raises
    `FormatError`."""
    names, rows = cells(data, name, MOST_ROWS)
    taken = {key: column for key, column in {**_guessed(names), **(columns or {})}.items() if column}
    unit = taken.pop("unit", "")
    there_or_error(name, names, taken)
    if unit and unit not in sweep_table.UNITS:
        raise FormatError(name, f"“{unit}” is no unit of frequency", todo="Choose one")
    if "frequency" not in taken:
        raise FormatError(name, "no column looks like a frequency", todo="Give it a header such as “frequency MHz”")
    wide = "swr" not in taken and not {"forward", "reflected"} <= set(taken)
    alone = _antennas(names, rows, taken) if wide else [taken.get("swr", "")]
    if not alone:
        raise FormatError(name, "no column holds an SWR, or forward and reflected power", todo="Say which it is")
    unit = unit or _unit(taken["frequency"], [row[names.index(taken["frequency"])] for _, row in rows])
    rows, blanks = filled(names, rows, [taken[role] for role in MERGED if role in taken])
    out: list[MeterNote] = []
    for line, row in rows:
        cell = {role: "" if (c := row[names.index(column)]).lower() in NOTHING else c for role, column in taken.items()}
        for column in alone:
            swr = _swr(row[names.index(column)], column) if column else ""
            powers = {r: with_unit(cell.get(r, ""), taken.get(r, "")) for r in ("forward", "reflected", "sent")}
            if not swr and not (powers["forward"] and powers["reflected"]):
                continue
            f = _frequency(cell["frequency"], unit, name, line)
            beside = {"channel": cell.get("channel", ""), "fixture": cell.get("on fixture", "")}
            out.append(
                MeterNote(line, _called(column) if wide else cell.get("with antenna", ""), f, swr, **beside, **powers)
            )
    if not out:
        raise FormatError(name, "no reading is in it", todo="Check which column says it")
    unused = [column for column in names if column not in taken.values() and column not in alone]
    notes = [f"{show.count(blanks, 'blank cell')} taken from the row above"] if blanks else []
    notes += [f"not used: {show.join(unused)}"] if unused else []
    full = dict.fromkeys((role.key for role in FORMAT.roles), "") | taken | {"unit": unit}
    return MeterTable(tuple(out), full, tuple(notes))


def _unit(column: str, cells: Sequence[str]) -> str:
    numbers = (number_in(cell) for cell in cells)
    return sweep_table.frequency_unit(column, max((n for n in numbers if n is not None), default=0.0))


def _frequency(cell: str, unit: str, name: str, line: int) -> float:
    try:
        bare = number_in(cell)
        value = bare * sweep_table.UNITS[unit] if bare is not None else typed.frequency(cell)
    except typed.UnitError as error:
        raise FormatError(name, f"“{cell}” is no frequency", line, "Write it as 145.5 MHz") from error
    if not 0 < value <= table.HIGHEST_HZ:
        raise FormatError(name, f"“{cell}” is no frequency", line, "Check the column, and its unit")
    return value


def _swr(cell: str, column: str) -> str:
    """A cell of SWR, or of a return loss with its decibels."""
    if cell.lower() in NOTHING:
        return ""
    is_swr = re.search("swr", column, re.I) or not SWR.search(header.plain(column))
    return cell if is_swr or number_in(cell) is None else f"{cell} dB"


def _recognise(start: Start) -> Seen | None:
    if start.is_markup:
        return None
    try:
        taken = _guessed(table.names_of(start.data, start.name))
        powers = {"forward", "reflected"} <= set(taken)
        if "frequency" not in taken:
            return None
        names, rows = cells(table.head(start.data), start.name, MOST_ROWS)
    except FormatError:
        return None
    if "with antenna" in taken and ("swr" in taken or powers):
        return Seen(0.95, f"antennas in “{taken['with antenna']}” and a meter’s readings")
    if powers:
        return Seen(0.9, f"power there and back in “{taken['forward']}” and “{taken['reflected']}”")
    if "swr" not in taken and len(_antennas(names, rows, taken)) > 1:
        return Seen(0.8, "a frequency, and a column of SWR for each antenna")
    return None


FORMAT = Format(
    "meter table",
    "readings of an SWR meter",
    _recognise,
    read,
    (
        Role("frequency", "Frequency", words_too=True),
        Role("unit", "in", choices={unit: unit for unit in sweep_table.UNITS}),
        Role("swr", "SWR, or return loss", needed=False, none="a column for each antenna", words_too=True),
        Role("with antenna", "Of which antenna", needed=False, none="no column says it", words_too=True),
        Role("forward", "Forward power", needed=False, seldom=True, words_too=True),
        Role("reflected", "Reflected power", needed=False, seldom=True, words_too=True),
        Role("sent", "Power used", needed=False, seldom=True, words_too=True),
        Role("channel", "Channel", needed=False, seldom=True, words_too=True),
        Role("on fixture", "Fixture", needed=False, seldom=True, words_too=True),
    ),
    lambda found: _guessed(found.names),
    lambda readings: readings.taken,
)
