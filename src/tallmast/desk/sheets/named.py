"""Fields in which what the notebook has by name is written: pieces of the drawer, antennas of the shelf."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Any, Literal

from tallmast.notebook.records import Antenna, Branch, Piece, Placed, Station
from tallmast.units import read, show

from ..session import Session
from .fields import Field
from .keeping import text_of
from .record_sheet import Values


def _known(part: str, names: Iterable[str]) -> tuple[str, str] | None:
    """The name that a part begins with, and the rest. Longest first: “10 dB pad” is a name, not a setting of “10”."""
    lower = part.lower()
    for name in sorted(names, key=len, reverse=True):
        rest = lower[len(name) :]
        if lower.startswith(name.lower()) and (not rest or not rest[0].isalnum()):
            return name, part[len(name) :].strip()
    return None


def placed_of(text: str, pieces: Sequence[Piece]) -> list[Placed]:
    """Pieces of the drawer by name, in order, `;` or `,` between them; a step attenuator with its setting."""
    known = {piece.name: piece for piece in pieces}
    out = []
    for part in re.split(r"\s*[;,]\s*", read.clean(text).strip("; ,")):
        setting, match = 0.0, _known(part, known)
        if match is None:
            there = show.join([piece.name for piece in pieces]) or "nothing yet: write it on Levels (D)"
            raise read.UnitError(f"pieces of the drawer. There is {there}", part)
        piece, rest = known[match[0]], match[1]
        if rest:
            if piece.type != "step attenuator":
                raise read.UnitError(f"{piece.name} alone: only a step attenuator can be set", part)
            setting = read.loss(rest)
            if setting > (piece.largest_db or 0.0):
                raise read.UnitError(f"at most {piece.largest_db:g} dB on {piece.name}", part)
        out.append(Placed(piece_id=piece.id, setting_db=setting))
    return out


def placed_text(made: Sequence[Placed], pieces: Sequence[Piece]) -> str:
    by_id = {piece.id: piece for piece in pieces}
    words = []
    for one in made:
        piece = by_id.get(one.piece_id)
        if piece is not None:
            words.append(piece.name + (f" {one.setting_db:g} dB" if piece.type == "step attenuator" else ""))
    return "; ".join(words)


def placed_field(session: Session, old: Station | None) -> list[tuple[str, Field]]:
    """Pieces by their names: which there are is known to the notebook alone."""
    pieces = session.evidence.all(Piece)
    return [
        (
            "placed",
            Field(
                "placed",
                "Pieces of the drawer, from the radio on",
                lambda t: placed_of(t, pieces),
                lambda v: f"{show.count(len(v), 'piece')}: {placed_text(v, pieces)}",
                text_of(list(old.placed) or None if old else None, lambda v: placed_text(v, pieces)),
                "white cable; step box 12 dB; mast preamp" if pieces else "the drawer is on Levels (D)",
            ),
        )
    ]


BRANCH_EXPECTED = (
    "antennas of the shelf, such as “left: {0}; right: {1}, covered”, and for the other end “far {0}, up 16°”"
)
ANGLES: dict[str, Literal["azimuth_deg", "tilt_deg", "roll_deg"]] = {
    "at": "azimuth_deg",
    "up": "tilt_deg",
    "down": "tilt_deg",
    "turned": "roll_deg",
}
"""What is said before an angle, and what it is then."""
FAR = "far "


def branches_of(text: str, antennas: Sequence[Antenna], ends: bool = False) -> list[Branch]:
    """`left: Patch; right: Whip, covered; Omni, off`: a port if it has a mark, an antenna of the shelf, how it was held;
    `ends`: with `far` before it at the other end. Raises `UnitError`."""
    by_name = {antenna.name: antenna for antenna in antennas}
    names = [*by_name, "Whip", "Patch"]
    expected = BRANCH_EXPECTED.format(names[0], names[1])
    out = []
    for part in filter(None, re.split(r"\s*[;\n]\s*", read.clean(text))):
        far = ends and part.lower().startswith(FAR)
        rest = part[len(FAR) :].strip() if far else part
        found, port = _known(rest, by_name), ""
        if found is None and ":" in rest:
            port, _, rest = (piece.strip() for piece in rest.partition(":"))
            found = _known(rest, by_name)
        if found is None:
            raise read.UnitError(expected, part)
        held: dict[str, Any] = dict(
            _held(word.strip().lower(), expected) for word in found[1].split(",") if word.strip()
        )
        out.append(Branch(antenna_id=by_name[found[0]].id, port=port, end="away" if far else "home", **held))
    return out


def _held(word: str, expected: str) -> tuple[str, bool | float]:
    """How an antenna is held, by one word of it: an attribute of the branch and its value."""
    if word in ("covered", "off", "on"):
        return ("covered", True) if word == "covered" else ("connected", word == "on")
    match = re.fullmatch(rf"(at|up|down|turned)\s+({read.NUMBER})\s*(?:°|deg)?", word)
    if match is None:
        raise read.UnitError(expected, word)
    attribute, angle = ANGLES[match[1]], read.number(match[2])
    angle = -angle if match[1] == "down" else angle
    least, most = {"azimuth_deg": (0, 360), "tilt_deg": (-90, 90), "roll_deg": (-180, 180)}[attribute]
    if not least <= angle <= most:
        raise read.UnitError(f"an angle from {least} to {most}°", word)
    return attribute, angle % 360 if attribute == "azimuth_deg" else angle


def branches_text(made: Sequence[Branch], antennas: Sequence[Antenna]) -> str:
    names = {antenna.id: antenna.name for antenna in antennas}
    words = []
    for one in made:
        port = f"{one.port}: " if one.port else ""
        name = names.get(one.antenna_id, "?")
        words.append((FAR if one.end == "away" else "") + port + ", ".join([name, *one.held]))
    return "; ".join(words)


def branches_field(
    session: Session, known: Sequence[Branch], words: str, ends: bool = False
) -> list[tuple[str, Field]]:
    """Antennas by their names; with `ends` those of both."""
    antennas = session.evidence.antennas
    names = [*(a.name for a in antennas), "Whip", "Patch"]
    return [
        (
            "branches",
            Field(
                "branches",
                words,
                lambda t: branches_of(t, antennas, ends),
                lambda v: f"{show.count(len(v), 'antenna')}: {branches_text(v, antennas)}",
                text_of(list(known) or None, lambda v: branches_text(v, antennas)),
                f"left: {names[0]}; right: {names[1]}, covered" + (f"; far {names[0]}, up 16°" if ends else ""),
                seldom=True,
            ),
        )
    ]


def station_fields(session: Session, old: Station | None) -> list[tuple[str, Field]]:
    """What an end has by name."""
    known = old.branches if old else []
    return [*placed_field(session, old), *branches_field(session, known, "Antennas connected, where there are several")]


def named_parts(values: Values, old: Station | None, session: Session) -> Values:
    return {"placed": values["placed"] or [], "branches": values["branches"] or []}
