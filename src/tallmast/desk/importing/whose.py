"""Whose a file is: an antenna or a run that is there, or a new one by name, in place."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from msgspec.structs import replace

from tallmast.notebook.entry import Entry
from tallmast.notebook.records import RUN_KINDS, Antenna, Record, Run
from tallmast.units.quantity import NAME

from ..session import Session
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import antenna_choices
from ..sheets.record_sheet import choices_of
from ..sheets.shelving import Shelving

NEW = "new"
"""Chosen where it is none of those that there are."""
ANTENNA, NAMED = "antenna", "new antenna"
RUN, RUN_OF, MANNER = "run", "antenna of the new run", "manner of the new run"


def antenna_fields(session: Session, words: str = "It is of", asked: bool = False) -> list[Field]:
    """Of which antenna; `asked`: nothing is taken for granted where there are several."""
    focus, choices = session.focus_antenna, [*antenna_choices(session), (NEW, "a new antenna")]
    chosen = focus.id if focus is not None else NEW
    if asked and len(choices) > 2:
        chosen, choices = "", [("", "choose one"), *choices]
    return [
        Field(ANTENNA, words, choices=choices, chosen=chosen),
        _name(NAMED, "Name of the new antenna", (ANTENNA, (NEW,))),
    ]


def antenna_of(session: Session, v: dict[str, Any]) -> tuple[Antenna, Sequence[Record]]:
    """(the antenna, what is new in the notebook by it). Raises `FieldError`."""
    if v[ANTENNA] == NEW:
        shelf = Shelving(session.evidence)
        antenna = shelf.called(v[NAMED])
        return antenna, shelf.new
    known = session.evidence.antenna(v[ANTENNA] or "")
    if known is None:
        raise FieldError(ANTENNA, "Choose the antenna that it is of.")
    return known, ()


def run_fields(session: Session, words: str) -> list[Field]:
    """Of which run: the one made last, or a new one, of an antenna by its name."""
    runs, focus = session.evidence.runs, session.focus_antenna
    only = (RUN, (NEW,))
    choices = [*choices_of(session, "run"), (NEW, "a new run")]
    return [
        Field(RUN, words, choices=choices, chosen=runs[-1].id if runs else NEW),
        _name(RUN_OF, "Antenna of the new run", only, focus.name if focus is not None else ""),
        Field(MANNER, "How it was gone", choices=list(RUN_KINDS.items()), chosen="walk", only=only),
    ]


def run_of(session: Session, v: dict[str, Any]) -> tuple[Run, Sequence[Record]]:
    """(the run, what is new in the notebook by it). Raises `FieldError`."""
    if v[RUN] == NEW:
        shelf = Shelving(session.evidence)
        antenna = shelf.called(v[RUN_OF])
        number = max((run.number for run in session.evidence.runs), default=0) + 1
        run = Run(
            number=number,
            antenna_id=antenna.id,
            state_id=antenna.state.id,
            manner=v[MANNER],
            channel_hz=session.channel_hz,
        )
        return run, [*shelf.new, run]
    known = session.evidence.get(Run, v[RUN])
    if known is None:
        raise FieldError(RUN, "Choose the run that it is of.")
    return known, ()


def with_new(entry: Entry, new: Sequence[Record]) -> Entry:
    """An entry that keeps what is new by it too, in one act."""
    return replace(entry, records=[*new, *entry.records]) if new else entry


def _name(key: str, words: str, only: tuple[str, Sequence[Any]], initial: str = "") -> Field:
    return Field(key, words, NAME.read, NAME.echo, initial, "Shed Yagi", needed=True, only=only)
