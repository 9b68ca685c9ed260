"""kill -9 during writing, 200 times at random moments: every entry that was shown is there, and the file opens. Every fourth time the
file alone is copied first, while it is open: the copy holds what was shown a second before."""

from __future__ import annotations

import random
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

TIMES = 200
COPIED_EVERY = 4
WITHIN_S = 1.0
"""So soon after it was shown an entry is in the file itself."""

WRITER = """
import sys
import threading
import time
from pathlib import Path
import numpy as np
from tallmast.notebook.records import Antenna
from tallmast.notebook.entry import Entry, RawFile, new_series
from tallmast.notebook.store import Notebook
notebook = Notebook.open(Path(sys.argv[1]))
assert not notebook.read_only, notebook.read_only
def tidy():
    while True:  # as the window does, a while after an act
        time.sleep(0.3)
        if notebook.needs_tidying:
            notebook.tidy()
threading.Thread(target=tidy, daemon=True).start()
while True:
    series_id, series = new_series({"x": np.arange(2000.0)})
    act = notebook.write(Entry("entry", [Antenna(name=str(notebook.head))], raw=[RawFile(str(notebook.head), str(notebook.head).encode() * 900)], series=series))
    print(act.number, time.monotonic(), flush=True)
    time.sleep(0.01)
"""


def _in_copy(path: Path, at: float, shown: list[tuple[int, float]]) -> tuple[int, bool]:
    """(entries that a copy of the file alone lacks, though they were shown a second before it was made; whether it was torn: copied in
    the midst of SQLite's own copying, and read by a rescue)."""
    from tallmast.notebook.file import NotebookError
    from tallmast.notebook.rescue import rescue
    from tallmast.notebook.store import Notebook

    torn = False
    try:
        notebook = Notebook.open(path)
    except NotebookError:
        torn, saved = True, rescue(path)
        if saved is None:
            return len(shown), torn
        notebook = saved.notebook
    heads = {act.number for act in notebook.tape}
    notebook.close()
    return sum(number not in heads for number, then in shown if then < at - WITHIN_S), torn


def run(times: int = TIMES) -> tuple[str, bool]:
    from tallmast.notebook.store import Notebook

    chance = random.Random(8)
    lost = refused = idle = kept = copies = lacking = torn = 0
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "n.tallmast"
        for number in range(times):
            if number % 20 == 0:
                path = Path(folder) / f"n{number}.tallmast"
                Notebook.create(path).close()
            child = subprocess.Popen([sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True)
            assert child.stdout is not None
            first = child.stdout.readline()  # it is writing now
            copied = number % COPIED_EVERY == 0
            time.sleep(chance.uniform(1.2, 1.8) if copied else chance.uniform(0.0, 0.15))
            at, copy = time.monotonic(), Path(folder) / f"copy{number}.tallmast"
            if copied:
                shutil.copyfile(path, copy)
            child.kill()
            lines = [line.split() for line in [first, *child.stdout.read().splitlines()]]
            told = [(int(line[0]), float(line[1])) for line in lines if len(line) == 2]
            shown = [n for n, _ in told]
            child.wait()
            if copied:
                missing, was_torn = _in_copy(copy, at, told)
                copies, lacking, torn = copies + 1, lacking + missing, torn + was_torn
                copy.unlink()
            idle += not shown  # a writer that never wrote proves nothing
            kept += len(shown)
            try:
                notebook = Notebook.open(path)
            except Exception:
                refused += 1
                continue
            heads = {act.number for act in notebook.tape}
            lost += sum(n not in heads for n in shown)
            lost += sum(a.name == "" for a in notebook.evidence().antennas)
            refused += bool(notebook.read_only)
            notebook.close()
    line = (
        f"{times} kills among {kept} shown entries: {lost} lost, {refused} times not opened, {idle} writers that wrote nothing; "
        f"{copies} copies made while it was open: {lacking} entries lacking (limit 0 each); {torn} of the copies torn, and rescued"
    )
    return line, lost == refused == idle == lacking == 0
