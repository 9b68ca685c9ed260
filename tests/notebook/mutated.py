"""Notebooks bent at random, in their bytes and in their rows: nothing but a `NotebookError` may come of them, and quickly.

`python -m tests.notebook.mutated 5000` tries as many; a few dozen are tried with the other tests.
"""

from __future__ import annotations

import random
import sqlite3
import sys
import tempfile
import time
from pathlib import Path

from tallmast.demo import campaign
from tallmast.findings.aims import Aims
from tallmast.findings.climb import RUNGS, Climb
from tallmast.notebook.file import NotebookError
from tallmast.notebook.rescue import rescue
from tallmast.notebook.store import Notebook

SLOWEST_S, SLOWER = 60.0, 5.0
"""Of a bent notebook, on a machine with other work: the window goes on meanwhile; or so many times what the whole one takes."""
RESCUE_S = 60.0
TEXTS = ("null", "[]", "{}", "1e999", '"x"', "-1", "{" * 3000, "NaN", "true", "", "\x00", "𝄞")


def bend_bytes(random_: random.Random, path: Path) -> None:
    data = bytearray(path.read_bytes())
    way = random_.randrange(4)
    if way == 0:
        del data[random_.randrange(100, len(data)) :]
    elif way == 1:
        at = random_.randrange(100, len(data))
        data[at : at + 4096] = random_.randbytes(len(data[at : at + 4096]))
    else:
        for _ in range(random_.choice((1, 8, 200))):
            data[random_.randrange(100, len(data))] = random_.randrange(256)
    path.write_bytes(bytes(data))


def bend_rows(random_: random.Random, path: Path) -> None:
    """As another program could: the file is whole, what stands in it is not."""
    db = sqlite3.connect(path)
    for (name,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'").fetchall():
        db.execute(f"DROP TRIGGER {name}")
    for _ in range(random_.choice((1, 3, 10))):
        table, column = random_.choice(
            (
                ("revision", "body"),
                ("revision", "body"),
                ("revision", "kind"),
                ("revision", "record_id"),
                ("revision", "act"),
                ("act", "at"),
                ("act", "label"),
                ("act", "reverses"),
                ("series", "columns"),
                ("series", "count"),
                ("series", "data"),
                ("raw", "bytes"),
            )
        )
        rows = db.execute(f"SELECT rowid, {column} FROM {table} ORDER BY rowid").fetchall()
        if not rows:
            continue
        row, value = random_.choice(rows)
        if isinstance(value, str) and value.startswith("{") and random_.random() < 0.7:
            words = value.split(",")
            at = random_.randrange(len(words))
            key, colon, _ = words[at].partition(":")
            words[at] = f"{key}{colon}{random_.choice(TEXTS)}"
            value = ",".join(words)
        elif isinstance(value, bytes) and value:
            value = value[: random_.randrange(len(value))] + random_.randbytes(random_.randrange(40))
        else:
            value = random_.choice((*TEXTS, 0, -5, 2**62, None))
        try:
            db.execute(f"UPDATE {table} SET {column} = ? WHERE rowid = ?", (value, row))
        except sqlite3.IntegrityError:
            continue
    db.commit()
    db.close()


def read_through(path: Path, rescued: bool) -> None:
    """Open it and look at all of it; rescue what can't be opened."""
    try:
        notebook = Notebook.open(path)
    except NotebookError as error:
        assert len(str(error)) < 400, str(error)
        if rescued and error.can_rescue:
            saved = rescue(path)
            if saved is not None:
                saved.notebook.close()
        return
    try:
        notebook.changes()
        evidence = notebook.evidence()
        for antenna in evidence.antennas:
            notebook.revisions(antenna.id)
        for file in notebook.raw_files():
            assert file is None or isinstance(file.data, bytes)
        climb = Climb(evidence, Aims(""))
        for rung in RUNGS:
            climb.of(rung)
    finally:
        notebook.close()


def main(count: int, seed: int = 1) -> int:
    random_ = random.Random(seed)
    uncaught = slow = 0
    with tempfile.TemporaryDirectory() as folder:
        whole = Path(folder) / "whole.tallmast"
        campaign.write(whole)
        data = whole.read_bytes()
        began = time.monotonic()
        read_through(whole, False)
        limit_s = max(SLOWEST_S, SLOWER * (time.monotonic() - began))
        for i in range(count):
            path = Path(folder) / "bent.tallmast"
            for ending in ("", "-wal", "-shm"):
                Path(f"{path}{ending}").unlink(missing_ok=True)
            path.write_bytes(data)
            (bend_rows if random_.random() < 0.5 else bend_bytes)(random_, path)
            began, with_rescue = time.monotonic(), i % 10 == 0
            try:
                read_through(path, with_rescue)
            except Exception as error:
                uncaught += 1
                print(f"{i}: {type(error).__name__}: {str(error)[:300]}", flush=True)
            slow += time.monotonic() - began > (RESCUE_S if with_rescue else limit_s)
    print(f"{count} mutated notebooks: {uncaught} uncaught, {slow} too slow")
    return 1 if uncaught or slow else 0


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 500, int(sys.argv[2]) if len(sys.argv) > 2 else 1))
