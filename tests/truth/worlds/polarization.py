"""Two antennas as pairs of complex amplitudes: what passes between them, at whatever tilts they happen to be held."""

from __future__ import annotations

import numpy as np

from tallmast.findings.polarization import loss_between

from ..tally import Answer, quantity


def field(axial_ratio_db: float, right: bool, tilt: float) -> np.ndarray:
    """The unit Jones vector of an ellipse."""
    long, short = 1.0, 10 ** (-axial_ratio_db / 20) * (1j if right else -1j)
    turn = np.array([[np.cos(tilt), -np.sin(tilt)], [np.sin(tilt), np.cos(tilt)]])
    e = turn @ np.array([long, short])
    return e / np.linalg.norm(e)


def _pair(rng, one: str, other: str) -> list[Answer]:
    ratios = rng.uniform(0.5, 5.0, 2)
    ellipses = []
    for kind, ratio in zip((one, other), ratios, strict=True):
        straight = kind == "vertical"
        tilt = np.pi / 2 if straight else rng.uniform(0, np.pi)
        ellipses.append(field(80.0 if straight else ratio, kind != "left circular", tilt))
    passed = abs(np.vdot(ellipses[0], ellipses[1])) ** 2
    # Reflections put a thousandth of the power into the other sense.
    stated = loss_between(one, None if one == "vertical" else ratios[0], other, ratios[1])
    return [(stated, -10 * np.log10(max(passed, 1e-3)))]


@quantity("pattern", "polarization, opposite circular senses", high=0.96, why="no more than 30 dB is ever stated")
def opposite(rng) -> list[Answer]:
    return _pair(rng, "right circular", "left circular")


@quantity("pattern", "polarization, linear to circular")
def linear_to_circular(rng) -> list[Answer]:
    return _pair(rng, "vertical", "right circular")
