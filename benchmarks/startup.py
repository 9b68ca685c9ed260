"""Start-up with the demo to the first full paint, against a bare window: at most 1.4 times as long."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

LIMIT = 1.4
TIMES = 9

BARE = """
import numpy, pyqtgraph
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
window.setCentralWidget(pyqtgraph.PlotWidget())
window.resize(1280, 800)
window.show()
app.processEvents()
window.grab()
"""

OURS = """
import sys
from pathlib import Path
from tallmast.desk.app import make_app
from tallmast.desk.frame.window import Window
app = make_app()
window = Window()
window.resize(1280, 800)
window.open_notebook(Path(sys.argv[1]))
window.show()
window.session.settle()
window.grab()
"""


def _seconds(script: str, *arguments: str) -> float:
    start = time.perf_counter()
    # As on a person's machine, modules are compiled once and kept, theirs by pip and ours by the first start.
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    # The interpreter's own end is not start-up: both leave at once when painted.
    subprocess.run(
        [sys.executable, "-c", script + "\nimport os\nos._exit(0)\n", *arguments],
        check=True,
        capture_output=True,
        env=environment,
    )
    return time.perf_counter() - start


def run() -> tuple[str, bool]:
    from tallmast.demo.campaign import write

    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = folder
        path = Path(folder) / "demo.tallmast"
        write(path)
        for script, *arguments in ((BARE,), (OURS, str(path))):
            _seconds(script, *arguments)
        bare, ours = [], []
        for _ in range(TIMES):
            bare.append(_seconds(BARE))
            ours.append(_seconds(OURS, str(path)))
    # Each against the bare window beside it: a machine that slows down for a while slows both of a pair.
    ratio = statistics.median(mine / theirs for mine, theirs in zip(ours, bare, strict=True))
    line = f"{ratio:.2f} × a bare window (limit {LIMIT}); {statistics.median(ours):.2f} s against {statistics.median(bare):.2f} s"
    return line, ratio <= LIMIT
