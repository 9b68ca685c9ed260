"""200 Touchstone files of 1 601 points dropped at once: read and kept, against scikit-rf alone reading them."""

from __future__ import annotations

import gc
import statistics
import tempfile
import time
from pathlib import Path

import numpy as np

from .demo import opened

FILES, POINTS, LIMIT, STILL_S = 200, 1601, 1.6, 0.1
IDLE_S = 1.5
"""What a window has to itself after its start, before anybody drops files on it."""


def run() -> tuple[str, bool]:
    from skrf import Network

    from tallmast.formats import touchstone
    from tallmast.physics.resonance import series_gamma

    with opened() as (app, window), tempfile.TemporaryDirectory() as folder:
        f = np.linspace(800e6, 950e6, POINTS)
        paths = []
        for i in range(FILES):
            path = Path(folder) / f"sweep {i:03d}.s1p"
            path.write_text(touchstone.write(f, series_gamma(f, 850e6 + i * 1e5, 45, 13)))
            paths.append(path)
        from PySide6.QtCore import QEventLoop, QTimer

        ready = time.perf_counter() + IDLE_S
        while time.perf_counter() < ready:
            app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
        theirs, ours, longest = [], [], 0.0
        for _ in range(5):
            start = time.perf_counter()
            for path in paths:
                Network(str(path))
            theirs.append(time.perf_counter() - start)
            gc.collect()  # what their objects leave behind is not for our window to clear away
            last = [time.perf_counter()]
            late = [0.0]
            ticker = QTimer()
            ticker.setInterval(5)

            def tick(last: list[float] = last, late: list[float] = late) -> None:
                now = time.perf_counter()
                late[0] = max(late[0], now - last[0])
                last[0] = now

            ticker.timeout.connect(tick)
            ticker.start()
            start = time.perf_counter()
            window.files.bringing.take(paths)
            while window.sheet is None:
                app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
            window.sheet.keep()
            window.session.settle()
            ours.append(time.perf_counter() - start)
            ticker.stop()
            longest = max(longest, late[0])
            window.session.undo()
            window.session.settle()
    ratio = statistics.median(mine / other for mine, other in zip(ours, theirs, strict=True))
    line = (
        f"{ratio:.2f} × scikit-rf alone (limit {LIMIT:g}); {statistics.median(ours):.2f} s against "
        f"{statistics.median(theirs):.2f} s; the window stood still for {longest * 1000:.0f} ms at the longest "
        f"(limit {STILL_S * 1000:.0f})"
    )
    return line, ratio <= LIMIT and longest <= STILL_S
