"""A pattern cut from delimited text: an angle column and a level column, in dB or as relative field."""

from __future__ import annotations

import re
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from . import table
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start

ANGLE = re.compile(r"angle|angl|azim|elev|theta|phi|°|winkel", re.IGNORECASE)
"""What a header says where it speaks of an angle."""
Scale = Literal["dB", "relative field", "power"]
SCALES: dict[str, str] = {
    "dB": "decibels",
    "relative field": "field or voltage: E/Emax, µV, V/m",
    "power": "power: mW, or relative",
}
LEAST_SHARE = 1e-4
"""Of the strongest: less is not told from nothing."""
FIELD = re.compile(r"field|e/e|relative|linear|(?<![a-z])[mµμu]?v(?:olts?)?(?![a-z])", re.IGNORECASE)
POWER = re.compile(r"(?<![a-z])[mµμun]?w(?:atts?)?(?![a-z])", re.IGNORECASE)


class CutFile(Frozen, eq=True):
    """Angles in degrees as written, levels in dB; how the columns were taken, and what was odd."""

    angle_deg: NDArray[np.float64]
    level_db: NDArray[np.float64]
    scale: Scale
    taken: dict[str, str]
    notes: tuple[str, ...] = ()


def _named(names: list[str], pattern: str) -> str | None:
    return next((name for name in names if re.search(pattern, name, re.IGNORECASE)), None)


def guess(found: table.Table) -> dict[str, str]:
    """The angle is the column so named, else the first; the level the one so named, else the next."""
    names = list(found.columns)
    if len(names) < 2:
        return {}
    angle = _named(names, r"angle|angl|azim|elev|bearing|deg|theta|phi|°|winkel") or names[0]
    rest = [other for other in names if other != angle]
    return {"angle": angle, "level": _named(rest, r"db|level|gain|power|field|e/e|rssi|mag") or rest[0]}


def read(data: bytes, name: str, columns: Columns | None = None) -> CutFile:
    """Read a cut, its columns as guessed or as `columns` says.

    `columns["scale"]` settles dB or relative field; left out, a header that says so or values between 0 and 1 settle it.
    Raises `FormatError`.
    """
    found = table.read(data, name)
    taken = {**guess(found), **(columns or {})}
    if not {"angle", "level"} <= set(taken):
        raise FormatError(
            name, "an angle and a level column are needed; one numeric column was found", found.first_line
        )
    table.there_or_error(name, found, (taken["angle"], taken["level"]))
    if taken["angle"] == taken["level"]:
        raise FormatError(name, "one column can't be angle and level", todo="Choose another")
    angle_name, level_name = taken["angle"], taken["level"]
    scale: Scale | None = taken.get("scale") or None  # type: ignore[assignment]
    angle, value = found.columns[angle_name], found.columns[level_name]
    if not len(angle):
        raise FormatError(name, "no row of numbers stands under its header", found.first_line)
    table.finite_or_error(name, found, angle_name, angle, "angle")
    table.finite_or_error(name, found, level_name, value, "level")
    notes: list[str] = []
    if scale is None:
        says_db = re.search(r"db", level_name, re.IGNORECASE)
        says_field, says_power = FIELD.search(level_name), POWER.search(level_name)
        looks_field = value.min() >= 0 and value.max() <= 1.0001 and value.max() > 0.2
        scale = "dB" if says_db else "relative field" if says_field else "power" if says_power else None
        if scale is None:
            scale = "relative field" if looks_field else "dB"
            notes.append(f"no unit written: the values were taken as {scale}")
    if scale == "dB":
        level = value
    else:
        most = float(value.max())
        if value.min() < 0 or most == 0.0:
            row = int(np.argmin(value))
            what = "relative field" if scale == "relative field" else "power"
            raise FormatError(name, f"a {what} {'below' if most else 'of'} zero", found.line(row), "Are these decibels")
        level = (20.0 if scale == "relative field" else 10.0) * np.log10(np.maximum(value, LEAST_SHARE * most))
    if np.abs(angle).max() <= 2 * np.pi + 0.01 and np.ptp(angle) > 3.0 and np.ptp(angle) < 6.4:
        angle = np.degrees(angle)
        notes.append("the angles were taken as radians")
    span = float(np.ptp(angle))
    if span > 361.0 or np.abs(angle).max() > 720.0:
        row = int(np.argmax(np.abs(angle)))
        raise FormatError(
            name, f"an angle of {angle[row]:g}° in column “{angle_name}”", found.line(row), "Is it the angle column"
        )
    if np.ptp(level) > 150 or np.abs(level).max() > 250:
        raise FormatError(
            name, f"levels from {level.min():g} to {level.max():g} are no decibels", todo="Check the column"
        )
    if len(np.unique(angle % 360.0)) < 8:
        raise FormatError(name, "fewer than eight different angles", todo="A cut needs more to be read")
    if (np.diff(angle) < 0).any() and (np.diff(angle) > 0).any():
        notes.append("angles were out of order, and were sorted")
    return CutFile(angle, level, scale, {"angle": angle_name, "level": level_name}, tuple(notes))


def _recognise(start: Start) -> Seen | None:
    found = start.table
    if found is None or len(found.columns) < 2:
        return None
    if not found.had_header:
        return Seen(0.3, "two columns of numbers or more")
    # A header that speaks of no angle is no cut's: what else it may be is asked.
    named = _named(list(found.columns), r"angle|angl|azim|elev|bearing|deg|theta|phi|°|winkel")
    return Seen(0.3, f"an angle in “{named}”") if named else None


FORMAT = Format(
    "cut",
    "a pattern cut",
    _recognise,
    read,
    (Role("angle", "Angle"), Role("level", "Level"), Role("scale", "It is in", choices=SCALES)),
    guess,
    lambda cut: {**cut.taken, "scale": cut.scale},
)
