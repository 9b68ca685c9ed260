"""What can still be read of a damaged notebook, as a new one; the damaged file is only copied from."""

from __future__ import annotations

import contextlib
import shutil
import sqlite3
import time
from collections.abc import Callable, Iterable
from pathlib import Path

from tallmast.frozen import Frozen

from . import schema
from .entry import unpack_series
from .file import UNREADABLE, connect
from .records import from_json
from .store import Notebook


class Rescue(Frozen, eq=True):
    """The notebook of what was read (read-only), and how much that is."""

    notebook: Notebook
    kept: int
    lost: int

    @property
    def sentence(self) -> str:
        lost = f"{self.lost} could not be read" if self.lost else "nothing else was found"
        kept = "one entry" if self.kept == 1 else f"{self.kept} entries"
        return f"Rescued {kept}; {lost}."


MOST_SECONDS = 30.0
MOST_GAPS = 2000


class _Clock:
    """Ends a rescue that takes too long, or that somebody stops."""

    def __init__(self, seconds: float, stopped: Callable[[], bool]) -> None:
        self._end, self._stopped = time.monotonic() + seconds, stopped

    def over(self) -> bool:
        return time.monotonic() > self._end or self._stopped()


def _rows(db: sqlite3.Connection, table: str, columns: str, clock: _Clock) -> tuple[list[tuple[object, ...]], int]:
    """Every row that can be read, in order of rowid, past damaged pages; and how many gaps there were."""
    rows: list[tuple[object, ...]] = []
    after, step, gaps = -(2**62), 1, 0
    while not clock.over() and gaps < MOST_GAPS and after < 2**62:
        try:
            for row in db.execute(f"SELECT rowid, {columns} FROM {table} WHERE rowid > ? ORDER BY rowid", (after,)):
                rows.append(row[1:])
                after, step = int(row[0]), 1
            return rows, gaps
        except (sqlite3.Error, ValueError, OverflowError, TypeError):
            # A page that can't be read: a little further on, in steps that grow, so that any gap is passed.
            gaps += 1
            after, step = max(after, 0) + step, min(step * 2, 2**40)
    return rows, gaps


def rescue(
    path: Path, folder: Path, seconds: float = MOST_SECONDS, stopped: Callable[[], bool] = lambda: False
) -> Rescue | None:
    """Read what can be read of `path` into a new notebook in `folder`; None when nothing can.

    For a worker: it ends after `seconds`, or once `stopped` says so, with what it has by then.
    """
    clock = _Clock(seconds, stopped)
    copy = folder / f"{path.stem}-damaged-copy.tallmast"
    copy.unlink(missing_ok=True)
    shutil.copyfile(path, copy)
    for ending in ("-wal",):
        with contextlib.suppress(OSError):
            shutil.copyfile(f"{path}{ending}", f"{copy}{ending}")
    target = folder / f"{path.stem}-rescued.tallmast"
    target.unlink(missing_ok=True)
    try:
        db = connect(copy)
        db.text_factory = lambda data: data.decode("utf-8", "replace")
        db.set_progress_handler(clock.over, 100_000)
        db.execute("PRAGMA writable_schema = ON")
        acts, lost_acts = _rows(db, "act", "number, at, label, manner, reverses, reason", clock)
        revisions, lost_revisions = _rows(db, "revision", "number, act, record_id, kind, body", clock)
        series, lost_series = _rows(db, "series", "id, columns, count, data", clock)
        raw, lost_raw = _rows(db, "raw", "sha256, name, bytes", clock)
        db.close()
    except sqlite3.Error:
        return None
    if not revisions:
        return None
    good_series = []
    for row in series:
        try:
            unpack_series(str(row[1]), int(str(row[2])), row[3] if isinstance(row[3], bytes) else b"")
            good_series.append(row)
        except UNREADABLE:
            lost_series += 1
    known = {row[0] for row in good_series}
    good = []
    for row in revisions:
        kind, body = str(row[3]), row[4]
        try:
            record = from_json(kind, str(body)) if body is not None else None
        except UNREADABLE:
            lost_revisions += 1
            continue
        if record is not None and getattr(record, "series_id", None) not in (None, *known):
            lost_revisions += 1
            continue
        good.append(row)
    new = connect(target)
    schema.lay_out(new)
    new.execute("PRAGMA foreign_keys = OFF")
    new.execute("BEGIN")
    # Undo and redo may refer to acts that are gone; a rescued tape is for reading, so each is plain.
    acts = [(row[0], row[1], row[2], row[5]) for row in acts if isinstance(row[0], int)]
    _put(new, "INSERT OR IGNORE INTO act VALUES (?, ?, ?, 'do', NULL, ?)", acts)
    numbers = {row[0] for row in acts}
    lone = {row[1] for row in good if isinstance(row[1], int)} - numbers
    _put(
        new,
        "INSERT OR IGNORE INTO act VALUES (?, '', 'entry whose label is lost', 'do', NULL, NULL)",
        [(n,) for n in lone],
    )
    kept = _put(new, "INSERT OR IGNORE INTO revision VALUES (?, ?, ?, ?, ?)", good)
    _put(new, "INSERT OR IGNORE INTO series VALUES (?, ?, ?, ?)", good_series)
    _put(new, "INSERT OR IGNORE INTO raw VALUES (?, ?, ?)", raw)
    new.execute("COMMIT")
    new.close()
    notebook = Notebook._look(target, "Rescued from a damaged file, so only shown.")
    return Rescue(notebook, kept, lost_acts + lost_revisions + lost_series + lost_raw)


def _put(db: sqlite3.Connection, statement: str, rows: Iterable[tuple[object, ...]]) -> int:
    """Insert one by one: a row that does not fit is left out, and not the others with it. How many went in."""
    count = 0
    for row in rows:
        with contextlib.suppress(sqlite3.Error, OverflowError):
            count += db.execute(statement, row).rowcount
    return count
