"""How forms keep, correct and take out records; shared by every rung's forms."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from tallmast.notebook.entry import Entry, RawFile
from tallmast.notebook.records import Record
from tallmast.units import show
from tallmast.units.quantity import Quantity

from ..frame.tape import act_time, act_words
from ..session import Session
from .fields import Field, Shown

R = TypeVar("R", bound=Record)

REASON = Field("reason", "Why it is corrected", hint="misread the dial", initial="")


def reason_fields(existing: Record | None) -> list[Field]:
    """A field for the reason, when a record that was kept before is changed."""
    return [REASON] if existing is not None else []


def made(model: type[R], old: R | None, **values: Any) -> R:
    """A new record of some values; or the old one with them, where what a sheet has no field for stays as it was."""
    return model(**values) if old is None else old.revised(**values)


def keep(
    session: Session,
    words: str,
    record: Record,
    existing: Record | None,
    values: dict[str, Any],
    also: Sequence[Record] = (),
) -> bool:
    """Write a new record, or a correction of one with its reason."""
    if record == existing and not also:
        return True
    front = "Corrected: " if existing is not None else ""
    return session.write(Entry(f"{front}{words}", [record, *also], reason=values.get("reason") or None))


def remover(session: Session, existing: Record | None, words: str) -> Callable[[str], bool] | None:
    """Takes a record out of the notebook; the tape keeps it, and undo brings it back."""
    if existing is None:
        return None
    return lambda reason: session.write(Entry(f"Taken out: {words}", remove=[existing], reason=reason or None))


def history(session: Session, existing: Record | None) -> list[str]:
    """The life of a record, for the foot of its sheet."""
    if existing is None or session.notebook is None:
        return []
    life = session.notebook.revisions(existing.id)
    if len(life) < 2:
        return []
    return ["Its life: " + "; ".join(f"{act_time(act)} {act_words(act)}" for act, _ in life)]


def antenna_choices(session: Session) -> list[tuple[str, str]]:
    return [(a.id, a.name) for a in session.evidence.antennas]


def photo_entry(session: Session, file: RawFile) -> Entry | None:
    """A photo goes to the antenna in focus."""
    antenna = session.focus_antenna
    if antenna is None:
        return None
    changed = antenna.revised(photo_sha256=file.sha256)
    return Entry(f"{antenna.name}: photo {file.name}", [changed], raw=[file])


def text_of(value: Any, shown: Callable[[Any], str]) -> str:
    """The initial text of a field: what is known, as it would be shown."""
    return "" if value is None else Shown(shown(value).replace(show.MINUS, "-"), value)


def field_for(
    key: str,
    name: str,
    of: Quantity,
    value: Any = None,
    hint: str = "",
    needed: bool = False,
    only: tuple[str, Sequence[Any]] | None = None,
) -> Field:
    """A field for a quantity that no record declares, beginning with what is known of it."""
    return Field(key, name, of.read, of.echo, text_of(value, of.write), hint, needed, only=only)
