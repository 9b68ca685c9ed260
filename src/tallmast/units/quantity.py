"""Quantities as a person writes and reads them: for each how it is read, how it is echoed, how it stands in a field.

A record says with which of these each of its fields is asked for (`notebook.records.asked`).
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from functools import partial
from typing import Any

from tallmast.frozen import Frozen

from . import read, show
from .position import bearing, position


class Quantity(Frozen, eq=True):
    """`read` takes what was typed and raises `UnitError`; `echo` says how it was read; `write` is what stands in the
    field when it is opened again, in few digits, and is read back as the same."""

    read: Callable[[str], Any]
    echo: Callable[[Any], str]
    write: Callable[[Any], str]


def _of(
    reader: Callable[[str], Any], echo: Callable[[Any], str], write: Callable[[Any], str] | None = None
) -> Quantity:
    return Quantity(reader, echo, write or echo)


def _g(unit: str, times: float = 1.0) -> Callable[[Any], str]:
    return lambda value: f"{value * times:g}{unit}"


WORDS = Quantity(str.strip, lambda value: "", str)
"""Any words."""
NAME = Quantity(read.plain, lambda value: "", str)
"""Words that stand for something: never empty, no line breaks."""
NUMBER = _of(read.number, _g(""))
TIMES = _of(read.number, _g(" times"), _g(""))
COUNT = _of(read.count, str)
PERCENT = _of(read.fraction, _g(" %", 100.0))
PERCENT_OF_READING = _of(read.fraction, _g(" % of reading", 100.0), _g(" %", 100.0))
FACTOR = _of(read.fraction, _g(""))
"""A share that people write as a number: a velocity factor."""
FREQUENCY = _of(read.frequency, show.frequency)
SPACING = _of(
    read.spacing,
    lambda value: show.frequency(value) if value else "the same channel",
    lambda value: show.frequency(value) if value else "0",
)
POWER = _of(read.power, show.power)
RADIATED = _of(read.radiated, show.power)
LEVEL = _of(read.level, show.level)
GAIN = _of(read.gain_dbi, lambda value: f"{show.fixed(value, 2)} dBi", _g(" dBi"))
LOSS = _of(read.loss, _g(" dB"))
DECIBEL = _of(read.decibel, _g(" dB"))
U_DB = _of(read.loss, lambda value: f"u = {value:g} dB", _g(" dB"))
"""A standard uncertainty in decibels."""
NOISE_FIGURE = _of(read.noise_figure, lambda value: f"{value:.3g} dB", _g(" dB"))
AXIAL_RATIO = _of(read.axial_ratio, lambda value: f"{value:.1f} dB", _g(" dB"))
SWR_LIMIT = _of(read.swr, _g(" : 1"), _g(""))
SWR_READ = _of(read.swr, lambda value: f"{value:.2f} : 1", lambda value: f"{value:.2f}")
LENGTH = _of(read.length, show.length)
SIZE = _of(partial(read.length, bare="mm"), show.length)
"""A length that is usually given in millimetres."""
DISTANCE = _of(partial(read.length, bare="m"), show.distance)
DELAY = _of(read.delay, show.delay)
MASS = _of(read.mass, show.mass)
BEARING = _of(bearing, show.bearing)
ANGLE = _of(read.angle, _g("°"), _g(""))
FROM_FRONT = _of(read.angle, _g("° from its front"), _g(""))
BAND = _of(read.band, lambda both: show.band(*both))
POSITION = _of(position, lambda both: show.position(*both), lambda both: f"{both[0]:.6f}, {both[1]:.6f}")


def _where_words(where: tuple[float | None, float | None, float | None]) -> str:
    latitude_deg, longitude_deg, distance_m = where
    if latitude_deg is not None and longitude_deg is not None:
        return show.position(latitude_deg, longitude_deg)
    return f"{show.distance(distance_m)} away" if distance_m is not None else ""


def _where_written(where: tuple[float | None, float | None, float | None]) -> str:
    latitude_deg, longitude_deg, distance_m = where
    if latitude_deg is not None:
        return POSITION.write((latitude_deg, longitude_deg))
    return show.length(distance_m) if distance_m is not None else ""


WHERE = Quantity(lambda text: (*position(text), None), _where_words, _where_written)
"""(latitude, longitude, distance from home): the first two, or the third, or none of them."""
HOURS = _of(lambda text: read.number(text) * 3600.0, _g(" h", 1 / 3600.0), _g("", 1 / 3600.0))


def several(one: Quantity, least: float = -math.inf) -> Quantity:
    """Several of a quantity in a row, `25 mW, 100 mW` or `6m,12m`; a comma within a number has figures on both sides."""

    def read_all(text: str) -> list[float]:
        made = [one.read(part) for part in re.split(r";|,\s+|(?<=[^\d\s]),", text.strip().rstrip(",;")) if part.strip()]
        return [float(v) for v in made if v >= least]

    return Quantity(
        read_all,
        lambda many: show.join([one.echo(v) for v in many]),
        lambda many: ", ".join(one.write(v) for v in many),
    )


DISTANCES = several(DISTANCE, 1.0)
"""One after the other: `340 m, 310 m, 360 m`."""
