"""The file that a notebook lives in: which one stands under a name, whether it is one, how it is opened, and what is said
when it can't be."""

from __future__ import annotations

import os
import shutil
import sqlite3
import tempfile
from pathlib import Path

from . import schema

LEAST_FREE_BYTES = 200_000
"""With less free than this a disk is called full."""


UNREADABLE = (
    sqlite3.Error,
    ValueError,
    KeyError,
    TypeError,
    IndexError,
    AttributeError,
    OverflowError,
    RecursionError,
    StopIteration,
    MemoryError,
)
"""What reading a file that somebody or something has bent may raise."""


class NotebookError(Exception):
    """Something is wrong with a notebook; the message is fit to be shown. `can_rescue`: part may be readable."""

    def __init__(self, message: str, can_rescue: bool = False) -> None:
        super().__init__(message)
        self.can_rescue = can_rescue


def connect(path: Path, query: str = "", timeout: float = 2.0) -> sqlite3.Connection:
    """A connection in which transactions are begun by hand."""
    uri = f"{path.resolve().as_uri()}{query}"
    return sqlite3.connect(uri, uri=True, isolation_level=None, timeout=timeout, check_same_thread=False)


def prepare(db: sqlite3.Connection) -> None:
    db.execute("PRAGMA journal_mode = WAL")
    # FULL: an entry that the tape shows survives a power cut, not only a killed process.
    db.execute("PRAGMA synchronous = FULL")
    db.execute("PRAGMA foreign_keys = ON")
    # Copying the log of writes back into the file can wait for a quiet moment (`tidy`) or the end: the person can't.
    db.execute("PRAGMA wal_autocheckpoint = 0")


def refuse_foreign(path: Path) -> None:
    """Raises `NotebookError` for what can't be a notebook by its first bytes; nothing is written."""
    if not path.exists():
        raise NotebookError(f"{path} is not there. It may have been moved or renamed.")
    if path.is_dir():
        raise NotebookError(f"{path.name} is a folder, not a notebook.")
    try:
        with path.open("rb") as file:
            head = file.read(100)
    except OSError as error:
        raise NotebookError(f"{path.name} can't be read: {error.strerror}.") from error
    if len(head) == 0:
        raise NotebookError(f"{path.name} is empty: no notebook was ever kept in it. It was not touched.")
    if not head.startswith(b"SQLite format 3\0"):
        raise NotebookError(f"{path.name} is not a notebook, or its beginning is damaged. It was not touched.", True)
    # Header bytes 68 to 71: https://sqlite.org/fileformat.html §1.3; a fresh file in WAL may not have them yet.
    found = int.from_bytes(head[68:72], "big")
    if found not in (0, schema.APPLICATION_ID):
        raise NotebookError(f"{path.name} is a database of another program. It was not touched.")


def check(db: sqlite3.Connection, path: Path) -> None:
    """Raises `NotebookError` for another program's database or a newer format, `sqlite3.Error` for a damaged one."""
    found = db.execute("PRAGMA application_id").fetchone()[0]
    if found != schema.APPLICATION_ID:
        raise NotebookError(f"{path.name} is a database, but not a notebook. It was not touched.")
    if schema.format_of(db) > schema.FORMAT:
        raise NotebookError(
            f"{path.name} was written by a newer Tall Mast (format {schema.format_of(db)}; this one knows "
            f"{schema.FORMAT}). Update the program to open it. It was not touched."
        )
    verdict = db.execute("PRAGMA quick_check(1)").fetchone()[0]
    if verdict != "ok":
        raise sqlite3.DatabaseError(verdict)


def identity(path: Path) -> tuple[int, int] | None:
    """Which file stands under a name; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def with_log(path: Path) -> sqlite3.Connection:
    """A connection to a file that can't have company beside it: as it is, or where a log of writes was left, to a copy of
    both, since the file alone is not all of it."""
    log = Path(f"{path}-wal")
    if not log.exists() or log.stat().st_size == 0:
        return connect(path, "?mode=ro&immutable=1")
    folder = Path(tempfile.mkdtemp(prefix="tallmast-look-"))
    copy = folder / "copy.tallmast"
    try:
        for ending in ("", "-wal"):
            shutil.copyfile(f"{path}{ending}", f"{copy}{ending}")
        source = connect(copy)
        memory = sqlite3.connect(":memory:", isolation_level=None, check_same_thread=False)
        source.backup(memory)
        source.close()
        return memory
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def upgrade_by_copy(path: Path) -> None:
    """Bring an older notebook up to date in a copy beside it, which takes its place when it is whole.

    A step that fails leaves the file as it was, to the byte.
    """
    copy = path.with_name(f".{path.name}.upgrading")
    copy.unlink(missing_ok=True)
    try:
        log = Path(f"{path}-wal")
        if log.exists() and log.stat().st_size:
            # What was left in the log of writes goes into the file first: it must not be replayed onto the new one.
            late = connect(path)
            late.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            late.close()
        source = connect(path, "?mode=rw")
        made = connect(copy)
        try:
            source.backup(made)
            made.execute("PRAGMA journal_mode = DELETE")
            schema.upgrade(made)
        finally:
            made.close()
            source.close()
        with copy.open("rb+") as file:
            os.fsync(file.fileno())
        for ending in ("-wal", "-shm"):
            Path(f"{path}{ending}").unlink(missing_ok=True)
        copy.replace(path)
    finally:
        for ending in ("", "-wal", "-shm", "-journal"):
            Path(f"{copy}{ending}").unlink(missing_ok=True)


def damaged(path: Path, error: BaseException) -> NotebookError:
    code = getattr(error, "sqlite_errorcode", None)
    full = code == sqlite3.SQLITE_FULL or (disk_is_full(path) and isinstance(error, sqlite3.OperationalError | OSError))
    if full or (
        code is not None and code & 0xFF in (sqlite3.SQLITE_IOERR, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_BUSY)
    ):
        return NotebookError(f"{path.name} can't be opened now: {plainly(error, path)} It was not touched.")
    detail = (str(error).splitlines() or [""])[0][:120] or type(error).__name__
    return NotebookError(f"{path.name} is damaged ({detail}). It was not touched.", True)


def disk_is_full(path: Path) -> bool:
    try:
        return shutil.disk_usage(path.parent).free < LEAST_FREE_BYTES
    except OSError:
        return False


def plainly(error: BaseException, path: Path) -> str:
    text = str(error)
    if "full" in text or "No space" in text or disk_is_full(path):
        return "the disk is full. Make room and do it again."
    if "readonly" in text or "read-only" in text or "Permission" in text or "unable to open" in text:
        return "the file or its folder can't be written. Choose another folder."
    if "locked" in text:
        return "another program holds the file. Close that and do it again."
    if "disk I/O" in text:
        return "the disk did not take it (an input/output error). Try again, or save a copy to another disk."
    return f"{text[:200]}."
