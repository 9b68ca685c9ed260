"""Columns of numbers from delimited text: comma, semicolon, tab or blanks; header or none; decimal comma or point."""

from __future__ import annotations

import io
import re
import warnings
from collections.abc import Callable, Collection, Iterable
from functools import cache, lru_cache
from typing import TYPE_CHECKING, AnyStr

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from . import times
from .errors import FormatError
from .layout import (
    AXES,
    BY_HEMISPHERE,
    IN_PAIRS,
    IN_S_UNITS,
    NOTHING,
    PAIR,
    Layout,
    degrees,
    is_comment,
    is_number,
    layout_of,
    s_units,
)
from .text import decode

if TYPE_CHECKING:
    import pandas as pd

HEAD = 24_000
"""Bytes, and as many as the line they end in, from which it is guessed how a table is written."""


IN_WORDS: dict[str, Callable[[str], float | None]] = {BY_HEMISPHERE: degrees, IN_S_UNITS: s_units}
"""What reads the cells of a column that are no plain numbers with a unit behind them."""


class Table(Frozen, eq=True):
    """Named columns of numbers, of equal length (NaN: empty). Columns of words are left out."""

    columns: dict[str, NDArray[np.float64]]
    first_line: int
    """Line of the file in which the first row of data stands."""
    rows: int
    had_header: bool
    lines: Callable[[], NDArray[np.int64]] | None = None
    """Tells the line of the file of each row, where blank lines or comments may stand between them."""
    clocks: tuple[str, ...] = ()
    """Names of columns whose words are times."""
    names: tuple[str, ...] = ()
    """Of all columns as the file has them, those of words among them."""
    written: NDArray[np.bytes_] | None = None
    """The cells of the column of words that was asked for."""
    above: int = 0
    """Lines over the table that are none of it."""
    top_line: int = 1
    """Line of the file in which its names stand, or its first row."""

    def line(self, row: int) -> int:
        """Line of the file for a row counted from 0."""
        return self.first_line + row if self.lines is None else int(self.lines()[row])


def head(data: bytes) -> bytes:
    """The first few hundred lines, to guess from."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff") or data[:200].count(0):
        return data
    end = data.find(b"\n", HEAD)
    return data if end < 0 else data[: end + 1]


@lru_cache(maxsize=1)
def _preview(start: bytes, name: str) -> Table:
    return read(start, name)


def preview(data: bytes, name: str) -> Table:
    """The table of the first few hundred lines; asked for twice in a row, it is read once."""
    return _preview(head(data), name)


def names_alone(data: bytes, name: str) -> Table:
    """What a table is called and how it begins, without its numbers: for one whose words count. Raises `FormatError`."""
    layout = beginning(decode(head(data), name), name)
    names = tuple(layout.names)
    return Table({}, layout.first_line, 0, layout.had_header, names=names, above=layout.above, top_line=layout.top_line)


def preview_or_names(data: bytes, name: str) -> Table:
    """As `preview`, of a table whose numbers can't be read its names."""
    try:
        return preview(data, name)
    except FormatError:
        return names_alone(data, name)


def _after(text: AnyStr, newline: AnyStr, lines: int) -> int:
    """Where what follows the first so many lines begins."""
    at = 0
    for _ in range(lines):
        at = text.find(newline, at) + 1
    return at


def beginning(text: str, name: str) -> Layout:
    """How a table is written, from its beginning. Raises `FormatError` where that is none."""
    end = text.find("\n", HEAD)
    return layout_of(text if end < 0 else text[: end + 1], name)


def read(data: bytes, name: str, wanted: Collection[str] | None = None, written: str = "") -> Table:
    """The table in a text file, [row] a column; only the columns `wanted`, if given. Of the column `written` the cells as they are
    written.

    Raises `FormatError` naming the line for a row that is too short or not numeric.
    """
    # Plain ASCII goes to the parser as it is; only its head is turned into text, to guess from.
    plain = data.isascii() and b"\r" not in data and b"\0" not in data
    text = decode(head(data) if plain else data, name)
    layout = beginning(text, name)
    if written and written not in layout.names:
        raise FormatError(name, f"there is no column “{written}”", todo="Choose another")
    before = layout.first_line - 1
    begins = _after(data, b"\n", before) if plain else 0
    whole = "" if plain else text[_after(text, "\n", before) :]
    # Blank lines the parser leaves out by itself; which line a row stands in is asked only where something is wrong.
    cleaned = _may_have_gaps(data, begins) if plain else _has_gaps(whole.encode("utf-8", "replace"), 0)

    @cache
    def gapless() -> tuple[str, NDArray[np.int64]]:
        return _without_gaps(data[begins:].decode("ascii") if plain else whole, before)

    def lines() -> NDArray[np.int64]:
        return gapless()[1]

    source: io.StringIO | io.BytesIO
    if cleaned or not plain:
        source = io.StringIO(gapless()[0] if cleaned else whole)
    else:
        source = io.BytesIO(data)  # shares the bytes; a copy of a long log costs a tenth of its reading
        source.seek(begins)
    try:
        frame = _parsed(
            source,
            layout,
            wanted,
            written,
            # Each of these costs the parser a fifth: asked for only where there is something to skip.
            comments=not plain or data.find(b"#", begins) >= 0,
            blanks=not plain or data.find(b" ", begins) >= 0,
        )
    except ValueError as error:
        found = re.search(r"line (\d+)", str(error))
        where = int(found[1]) - 1 if found else None
        if where is not None:
            where = int(lines()[min(where, len(lines()) - 1)])
        raise FormatError(name, "a line has more columns than the first", where) from error
    cells = frame.pop(written).to_numpy() if written else None
    columns, clocks = _numbers(frame, layout, name, lines)
    return Table(
        columns,
        layout.first_line,
        len(frame),
        layout.had_header,
        lines,
        clocks,
        tuple(layout.names),
        cells,
        layout.above,
        layout.top_line,
    )


def _parsed(
    source: io.StringIO | io.BytesIO,
    layout: Layout,
    wanted: Collection[str] | None,
    written: str,
    comments: bool,
    blanks: bool,
) -> pd.DataFrame:
    """Rows by the parser. Raises ValueError, also where it would drop cells."""
    import pandas as pd

    # A column of numbers with words further down is told by `_numbers`, with its line.
    warnings.filterwarnings("ignore", category=pd.errors.DtypeWarning)
    # Its remark on cells that it would drop (a quoted cell over several lines hides them from the count of columns).
    warnings.filterwarnings("error", category=pd.errors.ParserWarning)
    try:
        return pd.read_csv(
            source,
            sep=r"\s+" if layout.separator == " " else layout.separator,
            decimal=layout.decimal,
            header=None,
            names=layout.names,
            comment="#" if comments else None,
            skipinitialspace=blanks,
            skip_blank_lines=True,
            na_values=NOTHING,
            index_col=False,
            usecols=None if wanted is None else [n for n in layout.names if n == written or layout.holds(n, wanted)],
            dtype={written: f"S{times.LONGEST_CELL}"} if written else None,
        )
    except pd.errors.ParserWarning as error:
        raise ValueError(str(error)) from error


def _numbers(
    frame: pd.DataFrame, layout: Layout, name: str, lines: Callable[[], NDArray[np.int64]]
) -> tuple[dict[str, NDArray[np.float64]], tuple[str, ...]]:
    """(the columns of numbers, the names of those of times); other columns of words are left out. Raises `FormatError` for a word
    among numbers."""
    import pandas as pd

    columns: dict[str, NDArray[np.float64]] = {}
    clocks = []
    for column in frame.columns:
        values = frame[column]
        if values.dtype.kind in "fiu":
            columns[str(column)] = values.to_numpy(dtype=float)
            continue
        unit = layout.units.get(str(column), "")
        if unit == IN_PAIRS:
            both = values.astype(str).str.replace("−", "-").str.extract(PAIR)
            _all_or_error(values, both[0].isna() & values.notna(), str(column), "position", name, lines)
            columns |= {f"{column} {axis}": both[i].to_numpy(dtype=float) for i, axis in enumerate(AXES)}
            continue
        if unit in IN_WORDS:
            read = IN_WORDS[unit]
            values = values.map(
                lambda cell, read=read: cell if (told := read(cell)) is None else told, na_action="ignore"
            )
        elif unit:
            values = values.astype(str).str.removesuffix(unit).str.rstrip().where(values.notna())
        sample = [str(value) for value in values.dropna().iloc[:200]]
        if sum(is_number(value, layout.decimal) for value in sample) < 0.5 * len(sample):
            if sample and sum(times.is_clock(value) for value in sample) >= 0.5 * len(sample):
                clocks.append(str(column))
            continue  # words: times, names
        numeric = pd.to_numeric(values.astype(str).str.replace("−", "-").str.replace(",", "."), errors="coerce")
        _all_or_error(values, numeric.isna() & values.notna(), str(column), "number", name, lines)
        columns[str(column)] = numeric.to_numpy(dtype=float)
    return columns, tuple(clocks)


def _all_or_error(
    values: pd.Series, bad: pd.Series, column: str, thing: str, name: str, lines: Callable[[], NDArray[np.int64]]
) -> None:
    """Raise for the first cell that is not what its column holds."""
    if bad.any():
        row = int(np.argmax(bad.to_numpy()))
        what = f"“{str(values.iloc[row])[:30]}” in column “{column}” is not a {thing}"
        raise FormatError(name, what, int(lines()[row]), "Mend or leave out that line")


def _may_have_gaps(data: bytes, begins: int) -> bool:
    """Whether plain text has comments or lines of blanks among the rows: at a glance, where no sign of them is in it."""
    marked = any(data.find(mark, begins) >= 0 for mark in (b"#", b"!", b"/", b" ", b"\t"))
    return marked and _has_gaps(data, begins)


def _has_gaps(data: bytes, begins: int) -> bool:
    """Whether blank lines or comments may stand among the rows: whether a line begins with what no number does."""
    letters = np.frombuffer(data, dtype=np.uint8, offset=begins)
    firsts = letters[np.flatnonzero(letters[:-1] == ord("\n")) + 1]
    return bool(np.isin(firsts, np.frombuffer(b"\n#!/ \t", dtype=np.uint8)).any())


def _without_gaps(text: str, before: int) -> tuple[str, NDArray[np.int64]]:
    """The rows alone, and the line of the file in which each stands."""
    kept, numbers = [], []
    for number, line in enumerate(text.split("\n"), start=before + 1):
        if line.strip() and not is_comment(line):
            kept.append(line)
            numbers.append(number)
    return "\n".join(kept) + "\n", np.array(numbers, dtype=np.int64)


def names_of(data: bytes, name: str) -> list[str]:
    """Every column that a table has, those of words among them. Raises `FormatError`."""
    return beginning(decode(head(data), name), name).names


def there_or_error(name: str, table: Table, columns: Iterable[str], clocks: bool = False) -> None:
    """Raise for a column that is wanted and not there, or holds no numbers; with `clocks` times of day will do."""
    for column in columns:
        if column not in table.columns and not (clocks and column in table.clocks):
            what = "numbers or times" if clocks else "numbers"
            raise FormatError(name, f"there is no column “{column}” of {what}", todo="Choose another")


HIGHEST_HZ = 1e13


def plausible_or_error(
    name: str, table: Table, column: str, values: NDArray[np.float64], low: float, high: float, what: str
) -> None:
    """Raise for the first value that is known (not NaN) and lies outside what there can be."""
    bad = ~np.isnan(values) & ~((values >= low) & (values <= high))
    if bad.any():
        row = int(np.argmax(bad))
        raise FormatError(
            name, f"{values[row]:g} in column “{column}” is no {what}", table.line(row), "Check the columns"
        )


def finite_or_error(name: str, table: Table, column: str, values: NDArray[np.float64], what: str) -> None:
    """Raise for the first value that is missing or not finite."""
    bad = ~np.isfinite(values)
    if bad.any():
        raise FormatError(
            name, f"the {what} in column “{column}” is missing or not finite", table.line(int(np.argmax(bad)))
        )
