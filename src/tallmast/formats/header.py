"""What the words of a header say that a column was read on."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from tallmast.notebook.records import RecordedAs

READ_ON: tuple[tuple[RecordedAs, str], ...] = (
    ("bit rate", r"mbit|mbps|mb/s|bit.?rate|throughput"),
    ("delay", r"delay|latency|ping|rtt"),
    ("packet rate", r"\blq\b|link quality|packet|\bper\b|%"),
    ("level", r"\bcounts?\b|\badc\b|\braw\b"),
    ("level in dBm", r"dbm|rssi|\brx\b.*level|signal|level"),
    ("bars", r"bars?"),
    ("picture grade", r"grade|picture"),
)
"""Tried in this order."""
MOST_DBM = 30.0
"""From here on, in the middle of a column, a level is none in dBm: it counts something."""


def says(name: str) -> RecordedAs | None:
    """By its words alone; None where they say nothing of it."""
    return next((read_on for read_on, pattern in READ_ON if re.search(pattern, name, re.IGNORECASE)), None)


def seems(name: str, values: NDArray[np.float64]) -> RecordedAs | None:
    """By its words, and its values [n]: what is called a level, says no dBm and is far above any that is received counts
    something."""
    said = says(name)
    known = values[np.isfinite(values)]
    counts = said == "level in dBm" and "dbm" not in name.lower() and len(known) and float(np.median(known)) > MOST_DBM
    return "level" if counts else said
