"""The margin over the ground for other programs: GeoTIFF, GeoJSON or KML, by the ending of the file's name."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Literal
from xml.etree import ElementTree as ET

import numpy as np

from tallmast.findings.field import FieldFinding
from tallmast.findings.link.cells import Coverage
from tallmast.findings.link.coverage import Cover
from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.geodesy import around
from tallmast.units import show

from .write import ReportError, write_whole

KINDS = "GeoTIFF (*.tif);;GeoJSON (*.geojson);;KML (*.kml)"
LINE_WORDS = {-1.0: "surely taken within", 0.0: "nothing to spare", 1.0: "perhaps taken within"}
MOST_TRACK = 2000
Kind = Literal["line", "place", "track"]


class _Feature(Frozen, eq=True):
    """Something on the map: its degrees [n], and what it says."""

    kind: Kind
    name: str
    latitude_deg: Floats
    longitude_deg: Floats
    says: dict[str, Any]


def _features(cover: Cover, coverage: Coverage, field: FieldFinding) -> Iterator[_Feature]:
    """Home and places with their margins, lines where nothing is left, tracks of the runs."""
    assert cover.home.position is not None
    home = cover.home.position

    def made(kind: Kind, name: str, east: Floats, north: Floats, **says: Any) -> _Feature:
        return _Feature(kind, name, *around(*home, east, north), says)

    yield made("place", cover.home.name, np.zeros(1), np.zeros(1), home=True)
    for name, east, north, figure in cover.places_on(coverage):
        low, high = (round(v, 1) for v in figure.interval)
        at = np.array([east]), np.array([north])
        yield made("place", name, *at, margin_db=round(figure.value, 1), low_db=low, high_db=high)
    for bound, lines in coverage.lines.items():
        for east_m, north_m in lines:
            yield made("line", LINE_WORDS[bound], east_m, north_m, margin_db=0.0, bound=bound)
    for ran in field.samples:
        track = ran.on_map
        step = max(1, len(track.distance_m) // MOST_TRACK)
        d, angle = track.distance_m[::step], np.radians(track.bearing_deg[::step])
        if len(d) > 1:
            yield made("track", f"run {track.run.number}", d * np.sin(angle), d * np.cos(angle), run=track.run.number)


def _title(cover: Cover, coverage: Coverage) -> str:
    margin = cover.margin
    fine = "" if coverage.done == 1.0 else ", coarse where it was stopped"
    if coverage.against:
        return f"{margin.antenna.name} {coverage.against}, dB over what is needed{fine}"
    return f"Margin of {margin.antenna.name} at {show.power(cover.ask.power_w)}, {margin.basis}{fine}"


def geojson(cover: Cover, coverage: Coverage, field: FieldFinding) -> bytes:
    """RFC 7946: longitude before latitude, WGS 84."""
    out = []
    for one in _features(cover, coverage, field):
        points = np.round(np.stack((one.longitude_deg, one.latitude_deg), axis=1), 6).tolist()
        shape = (
            {"type": "Point", "coordinates": points[0]}
            if one.kind == "place"
            else {"type": "LineString", "coordinates": points}
        )
        out.append(
            {"type": "Feature", "geometry": shape, "properties": {"name": one.name, "kind": one.kind, **one.says}}
        )
    made = {"type": "FeatureCollection", "name": _title(cover, coverage), "features": out}
    return json.dumps(made, ensure_ascii=False, allow_nan=False).encode()


def kml(cover: Cover, coverage: Coverage, field: FieldFinding) -> bytes:
    """OGC KML 2.2, a folder each for places, lines and tracks."""
    root = ET.Element("kml", xmlns="http://www.opengis.net/kml/2.2")
    document = ET.SubElement(root, "Document")
    ET.SubElement(document, "name").text = _title(cover, coverage)
    folders: dict[str, ET.Element] = {}
    for one in _features(cover, coverage, field):
        if one.kind not in folders:
            folders[one.kind] = ET.SubElement(document, "Folder")
            ET.SubElement(folders[one.kind], "name").text = f"{one.kind}s"
        mark = ET.SubElement(folders[one.kind], "Placemark")
        ET.SubElement(mark, "name").text = one.name
        if "low_db" in one.says:
            says = one.says
            words = f"margin {says['margin_db']} dB, {says['low_db']} to {says['high_db']}"
            ET.SubElement(mark, "description").text = words
        shape = ET.SubElement(mark, "Point" if one.kind == "place" else "LineString")
        at = zip(one.longitude_deg, one.latitude_deg, strict=True)
        ET.SubElement(shape, "coordinates").text = " ".join(f"{x:.6f},{y:.6f}" for x, y in at)
    return bytes(ET.tostring(root, encoding="utf-8", xml_declaration=True))


def geotiff(cover: Cover, coverage: Coverage) -> bytes:
    """Two bands of 32-bit floats, the margin and half of its 90 % interval, dB; true in distance and bearing from home."""
    from rasterio.crs import CRS
    from rasterio.io import MemoryFile
    from rasterio.transform import from_origin

    assert cover.home.position is not None
    latitude, longitude = cover.home.position
    crs = CRS.from_proj4(f"+proj=aeqd +lat_0={latitude:.9f} +lon_0={longitude:.9f} +datum=WGS84 +units=m")
    n, reach = len(coverage.margin_db), coverage.reach_m
    with MemoryFile() as file:
        with file.open(
            driver="GTiff",
            width=n,
            height=n,
            count=2,
            dtype="float32",
            crs=crs,
            transform=from_origin(-reach, reach, coverage.cell_m, coverage.cell_m),
            nodata=float("nan"),
            compress="deflate",
        ) as into:
            into.write(coverage.margin_db, 1)
            into.write(coverage.half_db, 2)
            into.set_band_description(1, "margin of the median, dB")
            into.set_band_description(2, "half of its 90 % interval, dB")
            into.update_tags(TITLE=_title(cover, coverage))
        return bytes(file.read())


def write(cover: Cover, coverage: Coverage, field: FieldFinding, path: Path) -> None:
    """Write the map, by the ending of the name. Raises `ReportError`."""
    ending = path.suffix.lower()
    if ending in (".tif", ".tiff"):
        data = geotiff(cover, coverage)
    elif ending in (".geojson", ".json"):
        data = geojson(cover, coverage, field)
    elif ending == ".kml":
        data = kml(cover, coverage, field)
    else:
        raise ReportError(f"A map is written as .tif, .geojson or .kml, not as {ending or 'a file without an ending'}.")
    write_whole(path, data)
