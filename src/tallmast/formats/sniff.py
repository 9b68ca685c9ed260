"""What kind of file is this? By its content first, its name second: endings lie."""

from __future__ import annotations

import re
from pathlib import Path, PurePath
from typing import Literal

import numpy as np

from . import display_log, gain_table, sweep_table, table
from .errors import FormatError
from .log import guess_mapping
from .text import decode

FileKind = Literal["notebook", "touchstone", "sweep table", "gain table", "display", "cut", "log", "gpx", "photo"]


MAGIC = b"SQLite format 3\0"


def is_notebook(path: Path) -> bool:
    """Whether a file is a notebook, whatever its name ends in."""
    if path.suffix.lower() == ".tallmast":
        return True
    try:
        with path.open("rb") as file:
            return file.read(len(MAGIC)) == MAGIC
    except OSError:
        return False


def kind_of(data: bytes, name: str) -> FileKind:
    """The kind of a dropped file; `FormatError` when it is none that is known here."""
    suffix = PurePath(name).suffix.lower()
    if data.startswith(MAGIC) or suffix == ".tallmast":
        return "notebook"
    if data.startswith((b"\x89PNG\r\n", b"\xff\xd8\xff")):
        return "photo"
    text = decode(table.head(data), name)
    start = text.lstrip()[:4000]
    if start.startswith("<"):
        if re.search(r"<gpx\b", start, re.IGNORECASE):
            return "gpx"
        raise FormatError(name, "an XML file, but not GPX", todo="Export the track as GPX or CSV")
    if re.search(r"^\s*#\s*([kmg]?hz\b|s\b|ri\b|ma\b|db\b)", start, re.IGNORECASE | re.MULTILINE) or re.search(
        r"^\s*\[version\]", start, re.IGNORECASE | re.MULTILINE
    ):
        return "touchstone"
    if re.fullmatch(r"\.s\d+p", suffix):
        return "touchstone"
    found = table.preview(data, name)
    mapping = guess_mapping(found)
    if _bare_sweep(found):
        return "sweep table"
    if {"latitude_deg", "longitude_deg"} <= set(mapping):
        return "log"
    if display_log.guess(found) is not None:
        return "display"
    if gain_table.guess(found) is not None:
        return "gain table"
    if sweep_table.guess(found) is not None:
        return "sweep table"
    if found.columns and len(found.columns) >= 2:
        return "cut"
    raise FormatError(
        name,
        "neither a sweep, a pattern cut, a gain table nor a log was recognised in it",
        todo="Touchstone, CSV and GPX are read here",
    )


def _bare_sweep(found: table.Table) -> bool:
    """Three columns without a header, of which the first climbs beyond any angle and the others stay within ±1.5: a sweep
    that lost its head. Positions don't climb so."""
    columns = list(found.columns.values())
    if found.had_header or len(columns) != 3:
        return False
    first, *parts = columns
    climbs = len(first) > 2 and bool((np.diff(first) > 0).all()) and float(first[-1]) > 720
    return climbs and all(bool((np.abs(part) <= 1.5).all()) for part in parts)
