"""200 runs of 2 000 samples of five antennas compared, fitted and painted, against NumPy sorting the samples and pandas reading
them."""

from __future__ import annotations

import io
import statistics
import time

import numpy as np

from tallmast.findings.aims import Aims
from tallmast.findings.climb import Climb
from tallmast.notebook.evidence import Evidence, Series
from tallmast.notebook.records import Antenna, Log, Place, Question, Record, Run

from .demo import opened

LIMIT = 2.0
RUNS, SAMPLES = 200, 2000


def _evidence() -> Evidence:
    random = np.random.default_rng(1)
    distance = np.linspace(100, 4000, SAMPLES)
    home = Place(id="home", name="Quay", latitude_deg=57.9, longitude_deg=-11.2)
    records: dict[str, Record] = {home.id: home}
    records["question"] = Question(band_low_hz=868e6, band_high_hz=870e6, home_place_id="home")
    antennas = [Antenna(id=f"a{k}", name=f"Antenna {k}", slot=k) for k in range(5)]
    records |= {a.id: a for a in antennas}
    series: dict[str, Series] = {}
    for k in range(RUNS):
        antenna = antennas[k % 5 if (k // 5) % 2 == 0 else 4 - k % 5]
        run = Run(
            id=f"r{k}", number=k + 1, antenna_id=antenna.id, state_id=antenna.state.id, manner="boat", power_w=0.01
        )
        series[f"s{k}"] = {
            "latitude_deg": 57.9 + distance / 111_320 * 0.8 + random.normal(0, 1e-5, SAMPLES),
            "longitude_deg": -11.2 + distance / 59_200 * 0.6 + random.normal(0, 1e-5, SAMPLES),
            "level_dbm": -60 - 25 * np.log10(distance / 100) + antenna.slot + random.normal(0, 3, SAMPLES),
        }
        records |= {run.id: run, f"l{k}": Log(id=f"l{k}", run_id=run.id, series_id=f"s{k}")}
    return Evidence(records, series, 1)


def run() -> tuple[str, bool]:
    import pandas as pd

    from tallmast.figures.contrasts import DecisionPicture
    from tallmast.figures.field import DistancePicture, MapPicture
    from tallmast.figures.paper import Paper
    from tallmast.figures.picture import render
    from tallmast.findings.field.decision import decision_of

    evidence = _evidence()
    frame = pd.DataFrame(
        {name: np.concatenate([evidence.series(f"s{k}")[name] for k in range(RUNS)]) for name in evidence.series("s0")}
    )
    text = frame.to_csv(index=False)
    theirs, ours = [], []
    with opened():  # pictures need an application
        for _ in range(7):
            start = time.perf_counter()
            read = pd.read_csv(io.StringIO(text))
            np.sort(read["level_dbm"].to_numpy())
            theirs.append(time.perf_counter() - start)
            start = time.perf_counter()
            field = Climb(evidence, Aims("a0")).field
            decision = decision_of(field)
            assert decision is not None and len(field.main.differences if field.main else ()) == 20
            antennas = tuple(evidence.antennas)
            for picture in (
                DecisionPicture(decision=decision, antennas=antennas),
                MapPicture(finding=field, focus_id="a0"),
                DistancePicture(finding=field, antennas=antennas, focus_id="a0"),
            ):
                render(picture, 760, 340, Paper(), 1.0)
            ours.append(time.perf_counter() - start)
    ratio = statistics.median(mine / other for mine, other in zip(ours, theirs, strict=True))
    line = f"{ratio:.2f} × NumPy's sorting and pandas' reading (limit {LIMIT}); {statistics.median(ours) * 1e3:.0f} ms"
    return line, ratio < LIMIT
