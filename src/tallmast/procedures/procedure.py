"""What every procedure has: what is so, what to do next, keys, and somewhere to work."""

from __future__ import annotations

from collections.abc import Callable
from operator import attrgetter
from typing import Any, ClassVar, Protocol

from tallmast.findings.climb import Climb
from tallmast.findings.figure import Figure
from tallmast.frozen import Frozen
from tallmast.notebook.entry import Entry
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Question


class Workplace(Protocol):
    """What a procedure may ask of whoever runs it."""

    climb: Climb | None

    @property
    def evidence(self) -> Evidence: ...

    @property
    def question(self) -> Question | None:
        """As it is of the band that is looked at."""

    @property
    def focus_antenna(self) -> Antenna | None: ...

    def write(self, entry: Entry) -> bool:
        """Keep an entry; False, with the trouble told, where that can't be."""

    def work(self, what: str, job: Callable[[], Any], done: Callable[[Any, Exception | None], None]) -> None:
        """Do a long job elsewhere, then go on here with what came of it."""

    def pick(self, figure: Figure) -> None:
        """Show the working of a figure."""

    def tell(self, trouble: str) -> None:
        """Say what went wrong; empty: nothing does any more."""


class Key(Frozen, eq=True):
    """`press`: a letter, Space, Enter or Backspace; `does`: the method, of a part where it has a dot in it."""

    press: str
    words: str
    does: str


class Row(Frozen, eq=True):
    """Keys that belong together; `big`: for cold hands."""

    title: str
    keys: tuple[Key, ...]
    big: bool = False


def nothing(*_: object) -> None:
    """Until somebody listens."""


class Procedure:
    """Base of them all. Leaving loses nothing: opened again, it stands where it stood."""

    title = ""
    rows: ClassVar[tuple[Row, ...]] = ()

    def __init__(self, place: Workplace) -> None:
        self.place = place
        self.said, self.todo = "", ""
        self.busy = False
        """Something is being done elsewhere."""
        self.on_change: Callable[[], object] = nothing
        self.on_ask: Callable[[str], object] = nothing
        """Wants a sheet, by its name."""
        self.on_leave: Callable[[], object] = nothing

    @classmethod
    def key_words(cls) -> list[tuple[str, str]]:
        """Each key and what it does, for the key card."""
        return [(key.press, key.words) for row in cls.rows for key in row.keys]

    def shows(self, row: Row) -> bool:
        """Whether a row of keys is there now."""
        return True

    def press(self, pressed: str) -> bool:
        """Do what a key stands for; False where it stands for nothing now."""
        for row in self.rows:
            for key in row.keys:
                if key.press == pressed and self.shows(row):
                    attrgetter(key.does)(self)()
                    return True
        return False

    def tell(self, said: str | None = None, todo: str | None = None) -> None:
        """What is so, and what to do next; None: as before."""
        self.said = self.said if said is None else said
        self.todo = self.todo if todo is None else todo
        self.on_change()

    def do(self, what: str, job: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Something on the instruments; a fault is told, and the procedure stands where it stood."""
        if self.busy:
            return
        self.busy = True

        def finished(result: Any, error: Exception | None) -> None:
            self.busy = False
            if error is not None:
                self.place.tell(f"{error} What was read is still here; try again.")
            else:
                self.place.tell("")
                done(result)

        self.place.work(what, job, finished)

    def begin(self) -> None:
        """It is in front now."""

    def leave(self) -> None:
        self.on_leave()

    def end(self) -> None:
        """Let go of whatever is held outside."""
