"""What the parts of the desk may ask of the window: they know it by this only, and nobody imports it."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Protocol, TypeVar

from PySide6.QtCore import SignalInstance

from tallmast.figures.paper import Appearance, Paper
from tallmast.notebook.records import Record

if TYPE_CHECKING:
    from .frame.act import Act
    from .frame.settings import Settings
    from .session import Session
    from .sheets.entry import EntrySheet, Form

R = TypeVar("R", bound=Record)


class Frame(Protocol):
    """The window, as a rung, a sheet, the queue of files or an act sees it."""

    session: Session
    settings: Settings
    paper: Paper
    rung: str
    """The one in front."""

    @property
    def acts(self) -> Mapping[str, Act]: ...

    @property
    def sheet(self) -> EntrySheet | None:
        """The entry sheet at the side, if any."""

    @property
    def sheet_closed(self) -> SignalInstance: ...

    def act(self, name: str) -> None:
        """Do something by name; without a notebook only what needs none."""

    def climb_to(self, rung: str) -> None:
        """Stand on a rung."""

    def shows(self, rung: str) -> bool:
        """Whether a rung is in front, made already."""

    def on(self, rung: str, what: str, *with_: object) -> None:
        """Stand on a rung and have its view do something."""

    def view_of(self, rung: str) -> object:
        """The view of a rung as it is now, for that view itself to go on with."""

    def stand(self) -> None:
        """The keyboard to the rung in front."""

    def write(self, form: Form) -> None:
        """Open an entry sheet at the side."""

    def write_record(self, model: type[R], old: R | None = None) -> None:
        """Open the sheet of a new record of a kind, or of one that was kept before."""

    def open_record(self, record: Record) -> None:
        """Open the sheet of a record, on its rung."""

    def open_notebook(self, path: Path) -> bool:
        """Open a notebook; False, with the trouble told, where that can't be."""

    def start_notebook(self, stem: str) -> bool:
        """Ask for a name, and start a notebook under it, for what is brought in; False where none was given."""

    def tell_trouble(self, message: str) -> None: ...

    def show_state(self, words: str) -> None:
        """Something that is so, at the end of the tape."""

    def dress_as(self, appearance: Appearance) -> None: ...

    def toggle_working(self) -> None: ...

    def toggle_tape(self) -> None: ...

    def toggle_imperial(self) -> None: ...

    def close(self) -> bool: ...
