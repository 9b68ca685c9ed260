"""What can still be read of a damaged notebook; the damaged file is only read."""

from __future__ import annotations

import contextlib
import itertools
import mmap
import re
import sqlite3
import time
from collections.abc import Callable
from pathlib import Path

from tallmast.frozen import Frozen

from . import schema
from .entry import unpack_series
from .file import UNREADABLE, nameless, with_log
from .pages import Pages, Value
from .records import from_json
from .store import Notebook


class Rescue(Frozen, eq=True):
    """The notebook of what was read (in no file until a copy is saved), and how much that is."""

    notebook: Notebook
    kept: int
    lost: int
    cut_off: bool

    @property
    def sentence(self) -> str:
        lost = f"{self.lost} could not be read" if self.lost else "nothing else was found"
        kept = "one entry" if self.kept == 1 else f"{self.kept} entries"
        return f"Rescued {kept}; {lost}.{' The file is cut off: what followed is gone.' if self.cut_off else ''}"


MOST_SECONDS = 30.0
WIDEST_GAP = 100_000
"""Between rows further apart than this one is counted as lost: nobody knows how many there were."""

Rows = dict[int, tuple[Value, ...]]
"""The rows of a table by rowid, without the column that is only its number."""


class _Clock:
    """Ends a rescue that takes too long, or that somebody stops."""

    def __init__(self, seconds: float, stopped: Callable[[], bool]) -> None:
        self._end, self._stopped = time.monotonic() + seconds, stopped

    def over(self) -> bool:
        return time.monotonic() > self._end or self._stopped()


class _Table(Frozen):
    """How a table's rows tell themselves from another's: `types` of its columns, and what else holds."""

    columns: str
    types: tuple[type | object, ...]
    holds: Callable[[tuple[Value, ...]], bool] = lambda values: True
    numbered: bool = False
    """Whether its first column is its rowid, which SQLite keeps as an empty column (§2.4 of its format)."""

    def takes(self, values: tuple[Value, ...]) -> bool:
        fits = len(values) == len(self.types)
        return fits and all(map(isinstance, values, self.types)) and self.holds(values)  # type: ignore[arg-type]


TABLES = {
    "act": _Table(
        "at, label, manner, reverses, reason",
        (str, str, str, int | None, str | None),
        lambda values: values[2] in ("do", "undo", "redo"),
        numbered=True,
    ),
    "revision": _Table("act, record_id, kind, body", (int, str, str, str | None), numbered=True),
    "series": _Table("id, columns, count, data", (str, str, int, bytes)),
    "raw": _Table(
        "sha256, name, bytes",
        (str, str, bytes),
        lambda values: re.fullmatch("[0-9a-f]{64}", str(values[0])) is not None,
    ),
}


def rescue(path: Path, seconds: float = MOST_SECONDS, stopped: Callable[[], bool] = lambda: False) -> Rescue | None:
    """Read what can be read of `path`; None when nothing can.

    For a worker: it ends after `seconds`, or once `stopped` says so, with what it has by then.
    """
    clock = _Clock(seconds, stopped)
    found: dict[str, Rows] = {table: {} for table in TABLES}
    _by_trees(path, found, clock)
    cut_off = _by_pages(path, found, clock)
    lost = sum(map(_gaps, found.values())) + _drop_unreadable(found)
    if not found["revision"]:
        return None
    for values in found["revision"].values():
        found["act"].setdefault(int(str(values[0])), ("", "entry whose label is lost", "do", None, None))
    for number, (at, label, _, reverses, reason) in found["act"].items():
        if reverses is not None and reverses not in found["act"]:  # it took back what is not there any more
            found["act"][number] = (at, label, "do", None, reason)
    db = nameless()
    schema.lay_out(db)
    db.execute("BEGIN")
    kept = {table: _put(db, table, rows) for table, rows in found.items()}
    db.execute("COMMIT")
    notebook = Notebook(db, path, None, "Rescued from a damaged file, so only shown.")
    notebook.in_no_file = True
    return Rescue(notebook, kept["act"], lost, cut_off)


def _by_trees(path: Path, found: dict[str, Rows], clock: _Clock) -> None:
    """What SQLite reads of each table from its first row on, and from its last one back, until a page can't be read."""
    try:
        db = with_log(path)
    except (sqlite3.Error, OSError):
        return
    db.set_progress_handler(clock.over, 100_000)
    for (name, table), order in itertools.product(TABLES.items(), ("ASC", "DESC")):
        with contextlib.suppress(sqlite3.Error, *UNREADABLE):
            for rowid, *values in db.execute(f"SELECT rowid, {table.columns} FROM {name} ORDER BY rowid {order}"):
                if clock.over():
                    break
                if table.takes(tuple(values)):
                    found[name][rowid] = tuple(values)
    db.close()


def _by_pages(path: Path, found: dict[str, Rows], clock: _Clock) -> bool:
    """What stands on pages that no tree leads to any more; whether the file is cut off."""
    log = Path(f"{path}-wal")
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        pages = Pages(data, log.read_bytes() if log.exists() else b"")
        for row in pages.rows():
            if clock.over():
                break
            for name, table in TABLES.items():
                values = row.values[1:] if table.numbered and row.values[:1] == (None,) else row.values
                if table.takes(values):
                    found[name].setdefault(row.rowid, values)
        return pages.cut_off


def _gaps(rows: Rows) -> int:
    """How many rows lack between those that are there: a notebook only grows, so its rows count up from 1."""
    steps = (after - before - 1 for before, after in itertools.pairwise([0, *sorted(rows)]))
    return sum(step if step < WIDEST_GAP else 1 for step in steps)


def _drop_unreadable(found: dict[str, Rows]) -> int:
    """Take out what is a row and says nothing; how many those were."""
    before = sum(map(len, found.values()))
    found["series"] = {rowid: row for rowid, row in found["series"].items() if _reads(unpack_series, *row[1:])}
    known = {row[0] for row in found["series"].values()}
    found["revision"] = {rowid: row for rowid, row in found["revision"].items() if _is_record(row, known)}
    return before - sum(map(len, found.values()))


def _reads(read: Callable[..., object], *values: Value) -> bool:
    try:
        read(*values)
    except UNREADABLE:
        return False
    return True


def _is_record(row: tuple[Value, ...], series: set[Value]) -> bool:
    _act, _record_id, kind, body = row
    try:
        record = from_json(str(kind), str(body)) if body is not None else None
    except UNREADABLE:
        return False
    wanted = getattr(record, "series_id", None)
    return wanted is None or wanted in series


def _put(db: sqlite3.Connection, name: str, rows: Rows) -> int:
    """Insert one by one: a row that does not fit is left out, and not the others with it. How many went in."""
    count = 0
    for rowid, values in sorted(rows.items()):
        with contextlib.suppress(sqlite3.Error, OverflowError):
            marks = ", ".join("?" * (len(values) + 1))
            statement = f"INSERT OR IGNORE INTO {name} (rowid, {TABLES[name].columns}) VALUES ({marks})"
            count += db.execute(statement, (rowid, *values)).rowcount
    return count
