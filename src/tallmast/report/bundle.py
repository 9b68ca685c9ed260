"""The data as open files in one zip: Touchstone, CSV, GeoJSON, GPX, JSON, and every imported file as it came."""

from __future__ import annotations

import csv
import io
import json
import re
import zipfile
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import numpy as np

from tallmast.findings.climb import RUNGS, Climb
from tallmast.findings.figure import Figure
from tallmast.notebook.records import KINDS, Cut, DisplayRun, GainTable, Log, PadCheck, Piece, Place, Run, Sweep
from tallmast.notebook.store import Notebook

from .sweeps import text_of
from .write import write_whole

READ_ME = """The data of one Tall Mast notebook, as open files.

records.json      every record, by kind, SI units unless its name says otherwise
findings.json     each rung's sentence, checks and headline figure with its 90 % interval
sweeps/*.s1p      reflection, calibrated (cable still in it), Touchstone 1.1, Hz, real and imaginary, 50 ohm
sweeps/*.csv      the same as a table, with the SWR
cuts/*.csv        pattern cuts: angle in degrees as in the file, level in dB
logs/*.csv, *.gpx field logs: position in degrees on WGS 84, level in dBm (empty: not heard)
places.geojson    places and tracks
imported/*        every imported file, byte for byte
tape.csv          the tape: every entry with its time
"""


def slug(text: str) -> str:
    """A file name out of a title."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-") or "unnamed"


def _csv(headers: list[str], rows: Iterable[Iterable[Any]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(headers)
    writer.writerows(rows)
    return out.getvalue()


def _columns(series: Any) -> str:
    names = list(series)
    stacked = np.column_stack([np.asarray(series[n]) for n in names])
    return _csv(names, (["" if np.isnan(v) else repr(float(v)) for v in row] for row in stacked))


def _figure(figure: Figure | None) -> dict[str, Any] | None:
    if figure is None:
        return None
    low, high = figure.interval
    return {
        "name": figure.name,
        "value": figure.value,
        "standard_uncertainty": figure.u,
        "unit": figure.unit,
        "low_90": low,
        "high_90": high,
        "bound": figure.bound,
        "text": figure.text,
        "working": list(figure.working.lines),
        "source": figure.working.source,
    }


def files(climb: Climb, notebook: Notebook) -> dict[str, bytes]:
    """Name → bytes of everything in the bundle."""
    evidence = climb.evidence
    names = {a.id: a.name for a in evidence.antennas}
    out: dict[str, bytes] = {"read-me.txt": READ_ME.encode()}

    def put(name: str, text: str) -> None:
        stem, dot, ending = name.rpartition(".")
        unique, number = name, 1
        while unique in out:
            number += 1
            unique = f"{stem}-{number}{dot}{ending}"
        out[unique] = text.encode()

    records = {kind: [json.loads(r.model_dump_json()) for r in evidence.all(model)] for kind, model in KINDS.items()}
    put("records.json", json.dumps(records, indent=1, ensure_ascii=False))
    found = {}
    for rung in RUNGS:
        finding = climb.of(rung)
        found[rung] = {
            "sentence": finding.sentence,
            "detail": finding.detail,
            "checks": [{"mark": c.mark, "text": c.text} for c in finding.checks],
            "headline": _figure(finding.headline),
        }
    put("findings.json", json.dumps(found, indent=1, ensure_ascii=False))
    for sweep in evidence.all(Sweep):
        antenna = evidence.antenna(sweep.antenna_id)
        stem = f"sweeps/{slug(names.get(sweep.antenna_id, ''))}-{slug(antenna.state_name(sweep.state_id) if antenna else '')}"
        for ending in (".s1p", ".csv"):
            put(f"{stem}{ending}", text_of(climb, sweep, ending))
    for cut in evidence.all(Cut):
        put(f"cuts/{slug(names.get(cut.antenna_id, ''))}-{cut.plane}.csv", _columns(evidence.series(cut.series_id)))
    for display in evidence.all(DisplayRun):
        put(f"displays/{slug(display.receiver)}.csv", _columns(evidence.series(display.series_id)))
    for check in evidence.all(PadCheck):
        piece = evidence.get(Piece, check.piece_id)
        put(f"pads/{slug(piece.name if piece else '')}.csv", _columns(evidence.series(check.series_id)))
    for gains in evidence.all(GainTable):
        put(f"gains/{slug(names.get(gains.antenna_id, ''))}.csv", _columns(evidence.series(gains.series_id)))
    features: list[dict[str, Any]] = [
        {
            "type": "Feature",
            "geometry": {"type": "Point", "coordinates": [p.longitude_deg, p.latitude_deg]},
            "properties": {"name": p.name, "height_m": p.height_m, "note": p.note},
        }
        for p in evidence.all(Place)
    ]
    for track in evidence.all(Log):
        series = evidence.series(track.series_id)
        run = evidence.get(Run, track.run_id)
        stem = f"logs/run-{run.number if run else 'unknown'}"
        put(f"{stem}.csv", _columns(series))
        put(f"{stem}.gpx", _gpx(series, run.number if run else 0))
        line = np.column_stack([series["longitude_deg"], series["latitude_deg"]]).tolist()
        features.append(
            {
                "type": "Feature",
                "geometry": {"type": "LineString", "coordinates": line},
                "properties": {
                    "run": run.number if run else None,
                    "antenna": names.get(run.antenna_id, "") if run else "",
                },
            }
        )
    put("places.geojson", json.dumps({"type": "FeatureCollection", "features": features}, ensure_ascii=False))
    put(
        "tape.csv",
        _csv(
            ["number", "at", "manner", "entry", "reason"],
            ([a.number, a.at, a.manner, a.label, a.reason or ""] for a in notebook.tape),
        ),
    )
    hashes = [s.raw_sha256 for s in evidence.all(Sweep)] + [c.raw_sha256 for c in evidence.all(Cut)]
    hashes += [g.raw_sha256 for g in evidence.all(GainTable)] + [d.raw_sha256 for d in evidence.all(DisplayRun)]
    hashes += [t.raw_sha256 for t in evidence.all(Log)] + [a.photo_sha256 for a in evidence.antennas]
    for sha256 in dict.fromkeys(hashes):
        raw = notebook.raw(sha256) if sha256 else None
        if raw is not None and sha256:
            out[f"imported/{sha256[:8]}-{Path(raw.name).name}"] = raw.data
    return out


def _gpx(series: Any, number: int) -> str:
    from xml.sax.saxutils import escape

    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<gpx version="1.1" creator="Tall Mast" xmlns="http://www.topografix.com/GPX/1/1">',
    ]
    lines.append(f"<trk><name>{escape(f'run {number}')}</name><trkseg>")
    for lat, lon, level in zip(series["latitude_deg"], series["longitude_deg"], series["level_dbm"], strict=True):
        comment = "" if np.isnan(level) else f"<cmt>{level:.1f} dBm</cmt>"
        lines.append(f'<trkpt lat="{lat:.7f}" lon="{lon:.7f}">{comment}</trkpt>')
    lines.append("</trkseg></trk></gpx>")
    return "\n".join(lines) + "\n"


def write(climb: Climb, notebook: Notebook, path: Path) -> None:
    """Write the bundle as a zip. Raises ReportError."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as bundle:
        for name, data in files(climb, notebook).items():
            bundle.writestr(name, data)
    write_whole(path, buffer.getvalue())
