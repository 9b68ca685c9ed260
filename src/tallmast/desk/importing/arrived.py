"""A file off the disk: recognised, hashed, and read for the first time."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from threading import Thread
from types import MappingProxyType
from typing import Any

from tallmast.formats import heights, sniff, table, text
from tallmast.formats.errors import FormatError
from tallmast.formats.format import Format
from tallmast.frozen import Frozen, field
from tallmast.notebook.entry import RawFile

from ..session import LARGE_BYTES

Corrected = Mapping[str, tuple[str, dict[str, str]]]
"""By the shape of a table the kind and columns that a person said the last time."""


class Arrived(Frozen, eq=True):
    """One file: its kind, and a first reading of it; None where a table could not be read as it looked."""

    path: Path
    raw: RawFile
    kind: str
    read: Any = None
    taken: dict[str, str] = field(default_factory=dict)
    """Which columns were taken for what."""
    trouble: str = ""
    """Why it could not be read as it looked."""


def load(path: Path, corrected: Corrected = MappingProxyType({})) -> Arrived:
    """Read and recognise a file; a table as a person corrected one of its shape before. A raster is only looked at: it may be larger
    than memory. Raises FormatError."""
    if heights.is_raster(path):
        return Arrived(path, RawFile(path.name, b""), "heights", heights.look(path))
    data = text.load(path)
    raw = RawFile(path.name, data)
    hashing = Thread(target=lambda: raw.sha256)
    if len(data) < LARGE_BYTES:
        hashing.run()
        return _read(path, raw, corrected)
    # Hashing lets go of the interpreter, so it goes on beside the reading.
    hashing.start()
    try:
        return _read(path, raw, corrected)
    finally:
        hashing.join()


def _read(path: Path, raw: RawFile, corrected: Corrected) -> Arrived:
    data, name = raw.data, path.name
    kind, columns = sniff.kind_of(data, name), None
    row = sniff.FORMATS[kind]
    if row.roles and corrected:
        known = corrected.get(shape_of(table.preview(data, name)))
        if known is not None and known[0] in sniff.FORMATS and sniff.FORMATS[known[0]].takes(known[1]):
            kind, columns = known
            row = sniff.FORMATS[kind]
    try:
        read = row.read(data, name, columns)
    except FormatError as error:
        if not (row.roles and others_to_choose(row, data, name)):
            raise
        return Arrived(path, raw, kind, None, trouble=f"line {error.line}: {error.what}" if error.line else error.what)
    return Arrived(path, raw, kind, read, row.taken(read))


def shape_of(found: table.Table) -> str:
    """What tables that one program writes have in common: the names of their columns."""
    return "|".join((*found.columns, "named" if found.had_header else "bare"))


def others_to_choose(form: Format, data: bytes, name: str) -> bool:
    """Whether choosing other columns could help: the whole is a table, with more of them than are needed."""
    try:
        columns = len(table.read(data, name).columns)
    except FormatError:
        return False
    return columns > sum(role.needed and not role.choices for role in form.roles)
