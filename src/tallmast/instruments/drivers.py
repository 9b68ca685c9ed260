"""Which drivers there are: our own, and those that other packages bring."""

from __future__ import annotations

from importlib.metadata import entry_points

from .driver import Maker
from .scpi import ScpiAnalyzer

ENTRY_POINTS = "tallmast.analyzers"
"""Drivers of other packages are found by this group of entry points: each names a `Maker`."""


def makers() -> dict[str, Maker]:
    """Every driver there is by name: our own for SCPI, and those that other packages bring.

    A package's driver that can't be loaded is left out: the others must still work.
    """
    out: dict[str, Maker] = {"SCPI": ScpiAnalyzer.at}
    for point in entry_points(group=ENTRY_POINTS):
        try:
            out[point.name] = point.load()
        except Exception:
            continue
    return out
