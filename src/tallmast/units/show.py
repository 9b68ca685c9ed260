"""Values into text, the same everywhere: result first, then the uncertainty.

The minus is a true minus (−); a ± is always the half-width of the 90 % interval, rounded to two digits when
its first is 1 or 2, else to one, and the value is rounded to match.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from tallmast.physics.constants import DIPOLE_GAIN_DBI
from tallmast.physics.decibels import S9_DBM, dbm_from_watt, s9_dbm, s_units_of, watt_from_dbm
from tallmast.physics.field_strength import field_dbuv_per_m

from .scales import FIELDS, LEVELS, NOISES, RESISTANCES_OHM, Scale, outward

MINUS = "−"
SMALL_COUNTS = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"]


def signed(text: str) -> str:
    """Hyphen-minus in front of a figure to a true minus."""
    return text.replace("-", MINUS)


def fixed(value: float, digits: int) -> str:
    """A number with so many decimals, never “−0.0”."""
    text = f"{value:.{max(digits, 0)}f}"
    return signed(text if float(text) != 0 else text.lstrip("-"))


def plus(value: float, digits: int) -> str:
    """Like `fixed`, with its sign always there."""
    text = fixed(value, digits)
    return text if text.startswith(MINUS) or float(text) == 0 else "+" + text


def uncertainty_digits(half_width: float) -> int:
    """Decimals that a half-width deserves."""
    if not half_width > 0 or not math.isfinite(half_width):
        return 1
    exponent = math.floor(math.log10(half_width))
    leading = half_width / 10**exponent
    return max(0, (1 if leading < 2.95 else 0) - exponent)


def plus_minus(value: float, half_width: float, unit: str = "", sign: bool = False) -> str:
    """`4.6 ± 1.1 dB`."""
    digits = min(uncertainty_digits(half_width), 4)
    front = plus(value, digits) if sign else fixed(value, digits)
    tail = f" {unit}" if unit and unit != "°" else unit
    return f"{front} ± {fixed(half_width, digits)}{tail}"


def decibel(value: float, digits: int = 1, unit: str = "dB") -> str:
    return f"{fixed(value, digits)} {unit}"


def frequency(value_hz: float, digits: int | None = None) -> str:
    """`868.3 MHz`, in the unit that leaves one to four figures before the point."""
    for unit, size in (("GHz", 1e9), ("MHz", 1e6), ("kHz", 1e3), ("Hz", 1.0)):
        if abs(value_hz) >= size * (10 if unit == "GHz" else 1) or unit == "Hz":
            scaled = value_hz / size
            return f"{scaled:.7g} {unit}" if digits is None else f"{fixed(scaled, digits)} {unit}"
    raise AssertionError("unreachable")


def width(value_hz: float) -> str:
    """A stretch of frequency in three figures: `792 kHz`, `1.45 MHz`."""
    unit = frequency(value_hz).split()[1]
    return f"{three(value_hz / {'GHz': 1e9, 'MHz': 1e6, 'kHz': 1e3, 'Hz': 1.0}[unit])} {unit}"


def band(low_hz: float, high_hz: float) -> str:
    if low_hz == high_hz:
        return frequency(low_hz)
    unit = frequency(high_hz).split()[1]
    size = {"GHz": 1e9, "MHz": 1e6, "kHz": 1e3, "Hz": 1.0}[unit]
    return f"{low_hz / size:.7g}–{high_hz / size:.7g} {unit}"


def power(value_w: float) -> str:
    """`25 mW`, `0.5 W`."""
    for unit, size in (("kW", 1e3), ("W", 1.0), ("mW", 1e-3), ("µW", 1e-6), ("nW", 1e-9)):
        if value_w >= size * 0.9995:
            return f"{three(value_w / size)} {unit}"
    return f"{three(value_w * 1e12)} pW"


def level(value_dbm: float, digits: int = 1) -> str:
    """`−97.0 dBm`."""
    return f"{fixed(value_dbm, digits)} dBm"


def voltage(value_dbm: float, resistance_ohm: float = 50.0) -> str:
    """`2.51 µV` across a resistance."""
    return _in_first(LEVELS, ("V", "mV", "µV", "nV"), value_dbm, resistance_ohm)


def field_strength(value_v_per_m: float) -> str:
    """`3.2 mV/m`."""
    return _in_first(FIELDS, ("V/m", "mV/m", "µV/m"), value_v_per_m)


def density(value_v_per_m: float) -> str:
    """The power density of a plane wave of so many V/m: `1.5 mW/m²`."""
    return _in_first(FIELDS, ("W/m²", "mW/m²", "µW/m²"), value_v_per_m)


def _in_first(table: tuple[Scale, ...], units: Sequence[str], base: float, resistance_ohm: float = 50.0) -> str:
    """In the largest unit that leaves a figure before the point."""
    for unit in units:
        value = outward(table, base, unit, resistance_ohm)
        if value >= 0.9995 or unit == units[-1]:
            return f"{three(value)} {unit}" if value < 999.5 else f"{value:.0f} {unit}"
    raise AssertionError("unreachable")


def s_units(value_dbm: float, s9_dbm: float) -> str:
    """`S7.0`, `S9+10 dB` by IARU Region 1 R.1, with the level of S9."""
    units, over = s_units_of(value_dbm, s9_dbm)
    return f"S9+{over:.0f} dB" if over >= 0.5 else f"S{fixed(max(units, 0.0), 1)}"


def level_ways(value_dbm: float, frequency_hz: float | None = None) -> list[tuple[str, str]]:
    """(what it is, as written) for one level on every scale people use."""
    rows = [("level", level(value_dbm, 2)), ("power", fine_power(value_dbm))]
    for ohm in RESISTANCES_OHM:
        rows.append(
            (
                f"across {ohm:g} Ω",
                f"{voltage(value_dbm, ohm)}, {fixed(outward(LEVELS, value_dbm, 'dBµV', ohm), 2)} dBµV",
            )
        )
    if frequency_hz is not None:
        known = s9_dbm(frequency_hz)
        for s9 in S9_DBM if known is None else (known,):
            rows.append(
                ("S units", s_units(value_dbm, s9) + (f" where S9 is {fixed(s9, 0)} dBm" if known is None else ""))
            )
    return rows


def field_ways(value_v_per_m: float) -> list[tuple[str, str]]:
    """(what it is, as written) for one field on every scale people use."""
    return [
        ("field", f"{field_strength(value_v_per_m)}, {fixed(field_dbuv_per_m(value_v_per_m), 2)} dBµV/m"),
        ("density", f"{density(value_v_per_m)}, {three(outward(FIELDS, value_v_per_m, 'µW/cm²'))} µW/cm²"),
    ]


def radiated_ways(value_w: float) -> list[tuple[str, str]]:
    """(what it is, as written) for one EIRP."""
    dbm = dbm_from_watt(value_w)
    return [
        ("EIRP", f"{power(value_w)}, {level(dbm, 2)}"),
        ("ERP", f"{power(watt_from_dbm(dbm - DIPOLE_GAIN_DBI))}, {level(dbm - DIPOLE_GAIN_DBI, 2)}"),
    ]


def noise_ways(figure_db: float) -> list[tuple[str, str]]:
    """(what it is, as written) for one noise figure."""
    return [("figure", decibel(figure_db, 2)), ("temperature", f"{outward(NOISES, figure_db, 'K'):.4g} K")]


def fine_power(value_dbm: float) -> str:
    """Down to femtowatts: `0.2 pW`."""
    return _in_first(LEVELS, ("kW", "W", "mW", "µW", "nW", "pW", "fW"), value_dbm)


def length(value_m: float) -> str:
    """Sizes of things: `82 mm`, `1.24 m`."""
    if value_m < 1.0:
        return f"{three(value_m * 1e3)} mm"
    return f"{three(value_m)} m"


def delay(value_s: float) -> str:
    """6.10 ns, 350 ps."""
    if abs(value_s) < 1e-9:
        return f"{fixed(value_s * 1e12, 0)} ps"
    return f"{fixed(value_s * 1e9, 2)} ns" if abs(value_s) < 1e-6 else f"{fixed(value_s * 1e6, 2)} µs"


def small_length(value_m: float) -> str:
    """A cut: `0.8 mm`, to a tenth."""
    return f"{fixed(value_m * 1e3, 1)} mm"


FOOT_M, MILE_M = 0.3048, 1609.344

_HABITS = {"imperial": False}


def use_imperial(wanted: bool) -> None:
    """Write ways over ground in feet and miles from now on, in this process: it is the reader's habit, no fact."""
    _HABITS["imperial"] = wanted


def imperial() -> bool:
    return _HABITS["imperial"]


def three(value: float) -> str:
    """Three digits that count, never with an exponent: `0.012`, `2.37`, `48`, `1240`."""
    if abs(value) >= 999.5:
        return f"{value:.0f}"
    text = f"{value:.3g}"
    return text if "e" not in text else "0"


def distance(value_m: float) -> str:
    """Ways over ground: `850 m`, `2.37 km`; or feet and miles, as the person reads them (`use_imperial`)."""
    if imperial():
        feet = value_m / FOOT_M
        return f"{feet:.0f} ft" if feet < 1000 else f"{three(value_m / MILE_M)} mi"
    if value_m < 10:
        return f"{fixed(value_m, 1)} m"
    return f"{value_m:.0f} m" if value_m < 995 else f"{three(value_m / 1e3)} km"


def swr(value: float) -> str:
    """Two decimals under 3, one up to 10, then whole."""
    return f"{value:.2f}" if value < 3 else f"{value:.1f}" if value < 10 else f"{value:.0f}"


def impedance(value_ohm: complex | None) -> str:
    """48 + j7 Ω; a dash where it is not known."""
    if value_ohm is None:
        return "–"
    return f"{value_ohm.real:.0f} {'+' if value_ohm.imag >= 0 else MINUS} j{abs(value_ohm.imag):.0f} Ω"


def percent(share: float) -> str:
    """Never a false 0 % or 100 %."""
    if share <= 0 or share >= 1:
        return f"{share * 100:.0f} %"
    if share < 0.01:
        return "under 1 %"
    return "over 99 %" if share > 0.99 else f"{share * 100:.0f} %"


def minutes(value: float) -> str:
    """`25 minutes`, `2 hours`."""
    if value < 90.0:
        return count(round(value), "minute")
    return count(round(value / 60.0), "hour")


def certainty(chance: float) -> str:
    """How sure something is, in one of five words, with its chance: `very probable (98 %)`; `open` below 60 %."""
    if chance > 0.99:
        return "certain (over 99 %)"
    words = next((word for least, word in CERTAINTIES if chance >= least), "open")
    return f"{words} ({chance * 100:.0f} %)"


CERTAINTIES = ((0.95, "very probable"), (0.8, "probable"), (0.6, "leaning"))
"""From which chance on, which word."""


def chance_in_words(share: float) -> str:
    """`19 times in 20`, `about even`, `hardly ever`."""
    if share > 0.995:
        return "practically always"
    if share < 0.02:
        return "hardly ever"
    if 0.45 < share < 0.55:
        return "about every second time"
    twentieths = round(share * 20)
    return f"{min(max(twentieths, 1), 19)} times in 20" if twentieths != 1 else "once in 20 times"


def mass(value_kg: float) -> str:
    return f"{value_kg * 1e3:.0f} g" if value_kg < 2 else f"{value_kg:.2g} kg"


def position(latitude_deg: float, longitude_deg: float) -> str:
    """`57.90500° N 11.20222° W`."""
    ns, ew = "N" if latitude_deg >= 0 else "S", "E" if longitude_deg >= 0 else "W"
    return f"{abs(latitude_deg):.5f}° {ns} {abs(longitude_deg):.5f}° {ew}"


def bearing(value_deg: float) -> str:
    return f"{round(value_deg % 360) % 360}°"


def elevation(value_deg: float) -> str:
    """An angle over the horizon, below it with a minus; beyond 90° it looks backwards."""
    text = fixed((value_deg + 180.0) % 360.0 - 180.0, 0)
    return "180°" if text == f"{MINUS}180" else f"{text}°"


def direction(value_deg: float, plane: str) -> str:
    """An angle of a cut as its plane counts it: round the compass, or up and down from the horizon."""
    return elevation(value_deg) if plane == "elevation" else bearing(value_deg)


def count(number: int, thing: str, things: str | None = None) -> str:
    """`no runs`, `one run`, `two runs`, `12 runs`."""
    words = SMALL_COUNTS[number] if 0 <= number <= 10 else str(number)
    return f"{words} {thing if number == 1 else things or thing + 's'}"


def grouped(number: int) -> str:
    """`1 000 000`."""
    return f"{number:,}".replace(",", " ")


def ordinal(number: int) -> str:
    """`second`, `third`, `4th`."""
    first = {1: "first", 2: "second", 3: "third"}
    if number in first:
        return first[number]
    ending = "th" if 10 <= number % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{ending}"


def join(words: Sequence[str], last: str = "and") -> str:
    """`a`, `a and b`, `a, b and c`."""
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} {last} {words[-1]}"


def upper_first(sentence: str) -> str:
    """A capital at the start; the rest as it is."""
    return sentence[:1].upper() + sentence[1:]
