"""GPX: named points, and a track with levels where it has them (GPX 1.0 and 1.1). Read as it streams by, so that a million points
take no more memory than their columns."""

from __future__ import annotations

import math
import re
from array import array
from datetime import UTC, datetime
from xml.parsers import expat

import numpy as np

from tallmast.frozen import Frozen
from tallmast.units import show

from .errors import FormatError
from .format import Format, Seen, Start
from .log import Floats, LogFile
from .text import decode

DEEPEST = 64
"""Of tags inside tags: more is no track, or one made to be slow."""
LEVEL = re.compile(r"level|rssi|dbm|signal", re.IGNORECASE)
DBM = re.compile(r"([-−]\d+(?:\.\d+)?)\s*dBm")
MOST_DBM, LEAST_DBM = 60.0, -250.0
POINTS = ("trkpt", "wpt")
HELD = ("name", "ele", "time", "cmt", "desc")


class Waypoint(Frozen, eq=True):
    name: str
    latitude_deg: float
    longitude_deg: float


class GpxFile(Frozen, eq=True):
    """What a GPX file holds for us: named points, and the track with levels where it has them."""

    waypoints: tuple[Waypoint, ...]
    track: LogFile | None


class _Points:
    """Collects points as they stream by. Raises `FormatError` with the line where one is odd, and for a document type: without one there
    are no entities that could blow up or point elsewhere."""

    def __init__(self, name: str) -> None:
        self.file = name
        self._parser = parser = expat.ParserCreate()
        parser.buffer_text = True
        parser.StartElementHandler, parser.EndElementHandler = self._start, self._end
        parser.CharacterDataHandler, parser.StartDoctypeDeclHandler = self._characters, self._refuse
        self.columns = {key: array("d") for key in ("latitude_deg", "longitude_deg", "level_dbm", "height_m", "time_s")}
        self.waypoints: list[Waypoint] = []
        self.without = 0
        """Points without a position: before it has a fix a receiver writes two noughts."""
        self._depth = 0
        self._point = ""
        self._at = (0.0, 0.0)
        self._in = ""
        self._text: list[str] = []
        self._held: dict[str, str] = {}
        self._level = math.nan

    def parse(self, data: bytes) -> None:
        try:
            self._parser.Parse(data, True)
        except expat.ExpatError as error:
            raise FormatError(self.file, "the XML is broken or cut off", error.lineno) from error

    def _refuse(self, *_: object) -> None:
        raise FormatError(self.file, "holds a document type or entities, which no track needs; it was refused")

    def _start(self, name: str, attrs: dict[str, str]) -> None:
        self._depth += 1
        if self._depth > DEEPEST:
            raise self._wrong("tags inside tags, deeper than any track has them")
        tag = name.rpartition(":")[2]
        if tag in POINTS:
            self._point, self._held, self._level = tag, {}, math.nan
            self._at = self._position(attrs)
        if self._point:
            self._in, self._text = tag, []

    def _characters(self, content: str) -> None:
        if self._in:
            self._text.append(content)

    def _end(self, name: str) -> None:
        self._depth -= 1
        if not self._point:
            return
        tag = name.rpartition(":")[2]
        if tag == self._point:
            self._end_point()
            self._point = self._in = ""
        elif tag == self._in:
            self._in = ""
            text = "".join(self._text).strip()
            if tag in HELD:
                self._held.setdefault(tag, text)
            elif math.isnan(self._level) and LEVEL.search(tag):
                self._level = _number(text)

    def _end_point(self) -> None:
        latitude, longitude = self._at
        if self._point == "wpt":
            name = self._held.get("name") or f"point {len(self.waypoints) + 1}"
            self.waypoints.append(Waypoint(name, latitude, longitude))
            return
        if latitude == 0.0 and longitude == 0.0:
            self.without += 1
            return
        level = self._level if not math.isnan(self._level) else self._spoken()
        if math.isinf(level) or level > MOST_DBM or level < LEAST_DBM:
            point = len(self.columns["level_dbm"]) + 1
            raise self._wrong(f"track point {point} holds a level of {level:g} dBm", "Check its unit")
        row = (latitude, longitude, level, self._height(), self._time())
        for column, value in zip(self.columns.values(), row, strict=True):
            column.append(value)

    def _position(self, attrs: dict[str, str]) -> tuple[float, float]:
        at = tuple(_number(attrs.get(key, "")) for key in ("lat", "lon"))
        if not all(math.isfinite(value) for value in at):
            raise self._wrong("a point without a position that can be read", "Export the track again")
        if abs(at[0]) > 90 or abs(at[1]) > 180:
            raise self._wrong("a point at no possible position")
        return at[0], at[1]

    def _spoken(self) -> float:
        for key in ("cmt", "desc"):
            found = DBM.search(self._held.get(key, ""))
            if found:
                return float(found[1].replace("−", "-"))
        return math.nan

    def _height(self) -> float:
        written = self._held.get("ele", "")
        height = _number(written) if written else math.nan
        if written and not math.isfinite(height):
            raise self._wrong("a height in it can't be read", "Export the track again")
        return height

    def _time(self) -> float:
        written = self._held.get("time", "")
        if not written:
            return math.nan
        try:
            at = datetime.fromisoformat(written)
            return (at if at.tzinfo is not None else at.replace(tzinfo=UTC)).timestamp()  # a GPX’s times are UTC
        except (ValueError, OverflowError):
            raise self._wrong("a time in it can't be read", "Export the track again") from None

    def _wrong(self, what: str, todo: str = "") -> FormatError:
        return FormatError(self.file, what, self._parser.CurrentLineNumber, todo)


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        return math.nan


def read(data: bytes, name: str) -> GpxFile:
    """Read waypoints and track points; a level is taken from an extension named level, rssi or dbm, or from a
    comment such as “−97 dBm”. Entities and document types are refused (an XML bomb needs them). Raises `FormatError`."""
    text = re.sub(r"^\s*<\?xml[^>]*\?>", lambda found: "\n" * found[0].count("\n"), decode(data, name))
    seen = _Points(name)
    seen.parse(text.encode())
    waypoints = tuple(seen.waypoints)
    columns = {key: np.frombuffer(values, dtype=float) for key, values in seen.columns.items()}
    if not len(columns["latitude_deg"]):
        if not waypoints:
            raise FormatError(name, "holds neither a track nor waypoints")
        return GpxFile(waypoints, None)
    return GpxFile(waypoints, _track(columns, seen.without))


def _track(columns: dict[str, Floats], without: int) -> LogFile:
    notes = []
    if not np.isfinite(columns["level_dbm"]).any():
        notes.append("no levels in it: the track only shows where the run went")
    if without:
        notes.append(f"{show.count(without, 'point')} without a position left out")
    for ours in ("height_m", "time_s"):
        missing = int(np.isnan(columns[ours]).sum())
        if missing == len(columns[ours]):
            del columns[ours]
        elif missing:
            have = "has" if missing == 1 else "have"
            notes.append(f"{show.count(missing, 'point')} of {len(columns[ours])} {have} no {ours.partition('_')[0]}")
    return LogFile(columns, {"level_dbm": "extension or comment"}, tuple(notes))


def _recognise(start: Start) -> Seen | None:
    marked = start.is_markup and re.search(r"<gpx\b", start.text, re.IGNORECASE)
    return Seen(1.0, "GPX") if marked else None


FORMAT = Format("gpx", "a GPX file", _recognise, lambda data, name, columns: read(data, name))
