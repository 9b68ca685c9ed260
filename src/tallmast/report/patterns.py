"""Patterns as open files: each cut and all directions as CSV in dB and relative field, the readings of a flight as GeoJSON."""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from tallmast.findings.pattern import AntennaPattern, CutReading
from tallmast.findings.pattern.flown import Flown
from tallmast.findings.pattern.track import REASONS
from tallmast.notebook.evidence import Evidence

MOST_POINTS = 20_000
"""Of a GeoJSON file that any map opens."""


def _number(value: float, digits: int) -> str:
    return f"{value:.{digits}f}" if np.isfinite(value) else ""


def cut_csv(cut: CutReading) -> str:
    """Angle from the front, level against the peak in dB and as relative field, half of its 90 % interval."""
    angle, level, half = cut.line
    if cut.coarse:
        angle, level = cut.angle_deg, cut.level_db
        half = np.full(len(level), cut.reading_half_db)
    lines = ["angle_deg,level_db,relative_field,half_90_db"]
    for a, v, h in zip(angle.tolist(), level.tolist(), half.tolist(), strict=True):
        if np.isfinite(v):
            lines.append(f"{a:g},{v:.2f},{10.0 ** (v / 20.0):.4f},{_number(h, 2)}")
    return "\n".join(lines) + "\n"


def grid_csv(flown: Flown) -> str:
    """Every direction that is told: azimuth and elevation in the antenna's own frame, level in dB and relative field, u."""
    grid = flown.grid
    lines = ["azimuth_deg,elevation_deg,level_db,relative_field,standard_uncertainty_db"]
    for i, azimuth in enumerate(grid.azimuth_deg.tolist()):
        for k, elevation in enumerate(grid.elevation_deg.tolist()):
            v, u = float(grid.level_db[i, k]), float(grid.u_db[i, k])
            if np.isfinite(v):
                lines.append(f"{azimuth:g},{elevation:g},{v:.2f},{10.0 ** (v / 20.0):.4f},{_number(u, 2)}")
    return "\n".join(lines) + "\n"


def readings_geojson(evidence: Evidence, flown: Flown) -> str:
    """Where each reading was taken, its direction from the antenna, and why it does not count, where it does not."""
    reasons = ["", *REASONS.values()]
    features: list[dict[str, Any]] = []
    for track in flown.tracks:
        series = evidence.series(track.log.series_id)
        n = len(track.level_db)
        whole = len(series["latitude_deg"])
        rows = np.linspace(0, whole - 1, n).astype(int) if n != whole else np.arange(n)
        for i in range(0, n, max(1, n // MOST_POINTS)):
            point = [
                round(float(series["longitude_deg"][rows[i]]), 7),
                round(float(series["latitude_deg"][rows[i]]), 7),
            ]
            level = float(track.level_db[i])
            features.append(
                {
                    "type": "Feature",
                    "geometry": {"type": "Point", "coordinates": point},
                    "properties": {
                        "azimuth_deg": round(float(track.azimuth_deg[i]), 2),
                        "elevation_deg": round(float(track.elevation_deg[i]), 2),
                        "distance_m": round(float(track.distance_m[i]), 1),
                        "level_db": round(level, 2) if np.isfinite(level) else None,
                        "left_out": reasons[int(track.why_not[i])],
                    },
                }
            )
    return json.dumps({"type": "FeatureCollection", "features": features}, allow_nan=False)


def pattern_files(evidence: Evidence, patterns: tuple[AntennaPattern, ...]) -> dict[str, str]:
    """Name (without a folder) → text, of every pattern there is."""
    out = {}
    for one in patterns:
        for number, cut in enumerate(one.cuts, 1):
            out[f"{one.antenna.name} {number} {cut.plane} {cut.of.way}.csv"] = cut_csv(cut)
        if one.flown is not None:
            out[f"{one.antenna.name} all directions.csv"] = grid_csv(one.flown)
            out[f"{one.antenna.name} readings.geojson"] = readings_geojson(evidence, one.flown)
    return out
