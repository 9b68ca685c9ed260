"""The pair advisor over 12 antennas, 2 000 attitudes and 360 bearings; and all directions turned under the hand."""

from __future__ import annotations

import os
import time

import numpy as np

from tallmast.physics import diversity
from tallmast.physics.attitude import axes
from tallmast.physics.waves import Wave, beam_gain, dipole_gain, doughnut_gain

LIMIT_S = 1.0
FRAME_LIMIT_MS = 1000.0 / 30.0


def _advised() -> float:
    receivers = []
    for k in range(12):
        gain = beam_gain(5.0 + 0.7 * k) if k % 2 else doughnut_gain(2.15 + 0.5 * k)
        axis = (0.0, 0.0, 1.0) if k % 3 else (0.0, 1.0, 0.0)
        receivers.append((Wave(gain, axis, 0.8 if k % 4 == 0 else 0.0), axes(10.0 * k)))
    carried = Wave(lambda a, e: dipole_gain(np.sin(np.radians(e))), (0.0, 0.0, 1.0))
    flown, bearing = diversity.attitudes(2000, 20.0, 45.0), np.arange(360.0)
    best = 1e9
    for _ in range(3):
        began = time.perf_counter()
        powers = diversity.received(receivers, carried, axes(0.0, -90.0), flown, bearing, np.full(360, 10.0))
        assert len(diversity.pairs(powers, -15.0)) == 66
        best = min(best, time.perf_counter() - began)
    return best


def _frame_ms() -> float:
    """One frame of all directions of two antennas, 760 × 400."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from tallmast.desk.app import make_app
    from tallmast.figures.all_directions import AllDirectionsPicture
    from tallmast.figures.paper import Paper
    from tallmast.figures.picture import render
    from tallmast.findings.pattern.antenna import read_antennas
    from tallmast.findings.pattern.flown import gather_flown

    from .flight import _evidence

    app = make_app()
    evidence = _evidence()
    patterns = read_antennas(evidence, (-30.0, 30.0), {}, gather_flown(evidence, {}))
    picture, paper = AllDirectionsPicture(patterns=(*patterns, *patterns)), Paper.of("Day")
    frames = []
    for k in range(12):
        picture.turned_deg = 9.0 * k
        began = time.perf_counter()
        render(picture, 760, 400, paper, 1.0)
        frames.append(1e3 * (time.perf_counter() - began))
    assert app is not None
    return sorted(frames)[len(frames) // 2]


def run() -> tuple[str, bool]:
    seconds, frame = _advised(), _frame_ms()
    line = f"12 antennas in {seconds:.2f} s (limit {LIMIT_S:g} s), a frame of all directions {frame:.0f} ms (limit {FRAME_LIMIT_MS:.0f})"
    return line, seconds <= LIMIT_S and frame <= FRAME_LIMIT_MS
