"""The file that a notebook lives in: which one stands under a name, whether it is one, how it is opened, and what is said
when it can't be."""

from __future__ import annotations

import contextlib
import filecmp
import itertools
import os
import shutil
import sqlite3
import tempfile
from collections.abc import Iterator
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


class LenientText:
    """Reads the texts of a notebook; a byte that is no letter costs that letter, and is counted."""

    bent = 0

    def __call__(self, data: bytes) -> str:
        try:
            return data.decode()
        except UnicodeDecodeError:
            self.bent += 1
            return data.decode("utf-8", "replace")


def connect(path: Path, query: str = "", timeout: float = 2.0) -> sqlite3.Connection:
    """A connection in which transactions are begun by hand."""
    return _by_hand(f"{path.resolve().as_uri()}{query}", timeout)


def nameless() -> sqlite3.Connection:
    """An empty database that no folder shows, and that is gone with its connection (https://sqlite.org/inmemorydb.html,
    temporary databases)."""
    return _by_hand("")


def _by_hand(uri: str, timeout: float = 2.0) -> sqlite3.Connection:
    db = sqlite3.connect(uri, uri=True, isolation_level=None, timeout=timeout, check_same_thread=False)
    db.text_factory = LenientText()
    return db


def prepare(db: sqlite3.Connection) -> None:
    db.execute("PRAGMA journal_mode = WAL")
    # FULL: an entry that the tape shows survives a power cut, not only a killed process.
    db.execute("PRAGMA synchronous = FULL")
    # No foreign keys: an entry whose row is lost can still be taken back.
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
    """A connection that can't change anything, nor make a file beside this one: to the file as it is, or where a log of
    writes was left, to what both say, since the file alone is not all of it. Raises `sqlite3.Error`, `OSError`."""
    left = [
        ending for ending in ("-wal", "-journal") if (log := Path(f"{path}{ending}")).exists() and log.stat().st_size
    ]
    if not left:
        return connect(path, "?mode=ro&immutable=1")
    with tempfile.TemporaryDirectory(prefix="tallmast-look-") as folder:
        copy = Path(folder) / "copy.tallmast"
        for ending in ("", *left):
            shutil.copyfile(f"{path}{ending}", f"{copy}{ending}")
        with contextlib.closing(connect(copy)) as source:
            memory = nameless()
            source.backup(memory)
        return memory


def bring_up_to_date(path: Path) -> Path:
    """Bring an older notebook to the newest format; where it is kept as it was, beside it, is returned.

    The upgrade is made in a copy, and goes into the file as one transaction once it is whole: its rights and all its names stay. Raises
    `NotebookError`, or what `damaged` names; the file then says what it said.
    """
    with _scratch(path, "before") as before, _scratch(path, "upgrading") as made:
        with contextlib.closing(with_log(path)) as source, contextlib.closing(connect(before)) as old:
            found = schema.format_of(source)
            source.backup(old)
            old.execute("PRAGMA journal_mode = DELETE")
        shutil.copyfile(before, made)
        with contextlib.closing(connect(made)) as new:
            schema.upgrade(new)
        kept = _keep(before, path, found)
        try:
            with (
                contextlib.closing(connect(made, "?mode=ro")) as new,
                contextlib.closing(connect(path, "?mode=rw")) as target,
            ):
                prepare(target)
                new.backup(target)
        except sqlite3.Error as error:
            raise NotebookError(
                f"{path.name} is of an older format and can’t be brought up to date: {plainly(error, path)} Nothing in it was lost."
            ) from error
        return kept


@contextlib.contextmanager
def _scratch(path: Path, what: str) -> Iterator[Path]:
    """A name beside a file for what is being made of it; nothing stays there."""
    made = path.with_name(f".{path.name}.{what}")
    endings = ("", "-wal", "-shm", "-journal")
    try:
        for ending in endings:
            Path(f"{made}{ending}").unlink(missing_ok=True)
        yield made
    finally:
        for ending in endings:
            Path(f"{made}{ending}").unlink(missing_ok=True)


def _keep(before: Path, path: Path, found: int) -> Path:
    """Put the old notebook beside the new one under a name of its own, with the rights it had; once, however often it is tried."""
    shutil.copymode(path, before)
    with before.open("rb") as file:
        os.fsync(file.fileno())
    for i in itertools.count(1):
        kept = path.with_name(f"{path.stem} (format {found}{f', {i}' if i > 1 else ''}){path.suffix}")
        if not kept.exists():
            before.rename(kept)
            return kept
        if filecmp.cmp(before, kept, shallow=False):
            return kept
    raise AssertionError  # there is always another number


def damaged(path: Path, error: BaseException) -> NotebookError:
    code = getattr(error, "sqlite_errorcode", None)
    not_now = (
        isinstance(error, OSError)
        or code == sqlite3.SQLITE_FULL
        or (disk_is_full(path) and isinstance(error, sqlite3.OperationalError))
    )
    if not_now or (
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
