"""Typed text into SI values.

Every reader takes what a person typed and returns a value in SI units (or the field's unit that its name
states); anything else raises `UnitError`, whose message says what was expected, with an example. Decimal
comma, the true minus sign, missing blanks and either case of a unit are all taken.
"""

from __future__ import annotations

import math
import re

from tallmast.frozen import Frozen
from tallmast.physics.constants import DIPOLE_GAIN_DBI
from tallmast.physics.decibels import dbm_from_watt, power_ratio, s9_dbm, s_unit_dbm, watt_from_dbm
from tallmast.physics.reflection import SWR_CEILING

from .scales import FIELDS, LEVELS, NOISES, RESISTANCES_OHM, inward, scale

NUMBER = r"[-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d+)?"


class UnitError(ValueError):
    """A typed quantity that can't be read; the message says what was expected."""

    def __init__(self, expected: str, got: str) -> None:
        self.expected, self.got = expected, got.strip()
        super().__init__(f"Expected {expected}." if not self.got else f"Expected {expected}; read “{self.got}”.")


def clean(text: str) -> str:
    """One kind of minus, blank, micro and quote."""
    for odd, plain in (("−", "-"), ("–", "-"), ("\u00a0", " "), ("\u202f", " "), ("μ", "µ"), ("′", "'"), ("″", '"')):
        text = text.replace(odd, plain)
    return text.strip()


def number(text: str, expected: str = "a number such as 2.5") -> float:
    """A plain number; refuses NaN and infinities. Raises `UnitError`."""
    body = clean(text).replace(" ", "")
    if not re.fullmatch(NUMBER, body):
        raise UnitError(expected, text)
    value = float(body.replace(",", "."))
    if not math.isfinite(value):
        raise UnitError(expected, text)
    return value


def _split(text: str, expected: str) -> tuple[float, str]:
    match = re.fullmatch(rf"({NUMBER})\s*(.*)", clean(text))
    if not match:
        raise UnitError(expected, text)
    return number(match[1], expected), match[2].strip()


def _scaled(text: str, expected: str, units: dict[str, float], bare: str) -> float:
    """Number and unit by a table; the table's keys as written, then in lower case; `bare` if no unit is given."""
    value, unit = _split(text, expected)
    unit = unit or bare
    # One letter alone keeps its case: M is mega, m is not.
    folded = {key.lower(): factor for key, factor in units.items() if len(key) > 1}
    factor = units.get(unit, folded.get(unit.lower()))
    if factor is None:
        raise UnitError(expected, text)
    return value * factor


FREQUENCY_UNITS = {"Hz": 1.0, "kHz": 1e3, "k": 1e3, "MHz": 1e6, "M": 1e6, "GHz": 1e9, "G": 1e9}


def frequency(text: str) -> float:
    """Hz; a bare number is MHz. `868.3 MHz`, `2.4GHz`, `868300 kHz`. Raises `UnitError`."""
    expected = "a frequency above zero, such as 868.3 MHz"
    value = _scaled(text, expected, FREQUENCY_UNITS, "MHz")
    if value <= 0:
        raise UnitError(expected, text)
    return value


def spacing(text: str) -> float:
    """Hz between two channels, zero where they are the same; a bare number is MHz. `40 MHz`, `25 kHz`, `0`. Raises `UnitError`."""
    expected = "how far apart, such as 40 MHz, or 0 for the same channel"
    value = _scaled(text, expected, FREQUENCY_UNITS, "MHz")
    if value < 0:
        raise UnitError(expected, text)
    return value


def band(text: str) -> tuple[float, float]:
    """(low, high) Hz from `868-870 MHz`, `868.0 to 870.0`, `867 MHz … 0.87 GHz`, `869 ± 1 MHz`; one frequency is a band of no width.
    Raises `UnitError`."""
    expected = "a band such as 868–870 MHz"
    about = re.fullmatch(rf"({NUMBER})\s*([A-Za-z]*)\s*(?:±|\+/-)\s*({NUMBER})\s*([A-Za-z]*)", clean(text))
    if about:
        aside = about[4] or about[2]
        middle, half = frequency(about[1] + (about[2] or aside)), frequency(about[3] + aside)
        if half >= middle:
            raise UnitError(expected, text)
        return middle - half, middle + half
    parts = re.split(r"\s*(?:-|to|…|\.\.\.?)\s*", clean(text))
    if len(parts) == 1:
        one = frequency(parts[0])
        return one, one
    if len(parts) != 2 or not all(parts):
        raise UnitError(expected, text)
    unit = re.search(r"[A-Za-z]+\s*$", parts[1])
    if unit and re.fullmatch(NUMBER, parts[0]):
        parts[0] += unit[0]
    try:
        low, high = frequency(parts[0]), frequency(parts[1])
    except UnitError:
        raise UnitError(expected, text) from None
    if low > high:
        low, high = high, low
    return low, high


def _across(text: str) -> tuple[str, float]:
    """A level without the resistance that may be written behind it, and that resistance; 50 Ω where none is."""
    match = re.fullmatch(r"(.*?)\s*(?:in|at|across|@|,)?\s*(50|75)\s*(?:Ω|\u2126|ohms?)", text, re.IGNORECASE)
    return (match[1], float(match[2])) if match else (text, RESISTANCES_OHM[0])


def _level_dbm(text: str, expected: str, bare: str) -> float:
    body, ohm = _across(clean(text))
    value, unit = _split(body, expected)
    dbm = inward(LEVELS, value, unit or bare, ohm)
    if dbm is None:
        raise UnitError(expected, text)
    return dbm


def power(text: str) -> float:
    """W; `25mW`, `0.5 W`, `14 dBm`, `112 dBµV`, `1.1 V in 75 Ω`; less what is put behind it, `250 mW - 24 dB`; a bare number
    is W. Raises `UnitError`."""
    expected = "a power above zero, such as 25 mW, 14 dBm or 250 mW − 24 dB"
    behind = re.fullmatch(r"(.+?)\s*(-|\+|less|minus|plus)\s*(\d+(?:[.,]\d+)?)\s*dB", clean(text), re.IGNORECASE)
    if behind:
        by_db = number(behind[3]) if behind[2].lower() in ("+", "plus") else -number(behind[3])
        dbm = float(dbm_from_watt(power(behind[1]))) + by_db
        if not -250 <= dbm < 100:
            raise UnitError(expected, text)
        return float(watt_from_dbm(dbm))
    dbm = _level_dbm(text, expected, "W")
    if not -250 <= dbm < 100:
        raise UnitError(expected, text)
    value, unit = _split(_across(clean(text))[0], expected)
    found = scale(LEVELS, unit or "W")
    return value * found.watt if found is not None and found.watt is not None else watt_from_dbm(dbm)


def radiated(text: str) -> float:
    """EIRP in W; `0.5 W ERP` and `14 dBm ERP` count from a dipole (2.15 dB more); bare or `EIRP` is EIRP."""
    body = clean(text)
    match = re.fullmatch(r"(.*?)\s*(e\.?i?\.?r\.?p\.?)", body, re.IGNORECASE)
    over_dipole = match is not None and "i" not in match[2].lower()
    watt = power(match[1] if match else body)
    return watt * float(power_ratio(DIPOLE_GAIN_DBI)) if over_dipole else watt


def level(text: str, frequency_hz: float = 0.0) -> float:
    """Received level in dBm: `-97dBm`, `-97`, `S7`, `S9+10`, `2.5 µV`, `12 dBµV in 75 Ω`, `3 pW`; 50 Ω if not told.

    S units need the frequency to know which S9 is meant (IARU Region 1 R.1): −73 dBm below 30 MHz, −93 dBm from 144 MHz on.
    Between, and where the frequency is not known, it is asked: `S7 where S9 is -73`. Raises `UnitError`.
    """
    expected = "a level such as −97 dBm, S7 or 2.5 µV"
    body = clean(text)
    s_units = re.fullmatch(
        r"[sS]\s*(\d(?:[.,]\d+)?)(?:\s*\+\s*(\d+(?:[.,]\d+)?)\s*(?:dB)?)?"
        r"(?:\s*,?\s*(?:where\s+|with\s+)?S9\s*(?:is|=|at)?\s*(-\d+(?:[.,]\d+)?)\s*(?:dBm)?)?",
        body,
        re.IGNORECASE,
    )
    if s_units:
        s9 = number(s_units[3]) if s_units[3] else s9_dbm(frequency_hz) if frequency_hz else None
        if s9 is None:
            raise UnitError("which S9 your set has, such as S7 where S9 is −73 dBm, or −93", text)
        return s_unit_dbm(number(s_units[1]), number(s_units[2] or "0"), s9)
    dbm = _level_dbm(body, expected, "dBm")
    if not -250 <= dbm <= 90:
        raise UnitError("a level between −250 and 90 dBm", text)
    return dbm


def field_strength(text: str) -> float:
    """V/m of a field or of a plane wave's density: `3.2 mV/m`, `62 dBµV/m`, `1.5 mW/m²`, `4 µW/cm2`. The unit is
    asked: four times the density is 6 dB, four times the field is 12 dB. Raises `UnitError`."""
    expected = "a field with its unit, such as 3.2 mV/m, 62 dBµV/m or 1.5 mW/m²"
    value, unit = _split(text, expected)
    field = inward(FIELDS, value, unit.replace(" ", ""))
    if field is None or not 1e-12 < field < 1e6:
        raise UnitError(expected, text)
    return field


def noise_figure(text: str) -> float:
    """Noise figure in dB: `1.2 dB`, `1.2`, or a noise temperature, `90 K`. Raises `UnitError`."""
    expected = "a noise figure or temperature, such as 1.2 dB or 90 K"
    value, unit = _split(text, expected)
    figure = inward(NOISES, value, unit or "dB")
    if figure is None or not 0 <= figure <= 200:
        raise UnitError(expected, text)
    return figure


def gain_dbi(text: str) -> float:
    """dBi: `8 dBi`, `6 dBd` (2.15 dB more); a bare number or `dB` is taken as dBi, the smaller."""
    made = gain(text)
    return made.value + (DIPOLE_GAIN_DBI if made.reference == "dBd" else 0.0)


LENGTH_UNITS = {
    "mm": 1e-3,
    "cm": 1e-2,
    "m": 1.0,
    "km": 1e3,
    "in": 0.0254,
    '"': 0.0254,
    "ft": 0.3048,
    "'": 0.3048,
    "yd": 0.9144,
    "mi": 1609.344,
    "mile": 1609.344,
    "miles": 1609.344,
    "yard": 0.9144,
    "yards": 0.9144,
    "metre": 1.0,
    "metres": 1.0,
    "meter": 1.0,
    "meters": 1.0,
    "kilometres": 1e3,
    "kilometers": 1e3,
    "feet": 0.3048,
    "foot": 0.3048,
    "inch": 0.0254,
    "inches": 0.0254,
    "nmi": 1852.0,
    "nm": 1852.0,
}


def length(text: str, bare: str = "m") -> float:
    """m; `82 mm`, `5.1km`, `3 ft`, `3 ft 6 in`, `5' 2"`; a bare number is in `bare`. Raises `UnitError`."""
    expected = "a length such as 82 mm, 1.2 m or 3 ft"
    pair = re.fullmatch(rf"({NUMBER})\s*(?:ft|')\s*({NUMBER})\s*(?:in|\")", clean(text))
    feet_and_inches = number(pair[1]) * 0.3048 + number(pair[2]) * 0.0254 if pair else None
    value = feet_and_inches if feet_and_inches is not None else _scaled(text, expected, LENGTH_UNITS, bare)
    if value < 0:
        raise UnitError(expected, text)
    return value


DELAY_UNITS = {"s": 1.0, "ms": 1e-3, "µs": 1e-6, "us": 1e-6, "ns": 1e-9, "ps": 1e-12}


def delay(text: str) -> float:
    """s; a bare number is ns. `6.1 ns`, `350ps`. Raises `UnitError`."""
    expected = "a delay such as 6.1 ns"
    value = _scaled(text, expected, DELAY_UNITS, "ns")
    if value < 0:
        raise UnitError(expected, text)
    return value


def mass(text: str) -> float:
    """kg; `410 g`, `1.2kg`, `14 oz`; a bare number is grams. Raises `UnitError`."""
    expected = "a mass such as 410 g"
    units = {"g": 1e-3, "kg": 1.0, "oz": 0.028349523125, "lb": 0.45359237}
    value = _scaled(text, expected, units, "g")
    if value < 0:
        raise UnitError(expected, text)
    return value


def swr(text: str) -> float:
    """`1.4`, `1:1.4`, `1.4 to 1`, `1,4`, or a return loss with its decibels, `14 dB`, which instruments show below zero too. Raises
    `UnitError`."""
    expected = f"an SWR from 1 to {SWR_CEILING:.0f}, such as 1.4 or 1:1.4, or a return loss such as 14 dB"
    body = clean(text).replace(" ", "").lower()
    loss_db = re.fullmatch(rf"(?:rl|s11)?[:=]?({NUMBER})db(?:rl)?", body)
    if loss_db:
        reflected = 10.0 ** (-abs(number(loss_db[1], expected)) / 20.0)
        value = (1.0 + reflected) / (1.0 - reflected) if reflected < 1.0 else math.inf
        if value <= SWR_CEILING:
            return value
    for pattern in (rf"1(?::|to)({NUMBER})", rf"({NUMBER})(?::|to)1", rf"({NUMBER})"):
        match = re.fullmatch(pattern, body)
        if match:
            value = number(match[1], expected)
            if 1.0 <= value <= SWR_CEILING:
                return value
    raise UnitError(expected, text)


class Gain(Frozen, eq=True):
    """A gain as written: dB over `reference`, which is 'dBi', 'dBd', or 'dB' when none was named."""

    value: float
    reference: str


def gain(text: str) -> Gain:
    """`8 dBi`, `6dBd`, `11 dB`, `4x` (times the power); a bare number has no reference either. Raises `UnitError`."""
    expected = "a gain such as 8 dBi or 6 dBd"
    value, unit = _split(text, expected)
    if unit.lower() in ("x", "×", "times", "fold", "-fold") and 0 < value <= 1e6:
        return Gain(10.0 * math.log10(value), "dB")
    known = {"": "dB", "db": "dB", "dbi": "dBi", "dbic": "dBi", "dbd": "dBd"}
    if unit.lower() not in known or not -60 <= value <= 80:
        raise UnitError(expected, text)
    return Gain(value, known[unit.lower()])


def decibel(text: str) -> float:
    """A plain number of dB, `16 dB` or `16`. Raises `UnitError`."""
    expected = "decibels, such as 16 dB"
    value, unit = _split(text, expected)
    if unit.lower() not in ("", "db") or abs(value) > 250:
        raise UnitError(expected, text)
    return value


def loss(text: str) -> float:
    """dB, not negative: `0.42 dB`. Raises `UnitError`."""
    value = decibel(text)
    if value < 0:
        raise UnitError("a loss of 0 dB or more, such as 0.42 dB", text)
    return value


def axial_ratio(text: str) -> float:
    """dB ≥ 0 from dB (`2 dB`), a number above one (`1.26`) or below one (`0.79`). Raises `UnitError`."""
    expected = "an axial ratio such as 2 dB, 1.26 or 0.79"
    value, unit = _split(text, expected)
    if unit.lower() == "db" and 0 <= value <= 60:
        return value
    if unit == "" and 1e-3 <= value <= 1e3:
        return abs(20 * math.log10(value))
    raise UnitError(expected, text)


def angle(text: str, expected: str = "an angle such as 110°") -> float:
    """Degrees, −360…360. Raises `UnitError`."""
    value, unit = _split(text, expected)
    if unit.lower() not in ("", "°", "deg", "degrees") or abs(value) > 360:
        raise UnitError(expected, text)
    return value


def beamwidth(text: str) -> float:
    """Degrees above 0, at most 360. Raises `UnitError`."""
    expected = "a beamwidth such as 60°"
    value = angle(text, expected)
    if value <= 0:
        raise UnitError(expected, text)
    return value


def fraction(text: str) -> float:
    """0…1 from `10 %`, `0.1`, `1/10` or `1 of 10`. Raises `UnitError`."""
    expected = "a share such as 10 % or 0.1"
    body = clean(text).replace(" ", "").lower()
    ratio = re.fullmatch(r"(\d{1,9})(?:/|of|outof)(\d{1,9})", body)
    if ratio and int(ratio[2]):
        value = int(ratio[1]) / int(ratio[2])
    elif body.endswith("%"):
        value = number(body[:-1], expected) / 100
    else:
        value = number(body, expected)
    if not 0 < value <= 1:
        raise UnitError(expected, text)
    return value


def count(text: str) -> int:
    """A whole number from 0 to a million. Raises `UnitError`."""
    value = number(text, "a whole number such as 7")
    if value != int(value) or not 0 <= value <= 1_000_000:
        raise UnitError("a whole number such as 7", text)
    return int(value)


def plain(text: str) -> str:
    """Any text on one line, trimmed; something must be there. What no letter is, is a blank. Raises `UnitError`."""
    body = clean(re.sub(r"[\x00-\x1f\x7f]+", " ", text))
    if not body:
        raise UnitError("something written here", text)
    return body
