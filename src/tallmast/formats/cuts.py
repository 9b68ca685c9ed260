"""Pattern cuts side by side: an angle, and a column of levels for each antenna."""

from __future__ import annotations

import re

from tallmast.frozen import Frozen

from . import cut, header, table
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start

NO_ANTENNA = re.compile(
    r"phase|time|temp|\bref|cross|\bco\b|co.?pol|x.?pol|horiz|vert|^[hvxy]$|\bmin|\bmax|mean|\bstd|±|\bu_|count|^n$|tilt|roll",
    re.IGNORECASE,
)
"""Names of columns beside a cut that are no other antenna's."""


class CutsFile(Frozen, eq=True):
    """By antenna, as its column is called, in the order of the columns."""

    cuts: tuple[tuple[str, cut.CutFile], ...]
    taken: dict[str, str]
    notes: tuple[str, ...] = ()


def _levels(found: table.Table, angle: str) -> list[str]:
    """The columns that are antennas' by their names; none where one is a level and nothing more."""
    rest = [name for name in found.columns if name != angle and not cut.ANGLE.search(name)]
    if any(header.SAID_OF_IT.sub("", header.plain(name)).strip() == "" for name in rest):
        return []
    return [name for name in rest if not NO_ANTENNA.search(header.plain(name)) and not header.OTHER.search(name)]


def read(data: bytes, name: str, columns: Columns | None = None) -> CutsFile:
    """Every column beside the angle as a cut of its own. Raises `FormatError`."""
    found = table.read(data, name)
    taken = {**cut.guess(found), **(columns or {})}
    if "angle" not in taken:
        raise FormatError(name, "an angle and levels are needed; one numeric column was found", found.first_line)
    table.there_or_error(name, found, (taken["angle"],))
    levels = _levels(found, taken["angle"])
    if not levels:
        raise FormatError(name, "no column is called by an antenna", todo="Bring it in as one cut")
    scale = {"scale": taken["scale"]} if taken.get("scale") else {}
    cuts = [(header.called(c), cut.read(data, name, {"angle": taken["angle"], "level": c, **scale})) for c in levels]
    notes = tuple(dict.fromkeys(note for _, one in cuts for note in one.notes))
    return CutsFile(tuple(cuts), {"angle": taken["angle"], "scale": cuts[0][1].scale}, notes)


def _recognise(start: Start) -> Seen | None:
    found = start.table
    if found is None or not found.had_header:
        return None
    angle = next((name for name in found.columns if cut.ANGLE.search(name)), None)
    levels = _levels(found, angle) if angle is not None else []
    if len(levels) < 2:
        return None
    return Seen(0.35, f"an angle in “{angle}”, and levels of {len(levels)} antennas")


FORMAT = Format(
    "cuts",
    "pattern cuts, a column each",
    _recognise,
    read,
    (Role("angle", "Angle"), Role("scale", "They are in", choices=cut.SCALES)),
    cut.guess,
    lambda cuts: cuts.taken,
)
