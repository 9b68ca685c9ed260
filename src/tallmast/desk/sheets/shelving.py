"""Antennas by the names that a file has for them: those of the shelf, and new ones."""

from __future__ import annotations

from collections.abc import Iterable

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna
from tallmast.units import show

from ..session import Session
from .fields import Field

FIELD = "antenna only"


class Shelving:
    """Finds the antenna of a name, or puts a new one on the shelf."""

    def __init__(self, evidence: Evidence) -> None:
        self._called = {a.name.casefold(): a for a in evidence.antennas}
        self.new: list[Antenna] = []

    def called(self, name: str) -> Antenna:
        known = self._called.get(name.casefold())
        if known is None:
            used = {a.slot for a in self._called.values()}
            free = next(i for i in range(len(used) + 1) if i not in used)
            known = self._called[name.casefold()] = Antenna(name=name, slot=free)
            self.new.append(known)
        return known


def antenna_field(session: Session) -> Field:
    """The antenna of a table in which no column says it, by name."""
    antennas = session.evidence.antennas
    known = {a.name.casefold() for a in antennas}
    return Field(
        FIELD,
        "Antenna, where no column says it",
        str.strip,
        lambda name: "on the shelf" if name.casefold() in known else "new on the shelf",
        antennas[0].name if len(antennas) == 1 else "",
        "Long Whip; empty: every row says it",
    )


def new_words(session: Session, names: Iterable[str]) -> str:
    """Which of some antennas would be new: a slip of the pen is seen here, and not on the shelf."""
    known = {a.name.casefold() for a in session.evidence.antennas}
    new = once(name for name in names if name and name.casefold() not in known)
    return f"Not on the shelf yet, and put there: {show.join(new)}." if new else ""


def once(words: Iterable[str]) -> list[str]:
    """Each once, as it is written first, whether in large or small letters."""
    first: dict[str, str] = {}
    for word in words:
        first.setdefault(word.casefold(), word)
    return list(first.values())
