"""What was read by direction, as people write it: by clock hours, compass degrees, names, or simply one after the other."""

from __future__ import annotations

import re
from typing import Annotated

from msgspec import Meta

from tallmast.units import read, show
from tallmast.units.position import bearing
from tallmast.units.quantity import Quantity

from .base import Finite, Part

NAMED: dict[str, float] = {"front": 0.0, "ahead": 0.0, "right": 90.0, "back": 180.0, "behind": 180.0, "left": 270.0}
NOTHING = re.compile(r"nothing|not heard|none|n|–|-", re.IGNORECASE)
HEARD_EXPECTED = (
    "readings by direction, such as “21, 27, 24, 9” evenly round, “12: 27; 3: 16; 6: 9” by the clock, "
    "“0° -67; 45° -72 -73; 90° nothing” or “N 27; E 16”"
)
MOST_EVEN = 720


class Heard(Part, frozen=True, kw_only=True):
    """What was read in one direction: one or more readings, and how often nothing was."""

    at_deg: Finite
    values: list[Finite]
    nothing: Annotated[int, Meta(ge=0)] = 0


UNIT = re.compile(r"(?<=\d)\s*(?:dBm|dB|Mbit/s|Mbps|%|ms|bars?)(?=[\s,;/]|$)", re.IGNORECASE)
"""What people write behind each number; what they are is the turn's."""


def _values(text: str) -> tuple[list[float], int]:
    """Numbers and how many nothings, separated by spaces, commas or slashes."""
    values, nothing = [], 0
    for word in filter(None, re.split(r"[\s,/]+", text.replace("not heard", "nothing"))):
        if NOTHING.fullmatch(word):
            nothing += 1
        else:
            values.append(read.number(word))
    return values, nothing


def _direction(label: str, clock: bool) -> float:
    """Degrees that a label says."""
    words = label.strip(" :").lower()
    if words in NAMED:
        return NAMED[words]
    hours = re.fullmatch(r"(\d{1,2})(?:\s*h| ?o[’']?clock)?", words)
    if hours and (clock or not words.isdigit()):
        if not 0 <= int(hours[1]) <= 12:
            raise read.UnitError(HEARD_EXPECTED, label)
        return int(hours[1]) * 30.0 % 360.0
    if words.rstrip("°").replace("−", "-").lstrip("-").replace(".", "", 1).isdigit():
        return read.number(words.rstrip("°"))
    return bearing(label)


def _labelled(text: str) -> list[tuple[str, str]]:
    """(label, readings) of each direction; none where there are no labels."""
    if ":" in text:
        pieces = [piece.partition(":") for piece in re.split(r"[;\n,]\s*(?=[^;,:\n]*:)", text)]
        return [(label.strip(), rest) for label, _, rest in pieces]
    label = rf"{read.NUMBER}\s*°|\d{{1,2}}\s*(?:h\b|o[’']?clock\b)|[A-Za-z]+"
    pieces2 = [re.fullmatch(rf"\s*({label})\s*(.*)", piece) for piece in re.split(r"[;\n]|,(?=\s*[A-Za-z])", text)]
    if not all(pieces2) or any(NOTHING.fullmatch(p[1]) for p in pieces2 if p and not p[2].strip()):
        return []
    return [(p[1], p[2]) for p in pieces2 if p]


def heard(text: str) -> list[Heard]:
    """Readings by direction, as `HEARD_EXPECTED` says; without directions evenly over one turn from 0° on, clockwise.

    Bare numbers before a colon are hours of a clock where all of them are 1 to 12, else degrees. Several readings of one
    direction are kept together, in the order in which the directions were first named. Raises `UnitError`.
    """
    text = UNIT.sub("", read.clean(text)).strip("; ")
    if not text:
        raise read.UnitError(HEARD_EXPECTED, text)
    pieces = _labelled(text)
    out: dict[float, tuple[list[float], int]] = {}
    if pieces:
        bare = [int(label) for label, _ in pieces if label.isdigit()]
        clock = bool(bare) and all(1 <= hour <= 12 for hour in bare)
        for label, rest in pieces:
            at = _direction(label, clock)
            values, nothing = _values(rest)
            if not values and not nothing:
                raise read.UnitError(HEARD_EXPECTED, text)
            before = out.get(at, ([], 0))
            out[at] = (before[0] + values, before[1] + nothing)
    else:
        words = list(filter(None, re.split(r"[\s,;]+", text.replace("not heard", "nothing"))))
        if not 2 <= len(words) <= MOST_EVEN:
            raise read.UnitError(HEARD_EXPECTED, text)
        for k, word in enumerate(words):
            out[k * 360.0 / len(words)] = _values(word)
    if len(out) < 2:
        raise read.UnitError(HEARD_EXPECTED, text)
    return [Heard(at_deg=at, values=values, nothing=nothing) for at, (values, nothing) in out.items()]


def heard_text(made: list[Heard]) -> str:
    return "; ".join(
        f"{h.at_deg:.10g}° {' '.join([f'{v:.10g}' for v in h.values] + ['nothing'] * h.nothing)}" for h in made
    )


def _echo(made: list[Heard]) -> str:
    count = sum(len(h.values) + h.nothing for h in made)
    more = f", {show.count(count, 'reading')}" if count > len(made) else ""
    return f"{show.count(len(made), 'direction')} ({', '.join(f'{h.at_deg:.0f}°' for h in made[:4])}{' …' if len(made) > 4 else ''}){more}"


HEARD = Quantity(heard, _echo, heard_text)


class Sector(Part, frozen=True, kw_only=True):
    """Directions from one bearing clockwise to another, and what stands there."""

    from_deg: Annotated[float, Meta(ge=0, lt=360)]
    to_deg: Annotated[float, Meta(ge=0, le=360)]
    name: str = ""

    def holds(self, bearing_deg: float) -> bool:
        return (bearing_deg - self.from_deg) % 360.0 <= (self.to_deg - self.from_deg) % 360.0


SECTORS_EXPECTED = "directions and what is there, such as “100-130 house; 200-210 tree; 180 head”"


def sectors(text: str) -> list[Sector]:
    """`100-130 house; 180 head`: degrees from and to, clockwise; a single one stands for 15° to each side. Raises `UnitError`."""
    out = []
    for part in filter(None, re.split(r"\s*[;\n]\s*", read.clean(text))):
        match = re.fullmatch(r"(\d+(?:\.\d+)?)\s*°?(?:\s*(?:-|–|−|to)\s*(\d+(?:\.\d+)?)\s*°?)?\s*(.*)", part)
        if not match:
            raise read.UnitError(SECTORS_EXPECTED, text)
        low, high = float(match[1]), float(match[2]) if match[2] else None
        if low > 360 or (high is not None and high > 360):
            raise read.UnitError(SECTORS_EXPECTED, text)
        if high is None:
            low, high = (low - 15.0) % 360.0, (low + 15.0) % 360.0
        out.append(Sector(from_deg=low % 360.0, to_deg=high, name=match[3].strip()))
    return out


def sectors_text(made: list[Sector]) -> str:
    return "; ".join(f"{s.from_deg:g}-{s.to_deg:g} {s.name}".strip() for s in made)


SECTORS = Quantity(sectors, lambda made: show.count(len(made), "stretch", "stretches"), sectors_text)
