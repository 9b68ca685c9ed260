"""The tables of a notebook, and the numbered steps that bring an old one up to date.

`docs/notebook-format.md` says the same for somebody with any SQLite tool.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from typing import Any

APPLICATION_ID = 0x54414C4D  # "TALM"
FORMAT = 12

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


def _to_8(db: sqlite3.Connection) -> None:
    """The two ends are alike: what was the chain is the home end, and home's sensitivity, which stood with the far end, is
    its own. What stayed on beside the antenna of a run is a branch of it."""
    db.execute("DROP TRIGGER revision_no_update")
    home: dict[str, Any] = {}
    # In order: each revision of the home end gets the sensitivity that held at that time.
    level: float | None = None
    for number, kind, body in db.execute(
        "SELECT number, kind, body FROM revision WHERE kind IN ('chain', 'far end', 'run') ORDER BY number"
    ).fetchall():
        record = _object(body)
        if kind == "chain":
            home = {**record, "id": "home end", "sensitivity_dbm": level} if record is not None else {}
            db.execute(
                "UPDATE revision SET kind = 'home end', record_id = 'home end', body = ? WHERE number = ?",
                (json.dumps(home) if record is not None else body, number),
            )
            continue
        if kind == "far end":
            level = record.pop("home_sensitivity_dbm", None) if record is not None else None
        elif record is not None and record.pop("also_on_id", ""):
            record["branches"] = [{"antenna_id": json.loads(body)["also_on_id"]}]
        if record is not None:
            db.execute("UPDATE revision SET body = ? WHERE number = ?", (json.dumps(record), number))
    if home.get("sensitivity_dbm") != level:
        _say_of_home(db, {**home, "id": "home end", "sensitivity_dbm": level})
    _append_only(db, "revision", "UPDATE")


def _to_9(db: sqlite3.Connection) -> None:
    """What an older program does not take: turns on the spot, gains on a range, designs, what flies; a run round the antenna; what a
    log's heights count from. Nothing that is there changes."""


def _to_10(db: sqlite3.Connection) -> None:
    """What an older program does not take: the reference antenna of a turntable's cut; heights, obstacles and conditions of the Link.
    Nothing that is there changes."""


def _to_11(db: sqlite3.Connection) -> None:
    """What an older program does not take: what was logged beside a level, and where it is of no use; noise at a place; trials against
    another sender. Nothing that is there changes."""


def _to_12(db: sqlite3.Connection) -> None:
    """What an older program does not take: a question that is about one antenna. Nothing that is there changes."""


def _say_of_home(db: sqlite3.Connection, record: dict[str, Any]) -> None:
    """A revision of the home end by the last act that there is: what the far end's sheet said of home after the chain's."""
    act = db.execute("SELECT max(act) FROM revision WHERE record_id = 'far end'").fetchone()[0]
    db.execute(
        "INSERT INTO revision (act, record_id, kind, body) VALUES (?, 'home end', 'home end', ?)",
        (act, json.dumps(record)),
    )


def _object(body: str | None) -> dict[str, Any] | None:
    """A record's body as it stands; None of one that was taken out, or can't be read: it stays as it is."""
    try:
        found = json.loads(body or "null")
    except (ValueError, RecursionError):
        return None
    return found if isinstance(found, dict) else None


UPGRADES: dict[int, Callable[[sqlite3.Connection], None]] = {
    2: _to_2,
    3: _to_3,
    4: _to_4,
    5: _to_5,
    6: _to_6,
    7: _to_7,
    8: _to_8,
    9: _to_9,
    10: _to_10,
    11: _to_11,
    12: _to_12,
}
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
