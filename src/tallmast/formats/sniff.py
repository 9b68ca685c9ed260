"""What kind of file is this? Every format is asked, and says what it sees: by content first, name second."""

from __future__ import annotations

import re
from pathlib import Path

from . import (
    cut,
    cuts,
    design,
    display_log,
    field_notes,
    gain_table,
    gpx,
    log,
    meter_table,
    recording,
    sweep_table,
    table,
    touchstone,
)
from .errors import FormatError
from .format import Format, Seen, Start

MAGIC = b"SQLite format 3\0"


def _notebook(start: Start) -> Seen | None:
    return Seen(1.0, "a notebook") if start.data.startswith(MAGIC) or start.suffix == ".tallmast" else None


PHOTOS = (b"\x89PNG\r\n", b"\xff\xd8\xff")


def _photo(start: Start) -> Seen | None:
    return Seen(1.0, "a photo") if start.data.startswith(PHOTOS) else None


TABLES = (
    log.FORMAT,
    sweep_table.FORMAT,
    meter_table.FORMAT,
    gain_table.FORMAT,
    display_log.FORMAT,
    recording.FORMAT,
    field_notes.FORMAT,
    cut.FORMAT,
    cuts.FORMAT,
    design.FORMAT,
)
"""Tables of text, whose columns a person can say what they are."""
FORMATS: dict[str, Format] = {
    row.kind: row
    for row in (
        Format("notebook", "a notebook", _notebook),
        Format("photo", "a photo", _photo),
        gpx.FORMAT,
        touchstone.FORMAT,
        *TABLES,
    )
}


AS_RECORDING = "Write down what it shows, with its times, as a table or in a live run"
OTHERS: tuple[tuple[bytes, str, str], ...] = (
    (
        rb"....ftyp(?!M4A)|\x1a\x45\xdf\xa3|RIFF....AVI |\x00\x00\x01[\xb3\xba]|(?:G.{187}){2}G",
        "a video, not text",
        AS_RECORDING,
    ),
    (rb"....ftypM4A|RIFF....WAVE|fLaC|OggS|ID3|\xff[\xf2-\xfb]", "a sound recording, not text", AS_RECORDING),
    (rb"PK\x03\x04", "an archive or a document, not text", "Unpack it; a spreadsheet may be .xlsx, .ods or CSV"),
    (rb"\xd0\xcf\x11\xe0", "an old spreadsheet or a document, not text", "Save the sheet as .xlsx, .ods or CSV"),
    (rb"%PDF", "a PDF, which holds pictures of numbers", "Export the table as CSV where it comes from"),
    (rb"\{", "JSON, which is not read here", "Export it as CSV or GPX"),
    (rb"\[\{", "JSON, which is not read here", "Export it as CSV or GPX"),
    (rb"\$G", "sentences of a satellite receiver", "Export the track as GPX or CSV"),
)
"""What people drop that is none of these, by a pattern of its first bytes, and what to do with it."""


def is_text(data: bytes) -> bool:
    """Whether a file is none of those that are known not to be."""
    return not data.startswith((MAGIC, *PHOTOS)) and _other(data) is None


def _other(data: bytes) -> tuple[str, str] | None:
    """What it is that is not read here, and what to do with it."""
    start = data[:600]
    found = (
        (what, todo)
        for mark, what, todo in OTHERS
        if re.match(mark, start, re.DOTALL) or re.match(mark, start.lstrip(b"\xef\xbb\xbf \t\r\n"), re.DOTALL)
    )
    return next(found, None)


def is_notebook(path: Path) -> bool:
    """Whether a file is a notebook, whatever its name ends in."""
    if path.suffix.lower() == ".tallmast":
        return True
    try:
        with path.open("rb") as file:
            return file.read(len(MAGIC)) == MAGIC
    except OSError:
        return False


def seen(data: bytes, name: str) -> list[tuple[Format, Seen]]:
    """What each format sees in a file, the surest first; those that see nothing are left out. Raises `FormatError` for a
    text that can't be decoded."""
    start = Start(data, name)
    found: list[tuple[Format, Seen]] = []
    for row in FORMATS.values():
        what = row.recognise(start)
        if what is not None:
            found.append((row, what))
            if what.sure == 1.0:
                break  # a mark that only this format has: the rest need not look at bytes that are no text
    return sorted(found, key=lambda both: -both[1].sure)


def kind_of(data: bytes, name: str) -> str:
    """The kind of a dropped file. Raises `FormatError` when it is none that is known here."""
    other = _other(data)
    if other is not None:
        raise FormatError(name, other[0], todo=other[1])
    found = seen(data, name)
    if found:
        return found[0][0].kind
    if Start(data, name).is_markup:
        raise FormatError(name, "an XML file, but not GPX", todo="Export the track as GPX or CSV")
    table_error(data, name)
    raise FormatError(
        name,
        "neither a sweep, a meter’s readings, a pattern cut, a gain table, a log, a recording nor field notes were recognised in it",
        todo="Touchstone, CSV and GPX are read here",
    )


def table_error(data: bytes, name: str) -> None:
    """Raise what is wrong with a text that was meant to be a table, where something is."""
    table.preview(data, name)
