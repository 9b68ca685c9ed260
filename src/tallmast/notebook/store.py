"""One notebook file: written by acts, each one transaction; undone, redone, corrected, never overwritten."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal

from . import changes, schema
from .entry import Act, Entry, RawFile, act_of, pack_series, unpack_series
from .evidence import Evidence, Series
from .file import (
    UNREADABLE,
    LenientText,
    NotebookError,
    bring_up_to_date,
    check,
    connect,
    damaged,
    identity,
    nameless,
    plainly,
    prepare,
    refuse_foreign,
    with_log,
)
from .locking import Lock
from .records import Record, from_json, to_json

SUFFIX = ".tallmast"
ACTS = (
    "SELECT number, at, label, manner, reverses, reason FROM "
    "(SELECT number FROM act UNION SELECT act FROM revision WHERE typeof(act) = 'integer') LEFT JOIN act USING (number) "
    "ORDER BY number"
)
"""Every entry of the tape; of one whose row is lost at least that there was one."""


class Notebook:
    """An open notebook. Make one with `create` or `open`; listeners in `on_change` hear of every act."""

    def __init__(self, db: sqlite3.Connection, path: Path, lock: Lock | None, read_only: str) -> None:
        self.path = path
        self.read_only = read_only
        """Why nothing can be written, as a sentence; empty when all is well."""
        self.on_change: list[Callable[[Act], None]] = []
        self.in_no_file = False
        """Whether what is shown was read out of a damaged file, and stands in none until a copy is saved."""
        self._db = db
        self._lock = lock
        self._clock: Callable[[], datetime] = lambda: datetime.now(UTC)
        self._identity = None if read_only else identity(path)
        self.set_aside: list[str] = []
        """What could not be read as it stands, in words; the rest is shown."""
        self.kept_before: Path | None = None
        """Where it is kept as it was, if opening it brought it to a newer format."""
        self._records: dict[str, Record | None] = {}
        """By id in order of first entry; None of one that is taken out, or can't be read: it keeps its place."""
        self._series: dict[str, Series] = {}
        self._evidence: Evidence | None = None
        self._acts: dict[int, Act] = {}
        self._undoable: list[int] = []
        self._redoable: list[int] = []
        self._untidy = False
        self._log_seen: tuple[int, int] | None = None
        """Which log of writes was last seen beside the file: nobody else has any business with it."""
        self._load()

    # Opening and closing

    @classmethod
    def create(cls, path: Path) -> Notebook:
        """A new, empty notebook; refuses to overwrite. Raises `NotebookError`."""
        if path.exists():
            raise NotebookError(f"{path.name} is there already. Choose another name; nothing was overwritten.")
        lock, db = None, None
        try:
            lock = Lock.take(path)
            db = connect(path)
            prepare(db)
            schema.lay_out(db)
            db.execute("PRAGMA wal_checkpoint(TRUNCATE)")  # whoever copies the file now has a notebook
        except (sqlite3.Error, OSError) as error:
            if db is not None:
                db.close()
            for ending in ("", "-wal", "-shm"):  # a stub would block the name
                Path(f"{path}{ending}").unlink(missing_ok=True)
            if lock is not None:
                lock.release()
            raise NotebookError(
                f"{path.name} can't be made in {path.parent}: {plainly(error, path)} Nothing was left there."
            ) from error
        return cls(db, path, lock, "")

    @classmethod
    def open(cls, path: Path) -> Notebook:
        """Open for writing where possible, else read-only with the reason in `read_only`.

        Raises `NotebookError` for what is not a notebook, is newer than this program, or is damaged.
        """
        refuse_foreign(path)
        lock = Lock.take(path)
        if lock is None:
            return cls._look(path, "Open in another window, so this one only shows it.")
        if lock.why_not:
            return cls._look(path, f"Only shown: {lock.why_not}.")
        db = kept = None
        try:
            path = path.resolve()  # a link leads to one file, which is the one that is watched from here on
            with contextlib.closing(with_log(path)) as source:  # what is refused stays as it is, to the byte
                check(source, path)
                older = schema.format_of(source) < schema.FORMAT
            if older:
                kept = bring_up_to_date(path)
            db = connect(path, "?mode=rw")
            prepare(db)
            notebook = cls(db, path, lock, "")
            notebook.kept_before = kept
            return notebook
        except BaseException as error:
            if db is not None:
                db.close()
            lock.release()
            if isinstance(error, (*UNREADABLE, OSError)):
                raise damaged(path, error) from error
            raise

    @classmethod
    def _look(cls, path: Path, why: str) -> Notebook:
        """Read-only. An older format is brought up to date in memory; the file is not touched."""
        try:
            try:
                source = connect(path, "?mode=ro")
                source.execute("SELECT count(*) FROM act").fetchone()
            except sqlite3.OperationalError:
                # A folder that can't be written holds no shared-memory file, without which the log of writes beside the
                # file can't be read; a copy elsewhere can.
                source = with_log(path)
            check(source, path)
            if schema.format_of(source) < schema.FORMAT:
                copy = nameless()
                source.backup(copy)
                source.close()
                schema.upgrade(copy)
                source = copy
            return cls(source, path, None, why)
        except (*UNREADABLE, OSError) as error:
            raise damaged(path, error) from error

    @property
    def needs_tidying(self) -> bool:
        """Whether the file alone lacks something that was shown as kept."""
        return self._untidy and not self.read_only

    def tidy(self) -> None:
        """Copy what SQLite wrote to its log into the file itself: a copy of the file, or a log that somebody takes away, then costs
        nothing. On any thread."""
        self._untidy = False
        try:
            if self._log_gone():
                self._db.execute("PRAGMA wal_checkpoint(PASSIVE)")  # it still holds what has no name any more
                return
            other = self._again()
            other.execute("PRAGMA wal_checkpoint(PASSIVE)")
            other.close()
        except (sqlite3.Error, OSError, NotebookError):
            self._untidy = True  # another time will do

    def _log_gone(self) -> bool:
        """Whether the log of writes that this connection has open is no more the one beside the file."""
        return self._log_seen is not None and identity(Path(f"{self.path}-wal")) != self._log_seen

    def _mend_log(self) -> None:
        """Begin a log anew where somebody took it away: all that is in it goes into the file first."""
        if self._log_gone():
            self._db.close()  # which copies it into the file
            self._db = connect(self.path, "?mode=rw")
            prepare(self._db)
            self._log_seen = None

    def _again(self) -> sqlite3.Connection:
        """A second connection to the same file, and to no other that may stand under its name by now."""
        self._still_there()
        other = connect(self.path, "?mode=rw")
        try:
            self._still_there()
        except NotebookError:
            other.close()
            raise
        return other

    def _still_there(self) -> None:
        """Raises `NotebookError`, and takes no more writes, once the file under the notebook's name is another or gone."""
        if self._identity is None or self.read_only:
            return
        now = identity(self.path)
        if now == self._identity:
            return
        what = "was moved or deleted" if now is None else "was replaced by another file"
        self.read_only = f"{self.path.name} {what} while it was open, so nothing more can be kept in it."
        raise NotebookError(
            f"Not kept: {self.read_only} All that was kept is still here: Ctrl+Shift+S saves it elsewhere, and what is in "
            "an open sheet stays in it."
        )

    def close(self) -> None:
        self._db.close()
        if self._lock is not None:
            self._lock.release()
            self._lock = None

    # Reading

    def _load(self) -> None:
        self._records, self._series, self._acts, self._evidence = {}, {}, {}, None
        self._undoable, self._redoable, self.set_aside = [], [], []
        text = self._db.text_factory = LenientText()
        for row in self._db.execute(ACTS):
            act, whole = act_of(row)
            if not whole:
                self.set_aside.append(f"what entry {act.number} of the tape says")
            self._acts[act.number] = act
            self._stack(act)
        for series_id, columns, count, data in self._db.execute("SELECT id, columns, count, data FROM series"):
            try:
                self._series[series_id] = unpack_series(columns, count, data)
            except UNREADABLE:
                self.set_aside.append(f"the columns “{str(series_id)[:20]}”")
        latest: dict[str, tuple[str, str | None]] = {}
        for record_id, kind, body in self._db.execute("SELECT record_id, kind, body FROM revision ORDER BY number"):
            latest[record_id] = (kind, body)
        for record_id, (kind, body) in latest.items():
            self._take(record_id, kind, body)
        if text.bent:
            self.set_aside.append(
                "a byte that is no letter" if text.bent == 1 else f"bytes that are no letters, in {text.bent} places"
            )

    def _take(self, record_id: str, kind: str, body: str | None) -> None:
        """A record as its newest revision says, or what is set aside of it."""
        record, why = None, ""
        try:
            record = from_json(kind, body) if body is not None else None
        except UNREADABLE:
            why = f"one {str(kind)[:30]}"
        if record is not None:
            wanted = getattr(record, "series_id", None)
            if record.id != record_id:
                why = f"one {str(kind)[:30]}"
            elif wanted is not None and wanted not in self._series:
                why = f"{record.title}, whose columns are missing"
        if why:
            self.set_aside.append(why)
        self._records[record_id] = None if why else record

    def _stack(self, act: Act) -> None:
        if act.manner == "do":
            self._undoable.append(act.number)
            self._redoable.clear()
        elif act.manner == "undo" and act.reverses in self._undoable:
            self._undoable.remove(act.reverses)
            self._redoable.append(act.reverses)
        elif act.manner == "redo" and act.reverses in self._redoable:
            self._redoable.remove(act.reverses)
            self._undoable.append(act.reverses)

    def refresh(self) -> bool:
        """For a read-only look at a notebook that another window writes: take in what has come. True if any."""
        try:
            newest = self._db.execute("SELECT max(number) FROM act").fetchone()[0] or 0
            if newest == self.head:
                return False
            self._load()
        except UNREADABLE:
            return False  # the writer is at work or gone; what was read stays
        return True

    @property
    def head(self) -> int:
        """Number of the last act, 0 for an empty notebook."""
        return next(reversed(self._acts), 0)

    @property
    def tape(self) -> Sequence[Act]:
        """Every act, oldest first."""
        return list(self._acts.values())

    @property
    def can_undo(self) -> Act | None:
        """The act that `undo` would take back."""
        return self._acts[self._undoable[-1]] if self._undoable and not self.read_only else None

    @property
    def can_redo(self) -> Act | None:
        return self._acts[self._redoable[-1]] if self._redoable and not self.read_only else None

    def evidence(self) -> Evidence:
        """The records as they stand."""
        if self._evidence is None:
            records = {record_id: record for record_id, record in self._records.items() if record is not None}
            self._evidence = Evidence(records, dict(self._series), self.head)
        return self._evidence

    def raw(self, sha256: str) -> RawFile | None:
        """Imported bytes by their SHA-256; None where they are not there, or can't be read."""
        return self._file("sha256", sha256)

    def _file(self, column: Literal["sha256", "rowid"], value: str | int) -> RawFile | None:
        try:
            row = self._db.execute(f"SELECT name, bytes FROM raw WHERE {column} = ?", (value,)).fetchone()
        except sqlite3.Error:
            return None
        return RawFile(*row) if row and isinstance(row[0], str) and isinstance(row[1], bytes) else None

    def raw_files(self) -> Iterator[RawFile | None]:
        """Every file that was ever brought in, one at a time, in the order it came; None for one that can't be read."""
        for (row,) in self._db.execute("SELECT rowid FROM raw ORDER BY rowid").fetchall():
            yield self._file("rowid", row)

    def revisions(self, record_id: str) -> list[tuple[Act, Record | None]]:
        """The life of a record: each act that touched it, and how it stood then (None: removed)."""
        rows = self._db.execute(
            "SELECT act, kind, body FROM revision WHERE record_id = ? ORDER BY number", (record_id,)
        ).fetchall()
        out: list[tuple[Act, Record | None]] = []
        for act, kind, body in rows:
            try:
                out.append((self._acts[act], from_json(kind, body) if body else None))
            except UNREADABLE:
                continue  # set aside when the notebook was opened, and said so there
        return out

    def changes(self) -> dict[int, list[changes.Change]]:
        """By the number of each act that corrected something: what stood there before, and what stands there since."""
        return changes.of_acts(self._db)

    # Writing

    def write(self, entry: Entry) -> Act:
        """Keep an entry: one transaction, then the listeners. Raises `NotebookError`, with nothing changed."""
        bodies: list[tuple[str, str, str | None]] = []
        for record in entry.records:
            try:
                bodies.append((record.id, record.kind, to_json(record)))
            except ValueError as error:
                raise NotebookError(f"“{entry.label}” was not kept: {record.title}: {error}.") from error
        bodies += [(record.id, record.kind, None) for record in entry.remove]
        return self._commit("do", None, entry.label, entry.reason, bodies, entry.raw, entry.series)

    def stage(self, entry: Entry) -> None:
        """Put an entry's raw bytes and series into the file ahead of `write`, which then is quick. On any thread.

        They count for nothing until the entry that names them is written. Raises `NotebookError`.
        """
        if self.read_only:
            raise NotebookError(f"Not kept: {self.read_only} Save a copy to go on in.")
        if self._log_gone():
            return  # another connection would know nothing of the log that was taken away: `write` does it all
        other = None
        try:
            other = self._again()
            other.execute("PRAGMA wal_autocheckpoint = 0")
            # Nothing counts on these rows until an act names them, and the log of writes, they included, is brought to
            # the disk when that act is.
            other.execute("PRAGMA synchronous = NORMAL")
            other.execute("BEGIN IMMEDIATE")
            _put_large(other, entry.raw, entry.series)
            other.execute("COMMIT")
        except (sqlite3.Error, OSError) as error:
            raise self._not_kept(entry.label, error) from error
        finally:
            if other is not None:
                other.close()

    def _not_kept(self, label: str, error: Exception) -> NotebookError:
        return NotebookError(
            f"“{label}” was not kept: {plainly(error, self.path)} Everything before it is safe in {self.path.name}."
        )

    def undo(self) -> Act | None:
        """Take the last act back by writing the revisions before it again. None when there is nothing to undo."""
        return self._reverse("undo", self.can_undo)

    def redo(self) -> Act | None:
        """Do again what was last undone."""
        return self._reverse("redo", self.can_redo)

    def _reverse(self, manner: Literal["undo", "redo"], act: Act | None) -> Act | None:
        if act is None:
            return None
        bodies: list[tuple[str, str, str | None]] = []
        for record_id, kind, body, number in self._db.execute(
            "SELECT record_id, kind, body, number FROM revision WHERE act = ? ORDER BY number", (act.number,)
        ).fetchall():
            if manner == "undo":
                before = self._db.execute(
                    "SELECT body FROM revision WHERE record_id = ? AND number < ? ORDER BY number DESC LIMIT 1",
                    (record_id, number),
                ).fetchone()
                bodies.append((record_id, kind, before[0] if before else None))
            else:
                bodies.append((record_id, kind, body))
        return self._commit(manner, act.number, act.label, None, bodies)

    def _commit(
        self,
        manner: Literal["do", "undo", "redo"],
        reverses: int | None,
        label: str,
        reason: str | None,
        bodies: Sequence[tuple[str, str, str | None]],
        raw: Sequence[RawFile] = (),
        series: Mapping[str, Series] | None = None,
    ) -> Act:
        if self.read_only:
            raise NotebookError(f"Not kept: {self.read_only} Save a copy to go on in.")
        self._still_there()
        act = Act(self.head + 1, self._clock().isoformat(timespec="milliseconds"), label, manner, reverses, reason)
        try:
            self._mend_log()
            self._db.execute("BEGIN IMMEDIATE")
            self._db.execute(
                "INSERT INTO act (number, at, label, manner, reverses, reason) VALUES (?, ?, ?, ?, ?, ?)",
                (act.number, act.at, act.label, act.manner, act.reverses, act.reason),
            )
            _put_large(self._db, raw, series or {})
            self._db.executemany(
                "INSERT INTO revision (act, record_id, kind, body) VALUES (?, ?, ?, ?)",
                [(act.number, *body) for body in bodies],
            )
            self._db.execute("COMMIT")
            self._still_there()  # it may have gone in the meantime: what was written then is not kept
        except (sqlite3.Error, OSError, OverflowError) as error:
            if self._db.in_transaction:
                with contextlib.suppress(sqlite3.Error):  # a full disk ends the transaction by itself
                    self._db.execute("ROLLBACK")
            raise self._not_kept(label, error) from error
        self._series.update(series or {})
        for record_id, kind, body in bodies:
            self._take(record_id, kind, body)
        self._evidence = None
        self._untidy = True
        self._log_seen = self._log_seen or identity(Path(f"{self.path}-wal"))
        self._acts[act.number] = act
        self._stack(act)
        for listener in list(self.on_change):
            listener(act)
        return act

    def save_copy(self, path: Path) -> None:
        """The whole notebook, history included, into a new file. Refuses to overwrite. Raises `NotebookError`."""
        if path.exists():
            raise NotebookError(f"{path.name} is there already. Choose another name; nothing was overwritten.")
        making = path.with_name(f".{path.name}.copying")
        try:
            making.unlink(missing_ok=True)
            copy = connect(making)
            self._db.backup(copy)
            copy.close()
            making.rename(path)  # it is there whole, or not at all
        except (sqlite3.Error, OSError) as error:
            making.unlink(missing_ok=True)
            raise NotebookError(f"No copy was made at {path}: {plainly(error, path)}") from error


def _put_large(db: sqlite3.Connection, raw: Iterable[RawFile], series: Mapping[str, Series]) -> None:
    for file in raw:
        if not db.execute("SELECT 1 FROM raw WHERE sha256 = ?", (file.sha256,)).fetchone():
            db.execute("INSERT INTO raw VALUES (?, ?, ?)", (file.sha256, file.name, file.data))
    for series_id, columns in series.items():
        if not db.execute("SELECT 1 FROM series WHERE id = ?", (series_id,)).fetchone():
            db.execute("INSERT INTO series VALUES (?, ?, ?, ?)", (series_id, *pack_series(columns)))
