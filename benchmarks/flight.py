"""A million samples of a flight to a pattern with its ±, against NumPy sorting five columns of that length three times."""

from __future__ import annotations

import statistics
import time

import numpy as np

from tallmast.findings.pattern.antenna import read_antennas
from tallmast.findings.pattern.flown import gather_flown
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Log, Place, Question, Record, Run

LIMIT = 1.5
SAMPLES = 1_000_000


def _evidence() -> Evidence:
    random = np.random.default_rng(1)
    turn = np.linspace(0.0, 24.0 * np.pi, SAMPLES)
    radius = 60.0 + 5.0 * np.sin(turn / 3.0)
    home = Place(id="home", name="Quay", latitude_deg=57.9, longitude_deg=-11.2)
    antenna = Antenna(id="a", name="Antenna")
    run = Run(id="r", number=1, antenna_id="a", state_id=antenna.state.id, manner="flight", height_m=6.0)
    records: dict[str, Record] = {r.id: r for r in (home, antenna, run)}
    records["question"] = Question(band_low_hz=868e6, band_high_hz=870e6, home_place_id="home")
    records["l"] = Log(id="l", run_id="r", series_id="s", heights="ground")
    series = {
        "latitude_deg": 57.9 + radius * np.cos(turn) / 111_400.0,
        "longitude_deg": -11.2 + radius * np.sin(turn) / 59_300.0,
        "height_m": 6.0 + 40.0 * np.linspace(0.0, 1.0, SAMPLES),
        "level_dbm": -70.0 - 10.0 * np.sin(turn) ** 2 + random.normal(0.0, 1.0, SAMPLES),
        "time_s": np.arange(SAMPLES) / 100.0,
    }
    return Evidence(records, {"s": series})


def run() -> tuple[str, bool]:
    evidence = _evidence()
    columns = np.random.default_rng(2).random((5, SAMPLES))
    ratios, ours = [], []
    for _ in range(4):
        began = time.perf_counter()
        for _ in range(3):
            for column in columns:
                np.sort(column)
        sorted_at = time.perf_counter()
        flown = gather_flown(evidence, {})
        assert np.isfinite(flown[0].grid.level_db).any()
        assert read_antennas(evidence, (-30.0, 30.0), {}, flown)[0].cuts
        done = time.perf_counter()
        ours.append(done - sorted_at)
        ratios.append((done - sorted_at) / (sorted_at - began))
    ratio = statistics.median(ratios[1:])  # the first loads SciPy
    return f"{ratio:.2f} times the sorts, {statistics.median(ours[1:]) * 1e3:.0f} ms (limit {LIMIT:g})", ratio <= LIMIT
