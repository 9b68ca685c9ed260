"""What the words of a header say that a column was read on."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.records import RecordedAs

from .layout import UNITS

READ_ON: tuple[tuple[RecordedAs, str], ...] = (
    ("bit rate", r"[kmg]bit|bit/s|[kmg]?bps|mb/s|bit.?rate|throughput"),
    ("delay", r"delay|latency|ping|rtt"),
    ("packet rate", r"\blq\b|link quality|packet|\bper\b|loss|\blost\b|%"),
    ("level", r"\bcounts?\b|\badc\b|\braw\b"),
    ("S units", r"\bs.?units?\b|\bs.?meter\b"),
    ("level in dBm", r"db[mwuµμ]|rssi?(?![a-z])|\brx\b.*level|signal|level"),
    ("bars", r"bars?"),
    ("picture grade", r"grade|picture"),
)
"""Tried in this order."""
MOST_DBM = 30.0
"""From here on, in the middle of a column, a level is none in dBm: it counts something."""


def plain(name: str) -> str:
    """A name as words: `rx_level` is two."""
    return name.strip().replace("_", " ")


OTHER = re.compile(
    r"\btx|transmit|\bnoise|batt|fuel|throttle|humid|\bcpu\b|charg|temperature|\btemp\b|volt|water|ground level",
    re.IGNORECASE,
)
"""Words of what is logged too and says nothing of what was heard."""
LOST = re.compile(r"loss|\blost\b|error|\bper\b|dropped", re.IGNORECASE)


HEARD = re.compile(
    r"heard(?! by)|reports?\b|\brst?\b|\breadings?\b|signal|level|rssi|dbm|readab|strength|copy|result|received|"
    r"^what$|\bs.?meter|\bbars?\b|bit/s|mbps|packet|quality|grade|picture",
    re.IGNORECASE,
)
"""Names of columns that say what was heard."""
SAID_OF_IT = re.compile(rf"\b(?:{HEARD.pattern})\w*|[\[(]?(?<!\w)(?:{UNITS})(?!\w)[\])]?", re.IGNORECASE)
"""What in a name says no more than that, and in which unit."""


def called(column: str) -> str:
    """What is left of a column's name without what was read and its unit: whose it is. All of it, where nothing is left."""
    return " ".join(SAID_OF_IT.sub(" ", plain(column)).split()).strip("-_:,") or column


OVER_DBM = {r"dbw\b": 30.0, r"db[µμu]v\b": -106.99, r"dbmv\b": -46.99}
"""What added makes dBm of them; of voltages in 50 Ω, 10·log₁₀(10⁻¹²/50) + 30."""


LEAST_BITS_A_SECOND = 1e4
"""From here on a bit rate without a unit counts single bits: no link has so many Mbit/s."""


class Rescaled(Frozen, eq=True):
    """Readings of a column on the scale that they are kept on, and what was done to them, where anything was."""

    values: NDArray[np.float64]
    note: str = ""


def on_scale(name: str, read_on: RecordedAs, values: NDArray[np.float64]) -> Rescaled:
    """dBm, per cent of packets that came through, Mbit/s and ms, whatever a header says they were counted in."""
    words = plain(name)
    if read_on == "level in dBm":
        over = next((over for pattern, over in OVER_DBM.items() if re.search(pattern, words, re.IGNORECASE)), None)
        if over is None:
            return Rescaled(values)
        return Rescaled(values + over, f"“{name}” was turned to dBm, in 50 Ω")
    if read_on == "packet rate":
        most = float(np.nanmax(values, initial=0.0))
        percent = values * 100.0 if most <= 1.0 and "%" not in name else values  # shares, or one or none of each
        if LOST.search(words):
            return Rescaled(100.0 - percent, f"“{name}” counts losses: turned to what came through")
        return Rescaled(percent, "" if percent is values else f"“{name}” was turned to per cent")
    if read_on == "bit rate":
        counted = re.search(r"([kmg])(?:bit|bps|b/s)", words, re.IGNORECASE)
        times = {"k": 1e-3, "m": 1.0, "g": 1e3}[counted[1].lower()] if counted else 1.0
        if not counted and float(np.nanmax(values, initial=0.0)) >= LEAST_BITS_A_SECOND:
            times = 1e-6
        return Rescaled(values * times, f"“{name}” was turned to Mbit/s") if times != 1.0 else Rescaled(values)
    if read_on == "delay":
        unit = re.search(r"(?<![a-z])(µs|us|s|sec|seconds)(?![a-z])", words, re.IGNORECASE)
        times = 1.0 if unit is None else 1e-3 if unit[1].lower() in ("µs", "us") else 1e3
        return Rescaled(values * times, f"“{name}” was turned to ms") if times != 1.0 else Rescaled(values)
    return Rescaled(values)


def says(name: str) -> RecordedAs | None:
    """By its words alone; None where they say nothing of it."""
    words = plain(name)
    if OTHER.search(words):
        return None
    return next((read_on for read_on, pattern in READ_ON if re.search(pattern, words, re.IGNORECASE)), None)


def seems(name: str, values: NDArray[np.float64]) -> RecordedAs | None:
    """By its words, and its values [n]: what is called a level, says no dBm and is far above any that is received counts
    something."""
    said = says(name)
    known = values[np.isfinite(values)]
    if said == "packet rate" and len(known) and float(known.max()) > 100.0:
        return None  # a count of them, or a number of each
    named = re.search("|".join(("dbm", *OVER_DBM)), plain(name), re.IGNORECASE)
    counts = said == "level in dBm" and not named and len(known) and float(np.median(known)) > MOST_DBM
    return "level" if counts else said
