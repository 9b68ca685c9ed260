"""A file off the disk: recognised, hashed, and read for the first time."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from pathlib import Path
from threading import Thread
from types import MappingProxyType
from typing import Any, TypeVar

from tallmast.frozen import Frozen, field
from tallmast.notebook.entry import RawFile

from . import heights, sniff, spreadsheet, table, text
from .apart import StoppedError, reader
from .errors import FormatError
from .format import Columns, Format
from .text import LARGE_BYTES

NO_NAME = r"[/\\\0]"
"""Letters that no file's name has."""
R = TypeVar("R")
Corrected = Mapping[str, tuple[str, dict[str, str]]]
"""By the shape of a table the kind and columns that a person said the last time."""


class Whole:
    """The reading of all of a long table, of which the first rows were read. Called on a worker; the outcome is known from then on."""

    def __init__(self, raw: RawFile, form: Format, columns: Mapping[str, str]) -> None:
        self._raw, self._form, self._columns = raw, form, columns
        self.read: Any = None
        self._error: FormatError | None = None

    def __call__(self) -> Any:
        """Raises FormatError."""
        if self.read is None and self._error is None:
            try:
                self.read = _hashed(self._raw, lambda: read_as(self._form, self._raw, self._columns))
            except StoppedError:
                raise
            except FormatError as error:
                self._error = error
        if self._error is not None:
            raise self._error
        return self.read


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
    whole: Whole | None = None
    """Of a long table, of which `read` has the first rows alone."""

    @property
    def notes(self) -> tuple[str, ...]:
        """What was odd in it, as far as it was read; of the first rows alone nothing is told."""
        read = self.read if self.whole is None else self.whole.read
        return getattr(getattr(read, "reflection", read), "notes", ())


def load_all(path: Path, corrected: Corrected = MappingProxyType({})) -> list[Arrived | Exception]:
    """What a file holds: itself, or each sheet of a spreadsheet, read or with why it can't be. Raises FormatError where there is
    nothing."""
    if heights.is_raster(path) or path.suffix.lower() not in spreadsheet.SUFFIXES:
        return [load(path, corrected)]
    data = text.load(path)
    if not spreadsheet.is_spreadsheet(data):
        return [load(path, corrected)]
    out: list[Arrived | Exception] = []
    for sheet, table_ in reader.call(path.name, spreadsheet.sheets, data, path.name):
        inside = path.with_name(f"{path.stem} ({re.sub(NO_NAME, '-', sheet)}).csv")
        try:
            out.append(_recognised(inside, RawFile(inside.name, table_), corrected))
        except FormatError as error:
            out.append(error)
    return out


def load(path: Path, corrected: Corrected = MappingProxyType({})) -> Arrived:
    """Read and recognise a file; a table as a person corrected one of its shape before. A raster is only looked at: it may be larger
    than memory. Of a long log the first rows are read, for its sheet; the rest when `whole` is called. Raises FormatError."""
    if heights.is_raster(path):
        return Arrived(path, RawFile(path.name, b""), "heights", reader.call(path.name, heights.look, path))
    return _recognised(path, RawFile(path.name, text.load(path)), corrected)


def read_as(form: Format, raw: RawFile, columns: Columns | None) -> Any:
    """A file as one of a format; a large one in the process apart. Raises FormatError."""
    if len(raw.data) < LARGE_BYTES:
        return form.read(raw.data, raw.name, columns)
    return reader.call(
        raw.name, _read_as, raw.name, form.kind, raw.data, dict(columns) if columns is not None else None
    )


def _read_as(name: str, kind: str, data: bytes, columns: Columns | None) -> Any:
    return sniff.FORMATS[kind].read(data, name, columns)


def _recognised(path: Path, raw: RawFile, corrected: Corrected) -> Arrived:
    kind, columns = _kind(raw, corrected)
    row = sniff.FORMATS[kind]
    if row.by_first_rows and len(raw.data) >= LARGE_BYTES:
        try:
            first = row.read(table.head(raw.data), raw.name, columns)
        except FormatError:
            pass  # what is wrong with them is told of the whole
        else:
            taken = row.taken(first)
            return Arrived(path, raw, kind, first, taken, whole=Whole(raw, row, taken))
    try:
        read = _hashed(raw, lambda: read_as(row, raw, columns))
    except FormatError as error:
        if not (row.roles and others_to_choose(row, raw.data, raw.name)):
            raise
        return Arrived(path, raw, kind, None, trouble=f"line {error.line}: {error.what}" if error.line else error.what)
    return Arrived(path, raw, kind, read, row.taken(read))


def _kind(raw: RawFile, corrected: Corrected) -> tuple[str, Mapping[str, str] | None]:
    """(kind, columns as a person chose them before)."""
    if sniff.is_text(raw.data):
        text.no_endless_line(raw.data, raw.name)
    kind = sniff.kind_of(raw.data, raw.name)
    if sniff.FORMATS[kind].roles and corrected:
        known = corrected.get(shape_of(table.preview_or_names(raw.data, raw.name)))
        if known is not None and known[0] in sniff.FORMATS and sniff.FORMATS[known[0]].takes(known[1]):
            return known
    return kind, None


def _hashed(raw: RawFile, read: Callable[[], R]) -> R:
    """What is read of a file, which is hashed beside it where it is large: hashing lets go of the interpreter."""
    hashing = Thread(target=lambda: raw.sha256)
    if len(raw.data) < LARGE_BYTES:
        hashing.run()
        return read()
    hashing.start()
    try:
        return read()
    finally:
        hashing.join()


def shape_of(found: table.Table) -> str:
    """What tables that one program writes have in common: the names of their columns."""
    return "|".join((*found.names, "named" if found.had_header else "bare"))


def others_to_choose(form: Format, data: bytes, name: str) -> bool:
    """Whether choosing other columns could help: the whole is a table, with more of them than are needed."""
    try:
        columns = len(table.read(data, name).columns)
    except FormatError:
        return False
    return columns > sum(role.needed and not role.choices for role in form.roles)
