"""A sweep of 100 001 points pans and zooms at 30 frames a second."""

from __future__ import annotations

import statistics
import time

import numpy as np

from .demo import opened

POINTS, LEAST_RATE = 100_001, 30.0


def run() -> tuple[str, bool]:
    with opened() as (app, window):
        from tallmast.notebook.entry import Entry, new_series
        from tallmast.notebook.records import Sweep
        from tallmast.physics.resonance import series_gamma

        antenna = window.session.evidence.antennas[0]
        f = np.linspace(840e6, 900e6, POINTS)
        random = np.random.default_rng(2)
        g = series_gamma(f, 866e6, 45, 13) + 0.004 * (random.normal(size=POINTS) + 1j * random.normal(size=POINTS))
        series_id, series = new_series({"frequency_hz": f, "re": g.real, "im": g.imag})
        record = Sweep(antenna_id=antenna.id, state_id=antenna.state.id, series_id=series_id, source="long")
        window.session.write(Entry("long", [record], series=series))
        window.session.focus(antenna.id)
        window.session.settle()
        window.climb_to("bench")
        view = window.views["bench"]
        app.processEvents()
        took = []
        for step in range(60):
            start = time.perf_counter()
            if step < 20:
                view.zoom(1.25, 866e6)  # type: ignore[attr-defined]
            elif step < 40:
                view._pan(25.0)  # type: ignore[attr-defined]
            else:
                view.zoom(1 / 1.25, 866e6)  # type: ignore[attr-defined]
            view.view.repaint()  # type: ignore[attr-defined]
            took.append(time.perf_counter() - start)
    middle, slow = statistics.median(took), float(np.percentile(took, 90))
    line = f"{1 / middle:.0f} frames a second (limit {LEAST_RATE:.0f}); nine in ten within {slow * 1000:.0f} ms"
    return line, 1 / middle >= LEAST_RATE
