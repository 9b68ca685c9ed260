"""Change of rung with the demo: under 100 ms to paint, 50 ms typical."""

from __future__ import annotations

import statistics
import time

from .demo import opened


def run() -> tuple[str, bool]:
    with opened() as (app, window):
        from PySide6.QtWidgets import QApplication

        from tallmast.findings.climb import RUNGS

        end = time.monotonic() + 2.0
        while time.monotonic() < end:
            app.processEvents()
        took = []
        for _ in range(4):
            for rung in RUNGS:
                start = time.perf_counter()
                window.climb_to(rung)
                QApplication.processEvents()
                QApplication.processEvents()
                took.append((time.perf_counter() - start) * 1000)
    middle, worst = statistics.median(took), max(took)
    return f"{middle:.0f} ms typical (limit 50), {worst:.0f} ms at worst (limit 100)", middle <= 50 and worst < 100
