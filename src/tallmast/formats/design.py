"""A designed pattern from delimited text: over θ and φ (or azimuth and elevation), or one cut, in dB or as relative field."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from . import table
from .cut import SCALES, Scale
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start

THETA = re.compile(r"theta|θ|zenith|polar", re.IGNORECASE)
PHI = re.compile(r"\bphi\b|φ|azim", re.IGNORECASE)
ELEVATION = re.compile(r"elev", re.IGNORECASE)
LEVEL = re.compile(r"db|gain|level|field|mag|e/e|directivity", re.IGNORECASE)
PLANES: dict[str, str] = {"theta": "θ: from the zenith down", "elevation": "elevation: from the horizon up"}
TURNS: dict[str, str] = {"left": "counter-clockwise, as φ does", "right": "clockwise, as a compass does"}
LEAST_DB = -80.0


class DesignFile(Frozen, eq=True):
    """Azimuth clockwise from the front and elevation over the equator, degrees; levels in dB; how the columns were taken."""

    azimuth_deg: NDArray[np.float64]
    elevation_deg: NDArray[np.float64]
    level_db: NDArray[np.float64]
    taken: dict[str, str]
    notes: tuple[str, ...] = ()


def guess(found: table.Table) -> dict[str, str]:
    """Both angles by their names and the level by its own; nothing where the header does not speak of two angles."""
    names = list(found.columns)
    over = next((n for n in names if THETA.search(n)), None) or next((n for n in names if ELEVATION.search(n)), None)
    round_ = next((n for n in names if n != over and PHI.search(n)), None)
    rest = [n for n in names if n not in (over, round_)]
    level = next((n for n in rest if LEVEL.search(n)), None)
    if over is None or round_ is None or level is None:
        return {}
    return {
        "over": over,
        "over as": "theta" if THETA.search(over) else "elevation",
        "round": round_,
        "round as": "left" if re.search(r"phi|φ", round_, re.IGNORECASE) else "right",
        "level": level,
    }


def read(data: bytes, name: str, columns: Columns | None = None) -> DesignFile:
    """A designed pattern, its columns as guessed or as `columns` says. Raises `FormatError`."""
    found = table.read(data, name)
    taken = {**guess(found), **(columns or {})}
    taken = {key: value for key, value in taken.items() if value}
    angles = [key for key in ("over", "round") if key in taken]
    if not angles or "level" not in taken:
        raise FormatError(
            name, "no columns of an angle and a level", todo="Give it a header such as “theta, phi, gain dB”"
        )
    table.there_or_error(name, found, [taken[key] for key in (*angles, "level")])
    level = found.columns[taken["level"]]
    for key in (*angles, "level"):
        what = "level" if key == "level" else "angle"
        table.finite_or_error(name, found, taken[key], found.columns[taken[key]], what)
    # One angle alone is a cut: round the horizon, or up and over ahead.
    still = np.zeros(len(level))
    round_ = found.columns[taken["round"]] if "round" in taken else still
    theta = "over" in taken and taken.setdefault("over as", "theta") == "theta"
    over = found.columns[taken["over"]] if "over" in taken else still
    low, high = (-0.01, 180.01) if theta else (-90.01, 90.01)
    if "over" in taken:
        table.plausible_or_error(name, found, taken["over"], over, low, high, "angle in degrees")
    if "round" in taken:
        table.plausible_or_error(name, found, taken["round"], round_, -360.0, 720.0, "angle in degrees")
    scale: Scale | None = taken.get("scale") or None  # type: ignore[assignment]
    if scale is None:
        as_field = re.search(r"field|e/e|relative|linear", taken["level"], re.IGNORECASE)
        scale = "relative field" if as_field else "dB"
    if scale == "relative field":
        if level.min() < 0:
            raise FormatError(
                name, "a relative field below zero", found.line(int(np.argmin(level))), "Are these decibels"
            )
        level = 20.0 * np.log10(np.maximum(level, 1e-4))
    elevation = 90.0 - over if theta else over
    azimuth = (-round_ if taken.setdefault("round as", "left") == "left" else round_) % 360.0
    notes = []
    if len(np.unique(np.round(azimuth, 3))) < 4 and len(np.unique(np.round(elevation, 3))) < 4:
        raise FormatError(name, "fewer than four different directions", todo="A design needs more to be held against")
    if (level < LEAST_DB + level.max()).any():
        notes.append(f"levels more than {-LEAST_DB:g} dB under the strongest were raised to that")
        level = np.maximum(level, LEAST_DB + level.max())
    return DesignFile(azimuth, elevation, level, {**taken, "scale": scale}, tuple(notes))


def _recognise(start: Start) -> Seen | None:
    taken = guess(start.table) if start.table is not None else {}
    return Seen(0.8, f"two angles in “{taken['over']}” and “{taken['round']}”") if taken else None


FORMAT = Format(
    "design",
    "a designed pattern",
    _recognise,
    read,
    (
        Role("over", "Angle up or down", needed=False),
        Role("over as", "which is", choices=PLANES),
        Role("round", "Angle round", needed=False),
        Role("round as", "which turns", choices=TURNS),
        Role("level", "Level"),
        Role("scale", "It is in", choices=SCALES),
    ),
    guess,
    lambda design: design.taken,
)
