"""Sheets of a spreadsheet as the text that saving each as CSV would give: Office Open XML (.xlsx), OpenDocument (.ods)."""

from __future__ import annotations

import csv
import io
import re
import struct
import zipfile
import zlib
from collections.abc import Iterator, Sequence
from datetime import date, datetime, time, timedelta
from typing import TYPE_CHECKING, Any

from .errors import FormatError
from .text import LARGEST_BYTES

if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

SUFFIXES = (".xlsx", ".xlsm", ".ods")
ZIP = b"PK\x03\x04"
BROKEN = (
    zipfile.BadZipFile,
    zlib.error,
    struct.error,
    OSError,
    EOFError,
    ValueError,
    KeyError,
    NotImplementedError,
    RuntimeError,
)
"""What looking into a broken archive may raise."""
MOST_CELLS = 5_000_000
OPEN_DOCUMENT = b"application/vnd.oasis.opendocument.spreadsheet"
OFFICE, TABLE, TEXT = (f"{{urn:oasis:names:tc:opendocument:xmlns:{part}:1.0}}" for part in ("office", "table", "text"))
"""Namespaces of OpenDocument 1.3, part 3."""


def is_spreadsheet(data: bytes) -> bool:
    """Whether it is one that can be read here."""
    if not data.startswith(ZIP):
        return False
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return "xl/workbook.xml" in archive.namelist() or _is_open_document(archive)
    except BROKEN:
        return False


def _is_open_document(archive: zipfile.ZipFile) -> bool:
    if "mimetype" not in archive.namelist():
        return False
    with archive.open("mimetype") as file:  # no more of it: it may be a bomb
        return file.read(200).strip() == OPEN_DOCUMENT


def sheets(data: bytes, name: str) -> list[tuple[str, bytes]]:
    """(name, CSV) of each sheet that holds anything. Of a formula its last result. Raises `FormatError`."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(info.file_size for info in archive.infolist()) > LARGEST_BYTES:
                raise FormatError(name, "larger than 400 MB unpacked", todo="Split it, or thin it out")
            found = _open_document(archive) if _is_open_document(archive) else _office_open(data)
            out = [(sheet, _csv(rows, name)) for sheet, rows in found]
    except FormatError:
        raise
    except Exception as error:  # whatever a broken part of it makes the readers say
        todo = "Open it where it was made and save it again, or save the sheet as CSV"
        raise FormatError(name, "the spreadsheet is broken", todo=todo) from error
    out = [(sheet, text) for sheet, text in out if text]
    if not out:
        raise FormatError(name, "no sheet of it holds anything")
    return out


Rows = Iterator[tuple[Sequence[str], int]]
"""Each row, and how many times it stands there."""


def _csv(rows: Rows, name: str) -> bytes:
    """Rows as text, a line each, blank ones among them so that lines are those of the sheet; empty where there is nothing."""
    kept: list[Sequence[str]] = []
    blank = cells = 0
    for row, times in rows:
        if not any(row):
            blank = min(blank + times, MOST_CELLS)
            continue
        cells += len(row) * times
        if cells + len(kept) + blank + times > MOST_CELLS:
            raise FormatError(name, "more than five million cells", todo="Split it, or thin it out")
        kept += [[]] * blank + [row] * times
        blank = 0
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(kept)
    return out.getvalue().encode()


MOST_ROWS = 1_048_576
"""Of a sheet (ECMA-376, part 1, §18.3.1); a row that says it is farther down is broken."""


def _office_open(data: bytes) -> Iterator[tuple[str, Rows]]:
    import openpyxl

    book = openpyxl.load_workbook(io.BytesIO(data), read_only=True, data_only=True)
    for sheet in book.worksheets:
        sheet.reset_dimensions()  # what it says of its size may be anything
        yield (
            sheet.title,
            (
                ([_written(cell.value, cell.number_format or "") for cell in row], 1)
                for row in sheet.iter_rows(max_row=MOST_ROWS)
            ),
        )


def _written(value: Any, number_format: str) -> str:
    """A cell as a person reads it; dates and times as ISO 8601 has them."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, datetime):
        return value.date().isoformat() if value.time() == time() else value.isoformat(" ")
    if isinstance(value, date | time):
        return value.isoformat()
    if isinstance(value, timedelta):
        return _clock(value.total_seconds())
    if isinstance(value, int | float):
        share = "%" in re.sub(r'"[^"]*"|\\.', "", number_format)  # in quotes, or behind \, it is a letter like others
        return f"{100.0 * value:.12g} %" if share else f"{value:.15g}"
    return " ".join(str(value).split())


def _clock(seconds: float) -> str:
    whole = int(seconds)
    return f"{whole // 3600:02d}:{whole // 60 % 60:02d}:{whole % 60:02d}"


def _open_document(archive: zipfile.ZipFile) -> Iterator[tuple[str, Rows]]:
    from defusedxml import ElementTree

    root = ElementTree.fromstring(archive.read("content.xml"), forbid_dtd=True)
    for sheet in root.iter(f"{TABLE}table"):
        yield sheet.get(f"{TABLE}name", "sheet"), _rows(sheet)


def _rows(sheet: Element) -> Rows:
    for row in sheet.iter(f"{TABLE}table-row"):
        cells: list[str] = []
        for cell in row:
            if cell.tag not in (f"{TABLE}table-cell", f"{TABLE}covered-table-cell"):
                continue
            # The rest of a row is one blank cell, thousands of times.
            cells += [_value(cell)] * min(int(cell.get(f"{TABLE}number-columns-repeated", "1")), MOST_CELLS)
            if len(cells) > MOST_CELLS:
                break
        while cells and not cells[-1]:
            cells.pop()
        yield cells, max(int(row.get(f"{TABLE}number-rows-repeated", "1")), 1)


def _value(cell: Element) -> str:
    kind, value = cell.get(f"{OFFICE}value-type", ""), cell.get(f"{OFFICE}value", "")
    if kind == "percentage":
        return f"{100.0 * float(value):.12g} %"
    if kind in ("float", "currency"):
        return f"{float(value):.15g}"
    if kind == "date":
        return cell.get(f"{OFFICE}date-value", "").replace("T", " ")
    if kind == "time":
        found = re.fullmatch(r"PT(\d+)H(\d+)M(\d+)(?:[.,]\d+)?S", cell.get(f"{OFFICE}time-value", ""))
        return ":".join(f"{int(part):02d}" for part in found.groups()) if found else ""
    if kind == "boolean":
        return "yes" if cell.get(f"{OFFICE}boolean-value") == "true" else "no"
    return " ".join(" ".join("".join(line.itertext()) for line in cell.iter(f"{TEXT}p")).split())
