"""A format is a row: what it is called, how it is recognised, how it is read, and what the columns of a table can be."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cached_property
from pathlib import PurePath
from typing import Any

from tallmast.frozen import Frozen, field

from . import table
from .errors import FormatError
from .text import decode

Columns = Mapping[str, str]
"""By a role's key the column of the file that has it, or one of the role's own choices; empty: none."""


class Role(Frozen, eq=True):
    """What a column of a table can be."""

    key: str
    words: str
    needed: bool = True
    choices: Mapping[str, str] = field(default_factory=dict)
    """Words of what can be chosen, where that is no column of the file: a unit, a meaning."""
    none: str = "none"
    """Words for nothing chosen."""
    seldom: bool = False
    """Folded away while nothing is chosen."""
    clock: bool = False
    """Whether a column of times of day will do."""
    words_too: bool = False
    """Whether any column will do, of words too."""


class Seen(Frozen, eq=True):
    """What a format sees in a file: how sure it is (0 to 1), and by what."""

    sure: float
    by: str


class Start:
    """The beginning of a file, as recognition looks at it; its text and its table are made when first asked for."""

    def __init__(self, data: bytes, name: str) -> None:
        self.data, self.name = data, name
        self.suffix = PurePath(name).suffix.lower()

    @cached_property
    def text(self) -> str:
        return decode(table.head(self.data), self.name).lstrip()[:4000]

    @property
    def is_markup(self) -> bool:
        return self.text.startswith("<")

    @cached_property
    def table(self) -> table.Table | None:
        """The first few hundred lines; None where they are no table."""
        try:
            return None if self.is_markup else table.preview(self.data, self.name)
        except FormatError:
            return None


class Format(Frozen, eq=True):
    """One format of files.

    `recognise` says what it sees, or None. `read(data, name, columns)` reads the whole; `columns` overrides the guess.
    A table format has `roles`, and `guess` finds columns for as many of them as it can; `taken` says of something read
    which columns were what. `read` raises `FormatError`.
    """

    kind: str
    words: str
    recognise: Callable[[Start], Seen | None]
    read: Callable[[bytes, str, Columns | None], Any] = lambda data, name, columns: None
    roles: tuple[Role, ...] = ()
    guess: Callable[[table.Table], dict[str, str]] = lambda found: {}
    taken: Callable[[Any], dict[str, str]] = lambda read: {}
    by_first_rows: bool = False
    """Whether the first rows of a long one say already which column is what."""

    def takes(self, columns: Columns) -> bool:
        """Whether columns, as somebody remembered them, are for this format's roles."""
        roles = {role.key: role for role in self.roles}
        return set(columns) <= set(roles) and all(
            not value or not roles[key].choices or value in roles[key].choices for key, value in columns.items()
        )
