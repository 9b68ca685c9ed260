"""A calibration log of 100 000 readings fitted, against NumPy sorting it, in one run."""

from __future__ import annotations

import time
from statistics import median

import numpy as np

from tallmast.findings.levels.display_curve import fit
from tallmast.instruments.practice.receivers import RECEIVERS
from tallmast.notebook.records import DisplayRun

LIMIT = 5.0
READINGS = 100_000


def series() -> dict[str, np.ndarray]:
    random = np.random.default_rng(1)
    # As an automatic run leaves it: ramps up and down in tenths of a decibel.
    ramp = np.round(np.concatenate((np.arange(0, 60, 0.1), np.arange(60, 0, -0.1))), 1)
    attenuation = np.resize(ramp, READINGS)
    receiver = RECEIVERS["bit rate"]
    ideal = np.interp(
        -45.0 - attenuation, np.arange(-106, -44, 0.1), [receiver.ideal(v) for v in np.arange(-106, -44, 0.1)]
    )
    shown = np.round(ideal + random.normal(0, 0.8, READINGS), 1)
    return {"attenuation_db": attenuation, "shown": shown, "order": np.arange(READINGS, dtype=float)}


def run() -> tuple[str, bool]:
    columns = series()
    record = DisplayRun(receiver="video link", scale="bit rate", series_id="s", zero_dbm=-45.0)
    fits, sorts = [], []
    for _ in range(9):
        began = time.perf_counter()
        curve = fit(record, columns)
        fits.append(time.perf_counter() - began)
        assert curve is not None and curve.hysteresis_db is None
        began = time.perf_counter()
        order = np.argsort(columns["attenuation_db"])
        _ = columns["attenuation_db"][order], columns["shown"][order]
        sorts.append(time.perf_counter() - began)
    ratio = median(a / b for a, b in zip(fits, sorts, strict=True))
    line = f"{ratio:.1f} × NumPy sorting it (limit {LIMIT:g}); {median(fits) * 1e3:.1f} ms against {median(sorts) * 1e3:.1f} ms"
    return line, ratio <= LIMIT


if __name__ == "__main__":
    print(run()[0])
