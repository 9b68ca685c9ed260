"""The margin over a million cells with diffraction on every ray, against one NumPy pass over the same rays: their heights taken from the raster, and
the rise to each point with its running maximum. And how soon the first picture is there."""

from __future__ import annotations

import statistics
import time

import numpy as np

from tallmast.findings.link.cells import Grid
from tallmast.findings.link.coverage import CELLS, Cover

LIMIT, FIRST_S = 4.0, 0.1


def _one_pass(cover: Cover, grid: Grid) -> None:
    one_m = np.float32(cover.ask.way.profile.one_m)
    for sector in grid.sectors():
        height = cover.ground_m(sector.bearing_deg, grid.step_m, sector.points)
        d = (np.arange(1, sector.points, dtype=np.float32) * np.float32(grid.step_m))[:, None]
        np.maximum.accumulate((height[1:] - one_m) / d, axis=0)


def run() -> tuple[str, bool]:
    from .demo import opened

    with opened() as (_, window):
        climb = window.session.climb
        assert climb is not None and climb.link.cover is not None
        cover = climb.link.cover
        ratios, firsts = [], []
        for _ in range(4):
            began = time.perf_counter()
            _one_pass(cover, Grid(cover.usual_reach_m, CELLS))
            passed = time.perf_counter()
            for coverage in cover.grow():
                if coverage.done == 0.0:
                    firsts.append(time.perf_counter() - passed)
            done = time.perf_counter()
            ratios.append((done - passed) / (passed - began))
    ratio, first = statistics.median(ratios[1:]), statistics.median(firsts[1:])  # the first lays the blocks out
    words = f"{ratio:.2f} times the pass, first picture {first * 1e3:.0f} ms (limits {LIMIT:g}, {FIRST_S * 1e3:.0f} ms)"
    return words, ratio <= LIMIT and first <= FIRST_S
