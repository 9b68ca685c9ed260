"""Change of rung with the demo: under 100 ms to paint, 50 ms typical."""

from __future__ import annotations

import os
import statistics
import tempfile
import time


def run() -> tuple[str, bool]:
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = folder
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from PySide6.QtWidgets import QApplication

        from tallmast.desk.app import make_app
        from tallmast.desk.window import Window
        from tallmast.findings.climb import RUNGS

        app = make_app()
        window = Window()
        window.show()
        window.open_demo()
        window.session.settle()
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
        window.close()
    middle, worst = statistics.median(took), max(took)
    return f"{middle:.0f} ms typical (limit 50), {worst:.0f} ms at worst (limit 100)", middle <= 50 and worst < 100
