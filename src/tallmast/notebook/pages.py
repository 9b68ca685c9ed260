"""Rows read straight from the pages of an SQLite file, where its trees lead nowhere any more.

The layout is https://sqlite.org/fileformat2.html: §1.3 the header, §1.6 pages of a b-tree and overflow pages, §2.1 records,
§4.1 and 4.2 the log of writes. Which table a page belongs to does not stand in it: the rows tell by their shape.
"""

from __future__ import annotations

import itertools
import mmap
import struct
from collections.abc import Iterator

from tallmast.frozen import Frozen

LEAF_OF_A_TABLE = 13
SIZES = (512, 1024, 2048, 4096, 8192, 16384, 32768, 65536)
USUAL = 4096
LOG_HEADER, FRAME_HEADER = 32, 24

Value = int | float | str | bytes | None


class Row(Frozen):
    """One row of some table: its rowid, and its columns in order (an INTEGER PRIMARY KEY stands as None)."""

    rowid: int
    values: tuple[Value, ...]


class Pages:
    """The pages of a file, and of the log of writes beside it where that has newer ones."""

    def __init__(self, data: bytes | mmap.mmap, log: bytes = b"") -> None:
        said = int.from_bytes(data[16:18], "big")
        self._size = 65536 if said == 1 else said if said in SIZES else USUAL
        reserved = data[20] if len(data) > 20 else 0
        self._usable = self._size - (reserved if reserved <= 32 else 0)
        self._data = data
        self._newer = _of_log(log, self._size)
        self._count = max([len(data) // self._size, *self._newer])

    @property
    def cut_off(self) -> bool:
        """Whether the file is shorter than its header says (§1.3.7); not told where the header is not one."""
        said = int.from_bytes(self._data[28:32], "big")
        return self._data[:16] == b"SQLite format 3\0" and self._count < said < 2**31

    def rows(self) -> Iterator[Row]:
        """Every row of every leaf that reads as one."""
        for number in range(1, self._count + 1):
            page = self._page(number)
            start = 100 if number == 1 else 0
            if len(page) == self._size and page[start] == LEAF_OF_A_TABLE:
                yield from self._leaf(page, start)

    def _page(self, number: int) -> bytes:
        at = (number - 1) * self._size
        return self._newer.get(number) or self._data[at : at + self._size]

    def _leaf(self, page: bytes, start: int) -> Iterator[Row]:
        count = int.from_bytes(page[start + 3 : start + 5], "big")
        for at in range(start + 8, min(start + 8 + 2 * count, self._size - 1), 2):
            try:
                yield self._row(page, int.from_bytes(page[at : at + 2], "big"))
            except (ValueError, IndexError, struct.error):
                continue  # this one was hit; the next may not be

    def _row(self, page: bytes, at: int) -> Row:
        length, at = _varint(page, at)
        rowid, at = _varint(page, at)
        whole, least = self._usable - 35, (self._usable - 12) * 32 // 255 - 23
        local = length
        if length > whole:
            local = least + (length - least) % (self._usable - 4)
            local = local if local <= whole else least
        payload = page[at : at + local]
        if local < length:
            payload += self._overflow(int.from_bytes(page[at + local : at + local + 4], "big"), length - local)
        if len(payload) != length:
            raise ValueError("cut off")
        return Row(rowid if rowid < 2**63 else rowid - 2**64, tuple(_values(payload)))

    def _overflow(self, number: int, length: int) -> bytes:
        """What went on elsewhere. Raises `ValueError` where the chain breaks."""
        out = bytearray()
        room = self._usable - 4
        for _ in range(min(-(-length // room), self._count)):
            page = self._page(number) if 0 < number <= self._count else b""
            if len(page) != self._size:
                raise ValueError("the chain leads out of the file")
            out += page[4 : 4 + room]
            number = int.from_bytes(page[:4], "big")
        return bytes(out[:length])


def _of_log(log: bytes, size: int) -> dict[int, bytes]:
    """The newest page by number that a commit in the log stands behind; none of one that is no log."""
    out: dict[int, bytes] = {}
    waiting: dict[int, bytes] = {}
    salts = log[16:24]
    for at in range(LOG_HEADER, len(log) - FRAME_HEADER - size + 1, FRAME_HEADER + size):
        number, commits = struct.unpack(">II", log[at : at + 8])
        if log[at + 8 : at + 16] != salts or not 0 < number < 2**31:
            break
        waiting[number] = log[at + FRAME_HEADER : at + FRAME_HEADER + size]
        if commits:
            out.update(waiting)
            waiting = {}
    return out


def _varint(data: bytes, at: int) -> tuple[int, int]:
    """A number of one to nine bytes, and where the next begins (§1.6, "varint")."""
    value = 0
    for i in range(8):
        byte = data[at + i]
        value = value << 7 | byte & 0x7F
        if byte < 0x80:
            return value, at + i + 1
    return value << 8 | data[at + 8], at + 9


_INTEGERS = {1: 1, 2: 2, 3: 3, 4: 4, 5: 6, 6: 8}


def _values(payload: bytes) -> Iterator[Value]:
    """The columns of a record (§2.1). Raises `ValueError` where it is not as long as it says."""
    end, at = _varint(payload, 0)
    types = []
    while at < end:
        kind, at = _varint(payload, at)
        types.append(kind)
    sizes = [_size(kind) for kind in types]
    if at != end or end + sum(sizes) != len(payload):
        raise ValueError("another length than it says")
    starts = itertools.accumulate(sizes, initial=end)
    for kind, size, start in zip(types, sizes, starts, strict=False):
        yield _value(kind, payload[start : start + size])


def _size(kind: int) -> int:
    if kind >= 12:
        return (kind - 12) // 2
    if kind in (10, 11):
        raise ValueError("a type that there is not")
    return 8 if kind == 7 else _INTEGERS.get(kind, 0)


def _value(kind: int, data: bytes) -> Value:
    if kind == 0:
        return None
    if kind in (8, 9):
        return kind - 8
    if kind == 7:
        return float(struct.unpack(">d", data)[0])
    if kind < 7:
        return int.from_bytes(data, "big", signed=True)
    return data.decode("utf-8", "replace") if kind % 2 else data
