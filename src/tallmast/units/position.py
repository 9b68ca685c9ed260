"""Positions and bearings as people and receivers write them, into degrees."""

from __future__ import annotations

import math
import re
from typing import Literal

from .read import NUMBER, UnitError, angle, clean, number

POSITION_EXPECTED = "a position such as 57.9050, -11.2022 or 57°54.3'N 11 12 08 W"


def position(text: str) -> tuple[float, float]:
    """(latitude, longitude) in degrees from decimal degrees, degrees and minutes, or degrees, minutes, seconds.

    Hemisphere letters before or after either part, or signs; latitude first unless the letters say otherwise. Raises `UnitError`.
    """
    body = clean(text).upper().replace("’", "'").replace("”", '"')
    halves: list[tuple[float, str]] | None = None
    if any(c in body for c in "NSEW"):
        both = re.fullmatch(r"([^NSEW]+[NSEW])[\s,;]*([^NSEW]+[NSEW])", body) or re.fullmatch(
            r"([NSEW][^NSEW]+?)[\s,;]*([NSEW][^NSEW]+)", body
        )
        if both:
            halves = [by_hemisphere(both[1]), by_hemisphere(both[2])]
    else:
        # Two signed decimals; a comma between them needs a point inside them, or a semicolon/blank between.
        pair = re.fullmatch(r"([-+]?[\d.]+)°?\s*[,;\s]\s*([-+]?[\d.]+)°?", body) or re.fullmatch(
            r"([-+]?[\d,]+)°?\s*[;\s]\s*([-+]?[\d,]+)°?", body
        )
        if pair:
            halves = [(number(pair[1]), "lat"), (number(pair[2]), "lon")]
    values = {axis: value for value, axis in halves or ()}
    if set(values) != {"lat", "lon"} or abs(values["lat"]) > 90 or abs(values["lon"]) > 180:
        raise UnitError(POSITION_EXPECTED, text)
    return values["lat"], values["lon"]


def by_hemisphere(text: str) -> tuple[float, Literal["lat", "lon"]]:
    """(degrees, which) of `57.9 N`, `N57.9`, `57° 54' 0" N`, and of `5754.00N` as receivers write it, negative south and west. Raises
    `UnitError`."""
    body = text.strip().upper()
    letter, part = (body[:1], body[1:]) if body[:1] in "NSEW" else (body[-1:], body[:-1])
    numbers = re.findall(NUMBER, part.strip(" ,;"))
    rest = re.sub(NUMBER, "", part).strip(" ,;°'\"′″")
    if letter not in ("N", "S", "E", "W") or not 1 <= len(numbers) <= 3 or rest:
        raise UnitError(POSITION_EXPECTED, text)
    run_on = re.fullmatch(r"(\d{2})(\d\d\.\d+)" if letter in "NS" else r"(\d{3})(\d\d\.\d+)", numbers[0])
    values = [number(n) for n in (run_on.groups() if run_on and len(numbers) == 1 else numbers)]
    if any(not 0 <= v < 60 for v in values[1:]) or any(v != int(v) for v in values[:-1]):
        raise UnitError(POSITION_EXPECTED, text)
    size = abs(values[0]) + sum(v / 60**k for k, v in enumerate(values[1:], start=1))
    signed = math.copysign(size, values[0]) * (-1 if letter in "SW" else 1)
    return signed, "lat" if letter in "NS" else "lon"


COMPASS = ["N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW"]


def bearing(text: str) -> float:
    """Degrees from north, 0…360: `40°`, `40`, `NE`, `north-east`. Raises `UnitError`."""
    expected = "a bearing such as 40° or NE"
    letters = clean(text).upper()
    for word in ("NORTH", "EAST", "SOUTH", "WEST"):
        letters = letters.replace(word, word[0])
    letters = re.sub(r"(?<=[NESW])[\s-]+(?=[NESW])", "", letters)
    if letters in COMPASS:
        return COMPASS.index(letters) * 22.5
    value = angle(text, expected)
    return value % 360.0
