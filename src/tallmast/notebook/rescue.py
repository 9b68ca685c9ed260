"""What can still be read of a damaged notebook, as a new one; the damaged file is only copied from."""

from __future__ import annotations

import contextlib
import shutil
import sqlite3
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError

from . import schema
from .records import KINDS
from .store import Notebook, connect, unpack_series


@dataclass(frozen=True)
class Rescue:
    """The notebook of what was read (read-only), and how much that is."""

    notebook: Notebook
    kept: int
    lost: int

    @property
    def sentence(self) -> str:
        lost = f"{self.lost} could not be read" if self.lost else "nothing else was found"
        kept = "one entry" if self.kept == 1 else f"{self.kept} entries"
        return f"Rescued {kept}; {lost}."


def _rows(db: sqlite3.Connection, table: str, columns: str) -> tuple[list[tuple[object, ...]], int]:
    """Every row that can be read, walking by rowid past damaged pages; and how many steps failed."""
    rows: list[tuple[object, ...]] = []
    lost = 0
    try:
        top = db.execute(f"SELECT max(rowid) FROM {table}").fetchone()[0] or 0
    except sqlite3.Error:
        top = 100_000
    misses = 0
    for number in range(1, top + 1):
        try:
            row = db.execute(f"SELECT {columns} FROM {table} WHERE rowid = ?", (number,)).fetchone()
        except (sqlite3.Error, UnicodeDecodeError):
            lost += 1
            misses += 1
            if misses > 2000:
                break
            continue
        if row:
            misses = 0
            rows.append(row)
    return rows, lost


def rescue(path: Path, folder: Path) -> Rescue | None:
    """Read what can be read of `path` into a new notebook in `folder`; None when nothing can."""
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
        db.execute("PRAGMA writable_schema = ON")
        acts, lost_acts = _rows(db, "act", "number, at, label, manner, reverses, reason")
        revisions, lost_revisions = _rows(db, "revision", "number, act, record_id, kind, body")
        series, lost_series = _rows(db, "series", "id, columns, count, data")
        raw, lost_raw = _rows(db, "raw", "sha256, name, bytes")
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
        except ValueError:
            lost_series += 1
    known = {row[0] for row in good_series}
    good = []
    for row in revisions:
        kind, body = str(row[3]), row[4]
        try:
            record = KINDS[kind].model_validate_json(str(body)) if body is not None else None
        except (KeyError, ValidationError):
            lost_revisions += 1
            continue
        if record is not None and getattr(record, "series_id", None) not in (None, *known):
            lost_revisions += 1
            continue
        good.append(row)
    new = connect(target)
    schema.lay_out(new)
    new.execute("BEGIN")
    numbers = {row[0] for row in acts}
    # Undo and redo may refer to acts that are gone; a rescued tape is for reading, so each is plain.
    for row in acts:
        new.execute("INSERT INTO act VALUES (?, ?, ?, 'do', NULL, ?)", (row[0], row[1], row[2], row[5]))
    for act in sorted({row[1] for row in good} - numbers, key=str):
        new.execute("INSERT INTO act VALUES (?, '', 'entry whose label is lost', 'do', NULL, NULL)", (act,))
    new.executemany("INSERT INTO revision VALUES (?, ?, ?, ?, ?)", good)
    new.executemany("INSERT OR IGNORE INTO series VALUES (?, ?, ?, ?)", good_series)
    new.executemany("INSERT OR IGNORE INTO raw VALUES (?, ?, ?)", raw)
    new.execute("COMMIT")
    new.close()
    notebook = Notebook._look(target, "Rescued from a damaged file, so only shown.")
    return Rescue(notebook, len(good), lost_acts + lost_revisions + lost_series + lost_raw)
