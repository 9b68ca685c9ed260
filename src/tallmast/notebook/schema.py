"""The tables of a notebook, and the numbered steps that bring an old one up to date.

`docs/notebook-format.md` says the same for somebody with any SQLite tool.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable

APPLICATION_ID = 0x54414C4D  # "TALM"
FORMAT = 7

FORMAT_1 = """
CREATE TABLE act (
    number   INTEGER PRIMARY KEY,
    at       TEXT NOT NULL,
    label    TEXT NOT NULL,
    manner   TEXT NOT NULL CHECK (manner IN ('do', 'undo', 'redo')),
    reverses INTEGER REFERENCES act (number),
    reason   TEXT
);
CREATE TABLE revision (
    number    INTEGER PRIMARY KEY,
    act       INTEGER NOT NULL REFERENCES act (number),
    record_id TEXT NOT NULL,
    kind      TEXT NOT NULL,
    body      TEXT
);
CREATE TABLE raw (
    sha256 TEXT PRIMARY KEY,
    name   TEXT NOT NULL,
    bytes  BLOB NOT NULL
);
CREATE TABLE series (
    id      TEXT PRIMARY KEY,
    columns TEXT NOT NULL,
    count   INTEGER NOT NULL,
    data    BLOB NOT NULL
);
"""

APPEND_ONLY = ("act", "revision", "raw", "series")


def _append_only(db: sqlite3.Connection, table: str, verb: str) -> None:
    db.execute(
        f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
        f"BEGIN SELECT RAISE(ABORT, 'notebooks only grow'); END"
    )


def _to_2(db: sqlite3.Connection) -> None:
    """Nothing can be changed or removed, not even by another program; and `current` shows each record as it is."""
    for table in APPEND_ONLY:
        for verb in ("UPDATE", "DELETE"):
            _append_only(db, table, verb)
    db.execute("CREATE INDEX revision_record ON revision (record_id, number)")
    db.execute(
        "CREATE VIEW current AS SELECT record_id, kind, body, act FROM revision AS r WHERE body IS NOT NULL "
        "AND number = (SELECT max(number) FROM revision WHERE record_id = r.record_id)"
    )


def _to_3(db: sqlite3.Connection) -> None:
    """Kinds of record that an older program does not know: fixtures, calibrations, their checks, qualifications."""


def _to_4(db: sqlite3.Connection) -> None:
    """A kind that an older program does not know, the piece; and fields of sweeps, cables, fixtures, meter readings."""


def _to_5(db: sqlite3.Connection) -> None:
    """Kinds that an older program does not know: radios, emitters, noise, display runs, comparisons, pad checks, gain
    tables; and fields of pieces, chains, far ends and readings."""


def _to_6(db: sqlite3.Connection) -> None:
    """What an older program does not take: a comparison whose spells have no minute, or whose meter's unit is unknown."""


def _to_7(db: sqlite3.Connection) -> None:
    """What an older program does not take: places without coordinates, runs with more factors, readings on a display's own
    scale. And a name: what counts up when a fixture is connected again."""
    db.execute("DROP TRIGGER revision_no_update")
    db.execute(
        "UPDATE revision SET body = json_remove(json_set(body, '$.reconnection', json_extract(body, '$.seating')), '$.seating') "
        "WHERE CASE WHEN json_valid(body) THEN json_extract(body, '$.seating') END IS NOT NULL"
    )
    _append_only(db, "revision", "UPDATE")


UPGRADES: dict[int, Callable[[sqlite3.Connection], None]] = {2: _to_2, 3: _to_3, 4: _to_4, 5: _to_5, 6: _to_6, 7: _to_7}
"""UPGRADES[n] turns format n−1 into n."""


def format_of(db: sqlite3.Connection) -> int:
    return int(db.execute("PRAGMA user_version").fetchone()[0])


def lay_out(db: sqlite3.Connection) -> None:
    """An empty notebook of the newest format, in one transaction."""
    db.execute("BEGIN IMMEDIATE")
    for statement in FORMAT_1.split(";"):
        if statement.strip():
            db.execute(statement)
    db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    _climb(db, 1)
    db.execute("COMMIT")


def upgrade(db: sqlite3.Connection) -> None:
    """Bring an older notebook up to FORMAT in one transaction; it stays as it was if a step fails."""
    found = format_of(db)
    if found == FORMAT:
        return
    db.execute("BEGIN IMMEDIATE")
    try:
        _climb(db, found)
        db.execute("COMMIT")
    except BaseException:
        db.execute("ROLLBACK")
        raise


def _climb(db: sqlite3.Connection, found: int) -> None:
    for number in range(found + 1, FORMAT + 1):
        UPGRADES[number](db)
    db.execute(f"PRAGMA user_version = {FORMAT}")
