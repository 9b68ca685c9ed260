"""Which drivers there are: our own, and those that other packages bring."""

from __future__ import annotations

from importlib.metadata import entry_points

from .driver import Maker
from .scpi import ScpiAnalyzer

ENTRY_POINTS = "tallmast.analyzers"
"""Drivers of other packages are found by this group of entry points: each names a `Maker`."""


def found() -> tuple[dict[str, Maker], list[str]]:
    """Every driver there is by name: our own for SCPI, and those that other packages bring; and what could not be loaded.

    A package's driver that breaks is told, and left out: the others must still work.
    """
    out: dict[str, Maker] = {"SCPI": ScpiAnalyzer.at}
    broken = []
    for point in entry_points(group=ENTRY_POINTS):
        try:
            out[point.name] = point.load()
        except Exception as error:
            broken.append(f"The driver {point.name} can’t be loaded ({type(error).__name__}: {error})")
    return out, broken


def makers() -> dict[str, Maker]:
    """Every driver that can be loaded, by name."""
    return found()[0]
