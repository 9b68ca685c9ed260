"""A log of 100 000 rows dropped in: read, kept, paired, fitted and painted, against pandas reading the same file.

Until the Field, which is in front, shows all rows; the rungs that nobody looks at follow.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path
from typing import ClassVar

import numpy as np

from .demo import opened

LIMIT = 2.5
ROWS = 100_000


def _write(path: Path) -> None:
    random = np.random.default_rng(1)
    d = np.linspace(100, 4000, ROWS)
    lat, lon = 57.9 + d / 111_320 * 0.8, -11.2 + d / 59_200 * 0.6
    level = -60 - 27 * np.log10(d / 100) + random.normal(0, 2, ROWS)
    # What a logger writes: when, where, how fast, which way, how many satellites, and the radio's own figures.
    rows = "\n".join(
        f"2026-05-09T{8 + i // 36000:02d}:{i // 600 % 60:02d}:{i / 10 % 60:04.1f}Z,{a:.6f},{o:.6f},{3 + i % 9 / 10:.1f},{2.5 + i % 11 / 20:.2f},"
        f"{36 + i % 13 / 10:.1f},{9 + i % 4},{v:.1f},{v + 117:.1f},{i % 65536},{3.7 - i / 1e6:.3f}"
        for i, (a, o, v) in enumerate(zip(lat, lon, level, strict=True))
    )
    path.write_text(f"time,lat,lon,alt m,speed m/s,course deg,sats,rssi dBm,snr dB,packet,battery V\n{rows}\n")


def run() -> tuple[str, bool]:
    import pandas as pd

    with opened() as (app, window), tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "long.csv"
        _write(path)
        from PySide6.QtCore import QEvent, QEventLoop, QObject

        class Paints(QObject):
            """Which pictures of the Field were painted since the findings came."""

            seen: ClassVar[set[QObject]] = set()

            def eventFilter(self, watched: QObject, event: QEvent) -> bool:
                if event.type() == QEvent.Type.Paint:
                    self.seen.add(watched)
                return False

        window.resize(1280, 1600)  # so that the map and the levels lie in sight, under the decision
        window.climb_to("field")
        window.session.settle()
        view = window.views["field"]
        pictures = {view.decision, view.map, view.level}
        paints = Paints()
        for picture in pictures:
            picture.installEventFilter(paints)
        told: list[object] = []

        def found(climb: object) -> None:
            told.append(climb)
            paints.seen.clear()

        window.session.front_found.connect(found)
        pandas_s, ours = [], []
        for _ in range(9):  # turn about, so that a machine that slows down slows both
            start = time.perf_counter()
            pd.read_csv(path)
            pandas_s.append(time.perf_counter() - start)
            told.clear()
            start = time.perf_counter()
            window.files.bringing.take([path])
            while window.sheet is None:
                app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
            window.sheet.keep()
            while not told or not pictures <= paints.seen:
                app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
            ours.append(time.perf_counter() - start)
            window.session.settle()
            assert window.views["field"].shown is told[-1] is window.session.climb
            window.session.undo()
            window.session.settle()
    ratio = statistics.median(mine / theirs for mine, theirs in zip(ours, pandas_s, strict=True))
    line = f"{ratio:.1f} × pandas' own reading (limit {LIMIT}); {statistics.median(ours) * 1e3:.0f} ms against {statistics.median(pandas_s) * 1e3:.0f} ms"
    return line, ratio <= LIMIT
