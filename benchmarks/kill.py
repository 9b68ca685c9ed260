"""kill -9 during writing, 200 times at random moments: every entry that was shown is there, and the file opens."""

from __future__ import annotations

import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path

TIMES = 200

WRITER = """
import sys
from pathlib import Path
import numpy as np
from tallmast.notebook.records import Antenna
from tallmast.notebook.entry import Entry, RawFile, new_series
from tallmast.notebook.store import Notebook
notebook = Notebook.open(Path(sys.argv[1]))
assert not notebook.read_only, notebook.read_only
while True:
    series_id, series = new_series({"x": np.arange(2000.0)})
    act = notebook.write(Entry("entry", [Antenna(name=str(notebook.head))], raw=[RawFile(str(notebook.head), str(notebook.head).encode() * 900)], series=series))
    print(act.number, flush=True)
"""


def run() -> tuple[str, bool]:
    from tallmast.notebook.store import Notebook

    chance = random.Random(8)
    lost = refused = idle = kept = 0
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "n.tallmast"
        for number in range(TIMES):
            if number % 20 == 0:
                path = Path(folder) / f"n{number}.tallmast"
                Notebook.create(path).close()
            child = subprocess.Popen([sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True)
            assert child.stdout is not None
            first = child.stdout.readline()  # it is writing now
            time.sleep(chance.uniform(0.0, 0.15))
            child.kill()
            shown = [int(line) for line in [first, *child.stdout.read().splitlines()] if line.strip().isdigit()]
            child.wait()
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
    line = f"{TIMES} kills among {kept} shown entries: {lost} lost, {refused} times not opened, {idle} writers that wrote nothing (limit 0, 0 and 0)"
    return line, lost == refused == idle == 0
