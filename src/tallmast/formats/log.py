"""A logger's file: where, when and how strong, with any column names."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen, field
from tallmast.notebook.records import RECORDED_AS, BesideKey, RecordedAs
from tallmast.units import show
from tallmast.units.show import FOOT_M

from . import header, table, times
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start

Floats = NDArray[np.float64]

GUESSES: tuple[tuple[str, str], ...] = (
    ("latitude_deg", r"^lat|latitude|breite|\blat\b"),
    ("longitude_deg", r"^lon|^lng|longitude|länge|\blon\b"),
    ("level_dbm", r"rssi?(?![a-z])|dbm"),
    ("level_dbm", r"level|signal|power|rx"),
    ("height_m", r"alt|height|elev|höhe|\bagl\b|\bamsl\b|\basl\b"),
    ("time_s", r"time|sec|epoch|^t$|zeit|^utc|clock"),
    ("heading_deg", r"heading|^hdg|yaw|compass"),
    ("pitch_deg", r"pitch"),
    ("roll_deg", r"\broll|^bank"),
)
"""Which column names mean what, tried in this order."""

FEET = re.compile(r"(?<![a-z])(?:ft|feet)(?![a-z])", re.IGNORECASE)
MOST_SHOWN = 1e12
LIMITS = (
    ("time_s", -1e12, 1e14, "time"),
    ("height_m", -12_000.0, 1e6, "height in metres"),
    ("heading_deg", -360.0, 720.0, "heading in degrees"),
    ("pitch_deg", -180.0, 180.0, "pitch in degrees"),
    ("roll_deg", -360.0, 360.0, "roll in degrees"),
)
"""What a column may hold, where there is one."""
DBM: RecordedAs = "level in dBm"
NEEDED = ("latitude_deg", "longitude_deg", "level_dbm")
BESIDE: tuple[BesideKey, ...] = ("beside_1", "beside_2", "beside_3")
"""Other quantities of the same rows: a link's telemetry, its control."""
BESIDE_WORDS = re.compile(r"telem|control|rc\b|video|picture|lq|link|snr|rssi|dbm|signal", re.IGNORECASE)
OPTIONAL = ("time_s", "height_m", "heading_deg", "pitch_deg", "roll_deg", *BESIDE)


class LogFile(Frozen, eq=True):
    """Columns by our names (NaN in `level_dbm`: not heard there), from which of theirs, and what was odd."""

    columns: dict[str, Floats]
    """`level_dbm`, or `shown` where it was read on a scale of its own."""
    mapping: dict[str, str] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    read_on: RecordedAs = DBM


def guess_mapping(found: table.Table) -> dict[str, str]:
    """Our name → their column, by the words in their names; without a header by the values."""
    names = list(found.columns)
    mapping: dict[str, str] = {}
    for ours, pattern in GUESSES:
        for name in [*names, *found.clocks] if ours == "time_s" else names:
            if name in mapping.values() or (ours == "level_dbm" and header.OTHER.search(header.plain(name))):
                continue
            if ours not in mapping and re.search(pattern, header.plain(name), re.IGNORECASE):
                mapping[ours] = name
    if "level_dbm" not in mapping:
        spoken = [n for n in names if n not in mapping.values() and header.says(n) is not None]
        mapping |= dict(zip(("level_dbm",), spoken, strict=False))
    if mapping.get("level_dbm") and found.had_header:
        mapping["level as"] = header.seems(mapping["level_dbm"], found.columns[mapping["level_dbm"]]) or DBM
    if found.had_header:
        beside = [n for n in names if n not in mapping.values() and not header.OTHER.search(header.plain(n))]
        spoken = [
            n for n in beside if BESIDE_WORDS.search(header.plain(n)) or header.seems(n, found.columns[n]) is not None
        ]
        mapping |= dict(zip(BESIDE, spoken, strict=False))
    if not found.had_header:
        for name in names:
            values = found.columns[name]
            values = values[np.isfinite(values)]
            if not len(values):
                continue
            if "level_dbm" not in mapping and values.max() < -20 and values.min() > -160 and np.ptp(values) > 1:
                mapping["level_dbm"] = name
            elif "latitude_deg" not in mapping and np.ptp(values) < 2 and 0.01 < np.abs(values).max() <= 90:
                mapping["latitude_deg"] = name
            elif "longitude_deg" not in mapping and np.ptp(values) < 2 and 0.01 < np.abs(values).max() <= 180:
                mapping["longitude_deg"] = name
    return mapping


def read_csv(data: bytes, name: str, mapping: Columns | None = None) -> LogFile:
    """Read a delimited log; `mapping` overrides the guess. Raises `FormatError` naming what is missing or wrong."""
    first = table.preview(data, name)
    wanted = {ours: theirs for ours, theirs in (mapping or {}).items() if theirs and ours != "level as"}
    table.there_or_error(name, first, [theirs for ours, theirs in wanted.items() if ours != "time_s"])
    table.there_or_error(name, first, [theirs for ours, theirs in wanted.items() if ours == "time_s"], clocks=True)
    taken = {**guess_mapping(first), **(mapping or {})}
    read_on = _read_on(name, taken.pop("level as", "") or DBM)
    taken = {ours: theirs for ours, theirs in taken.items() if theirs in first.columns or theirs in first.clocks}
    words = {"latitude_deg": "a latitude", "longitude_deg": "a longitude", "level_dbm": "a level"}
    missing = [words[ours] for ours in NEEDED if ours not in taken]
    if missing:
        have = ", ".join(list(first.columns)[:12]) or "none"
        raise FormatError(
            name, f"no column for {' or '.join(missing)} was found among: {have}", todo="Say which column it is"
        )
    clock = taken["time_s"] if taken.get("time_s") in first.clocks else ""
    found = table.read(data, name, set(taken.values()) - {clock}, clock)
    columns = {ours: found.columns[theirs] for ours, theirs in taken.items() if theirs in found.columns}
    if set(NEEDED) - set(columns):
        theirs = taken[next(iter(set(NEEDED) - set(columns)))]
        raise FormatError(name, f"column “{theirs}” holds no numbers further down", todo="Say which column it is")
    notes: list[str] = []
    if found.written is not None:
        columns["time_s"], granted = times.of_clocks(found.written, clock, name, found.line)
        notes += [granted] if granted else []
    elif "time_s" in columns:
        columns["time_s"], granted = times.of_numbers(columns["time_s"], taken["time_s"])
        notes += [granted] if granted else []
    for ours, limit in (("latitude_deg", 90.0), ("longitude_deg", 180.0)):
        beyond = np.abs(columns[ours]) > limit
        if beyond.any():
            row = int(np.argmax(beyond))
            raise FormatError(
                name, f"{columns[ours][row]:g} is no {ours.split('_')[0]}", found.line(row), "Check the columns"
            )
    for ours, low, high, what in LIMITS:
        if ours in columns:
            table.plausible_or_error(name, found, taken[ours], columns[ours], low, high, what)
    for ours in set(BESIDE) & set(columns):
        table.plausible_or_error(name, found, taken[ours], columns[ours], -MOST_SHOWN, MOST_SHOWN, "reading")
        if beside_name(taken[ours]) != taken[ours]:
            rescaled = header.on_scale(taken[ours], "packet rate", columns[ours])
            columns[ours] = rescaled.values
            notes.append(rescaled.note)
    # Before it has a fix a receiver writes nothing, or two noughts.
    lost = np.isnan(columns["latitude_deg"] + columns["longitude_deg"])
    lost |= (columns["latitude_deg"] == 0.0) & (columns["longitude_deg"] == 0.0)
    if lost.all():
        raise FormatError(name, "no row has a position", todo="Check the columns")
    rescaled = header.on_scale(taken["level_dbm"], read_on, columns["level_dbm"])
    columns["level_dbm"] = level = rescaled.values
    notes += [rescaled.note] if rescaled.note else []
    if "height_m" in columns and FEET.search(taken["height_m"]):
        columns["height_m"] = columns["height_m"] * FOOT_M
        notes.append("heights in feet were turned to metres")
    infinite = np.isinf(level)
    if infinite.any():
        raise FormatError(name, "a level that is not finite", found.line(int(np.argmax(infinite))))
    heard = level[np.isfinite(level)]
    if read_on == DBM and len(heard) and (heard.max() > 60 or heard.min() < -250):
        row = int(np.nanargmax(np.abs(level)))
        todo = "Check which column holds the level, and what it was read on"
        raise FormatError(name, f"{level[row]:g} is no level in dBm", found.line(row), todo)
    if read_on != DBM:
        table.plausible_or_error(name, found, taken["level_dbm"], level, -MOST_SHOWN, MOST_SHOWN, "reading")
        columns["shown"] = columns.pop("level_dbm")
    if lost.any():
        notes.append(f"{show.count(int(lost.sum()), 'row')} without a position left out")
        columns, level = {ours: column[~lost] for ours, column in columns.items()}, level[~lost]
    unheard = int(np.isnan(level).sum())
    if unheard:
        notes.append(f"{show.count(unheard, 'row')} without a level: taken as not heard")
    return LogFile(columns, {**taken, "level as": read_on}, tuple(notes), read_on)


def beside_name(column: str) -> str:
    """What a column that was logged beside the level is called: losses are kept as what came through."""
    lost = header.says(column) == "packet rate" and header.LOST.search(header.plain(column))
    return f"{column}, turned to what came through" if lost else column


def _read_on(name: str, said: str) -> RecordedAs:
    for known in RECORDED_AS:
        if said == known:
            return known
    raise FormatError(name, f"“{said}” is nothing that a level is read on", todo="Choose what it is")


def _recognise(start: Start) -> Seen | None:
    mapping = guess_mapping(start.table) if start.table is not None else {}
    if not {"latitude_deg", "longitude_deg"} <= set(mapping):
        return None
    return Seen(0.85, f"positions in “{mapping['latitude_deg']}” and “{mapping['longitude_deg']}”")


FORMAT = Format(
    "log",
    "a logger’s track",
    _recognise,
    read_csv,
    (
        Role("latitude_deg", "Latitude"),
        Role("longitude_deg", "Longitude"),
        Role("level_dbm", "Level, or what was read"),
        Role("level as", "read on", choices={str(k): v for k, v in RECORDED_AS.items()}),
        Role("time_s", "Time", needed=False, clock=True),
        Role("height_m", "Height, m", needed=False),
        Role("heading_deg", "Heading, °", needed=False, seldom=True),
        Role("pitch_deg", "Pitch, °, nose up", needed=False, seldom=True),
        Role("roll_deg", "Roll, °, right side down", needed=False, seldom=True),
        Role("beside_1", "Logged beside it", needed=False, seldom=True),
        Role("beside_2", "And beside that", needed=False, seldom=True),
        Role("beside_3", "And", needed=False, seldom=True),
    ),
    guess_mapping,
    lambda track: {**dict.fromkeys(OPTIONAL, ""), **track.mapping},
    by_first_rows=True,
)
