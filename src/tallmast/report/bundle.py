"""The data as open files in one zip: Touchstone, CSV, GeoJSON, GPX, JSON, and every imported file as it came."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import numpy as np

from tallmast.findings.climb import RUNGS, Climb
from tallmast.findings.field.settings import sides
from tallmast.findings.figure import Figure
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import (
    KINDS,
    Cut,
    Design,
    DisplayRun,
    GainTable,
    Log,
    PadCheck,
    Place,
    Record,
    Recording,
    Run,
    Sweep,
    to_json,
)
from tallmast.notebook.store import Notebook
from tallmast.units import show

from .naming import file_name, slug
from .patterns import pattern_files
from .sweeps import text_of
from .write import write_whole

READ_ME = """The data of one Tall Mast notebook, as open files.

records.json      every record, by kind, SI units unless its name says otherwise; “file” names the columns kept with it
findings.json     each rung's sentence, checks and headline figure with its 90 % interval
sweeps/*.s1p      reflection, calibrated (cable still in it), Touchstone 1.1, Hz, real and imaginary, 50 ohm
sweeps/*.csv      the same as a table, with the SWR
cuts/*.csv        pattern cuts: angle in degrees as in the file, level in dB
designs/*.csv     designed patterns: azimuth and elevation in degrees, level in dB
patterns/*.csv    patterns as they are told: each cut, and all directions of a flight, in dB against the peak and as
                  relative field E/Emax, with half of the 90 % interval or the standard uncertainty
patterns/*.geojson  where a flight was read: its direction from the antenna, and why a reading does not count
logs/*.csv, *.gpx field logs: position in degrees on WGS 84, level in dBm (empty: not heard)
gains/*.csv       gain tables: frequency in Hz, gain in dBi, its standard uncertainty in dB
pads/*.csv        substitutions of pads: the settings and what the meter showed
displays/*.csv    stepped displays: attenuation in dB, what was shown, the order taken
calibrations/*, calibration-checks/*, qualifications/*, cables/*
                  reflection as the analyzer showed it, not corrected: frequency in Hz, real and imaginary parts
places.geojson    places and tracks
imported/*        every imported file, byte for byte
tape.csv          the tape: every entry with its time

In tape.csv a text that begins with = + - or @ has a ' before it, so that no spreadsheet takes it for a formula.
"""


def _cell(value: Any) -> Any:
    """A text so that no spreadsheet takes it, or a line of it, for a formula: a bare carriage return would begin a row of its own."""
    if not isinstance(value, str):
        return value
    text = value.replace("\r\n", "\n").replace("\r", "\n")
    return f"'{text}" if text.startswith(("=", "+", "-", "@", "\t", "\n")) else text


def _csv(headers: list[str], rows: Iterable[Iterable[Any]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(headers)
    writer.writerows([_cell(v) for v in row] for row in rows)
    return out.getvalue()


def _columns(series: Any) -> str:
    names = list(series)
    stacked = np.column_stack([np.asarray(series[n]) for n in names])
    lines = [",".join("" if np.isnan(v) else repr(float(v)) for v in row) for row in stacked]
    return "\n".join([",".join(names), *lines]) + "\n"


def _figure(figure: Figure | None) -> dict[str, Any] | None:
    if figure is None:
        return None
    low, high = figure.interval
    return {
        "name": figure.name,
        "value": _number(figure.value),
        "standard_uncertainty": _number(figure.u),
        "unit": figure.unit,
        "low_90": _number(low),
        "high_90": _number(high),
        "bound": figure.bound,
        "text": figure.text,
        "working": list(figure.working.lines),
        "source": figure.working.source,
    }


def _number(value: float | None) -> float | None:
    """JSON has no infinity."""
    return value if value is not None and np.isfinite(value) else None


def files(climb: Climb, notebook: Notebook) -> dict[str, bytes]:
    """Name → bytes of everything in the bundle."""
    evidence = climb.whole
    names = {a.id: a.name for a in evidence.antennas}
    out: dict[str, bytes] = {"read-me.txt": READ_ME.encode()}

    taken = set(out)

    def free(name: str) -> str:
        """That name, or the next one free; to most systems upper and lower case are one."""
        stem, dot, ending = name.rpartition(".")
        unique, number = name, 1
        while unique.casefold() in taken:
            number += 1
            unique = f"{stem}-{number}{dot}{ending}"
        taken.add(unique.casefold())
        return unique

    def put(name: str, text: str) -> str:
        """Put a text under a name; the name it has."""
        unique = free(name)
        out[unique] = text.encode(errors="replace")
        return unique

    kept_as: dict[str, str] = {}
    for sweep in evidence.all(Sweep):
        antenna = evidence.antenna(sweep.antenna_id)
        state = slug(antenna.state_name(sweep.state_id)) if antenna else "unknown"
        stem = f"sweeps/{slug(names.get(sweep.antenna_id, ''))}-{state}"
        for ending in (".s1p", ".csv"):
            kept_as[sweep.id] = put(f"{stem}{ending}", text_of(climb, sweep, ending))
    for model in (m for m in KINDS.values() if m.folder):
        for record in evidence.all(model):
            name = f"{model.folder}/{slug(_stem(evidence, record))}.csv"
            kept_as[record.id] = put(name, _columns(evidence.series(record.series_id)))  # type: ignore[attr-defined]
    features: list[dict[str, Any]] = [
        {
            "type": "Feature",
            "geometry": {"type": "Point", "coordinates": [p.longitude_deg, p.latitude_deg]},
            "properties": {"name": p.name, "height_m": p.height_m, "note": p.note},
        }
        for p in evidence.all(Place)
        if p.position is not None  # one known by its distance or its name stands in the notebook's records
    ]
    for track in evidence.all(Log):
        series = evidence.series(track.series_id)
        run = evidence.get(Run, track.run_id)
        stem = f"logs/run-{run.number if run else 'unknown'}"
        kept_as[track.id] = put(f"{stem}.csv", _columns(series))
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
    for name, told in pattern_files(evidence, climb.pattern.antennas).items():
        stem, _, ending = name.rpartition(".")
        put(f"patterns/{slug(stem)}.{ending}", told)
    put("places.geojson", json.dumps({"type": "FeatureCollection", "features": features}, ensure_ascii=False))
    put(
        "tape.csv",
        _csv(
            ["number", "at", "manner", "entry", "reason"],
            ([a.number, a.at, a.manner, a.label, a.reason or ""] for a in notebook.tape),
        ),
    )
    records = {
        kind: [_with_file(json.loads(to_json(r)), kept_as.get(r.id)) for r in evidence.all(model)]
        for kind, model in KINDS.items()
    }
    put("records.json", json.dumps(records, indent=1, ensure_ascii=False))
    put("findings.json", json.dumps(_found(climb), indent=1, ensure_ascii=False))
    unread = 0
    for raw in notebook.raw_files():
        if raw is None:
            unread += 1
        else:
            out[free(f"imported/{raw.sha256[:8]}-{file_name(raw.name)}")] = raw.data
    if unread:
        told = f"\n{show.upper_first(show.count(unread, 'imported file'))} can't be read from the notebook any more.\n"
        out["read-me.txt"] += told.encode()
    return out


def _stem(evidence: Evidence, record: Record) -> str:
    """What the file of a record's columns is called after."""
    if isinstance(record, Cut):
        return f"{evidence.title(record.antenna_id)} {record.plane}"
    if isinstance(record, GainTable | Design):
        return evidence.title(record.antenna_id)
    if isinstance(record, PadCheck):
        return evidence.title(record.piece_id)
    if isinstance(record, DisplayRun):
        return record.receiver
    if isinstance(record, Recording):
        return f"{evidence.title(record.run_id)} {record.source}"
    return record.title


def _with_file(record: dict[str, Any], name: str | None) -> dict[str, Any]:
    return record if name is None else {**record, "file": name}


def _found(climb: Climb) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for rung in RUNGS:
        finding = climb.of(rung)
        found[rung] = {
            "sentence": finding.sentence,
            "detail": finding.detail,
            "checks": [{"mark": c.mark, "text": c.text} for c in finding.checks],
            "headline": _figure(finding.headline),
        }
    field = climb.field
    found["field"]["contrasts"] = [
        {
            "better": better,
            "other": other,
            "scale": contrast.scale,
            "value": _figure(contrast.figure),
            "chance_of_better": round(contrast.chance, 3),
            "times_as_far": _figure(contrast.farther),
            "by": _figure(contrast.size),
            "as_read": {seen.scale: seen.words for seen in contrast.seen},
            "by_kind": {kind: _figure(figure) for kind, figure in contrast.by_kind},
            "runs": contrast.runs,
            "places": contrast.places,
            "changed_together": len(contrast.changes) > 1,
            "blocks": {block: _figure(figure) for block, figure in contrast.blocks},
        }
        for contrast in field.contrasts
        for better, other in [sides(contrast.changes, field.names)]
    ]
    return found


def _gpx(series: Any, number: int) -> str:
    from xml.sax.saxutils import escape

    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<gpx version="1.1" creator="Tall Mast" xmlns="http://www.topografix.com/GPX/1/1">',
    ]
    lines.append(f"<trk><name>{escape(f'run {number}')}</name><trkseg>")
    in_dbm = "level_dbm" in series
    noted = series["level_dbm" if in_dbm else "shown"]
    for lat, lon, value in zip(series["latitude_deg"], series["longitude_deg"], noted, strict=True):
        comment = "" if np.isnan(value) else f"<cmt>{value:.1f} dBm</cmt>" if in_dbm else f"<cmt>{value:g}</cmt>"
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
