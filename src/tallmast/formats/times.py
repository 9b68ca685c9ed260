"""The times of a table's rows, as files write them: seconds, thousandths of them, a time of day, a date and time."""

from __future__ import annotations

import re
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from .errors import FormatError

Floats = NDArray[np.float64]
Cells = NDArray[np.bytes_]

LONGEST_CELL = 40
"""Bytes of a cell that can be a time."""
CLOCK = re.compile(
    r"(?:(?:(?P<y>\d{4})[-/.](?P<m>\d\d?)[-/.](?P<d>\d\d?)|(?P<a>\d\d?)[-/.](?P<b>\d\d?)[-/.](?P<z>\d{4}))(?:T|,? +))?"
    r"(?P<hour>[01]?\d|2[0-3]):(?P<minute>[0-5]\d)(?::(?P<second>(?:[0-5]\d|60)(?:[.,]\d+)?))?"
    r"(?: ?(?P<half>[ap])\.?m\.?)?(?: ?(?:Z|UTC|(?P<zone>[+-]\d\d:?\d\d)))?",
    re.IGNORECASE,
)
"""A time of day, with its date where it has one: ISO 8601, and what loggers make of it."""
MILLI = re.compile(r"(?<![a-z])ms(?![a-z])|milli", re.IGNORECASE)
ZONED = re.compile(rb"(?:Z|UTC|[+-]\d\d:?\d\d)\s*$", re.IGNORECASE)
DAY_S, HOUR_S = 86_400.0, 3600.0
LONGEST_PAUSE_S, SMALL_HOURS_S = 900.0, 4 * 3600.0
"""Between two rows at the end of summer time; and until when in the night that is."""
DIGIT = ord("0")
BLOCK = 8192
"""Rows that the processor keeps at hand."""


def is_clock(cell: str) -> bool:
    """Whether a cell is a time of day, or a date with one."""
    return CLOCK.fullmatch(cell.strip()) is not None


def of_numbers(values: Floats, column: str) -> tuple[Floats, str]:
    """(seconds [row], what was taken for granted) of a column of numbers: in thousandths where its header says so, or where as
    seconds they would count from 1970 to beyond the year 5000."""
    if MILLI.search(column):
        return values / 1e3, ""
    known = values[np.isfinite(values)]
    if len(known) and np.median(known) > 1e11:
        return values / 1e3, "the time was taken as milliseconds"
    return values, ""


def of_clocks(cells: Cells, column: str, name: str, line: Callable[[int], int]) -> tuple[Floats, str]:
    """(seconds [row], what was taken for granted) of times as they are written, since 1970 where they have a date, else since a
    midnight: past the next one they go on. NaN where a cell is empty.

    Where days and months could be either, days come first unless one of them is none. Raises `FormatError` with the `line` of the
    first row that holds no time.
    """
    alike = _alike(cells)
    seconds, dated, granted = (*alike, "") if alike is not None else _one_by_one(cells, column, name, line)
    if not dated:
        known = np.flatnonzero(np.isfinite(seconds))
        seconds[known] += DAY_S * np.append(0.0, np.cumsum(np.diff(seconds[known]) < -0.5 * DAY_S))[: len(known)]
    first = next((cell for cell in cells.tolist() if cell.strip()), b"")
    back = _put_back(seconds) if ZONED.search(first) is None else None
    if back is not None:
        seconds[back:] += HOUR_S
        granted = "; ".join(
            filter(None, (granted, "the clock was put back an hour in it, as at the end of summer time"))
        )
    return seconds, granted


def _put_back(seconds: Floats) -> int | None:
    """The row from which on a clock without a zone is an hour back: the only one at which time goes back, by that much less a pause, in
    the small hours."""
    known = np.flatnonzero(np.isfinite(seconds))
    steps = np.diff(seconds[known])
    at = np.flatnonzero(steps < 0)
    if len(at) != 1 or not -HOUR_S <= steps[at[0]] < LONGEST_PAUSE_S - HOUR_S:
        return None
    row = int(known[at[0] + 1])
    return row if seconds[row] % DAY_S < SMALL_HOURS_S else None


def _alike(cells: Cells) -> tuple[Floats, bool] | None:
    """Times that are all written like the first, digit under digit: many at once. None where they are not, or one is none."""
    first = cells[0].decode("ascii", "replace") if len(cells) else ""
    match = CLOCK.fullmatch(first)
    if match is None or match["a"] or match["half"]:
        return None
    wide = len(first)
    letters = np.ascontiguousarray(cells).view(np.uint8).reshape(len(cells), cells.dtype.itemsize)
    if wide < letters.shape[1] and letters[:, wide].any():  # one is longer
        return None
    letters, written = letters[:, :wide], np.frombuffer(first.encode(), dtype=np.uint8)
    parts = [part for part in ("hour", "minute", "second", "y", "m", "d") if match[part]]
    worth = np.zeros((wide, len(parts)))
    for column, part in enumerate(parts):
        places = [i for i in range(*match.span(part)) if first[i].isdigit()]
        whole = len(match[part].replace(",", ".").partition(".")[0])
        worth[places, column] = 10.0 ** (whole - 1 - np.arange(len(places)))
    counts = worth.any(axis=1)
    least, most = np.where(counts, DIGIT, written).astype(np.uint8), np.where(counts, 9, 0).astype(np.uint8)
    numbers = np.empty((len(parts), len(cells)))
    for start in range(0, len(cells), BLOCK):
        above = letters[start : start + BLOCK] - least  # what is below goes round, to far above
        if (above > most).any():  # no digit, or another letter than the first has there
            return None
        numbers[:, start : start + BLOCK] = (above.astype(float) @ worth).T
    number = dict(zip(parts, numbers, strict=True))
    second = number.get("second", np.zeros(1))
    if number["hour"].max() > 23.0 or number["minute"].max() > 59.0 or second.max() >= 61.0:
        return None
    seconds = 3600.0 * number["hour"] + 60.0 * number["minute"] + second
    if match["y"]:
        day = _days(number["y"], number["m"], number["d"])
        if day is None:
            return None
        seconds = seconds + DAY_S * day
    return seconds - _zone_s(match["zone"]), match["y"] is not None


def _one_by_one(cells: Cells, column: str, name: str, line: Callable[[int], int]) -> tuple[Floats, bool, str]:
    texts = [cell.decode("utf-8", "replace").strip() for cell in cells]
    matches = [CLOCK.fullmatch(text) for text in texts]

    def none(row: int) -> FormatError:
        what = f"“{texts[row][:30]}” in column “{column}” is no time of day"
        return FormatError(name, what, line(row), "Is it the time column")

    month_first = any(m is not None and m["b"] and int(m["b"]) > 12 for m in matches)
    seconds, dated = np.full(len(cells), np.nan), False
    for row, match in enumerate(matches):
        if match is None:
            if texts[row]:
                raise none(row)
            continue
        hour = int(match["hour"])
        if match["half"]:
            hour = hour % 12 + (12 if match["half"].lower() == "p" else 0)
        of_day = 3600.0 * hour + 60.0 * int(match["minute"]) + float((match["second"] or "0").replace(",", "."))
        days = np.zeros(1)
        if match["y"] or match["z"]:
            dated = True
            month, date = (match["m"], match["d"]) if match["y"] else (match["b"], match["a"])
            if match["z"] and month_first:
                month, date = date, month
            found = _days(*(np.array([float(v)]) for v in (match["y"] or match["z"], month, date)))
            if found is None:
                raise none(row)
            days = found
        seconds[row] = DAY_S * days[0] + of_day - _zone_s(match["zone"])
    either = {(m["a"], m["b"]) for m in matches if m is not None and m["a"]}
    # Of one day alone it does not matter.
    open_ = len(either) > 1 and not month_first and all(int(a) <= 12 for a, _ in either)
    return seconds, dated, "days were taken to stand before months" if open_ else ""


def _zone_s(zone: str | None) -> float:
    if not zone:
        return 0.0
    return (-1.0 if zone[0] == "-" else 1.0) * (3600.0 * int(zone[1:3]) + 60.0 * int(zone[-2:]))


def _days(year: Floats, month: Floats, day: Floats) -> Floats | None:
    """Days since 1970 by the Gregorian calendar [row]; None where it does not have one of them."""
    if (month < 1).any() or (month > 12).any():
        return None
    months, which = np.unique(12.0 * (year - 1970.0) + month - 1.0, return_inverse=True)
    starts = months.astype(np.int64).astype("datetime64[M]")
    first, beyond = (m.astype("datetime64[D]").astype(float) for m in (starts, starts + 1))
    if ((day < 1.0) | (day > (beyond - first)[which])).any():
        return None
    return np.asarray(first[which] + day - 1.0)
