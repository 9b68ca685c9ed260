"""The cells of a table as they are written, for formats whose words count."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Collection, Iterable, Mapping, Sequence

from . import header, table
from .errors import FormatError
from .layout import is_comment, number_in
from .text import decode

Rows = Sequence[tuple[int, list[str]]]
"""Each with its line of the file and a cell for every column."""
ANTENNA = r"^(?:with |which )?(?:antennas?|aerials?|ants?|antennen?)(?: used| name)?$"
"""What a column is called that names antennas."""
UNIT = re.compile(r"(?<![A-Za-z])(dBm|dB|mW|µW|uW|kW|W)(?![A-Za-z])")


def cells(data: bytes, name: str, most: int) -> tuple[list[str], Rows]:
    """(the columns' names, the rows) of a table. Raises `FormatError`, also for more than `most` rows."""
    text = decode(data, name)
    layout = table.beginning(text, name)
    before = layout.first_line - 1
    lines = list(io.StringIO(text))[before:]
    if layout.separator == " ":
        lines = [" ".join(line.split()) for line in lines]
    rows: list[tuple[int, list[str]]] = []
    reader = csv.reader(lines, delimiter=layout.separator, skipinitialspace=True)
    try:
        for row in reader:
            line, written = before + reader.line_num, [" ".join(cell.split()) for cell in row]
            if not any(written) or is_comment(layout.separator.join(row)):
                continue
            if any(written[len(layout.names) :]):
                raise FormatError(name, "a line has more columns than the first", line)
            rows.append((line, (written + [""] * len(layout.names))[: len(layout.names)]))
            if len(rows) > most:
                raise FormatError(name, f"more than {most} rows")
    except csv.Error as error:
        raise FormatError(name, "a cell that never ends", before + reader.line_num, "Look for a lone quote") from error
    return layout.names, rows


def by_names(names: Iterable[str], guesses: Sequence[tuple[str, str]]) -> dict[str, str]:
    """Role → column, by the first of some patterns (role, pattern) that a name not yet taken matches."""
    names = list(names)
    taken: dict[str, str] = {}
    for role, pattern in guesses:
        for name in names:
            if role not in taken and name not in taken.values() and re.search(pattern, header.plain(name), re.I):
                taken[role] = name
    return taken


def there_or_error(name: str, names: Collection[str], taken: Mapping[str, str]) -> None:
    """Raise for a column that is wanted and not there."""
    for column in taken.values():
        if column not in names:
            raise FormatError(name, f"there is no column “{column}”", todo="Choose another")


def filled(names: Sequence[str], rows: Rows, columns: Sequence[str]) -> tuple[Rows, int]:
    """(the rows with blank cells in some columns those above, how many): a spreadsheet writes a cell over several rows but once."""
    out: list[tuple[int, list[str]]] = []
    above = dict.fromkeys(columns, "")
    blanks = 0
    for line, written in rows:
        row = list(written)
        for column in columns:
            i = names.index(column)
            if not row[i]:
                row[i] = above[column]
                blanks += bool(row[i])
            above[column] = row[i]
        out.append((line, row))
    return out, blanks


def with_unit(cell: str, column: str) -> str:
    """A number with the unit that its column's name has; what has its own, or is none, as it is."""
    unit = UNIT.search(column)
    return f"{cell} {unit[1]}" if unit is not None and number_in(cell) is not None else cell
