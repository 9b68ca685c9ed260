"""The demo’s runs: logs, and reports from places."""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import Any, Literal

import numpy as np

from tallmast.notebook.entry import Entry, RawFile
from tallmast.notebook.records import Antenna, DistanceNote, Log, Place, Reading, Record, Run
from tallmast.physics.geodesy import destination

from . import truth as so
from .draw import Draw

TEST_POWER_W = 0.010
STATED_PAD_DB = 16.0


def _log(
    draw: Draw, run: Run, distance: np.ndarray, bearing: np.ndarray, level: np.ndarray, floor_dbm: float, stem: str
) -> Entry:
    heard = level > floor_dbm
    level = np.where(heard, np.round(level, 1), np.nan)
    points = [destination(*so.QUAY, float(b), float(d)) for b, d in zip(bearing, distance, strict=True)]
    lat = np.round([p[0] for p in points], 6)
    lon = np.round([p[1] for p in points], 6)
    time = np.arange(len(lat)) * 2.0
    text = io.StringIO()
    text.write("time s,lat,lon,rssi dBm\n")
    for row in zip(time, lat, lon, level, strict=True):
        text.write(f"{row[0]:.0f},{row[1]:.6f},{row[2]:.6f},{'' if np.isnan(row[3]) else f'{row[3]:.1f}'}\n")
    raw = RawFile(f"{stem}.csv", text.getvalue().encode())
    series_id = draw.name("log")
    columns = {"time_s": time, "latitude_deg": lat, "longitude_deg": lon, "level_dbm": level}
    log = Log(
        id=f"{series_id}-record",
        run_id=run.id,
        series_id=series_id,
        source=raw.name,
        raw_sha256=raw.sha256,
        mapping={"latitude_deg": "lat", "longitude_deg": "lon", "level_dbm": "rssi dBm", "time_s": "time s"},
    )
    return Entry(f"Run {run.number}: log of {len(lat)} points", [log], raw=[raw], series={series_id: columns})


def runs(draw: Draw, antennas: dict[str, Antenna], places: dict[str, Place]) -> Iterator[Entry]:
    truth, random = draw.truth, draw.random
    yield Entry(
        "Ness Head: note says 3.9 km from the Quay",
        [
            DistanceNote(
                id="distance-note-1", from_place_id="place-quay", to_place_id="place-ness-head", distance_m=3_900.0
            )
        ],
    )
    along = np.arange(150.0, 2_060.0, 5.0)
    shadow = so.shadowing(truth, random, along)
    plan: list[tuple[str, dict[str, Any]]] = [
        ("Shed Yagi", {}),
        ("Gull Collinear", {}),
        ("Gull Collinear", {}),
        ("Shed Yagi", {}),
        ("Corkscrew", {}),
        ("Corkscrew", {"power_w": 0.05, "weather": "rain"}),
        ("Check Dipole", {}),
    ]
    for number, (name, changed) in enumerate(plan, 1):
        antenna = antennas[name]
        run = Run(
            **{
                "id": f"run-{number}",
                "number": number,
                "manner": "boat",
                "antenna_id": antenna.id,
                "state_id": antenna.state.id,
                "power_w": TEST_POWER_W,
                "pad_db": STATED_PAD_DB,
                "rate": "38k4",
                "channel_hz": 868.95e6,
                "place_id": "place-quay",
                "path": "A",
                "height_m": 6.0,
                "weather": "dry",
                "ended": "turned back as planned",
                **changed,
            }
        )
        yield Entry(f"Run {number}: {name}, {sent_w(run) * 1e3:g} mW, pad 16 dB, path A", [run])
        distance = np.clip(along + random.normal(0, 2.0, len(along)), 100, None)
        bearing = so.BEARING_DEG + random.normal(0, 0.5) + np.interp(along, [150, 900, 2060], [1.5, -1.0, 0.5])
        level = truth.eirp_like_dbm(name, sent_w(run), truth.pad_db) - truth.path_loss_db(distance) + shadow
        level = level + random.normal(0, truth.run_sd_db) + random.normal(0, truth.fade_sd_db, len(along))
        yield _log(draw, run, distance, bearing, level, truth.sensitivity_dbm, f"run-{number}")
        yield from _reports(draw, run, places, name)
    for number, name in ((8, "Shed Yagi"), (9, "Check Dipole")):
        antenna = antennas[name]
        run = Run(
            id=f"run-{number}",
            number=number,
            manner="flight",
            antenna_id=antenna.id,
            state_id=antenna.state.id,
            power_w=TEST_POWER_W,
            pad_db=STATED_PAD_DB,
            rate="38k4",
            channel_hz=868.95e6,
            place_id="place-quay",
            path="out and back at 40 m",
            height_m=6.0,
            weather="dry",
        )
        yield Entry(f"Run {number}: {name}, logger flight out and back", [run])
        out = np.arange(160.0, 900.0, 12.0)
        distance = np.concatenate([out, out[::-1]])
        level = truth.eirp_like_dbm(name, sent_w(run), truth.pad_db) - 20 * np.log10(
            4 * np.pi * distance * so.CENTRE_HZ / 299_792_458.0
        )
        level = level + random.normal(0, truth.run_sd_db) + random.normal(0, 1.2, len(distance))
        bearing = so.BEARING_DEG + random.normal(0, 0.6, len(distance))
        yield _log(draw, run, distance, bearing, level, truth.sensitivity_dbm, f"flight-{number}")


def sent_w(run: Run) -> float:
    """Everybody in this world notes the power."""
    assert run.power_w is not None
    return run.power_w


def _reports(draw: Draw, run: Run, places: dict[str, Place], name: str) -> Iterator[Entry]:
    """Spoken reports from both ends, at full power and without a log, where somebody stood."""
    truth = draw.truth
    made: list[Record] = []
    for place, shade in (("Inner Holm", 0.0), ("Ness Head", 9.0)):
        distance = so.PLACES[place][1]
        level = (
            truth.eirp_like_dbm(name, sent_w(run), truth.pad_db)
            - float(truth.path_loss_db(distance, so.UP_M[place]))
            - shade
        )
        over = level - truth.sensitivity_dbm + draw.random.normal(0, 1.5)
        ends: tuple[tuple[Literal["away", "home"], float], ...] = (("away", 0.0), ("home", -1.0))
        for end, more in ends:
            grade = int(np.clip(np.floor((over + more) / 3.0) + 2, 0, 5))
            made.append(
                Reading(
                    id=draw.name("reading"),
                    run_id=run.id,
                    place_id=places[place].id,
                    end=end,
                    heard=grade > 0,
                    readability=grade or None,
                    as_typed=f"{grade} of 5" if grade else "not heard",
                    note="rain" if run.weather == "rain" else "",
                )
            )
    yield Entry(f"Run {run.number}: reports from both ends at Inner Holm and Ness Head", made)
