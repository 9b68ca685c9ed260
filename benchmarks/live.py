"""Live sweeps of 1 001 points from the practice bench, painted: 30 a second or better, the event loop never 50 ms late."""

from __future__ import annotations

import time

import numpy as np

from .demo import opened

POINTS = 1001
SECONDS = 6.0
LEAST_RATE, MOST_DELAY_MS = 30.0, 50.0


def _bare_rate(address: str) -> float:
    """Sweeps a second that the driver alone takes over PyVISA, nothing painted."""
    from tallmast.instruments.driver import SweepPlan
    from tallmast.instruments.scpi import ScpiAnalyzer

    analyzer = ScpiAnalyzer.at(address)
    analyzer.configure(SweepPlan(840e6, 900e6, POINTS))
    analyzer.sweep()
    start, count = time.perf_counter(), 0
    while time.perf_counter() - start < 2.0:
        analyzer.sweep()
        count += 1
    took = time.perf_counter() - start
    analyzer.close()
    return count / took


def run() -> tuple[str, bool]:
    with opened() as (_, window):
        from PySide6.QtCore import QEventLoop, QTimer

        from tallmast.instruments.driver import SweepPlan

        window.act("analyzer")
        live = window.views["bench"].live  # type: ignore[attr-defined]
        live.procedure.set_plan(SweepPlan(840e6, 900e6, POINTS))
        live.procedure.hands.attach_antenna()

        def run_for(seconds: float) -> None:
            loop = QEventLoop()
            QTimer.singleShot(round(seconds * 1000), loop.quit)
            loop.exec()

        run_for(2.0)
        delays: list[float] = []
        last = [time.perf_counter()]
        ticker = QTimer()
        ticker.setInterval(5)

        def tick() -> None:
            now = time.perf_counter()
            delays.append((now - last[0]) * 1000 - 5)
            last[0] = now

        ticker.timeout.connect(tick)
        last[0] = time.perf_counter()
        ticker.start()
        before, start = live.view.painted, time.perf_counter()
        run_for(SECONDS)
        rate = (live.view.painted - before) / (time.perf_counter() - start)
        ticker.stop()
        live.procedure.line.pause()
        bare = _bare_rate(live.procedure.address)
    late = float(np.percentile(delays, 99))
    line = (
        f"{rate:.0f} sweeps a second painted (limit {LEAST_RATE:.0f}), the loop {late:.0f} ms late at the 99th percentile "
        f"(limit {MOST_DELAY_MS:.0f}); the driver alone takes {bare:.0f} a second"
    )
    return line, rate >= LEAST_RATE and late < MOST_DELAY_MS
