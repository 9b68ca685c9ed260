"""Bytes of a file into lines of text, whatever machine wrote it."""

from __future__ import annotations

from pathlib import Path

from .errors import FormatError

CONTROLS = bytes(range(9))
BLANKS = b" \t\r\n\0"
LARGEST_BYTES = 400_000_000
LARGE_BYTES = 500_000
"""From here on a file is read, kept and hashed beside the window."""
LONGEST_LINE = 1_000_000


def load(path: Path) -> bytes:
    """The bytes of a file. Raises `FormatError` for a missing, unreadable or empty one, or a folder."""
    try:
        if path.is_dir():
            raise FormatError(path.name, "this is a folder", todo="Drop the files in it instead")
        if path.stat().st_size > LARGEST_BYTES:
            raise FormatError(path.name, "larger than 400 MB", todo="Split it, or thin it out")
        data = path.read_bytes()
    except FileNotFoundError:
        raise FormatError(path.name, "the file is not there any more") from None
    except OSError as error:
        why = (error.strerror or "it can't be read").lower()
        raise FormatError(path.name, why, todo="Look at its permissions, or copy it somewhere else first") from error
    if data and not data.strip(b"\0"):
        raise FormatError(
            path.name, "there is nothing in it but zeros", todo="It was not written to its end: copy it again"
        )
    if _is_blank(data):
        raise FormatError(path.name, "the file is empty")
    return data


def _is_blank(data: bytes) -> bool:
    """Whether there is nothing in it but blanks; a long file is not copied to be told so."""
    return not data[:4096].strip(BLANKS) and not data.strip(BLANKS)


def no_endless_line(data: bytes, name: str) -> None:
    """Raises `FormatError` where a line goes on for more than `LONGEST_LINE` bytes: no table or track has one, and what reads it would
    take ten times as much memory."""
    at = 0
    while len(data) - at > LONGEST_LINE:
        end = max(data.rfind(mark, at, at + LONGEST_LINE) for mark in (b"\n", b"\r"))
        if end < 0:
            line = data.count(b"\n", 0, at) + 1
            raise FormatError(name, "a line of it is longer than a megabyte", line, "Is it text? Export it again")
        at = end + 1


def decode(data: bytes, name: str) -> str:
    """Text of bytes: UTF-8 or UTF-16 by their marks, UTF-16 by its zero bytes, else UTF-8, else Windows-1252.

    Line ends become \\n. Raises `FormatError` for binary data.
    """
    if _is_blank(data):
        raise FormatError(name, "the file is empty")
    text: str | None = None
    try:
        if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
            text = data.decode("utf-16")
        elif len(data) >= 4 and data[:200].count(0) >= 0.4 * len(data[:200]):
            low = data[1:200:2].count(0) > data[0:200:2].count(0)
            text = data.decode("utf-16-le" if low else "utf-16-be")
    except UnicodeDecodeError:
        raise FormatError(name, "neither text nor complete UTF-16", todo="Save it again as UTF-8") from None
    if text is None:
        if b"\0" in data[:4096] or len(data[:4096]) - len(data[:4096].translate(None, CONTROLS)) > 4:
            raise FormatError(name, "this is binary data, not text", todo="Export it as text (CSV or Touchstone)")
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError:
            text = data.decode("cp1252", errors="replace")
    text = text.lstrip("\ufeff")
    return text.replace("\r\n", "\n").replace("\r", "\n") if "\r" in text else text
