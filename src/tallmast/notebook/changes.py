"""What a correction corrected: the fields of a record that differ between two of its revisions."""

from __future__ import annotations

import json
import sqlite3
from typing import Any

from tallmast.frozen import Frozen


class Change(Frozen, eq=True):
    """One field of a record before and after an act; `field` is its name in `records`."""

    record_id: str
    field: str
    before: Any
    after: Any


def between(record_id: str, before: str, after: str) -> list[Change]:
    """The fields that differ between two bodies (JSON) of one record, in the order of the record; none
    where one of them can't be read."""
    try:
        old, new = json.loads(before), json.loads(after)
    except (ValueError, TypeError, RecursionError):
        return []
    if not isinstance(old, dict) or not isinstance(new, dict):
        return []
    names = list(dict.fromkeys([*old, *new]))
    return [Change(record_id, name, old.get(name), new.get(name)) for name in names if old.get(name) != new.get(name)]


def of_acts(db: sqlite3.Connection) -> dict[int, list[Change]]:
    """Every act that changed a record which was there before, by number, with what it changed."""
    out: dict[int, list[Change]] = {}
    last: dict[str, str | None] = {}
    for act, record_id, body in db.execute("SELECT act, record_id, body FROM revision ORDER BY number"):
        before = last.get(record_id)
        if before and body and before != body:
            out.setdefault(act, []).extend(between(record_id, before, body))
        last[record_id] = body
    return out
