"""How a table of text is written, by its first lines: what parts its columns, their names, and where its rows begin."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Collection, Sequence
from functools import lru_cache

from tallmast.frozen import Frozen, field
from tallmast.units.position import by_hemisphere
from tallmast.units.read import UnitError

from . import times
from .errors import FormatError

COMMENT = ("#", "!", "//")
NUMBERED = re.compile(r"#\s*[,;\t]")
"""Names that begin with a column of numbers, and no comment."""
NUMBER = re.compile(r"[-+−]?(?:\d++(?:\.\d*+)?|\.\d++)(?:e[-+]?\d++)?|nan|[-+]?inf(inity)?", re.IGNORECASE)
NOTHING = ("", "-", "--", "---", "–", "—", "*", "?", "n/a", "na", "nan", "null", "none", "n.a.")
"""How files write that there is no number, in small letters."""
UNITS = (
    "dBm|dBi|dBd|dBc|dBµV|dBuV|dB|Mbit/s|kbit/s|Mbps|kbps|GHz|MHz|kHz|Hz|mV/m|µV/m|uV/m|V/m|mW|µW|uW|W|mV|µV|uV|V|"
    "km/h|km|cm|mm|m/s|miles|mile|mi|yards|yd|ft|m|ms|µs|us|min|sec|s|deg|degrees|degC|°C|°|Ohms|Ohm|Ω|hPa|%"
)
WITH_UNIT = re.compile(rf"(?P<number>{NUMBER.pattern}) ?(?P<unit>{UNITS})", re.IGNORECASE)
S_UNITS = re.compile(r"S(\d)(?:\+(\d+) ?(?:dB)?)?", re.IGNORECASE)
IN_S_UNITS = "S units"
READING = re.compile(r"read|show|level|signal|meter|display|report|\brst?\b|\brx\b|^s\b", re.IGNORECASE)
"""Where S7 is a reading, and not the seventh of some places."""
UNIT_ALONE = re.compile(rf"[\[(]?(?:{UNITS})[\])]?", re.IGNORECASE)
PAIR = re.compile(r"([-+−]?\d{1,2}\.\d+)°?[ ,;]+([-+−]?\d{1,3}\.\d+)°?")
"""Latitude and longitude in one cell."""
IN_PAIRS = "pairs"
AXES = ("latitude", "longitude")
BY_HEMISPHERE = "NSEW"
SIDE = re.compile(r"^[NSEW] ?[\d.]|[\d.°'\"′″] ?[NSEW]$", re.IGNORECASE)
POSITION = re.compile(r"^lat|^lon|^lng|latitude|longitude|breite|länge", re.IGNORECASE)
ALL_WORDS = 1e-3
LOOKED_AT = 100
"""Lines by which it is told."""
MOST_LINES = 20
"""Of one cell."""
LONGEST_LINE = 20_000
"""Characters of a line from which on a file is no table that a person or instrument made."""


class Layout(Frozen, eq=True):
    """How a table is written."""

    separator: str
    decimal: str
    names: list[str]
    had_header: bool
    first_line: int
    """Line of the file in which the first row of data stands."""
    above: int = 0
    """Lines over the table that are none of it."""
    top_line: int = 1
    """Line of the file in which its names stand, or its first row."""
    units: dict[str, str] = field(default_factory=dict)
    """By a column's name the unit of each of its numbers; `BY_HEMISPHERE` where a letter tells the sign, `IN_S_UNITS`,
    `IN_PAIRS`."""

    def holds(self, name: str, wanted: Collection[str]) -> bool:
        """Whether a column of the file holds one of those that are wanted: itself, or half of its pairs."""
        return name in wanted or (self.units.get(name) == IN_PAIRS and any(f"{name} {axis}" in wanted for axis in AXES))


def is_comment(line: str) -> bool:
    return line.lstrip().startswith(COMMENT) and not NUMBERED.match(line.lstrip())


def fields(line: str, separator: str) -> list[str]:
    """The cells of a line."""
    if separator == " ":
        return line.split()
    if '"' not in line:
        return [cell.strip() for cell in line.split(separator)]
    # A separator inside quotes parts nothing.
    return [cell.strip() for cell in next(csv.reader([line], delimiter=separator, skipinitialspace=True), [])]


def is_number(cell: str, decimal: str = ".") -> bool:
    """Whether a cell is a number and nothing else."""
    plain = cell.replace(",", ".") if decimal == "," else cell
    return NUMBER.fullmatch(plain.strip()) is not None


def number_in(cell: str) -> float | None:
    """The number that a cell is, with either decimal mark; None where it is none, or none that can be."""
    if not is_number(cell.replace(",", ".")):
        return None
    value = float(cell.strip().replace(",", ".").replace("−", "-"))
    return value if math.isfinite(value) else None


def degrees(cell: str) -> float | None:
    """57.9 of `57.9 N` and whatever else `by_hemisphere` reads; None where it is none of that."""
    if not SIDE.search(cell):
        return None
    try:
        return by_hemisphere(cell)[0]
    except UnitError:
        return None


def s_units(cell: str) -> float | None:
    """7 of `S7`, and above S9 a sixth of a unit for each decibel; None where it is none of them."""
    match = S_UNITS.fullmatch(cell.strip())
    return None if match is None else int(match[1]) + int(match[2] or 0) / 6.0


def _unit_of(cell: str, decimal: str) -> str | None:
    """The unit of a number; empty for a number alone, None for what is neither."""
    if is_number(cell, decimal):
        return ""
    match = WITH_UNIT.fullmatch(cell.replace(",", ".") if decimal == "," else cell)
    if match is not None:
        return match["unit"]
    return IN_S_UNITS if S_UNITS.fullmatch(cell) else IN_PAIRS if PAIR.fullmatch(cell) else None


def _says(cell: str, decimal: str) -> bool:
    """Whether a cell says a number or a time."""
    return _unit_of(cell, decimal) is not None or degrees(cell) is not None or times.is_clock(cell)


def _grammar(lines: Sequence[str]) -> tuple[str, str]:
    """(separator, decimal mark) that make most sense of some lines of data."""
    best, best_score = (",", "."), -1.0
    for separator in (";", "\t", ",", " "):
        for decimal in (".", ","):
            if separator == decimal:
                continue
            rows = [fields(line, separator) for line in lines]
            widths = [len(row) for row in rows]
            if _usual(widths) < 2:
                score = 0.0
            else:
                even = widths.count(_usual(widths)) / len(widths)
                if separator in ", ":  # what still has a stronger one in its cells is hardly parted by this
                    even *= 1.0 - 0.6 * sum(";" in line or "\t" in line for line in lines) / len(lines)
                cells = [cell for row in rows for cell in row]
                # A cell such as 2,5 counts as a number only where the comma is a decimal mark.
                numbers = sum(_says(cell, decimal) for cell in cells) / max(len(cells), 1)
                # Of tables without any number the one whose lines are alike; blanks part words too.
                score = even * (0.5 * numbers if separator == " " else numbers + ALL_WORDS)
            if score > best_score + 1e-9:
                best, best_score = (separator, decimal), score
    return best


def _usual(widths: Sequence[int]) -> int:
    """How many columns most lines have; of as many lines the wider."""
    return max(set(widths), key=lambda width: (widths.count(width), width))


@lru_cache(maxsize=2)  # recognition, the guess and the reading all ask for it
def layout_of(text: str, name: str) -> Layout:
    """From the beginning of a table. Raises `FormatError` where that is none."""
    start: list[tuple[int, str]] = []
    open_cell = False
    for number, line in enumerate(io.StringIO(text), start=1):
        if open_cell:  # a cell goes on in it
            start[-1] = (start[-1][0], f"{start[-1][1]} {line.rstrip()}")
            open_cell = line.count('"') % 2 == 0 and number - start[-1][0] < MOST_LINES
        elif line.strip() and not is_comment(line):
            start.append((number, line.rstrip("\n")))
            open_cell = line.count('"') % 2 == 1
        if len(start) >= LOOKED_AT:
            break
    if not start:
        raise FormatError(name, "no lines of data were found")
    if max(len(line) for _, line in start) > LONGEST_LINE:
        raise FormatError(name, "a line of more than 20 000 characters", start[0][0], "Is it a table")
    # What stands over a table is shorter than the table.
    tail = [line for _, line in start[len(start) // 2 if len(start) > 4 else min(1, len(start) - 1) :]][-40:]
    separator, decimal = _grammar(tail)
    rows = [fields(line, separator) for _, line in start]
    last = rows[-len(tail) :]
    width = _usual([len(row) for row in last])
    told = _told_by(last, width, decimal)
    header, begins = _header(rows, told, width, decimal)
    if len(told) < width and (header is None or header > 0):
        header, begins = _over_words(start, rows, (header, begins), width, decimal)
    if begins >= len(rows):
        raise FormatError(name, "there is a header but no data under it", start[header or 0][0])
    if width < 2:
        todo = "Separate the columns by comma, semicolon or tab"
        raise FormatError(name, "only one column was found", start[begins][0], todo)
    said = rows[header] if header is not None else []
    under = rows[header + 1] if header is not None and begins - header > 1 else []
    names, units = [], {}
    for i in range(width):
        called = (said[i] if i < len(said) else "") or f"column {i + 1}"
        unit = _shared_unit(called, [row[i] for row in last if i < len(row) and row[i].lower() not in NOTHING], decimal)
        shown = "" if unit in (BY_HEMISPHERE, IN_PAIRS) else unit
        for word in (shown, under[i].strip("[]()") if i < len(under) else ""):
            said_already = re.search(rf"(?<!\w){re.escape(word)}(?!\w)", called, re.IGNORECASE)
            if word not in NOTHING and not said_already:
                called = f"{called} {word}"
        called = f"{called} ({i + 1})" if called in names else called
        names.append(called)
        if unit:
            units[called] = unit
    names += [cell for cell in said[width:] if cell]
    above = header if header is not None else 0
    return Layout(separator, decimal, names, header is not None, start[begins][0], above, start[above][0], units)


def _shared_unit(called: str, cells: Sequence[str], decimal: str) -> str:
    """The one unit behind the numbers of a column; none where they have several, or a letter that could be watts or west."""
    if POSITION.search(called) and cells and all(degrees(cell) is not None for cell in cells):
        return BY_HEMISPHERE
    told = {unit for cell in cells if (unit := _unit_of(cell, decimal))}
    unit = told.pop() if len(told) == 1 else ""
    return "" if unit == IN_S_UNITS and not READING.search(called) else unit


def _over_words(
    start: Sequence[tuple[int, str]], rows: Sequence[list[str]], found: tuple[int | None, int], width: int, decimal: str
) -> tuple[int | None, int]:
    """(the line of names, the first line of data) where there are columns of words: rows without any number may be data, and the names
    are the first line of those that follow each other, if it has none either."""
    header, begins = found
    if header is None or begins - header > 1:  # its units lie under it
        return found
    top = header
    while top > 0 and start[top - 1][0] == start[top][0] - 1 and len(rows[top - 1]) == width:
        top -= 1
        if all(rows[top]) and not any(is_number(cell, decimal) for cell in rows[top]):
            header = top
    return header, header + 1


def _told_by(rows: Sequence[list[str]], width: int, decimal: str) -> list[int]:
    """The columns that mostly say numbers or times."""
    out = []
    for i in range(width):
        cells = [row[i] for row in rows if i < len(row) and row[i].lower() not in NOTHING]
        if cells and sum(_says(cell, decimal) for cell in cells) >= 0.5 * len(cells):
            out.append(i)
    return out


def _header(rows: Sequence[list[str]], told: Sequence[int], width: int, decimal: str) -> tuple[int | None, int]:
    """(the line of names, the first line of data) of those looked at: the names are the last line without a number over the first
    row that has all its numbers; under them may stand their units."""

    def bare(row: Sequence[str]) -> bool:
        return not any(is_number(cell, decimal) for cell in row if cell)

    def whole(row: Sequence[str]) -> bool:
        cells = [row[i] for i in told if i < len(row) and row[i].lower() not in NOTHING]
        return len(row) == width and bool(cells) and all(_says(cell, decimal) for cell in cells)

    first = next((i for i, row in enumerate(rows) if whole(row)), None)
    if first is None:
        named = next((i for i, row in enumerate(rows) if len(row) == width), 0)
        return (named, named + 1) if bare(rows[named]) else (None, named)
    for i in range(first - 1, -1, -1):
        row = rows[i]
        if not bare(row) or len(row) < max(min(2, width), width // 2):
            continue
        of_units = i > 0 and all(UNIT_ALONE.fullmatch(cell) for cell in row if cell.lower() not in NOTHING)
        if of_units and bare(rows[i - 1]) and len(rows[i - 1]) == len(row):
            return i - 1, i + 1
        return i, i + 1
    return None, 0
